package returns

import (
	"context"
	"net/http"

	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/invoicing"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

type onReturn[T any] struct {
	ID   int64 `path:"id"`
	Body T
}

type versioned struct {
	Version int32 `json:"version"`
}

type byID struct {
	ID int64 `path:"id"`
}

// Register adds the operations of returns.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/return-kinds", "list-return-kinds", "What a return may be", web.Everyone,
		func(ctx context.Context, _ *struct{}) ([]Kind, error) { return listKinds(ctx, db) })
	web.Query(r, http.MethodGet, "/return-reasons", "list-return-reasons", "Why customers send goods back", web.Everyone,
		func(ctx context.Context, _ *struct{}) ([]Reason, error) { return listReasons(ctx, db) })
	web.Query(r, http.MethodGet, "/returnable", "find-returnable",
		"What went to customers, and how much of it may still be returned", web.Everyone,
		func(ctx context.Context, in *struct {
			Words string `query:"q" minLength:"2" maxLength:"80" doc:"The number of a shipment, an order or an invoice, a serial, a lot, an item, or part of a customer's name"`
		}) ([]Sold, error) {
			return Find(ctx, db, in.Words, r.Runner.Now())
		})
	web.Query(r, http.MethodPost, "/returns/preview", "preview-return", "What would be announced", web.Office,
		func(ctx context.Context, in *struct{ Body New }) (Foresight, error) {
			return preview(ctx, db, in.Body, r.Runner.Now())
		})
	web.Command(r, "/returns", "announce-return", "Announce a return", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body New }) (Return, error) {
			return Create(ctx, tx, in.Body)
		})
	web.Query(r, http.MethodPost, "/returns/without-paper/preview", "preview-return-without-paper",
		"What would be taken without a paper", web.Lead,
		func(ctx context.Context, in *struct{ Body Unpapered }) (Foresight, error) {
			return previewUnpapered(ctx, db, in.Body, r.Runner.Now())
		})
	web.Command(r, "/returns/without-paper", "announce-return-without-paper", "Take goods back that no paper is known of",
		web.Lead, func(ctx context.Context, tx *command.Tx, in *struct{ Body Unpapered }) (Return, error) {
			return CreateUnpapered(ctx, tx, in.Body)
		})
	web.Query(r, http.MethodGet, "/returns/{id}", "get-return", "A return", web.Everyone,
		func(ctx context.Context, in *byID) (Return, error) { return Read(ctx, db, in.ID) })
	registerSteps(r)
	registerList(r)
	registerTells(r)
	registerSupplierCredits(r)
}

// registerSupplierCredits adds what suppliers credit for goods that went back to them.
func registerSupplierCredits(r *web.Router) {
	db := r.Reads
	type Whose struct {
		Site int32  `query:"site"`
		Open bool   `query:"open" doc:"Only those that are expected"`
		Sort string `query:"sort" enum:"since,supplier,item,expected" default:"since"`
	}
	web.Query(r, http.MethodGet, "/supplier-credits", "list-supplier-credits",
		"What suppliers credited, or are to, for goods that went back to them", web.Desk,
		func(ctx context.Context, in *struct {
			Whose
			documents.Asked
		}) (documents.Page[SupplierCredit], error) {
			return supplierCredits.Page(ctx, db, in.Sort, in.Asked, in.Site, in.Open)
		})
	web.DownloadFor(r, web.Desk, "/supplier-credits/export", "export-supplier-credits", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Whose
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "supplier-credits", in.Format)(supplierCredits.Table(ctx, from, in.Sort, in.Down, in.Site, in.Open))
		})
	web.Command(r, "/supplier-credits/{id}", "note-supplier-credit", "Note what a supplier credited", web.Accounts,
		func(ctx context.Context, tx *command.Tx, in *onReturn[NewSupplierCredit]) (SupplierCredit, error) {
			return NoteCredit(ctx, tx, in.ID, in.Body)
		})
}

// Told is what returns are told by, and since when.
type Told struct {
	Site int32  `query:"site"`
	By   string `query:"by" enum:"item,lot,customer,reason" default:"item"`
	Days int    `query:"days" minimum:"1" maximum:"1100" default:"90"`
}

// registerTells adds what the returns of a time tell, and the same as a file.
func registerTells(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/returns-told", "tell-returns",
		"What came back by item, lot, customer or reason, with its share of what was shipped", web.Everyone,
		func(ctx context.Context, in *struct{ Told }) (Tells, error) {
			return tell(ctx, db, in.Site, in.By, in.Days, r.Runner.Now())
		})
	web.Download(r, "/returns-told/export", "export-told-returns", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Told
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			told, err := tell(ctx, from, in.Site, in.By, in.Days, r.Runner.Now())
			return web.TableFile(ctx, "returns-by-"+in.By, in.Format)(told.table(), err)
		})
}

// registerSteps adds what is done to a return.
func registerSteps(r *web.Router) {
	db := r.Reads
	web.Command(r, "/returns/{id}/approve", "approve-return", "Let the goods of a return come", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *onReturn[versioned]) (Return, error) {
			return Approve(ctx, tx, in.ID, in.Body.Version)
		})
	web.Command(r, "/returns/{id}/withdraw", "withdraw-return", "Expect nothing more on a return", web.Office,
		func(ctx context.Context, tx *command.Tx, in *onReturn[versioned]) (Return, error) {
			return Withdraw(ctx, tx, in.ID, in.Body.Version)
		})
	web.Query(r, http.MethodPost, "/returns/{id}/decide/preview", "preview-decide-return",
		"Where goods that came back would go", web.Dock,
		func(ctx context.Context, in *onReturn[Verdict]) (*ledger.Plan, error) {
			d, err := planVerdict(ctx, db, in.ID, in.Body)
			if err != nil {
				return nil, err
			}
			return d.Plan, nil
		})
	web.Command(r, "/returns/{id}/decide", "decide-return", "Decide what becomes of goods that came back", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *onReturn[Verdict]) (Return, error) {
			return Decide(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/returns/{id}/repaired", "send-repaired", "Send goods that are repaired to their customer again", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *onReturn[struct {
			Version    int32 `json:"version"`
			DecisionID int64 `json:"decision_id"`
		}]) (Return, error) {
			return Repaired(ctx, tx, in.ID, in.Body.Version, in.Body.DecisionID)
		})
	web.Query(r, http.MethodGet, "/returns/{id}/creditable", "list-creditable",
		"Invoices of the customer that a return's goods may be credited against", web.Accounts,
		func(ctx context.Context, in *byID) ([]invoicing.Creditable, error) { return creditable(ctx, db, in.ID) })
	web.Query(r, http.MethodPost, "/returns/{id}/settle/preview", "preview-settle-return",
		"What the customer would get in money", web.Accounts,
		func(ctx context.Context, in *onReturn[Settling]) (*invoicing.ReturnPlan, error) {
			return planSettling(ctx, db, in.ID, in.Body, r.Runner.Now())
		})
	web.Command(r, "/returns/{id}/settle", "settle-return", "Give the customer the money for a return", web.Accounts,
		func(ctx context.Context, tx *command.Tx, in *onReturn[Settling]) (Return, error) {
			return Settle(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/returns/{id}/mail", "mail-return", "Mail a return's paper to its customer", web.Office,
		func(ctx context.Context, tx *command.Tx, in *byID) (Return, error) { return Mail(ctx, tx, in.ID) })
	web.Paper(r, "/returns/{id}/paper.pdf", "print-return", "A return's paper, to go into the carton",
		func(ctx context.Context, in *byID) (string, []byte, error) {
			o, pdf, err := paper(ctx, db, in.ID)
			return o.Number, pdf, err
		})
	web.Paper(r, "/returns/{id}/label.pdf", "print-return-label", "A return's label, to be stuck on the carton",
		func(ctx context.Context, in *byID) (string, []byte, error) { return printLabel(ctx, db, in.ID) })
}

// registerList adds a site's returns, page by page and as a file.
func registerList(r *web.Router) {
	db := r.Reads
	type Whose struct {
		Site int32  `query:"site"`
		Open bool   `query:"open" doc:"Only those that are not over"`
		Sort string `query:"sort" enum:"number,customer,kind,send_by,expected,received,decided" default:"number"`
	}
	web.Query(r, http.MethodGet, "/returns", "list-returns", "Returns to a site, page by page", web.Everyone,
		func(ctx context.Context, in *struct {
			Whose
			documents.Asked
		}) (documents.Page[Return], error) {
			return returned.Page(ctx, db, in.Sort, in.Asked, in.Site, in.Open)
		})
	web.Download(r, "/returns/export", "export-returns", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Whose
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "returns", in.Format)(returned.Table(ctx, from, in.Sort, in.Down, in.Site, in.Open))
		})
}
