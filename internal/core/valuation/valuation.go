// Package valuation values goods by the moves that brought them in and took them out, in
// the order in which they were entered. What comes in brings its cost; what goes out takes
// along what its method says.
package valuation

import (
	"github.com/shopspring/decimal"

	"lanternrow/internal/core/refusal"
)

// Decimals is how fine a unit cost is kept.
const Decimals = 6

// A Flow is goods that come to where they are valued, or go: Quantity is in base units and
// below zero for what goes. UnitCost is per base unit: what came costs that, and what goes
// carries it on; a method that says itself what goes does not look at it.
type Flow struct {
	Quantity decimal.Decimal `json:"quantity"`
	UnitCost decimal.Decimal `json:"unit_cost"`
}

// A Layer is goods that came at one cost and are not gone.
type Layer struct {
	Quantity decimal.Decimal `json:"quantity"`
	UnitCost decimal.Decimal `json:"unit_cost"`
	// Crossing is the one that brought them, of those that were layered.
	Crossing int `json:"-"`
}

// A Value is what is there after all flows, what it is worth, and what went cost.
type Value struct {
	Quantity decimal.Decimal `json:"quantity"`
	Value    decimal.Decimal `json:"value"`
	// Gone is the cost of all that went.
	Gone decimal.Decimal `json:"gone"`
}

// FIFO values by layers, the first in the first out (IAS 2.27, "first-in, first-out"). It
// returns the layers that are left, the oldest first, with their value. More going out than
// there is is refused.
func FIFO(flows []Flow) (Value, []Layer, error) {
	var v Value
	layers := []Layer{}
	for i, f := range flows {
		if v.Quantity = v.Quantity.Add(f.Quantity); v.Quantity.IsNegative() {
			return v, nil, tooMuch(i, f, v.Quantity)
		}
		if f.Quantity.IsPositive() {
			layers = append(layers, Layer{Quantity: f.Quantity, UnitCost: f.UnitCost})
			v.Value = v.Value.Add(f.Quantity.Mul(f.UnitCost))
			continue
		}
		var taken []Layer
		taken, layers, _ = take(layers, f.Quantity.Neg())
		_, cost := Worth(taken)
		v.Value, v.Gone = v.Value.Sub(cost), v.Gone.Add(cost)
	}
	return v, layers, nil
}

// An Average is the moving average of goods as they come and go, kept to Decimals (IAS 2.27,
// "weighted average cost ... as each additional shipment is received"). Its zero value is
// that of nothing yet.
type Average struct {
	Quantity decimal.Decimal
	UnitCost decimal.Decimal
	known    bool
}

// Add lets goods come or go. What goes leaves the average as it is, unless it carries another
// cost: a receipt that is taken back at what it came for takes its share of the average back.
func (a *Average) Add(f Flow) {
	before := a.Quantity
	a.Quantity = before.Add(f.Quantity)
	switch {
	case !a.known:
		a.UnitCost, a.known = f.UnitCost, true
	case !a.Quantity.IsZero() && !f.UnitCost.Equal(a.UnitCost):
		sum := before.Mul(a.UnitCost).Add(f.Quantity.Mul(f.UnitCost))
		a.UnitCost = decimal.Max(decimal.Zero, sum.DivRound(a.Quantity, Decimals))
	}
}

// Recost lets what is there be worth so much more, or less.
func (a *Average) Recost(value decimal.Decimal) {
	if a.Quantity.IsPositive() {
		sum := a.Quantity.Mul(a.UnitCost).Add(value)
		a.UnitCost = decimal.Max(decimal.Zero, sum.DivRound(a.Quantity, Decimals))
	}
}

// MovingAverage values by the average after each receipt, and returns the average that
// stands last. More going out than there is is refused.
func MovingAverage(flows []Flow) (v Value, average decimal.Decimal, err error) {
	var a Average
	for i, f := range flows {
		if a.Add(f); a.Quantity.IsNegative() {
			return v, a.UnitCost, tooMuch(i, f, a.Quantity)
		}
		if f.Quantity.IsNegative() {
			v.Gone = v.Gone.Sub(f.Quantity.Mul(f.UnitCost))
		}
	}
	v.Quantity, v.Value = a.Quantity, a.Quantity.Mul(a.UnitCost)
	return v, a.UnitCost, nil
}

func tooMuch(i int, f Flow, left decimal.Decimal) error {
	return refusal.New(refusal.NotEnough, "flows", "Flow %d takes %s, %s more than there is.", i+1, f.Quantity.Neg(),
		left.Neg())
}
