package ledger

import (
	"context"
	"fmt"

	"lanternrow/internal/core/posting"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A pool is stock of one kind that lies together: its units are not told apart.
type pool struct {
	location, item int32
	lot, carton    int64
	// lotCode names a lot that is not written yet.
	lotCode   string
	condition posting.Condition
}

// ends are the pools that a move of a lot takes from and adds to; 0 is no lot, or one that is not
// written yet.
func (m Move) ends(lot int64) (from, to pool) {
	id := func(p *int64) int64 {
		if p == nil {
			return 0
		}
		return *p
	}
	good := func(c posting.Condition) posting.Condition {
		if c == "" {
			return posting.Good
		}
		return c
	}
	kind := pool{item: m.Item, lot: lot}
	if lot == 0 {
		kind.lotCode = m.LotCode
	}
	from, to = kind, kind
	from.location, from.carton, from.condition = m.From, id(m.FromBox), good(m.FromState)
	to.location, to.carton, to.condition = m.To, id(m.ToBox), good(m.ToState)
	return from, to
}

// pooled is what the pool holds that a move takes from.
type pooled struct {
	Have     decimal.Decimal
	Reserved decimal.Decimal
	// Real is false outside, where stock is not counted.
	Real bool
	// Named is true where the move takes a unit that is reserved by name.
	Named bool
	// Lot is the lot that it lies as: 0 for none, for one that is not written yet, and for lots that
	// are known only from the way out on.
	Lot int64
}

// check refuses moves, one after another, that stock does not allow as it is now: a Shortage, as
// posting them would come to. It holds nothing, so that posting them may come to one still. Where
// they carry their reservations along, only what rounds have reserved stays behind.
func check(ctx context.Context, q sqlx.QueryerContext, moves []Move, carrying bool) error {
	held, err := readPools(ctx, q, moves, carrying)
	if err != nil {
		return err
	}
	moved, used := map[pool]decimal.Decimal{}, map[pool]decimal.Decimal{}
	for i, m := range moves {
		h := held[i]
		from, to := m.ends(h.Lot)
		have, reserved := h.Have.Add(moved[from]), h.Reserved.Sub(used[from])
		if m.Reservation != nil {
			used[from] = used[from].Add(m.Quantity)
			reserved = decimal.Zero
		}
		tied := m.Quantity.GreaterThan(have.Sub(reserved)) || h.Named && m.Reservation == nil
		if h.Real && tied {
			return &Shortage{shortage{Line: i, Location: m.From, Item: m.Item, Lot: m.Lot, Serial: m.Serial, Have: have,
				Asked: m.Quantity, Reserved: reserved}, m.Quantity.LessThanOrEqual(have)}
		}
		moved[from], moved[to] = moved[from].Sub(m.Quantity), moved[to].Add(m.Quantity)
	}
	return nil
}

// readPools reads what lies where moves take from, in their order.
func readPools(ctx context.Context, q sqlx.QueryerContext, moves []Move, carrying bool) ([]pooled, error) {
	n := len(moves)
	locations, items, conditions := make([]int32, n), make([]int32, n), make([]string, n)
	lots, codes, cartons, serials := make([]*int64, n), make([]string, n), make([]int64, n), make([]*int64, n)
	for i, m := range moves {
		from, _ := m.ends(0)
		locations[i], items[i], cartons[i], conditions[i] = from.location, from.item, from.carton, string(from.condition)
		lots[i], codes[i], serials[i] = m.Lot, m.LotCode, m.Serial
	}
	var out []pooled
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT p.real, l.lot,
		       m.serial IS NOT NULL AND NOT carries AND EXISTS (
		           SELECT FROM reservations r WHERE r.serial_id = m.serial) AS named,
		       coalesce(sum(b.quantity), 0) AS have, CASE WHEN carries THEN coalesce((
		           SELECT sum(r.quantity) FROM reservations r JOIN stop_reservations s ON s.reservation_id = r.id
		            WHERE r.location_id = m.location AND r.item_id = m.item AND coalesce(r.lot_id, 0) = l.lot
		              AND coalesce(r.carton_id, 0) = m.carton), 0)
		         ELSE coalesce(sum(b.reserved), 0) END AS reserved
		  FROM unnest($1::int[], $2::int[], $3::bigint[], $4::text[], $5::bigint[], $6::text[], $7::bigint[])
		       WITH ORDINALITY AS m(location, item, lot, code, carton, condition, serial, n)
		  JOIN locations p ON p.id = m.location JOIN items i ON i.id = m.item
		 CROSS JOIN LATERAL (SELECT $8 AND p.kind IN ('dock', 'trolley')) AS c(carries)
		 CROSS JOIN LATERAL (SELECT CASE WHEN i.tracking = 'lot_out' THEN 0 ELSE coalesce(m.lot, (
		       SELECT id FROM lots WHERE item_id = m.item AND code = m.code), 0) END) AS l(lot)
		  LEFT JOIN balances b ON p.real AND b.location_id = m.location AND b.item_id = m.item
		       AND coalesce(b.lot_id, 0) = l.lot
		       AND coalesce(b.carton_id, 0) = m.carton AND b.condition = m.condition
		 GROUP BY m.n, m.location, m.item, l.lot, m.carton, m.serial, p.real, carries ORDER BY m.n`,
		locations, items, lots, codes, cartons, conditions, serials, carrying)
	if err == nil && len(out) != n {
		err = fmt.Errorf("%d of %d name locations and items that are there", len(out), n)
	}
	if err != nil {
		return nil, fmt.Errorf("reading what moves take from: %w", err)
	}
	return out, nil
}
