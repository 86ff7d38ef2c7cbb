package invoicing

import (
	"context"

	"lanternrow/internal/core/pricing"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/database"

	"github.com/jmoiron/sqlx"
)

// Page is a page of a list of invoices.
type Page struct {
	Invoices []Invoice `json:"invoices"`
	Next     string    `json:"next" doc:"Where the next page begins; empty at the end"`
	documents.Totals
}

// sortKeys are what invoices can be sorted by.
var sortKeys = map[string]documents.SortKey{
	"number":   {Expr: "o.id::numeric", Type: "numeric"},
	"customer": {Expr: "lower(o.customer)", Type: "text"},
	"order":    {Expr: "o.order_number", Type: "text"},
	"shipment": {Expr: "o.shipment", Type: "text"},
	"made":     {Expr: "o.invoiced_on", Type: "text"},
	"terms":    {Expr: "lower(o.terms)", Type: "text"},
	"due":      {Expr: "o.due_on", Type: "text"},
	"net":      {Expr: "o.net", Type: "numeric"},
	"total":    {Expr: "o.total", Type: "numeric"},
}

// listed are the invoices of a site with these letters in their number, order, shipment
// or customer.
const listed = columns + `
	WHERE b.site_id = $1 AND ($2 = '' OR concat_ws(' ', b.number, s.order_number, s.shipment, p.name)
	  ILIKE '%' || $2 || '%')`

func pageInvoices(
	ctx context.Context, q sqlx.QueryerContext, site int32, text string, by documents.Sorting, limit int,
) (Page, error) {
	rows, next, totals, err := documents.ReadPage[Invoice](ctx, q, listed,
		[]any{site, database.LikeLiteral(text)}, by, limit, "net", "total")
	for i := range rows {
		rows[i].Lines, rows[i].Taxes = []Line{}, []pricing.Tax{}
	}
	return Page{rows, next, totals}, err
}

// invoiceTable is a list of invoices to be exported.
func invoiceTable(ctx context.Context, q sqlx.QueryerContext, site int32, text string) (exchange.Table, error) {
	t := exchange.Table{Header: []string{"number", "customer", "order", "shipment", "invoiced_on", "made_by", "terms",
		"due_on", "credits", "net", "total"}}
	page, err := pageInvoices(ctx, q, site, text, documents.Sorting{Key: sortKeys["number"], Down: true}, 100_000)
	for _, b := range page.Invoices {
		t.Rows = append(t.Rows, []string{b.Number, b.Customer, b.Order, b.Shipment, b.InvoicedOn, b.MadeBy, b.Terms,
			b.DueOn, b.CreditsNumber, b.Net.String(), b.Total.String()})
	}
	return t, err
}
