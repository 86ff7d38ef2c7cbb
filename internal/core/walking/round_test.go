package walking

import (
	"fmt"
	"lanternrow/internal/core/refusal"
	"math"
	"math/rand/v2"
	"sort"
	"strings"
	"testing"

	"lanternrow/internal/test/judge"
)

// block makes a random floor and stops on it. Every length is a multiple of half
// a metre, so that sums are exact.
func block(r *rand.Rand, stops int) (Floor, Point, []Point) {
	f := Floor{}
	for i := range 2 + r.IntN(6) {
		f.Aisles = append(f.Aisles, float64(3*i)+float64(r.IntN(3))/2)
	}
	y := 0.0
	for range 2 + r.IntN(3) {
		f.Cross = append(f.Cross, y)
		y += 4 + float64(r.IntN(12))/2
	}
	start := Point{float64(r.IntN(40))/2 - 1, f.Cross[r.IntN(len(f.Cross))]}
	if r.IntN(2) == 0 {
		start.X = f.Aisles[r.IntN(len(f.Aisles))]
	}
	length := f.Cross[len(f.Cross)-1]
	var out []Point
	for range stops {
		out = append(out, Point{f.Aisles[r.IntN(len(f.Aisles))], float64(r.IntN(int(2*length)+1)) / 2})
	}
	return f, start, out
}

// heldKarp is the exact shortest tour by dynamic programming over subsets (Held
// and Karp, 1962), which knows nothing of aisles.
func heldKarp(f Floor, start Point, stops []Point) float64 {
	n := len(stops)
	if n == 0 {
		return 0
	}
	best := make([][]float64, 1<<n)
	for set := range best {
		best[set] = make([]float64, n)
		for last := range n {
			best[set][last] = math.Inf(1)
			if set == 1<<last {
				best[set][last] = f.Distance(start, stops[last])
			} else if set&(1<<last) != 0 {
				for prev := range n {
					if prev != last && set&(1<<prev) != 0 {
						best[set][last] = math.Min(best[set][last], best[set&^(1<<last)][prev]+f.Distance(stops[prev],
							stops[last]))
					}
				}
			}
		}
	}
	shortest := math.Inf(1)
	for last := range n {
		shortest = math.Min(shortest, best[1<<n-1][last]+f.Distance(stops[last], start))
	}
	return shortest
}

func TestShortestEqualsTheExactTourOnSmallFloors(t *testing.T) {
	r := rand.New(rand.NewPCG(1983, 3))
	for i := range 1500 {
		f, start, stops := block(r, r.IntN(9))
		got, err := Shortest(f, start, stops)
		if err != nil {
			t.Fatal(err)
		}
		if want := heldKarp(f, start, stops); math.Abs(got.Metres-want) > 1e-6 {
			t.Fatalf("case %d: walked %g m, shortest is %g m\n%+v from %+v through %+v", i, got.Metres, want, f,
				start, stops)
		}
	}
}

// sShape walks each aisle that has stops from end to end, alternately up and down
// (the S-shape rule of the order-picking literature; Hall 1993), on a floor taken
// as one block.
func sShape(f Floor, start Point, stops []Point) float64 {
	sorted := append([]Point(nil), stops...)
	low, high := f.Cross[0], f.Cross[len(f.Cross)-1]
	sort.SliceStable(sorted, func(i, j int) bool { return sorted[i].X < sorted[j].X })
	length, at := 0.0, start
	for i := 0; i < len(sorted); {
		x := sorted[i].X
		from, to := Point{x, low}, Point{x, high}
		if at.Y == high {
			from, to = to, from
		}
		length += f.Distance(at, from) + (high - low)
		at = to
		for i < len(sorted) && sorted[i].X == x {
			i++
		}
	}
	return length + f.Distance(at, start)
}

// largestGap enters each aisle from both ends and leaves out its widest gap; the
// first and last aisles are walked through (Hall 1993).
func largestGap(f Floor, start Point, stops []Point) float64 {
	low, high := f.Cross[0], f.Cross[len(f.Cross)-1]
	aisles := map[float64][]float64{}
	var xs []float64
	for _, s := range stops {
		if aisles[s.X] == nil {
			xs = append(xs, s.X)
		}
		aisles[s.X] = append(aisles[s.X], s.Y)
	}
	sort.Float64s(xs)
	first, last := xs[0], xs[len(xs)-1]
	length := f.Distance(start, Point{first, low}) + 2*(high-low) + 2*(last-first) + f.Distance(Point{first, low},
		start)
	for _, x := range xs {
		if x == first || x == last {
			continue
		}
		ys := append([]float64{low, high}, aisles[x]...)
		sort.Float64s(ys)
		gap := 0.0
		for i := range len(ys) - 1 {
			gap = math.Max(gap, ys[i+1]-ys[i])
		}
		length += 2 * (high - low - gap)
	}
	return length
}

func TestShortestIsNeverLongerThanAnyRuleAndVisitsEveryStopOnce(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 1993))
	for i := range 300 {
		f, start, stops := block(r, 1+r.IntN(60))
		got, err := Shortest(f, start, stops)
		if err != nil {
			t.Fatal(err)
		}
		seen := append([]int(nil), got.Order...)
		sort.Ints(seen)
		for j, s := range seen {
			if j != s || len(seen) != len(stops) {
				t.Fatalf("case %d: order %v does not visit each of %d stops once", i, got.Order, len(stops))
			}
		}
		for name, rule := range map[string]float64{"S-shape": sShape(f, start, stops),
			"largest gap": largestGap(f, start, stops), "given order": got.PlainMetres} {
			if got.Metres > rule+1e-6 {
				t.Fatalf("case %d: %g m is longer than %s, %g m", i, got.Metres, name, rule)
			}
		}
		along := 0.0
		for j := 1; j < len(got.Path); j++ {
			along += math.Abs(got.Path[j].X-got.Path[j-1].X) + math.Abs(got.Path[j].Y-got.Path[j-1].Y)
		}
		if math.Abs(along-got.Metres) > 1e-6 {
			t.Fatalf("case %d: the drawn path is %g m, the round %g m", i, along, got.Metres)
		}
	}
}

// TestShortestEqualsAnIntegerProgramme asks COIN-OR CBC for the shortest tour, as
// the integer programme of Miller, Tucker and Zemlin (1960).
func TestShortestEqualsAnIntegerProgramme(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	for i := range 6 {
		f, start, stops := block(r, 7+i%3)
		got, err := Shortest(f, start, stops)
		if err != nil {
			t.Fatal(err)
		}
		if want := solveTour(t, f, append([]Point{start}, stops...)); math.Abs(got.Metres-want) > 1e-4 {
			t.Fatalf("case %d: walked %g m, cbc finds %g m", i, got.Metres, want)
		}
	}
}

func solveTour(t *testing.T, f Floor, at []Point) float64 {
	t.Helper()
	n := len(at)
	var lp, binaries strings.Builder
	lp.WriteString("Minimize\nobj:")
	for i := range n {
		for j := range n {
			if i != j {
				fmt.Fprintf(&lp, " + %.4f x%d_%d", f.Distance(at[i], at[j]), i, j)
				fmt.Fprintf(&binaries, " x%d_%d", i, j)
			}
		}
	}
	lp.WriteString("\nSubject To\n")
	for i := range n {
		for _, form := range []string{" + x%[1]d_%[2]d", " + x%[2]d_%[1]d"} {
			for j := range n {
				if i != j {
					fmt.Fprintf(&lp, form, i, j)
				}
			}
			lp.WriteString(" = 1\n")
		}
	}
	for i := 1; i < n; i++ {
		for j := 1; j < n; j++ {
			if i != j {
				fmt.Fprintf(&lp, " u%d - u%d + %d x%d_%d <= %d\n", i, j, n, i, j, n-1)
			}
		}
	}
	lp.WriteString("Bounds\n")
	for i := 1; i < n; i++ {
		fmt.Fprintf(&lp, " 1 <= u%d <= %d\n", i, n-1)
	}
	lp.WriteString("Binaries\n" + binaries.String() + "\nEnd\n")
	value, _ := judge.Minimum(t, lp.String())
	return value
}

func TestShortestRefusesWhatIsNotOnTheFloor(t *testing.T) {
	floor := Floor{Aisles: []float64{0, 4}, Cross: []float64{0, 20}}
	for name, c := range map[string]struct {
		f     Floor
		start Point
		stop  Point
		code  refusal.Code
	}{
		"a stop between aisles":    {floor, Point{0, 0}, Point{2, 5}, "round_stop"},
		"a stop beyond the aisle":  {floor, Point{0, 0}, Point{4, 21}, "round_stop"},
		"a bench off cross aisles": {floor, Point{0, 3}, Point{4, 5}, "round_start"},
		"a floor of one cross line": {Floor{Aisles: []float64{0}, Cross: []float64{0}}, Point{0, 0}, Point{0, 0},
			"floor_cross"},
	} {
		_, err := Shortest(c.f, c.start, []Point{c.stop})
		if err == nil || codeOf(err) != c.code {
			t.Errorf("%s: got %v, want a refusal with code %s", name, err, c.code)
		}
	}
}

func BenchmarkRoundOf100StopsIn40Aisles(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 2))
	f := Floor{Cross: []float64{0, 20, 40}}
	for i := range 40 {
		f.Aisles = append(f.Aisles, float64(4*i))
	}
	var stops []Point
	for range 100 {
		stops = append(stops, Point{f.Aisles[r.IntN(40)], 1 + 38*r.Float64()})
	}
	for b.Loop() {
		if _, err := Shortest(f, Point{78, 0}, stops); err != nil {
			b.Fatal(err)
		}
	}
}

// The length alone is that of the round, for any floor and any stops.
func TestMetresIsTheLengthOfTheShortestRound(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 11))
	for i := range 400 {
		f, start, stops := block(r, r.IntN(40))
		round, err := Shortest(f, start, stops)
		if err != nil {
			t.Fatal(err)
		}
		if got, err := Metres(f, start, stops); err != nil || math.Abs(got-round.Metres) > 1e-6 {
			t.Fatalf("case %d: %g m, the round is %g m (%v)", i, got, round.Metres, err)
		}
	}
	if _, err := Metres(Floor{}, Point{}, nil); err == nil {
		t.Error("a floor without aisles has a length")
	}
}

// Serving more stops never walks less, and two rounds never walk less than one that does
// the work of both: what gathering orders relies on.
func TestARoundForBothIsNoLongerThanTwoRounds(t *testing.T) {
	r := rand.New(rand.NewPCG(12, 12))
	for i := range 300 {
		f, start, stops := block(r, 2+r.IntN(20))
		cut := 1 + r.IntN(len(stops)-1)
		a, _ := Metres(f, start, stops[:cut])
		b, _ := Metres(f, start, stops[cut:])
		both, err := Metres(f, start, stops)
		if err != nil || both > a+b+1e-6 || both < math.Max(a, b)-1e-6 {
			t.Fatalf("case %d: %g m and %g m, both %g m (%v)", i, a, b, both, err)
		}
	}
}
