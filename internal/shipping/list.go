package shipping

import (
	"context"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/database"

	"github.com/jmoiron/sqlx"
)

// Page is a page of a list of shipments.
type Page struct {
	Shipments []Shipment `json:"shipments"`
	Next      string     `json:"next" doc:"Where the next page begins; empty at the end"`
	documents.Totals
}

// SortKeys are what shipments can be sorted by.
var SortKeys = map[string]documents.SortKey{
	"number":   {Expr: "o.id::numeric", Type: "numeric"},
	"order":    {Expr: "o.order_number", Type: "text"},
	"customer": {Expr: "lower(o.customer)", Type: "text"},
	"carrier":  {Expr: "lower(o.carrier)", Type: "text"},
	"state":    {Expr: "o.state", Type: "text"},
	"rate":     {Expr: "coalesce(o.rate, 0)", Type: "numeric"},
	"tracking": {Expr: "o.tracking", Type: "text"},
	"vehicle":  {Expr: "o.load", Type: "text"},
	"invoiced": {Expr: "o.invoiced", Type: "text"},
}

// listed are the shipments of a site with these letters in their number, order, customer
// or tracking number.
const listed = columns + `
	WHERE d.site_id = $1 AND ($2 = '' OR d.number LIKE upper($2) || '%' OR o.number LIKE upper($2) || '%'
	  OR o.recipient ILIKE '%' || $2 || '%' OR d.tracking LIKE $2 || '%')`

// List reads a page of a site's shipments.
func List(
	ctx context.Context, q sqlx.QueryerContext, site int32, text string, by documents.Sorting, limit int,
) (Page, error) {
	rows, next, totals, err := documents.ReadPage[Shipment](ctx, q, listed,
		[]any{site, database.LikeLiteral(text)}, by, limit)
	for i := range rows {
		rows[i].Cartons = []cartons.Carton{}
	}
	return Page{rows, next, totals}, err
}

// Table is a list of shipments to be exported.
func Table(ctx context.Context, q sqlx.QueryerContext, site int32, text string) (exchange.Table, error) {
	t := exchange.Table{Money: []string{"rate"}, Header: []string{"number", "state", "order", "customer", "carrier", "shipped_at", "shipped_by",
		"tracking", "rate", "vehicle", "invoiced"}}
	page, err := List(ctx, q, site, text, documents.Sorting{Key: SortKeys["number"], Down: true}, 100_000)
	for _, d := range page.Shipments {
		rate := ""
		if d.Rate != nil {
			rate = d.Rate.String()
		}
		t.Rows = append(t.Rows, []string{d.Number, string(d.State), d.Order, d.Customer, d.Carrier,
			d.ShippedAt.UTC().Format(time.RFC3339), d.ShippedBy, d.Tracking, rate, d.Load, d.Invoiced})
	}
	return t, err
}
