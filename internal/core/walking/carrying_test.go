package walking

import (
	"math"
	"math/rand/v2"
	"testing"
)

// carriedBest is the least walk, by trying every order.
func carriedBest(f Floor, start Point, carries []Carry) float64 {
	best := math.Inf(1)
	state := make([]int, len(carries))
	var walk func(at Point, done int, metres float64)
	walk = func(at Point, done int, metres float64) {
		if metres >= best {
			return
		}
		if done == 2*len(carries) {
			best = math.Min(best, metres+f.Distance(at, start))
			return
		}
		for i, c := range carries {
			if state[i] == 2 {
				continue
			}
			to := c.From
			if state[i] == 1 {
				to = c.To
			}
			state[i]++
			walk(to, done+1, metres+f.Distance(at, to))
			state[i]--
		}
	}
	walk(start, 0, 0)
	return best
}

// TestWhatIsCarriedIsFetchedFirst holds for any floor and carries: each is fetched once and brought once, in that
// order; the walk is as long as it says, never longer than one round behind another, and on small floors near the least
// there is.
func TestWhatIsCarriedIsFetchedFirst(t *testing.T) {
	r := rand.New(rand.NewPCG(14, 11))
	var found, least float64
	for n := range 120 {
		f := Floor{Aisles: []float64{2, 6, 10, 14}, Cross: []float64{0, 12}}
		if n%2 == 1 {
			f.Cross = []float64{0, 6, 12}
		}
		start := Point{float64(r.IntN(16)), 0}
		carries := make([]Carry, 1+r.IntN(4))
		somewhere := func() Point { return Point{f.Aisles[r.IntN(4)], float64(r.IntN(13))} }
		var froms, tos []Point
		for i := range carries {
			carries[i] = Carry{somewhere(), somewhere()}
			froms, tos = append(froms, carries[i].From), append(tos, carries[i].To)
		}
		w, err := Carried(f, start, carries)
		if err != nil {
			t.Fatal(err)
		}
		fetched, brought := map[int]bool{}, map[int]bool{}
		var points []Point
		for _, s := range w.Steps {
			if s.Bring {
				if !fetched[s.Carry] || brought[s.Carry] {
					t.Fatalf("%v is brought without being fetched, or twice: %v", s, w.Steps)
				}
				brought[s.Carry] = true
				points = append(points, carries[s.Carry].To)
			} else {
				fetched[s.Carry] = true
				points = append(points, carries[s.Carry].From)
			}
		}
		first, _ := Metres(f, start, froms)
		second, _ := Metres(f, start, tos)
		if len(w.Steps) != 2*len(carries) || math.Abs(f.Length(start, points)-w.Metres) > tolerance || w.Metres > first+second+tolerance {
			t.Fatalf("%d steps of %d, %g m of %g, and %g and %g on their own", len(w.Steps), 2*len(carries), w.Metres,
				f.Length(start, points), first, second)
		}
		best := carriedBest(f, start, carries)
		if w.Metres < best-tolerance {
			t.Fatalf("%g m, and no walk is shorter than %g", w.Metres, best)
		}
		found, least = found+w.Metres, least+best
	}
	if found > 1.15*least {
		t.Errorf("walks of %g m, where %g would do", found, least)
	}
	t.Logf("walks of %.0f m, where %.0f would do", found, least)
}

// BenchmarkCarried plans the longest walk that one refill may have.
func BenchmarkCarried(b *testing.B) {
	r := rand.New(rand.NewPCG(14, 12))
	f := Floor{Cross: []float64{0, 20, 40}}
	for i := range 20 {
		f.Aisles = append(f.Aisles, float64(4*i))
	}
	carries := make([]Carry, 200)
	for i := range carries {
		carries[i] = Carry{Point{f.Aisles[r.IntN(20)], float64(r.IntN(41))}, Point{f.Aisles[r.IntN(20)], float64(r.IntN(41))}}
	}
	for b.Loop() {
		if _, err := Carried(f, Point{}, carries); err != nil {
			b.Fatal(err)
		}
	}
}
