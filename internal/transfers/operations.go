package transfers

import (
	"context"
	"net/http"

	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

type onTransfer struct {
	ID   int64 `path:"id"`
	Body struct {
		Version int32 `json:"version"`
	}
}

// Register adds the operations of transfers between sites.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/transfer-orders/{id}", "get-transfer-order", "A transfer between two sites",
		web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (Order, error) {
			return readOrder(ctx, db, in.ID)
		})
	web.Query(r, http.MethodPost, "/transfer-orders/preview", "preview-transfer-order",
		"What a transfer would leave at both sites", web.Office,
		func(ctx context.Context, in *struct{ Body New }) (Outlook, error) {
			return preview(ctx, db, in.Body, r.Runner.Now())
		})
	web.Command(r, "/transfer-orders", "create-transfer-order", "New transfer between two sites", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body New }) (Order, error) {
			return Create(ctx, tx, in.Body)
		})
	web.Command(r, "/transfer-orders/{id}/release", "release-transfer-order", "Release a transfer", web.Office,
		func(ctx context.Context, tx *command.Tx, in *onTransfer) (Order, error) {
			return Release(ctx, tx, in.ID, in.Body.Version)
		})
	web.Command(r, "/transfer-orders/{id}/hold", "hold-transfer-order", "Put a transfer on hold", web.Office,
		func(ctx context.Context, tx *command.Tx, in *onTransfer) (Order, error) {
			return PutOnHold(ctx, tx, in.ID, in.Body.Version)
		})
	web.Command(r, "/transfer-orders/{id}/cancel-open", "cancel-transfer-order", "Cancel what of a transfer is not shipped",
		web.Office,
		func(ctx context.Context, tx *command.Tx, in *onTransfer) (Order, error) {
			return CancelOpen(ctx, tx, in.ID, in.Body.Version)
		})
	registerCases(r)
	registerLists(r)
}

// registerCases adds differences between what was shipped and what came.
func registerCases(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/transfer-cases", "list-transfer-cases",
		"Differences between sites that nobody settled, the oldest first", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Case, error) {
			return readCases(ctx, db, `WHERE k.outcome IS NULL AND $1 IN (f.id, s.id) ORDER BY k.id`, in.Site)
		})
	web.Download(r, "/transfer-cases/export", "export-transfer-cases", "All cases from and to a site, as CSV or XLSX",
		exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Site   int32  `query:"site"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "differences", in.Format)(caseTable(readCases(ctx, from, `WHERE $1 IN (f.id, s.id) ORDER BY k.id`, in.Site)))
		})
	web.Query(r, http.MethodPost, "/transfer-cases/preview", "preview-open-case",
		"Whether what is told can be: it is in transit, and no case is about it yet", web.Inbound,
		func(ctx context.Context, in *struct{ Body NewCase }) (Case, error) {
			c, err := in.Body.read(ctx, db)
			c.Serials = append([]string{}, in.Body.Serials...)
			return c, err
		})
	web.Command(r, "/transfer-cases", "open-case", "Tell of a difference between what was shipped and what came", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body NewCase }) (Case, error) {
			return OpenCase(ctx, tx, in.Body)
		})
	web.Query(r, http.MethodPost, "/transfer-cases/{id}/settle/preview", "preview-settle-case", "What settling a case moves",
		web.Office,
		func(ctx context.Context, in *onCase) (*ledger.Plan, error) {
			plan, _, err := planCase(ctx, db, in.ID, in.Body)
			return plan, err
		})
	web.Command(r, "/transfer-cases/{id}/settle", "settle-case", "Settle a case", web.Office,
		func(ctx context.Context, tx *command.Tx, in *onCase) (Case, error) {
			return SettleCase(ctx, tx, in.ID, in.Body)
		})
}

type onCase struct {
	ID   int64 `path:"id"`
	Body Settling
}

// registerLists adds a site's transfers, and what is in transit, page by page and as files.
func registerLists(r *web.Router) {
	db := r.Reads
	type Whose struct {
		Site int32  `query:"site"`
		Open bool   `query:"open" doc:"Only those that are not over"`
		Sort string `query:"sort" enum:"number,from,to,wanted,expected,units,shipped,in_transit,received" default:"number"`
	}
	web.Query(r, http.MethodGet, "/transfer-orders", "list-transfer-orders", "Transfers from and to a site, page by page",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Whose
			documents.Asked
		}) (documents.Page[Order], error) {
			return transfers.Page(ctx, db, in.Sort, in.Asked, in.Site, in.Open)
		})
	web.Download(r, "/transfer-orders/export", "export-transfer-orders", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Whose
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "transfers", in.Format)(transfers.Table(ctx, from, in.Sort, in.Down, in.Site, in.Open))
		})
	type Sought struct {
		Site int32  `query:"site"`
		Sort string `query:"sort" enum:"order,shipment,from,to,item,quantity,since,expected" default:"since"`
	}
	web.Query(r, http.MethodGet, "/in-transit", "list-in-transit", "What is in transit from and to a site, page by page",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Sought
			documents.Asked
		}) (documents.Page[Transit], error) {
			return underWay.Page(ctx, db, in.Sort, in.Asked, in.Site)
		})
	web.Download(r, "/in-transit/export", "export-in-transit", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Sought
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "in-transit", in.Format)(underWay.Table(ctx, from, in.Sort, in.Down, in.Site))
		})
}
