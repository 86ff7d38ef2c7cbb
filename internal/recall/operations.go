package recall

import (
	"context"
	"net/http"

	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

// Followed names what is followed.
type Followed struct {
	Source Source `path:"source" enum:"lot,serial,arrival,order,recall"`
	ID     int64  `path:"id"`
}

type onRecall[T any] struct {
	ID   int64 `path:"id"`
	Body T
}

// Register adds the operations of recalls.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/recalls", "list-recalls", "Recalls and drills, those that are open first", web.Everyone,
		func(ctx context.Context, _ *struct{}) ([]Recall, error) { return listRecalls(ctx, db) })
	web.Query(r, http.MethodGet, "/recalls/{id}", "get-recall", "A recall or a drill, with each lot and unit of it", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (WholeRecall, error) {
			return readWhole(ctx, db, in.ID)
		})
	web.Query(r, http.MethodPost, "/recalls/preview", "preview-recall", "What would be held, and who would be stopped", web.Lead,
		func(ctx context.Context, in *struct{ Body Begun }) (Foresight, error) {
			return foresee(ctx, db, in.Body)
		})
	web.Command(r, "/recalls", "begin-recall", "Call goods back, and hold what is left of them at every site; or begin a drill", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Begun }) (Recall, error) {
			return Begin(ctx, tx, in.Body)
		})
	web.Command(r, "/recalls/{id}/clear", "clear-recalled", "Let held goods go again, or scrap them", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *onRecall[Cleared]) (Recall, error) {
			return Clear(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/recalls/{id}/end", "end-recall", "End a recall or a drill, and keep what its page says", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
		}) (Recall, error) {
			return End(ctx, tx, in.ID)
		})
	web.Command(r, "/recalls/{id}/mail", "mail-recall", "Tell each customer by mail what it got of the goods", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
		}) (Told, error) {
			return Mail(ctx, tx, in.ID)
		})
	registerTraces(r)
	registerCustomers(r)
}

// registerTraces adds what became of goods, on a page and as files.
func registerTraces(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/traces/{source}/{id}", "trace-goods",
		"Where goods came from, where each of them is, who got the rest and what became of that", web.Everyone,
		func(ctx context.Context, in *Followed) (Trace, error) { return Follow(ctx, db, in.Source, in.ID) })
	web.Download(r, "/traces/{source}/{id}/export", "export-trace", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Followed
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			t, err := Follow(ctx, from, in.Source, in.ID)
			return web.TableFile(ctx, "recall", in.Format)(t.table(), err)
		})
	web.Download(r, "/traces/{source}/{id}/events", "export-events", "Every move of the goods as EPCIS 2.0 events, for trading partners",
		map[string]string{"jsonld": "application/ld+json"},
		func(ctx context.Context, from *sqlx.DB, in *Followed) (web.File, error) {
			body, err := events(ctx, from, in.Source, in.ID, r.Runner.Now())
			return web.File{Type: "application/ld+json", Display: `attachment; filename="recall.jsonld"`, Body: body}, err
		})
	web.Paper(r, "/traces/{source}/{id}/paper.pdf", "print-trace", "The same on paper",
		func(ctx context.Context, in *Followed) (string, []byte, error) {
			t, err := Follow(ctx, db, in.Source, in.ID)
			if err != nil {
				return "", nil, err
			}
			pdf, err := t.paper(r.Runner.Now())
			return "recall", pdf, err
		})
}

// registerCustomers adds the other way: what a customer got.
func registerCustomers(r *web.Router) {
	db := r.Reads
	type Whose struct {
		ID   int32  `path:"id"`
		Sort string `query:"sort" enum:"at,shipment,sku,lot,serial,quantity" default:"at"`
	}
	web.Query(r, http.MethodGet, "/customers/{id}/got", "list-what-a-customer-got",
		"What a customer got, with lots and units, page by page", web.Everyone,
		func(ctx context.Context, in *struct {
			Whose
			documents.Asked
		}) (documents.Page[Got], error) {
			return got.Page(ctx, db, in.Sort, in.Asked, in.ID)
		})
	web.Download(r, "/customers/{id}/got/export", "export-what-a-customer-got", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Whose
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "got", in.Format)(got.Table(ctx, from, in.Sort, in.Down, in.ID))
		})
}
