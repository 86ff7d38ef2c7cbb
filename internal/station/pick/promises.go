package pick

import (
	"cmp"
	"context"
	"maps"
	"slices"

	"lanternrow/internal/availability"
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
	promises, err := availability.Promises(ctx, q, p.site, items, p.orders())
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
			if !x.Before(last[item].WantedOn, last[item].OrderID) {
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

// orders are those that are planned.
func (p *planner) orders() []int64 {
	ids := make([]int64, 0, len(p.lines))
	for _, l := range p.lines {
		ids = append(ids, l.OrderID)
	}
	return ids
}
