package valuation

import (
	"github.com/shopspring/decimal"
)

// Outside is the place of goods that are not ours.
const Outside int32 = -1

// A Crossing is goods that go from one place that is valued by itself to another, or come from Outside, or go there.
// UnitCost is what the move carried, per base unit; Own tells that it went at that cost whatever there was on average,
// as a receipt does that is taken back.
type Crossing struct {
	From     int32           `json:"from"`
	To       int32           `json:"to"`
	Quantity decimal.Decimal `json:"quantity"`
	UnitCost decimal.Decimal `json:"unit_cost"`
	Own      bool            `json:"own"`
}

// Layered are the layers that are left at each place after all crossings, the oldest first: what goes on to another
// place of ours takes its layers along, so that a move between two sites makes no value. More going than there is is
// refused.
func Layered(crossings []Crossing) (map[int32][]Layer, error) {
	return layered(crossings, func(int, []Layer) {})
}

// Carried is what each crossing carried, first in, first out. More is by how much a unit that came by one crossing (the
// first argument) was known to cost more than that says by the time of another.
func Carried(crossings []Crossing, more func(came, at int) decimal.Decimal) ([]decimal.Decimal, error) {
	out := make([]decimal.Decimal, len(crossings))
	_, err := layered(crossings, func(i int, taken []Layer) {
		for _, l := range taken {
			out[i] = out[i].Add(l.Quantity.Mul(l.UnitCost.Add(more(l.Crossing, i))))
		}
	})
	return out, err
}

// layered is Layered, and tells of each crossing which layers went by it.
func layered(crossings []Crossing, went func(crossing int, taken []Layer)) (map[int32][]Layer, error) {
	at := map[int32][]Layer{}
	for i, c := range crossings {
		taken := []Layer{{Quantity: c.Quantity, UnitCost: c.UnitCost, Crossing: i}}
		if c.From != Outside {
			var short decimal.Decimal
			if taken, at[c.From], short = take(at[c.From], c.Quantity); short.IsPositive() {
				return nil, tooMuch(i, Flow{Quantity: c.Quantity.Neg()}, short.Neg())
			}
		}
		went(i, taken)
		if c.To != Outside {
			at[c.To] = append(at[c.To], taken...)
		}
	}
	return at, nil
}

// take takes so much out of layers, the oldest first, and leaves the rest in them; short is how much of it there is not.
func take(layers []Layer, quantity decimal.Decimal) (taken, left []Layer, short decimal.Decimal) {
	for quantity.IsPositive() && len(layers) > 0 {
		part := layers[0]
		part.Quantity = decimal.Min(quantity, part.Quantity)
		taken, quantity = append(taken, part), quantity.Sub(part.Quantity)
		if layers[0].Quantity = layers[0].Quantity.Sub(part.Quantity); layers[0].Quantity.IsZero() {
			layers = layers[1:]
		}
	}
	return taken, layers, quantity
}

// Worth is what layers are worth.
func Worth(layers []Layer) (quantity, value decimal.Decimal) {
	for _, l := range layers {
		quantity, value = quantity.Add(l.Quantity), value.Add(l.Quantity.Mul(l.UnitCost))
	}
	return quantity, value
}

// Apportion cuts a value, in whole cents, into parts by their quantities: the parts add up to it to the cent, and none
// is a cent or more from its share. Without any quantity all are nought.
func Apportion(value decimal.Decimal, quantities []decimal.Decimal) []decimal.Decimal {
	out := make([]decimal.Decimal, len(quantities))
	total := decimal.Zero
	for _, q := range quantities {
		total = total.Add(q)
	}
	if total.IsZero() {
		return out
	}
	so, given := decimal.Zero, decimal.Zero
	for i, q := range quantities {
		so = so.Add(q)
		upTo := value.Mul(so).Div(total).Round(2)
		out[i], given = upTo.Sub(given), upTo
	}
	return out
}
