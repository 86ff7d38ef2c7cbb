package value

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/valuation"
	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// history is what of an item came to places and went, in order.
type history struct {
	item      int32
	moves     []int64
	entered   []time.Time
	crossings []valuation.Crossing
	// later is by crossing what its goods turned out to cost more, and when that was entered.
	later map[int][]later
}

type later struct {
	at   time.Time
	each decimal.Decimal
}

// more is by how much a unit that came by a crossing was known by an instant to cost more than that says.
func (h history) more(came int, by time.Time) (sum decimal.Decimal) {
	for _, l := range h.later[came] {
		if !l.at.After(by) {
			sum = sum.Add(l.each)
		}
	}
	return sum
}

// readHistories reads what came and went of each item until an instant.
func readHistories(ctx context.Context, q sqlx.QueryerContext, until time.Time) (out []history, err error) {
	var rows []struct {
		ID      int64
		Item    int32     `db:"item_id"`
		Entered time.Time `db:"entered_at"`
		valuation.Crossing
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT c.id, c.item_id, c.entered_at, c."from", c."to", c.quantity, c.unit_cost AS unitcost
		  FROM (`+ledger.Crossings+`) AS c WHERE c.entered_at <= $1 ORDER BY c.item_id, c.id`, until); err != nil {
		return nil, fmt.Errorf("reading what came and went: %w", err)
	}
	type place struct{ history, crossing int }
	where := make(map[int64]place, len(rows))
	for i, r := range rows {
		if i == 0 || rows[i-1].Item != r.Item {
			out = append(out, history{item: r.Item, later: map[int][]later{}})
		}
		h := &out[len(out)-1]
		where[r.ID] = place{len(out) - 1, len(h.moves)}
		h.moves, h.entered, h.crossings = append(h.moves, r.ID), append(h.entered, r.Entered), append(h.crossings, r.Crossing)
	}
	var entries []struct {
		Move    int64     `db:"move_id"`
		Entered time.Time `db:"entered_at"`
		Amount  decimal.Decimal
	}
	if err := sqlx.SelectContext(ctx, q, &entries, `
		SELECT x.move_id, r.entered_at, x.amount FROM recost_moves x JOIN recosts r ON r.id = x.recost_id
		 WHERE r.entered_at <= $1 ORDER BY r.id`, until); err != nil {
		return nil, fmt.Errorf("reading what goods turned out to cost: %w", err)
	}
	for _, e := range entries {
		at := where[e.Move]
		h := out[at.history]
		h.later[at.crossing] = append(h.later[at.crossing], later{e.Entered, e.Amount.Div(h.crossings[at.crossing].Quantity)})
	}
	return out, nil
}

// layered values each item by its layers, which it takes along between sites, at what they were known to cost then.
func layered(ctx context.Context, q sqlx.QueryerContext, at time.Time) (map[key]decimal.Decimal, error) {
	all, err := readHistories(ctx, q, at)
	if err != nil {
		return nil, err
	}
	return worthAt(all, at)
}

// worthAt is what histories came to by an instant.
func worthAt(all []history, at time.Time) (map[key]decimal.Decimal, error) {
	out := map[key]decimal.Decimal{}
	for _, h := range all {
		var known []valuation.Crossing
		for i, c := range h.crossings {
			if !h.entered[i].After(at) {
				c.UnitCost = c.UnitCost.Add(h.more(i, at))
				known = append(known, c)
			}
		}
		places, err := valuation.Layered(known)
		if err != nil {
			return nil, err
		}
		for place, layers := range places {
			_, value := valuation.Worth(layers)
			out[key{h.item, place}] = value.Round(2)
		}
	}
	return out, nil
}

// carried is what the moves of histories carried, first in, first out, each at what its goods were known to cost when they
// went.
func carried(all []history) (moves []int64, values []string, err error) {
	for _, h := range all {
		worth, err := valuation.Carried(h.crossings, func(came, at int) decimal.Decimal { return h.more(came, h.entered[at]) })
		if err != nil {
			return nil, nil, err
		}
		for i, v := range worth {
			moves, values = append(moves, h.moves[i]), append(values, v.String())
		}
	}
	return moves, values, nil
}
