package inbound

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Line is one item of an inbound order, in base units. A line without an item is no
// stock, such as freight: nothing is received on it.
type Line struct {
	ID          int64           `db:"id" json:"id"`
	OrderID     int64           `db:"order_id" json:"order_id"`
	Order       string          `db:"order_number" json:"order"`
	Number      int             `db:"line" json:"line"`
	ItemID      int32           `db:"item_id" json:"item_id" doc:"0 for a non-stock line"`
	PackID      int32           `db:"pack_id" json:"pack_id" doc:"The pack it was ordered in; 0 for base units"`
	Covers      *int64          `db:"covers" json:"covers" doc:"The outbound line that it is meant for"`
	CoversOrder string          `db:"covers_order" json:"covers_order" doc:"The order of that line"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Tracking    string          `db:"tracking" json:"tracking"`
	Unit        string          `db:"unit" json:"unit"`
	Whole       bool            `db:"whole" json:"whole"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	InPack      decimal.Decimal `db:"-" json:"in_pack" doc:"The quantity, counted in the pack that it was ordered in"`
	Received    decimal.Decimal `db:"received" json:"received"`
	receiving.Allowance
	// Least closes the line, and no more than Most may come on it.
	Least decimal.Decimal `db:"-" json:"least"`
	Most  decimal.Decimal `db:"-" json:"most"`
	// A closed line expects nothing more; what was missing then is cancelled.
	Closed    bool            `db:"closed" json:"closed"`
	Cancelled decimal.Decimal `db:"cancelled" json:"cancelled"`
	// UnitCost is what a base unit costs as it comes, freight included; none where goods
	// bring their own cost.
	UnitCost *decimal.Decimal `db:"unit_cost" json:"-"`
	WeightKg decimal.Decimal  `db:"weight_kg" json:"-"`
	// Packs are what it may come in.
	Packs []catalog.Pack `db:"-" json:"packs"`
}

// Stock tells whether the line's goods are kept in stock.
func (l Line) Stock() bool { return l.ItemID != 0 }

// BaseUnit is the unit that the line counts.
func (l Line) BaseUnit() measure.Unit { return measure.Unit{Name: l.Unit, Whole: l.Whole} }

// After is what becomes of the line when so much in all came on it.
func (l Line) After(received decimal.Decimal) receiving.Settlement {
	return receiving.Incoming{Ordered: l.Quantity, Already: received, Allowance: l.Allowance,
		Unit: l.BaseUnit()}.Settle()
}

// Lines reads the lines of orders, order by order.
func Lines(ctx context.Context, q sqlx.QueryerContext, orders ...int64) ([]Line, error) {
	lines := []Line{}
	err := sqlx.SelectContext(ctx, q, &lines, `
		SELECT l.id, l.order_id, o.number AS order_number, l.line, coalesce(l.item_id, 0) AS item_id,
		       coalesce(i.sku, '') AS sku,
		       coalesce(nullif(l.text, ''), i.description) AS description, coalesce(i.tracking, 'none') AS tracking,
		       coalesce(i.base_unit, '') AS unit, coalesce(i.whole, false) AS whole,
		       coalesce(i.weight_kg, 0) AS weight_kg,
		       coalesce(l.pack_id, 0) AS pack_id, l.covers, coalesce(s.number, '') AS covers_order, l.quantity,
		       l.received,
		       l.unit_cost, l.short_pct, l.over_pct, l.closed, l.cancelled
		  FROM inbound_lines l JOIN inbound_orders o ON o.id = l.order_id LEFT JOIN items i ON i.id = l.item_id
		  LEFT JOIN outbound_lines x ON x.id = l.covers LEFT JOIN outbound_orders s ON s.id = x.order_id
		 WHERE l.order_id = ANY($1) ORDER BY l.order_id, l.line`, orders)
	if err != nil {
		return nil, fmt.Errorf("reading inbound lines: %w", err)
	}
	items := make([]int32, len(lines))
	for i, l := range lines {
		items[i] = l.ItemID
	}
	packs, err := catalog.PacksOf(ctx, q, items)
	if err != nil {
		return nil, err
	}
	for i := range lines {
		l := &lines[i]
		l.Least, l.Most = l.Bounds(l.Quantity, l.BaseUnit())
		if l.Packs = packs[l.ItemID]; l.Packs == nil {
			l.Packs = []catalog.Pack{}
		}
		l.InPack = l.Quantity
		for _, p := range l.Packs {
			if p.ID == l.PackID {
				l.InPack = l.Quantity.Div(p.Holds)
			}
		}
	}
	return lines, nil
}

// NewLine is a line as it is written: an item and how much of it in base units, or, without
// an item, a text that says a non-stock line.
type NewLine struct {
	Item     int32
	Text     string
	Pack     int32
	Quantity decimal.Decimal
	UnitCost *decimal.Decimal
	receiving.Allowance
	// Covers is the outbound line that it is meant for.
	Covers *int64
}

// AddLines writes further lines in one statement, and returns their ids in the same order.
// The order is held, or made in this transaction.
func AddLines(ctx context.Context, tx *command.Tx, order int64, lines []NewLine) ([]int64, error) {
	n := len(lines)
	items, packs, covers := make([]int32, n), make([]int32, n), make([]*int64, n)
	texts, quantities, costs := make([]string, n), make([]string, n), make([]*decimal.Decimal, n)
	shorts, overs := make([]string, n), make([]string, n)
	for i, l := range lines {
		items[i], packs[i], covers[i], costs[i] = l.Item, l.Pack, l.Covers, l.UnitCost
		texts[i], quantities[i] = strings.TrimSpace(l.Text), l.Quantity.String()
		shorts[i], overs[i] = l.Short.String(), l.Over.String()
	}
	ids := make([]int64, 0, n)
	err := tx.SelectContext(ctx, &ids, `
		WITH added AS (
			INSERT INTO inbound_lines (order_id, line, item_id, text, pack_id, quantity, unit_cost, short_pct, over_pct,
			                           covers)
			SELECT $1, (SELECT coalesce(max(line), 0) FROM inbound_lines WHERE order_id = $1) + n, nullif(item, 0), text,
			       nullif(pack, 0), quantity::numeric, cost, short::numeric, over::numeric, covers
			  FROM unnest($2::int[], $3::text[], $4::int[], $5::text[], $6::numeric[], $7::text[], $8::text[],
			              $9::bigint[]) WITH ORDINALITY AS t(item, text, pack, quantity, cost, short, over, covers, n)
			RETURNING id, line)
		SELECT id FROM added ORDER BY line`, order, items, texts, packs, quantities, costs, shorts, overs, covers)
	if err != nil {
		return nil, fmt.Errorf("writing inbound lines: %w", err)
	}
	return ids, nil
}

// ChangeLines changes how much of their items lines are for, and their texts, in one
// statement. Their order is held, and the caller has seen to it that no less is left than
// came.
func ChangeLines(ctx context.Context, tx *command.Tx, ids []int64, lines []NewLine) error {
	texts, packs, quantities := make([]string, len(lines)), make([]int32, len(lines)), make([]string, len(lines))
	for i, l := range lines {
		texts[i], packs[i], quantities[i] = strings.TrimSpace(l.Text), l.Pack, l.Quantity.String()
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE inbound_lines l
		   SET text = t.text, pack_id = nullif(t.pack, 0), quantity = t.quantity::numeric
		  FROM unnest($1::bigint[], $2::text[], $3::int[], $4::text[]) AS t(id, text, pack, quantity)
		 WHERE l.id = t.id`, ids, texts, packs, quantities)
	if err != nil {
		return fmt.Errorf("changing inbound lines: %w", err)
	}
	return nil
}

// RemoveLine takes a line off its order, and what belongs to it with it. The order is held;
// the database refuses a line that anything came on.
func RemoveLine(ctx context.Context, tx *command.Tx, id int64) error {
	if _, err := tx.ExecContext(ctx, `DELETE FROM inbound_lines WHERE id = $1`, id); err != nil {
		return fmt.Errorf("removing an inbound line: %w", err)
	}
	return nil
}
