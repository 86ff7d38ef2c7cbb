package counting_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"lanternrow/internal/core/counting"

	"github.com/shopspring/decimal"
)

// TestDifferencesMakeTheBookTheCount adds the differences of random counts to what should
// be there: what comes out is the count, and a count of what is there differs in nothing.
func TestDifferencesMakeTheBookTheCount(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 9))
	some := func() (out []counting.Holding) {
		for k := range 5 {
			h := counting.Holding{Key: fmt.Sprint(k)}
			if r.IntN(2) == 0 {
				continue
			}
			if k < 3 {
				h.Quantity = decimal.NewFromInt(r.Int64N(20))
			} else {
				for s := range 6 {
					if r.IntN(2) == 0 {
						h.Serials = append(h.Serials, fmt.Sprintf("U%d", s))
					}
				}
				h.Quantity = decimal.NewFromInt(int64(len(h.Serials)))
			}
			out = append(out, h)
		}
		r.Shuffle(len(out), func(i, j int) { out[i], out[j] = out[j], out[i] })
		return out
	}
	for range 2000 {
		book, count := some(), some()
		sums, units := map[string]decimal.Decimal{}, map[string][]string{}
		for _, h := range book {
			sums[h.Key], units[h.Key] = h.Quantity, slices.Clone(h.Serials)
		}
		for _, d := range counting.Compare(book, count) {
			sums[d.Key] = sums[d.Key].Add(d.Delta)
			units[d.Key] = append(slices.DeleteFunc(units[d.Key],
				func(s string) bool { return slices.Contains(d.Missing, s) }), d.Extra...)
		}
		want := map[string]counting.Holding{}
		for _, h := range count {
			want[h.Key] = h
		}
		for key, sum := range sums {
			slices.Sort(units[key])
			if !sum.Equal(want[key].Quantity) || fmt.Sprint(units[key]) != fmt.Sprint(want[key].Serials) {
				t.Fatalf("%v counted as %v: %s comes to %s %v", book, count, key, sum, units[key])
			}
		}
		if off := counting.Compare(book, slices.Clone(book)); len(off) > 0 {
			t.Fatalf("a count of what is there differs: %v", off)
		}
	}
}
