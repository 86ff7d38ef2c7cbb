package batching

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"lanternrow/internal/core/walking"
	"lanternrow/internal/test/judge"
)

// day makes a floor and a day's orders on it; lengths are multiples of half a metre.
func day(r *rand.Rand, aisles, orders, stops int) (walking.Floor, walking.Point, []Order) {
	f := walking.Floor{Cross: []float64{0, 15, 30}}
	for i := range aisles {
		f.Aisles = append(f.Aisles, float64(4*i))
	}
	var out []Order
	for i := range orders {
		o := Order{Key: fmt.Sprint(i), Cartons: 1 + r.IntN(2), WeightKg: float64(r.IntN(40)) / 2}
		for range 1 + r.IntN(stops) {
			o.Stops = append(o.Stops, walking.Point{X: f.Aisles[r.IntN(aisles)], Y: float64(r.IntN(61)) / 2})
		}
		o.Lines = len(o.Stops)
		out = append(out, o)
	}
	return f, walking.Point{X: f.Aisles[aisles/2], Y: 0}, out
}

// checked fails the test unless every order is on one round, within the limits.
func checked(t *testing.T, orders []Order, l Limits, a Answer) {
	t.Helper()
	var all []int
	sum := 0.0
	for _, b := range a.Batches {
		var carried load
		for _, i := range b.Orders {
			carried = carried.with(orders[i])
		}
		if len(b.Orders) > 1 && !l.takes(carried) {
			t.Fatalf("a round carries %+v, beyond %+v", carried, l)
		}
		all = append(all, b.Orders...)
		sum += b.Metres
	}
	slices.Sort(all)
	for i, o := range all {
		if i != o || len(all) != len(orders) {
			t.Fatalf("the rounds serve %v of %d orders", all, len(orders))
		}
	}
	if math.Abs(sum-a.Metres) > 1e-6 || a.Metres > a.SingleMetres+1e-6 {
		t.Fatalf("%g m in all, the rounds come to %g m, one by one %g m", a.Metres, sum, a.SingleMetres)
	}
}

// TestFewOrdersAreGatheredAtTheOptimum asks COIN-OR CBC for the cheapest way to part the
// orders into rounds, as a set partitioning programme over every round that a trolley
// takes; what each walks is proven by the tests of walking.
func TestFewOrdersAreGatheredAtTheOptimum(t *testing.T) {
	r := rand.New(rand.NewPCG(19, 64))
	for c := range 12 {
		f, start, orders := day(r, 6, 4+c%4, 4)
		l := Limits{Cartons: 4 + r.IntN(3), Lines: 6 + r.IntN(6), WeightKg: 40}
		a, err := Gather(f, start, orders, l)
		if err != nil || !a.Proven {
			t.Fatal(a.Proven, err)
		}
		checked(t, orders, l, a)
		var objective, names strings.Builder
		serves := make([]string, len(orders))
		for set := 1; set < 1<<len(orders); set++ {
			var carried load
			var stops []walking.Point
			var in []int
			for i, o := range orders {
				if set&(1<<i) != 0 {
					carried, stops, in = carried.with(o), append(stops, o.Stops...), append(in, i)
				}
			}
			if len(in) > 1 && !l.takes(carried) {
				continue
			}
			round, err := walking.Shortest(f, start, stops)
			if err != nil {
				t.Fatal(err)
			}
			fmt.Fprintf(&objective, " + %.3f r%d", round.Metres, set)
			fmt.Fprintf(&names, " r%d", set)
			for _, i := range in {
				serves[i] += fmt.Sprintf(" + r%d", set)
			}
		}
		lp := "Minimize\nobj:" + objective.String() + "\nSubject To\n"
		for i, s := range serves {
			lp += fmt.Sprintf("o%d:%s = 1\n", i, s)
		}
		want, _ := judge.Minimum(t, lp+"Binaries\n"+names.String()+"\nEnd\n")
		if math.Abs(a.Metres-want) > 1e-3 {
			t.Fatalf("case %d: gathered to %g m, cbc finds %g m", c, a.Metres, want)
		}
	}
}

// TestManyOrdersAreGatheredNearTheOptimum holds the search against the proven optimum
// where both can be had, and sees that the rounds are whole where only it can.
func TestManyOrdersAreGatheredNearTheOptimum(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 8))
	worst, sum := 0.0, 0.0
	for range 40 {
		f, start, orders := day(r, 8, fewest, 4)
		l := Limits{Cartons: 5}
		a, err := Gather(f, start, orders, l)
		if err != nil {
			t.Fatal(err)
		}
		g := &gatherer{floor: f, start: start, orders: orders, limits: l, known: map[string]float64{}}
		g.profile()
		found := 0.0
		for _, group := range g.polish(g.trade(g.seed())) {
			metres, _ := g.walk(group)
			found += metres
		}
		above := found/a.Metres - 1
		worst, sum = max(worst, above), sum+above
	}
	if worst > 0.15 || sum/40 > 0.03 {
		t.Errorf("the search is up to %.1f %% above the optimum, %.1f %% on average", 100*worst, 100*sum/40)
	}
	for _, l := range []Limits{{}, {Cartons: 8}, {Lines: 20}, {WeightKg: 60, Cartons: 12}} {
		f, start, orders := day(r, 12, 150, 8)
		a, err := Gather(f, start, orders, l)
		if err != nil {
			t.Fatal(err)
		}
		checked(t, orders, l, a)
		again, _ := Gather(f, start, orders, l)
		if fmt.Sprint(a) != fmt.Sprint(again) {
			t.Fatal("the same orders are gathered differently the second time")
		}
	}
}

func TestAnOrderBeyondTheTrolleyWalksAlone(t *testing.T) {
	f := walking.Floor{Aisles: []float64{0, 4}, Cross: []float64{0, 10}}
	near := []walking.Point{{X: 0, Y: 4}}
	a, err := Gather(f, walking.Point{}, []Order{{Stops: near, Cartons: 9}, {Stops: near}, {Stops: near}},
		Limits{Cartons: 2})
	if err != nil || fmt.Sprint(a.Batches) != "[{[0] 8} {[1 2] 8}]" || a.SingleMetres != 24 {
		t.Fatalf("%v, one by one %g, %v", a.Batches, a.SingleMetres, err)
	}
	if _, err := Gather(f, walking.Point{}, []Order{{Stops: []walking.Point{{X: 2, Y: 4}}}}, Limits{}); err == nil {
		t.Fatal("a stop between aisles is walked to")
	}
}

func BenchmarkThousandOrders(b *testing.B) {
	f, start, orders := day(rand.New(rand.NewPCG(1, 1)), 25, 1000, 9)
	for b.Loop() {
		a, err := Gather(f, start, orders, Limits{Cartons: 12})
		if err != nil {
			b.Fatal(err)
		}
		b.ReportMetric(100*(1-a.Metres/a.SingleMetres), "%saved")
		b.ReportMetric(float64(len(a.Batches)), "rounds")
		b.ReportMetric(a.Metres, "metres")
	}
}

// TestNoSingleChangeOfAGatheringWalksLess looks at every order of many gatherings that are
// not proven, in every other round it would fit into: where the polish has had its say,
// moving one seldom helps, and never by much.
func TestNoSingleChangeOfAGatheringWalksLess(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 14))
	better, tried := 0, 0
	for range 12 {
		f, start, orders := day(r, 6, 12+r.IntN(10), 4)
		l := Limits{Cartons: 5, Lines: 14}
		a, err := Gather(f, start, orders, l)
		if err != nil {
			t.Fatal(err)
		}
		checked(t, orders, l, a)
		g := &gatherer{floor: f, start: start, orders: orders, limits: l, known: map[string]float64{}}
		for from, b := range a.Batches {
			for _, i := range b.Orders {
				rest := slices.DeleteFunc(slices.Clone(b.Orders), func(o int) bool { return o == i })
				restMetres, _ := g.walk(rest)
				for to, other := range a.Batches {
					grown := append(slices.Clone(other.Orders), i)
					slices.Sort(grown)
					if to == from || !g.fits(grown) {
						continue
					}
					metres, _ := g.walk(grown)
					tried++
					if saved := b.Metres + other.Metres - restMetres - metres; saved > 1e-6 {
						better++
						if saved > 0.1*a.Metres {
							t.Fatalf("moving order %d saves %g of %g m", i, saved, a.Metres)
						}
					}
				}
			}
		}
	}
	if tried < 100 || better*10 > tried {
		t.Errorf("%d of %d single moves would have helped", better, tried)
	}
}

func TestWhatCannotBeGatheredIsRefused(t *testing.T) {
	f := walking.Floor{Aisles: []float64{0, 4}, Cross: []float64{0, 10}}
	if a, err := Gather(f, walking.Point{}, nil, Limits{}); err != nil || len(a.Batches) != 0 || a.Metres != 0 ||
		!a.Proven {
		t.Fatalf("no orders come to %+v, %v", a, err)
	}
	for name, c := range map[string]struct {
		floor  walking.Floor
		start  walking.Point
		orders []Order
	}{
		"a floor without aisles": {walking.Floor{Cross: []float64{0, 10}}, walking.Point{},
			[]Order{{Stops: []walking.Point{{}}}}},
		"a bench that is off the floor":  {f, walking.Point{Y: 3}, []Order{{Stops: []walking.Point{{Y: 4}}}}},
		"more orders than one gathering": {f, walking.Point{}, make([]Order, MaxOrders+1)},
	} {
		if _, err := Gather(c.floor, c.start, c.orders, Limits{}); err == nil {
			t.Errorf("%s is gathered", name)
		}
	}
}
