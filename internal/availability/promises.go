package availability

import (
	"cmp"
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Promise is what an open order is promised of an item and has not reserved, in base units.
type Promise struct {
	OrderID  int64           `db:"order_id"`
	Order    string          `db:"order_number"`
	WantedOn string          `db:"wanted_on"`
	ItemID   int32           `db:"item_id"`
	Quantity decimal.Decimal `db:"quantity"`
}

// Before tells whether the promise comes before an order that is wanted on a day, YYYY-MM-DD.
func (p Promise) Before(wantedOn string, order int64) bool {
	return cmp.Or(cmp.Compare(p.WantedOn, wantedOn), cmp.Compare(p.OrderID, order)) < 0
}

// Promises are what the open orders of a site are promised of items, line by line, by item:
// those wanted first first. It leaves out the orders that are named.
func Promises(
	ctx context.Context, q sqlx.QueryerContext, site int32, items []int32, without []int64,
) (map[int32][]Promise, error) {
	var rows []Promise
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT * FROM (
			SELECT o.id AS order_id, o.number AS order_number, to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on, l.item_id,
			       l.due - coalesce((SELECT sum(quantity) FROM reservations WHERE line_id = l.id), 0) AS quantity
			  FROM outbound_lines l JOIN outbound_orders o ON o.id = l.order_id
			 WHERE l.item_id = ANY($2) AND o.site_id = $1 AND o.state IN ('on_hold', 'released') AND l.due > 0
			   AND NOT o.id = ANY($3)) AS promised
		 WHERE quantity > 0 ORDER BY wanted_on, order_id`, site, items, without)
	if err != nil {
		return nil, fmt.Errorf("reading what is promised: %w", err)
	}
	out := map[int32][]Promise{}
	for _, p := range rows {
		out[p.ItemID] = append(out[p.ItemID], p)
	}
	return out, nil
}
