package availability

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/shopspring/decimal"
)

// TestWhoLacksIsToldWhoHolds draws promises and holds of one item. What it says is held against the
// plain meaning: nobody is robbed who could be served from what is free, nobody by an order that is
// wanted earlier, nothing is blamed twice, and as much is blamed as there is.
func TestWhoLacksIsToldWhoHolds(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(18, 3))
	robbed := 0
	for range 4000 {
		var promises []Promise
		var holds []Hold
		day := func() string { return fmt.Sprintf("2026-12-%02d", 1+r.IntN(9)) }
		for i := range r.IntN(6) {
			promises = append(promises, Promise{OrderID: int64(i + 1), Order: fmt.Sprint("S-", i+1), WantedOn: day(), ItemID: 1,
				Quantity: decimal.NewFromInt(1 + r.Int64N(9))})
		}
		slices.SortFunc(promises, func(a, b Promise) int {
			if a.Before(b.WantedOn, b.OrderID) {
				return -1
			}
			return 1
		})
		for i := range r.IntN(6) {
			holds = append(holds, Hold{OrderID: int64(i + 10), Order: fmt.Sprint("S-", i+10), WantedOn: day(), ItemID: 1,
				Quantity: decimal.NewFromInt(1 + r.Int64N(9))})
		}
		free := decimal.NewFromInt(r.Int64N(12))
		blamed := map[int64]decimal.Decimal{}
		before := decimal.Zero
		lacks := map[int64]decimal.Decimal{}
		for _, p := range promises {
			before = before.Add(p.Quantity)
			lacks[p.OrderID] = decimal.Max(decimal.Min(before.Sub(free), p.Quantity), decimal.Zero)
		}
		said := Rob(promises, free, holds)
		for _, o := range said {
			if !o.Lacks.Equal(lacks[o.OrderID]) || !o.Lacks.IsPositive() {
				t.Fatalf("%s lacks %s, said %s (%v, %s free)", o.Order, lacks[o.OrderID], o.Lacks, promises, free)
			}
			sum := decimal.Zero
			for _, h := range o.By {
				if !(Promise{OrderID: o.OrderID, WantedOn: o.WantedOn}).Before(h.WantedOn, h.OrderID) {
					t.Fatalf("%s of %s is robbed by %s of %s, which is wanted before it", o.Order, o.WantedOn, h.Order, h.WantedOn)
				}
				sum = sum.Add(h.Quantity)
				blamed[h.OrderID] = blamed[h.OrderID].Add(h.Quantity)
			}
			if sum.GreaterThan(o.Lacks) {
				t.Fatalf("%s lacks %s, and %s are blamed for it", o.Order, o.Lacks, sum)
			}
			robbed++
		}
		for _, h := range holds {
			if blamed[h.OrderID].GreaterThan(h.Quantity) {
				t.Fatalf("%s holds %s, and is blamed for %s", h.Order, h.Quantity, blamed[h.OrderID])
			}
			// What is left of a hold was wanted by nobody before it.
			for _, p := range promises {
				if blamed[h.OrderID].LessThan(h.Quantity) && p.Before(h.WantedOn, h.OrderID) && lacks[p.OrderID].IsPositive() &&
					!slices.ContainsFunc(said, func(o Robbed) bool { return o.OrderID == p.OrderID }) {
					t.Fatalf("%s lacks %s, %s holds some that nobody is told of", p.Order, lacks[p.OrderID], h.Order)
				}
			}
		}
	}
	if robbed < 1000 {
		t.Errorf("only %d were robbed", robbed)
	}
}
