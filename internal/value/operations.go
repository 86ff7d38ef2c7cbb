package value

import (
	"context"
	"net/http"
	"time"

	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

// Register adds the operations of what stock is worth.
func Register(r *web.Router) {
	web.Query(r, http.MethodGet, "/value", "read-value", "What stock was worth at an instant, part by part", web.Desk,
		func(ctx context.Context, in *struct{ Asked }) (Sum, error) {
			return Read(ctx, r.Reports, in.Asked)
		})
	web.DownloadFor(r, web.Desk, "/value/export", "export-value", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Asked
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			s, err := Read(ctx, from, in.Asked)
			return web.TableFile(ctx, "value", in.Format)(s.table(in.By), err)
		})
	web.Query(r, http.MethodGet, "/value/changes", "read-value-changes",
		"What changed between two instants, by which kind of move, and day by day", web.Desk,
		func(ctx context.Context, in *struct{ Between }) (Changes, error) {
			return readChanges(ctx, r.Reports, in.Between)
		})
	web.Query(r, http.MethodGet, "/value/recosts", "list-recosts",
		"What goods turned out to cost more than when they came, by whose invoice, and where that was then", web.Desk,
		func(ctx context.Context, in *struct{ Entered }) ([]Entry, error) {
			return Entries(ctx, r.Reports, in.Entered, 0)
		})
}

// table is a sum as rows.
func (s Sum) table(by string) exchange.Table {
	out := exchange.Table{Header: []string{by, "sku", "quantity", "unit_cost", "value", "at"}}
	for _, r := range s.Rows {
		out.Rows = append(out.Rows, []string{r.Label, r.Item, r.Quantity.String(), r.UnitCost.String(), r.Value.StringFixed(2),
			s.At.UTC().Format(time.RFC3339)})
	}
	return out
}
