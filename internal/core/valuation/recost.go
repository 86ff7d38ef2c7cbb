package valuation

import (
	"github.com/shopspring/decimal"

	"lanternrow/internal/core/refusal"
)

// Added says where it is now, by place, that goods turned out to have cost more than their crossings say (below zero
// less): more is by crossing, each from Outside, over all its goods. What is gone stands at Outside. It comes to what
// all places would be worth more had it been known when the goods came; parts are to Decimals, and come to the whole.
type Added func(crossings []Crossing, more map[int]decimal.Decimal) (map[int32]decimal.Decimal, error)

// AddedBy are the ways of valuing by their names.
var AddedBy = map[string]Added{"average": AddedByAverage, "fifo": AddedByLayers}

// AddedByAverage is Added by moving average: what goes takes its share of it along, as of all that is there, unless it
// goes at a cost of its own.
func AddedByAverage(crossings []Crossing, more map[int]decimal.Decimal) (map[int32]decimal.Decimal, error) {
	if err := mayAdd(crossings, more); err != nil {
		return nil, err
	}
	held, added := map[int32]decimal.Decimal{}, map[int32]decimal.Decimal{}
	for i, c := range crossings {
		brought := more[i]
		if c.From != Outside {
			left := held[c.From].Sub(c.Quantity)
			if left.IsNegative() {
				return nil, tooMuch(i, Flow{Quantity: c.Quantity.Neg()}, left)
			}
			taken := decimal.Zero
			if !c.Own {
				taken = added[c.From].Mul(c.Quantity).Div(held[c.From])
			}
			held[c.From], added[c.From] = left, added[c.From].Sub(taken)
			brought = brought.Add(taken)
			if left.IsZero() {
				added[Outside], added[c.From] = added[Outside].Add(added[c.From]), decimal.Zero
			}
		}
		if c.To != Outside {
			held[c.To] = held[c.To].Add(c.Quantity)
		}
		added[c.To] = added[c.To].Add(brought)
	}
	return settled(added, more), nil
}

// AddedByLayers is Added first in, first out: it is where the goods are that came by those crossings.
func AddedByLayers(crossings []Crossing, more map[int]decimal.Decimal) (map[int32]decimal.Decimal, error) {
	if err := mayAdd(crossings, more); err != nil {
		return nil, err
	}
	at, err := Layered(crossings)
	if err != nil {
		return nil, err
	}
	added := map[int32]decimal.Decimal{}
	for place, layers := range at {
		for _, l := range layers {
			if all, due := more[l.Crossing]; due {
				added[place] = added[place].Add(all.Mul(l.Quantity).Div(crossings[l.Crossing].Quantity))
			}
		}
	}
	return settled(added, more), nil
}

// mayAdd refuses crossings of nothing, and costs of one that brought nothing from Outside.
func mayAdd(crossings []Crossing, more map[int]decimal.Decimal) error {
	for i, c := range crossings {
		if !c.Quantity.IsPositive() || c.From == c.To {
			return refusal.New(refusal.NumberAbsurd, "crossings", "Crossing %d takes %s from place %d to %d. Take more than 0 to another.",
				i+1, c.Quantity, c.From, c.To)
		}
	}
	for i := range more {
		if i < 0 || i >= len(crossings) || crossings[i].From != Outside {
			return refusal.New(refusal.NumberAbsurd, "more", "Crossing %d is none of the %d that brought goods from outside.", i+1,
				len(crossings))
		}
	}
	return nil
}

// settled rounds the parts at all places to Decimals. What they leave of the whole is gone.
func settled(added map[int32]decimal.Decimal, more map[int]decimal.Decimal) map[int32]decimal.Decimal {
	out, gone := map[int32]decimal.Decimal{}, decimal.Zero
	for _, m := range more {
		gone = gone.Add(m)
	}
	for place, part := range added {
		if part = part.Round(Decimals); place != Outside && !part.IsZero() {
			out[place], gone = part, gone.Sub(part)
		}
	}
	if !gone.IsZero() {
		out[Outside] = gone
	}
	return out
}
