package walking

import (
	"math"
	"math/rand/v2"
	"testing"
)

// TestWhoIsOnTheWayIsOnIt: whoever has walked a share of the way has walked so much of it, and has the rest to walk;
// they stand where they began and where they go at its ends.
func TestWhoIsOnTheWayIsOnIt(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 28))
	f := Floor{Aisles: []float64{4, 8, 12, 16}, Cross: []float64{0, 10, 20}}
	point := func() Point { return Point{f.Aisles[r.IntN(4)], 20 * r.Float64()} }
	for range 2000 {
		a, b, share := point(), point(), r.Float64()
		whole, at := f.Distance(a, b), f.Along(a, b, share)
		if d := f.Along(a, b, 0); math.Abs(f.Distance(a, d)) > 1e-9 {
			t.Fatalf("from %v the way begins at %v", a, d)
		}
		if d := f.Along(a, b, 1.5); math.Abs(f.Distance(b, d)) > 1e-9 {
			t.Fatalf("to %v the way ends at %v", b, d)
		}
		// Within a cross aisle a point is in no aisle, so that its distance is measured along both axes there.
		straight := func(p, q Point) float64 { return math.Abs(p.X-q.X) + math.Abs(p.Y-q.Y) }
		if a.X == b.X && math.Abs(straight(a, at)-share*whole) > 1e-9 {
			t.Fatalf("%v of the way from %v to %v is at %v", share, a, b, at)
		}
		if low, high := min(a.X, b.X), max(a.X, b.X); at.X < low-1e-9 || at.X > high+1e-9 || straight(a, at) > share*whole+1e-9 {
			t.Fatalf("%v of the %v from %v to %v is at %v", share, whole, a, b, at)
		}
	}
}
