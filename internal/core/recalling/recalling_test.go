package recalling

import (
	"math/rand/v2"
	"testing"

	"github.com/shopspring/decimal"
)

func n(i int64) decimal.Decimal { return decimal.NewFromInt(i) }

// TestWhatBecameOfAHundred is worked by hand: of 100 that came, 60 went to customers of which 12 came back, 5 were
// scrapped, 3 were lost of which 1 was found, and 10 went back to the supplier. 35 are left, and customers have 48.
func TestWhatBecameOfAHundred(t *testing.T) {
	got := Sum([]Flow{{Supplier, Ours, n(110), false}, {Ours, Supplier, n(10), true}, {Ours, Ours, n(40), false},
		{Ours, Customer, n(70), false}, {Customer, Ours, n(10), true}, {Customer, Ours, n(12), false}, {Ours, Scrapped, n(5), false},
		{Ours, Lost, n(3), false}, {Lost, Ours, n(1), false}, {Ours, Supplier, n(10), false}})
	for name, c := range map[string]struct {
		got  decimal.Decimal
		want int64
	}{"came": {got.Came, 100}, "found": {got.Found, 1}, "shipped": {got.Shipped, 60}, "came back": {got.CameBack, 12},
		"sent back": {got.SentBack, 10}, "scrapped": {got.Scrapped, 5}, "lost": {got.Lost, 3},
		"with customers": {got.WithCustomers(), 48}, "ours": {got.Ours(), 35}} {
		if !c.got.Equal(n(c.want)) {
			t.Errorf("%s are %s, not %d", name, c.got, c.want)
		}
	}
}

// TestNothingIsForgotten holds for any flows: what is left is what bare counting of one place says.
func TestNothingIsForgotten(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 1))
	places := []Place{Ours, Supplier, Customer, Scrapped, Lost}
	for range 500 {
		var flows []Flow
		ours, customers := decimal.Zero, decimal.Zero
		for range r.IntN(30) {
			f := Flow{From: Ours, To: places[r.IntN(len(places))], Quantity: n(1 + r.Int64N(9))}
			if r.IntN(2) == 0 {
				f.From, f.To = f.To, f.From
			}
			f.Back = f.To == Supplier && r.IntN(3) == 0 || f.From == Customer && r.IntN(3) == 0
			flows = append(flows, f)
			for place, held := range map[Place]*decimal.Decimal{Ours: &ours, Customer: &customers} {
				if f.From == place {
					*held = held.Sub(f.Quantity)
				}
				if f.To == place {
					*held = held.Add(f.Quantity)
				}
			}
		}
		if got := Sum(flows); !got.Ours().Equal(ours) || !got.WithCustomers().Equal(customers) {
			t.Fatalf("ours are %s and customers have %s, and by counting %s and %s", got.Ours(), got.WithCustomers(), ours, customers)
		}
	}
}
