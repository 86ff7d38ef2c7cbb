package valuation

import (
	"math/rand/v2"
	"testing"

	"github.com/shopspring/decimal"

	"lanternrow/internal/core/refusal"
)

func flow(quantity, cost int64) Flow {
	return Flow{decimal.NewFromInt(quantity), decimal.NewFromInt(cost)}
}

// TestTheTextbookCase is the perpetual inventory of accounting textbooks, with numbers of
// the kind they use (from memory, no one source): 10 at 8 and 20 at 11, of which 15 go.
// First in, first out: 10 at 8 and 5 at 11 go, 15 at 11 stay. Average: 300 over 30 is 10.
func TestTheTextbookCase(t *testing.T) {
	in := []Flow{flow(10, 8), flow(20, 11)}
	v, layers, err := FIFO(append(in, Flow{Quantity: decimal.NewFromInt(-15)}))
	if err != nil || len(layers) != 1 || v.Value.String() != "165" || v.Gone.String() != "135" {
		t.Errorf("first in, first out: %+v %v %v", v, layers, err)
	}
	v, average, err := MovingAverage(append(in, flow(-15, 10)))
	if err != nil || average.String() != "10" || v.Value.String() != "150" || v.Gone.String() != "150" {
		t.Errorf("average: %+v %s %v", v, average, err)
	}
	// The second receipt is taken back at what it came for: the first is as it was.
	if v, average, err = MovingAverage(append(in, flow(-20, 11))); err != nil || average.String() != "8" ||
		v.Value.String() != "80" {
		t.Errorf("taken back: %+v %s %v", v, average, err)
	}
	if _, _, err := FIFO(append(in, flow(-31, 0))); refusal.From(err) == nil {
		t.Error("more went than there was")
	}
}

// TestNoValueIsMadeOrLost holds for any flows: what came in is there or gone, and layers
// are what is left.
func TestNoValueIsMadeOrLost(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 11))
	for n := range 300 {
		var flows []Flow
		var there, came int64
		for range 1 + r.IntN(40) {
			q, cost := 1+r.Int64N(50), r.Int64N(90)
			if there > 0 && r.IntN(2) == 0 {
				q = -1 - r.Int64N(there)
			} else {
				came += q * cost
			}
			there += q
			flows = append(flows, flow(q, cost))
		}
		v, layers, err := FIFO(flows)
		if err != nil {
			t.Fatal(err)
		}
		sum, worth := decimal.Zero, decimal.Zero
		for _, l := range layers {
			sum, worth = sum.Add(l.Quantity), worth.Add(l.Quantity.Mul(l.UnitCost))
		}
		if !v.Value.Add(v.Gone).Equal(decimal.NewFromInt(came)) || !sum.Equal(v.Quantity) || !worth.Equal(v.Value) {
			t.Fatalf("case %d: %d came, %s stay and %s went; layers of %s at %s", n, came, v.Value, v.Gone, sum, worth)
		}
	}
}
