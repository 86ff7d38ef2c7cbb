// Package walking finds the shortest walk through the bins of a floor.
//
// The floor is the usual one: parallel aisles joined by cross aisles at right
// angles, two at least (front and back), any number between. People may turn
// around in an aisle and walk it both ways. Lengths are metres.
package walking

import (
	"math"
	"sort"

	"lanternrow/internal/core/refusal"
)

// A Floor is aisles, each at its own X, joined by cross aisles, each at its own Y.
type Floor struct {
	// Aisles are the X positions, in metres.
	Aisles []float64 `json:"aisles"`
	// Cross holds the Y positions of the cross aisles, in metres: two or more.
	Cross []float64 `json:"cross"`
}

// A Point is a location to stand: in an aisle at Y, for a bin; or anywhere on a cross
// aisle, for a bench.
type Point struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// MaxCross is how many cross aisles a floor may have; the work grows quickly with
// it and slowly with everything else.
const MaxCross = 6

const tolerance = 1e-6

// Check refuses a floor on which no round can be calculated.
func (f Floor) Check() error {
	switch {
	case len(f.Aisles) == 0:
		return refusal.New(refusal.FloorAisles, "floor.aisles", "The floor has no aisles.")
	case len(f.Cross) < 2:
		return refusal.New(refusal.FloorCross, "floor.cross",
			"The floor has %d cross aisles and needs at least two, one at each end of the aisles.", len(f.Cross))
	case len(f.Cross) > MaxCross:
		return refusal.New(refusal.FloorCross, "floor.cross",
			"The floor has %d cross aisles; at most %d can be planned with.", len(f.Cross), MaxCross)
	}
	for _, v := range append(append([]float64(nil), f.Aisles...), f.Cross...) {
		if math.IsNaN(v) || math.Abs(v) > 1e5 {
			return refusal.New(refusal.FloorAbsurd, "floor", "A position of %g metres cannot be on a floor.", v)
		}
	}
	return nil
}

// sorted returns the floor with its lines in rising order, each once.
func (f Floor) sorted() Floor {
	once := func(in []float64) []float64 {
		out := append([]float64(nil), in...)
		sort.Float64s(out)
		kept := out[:0]
		for _, v := range out {
			if len(kept) == 0 || v-kept[len(kept)-1] > tolerance {
				kept = append(kept, v)
			}
		}
		return kept
	}
	return Floor{Aisles: once(f.Aisles), Cross: once(f.Cross)}
}

// Nearest is the point of a cross aisle that is nearest to p, where a round that begins
// at p enters the floor.
func (f Floor) Nearest(p Point) Point {
	best := p
	for i, y := range f.Cross {
		if i == 0 || math.Abs(y-p.Y) < math.Abs(best.Y-p.Y) {
			best.Y = y
		}
	}
	return best
}

// Reach is where one stands in an aisle to reach p: p itself in an aisle, and for a
// location outside of them, such as a dock, the end of the nearest aisle.
func (f Floor) Reach(p Point) Point {
	best := p
	for i, x := range f.Aisles {
		if math.Abs(x-p.X) <= tolerance {
			return p
		}
		if i == 0 || math.Abs(x-p.X) < math.Abs(best.X-p.X) {
			best.X = x
		}
	}
	return f.Nearest(best)
}

// Distance is the length of the shortest walk between two points of the floor.
func (f Floor) Distance(a, b Point) float64 {
	dx := math.Abs(a.X - b.X)
	if dx <= tolerance {
		return math.Abs(a.Y - b.Y)
	}
	best := math.Inf(1)
	for _, y := range f.Cross {
		best = math.Min(best, math.Abs(a.Y-y)+dx+math.Abs(y-b.Y))
	}
	return best
}

// Length is the walk from start through the stops in the order given and back.
func (f Floor) Length(start Point, stops []Point) float64 {
	total, at := 0.0, start
	for _, s := range stops {
		total += f.Distance(at, s)
		at = s
	}
	return total + f.Distance(at, start)
}

// Path is the polyline walked from start through the stops in order and back.
func (f Floor) Path(start Point, stops []Point) []Point {
	path := []Point{start}
	for _, s := range append(append([]Point(nil), stops...), start) {
		path = f.leg(path, s)
	}
	return path
}

// leg walks on from the end of a path to a point.
func (f Floor) leg(path []Point, s Point) []Point {
	at := path[len(path)-1]
	if math.Abs(at.X-s.X) > tolerance {
		best, turn := math.Inf(1), 0.0
		for _, y := range f.Cross {
			if d := math.Abs(at.Y-y) + math.Abs(y-s.Y); d < best {
				best, turn = d, y
			}
		}
		path = appendPoint(path, Point{at.X, turn})
		path = appendPoint(path, Point{s.X, turn})
	}
	return appendPoint(path, s)
}

// Along is where somebody is who has walked a share of the way from one point to another, from 0 at the one to 1 at the
// other.
func (f Floor) Along(from, to Point, share float64) Point {
	path := f.leg([]Point{from}, to)
	left := f.Distance(from, to) * min(1, max(0, share))
	for i, p := range path[1:] {
		at := path[i]
		if d := math.Abs(p.X-at.X) + math.Abs(p.Y-at.Y); left <= d && d > 0 {
			return Point{at.X + (p.X-at.X)*left/d, at.Y + (p.Y-at.Y)*left/d}
		} else {
			left -= d
		}
	}
	return to
}

func appendPoint(path []Point, p Point) []Point {
	if q := path[len(path)-1]; q == p {
		return path
	}
	return append(path, p)
}
