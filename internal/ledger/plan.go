package ledger

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Plan is what an action will do: shown before it, carried out by it.
type Plan struct {
	Moves []MoveView `json:"moves"`
	// Changes are what becomes of figures and documents.
	Changes []Change `json:"changes"`
	// Notes are good to know; Warnings want a second look.
	Notes    []string `json:"notes"`
	Warnings []string `json:"warnings"`
	// Button says what the action will do, in words and numbers.
	Button string `json:"button"`

	post []Move
}

// A MoveView is a move in words people use.
type MoveView struct {
	From       string          `json:"from"`
	To         string          `json:"to"`
	SKU        string          `json:"sku"`
	Item       string          `json:"item"`
	Lot        string          `json:"lot,omitempty"`
	Quantity   decimal.Decimal `json:"quantity"`
	FromBefore decimal.Decimal `json:"from_before"`
	FromAfter  decimal.Decimal `json:"from_after"`
	ToBefore   decimal.Decimal `json:"to_before"`
	ToAfter    decimal.Decimal `json:"to_after"`
	// FromReal and ToReal are false for the outside, whose stock is not counted.
	FromReal bool `json:"from_real"`
	ToReal   bool `json:"to_real"`
}

// A Change is a figure before and after.
type Change struct {
	What   string `json:"what"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// Moves are the plan's moves as they will be posted.
func (p *Plan) MoveList() []Move { return p.post }

// Describe makes a plan of moves: what lies at both ends of each now, and then.
// lotCodes names lots that are not written yet, by the index of their move.
func Describe(ctx context.Context, q sqlx.QueryerContext, moves []Move, lotCodes map[int]string) (*Plan, error) {
	plan := &Plan{post: moves, Moves: []MoveView{}, Changes: []Change{}, Notes: []string{}, Warnings: []string{}}
	type stock struct {
		place, item int32
	}
	moved := map[stock]decimal.Decimal{}
	for i, m := range moves {
		var v struct {
			MoveView
			LotCode *string `db:"lot_code"`
		}
		err := sqlx.GetContext(ctx, q, &v, `
			SELECT f.code AS "from", t.code AS "to", f.real AS fromreal, t.real AS toreal, i.sku, i.description AS item, l.code AS lot_code,
			       coalesce((SELECT sum(quantity) FROM balances WHERE place_id = f.id AND item_id = i.id AND quantity > 0), 0) AS frombefore,
			       coalesce((SELECT sum(quantity) FROM balances WHERE place_id = t.id AND item_id = i.id AND quantity > 0), 0) AS tobefore
			  FROM places f, places t, items i LEFT JOIN lots l ON l.id = $4
			 WHERE f.id = $1 AND t.id = $2 AND i.id = $3`, m.From, m.To, m.Item, m.Lot)
		if err != nil {
			return nil, fmt.Errorf("describing a move: %w", err)
		}
		v.Lot = lotCodes[i]
		if v.LotCode != nil {
			v.Lot = *v.LotCode
		}
		v.Quantity = m.Quantity
		from, to := stock{m.From, m.Item}, stock{m.To, m.Item}
		v.FromBefore = v.FromBefore.Add(moved[from])
		moved[from] = moved[from].Sub(m.Quantity)
		v.FromAfter = v.FromBefore.Sub(m.Quantity)
		v.ToBefore = v.ToBefore.Add(moved[to])
		moved[to] = moved[to].Add(m.Quantity)
		v.ToAfter = v.ToBefore.Add(m.Quantity)
		plan.Moves = append(plan.Moves, v.MoveView)
	}
	return plan, nil
}

// Figures are an item's stock at a site, in base units.
type Figures struct {
	// Physical is all that lies at the site; InCartons the part that is taken for
	// orders already; Pinned the part tied to an order line; Promised what open
	// order lines still want beyond that; Free the rest.
	Physical  decimal.Decimal `db:"physical" json:"physical"`
	InCartons decimal.Decimal `db:"in_cartons" json:"in_cartons"`
	Pinned    decimal.Decimal `db:"pinned" json:"pinned"`
	Promised  decimal.Decimal `db:"promised" json:"promised"`
	Free      decimal.Decimal `db:"free" json:"free"`
	OnOrder   decimal.Decimal `db:"on_order" json:"on_order"`
}

// FiguresOf reckons an item's figures at a site.
func FiguresOf(ctx context.Context, q sqlx.QueryerContext, item, site int32) (Figures, error) {
	var f Figures
	err := sqlx.GetContext(ctx, q, &f, `
		WITH s AS (
			SELECT coalesce(sum(b.quantity), 0) AS physical,
			       coalesce(sum(b.quantity) FILTER (WHERE b.carton_id IS NOT NULL), 0) AS in_cartons,
			       coalesce(sum(b.quantity) FILTER (WHERE b.condition <> 'good'), 0) AS unfit,
			       coalesce(sum(b.pinned), 0) AS pinned
			  FROM balances b JOIN places p ON p.id = b.place_id
			 WHERE b.item_id = $1 AND p.site_id = $2 AND b.quantity > 0),
		o AS (
			SELECT coalesce(sum(l.quantity - l.planned - l.taken - l.sent), 0) AS promised
			  FROM sales_lines l JOIN sales_orders d ON d.id = l.order_id
			 WHERE l.item_id = $1 AND d.site_id = $2 AND d.state <> 'sent' AND l.planned + l.taken + l.sent < l.quantity),
		i AS (
			SELECT coalesce(sum(l.quantity - l.received), 0) AS on_order
			  FROM purchase_lines l JOIN purchase_orders d ON d.id = l.order_id
			 WHERE l.item_id = $1 AND d.site_id = $2 AND d.state IN ('placed', 'part in') AND NOT l.closed)
		SELECT physical, in_cartons, pinned, promised, on_order,
		       physical - in_cartons - unfit - pinned - promised AS free FROM s, o, i`, item, site)
	if err != nil {
		return f, fmt.Errorf("reckoning figures: %w", err)
	}
	return f, nil
}
