package reservation

import (
	"context"
	"fmt"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

// Reserve reserves goods for a line, so far as it still wants them, and returns how much
// that was, in base units. The line's order is held.
func Reserve(
	ctx context.Context, tx *command.Tx, line int64, stock ledger.Stock, quantity decimal.Decimal,
) (decimal.Decimal, error) {
	var open decimal.Decimal
	err := tx.GetContext(ctx, &open, `
		SELECT coalesce((SELECT l.due - coalesce((SELECT sum(quantity) FROM reservations WHERE line_id = l.id), 0)
		       FROM outbound_lines l JOIN outbound_orders o ON o.id = l.order_id
		                  WHERE l.id = $1 AND o.state IN ('on_hold', 'released')), 0)`, line)
	if err != nil {
		return open, fmt.Errorf("reading an order line: %w", err)
	}
	amount := decimal.Min(open, quantity)
	if !amount.IsPositive() {
		return decimal.Zero, nil
	}
	_, err = ledger.Reserve(ctx, tx, stock, line, amount)
	return amount, err
}

// held is stock of one kind in one location.
type held struct {
	location, item int32
	lot, carton    int64
}

func heldBy(location, item int32, lot, carton *int64) held {
	id := func(p *int64) int64 {
		if p == nil {
			return 0
		}
		return *p
	}
	return held{location, item, id(lot), id(carton)}
}

// PostCarrying posts moves off a dock or a trolley. What is reserved for orders there goes
// along with its reservations, once what is reserved for nobody has gone. Those orders are
// shared (HoldReservedAt).
func PostCarrying(ctx context.Context, tx *command.Tx, h ledger.Head, moves []ledger.Move) error {
	by := map[held][]ledger.Move{}
	var keys []held
	for _, m := range moves {
		k := heldBy(m.From, m.Item, m.Lot, m.FromBox)
		if by[k] == nil {
			keys = append(keys, k)
		}
		by[k] = append(by[k], m)
	}
	carried := map[held][]Reservation{}
	for _, k := range keys {
		reservations, err := unreserveFor(ctx, tx, k, by[k])
		if err != nil {
			return err
		}
		carried[k] = reservations
	}
	if _, err := ledger.Post(ctx, tx, h, moves); err != nil {
		return err
	}
	for _, k := range keys {
		if err := reserveAgain(ctx, tx, by[k], carried[k]); err != nil {
			return err
		}
	}
	return nil
}

// unreserveFor frees what of the reservations by hand has to go along, and returns it.
func unreserveFor(ctx context.Context, tx *command.Tx, k held, moves []ledger.Move) ([]Reservation, error) {
	found, err := reservations(ctx, tx, `
		WHERE x.location_id = $1 AND x.item_id = $2 AND coalesce(x.lot_id, 0) = $3 AND coalesce(x.carton_id, 0) = $4
		  AND t.stop_id IS NULL AND p.kind IN ('dock', 'trolley') ORDER BY x.id`,
		k.location, k.item, k.lot, k.carton)
	if err != nil || len(found) == 0 {
		return nil, err
	}
	var free decimal.Decimal
	err = tx.GetContext(ctx, &free, `
		SELECT coalesce(sum(quantity - reserved), 0) FROM balances WHERE location_id = $1 AND item_id = $2
		   AND coalesce(lot_id, 0) = $3 AND coalesce(carton_id, 0) = $4 AND condition = 'good'`,
		k.location, k.item, k.lot, k.carton)
	if err != nil {
		return nil, fmt.Errorf("reading what is free: %w", err)
	}
	need := free.Neg()
	named := map[int64]bool{}
	for _, m := range moves {
		need = need.Add(m.Quantity)
		if m.Serial != nil {
			named[*m.Serial] = true
		}
	}
	var out []Reservation
	// A unit that is reserved by name goes along when it goes.
	for pass := range 2 {
		for _, p := range found {
			mine := p.SerialID != nil && named[*p.SerialID]
			if mine != (pass == 0) || p.SerialID != nil && !mine {
				continue
			}
			amount := decimal.Min(need, p.Quantity)
			if mine {
				amount = p.Quantity
			}
			if !amount.IsPositive() {
				continue
			}
			if err := Unreserve(ctx, tx, p, amount); err != nil {
				return nil, err
			}
			need = need.Sub(amount)
			p.Quantity = amount
			out = append(out, p)
		}
	}
	return out, nil
}

// reserveAgain reserves goods where they are now, to whom they were reserved before.
func reserveAgain(ctx context.Context, tx *command.Tx, moves []ledger.Move, reservations []Reservation) error {
	room := make([]decimal.Decimal, len(moves))
	for i, m := range moves {
		room[i] = m.Quantity
	}
	for _, p := range reservations {
		left := p.Quantity
		for i := len(moves) - 1; i >= 0 && left.IsPositive(); i-- {
			m := moves[i]
			part := decimal.Min(left, room[i])
			if !part.IsPositive() || p.SerialID != nil && (m.Serial == nil || *m.Serial != *p.SerialID) {
				continue
			}
			if _, err := ledger.Reserve(ctx, tx, ledger.Stock{Location: m.To, Item: m.Item, Lot: m.Lot,
				Serial: p.SerialID, Carton: m.ToBox}, p.LineID, part); err != nil {
				return err
			}
			room[i], left = room[i].Sub(part), left.Sub(part)
		}
	}
	return nil
}
