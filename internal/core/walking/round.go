package walking

import (
	"fmt"
	"math"
	"sort"

	"lanternrow/internal/core/refusal"
)

// A Round is the shortest walk found.
type Round struct {
	// Order lists the stops as indexes of the input, in the order walked.
	Order []int `json:"order"`
	// Metres is the length of the walk, from the bench and back to it.
	Metres float64 `json:"metres"`
	// PlainMetres is the walk through the stops in the order they were given,
	// plain bin order when they come sorted by bin.
	PlainMetres float64 `json:"plain_metres"`
	// Path is the walk as a line for the plan of the floor.
	Path []Point `json:"path"`
}

// MaxStops is how many stops one round may have.
const MaxStops = 5000

// Shortest finds the shortest closed walk from start through all stops.
//
// It is exact. It builds the walk aisle by aisle with dynamic programming, as
// Ratliff and Rosenthal (1983) do for two cross aisles and Cambazard and Catusse
// (2018) for any number: the state at an aisle is, for each cross aisle, whether an
// odd or even number of edges meets there and which of its crossings hang
// together. Work grows linearly with aisles and stops.
//
// start must lie on a cross aisle; each stop must lie in an aisle, between the
// outermost cross aisles.
func Shortest(f Floor, start Point, stops []Point) (Round, error) {
	if err := f.Check(); err != nil {
		return Round{}, err
	}
	if len(stops) > MaxStops {
		return Round{}, refusal.New(refusal.RoundStops, "stops", "%d stops are more than one round can have (%d).",
			len(stops), MaxStops)
	}
	f = f.sorted()
	g, err := newGrid(f, start, stops)
	if err != nil {
		return Round{}, err
	}
	r := Round{Order: []int{}, PlainMetres: f.Length(start, stops)}
	if len(stops) > 0 {
		r.Order = g.solve()
	}
	ordered := make([]Point, len(r.Order))
	for i, s := range r.Order {
		ordered[i] = stops[s]
	}
	r.Metres = f.Length(start, ordered)
	r.Path = f.Path(start, ordered)
	return r, nil
}

// Metres is the length of the shortest closed walk from start through all stops, and
// refuses what Shortest refuses.
func Metres(f Floor, start Point, stops []Point) (float64, error) {
	if err := f.Check(); err != nil {
		return 0, err
	}
	g, err := newGrid(f.sorted(), start, stops)
	if err != nil || len(stops) == 0 {
		return 0, err
	}
	_, metres, _ := g.reach()
	return metres, nil
}

// grid is the floor cut down to what matters to one round: the columns are the
// aisles in use, and the bench's own location on its cross aisle.
type grid struct {
	cross   []float64
	columns []column
	depot   crossing
}

type crossing struct{ col, row int }

type column struct {
	x     float64
	aisle bool
	// stops[k] are those between cross aisles k and k+1, by rising y; at[k]
	// those that lie on cross aisle k itself.
	stops [][]stop
	at    [][]int
}

type stop struct {
	y   float64
	ids []int
}

func newGrid(f Floor, start Point, stops []Point) (*grid, error) {
	g := &grid{cross: f.Cross}
	row := -1
	for k, y := range f.Cross {
		if math.Abs(y-start.Y) <= tolerance {
			row = k
		}
	}
	if row < 0 {
		return nil, refusal.New(refusal.RoundStart, "start",
			"The round starts at y = %g m, which is on no cross aisle.", start.Y)
	}
	// Only aisles with stops can carry the walk lengthwise, but the two cheapest
	// outer connections may use any aisle between; keeping all aisles between the
	// outermost columns in use keeps the search exact.
	lo, hi := start.X, start.X
	for i, s := range stops {
		if !onLine(f.Aisles, s.X) {
			return nil, refusal.New(refusal.RoundStop, fmt.Sprintf("stops[%d]", i),
				"Stop %d at x = %g m lies in no aisle.", i+1, s.X)
		}
		if s.Y < f.Cross[0]-tolerance || s.Y > f.Cross[len(f.Cross)-1]+tolerance {
			return nil, refusal.New(refusal.RoundStop, fmt.Sprintf("stops[%d]", i),
				"Stop %d at y = %g m lies beyond the cross aisles.", i+1, s.Y)
		}
		lo, hi = math.Min(lo, s.X), math.Max(hi, s.X)
	}
	add := func(x float64, aisle bool) {
		g.columns = append(g.columns, column{x: x, aisle: aisle, stops: make([][]stop, len(f.Cross)-1),
			at: make([][]int, len(f.Cross))})
	}
	// An aisle beyond the outermost stop can still be the way from one cross
	// aisle to another for a bench that stands outside it.
	left, right := -1, -1
	for i, x := range f.Aisles {
		if x <= lo+tolerance {
			left = i
		}
		if right < 0 && x >= hi-tolerance {
			right = i
		}
	}
	if left < 0 {
		left = 0
	}
	if right < 0 {
		right = len(f.Aisles) - 1
	}
	for _, x := range f.Aisles[left : right+1] {
		add(x, true)
	}
	if !onLine(f.Aisles, start.X) {
		add(start.X, false)
	}
	sort.Slice(g.columns, func(i, j int) bool { return g.columns[i].x < g.columns[j].x })
	for i, c := range g.columns {
		if math.Abs(c.x-start.X) <= tolerance {
			g.depot = crossing{i, row}
		}
	}
	for id, s := range stops {
		g.place(id, s)
	}
	return g, nil
}

func onLine(lines []float64, v float64) bool {
	for _, l := range lines {
		if math.Abs(l-v) <= tolerance {
			return true
		}
	}
	return false
}

func (g *grid) place(id int, s Point) {
	for i := range g.columns {
		c := &g.columns[i]
		if !c.aisle || math.Abs(c.x-s.X) > tolerance {
			continue
		}
		for k, y := range g.cross {
			if math.Abs(y-s.Y) <= tolerance {
				c.at[k] = append(c.at[k], id)
				return
			}
		}
		k := sort.SearchFloat64s(g.cross, s.Y) - 1
		list := c.stops[k]
		at := sort.Search(len(list), func(j int) bool { return list[j].y >= s.Y-tolerance })
		if at < len(list) && math.Abs(list[at].y-s.Y) <= tolerance {
			list[at].ids = append(list[at].ids, id)
			return
		}
		list = append(list, stop{})
		copy(list[at+1:], list[at:])
		list[at] = stop{y: s.Y, ids: []int{id}}
		c.stops[k] = list
		return
	}
}
