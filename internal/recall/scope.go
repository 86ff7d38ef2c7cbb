// Package recall follows goods by their lots and units: where they came from, where every one of them is now, who got
// the rest, and what came of that, in numbers that add up. It holds what is left of them, and lets it go again.
package recall

import (
	"context"
	"fmt"

	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Source is what a recall begins from.
type Source string

// The sources there are.
const (
	OfLot     Source = "lot"
	OfSerial  Source = "serial"
	OfArrival Source = "arrival"
	OfOrder   Source = "order"
	OfRecall  Source = "recall"
)

// scope is which lots and units are followed.
type scope struct {
	// From is what it began from, in words.
	From    string
	lots    []int64
	serials []int64
	// pooled are items of which nothing tells what came with the source apart.
	pooled []Pooled
}

// Pooled is goods that cannot be followed: the item is not known by lots or units here.
type Pooled struct {
	ItemID   int32           `db:"item_id" json:"item_id"`
	SKU      string          `db:"sku" json:"sku"`
	Item     string          `db:"item" json:"item"`
	Unit     string          `db:"unit" json:"unit"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity" doc:"How much of it came"`
}

// readScope reads which goods a source is about.
func readScope(ctx context.Context, q sqlx.QueryerContext, of Source, id int64) (s scope, err error) {
	switch of {
	case OfLot:
		s.lots = []int64{id}
		err = sqlx.GetContext(ctx, q, &s.From, `
			SELECT 'lot ' || l.code || ' of ' || i.sku FROM lots l JOIN items i ON i.id = l.item_id WHERE l.id = $1`, id)
	case OfSerial:
		s.serials = []int64{id}
		err = sqlx.GetContext(ctx, q, &s.From, `
			SELECT 'serial ' || u.code || ' of ' || i.sku FROM serials u JOIN items i ON i.id = u.item_id WHERE u.id = $1`, id)
	case OfArrival:
		err = sqlx.GetContext(ctx, q, &s.From, `SELECT 'arrival ' || number FROM arrivals WHERE id = $1`, id)
	case OfOrder:
		err = sqlx.GetContext(ctx, q, &s.From, `
			SELECT 'purchase order ' || number FROM inbound_orders WHERE id = $1 AND kind = 'purchase'`, id)
	default:
		return readRecalled(ctx, q, id)
	}
	if err != nil {
		return s, documents.Found(err, string(of), fmt.Sprint(id))
	}
	if of == OfArrival || of == OfOrder {
		err = s.readBrought(ctx, q, of, id)
	}
	return s, err
}

// readBrought reads what an arrival or an order brought.
func (s *scope) readBrought(ctx context.Context, q sqlx.QueryerContext, of Source, id int64) error {
	where := map[Source]string{OfArrival: "r.arrival_id = $1", OfOrder: "b.order_id = $1"}[of]
	received := `FROM receipts r JOIN moves m ON m.id = r.move_id JOIN inbound_lines b ON b.id = r.line_id
		 WHERE r.undone_at IS NULL AND ` + where
	if err := sqlx.SelectContext(ctx, q, &s.lots, `SELECT DISTINCT m.lot_id `+received+` AND m.lot_id IS NOT NULL ORDER BY 1`,
		id); err != nil {
		return fmt.Errorf("reading the lots that came: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &s.serials, `SELECT DISTINCT m.serial_id `+received+` AND m.serial_id IS NOT NULL ORDER BY 1`,
		id); err != nil {
		return fmt.Errorf("reading the units that came: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &s.pooled, `
		SELECT i.id AS item_id, i.sku, i.description AS item, i.base_unit AS unit, t.quantity
		  FROM (SELECT m.item_id, sum(m.quantity) AS quantity `+received+` AND m.lot_id IS NULL AND m.serial_id IS NULL
		         GROUP BY 1) AS t JOIN items i ON i.id = t.item_id ORDER BY i.sku`, id); err != nil {
		return fmt.Errorf("reading what came besides: %w", err)
	}
	return nil
}

// readRecalled reads the goods of a recall that was begun.
func readRecalled(ctx context.Context, q sqlx.QueryerContext, id int64) (s scope, err error) {
	if err := sqlx.GetContext(ctx, q, &s.From, `SELECT source FROM recalls WHERE id = $1`, id); err != nil {
		return s, documents.Found(err, "recall", fmt.Sprint(id))
	}
	if err := sqlx.SelectContext(ctx, q, &s.lots, `
		SELECT lot_id FROM recall_goods WHERE recall_id = $1 AND lot_id IS NOT NULL ORDER BY 1`, id); err != nil {
		return s, fmt.Errorf("reading the lots of a recall: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &s.serials, `
		SELECT serial_id FROM recall_goods WHERE recall_id = $1 AND serial_id IS NOT NULL ORDER BY 1`, id); err != nil {
		return s, fmt.Errorf("reading the units of a recall: %w", err)
	}
	return s, nil
}

// needsGoods refuses a source of which nothing can be followed.
func (s scope) needsGoods() error {
	if len(s.lots)+len(s.serials) > 0 {
		return nil
	}
	return refusal.New(refusal.RecallEmpty, "",
		"Nothing that came with %s is known by lots or units, so that nothing of it can be recalled. Count and hold its items instead.",
		s.From).Of(refusal.Conflict)
}

// toldOnTheWayOut tells whether the lots or units of an item are known from the way out on alone: what is here is not
// told apart by them.
func toldOnTheWayOut(tracking string) bool {
	return tracking == receiving.LotOut || tracking == receiving.SerialOut
}
