package audit

import (
	"context"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/counting"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/ledger"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// moves settle differences: what is missing goes to lost and found, what is there besides comes from it.
func (c *counted) moves(ctx context.Context, q sqlx.QueryerContext) ([]ledger.Move, error) {
	lost, err := catalog.LostAndFound(ctx, q)
	if err != nil {
		return nil, err
	}
	holds, err := ledger.ReadHolds(ctx, q, []int32{c.entry.ItemID})
	if err != nil {
		return nil, err
	}
	s := settling{entry: c.entry, lost: lost, holds: holds}
	var out []ledger.Move
	for _, d := range c.differences {
		if c.entry.Tracking != receiving.Serial {
			out = append(out, s.goods(c.kinds[d.Key], d.Delta))
			continue
		}
		units, err := serials.Find(ctx, q, c.entry.ItemID, append(d.Missing, d.Extra...))
		if err != nil {
			return nil, err
		}
		out = append(out, s.units(c.kinds[d.Key], d, units)...)
	}
	return out, nil
}

// settling makes the moves of an item that settle a count at a location.
type settling struct {
	entry Entry
	lost  int32
	holds ledger.Holds
}

// goods moves what is missing of a kind, or is there besides.
func (s settling) goods(k Kind, delta decimal.Decimal) ledger.Move {
	m := s.back(k)
	if delta.IsNegative() {
		m = s.away(k, k.Condition)
	}
	m.Quantity = delta.Abs()
	return m
}

// units moves the units of a kind that are missing, or are there besides.
func (s settling) units(k Kind, d counting.Difference, units map[string]serials.Unit) (out []ledger.Move) {
	one := func(m ledger.Move, u serials.Unit) ledger.Move {
		m.Serial, m.SerialCode, m.Quantity = &u.ID, u.Code, decimal.NewFromInt(1)
		return m
	}
	for _, code := range d.Missing {
		out = append(out, one(s.away(k, units[code].Condition), units[code]))
	}
	for _, code := range d.Extra {
		m := one(s.back(k), units[code])
		if s.holds.Takes(m) {
			m.ToState = posting.Recalled
		}
		out = append(out, m)
	}
	return out
}

func (s settling) away(k Kind, condition posting.Condition) ledger.Move {
	return ledger.Move{Item: s.entry.ItemID, Lot: k.LotID, From: s.entry.LocationID, FromBox: k.CartonID, FromState: condition,
		To: s.lost, ToState: condition}
}

// back brings goods of a kind. What a recall holds comes as recalled; and nothing waits for the rest of an order that
// did not come with it.
func (s settling) back(k Kind) ledger.Move {
	m := ledger.Move{Item: s.entry.ItemID, Lot: k.LotID, From: s.lost, To: s.entry.LocationID, ToBox: k.CartonID, ToState: k.Condition}
	switch {
	case s.holds.Takes(ledger.Move{Item: s.entry.ItemID, LotCode: k.Lot}):
		m.ToState = posting.Recalled
	case k.Condition == posting.Waiting:
		m.ToState = posting.Good
	case k.Condition == "":
		m.ToState = s.entry.restsAs()
	}
	return m
}
