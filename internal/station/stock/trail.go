package stock

import (
	"context"

	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
)

// readTrail reads a page of a trail, with the orders that goods came on.
func readTrail(ctx context.Context, q sqlx.QueryerContext, ask ledger.Question) (ledger.Trail, error) {
	page, err := ledger.TrailOf(ctx, q, ask)
	if err != nil {
		return page, err
	}
	err = addOrders(ctx, q, page.Lines, func(l *ledger.TrailLine) (inbound.Came, *[]string) {
		return inbound.Came{Arrival: l.Document, SKU: l.SKU}, &l.Orders
	})
	return page, err
}

// readHistory reads a page of a site's moves, with the orders that goods came on.
func readHistory(
	ctx context.Context, q sqlx.QueryerContext, site int32, f ledger.Filter, by documents.Sorting, limit int,
) (ledger.HistoryPage, error) {
	page, err := ledger.History(ctx, q, site, f, by, limit)
	if err != nil {
		return page, err
	}
	err = addOrders(ctx, q, page.Lines, func(l *ledger.HistoryLine) (inbound.Came, *[]string) {
		return inbound.Came{Arrival: l.Document, SKU: l.SKU}, &l.Orders
	})
	return page, err
}

// addOrders adds to lines the orders that their goods came on; of says what came, and where
// the orders of it go.
func addOrders[L any](ctx context.Context, q sqlx.QueryerContext, lines []L, of func(*L) (inbound.Came, *[]string)) error {
	var arrivals []string
	for i := range lines {
		came, _ := of(&lines[i])
		arrivals = append(arrivals, came.Arrival)
	}
	known, err := inbound.OrdersOf(ctx, q, arrivals)
	for i := range lines {
		came, orders := of(&lines[i])
		*orders = known[came]
	}
	return err
}
