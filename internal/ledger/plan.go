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
	// Site is where all of it is done, for whoever is told; 0 where that is not known.
	Site int32 `json:"-"`

	post []Move
}

// A MoveView is a move in words people use.
type MoveView struct {
	From       string          `json:"from"`
	To         string          `json:"to"`
	SKU        string          `json:"sku"`
	Item       string          `json:"item"`
	Lot        string          `json:"lot,omitempty"`
	Serials    []string        `json:"serials,omitempty"`
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

// Describe makes a plan of moves: what lies at both ends of each now, and then. Units
// that move alike one after another are shown as one move with their serials. What posting
// them would refuse is refused here: a Shortage.
func Describe(ctx context.Context, q sqlx.QueryerContext, moves []Move) (*Plan, error) {
	if err := check(ctx, q, moves, false); err != nil {
		return nil, err
	}
	return describe(ctx, q, moves)
}

// DescribeOnward is Describe of moves that take goods on towards whoever gets them, or in among what is free: goods
// that a recall holds are refused too, as posting them would be.
func DescribeOnward(ctx context.Context, q sqlx.QueryerContext, moves []Move) (*Plan, error) {
	if err := checkHolds(ctx, q, moves); err != nil {
		return nil, err
	}
	return Describe(ctx, q, moves)
}

// DescribeCarrying is Describe of moves off a dock or a trolley that take along what is reserved by
// hand.
func DescribeCarrying(ctx context.Context, q sqlx.QueryerContext, moves []Move) (*Plan, error) {
	if err := check(ctx, q, moves, true); err != nil {
		return nil, err
	}
	return describe(ctx, q, moves)
}

// DescribeFreed is Describe of moves before which whatever is reserved of their goods is freed. That there are as many
// is the caller's to check.
func DescribeFreed(ctx context.Context, q sqlx.QueryerContext, moves []Move) (*Plan, error) {
	return describe(ctx, q, moves)
}

func describe(ctx context.Context, q sqlx.QueryerContext, moves []Move) (*Plan, error) {
	plan := &Plan{post: moves, Moves: []MoveView{}, Changes: []Change{}, Notes: []string{}, Warnings: []string{}}
	alike, views := gathered(moves)
	from, to, items, lots := make([]int32, len(alike)), make([]int32, len(alike)), make([]int32,
		len(alike)), make([]*int64, len(alike))
	for i, m := range alike {
		from[i], to[i], items[i], lots[i] = m.From, m.To, m.Item, m.Lot
	}
	var rows []struct {
		MoveView
		LotCode *string `db:"lot_code"`
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT f.code AS "from", t.code AS "to", f.real AS fromreal, t.real AS toreal, i.sku, i.description AS item,
		       l.code AS lot_code,
		       coalesce((SELECT sum(quantity) FROM balances WHERE location_id = f.id AND item_id = i.id
		       AND quantity > 0), 0) AS frombefore,
		       coalesce((SELECT sum(quantity) FROM balances WHERE location_id = t.id AND item_id = i.id
		       AND quantity > 0), 0) AS tobefore
		  FROM unnest($1::int[], $2::int[], $3::int[], $4::bigint[]) WITH ORDINALITY AS m(from_id, to_id, item_id,
		    lot_id, n)
		  JOIN locations f ON f.id = m.from_id JOIN locations t ON t.id = m.to_id JOIN items i ON i.id = m.item_id
		  LEFT JOIN lots l ON l.id = m.lot_id ORDER BY m.n`, from, to, items, lots)
	if err != nil {
		return nil, fmt.Errorf("describing moves: %w", err)
	}
	if len(rows) != len(alike) {
		return nil, fmt.Errorf("describing moves: %d of %d name locations and items that are there", len(rows),
			len(alike))
	}
	type stock struct {
		location, item int32
	}
	moved := map[stock]decimal.Decimal{}
	for i, m := range alike {
		v := rows[i].MoveView
		v.Lot, v.Serials, v.Quantity = m.LotCode, views[i].Serials, views[i].Quantity
		if rows[i].LotCode != nil {
			v.Lot = *rows[i].LotCode
		}
		at, goes := stock{m.From, m.Item}, stock{m.To, m.Item}
		v.FromBefore = v.FromBefore.Add(moved[at])
		moved[at] = moved[at].Sub(v.Quantity)
		v.FromAfter = v.FromBefore.Sub(v.Quantity)
		v.ToBefore = v.ToBefore.Add(moved[goes])
		moved[goes] = moved[goes].Add(v.Quantity)
		v.ToAfter = v.ToBefore.Add(v.Quantity)
		plan.Moves = append(plan.Moves, v)
	}
	return plan, nil
}

// gathered puts moves of single units together that differ in their serials alone.
func gathered(moves []Move) (alike []Move, views []MoveView) {
	for _, m := range moves {
		if last := len(alike) - 1; last >= 0 && m.SerialCode != "" && len(views[last].Serials) > 0 &&
			alike[last].besides(m) {
			views[last].Serials = append(views[last].Serials, m.SerialCode)
			views[last].Quantity = views[last].Quantity.Add(m.Quantity)
			continue
		}
		v := MoveView{Quantity: m.Quantity}
		if m.SerialCode != "" {
			v.Serials = []string{m.SerialCode}
		}
		alike, views = append(alike, m), append(views, v)
	}
	return alike, views
}

// Same tells whether two lots, units or cartons are the same, or both none.
func Same(a, b *int64) bool { return a == nil && b == nil || a != nil && b != nil && *a == *b }

// besides tells whether two moves are the same but for their serials.
func (m Move) besides(o Move) bool {
	return m.Item == o.Item && m.From == o.From && m.To == o.To && m.FromState == o.FromState &&
		m.ToState == o.ToState && m.LotCode == o.LotCode &&
		Same(m.Lot, o.Lot) && Same(m.FromBox, o.FromBox) && Same(m.ToBox, o.ToBox)
}

// Figures are an item's stock at a site, in base units.
type Figures struct {
	// OnHand is all that lies at the site; InCartons the part that is taken into cartons for
	// orders already; OnHold the part outside of them that is not fit to go; Reserved the part
	// reserved for an order line; Promised what open order lines still want beyond that; Free
	// the rest, so that the five of them sum to OnHand.
	OnHand    decimal.Decimal `db:"on_hand" json:"on_hand"`
	InCartons decimal.Decimal `db:"in_cartons" json:"in_cartons"`
	OnHold    decimal.Decimal `db:"on_hold" json:"on_hold"`
	Reserved  decimal.Decimal `db:"reserved" json:"reserved"`
	Promised  decimal.Decimal `db:"promised" json:"promised"`
	Free      decimal.Decimal `db:"free" json:"free"`
	OnOrder   decimal.Decimal `db:"on_order" json:"on_order"`
}

// figures calculates what Figures says, for the items that the clause names. Each part is
// summed on its own before they meet.
const figures = `
	WITH s AS (
		SELECT b.item_id, sum(b.quantity) AS on_hand,
		       sum(b.quantity) FILTER (WHERE w.carton_id IS NOT NULL) AS in_cartons,
		       sum(b.quantity) FILTER (WHERE b.condition <> 'good' AND w.carton_id IS NULL) AS on_hold,
		       sum(b.reserved) AS reserved
		  FROM balances b JOIN locations p ON p.id = b.location_id LEFT JOIN carton_work w ON w.carton_id = b.carton_id
		 WHERE %[1]s AND p.site_id = $2 AND b.quantity > 0 GROUP BY 1),
	o AS (
		SELECT b.item_id, sum(b.due) AS due
		  FROM outbound_lines b JOIN outbound_orders d ON d.id = b.order_id
		 WHERE %[1]s AND d.site_id = $2 AND d.state IN ('on_hold', 'released')
		   AND b.quantity - b.cancelled - b.picked - b.shipped > 0 AND b.item_id IS NOT NULL GROUP BY 1),
	i AS (
		SELECT b.item_id, sum(b.quantity - b.received) AS on_order
		  FROM inbound_lines b JOIN inbound_orders d ON d.id = b.order_id
		 WHERE %[1]s AND d.site_id = $2 AND d.state IN ('placed', 'partly_received') AND NOT b.closed
		   AND b.item_id IS NOT NULL GROUP BY 1)
	SELECT item_id, coalesce(on_hand, 0) AS on_hand, coalesce(in_cartons, 0) AS in_cartons,
	       coalesce(on_hold, 0) AS on_hold, coalesce(reserved, 0) AS reserved,
	       coalesce(due, 0) - coalesce(reserved, 0) AS promised, coalesce(on_order, 0) AS on_order,
	       coalesce(on_hand, 0) - coalesce(in_cartons, 0) - coalesce(on_hold, 0) - coalesce(due, 0) AS free
	  FROM s FULL JOIN o USING (item_id) FULL JOIN i USING (item_id)`

type itemFigures struct {
	ItemID int32 `db:"item_id"`
	Figures
}

// FiguresOf calculates an item's figures at a site.
func FiguresOf(ctx context.Context, q sqlx.QueryerContext, item, site int32) (Figures, error) {
	all, err := figuresBy(ctx, q, "b.item_id = $1", item, site)
	return all[item], err
}

// FiguresFor calculates the figures of some items at a site. An item that is not in it has none
// but zeros.
func FiguresFor(ctx context.Context, q sqlx.QueryerContext, items []int32, site int32) (map[int32]Figures, error) {
	return figuresBy(ctx, q, "b.item_id = ANY($1)", items, site)
}

// FiguresAt calculates the figures of all items at a site. An item that is not in it has
// none but zeros.
func FiguresAt(ctx context.Context, q sqlx.QueryerContext, site int32) (map[int32]Figures, error) {
	return figuresBy(ctx, q, "$1::int = 0", 0, site)
}

func figuresBy(
	ctx context.Context, q sqlx.QueryerContext, where string, arg any, site int32,
) (map[int32]Figures, error) {
	var rows []itemFigures
	if err := sqlx.SelectContext(ctx, q, &rows, fmt.Sprintf(figures, where), arg, site); err != nil {
		return nil, fmt.Errorf("calculating figures: %w", err)
	}
	out := make(map[int32]Figures, len(rows))
	for _, r := range rows {
		out[r.ItemID] = r.Figures
	}
	return out, nil
}
