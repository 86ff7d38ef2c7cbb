package walking

import (
	"math"
	"slices"
)

// A frontier is the state of a part-built walk at one column: degree is, for each
// cross aisle, 0 for untouched, 1 for odd, 2 for even; group numbers the crossings
// that hang together, 0 for untouched ones. closed is set once a finished walk has
// been left behind, after which nothing more may be added.
type frontier struct {
	degree [MaxCross]int8
	group  [MaxCross]int8
	closed bool
}

// normal renumbers the groups in order of appearance, so that equal states are
// equal values.
func (s frontier) normal(rows int) frontier {
	var names [2*MaxCross + 2]int8
	next := int8(1)
	for k := range rows {
		g := s.group[k]
		if g == 0 {
			continue
		}
		if names[g] == 0 {
			names[g] = next
			next++
		}
		s.group[k] = names[g]
	}
	return s
}

// A vertical way of serving the stops of one aisle between two cross aisles.
type vertical int8

const (
	nothing  vertical = iota
	once              // walked through from one end to the other
	twice             // walked through and back
	fromLow           // entered from the lower end, to the last stop and back
	fromHigh          // entered from the upper end, to the last stop and back
	bothEnds          // entered from both ends, leaving out the widest gap
)

// A step is how one frontier was reached from the one before.
type step struct {
	cost float64
	from frontier
	// choice is a vertical in an aisle's section, or how often (0, 1, 2) each
	// cross aisle is walked to the next column, two bits each.
	choice int
}

// key packs the frontier into a number: three bits a group, two a degree.
func (s *frontier) key(rows int) (k uint32) {
	for i := range rows {
		k = k<<5 | uint32(s.group[i])<<2 | uint32(s.degree[i])
	}
	if s.closed {
		k |= 1 << 31
	}
	return k
}

// layer is what is known after one decision: each reachable frontier with the
// cheapest way to it, in the order found, so that equal input gives equal rounds. There
// are few, and looking through their keys is quicker than a map.
type layer struct {
	keys  []uint32
	found []frontier
	steps []step
}

func newLayer() *layer { return &layer{} }

func (l *layer) offer(s frontier, rows int, cost float64, from frontier, choice int) {
	s = s.normal(rows)
	k := s.key(rows)
	if i := slices.Index(l.keys, k); i < 0 {
		l.keys, l.found, l.steps = append(l.keys, k), append(l.found, s), append(l.steps, step{cost, from, choice})
	} else if cost < l.steps[i].cost-1e-9 {
		l.steps[i] = step{cost, from, choice}
	}
}

// to is the cheapest way to a frontier of the layer.
func (l *layer) to(s frontier, rows int) step { return l.steps[slices.Index(l.keys, s.key(rows))] }

// join adds n edges between crossings a and b of one column.
func (s frontier) join(a, b, n int) frontier {
	s = s.reach(a, n).reach(b, n)
	if ga, gb := s.group[a], s.group[b]; ga != gb {
		for k := range s.group {
			if s.group[k] == gb {
				s.group[k] = ga
			}
		}
	}
	return s
}

// reach adds n edge ends at crossing k.
func (s frontier) reach(k, n int) frontier {
	if s.degree[k] == 0 {
		s.group[k] = int8(MaxCross + 1 + k)
		s.degree[k] = 2
	}
	if n%2 == 1 {
		s.degree[k] = 3 - s.degree[k]
	}
	return s
}

// solve runs the programme over all columns and reads the walk back.
func (g *grid) solve() []int {
	layers, _, end := g.reach()
	return g.walk(g.trace(layers, end))
}

// reach runs the programme over all columns: every layer of it, the least length and the
// frontier it ends with.
func (g *grid) reach() (layers []*layer, best float64, end frontier) {
	rows := len(g.cross)
	last := newLayer()
	last.offer(frontier{}, rows, 0, frontier{}, 0)
	push := func(l *layer) { layers = append(layers, l); last = l }
	for i := range g.columns {
		if g.columns[i].aisle {
			for k := range rows - 1 {
				push(g.sections(last, i, k))
			}
		}
		push(g.crossings(last, i))
	}
	best = math.Inf(1)
	for i, s := range last.found {
		if cost := last.steps[i].cost; cost < best {
			best, end = cost, s
		}
	}
	return layers, best, end
}

// sections decides how the stops between cross aisles k and k+1 of column i are
// served.
func (g *grid) sections(in *layer, i, k int) *layer {
	out := newLayer()
	rows := len(g.cross)
	low, high := g.cross[k], g.cross[k+1]
	stops := g.columns[i].stops[k]
	for n, s := range in.found {
		st := in.steps[n]
		if s.closed {
			if len(stops) == 0 {
				out.offer(s, rows, st.cost, s, int(nothing))
			}
			continue
		}
		offer := func(t frontier, cost float64, v vertical) { out.offer(t, rows, st.cost+cost, s, int(v)) }
		offer(s.join(k, k+1, 1), high-low, once)
		offer(s.join(k, k+1, 2), 2*(high-low), twice)
		if len(stops) == 0 {
			offer(s, 0, nothing)
			continue
		}
		offer(s.reach(k, 2), 2*(stops[len(stops)-1].y-low), fromLow)
		offer(s.reach(k+1, 2), 2*(high-stops[0].y), fromHigh)
		if len(stops) > 1 {
			_, gap := widest(stops)
			offer(s.reach(k, 2).reach(k+1, 2), 2*(high-low-gap), bothEnds)
		}
	}
	return out
}

// widest finds the widest gap between neighbouring stops: the index of the stop
// below it, and its length.
func widest(stops []stop) (int, float64) {
	at, gap := 0, -1.0
	for j := range len(stops) - 1 {
		if d := stops[j+1].y - stops[j].y; d > gap {
			at, gap = j, d
		}
	}
	return at, gap
}

// crossings decides how often each cross aisle is walked from column i to the next,
// and whether the walk ends here.
func (g *grid) crossings(in *layer, i int) *layer {
	out := newLayer()
	rows := len(g.cross)
	final := i == len(g.columns)-1
	width := 0.0
	if !final {
		width = g.columns[i+1].x - g.columns[i].x
	}
	for n, s := range in.found {
		st := in.steps[n]
		if g.depot.col == i && s.degree[g.depot.row] == 0 && !s.closed {
			s2 := s.reach(g.depot.row, 2)
			g.spread(out, s2, s, st.cost, i, rows, width, final)
			continue
		}
		g.spread(out, s, s, st.cost, i, rows, width, final)
	}
	return out
}

func (g *grid) spread(out *layer, s, from frontier, cost float64, i, rows int, width float64, final bool) {
	if s.closed {
		if g.depot.col != i && !g.required(i) {
			out.offer(s, rows, cost, from, 0)
		}
		return
	}
	for k := range rows {
		if s.degree[k] == 0 && len(g.columns[i].at[k]) > 0 {
			s = s.reach(k, 2)
		}
	}
	// Where an odd number of edges meets, one goes on; elsewhere none or two.
	choices := 1
	for k := range rows {
		if s.degree[k] == 1 && final {
			return
		}
		if s.degree[k] != 1 && !final {
			choices *= 2
		}
	}
	for c := range choices {
		t, extra, packed, ok := s.cross(c, rows, width)
		if ok {
			out.offer(t, rows, cost+extra, from, packed)
		}
	}
}

// required tells whether column i must be visited.
func (g *grid) required(i int) bool {
	c := g.columns[i]
	for _, s := range c.stops {
		if len(s) > 0 {
			return true
		}
	}
	for _, s := range c.at {
		if len(s) > 0 {
			return true
		}
	}
	return false
}

// cross carries the state to the next column along choice c, which has a digit for each
// cross aisle with an even number of edges: whether it is walked there and back. It is
// refused when a part of the walk would be cut off.
func (s frontier) cross(c, rows int, width float64) (t frontier, extra float64, packed int, ok bool) {
	open := false
	var carried [2*MaxCross + 2]bool
	touched := int8(0)
	groups := 0
	var seen [2*MaxCross + 2]bool
	for k := range rows {
		n := 1
		if s.degree[k] != 1 {
			n = c % 2 * 2
			c /= 2
		}
		packed |= n << (2 * k)
		if g := s.group[k]; g != 0 && !seen[g] {
			seen[g] = true
			groups++
			touched = g
		}
		if n == 0 {
			continue
		}
		open = true
		extra += width * float64(n)
		t.degree[k] = int8(2 - n%2)
		t.group[k] = s.group[k]
		if t.group[k] == 0 {
			t.group[k] = int8(MaxCross + 1 + k)
		}
		carried[t.group[k]] = true
	}
	if !open {
		switch {
		case groups == 0: // nothing begun yet
			return t, 0, packed, true
		case groups == 1 && touched != 0: // the whole walk is behind us
			t.closed = true
			return t, 0, packed, true
		}
		return t, 0, 0, false
	}
	for g := range seen {
		if seen[g] && !carried[g] {
			return t, 0, 0, false
		}
	}
	return t, extra, packed, true
}
