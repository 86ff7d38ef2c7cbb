package demand

import (
	"context"
	"fmt"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

// Tie pins goods that are meant for a sales line to it, so far as it still wants them.
func Tie(ctx context.Context, tx *command.Tx, line int64, stock ledger.Stock, quantity decimal.Decimal) (decimal.Decimal, error) {
	var open decimal.Decimal
	err := tx.GetContext(ctx, &open, `
		SELECT coalesce((SELECT l.due - coalesce((SELECT sum(quantity) FROM pins WHERE line_id = l.id), 0) FROM outbound_lines l JOIN outbound_orders o ON o.id = l.order_id
		                  WHERE l.id = $1 AND o.state IN ('held', 'let go')), 0)`, line)
	if err != nil {
		return open, fmt.Errorf("reading an order line: %w", err)
	}
	amount := decimal.Min(open, quantity)
	if !amount.IsPositive() {
		return decimal.Zero, nil
	}
	_, err = ledger.Pin(ctx, tx, stock, line, amount)
	return amount, err
}

// held is stock of one kind in one place.
type held struct {
	place, item int32
	lot, carton int64
}

func heldBy(place, item int32, lot, carton *int64) held {
	id := func(p *int64) int64 {
		if p == nil {
			return 0
		}
		return *p
	}
	return held{place, item, id(lot), id(carton)}
}

// PostCarrying posts moves off a dock or a trolley. What is pinned to orders there goes
// along with its pins, once what is tied to nobody has gone.
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
	carried := map[held][]Pin{}
	for _, k := range keys {
		pins, err := loosenFor(ctx, tx, k, by[k])
		if err != nil {
			return err
		}
		carried[k] = pins
	}
	if _, err := ledger.Post(ctx, tx, h, moves); err != nil {
		return err
	}
	for _, k := range keys {
		if err := tieAgain(ctx, tx, by[k], carried[k]); err != nil {
			return err
		}
	}
	return nil
}

// loosenFor lets loose what of the pins by hand has to go along, and returns it.
func loosenFor(ctx context.Context, tx *command.Tx, k held, moves []ledger.Move) ([]Pin, error) {
	found, err := pins(ctx, tx, `WHERE x.place_id = $1 AND x.item_id = $2 AND coalesce(x.lot_id, 0) = $3 AND coalesce(x.carton_id, 0) = $4 AND t.id IS NULL AND p.kind IN ('dock', 'trolley') ORDER BY x.id`,
		k.place, k.item, k.lot, k.carton)
	if err != nil || len(found) == 0 {
		return nil, err
	}
	var free decimal.Decimal
	err = tx.GetContext(ctx, &free, `SELECT coalesce(sum(quantity - pinned), 0) FROM balances WHERE place_id = $1 AND item_id = $2 AND coalesce(lot_id, 0) = $3 AND coalesce(carton_id, 0) = $4 AND condition = 'good'`,
		k.place, k.item, k.lot, k.carton)
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
	var out []Pin
	// A unit that is pinned by name goes along when it goes.
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
			if err := Loosen(ctx, tx, p, amount); err != nil {
				return nil, err
			}
			need = need.Sub(amount)
			p.Quantity = amount
			out = append(out, p)
		}
	}
	return out, nil
}

// tieAgain pins goods where they are now, to whom they were pinned before.
func tieAgain(ctx context.Context, tx *command.Tx, moves []ledger.Move, pins []Pin) error {
	room := make([]decimal.Decimal, len(moves))
	for i, m := range moves {
		room[i] = m.Quantity
	}
	for _, p := range pins {
		left := p.Quantity
		for i := len(moves) - 1; i >= 0 && left.IsPositive(); i-- {
			m := moves[i]
			part := decimal.Min(left, room[i])
			if !part.IsPositive() || p.SerialID != nil && (m.Serial == nil || *m.Serial != *p.SerialID) {
				continue
			}
			if _, err := ledger.Pin(ctx, tx, ledger.Stock{Place: m.To, Item: m.Item, Lot: m.Lot, Serial: p.SerialID, Carton: m.ToBox}, p.LineID, part); err != nil {
				return err
			}
			room[i], left = room[i].Sub(part), left.Sub(part)
		}
	}
	return nil
}
