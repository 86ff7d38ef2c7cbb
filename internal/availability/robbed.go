package availability

import (
	"context"
	"fmt"
	"slices"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Hold is stock of an item that an order has reserved and that is not taken yet.
type Hold struct {
	OrderID  int64           `db:"order_id" json:"order_id"`
	Order    string          `db:"order_number" json:"order"`
	WantedOn string          `db:"wanted_on" json:"wanted_on"`
	ItemID   int32           `db:"item_id" json:"-"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
	// OnRound is true where part of it is on a round already.
	OnRound bool `db:"on_round" json:"on_round"`
}

// A Robbed order lacks so much of an item, in base units, while orders that are wanted later hold it.
type Robbed struct {
	OrderID  int64           `json:"order_id"`
	Order    string          `json:"order"`
	WantedOn string          `json:"wanted_on"`
	ItemID   int32           `json:"item_id"`
	SKU      string          `json:"sku"`
	Lacks    decimal.Decimal `json:"lacks"`
	// By are those that hold it, the one that is wanted last first, until what is lacking is held.
	By []Hold `json:"by"`
}

// Rob finds which promises of an item, those wanted first first, lack stock that holds of later
// orders have: free stock goes to the promises in their order, and each hold is blamed once.
func Rob(promises []Promise, free decimal.Decimal, holds []Hold) []Robbed {
	left := slices.Clone(holds)
	slices.SortStableFunc(left, func(a, b Hold) int {
		if (Promise{OrderID: a.OrderID, WantedOn: a.WantedOn}).Before(b.WantedOn, b.OrderID) {
			return 1
		}
		return -1
	})
	var out []Robbed
	for _, p := range promises {
		given := decimal.Min(p.Quantity, decimal.Max(free, decimal.Zero))
		free = free.Sub(given)
		r := Robbed{OrderID: p.OrderID, Order: p.Order, WantedOn: p.WantedOn, ItemID: p.ItemID, Lacks: p.Quantity.Sub(given)}
		lacking := r.Lacks
		for i := range left {
			h := &left[i]
			if !lacking.IsPositive() || !p.Before(h.WantedOn, h.OrderID) {
				break
			}
			taken := decimal.Min(lacking, h.Quantity)
			if !taken.IsPositive() {
				continue
			}
			blamed := *h
			blamed.Quantity = taken
			h.Quantity, lacking = h.Quantity.Sub(taken), lacking.Sub(taken)
			r.By = append(r.By, blamed)
		}
		if len(r.By) > 0 {
			out = append(out, r)
		}
	}
	return out
}

// RobbedAt lists the orders of a site that lack what orders wanted later hold, item by item.
func RobbedAt(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Robbed, error) {
	var items []struct {
		ID   int32
		SKU  string
		Free decimal.Decimal
	}
	err := sqlx.SelectContext(ctx, q, &items, `
		SELECT i.id, i.sku, coalesce((SELECT sum(b.quantity - b.reserved) FROM balances b JOIN locations p
		         ON p.id = b.location_id WHERE b.item_id = i.id AND p.site_id = $1 AND p.kind IN ('bin', 'dock')
		          AND b.condition = 'good'
		          AND NOT EXISTS (SELECT FROM carton_work w WHERE w.carton_id = b.carton_id)), 0) AS free
		  FROM items i WHERE EXISTS (SELECT FROM reservations x JOIN outbound_lines l ON l.id = x.line_id
		    JOIN outbound_orders o ON o.id = l.order_id WHERE l.item_id = i.id AND o.site_id = $1) ORDER BY i.sku`, site)
	if err != nil {
		return nil, fmt.Errorf("reading what is free: %w", err)
	}
	ids := make([]int32, len(items))
	for i, item := range items {
		ids[i] = item.ID
	}
	promises, err := Promises(ctx, q, site, ids, []int64{})
	if err != nil {
		return nil, err
	}
	holds, err := holdsAt(ctx, q, site)
	if err != nil {
		return nil, err
	}
	out := []Robbed{}
	for _, item := range items {
		for _, r := range Rob(promises[item.ID], item.Free, holds[item.ID]) {
			r.SKU = item.SKU
			out = append(out, r)
		}
	}
	return out, nil
}

// holdsAt reads what orders of a site have reserved, by item.
func holdsAt(ctx context.Context, q sqlx.QueryerContext, site int32) (map[int32][]Hold, error) {
	var rows []Hold
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT o.id AS order_id, o.number AS order_number, to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on, x.item_id,
		       sum(x.quantity) AS quantity, bool_or(t.stop_id IS NOT NULL) AS on_round
		  FROM reservations x JOIN outbound_lines l ON l.id = x.line_id JOIN outbound_orders o ON o.id = l.order_id
		  LEFT JOIN stop_reservations t ON t.reservation_id = x.id WHERE o.site_id = $1 GROUP BY o.id, x.item_id ORDER BY o.id`, site)
	if err != nil {
		return nil, fmt.Errorf("reading what is reserved: %w", err)
	}
	out := map[int32][]Hold{}
	for _, h := range rows {
		out[h.ItemID] = append(out[h.ItemID], h)
	}
	return out, nil
}
