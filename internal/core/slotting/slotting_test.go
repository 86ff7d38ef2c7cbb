package slotting

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/test/judge"

	"github.com/shopspring/decimal"
)

func d(text string) decimal.Decimal { return decimal.RequireFromString(text) }

func limit(text string) *decimal.Decimal { v := d(text); return &v }

func codeOf(err error) refusal.Code {
	if r := refusal.From(err); r != nil {
		return r.Code
	}
	return ""
}

func TestFortyTwoGoAsTwentyFourAndEighteen(t *testing.T) {
	goods := Goods{Item: "HZ-500", Quantity: d("42"), Whole: true}
	bins := []Bin{
		{Code: "C-04-2-B", MaxUnits: limit("24"), MixItems: true, MixLots: true, WalkM: 9},
		{Code: "C-05-2-A", MaxUnits: limit("24"), MixItems: true, MixLots: true, WalkM: 11},
		{Code: "C-09-2-A", MaxUnits: limit("24"), MixItems: true, MixLots: true, WalkM: 30},
	}
	p, err := Propose(goods, bins)
	if err != nil || len(p.Locations) != 2 || p.Locations[0].Bin != "C-04-2-B" ||
		!p.Locations[0].Quantity.Equal(d("24")) || !p.Locations[1].Quantity.Equal(d("18")) || !p.Left.IsZero() {
		t.Fatalf("proposed %+v (%v), want 24 and 18", p, err)
	}
	goods.Quantity = d("43")
	err = Check(goods, []Line{{Field: "locations[0].quantity", Bin: bins[0], Quantity: d("43")}})
	r := refusal.From(err)
	if codeOf(err) != "bin_full" || r.Facts["takes"] != "24" || r.Field != "locations[0].quantity" {
		t.Fatalf("43 into a bin of 24: %v", err)
	}
}

func TestCapacityIsSetByTheNearestLimit(t *testing.T) {
	held := []Held{{Item: "A", Lot: "1", Quantity: d("4"), WeightKg: d("2"), VolumeL: d("5")}}
	for name, c := range map[string]struct {
		bin   Bin
		goods Goods
		want  string
		why   string
	}{
		"units": {Bin{MaxUnits: limit("10"), MixItems: true, MixLots: true, Holds: held},
			Goods{Item: "B", Quantity: d("9"), Whole: true}, "6", "4 of at most 10 units"},
		"weight": {Bin{MaxWeightKg: limit("20"), MixItems: true, MixLots: true, Holds: held},
			Goods{Item: "B", Quantity: d("9"), Whole: true, WeightKg: d("5")}, "2", "8 of at most 20 kg"},
		"volume": {Bin{MaxVolumeL: limit("26"), MixItems: true, MixLots: true, Holds: held},
			Goods{Item: "B", Quantity: d("9"), Whole: true, VolumeL: d("4")}, "1", "20 of its 26 litres"},
		"measured": {Bin{MaxWeightKg: limit("9"), MixItems: true, MixLots: true, Holds: held},
			Goods{Item: "B", Quantity: d("9"), WeightKg: d("0.3")}, "3.333", "kg"},
		"unsized": {Bin{MaxWeightKg: limit("9"), MixItems: true, MixLots: true, Holds: held},
			Goods{Item: "B", Quantity: d("900"), Whole: true}, "900", ""},
		"other item": {Bin{MixLots: true, Holds: held}, Goods{Item: "B", Quantity: d("1")}, "0",
			"items may not mix"},
		"other lot": {Bin{MixItems: true, Holds: held}, Goods{Item: "A", Lot: "2", Quantity: d("1")}, "0",
			"lots may not mix"},
		"same lot":         {Bin{Holds: held}, Goods{Item: "A", Lot: "1", Quantity: d("3"), Whole: true}, "3", ""},
		"handling refused": {Bin{MixItems: true}, Goods{Item: "B", Quantity: d("1"), Handling: "fluid"}, "0", "fluid"},
		"handling accepted": {Bin{MixItems: true, Accepts: []string{"heavy", "fluid"}},
			Goods{Item: "B", Quantity: d("1"), Handling: "fluid"}, "1", ""},
		"overfull already": {Bin{MaxUnits: limit("3"), MixItems: true, MixLots: true, Holds: held},
			Goods{Item: "B", Quantity: d("9"), Whole: true}, "0", "units"},
	} {
		takes, why := c.bin.Capacity(c.goods)
		if !takes.Equal(d(c.want)) || !strings.Contains(why, c.why) || (c.why == "" && why != "") {
			t.Errorf("%s: takes %s (%q), want %s (%q)", name, takes, why, c.want, c.why)
		}
	}
}

func TestPreferences(t *testing.T) {
	near := Bin{Code: "NEAR", MixItems: true, MixLots: true, WalkM: 5}
	far := Bin{Code: "FAR", MixItems: true, MixLots: true, WalkM: 20}
	goods := Goods{Item: "A", Lot: "1", Quantity: d("5"), Whole: true}
	first := func(g Goods, bins ...Bin) string {
		p, err := Propose(g, bins)
		if err != nil || len(p.Locations) != 1 {
			t.Fatalf("%+v, %v", p, err)
		}
		return p.Locations[0].Bin
	}
	if got := first(goods, far, near); got != "NEAR" {
		t.Errorf("without other reasons %s is chosen, not the near bin", got)
	}
	home := goods
	home.HomeBin = "FAR"
	if got := first(home, near, far); got != "FAR" {
		t.Errorf("%s is chosen, not the home bin", got)
	}
	same := far
	same.Holds = []Held{{Item: "A", Lot: "1", Quantity: d("1")}}
	if got := first(goods, near, same); got != "FAR" {
		t.Errorf("%s is chosen, not the bin with the same lot", got)
	}
	quick := goods
	quick.Pace = 1
	near.GateM, far.GateM = 40, 2
	if got := first(quick, near, far); got != "FAR" {
		t.Errorf("%s is chosen for a quick mover, not the bin by the gate", got)
	}
}

// house makes random goods and bins.
func house(r *rand.Rand, bins int) (Goods, []Bin) {
	goods := Goods{Item: "A", Lot: "1", Quantity: decimal.NewFromInt(1 + r.Int64N(80)), Whole: true,
		WeightKg: d("0.7"), HomeBin: fmt.Sprint("B", r.IntN(bins)), Pace: float64(r.IntN(11)) / 10}
	var out []Bin
	for i := range bins {
		b := Bin{Code: fmt.Sprint("B", i), MixItems: r.IntN(3) > 0, MixLots: r.IntN(3) > 0,
			WalkM: float64(r.IntN(400)) / 10, GateM: float64(r.IntN(400)) / 10}
		units := decimal.NewFromInt(5 + r.Int64N(25))
		b.MaxUnits = &units
		if r.IntN(2) == 0 {
			b.Holds = []Held{{Item: []string{"A", "B"}[r.IntN(2)], Lot: []string{"1", "2"}[r.IntN(2)],
				Quantity: decimal.NewFromInt(1 + r.Int64N(8))}}
		}
		out = append(out, b)
	}
	return goods, out
}

func TestAProposalIsAlwaysAcceptedAndNeverOverfills(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	for i := range 500 {
		goods, bins := house(r, 1+r.IntN(12))
		p, err := Propose(goods, bins)
		if err != nil {
			t.Fatal(err)
		}
		by := map[string]Bin{}
		for _, b := range bins {
			by[b.Code] = b
		}
		var lines []Line
		for _, location := range p.Locations {
			lines = append(lines, Line{"q", by[location.Bin], location.Quantity})
		}
		placed := goods
		placed.Quantity = goods.Quantity.Sub(p.Left)
		if len(lines) == 0 {
			continue
		}
		if err := Check(placed, lines); err != nil {
			t.Fatalf("case %d: what was proposed is refused: %v", i, err)
		}
		lines[0].Quantity = lines[0].Quantity.Add(by[p.Locations[0].Bin].room(goods)).Add(decimal.NewFromInt(1))
		placed.Quantity = decimal.NewFromInt(100000)
		if codeOf(Check(placed, lines)) != "bin_full" {
			t.Fatalf("case %d: an over-full bin is accepted", i)
		}
	}
}

// room is what a bin takes of a great deal of goods.
func (b Bin) room(g Goods) decimal.Decimal {
	g.Quantity = decimal.NewFromInt(100000)
	takes, _ := b.Capacity(g)
	return takes
}

// TestProposalsReachTheOptimumOfTheirObjective compares the points of proposals
// with the optimum that COIN-OR CBC finds.
func TestProposalsReachTheOptimumOfTheirObjective(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	parts := 0
	for i := range 10 {
		goods, bins := house(r, 14)
		goods.Quantity = decimal.NewFromInt(40 + r.Int64N(40))
		p, err := Propose(goods, bins)
		if err != nil {
			t.Fatal(err)
		}
		var objective, sum, limits, names strings.Builder
		for j, b := range bins {
			takes, _ := b.Capacity(goods)
			if takes.IsPositive() {
				fmt.Fprintf(&objective, " + %.1f y%d", b.score(goods).Points, j)
				fmt.Fprintf(&sum, " + q%d", j)
				fmt.Fprintf(&limits, " q%d - %s y%d <= 0\n", j, takes, j)
				fmt.Fprintf(&names, " y%d", j)
				if b.Code == goods.HomeBin {
					fmt.Fprintf(&limits, " q%d = %s\n y%d = 1\n", j, decimal.Min(takes, goods.Quantity), j)
					parts++
				}
			}
		}
		want, feasible := judge.Minimum(t,
			fmt.Sprintf("Minimize\nobj:%s\nSubject To\nwhole:%s = %s\n%sBinaries\n%s\nEnd\n", &objective, &sum,
				goods.Quantity, &limits, &names))
		if feasible != p.Left.IsZero() {
			t.Fatalf("case %d: %s is left, and cbc says feasible=%v", i, p.Left, feasible)
		}
		if feasible && math.Abs(p.Points-want) > 0.05 {
			t.Fatalf("case %d: %g points, cbc finds %g", i, p.Points, want)
		}
	}
}

func TestSpreadsMustAddUp(t *testing.T) {
	goods := Goods{Item: "A", Quantity: d("10"), Whole: true}
	bin := Bin{Code: "X", MaxUnits: limit("9"), MixItems: true, MixLots: true}
	open := Bin{Code: "Y", MixItems: true, MixLots: true}
	for name, c := range map[string]struct {
		lines []Line
		code  refusal.Code
	}{
		"short":         {[]Line{{"q", open, d("9")}}, "spread_total"},
		"over":          {[]Line{{"q", open, d("11")}}, "spread_total"},
		"one bin twice": {[]Line{{"q", bin, d("5")}, {"q", bin, d("5")}}, "bin_full"},
		"a fraction":    {[]Line{{"q", open, d("9.5")}, {"q", bin, d("0.5")}}, "quantity_fraction"},
		"nothing":       {[]Line{{"q", open, d("10")}, {"q", bin, d("0")}}, "quantity_zero"},
		"below nothing": {[]Line{{"q", open, d("11")}, {"q", bin, d("-1")}}, "quantity_negative"},
		"right":         {[]Line{{"q", open, d("1")}, {"q", bin, d("9")}}, ""},
	} {
		if got := codeOf(Check(goods, c.lines)); got != c.code {
			t.Errorf("%s: refused with %q, want %q", name, got, c.code)
		}
	}
}
