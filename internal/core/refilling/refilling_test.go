package refilling

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/shopspring/decimal"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

func fits(s string) *decimal.Decimal { v := d(s); return &v }

// TestWhatABinNeeds has check values of the trade (common practice, no source).
func TestWhatABinNeeds(t *testing.T) {
	for name, c := range map[string]struct {
		bin  Bin
		need string
	}{
		"enough is there":                              {Bin{Least: d("6"), Most: d("24"), Holds: d("6")}, "0"},
		"it is below its least":                        {Bin{Least: d("6"), Most: d("24"), Holds: d("5")}, "19"},
		"orders will empty it":                         {Bin{Least: d("6"), Most: d("24"), Holds: d("20"), Wanted: d("18")}, "22"},
		"orders want more than lies there":             {Bin{Least: d("6"), Most: d("24"), Holds: d("10"), Wanted: d("15")}, "29"},
		"no more than fits now":                        {Bin{Least: d("6"), Most: d("24"), Holds: d("20"), Wanted: d("18"), Fits: fits("4")}, "4"},
		"it is full, though short":                     {Bin{Least: d("6"), Most: d("24"), Holds: d("24"), Wanted: d("24"), Fits: fits("0")}, "0"},
		"metres":                                       {Bin{Least: d("2.5"), Most: d("10"), Holds: d("1.25")}, "8.75"},
		"levels that were entered the wrong way round": {Bin{Least: d("10"), Most: d("4"), Holds: d("5")}, "0"},
	} {
		if got := c.bin.Need(); !got.Equal(d(c.need)) {
			t.Errorf("%s: %s are needed, not %s", name, got, c.need)
		}
	}
}

// TestWhichReserveGoesFirst takes what expires first, whole cartons before a part of one, and the bin that lacks most
// first.
func TestWhichReserveGoesFirst(t *testing.T) {
	stock := func(place, carton, expires, quantity string) Stock {
		return Stock{Place: place, Item: "HZ", Carton: carton, Expires: expires, Quantity: d(quantity)}
	}
	for name, c := range map[string]struct {
		bins    []Bin
		reserve []Stock
		moves   string
		short   string
	}{
		"first expiring, though another is whole": {[]Bin{{Code: "A", Item: "HZ", Least: d("4"), Most: d("12")}},
			[]Stock{stock("R1", "c1", "2028-05-01", "12"), stock("R2", "c2", "2028-01-01", "20")}, "R2>A 12;", ""},
		"whole cartons, the largest first": {[]Bin{{Code: "A", Item: "HZ", Least: d("4"), Most: d("30")}},
			[]Stock{stock("R1", "c1", "", "6"), stock("R2", "c2", "", "12"), stock("R3", "", "", "40")}, "R2>A 12 whole;R1>A 6 whole;R3>A 12;", ""},
		"the smallest is broken": {[]Bin{{Code: "A", Item: "HZ", Least: d("4"), Most: d("5")}},
			[]Stock{stock("R1", "c1", "", "24"), stock("R2", "c2", "", "12")}, "R2>A 5;", ""},
		"the bin whose orders lack most, and what is short": {[]Bin{{Code: "A", Item: "HZ", Least: d("4"), Most: d("10"), Holds: d("3")},
			{Code: "B", Item: "HZ", Least: d("4"), Most: d("10"), Wanted: d("8")}}, []Stock{stock("R1", "", "", "20")},
			"R1>B 18;R1>A 2;", "A 5;"},
		"of one lot where lots do not mix": {[]Bin{{Code: "A", Item: "HZ", Least: d("4"), Most: d("10"), OneLot: true}},
			[]Stock{{Place: "R1", Item: "HZ", Lot: "L2", Expires: "2028-05-01", Quantity: d("20")}, {Place: "R2", Item: "HZ", Lot: "L1",
				Expires: "2028-01-01", Quantity: d("3")}}, "R2>A 3;", "A 7;"},
		"what another refill brings": {[]Bin{{Code: "A", Item: "HZ", Least: d("4"), Most: d("10"), Holds: d("1"), Coming: d("3")}},
			[]Stock{stock("R1", "", "", "20")}, "", ""},
		"nothing of another item": {[]Bin{{Code: "A", Item: "TP", Least: d("4"), Most: d("10")}}, []Stock{stock("R1", "", "", "20")}, "", "A 10;"},
	} {
		plan := Refill(c.bins, c.reserve)
		var moves, short string
		for _, m := range plan.Moves {
			whole := ""
			if m.Whole {
				whole = " whole"
			}
			moves += fmt.Sprintf("%s>%s %s%s;", m.From, m.To, m.Quantity, whole)
		}
		for _, s := range plan.Shortages {
			short += fmt.Sprintf("%s %s;", s.Bin, s.Quantity)
		}
		if moves != c.moves || short != c.short {
			t.Errorf("%s: %s short %s", name, moves, short)
		}
	}
}

// TestWhatOrdersWantIsShared leaves no picking bin with less than nothing while another has some, and loses nothing.
func TestWhatOrdersWantIsShared(t *testing.T) {
	bins := []Bin{{Code: "HOME", Holds: d("10"), Wanted: d("4")}, {Code: "B", Holds: d("5")}, {Code: "C", Holds: d("2"), Wanted: d("3")}}
	Share(bins, d("9"))
	if got := fmt.Sprint(bins[0].Wanted, bins[1].Wanted, bins[2].Wanted); got != "10 3 3" {
		t.Errorf("9 more are wanted as %s", got)
	}
	Share(bins, d("7"))
	if got := fmt.Sprint(bins[0].Wanted, bins[1].Wanted, bins[2].Wanted); got != "15 5 3" {
		t.Errorf("and 7 more as %s", got)
	}
}

// TestRefillingNeverTakesMoreThanThereIs holds for any bins and reserve: no bin gets more than it needs or fits, no
// reserve gives more than it holds, what is not covered is short, and nothing that expires later goes while something
// earlier is left.
func TestRefillingNeverTakesMoreThanThereIs(t *testing.T) {
	r := rand.New(rand.NewPCG(14, 7))
	n := func(most int) decimal.Decimal { return decimal.NewFromInt(int64(r.IntN(most))) }
	for range 2000 {
		var bins []Bin
		for i := range 1 + r.IntN(4) {
			b := Bin{Code: fmt.Sprint("B", i), Item: fmt.Sprint("I", r.IntN(2)), Least: n(10), Holds: n(20), Wanted: n(25)}
			if b.Most = b.Least.Add(n(30)); r.IntN(2) == 0 {
				b.Fits = fits(n(15).String())
			}
			bins = append(bins, b)
		}
		var reserve []Stock
		for i := range r.IntN(6) {
			s := Stock{Place: fmt.Sprint("R", i), Item: fmt.Sprint("I", r.IntN(2)), Quantity: n(30)}
			if r.IntN(2) == 0 {
				s.Carton = fmt.Sprint("c", i)
			}
			if r.IntN(2) == 0 {
				s.Expires = fmt.Sprintf("2028-01-%02d", 1+r.IntN(9))
			}
			reserve = append(reserve, s)
		}
		plan := Refill(bins, reserve)
		got, gave := map[string]decimal.Decimal{}, map[string]decimal.Decimal{}
		for _, m := range plan.Moves {
			got[m.To], gave[m.From] = got[m.To].Add(m.Quantity), gave[m.From].Add(m.Quantity)
		}
		for _, s := range plan.Shortages {
			got[s.Bin] = got[s.Bin].Add(s.Quantity)
		}
		for _, b := range bins {
			if !got[b.Code].Equal(b.Need()) || b.Fits != nil && got[b.Code].GreaterThan(*b.Fits) {
				t.Fatalf("%+v gets and lacks %s", b, got[b.Code])
			}
		}
		for _, s := range reserve {
			if gave[s.Place].GreaterThan(s.Quantity) {
				t.Fatalf("%s gives %s of %s", s.Place, gave[s.Place], s.Quantity)
			}
			for _, other := range reserve {
				if other.Item == s.Item && day(s.Expires, other.Expires) < 0 && gave[other.Place].IsPositive() && gave[s.Place].LessThan(s.Quantity) {
					t.Fatalf("%s expires later than %s, and goes first", other.Place, s.Place)
				}
			}
		}
	}
}

// TestABinOfOneLotGetsNoOther holds for any bins and reserve: where lots do not mix, what a bin gets is of the lot that
// lies there, or of the first that comes; and sharing out demand changes no total.
func TestABinOfOneLotGetsNoOther(t *testing.T) {
	r := rand.New(rand.NewPCG(14, 30))
	n := func(most int) decimal.Decimal { return decimal.NewFromInt(int64(r.IntN(most))) }
	for range 2000 {
		var bins []Bin
		for i := range 1 + r.IntN(3) {
			b := Bin{Code: fmt.Sprint("B", i), Item: "I", Least: n(10), Holds: n(8), Coming: n(4), Wanted: n(9), OneLot: r.IntN(2) == 0}
			if b.Most = b.Least.Add(n(20)); b.Holds.IsPositive() {
				b.Lot = fmt.Sprint("L", r.IntN(3))
			}
			bins = append(bins, b)
		}
		before, demand := decimal.Zero, n(30)
		for _, b := range bins {
			before = before.Add(b.Wanted)
		}
		Share(bins, demand)
		after := decimal.Zero
		for i, b := range bins {
			if after = after.Add(b.Wanted); i > 0 && b.After().IsNegative() && b.Holds.Add(b.Coming).GreaterThan(b.Wanted) {
				t.Fatalf("%+v is left with less than nothing", b)
			}
		}
		if !after.Equal(before.Add(demand)) {
			t.Fatalf("%s were wanted, %s more, and %s are", before, demand, after)
		}
		var reserve []Stock
		for i := range r.IntN(7) {
			reserve = append(reserve, Stock{Place: fmt.Sprint("R", i), Item: "I", Lot: fmt.Sprint("L", r.IntN(3)), Quantity: n(12)})
		}
		lots := map[string]string{}
		for _, b := range bins {
			lots[b.Code] = b.Lot
		}
		for _, m := range Refill(bins, reserve).Moves {
			b := bins[m.To[1]-'0']
			if was := lots[m.To]; b.OneLot && was != "" && was != m.Lot {
				t.Fatalf("%s of lot %s gets lot %s", m.To, was, m.Lot)
			}
			lots[m.To] = m.Lot
		}
	}
}
