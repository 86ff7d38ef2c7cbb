package slotting

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// TestGoodsPutAwayTogetherFitTogether compares Together with laying the goods in one by
// one, in any order, and ProposeTogether with looking at every bin.
func TestGoodsPutAwayTogetherFitTogether(t *testing.T) {
	r := rand.New(rand.NewPCG(40, 2))
	n := func(most int64) *decimal.Decimal {
		d := decimal.NewFromInt(r.Int64N(most))
		return &d
	}
	fits := 0
	for range 2000 {
		var bins []Bin
		for i := range 1 + r.IntN(12) {
			b := Bin{Code: fmt.Sprintf("B%02d", i), MixItems: r.IntN(3) > 0, MixLots: r.IntN(3) > 0,
				WalkM: float64(r.IntN(40)), GateM: float64(r.IntN(40)), Away: r.IntN(9) == 0}
			if r.IntN(2) == 0 {
				b.MaxUnits = n(60)
			}
			if r.IntN(2) == 0 {
				b.MaxWeightKg = n(300)
			}
			if r.IntN(3) == 0 {
				b.Accepts = []string{"fluid"}
			}
			if r.IntN(3) == 0 {
				b.Holds = []Held{{Item: "I0", Lot: "L1", Quantity: decimal.NewFromInt(4),
					WeightKg: decimal.NewFromInt(3)}}
			}
			bins = append(bins, b)
		}
		var goods []Goods
		for i := range 1 + r.IntN(3) {
			g := Goods{Item: fmt.Sprintf("I%d", i), Quantity: decimal.NewFromInt(1 + r.Int64N(25)), Whole: true,
				WeightKg: decimal.NewFromInt(r.Int64N(8)), Pace: r.Float64(), HomeBin: fmt.Sprintf("B%02d", r.IntN(12))}
			if r.IntN(4) == 0 {
				g.Handling = "fluid"
			}
			goods = append(goods, g)
		}
		offered := ProposeTogether(goods, bins, len(bins))
		at := map[string]bool{}
		for i, p := range offered {
			at[p.Bin] = true
			if i > 0 && p.Points < offered[i-1].Points {
				t.Fatalf("%v come after %v", offered[i], offered[i-1])
			}
		}
		for _, b := range bins {
			var lines []Line
			whole := true
			laid := b
			for i := len(goods) - 1; i >= 0; i-- {
				takes, _ := laid.Capacity(goods[i])
				whole = whole && takes.Equal(goods[i].Quantity)
				laid = laid.add(goods[i], goods[i].Quantity)
				lines = append(lines, Line{Bin: b, Quantity: goods[i].Quantity})
			}
			err := Together("bin", b, goods)
			if whole != (err == nil) || whole && !b.Away != at[b.Code] {
				t.Fatalf("%+v in %+v: one by one %v, together %v, offered %v", goods, b, whole, err, at[b.Code])
			}
			if err == nil {
				fits++
			} else if r := refusal.From(err); r.Code != "bin_full" || !strings.Contains(r.Sentence, b.Code) {
				t.Fatalf("%v", err)
			}
			if len(goods) == 1 && err == nil {
				// Of one kind of goods it is the plain check.
				if Check(goods[0], lines) != nil {
					t.Fatalf("%+v alone is refused by %+v", goods[0], b)
				}
			}
		}
	}
	if fits < 1000 {
		t.Errorf("only %d fitted: the cases prove little", fits)
	}
}

func TestWhyNoBinTakesGoods(t *testing.T) {
	none := decimal.Zero
	bins := []Bin{{Code: "A", MaxUnits: &none, Accepts: []string{"fluid"}}, {Code: "B"}, {Code: "C"},
		{Code: "D", Accepts: []string{"fluid"}, Holds: []Held{{Item: "Y", Quantity: decimal.NewFromInt(1)}}}}
	got := Barred(Goods{Item: "X", Quantity: decimal.NewFromInt(5), Whole: true, Handling: "fluid"}, bins)
	if got != "Of 4 bins, 2 are in zones that do not take fluid goods, 1 have no room left for one, 1 hold goods "+
		"that these may not be mixed with." {
		t.Error(got)
	}
}
