package pick

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"

	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Robbed order is one that is wanted before those that are planned and is promised what they
// would take: so much of it could not go then.
type Robbed struct {
	OrderID  int64           `json:"order_id"`
	Order    string          `json:"order"`
	WantedOn string          `json:"wanted_on"`
	SKU      string          `json:"sku"`
	Quantity decimal.Decimal `json:"quantity"`
}

// promise is free stock that counts towards an order line.
type promise struct {
	OrderID  int64           `db:"order_id"`
	Order    string          `db:"order_number"`
	WantedOn string          `db:"wanted_on"`
	ItemID   int32           `db:"item_id"`
	Quantity decimal.Decimal `db:"quantity"`
}

// before tells whether the promise comes before a line that is planned.
func (x promise) before(l openLine) bool {
	return cmp.Or(cmp.Compare(x.WantedOn, l.WantedOn), cmp.Compare(x.OrderID, l.OrderID)) < 0
}

// robbed names the orders that stops would take promised stock from: those of the site that
// are open, not planned here, and wanted before the last line that takes free stock.
func (p *planner) robbed(ctx context.Context, q sqlx.QueryerContext, stops []ProposedStop) ([]Robbed, error) {
	taken := map[int32]decimal.Decimal{}
	last := map[int32]openLine{}
	for _, s := range stops {
		l := p.lines[s.LineID]
		if s.mine {
			continue
		}
		taken[s.ItemID] = taken[s.ItemID].Add(s.Quantity)
		if x, known := last[s.ItemID]; !known || cmp.Or(cmp.Compare(x.WantedOn, l.WantedOn),
			cmp.Compare(x.OrderID, l.OrderID)) < 0 {
			last[s.ItemID] = l
		}
	}
	items := slices.Sorted(maps.Keys(taken))
	promises, err := p.promises(ctx, q, items)
	if err != nil {
		return nil, err
	}
	figures, err := ledger.FiguresFor(ctx, q, items, p.site)
	if err != nil {
		return nil, err
	}
	out := []Robbed{}
	for _, item := range items {
		free := figures[item].Free.Add(figures[item].Promised)
		sku := last[item].SKU
		for _, x := range promises[item] {
			if !x.before(last[item]) {
				break
			}
			// What the promise has with the plan, and what it would have without.
			without := decimal.Min(x.Quantity, decimal.Max(free, decimal.Zero))
			with := decimal.Min(x.Quantity, decimal.Max(free.Sub(taken[item]), decimal.Zero))
			if without.GreaterThan(with) {
				out = append(out, Robbed{x.OrderID, x.Order, x.WantedOn, sku, without.Sub(with)})
			}
			free = free.Sub(x.Quantity)
		}
	}
	return out, nil
}

// promises are what the site's other open orders are promised of items, those wanted first
// first.
func (p *planner) promises(ctx context.Context, q sqlx.QueryerContext, items []int32) (map[int32][]promise, error) {
	planned := map[int64]bool{}
	for _, l := range p.lines {
		planned[l.OrderID] = true
	}
	var rows []promise
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT * FROM (
			SELECT o.id AS order_id, o.number AS order_number, to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on, l.item_id,
			       l.due - coalesce((SELECT sum(quantity) FROM reservations WHERE line_id = l.id), 0) AS quantity
			  FROM outbound_lines l JOIN outbound_orders o ON o.id = l.order_id
			 WHERE l.item_id = ANY($2) AND o.site_id = $1 AND o.state IN ('on_hold', 'released') AND l.due > 0
			   AND NOT o.id = ANY($3)) AS promised
		 WHERE quantity > 0 ORDER BY wanted_on, order_id`, p.site, items, slices.Collect(maps.Keys(planned)))
	if err != nil {
		return nil, fmt.Errorf("reading what is promised: %w", err)
	}
	out := map[int32][]promise{}
	for _, x := range rows {
		out[x.ItemID] = append(out[x.ItemID], x)
	}
	return out, nil
}
