package valuation

import (
	"maps"
	"math/rand/v2"
	"testing"

	"github.com/shopspring/decimal"
)

// TestAFreightThatComesLater is worked by hand: 10 come at 8 and 10 at 10, 15 go to a customer, and then freight of 20
// for the second ten is known. First in, first out, five of them are left and bear 10, five are gone with 10. On
// average, the 15 took three quarters of everything along: 5 stay, 15 are gone.
func TestAFreightThatComesLater(t *testing.T) {
	crossings := []Crossing{{Outside, 1, n(10), n(8), false}, {Outside, 1, n(10), n(10), false}, {1, Outside, n(15), n(9), false}}
	for name, c := range map[string]struct {
		by         Added
		left, gone int64
	}{"first in, first out": {AddedByLayers, 10, 10}, "average": {AddedByAverage, 5, 15}} {
		got, err := c.by(crossings, map[int]decimal.Decimal{1: n(20)})
		if err != nil || !got[1].Equal(n(c.left)) || !got[Outside].Equal(n(c.gone)) {
			t.Errorf("%s: %v (%v)", name, got, err)
		}
	}
}

// TestItIsAsHadItBeenKnown holds for any crossings between three places, receipts taken back among them: what is known
// later makes each place worth what it would be worth had the goods cost so from the beginning.
func TestItIsAsHadItBeenKnown(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 6))
	for n := range 400 {
		crossings := walk(r, nil)
		more := map[int]decimal.Decimal{}
		for i, c := range crossings {
			if c.From == Outside && r.IntN(3) == 0 {
				more[i] = decimal.New(r.Int64N(200_000)-50_000, -2)
			}
		}
		asKnown := walk(rand.New(rand.NewPCG(0, 0)), known(crossings, more))
		for name, c := range map[string]struct {
			by    Added
			worth func([]Crossing) map[int32]decimal.Decimal
		}{"first in, first out": {AddedByLayers, worthByLayers}, "average": {AddedByAverage, worthByAverage}} {
			added, err := c.by(crossings, more)
			if err != nil {
				t.Fatal(err)
			}
			before, after := c.worth(crossings), c.worth(asKnown)
			whole := decimal.Zero
			for _, part := range added {
				whole = whole.Add(part)
			}
			for _, m := range more {
				whole = whole.Sub(m)
			}
			if !whole.IsZero() {
				t.Fatalf("case %d, %s: the parts miss the whole by %s", n, name, whole)
			}
			for place := range maps.Keys(after) {
				if due := after[place].Sub(before[place]); due.Sub(added[place]).Abs().GreaterThan(decimal.New(1, -3)) {
					t.Fatalf("case %d, %s: place %d is worth %s more, and would be %s", n, name, place, added[place], due)
				}
			}
		}
	}
}

// walk is a random day of crossings at what goods cost on average where they go from; or the same day as another, at
// the averages that its own costs make.
func walk(r *rand.Rand, as []Crossing) []Crossing {
	var out []Crossing
	at := map[int32]*exact{Outside: {}, 0: {}, 1: {}, 2: {}}
	for n := range 40 {
		c := Crossing{From: []int32{Outside, 0, 1, 2}[r.IntN(4)], To: []int32{Outside, 0, 1, 2}[r.IntN(4)],
			Quantity: decimal.NewFromInt(1 + r.Int64N(9)), UnitCost: decimal.NewFromInt(40 + r.Int64N(60)), Own: r.IntN(6) == 0}
		if as != nil {
			if n == len(as) {
				break
			}
			c = as[n]
		} else if c.From == c.To || c.From != Outside && c.Quantity.GreaterThan(at[c.From].quantity) {
			continue
		}
		if c.Own = c.Own && c.From != Outside && c.To == Outside; c.From != Outside && !c.Own {
			c.UnitCost = at[c.From].value.DivRound(at[c.From].quantity, 18)
		}
		at[c.From].add(c.Quantity.Neg(), c.UnitCost)
		at[c.To].add(c.Quantity, c.UnitCost)
		out = append(out, c)
	}
	return out
}

// known are crossings that carry what was known of them later.
func known(crossings []Crossing, more map[int]decimal.Decimal) []Crossing {
	out := append([]Crossing{}, crossings...)
	for i, m := range more {
		out[i].UnitCost = out[i].UnitCost.Add(m.DivRound(out[i].Quantity, 18))
	}
	return out
}

// exact is an average that is not rounded.
type exact struct{ quantity, value decimal.Decimal }

func (e *exact) add(quantity, cost decimal.Decimal) {
	if e.quantity = e.quantity.Add(quantity); e.quantity.IsZero() {
		e.value = decimal.Zero
		return
	}
	e.value = e.value.Add(quantity.Mul(cost))
}

func worthByAverage(crossings []Crossing) map[int32]decimal.Decimal {
	at := map[int32]*exact{0: {}, 1: {}, 2: {}, Outside: {}}
	for _, c := range crossings {
		at[c.From].add(c.Quantity.Neg(), c.UnitCost)
		at[c.To].add(c.Quantity, c.UnitCost)
	}
	return map[int32]decimal.Decimal{0: at[0].value, 1: at[1].value, 2: at[2].value}
}

func worthByLayers(crossings []Crossing) map[int32]decimal.Decimal {
	out := map[int32]decimal.Decimal{}
	at, _ := Layered(crossings)
	for place, layers := range at {
		_, out[place] = Worth(layers)
	}
	return out
}
