package allocation

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"lanternrow/internal/test/judge"

	"github.com/shopspring/decimal"
)

func n(v int64) decimal.Decimal { return decimal.NewFromInt(v) }

func words(a Answer) string {
	var out []string
	for _, p := range a.Parts {
		out = append(out, fmt.Sprintf("%s of %s", p.Quantity, p.Key))
	}
	if a.Short.IsPositive() {
		out = append(out, a.Short.String()+" short")
	}
	return strings.Join(out, ", ")
}

func TestWhichStockServes(t *testing.T) {
	for name, c := range map[string]struct {
		want  Want
		stock []Stock
		is    string
	}{
		"32 wanted and the fullest bin holds 20": {Want{Quantity: n(32)}, []Stock{{Key: "b", Quantity: n(12)},
			{Key: "a", Quantity: n(20)}}, "20 of a, 12 of b"},
		"one bin that holds enough": {Want{Quantity: n(8)}, []Stock{{Key: "a", Quantity: n(5), WalkM: 1},
			{Key: "b", Quantity: n(5), WalkM: 1}, {Key: "c", Quantity: n(9), WalkM: 90}}, "8 of c"},
		"of two that hold enough, the near one": {Want{Quantity: n(8)},
			[]Stock{{Key: "a", Quantity: n(9), WalkM: 30}, {Key: "b", Quantity: n(8), WalkM: 3}}, "8 of b"},
		"first expiry first": {Want{Quantity: n(6)},
			[]Stock{{Key: "late", Lot: "1", Expires: "2028-01-01", Quantity: n(9)},
				{Key: "soon", Lot: "2", Expires: "2027-01-01", Quantity: n(4)}}, "4 of soon, 2 of late"},
		"first arrival first": {Want{Quantity: n(6)},
			[]Stock{{Key: "new", Lot: "1", Arrived: "2026-11-01", Quantity: n(9)},
				{Key: "old", Lot: "2", Arrived: "2026-10-01", Quantity: n(4)}}, "4 of old, 2 of new"},
		"too little life left": {Want{Quantity: n(6), NotBefore: "2027-06-01"},
			[]Stock{{Key: "soon", Lot: "2", Bin: "C", Expires: "2027-01-01", Quantity: n(4)},
				{Key: "late", Lot: "1", Expires: "2028-01-01", Quantity: n(5)}}, "5 of late, 1 short"},
		"reservations before all else": {Want{Quantity: n(6)},
			[]Stock{{Key: "soon", Lot: "2", Expires: "2027-01-01", Quantity: n(9)},
				{Key: "reservation", Lot: "1", Expires: "2029-01-01", Quantity: n(2),
					Reserved: true}}, "2 of reservation, 4 of soon"},
		"a bin named to be emptied": {Want{Quantity: n(6)}, []Stock{{Key: "a", Quantity: n(9)},
			{Key: "b", Quantity: n(4), First: true, WalkM: 99}}, "4 of b, 2 of a"},
		"a carton of just that before loose units nearby": {Want{Quantity: n(12)},
			[]Stock{{Key: "loose", Quantity: n(40), WalkM: 1}, {Key: "far", Quantity: n(12), Whole: true, WalkM: 90},
				{Key: "near", Quantity: n(12), Whole: true, WalkM: 9}, {Key: "pallet", Quantity: n(48), Whole: true}},
			"12 of near"},
		"a refilled picking bin before its reserve": {Want{Quantity: n(12)},
			[]Stock{{Key: "reserve", Quantity: n(40), WalkM: 1}, {Key: "home", Quantity: n(8), Refilled: true, WalkM: 9}},
			"8 of home, 4 of reserve"},
		"but not before an earlier expiry in reserve": {Want{Quantity: n(6)},
			[]Stock{{Key: "home", Lot: "2", Expires: "2028-02-01", Quantity: n(6), Refilled: true},
				{Key: "reserve", Lot: "1", Expires: "2028-01-01", Quantity: n(4)}}, "4 of reserve, 2 of home"},
		"but not before an earlier expiry": {Want{Quantity: n(6)},
			[]Stock{{Key: "carton", Lot: "2", Expires: "2028-01-01", Quantity: n(6), Whole: true},
				{Key: "loose", Lot: "1", Expires: "2027-01-01", Quantity: n(9)}}, "6 of loose"},
		"nothing there": {Want{Quantity: n(6)}, []Stock{{Key: "a"}}, "6 short"},
		"measured": {Want{Quantity: decimal.RequireFromString("2.5")},
			[]Stock{{Key: "a", Quantity: decimal.RequireFromString("1.75")},
				{Key: "b", Quantity: decimal.RequireFromString("1.2")}}, "1.75 of a, 0.75 of b"},
	} {
		a := Choose(c.want, c.stock)
		if got := words(a); got != c.is {
			t.Errorf("%s: %s, want %s", name, got, c.is)
		}
		if name == "too little life left" &&
			(len(a.TooOld) != 1 || !strings.Contains(a.TooOld[0], "lot 2 in C expire 2027-01-01")) {
			t.Errorf("what is left out is not named: %v", a.TooOld)
		}
	}
}

func TestWithdrawalOffersPickingZonesThenUsualBinsThenTheRest(t *testing.T) {
	stock := []Stock{
		{Bin: "reserve", Lot: "1", Arrived: "2026-01-01"}, {Bin: "usual", Lot: "2", Arrived: "2026-05-01", Usual: true},
		{Bin: "pick-new", Lot: "3", Arrived: "2026-09-01", Picking: true}, {Bin: "pick-old", Lot: "4",
			Arrived: "2026-08-01", Picking: true},
		{Bin: "pick-far", Lot: "4", Arrived: "2026-08-01", Picking: true, WalkM: 9}, {Bin: "gone", Lot: "5",
			Expires: "2026-10-01", Picking: true},
	}
	Withdrawal(stock, "2026-12-01")
	var got []string
	for _, s := range stock {
		got = append(got, s.Bin)
	}
	if want := "pick-old pick-far pick-new usual reserve gone"; strings.Join(got, " ") != want {
		t.Errorf("%v, want %s", got, want)
	}
}

// TestEqualsAreServedAtTheOptimum compares the fewest bins, then the least walk,
// with the optimum that COIN-OR CBC finds; and checks on each random case that
// nothing is taken twice and no earlier date is left while a later one is used.
func TestEqualsAreServedAtTheOptimum(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 6))
	for i := range 200 {
		var stock []Stock
		dates := []string{"2027-01-01", "2027-06-01", "2028-01-01"}
		for j := range 3 + r.IntN(10) {
			stock = append(stock, Stock{Key: fmt.Sprint(j), Lot: "L", Expires: dates[r.IntN(3)],
				Quantity: n(1 + r.Int64N(20)), WalkM: float64(r.IntN(500)) / 10})
		}
		w := Want{Quantity: n(1 + r.Int64N(60))}
		a := Choose(w, stock)
		taken := map[string]decimal.Decimal{}
		sum := a.Short
		last := ""
		for _, p := range a.Parts {
			taken[p.Key] = taken[p.Key].Add(p.Quantity)
			sum = sum.Add(p.Quantity)
			for _, s := range stock {
				if s.Key == p.Key {
					last = max(last, s.Expires)
				}
			}
		}
		if !sum.Equal(w.Quantity) {
			t.Fatalf("case %d: %s of %s", i, sum, w.Quantity)
		}
		var group []Stock
		need := w.Quantity
		for _, s := range stock {
			switch {
			case taken[s.Key].GreaterThan(s.Quantity):
				t.Fatalf("case %d: %s taken of %s", i, taken[s.Key], s.Quantity)
			case s.Expires < last:
				if !taken[s.Key].Equal(s.Quantity) {
					t.Fatalf("case %d: %s is left in %s, which expires before %s", i, s.Quantity.Sub(taken[s.Key]),
						s.Key, last)
				}
				need = need.Sub(s.Quantity)
			case s.Expires == last:
				group = append(group, s)
			}
		}
		if i >= 25 || a.Short.IsPositive() {
			continue
		}
		var objective, sums, names strings.Builder
		got := 0.0
		for _, s := range group {
			fmt.Fprintf(&objective, " + %.2f y%s", 10000+s.WalkM, s.Key)
			fmt.Fprintf(&sums, " + %s y%s", s.Quantity, s.Key)
			fmt.Fprintf(&names, " y%s", s.Key)
			if taken[s.Key].IsPositive() {
				got += 10000 + s.WalkM
			}
		}
		want, _ := judge.Minimum(t, fmt.Sprintf("Minimize\nobj:%s\nSubject To\nc:%s >= %s\nBinaries\n%s\nEnd\n",
			&objective, &sums, need, &names))
		if math.Abs(got-want) > 0.01 {
			t.Fatalf("case %d: %g, cbc finds %g", i, got, want)
		}
	}
}
