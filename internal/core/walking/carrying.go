package walking

import (
	"math"
	"slices"
)

// A Carry is goods that are fetched in one place and brought to another on the same walk.
type Carry struct {
	From Point `json:"from"`
	To   Point `json:"to"`
}

// A Step is a stop of such a walk: where the carry of an index is fetched, or brought.
type Step struct {
	Carry int  `json:"carry"`
	Bring bool `json:"bring"`
}

// Carrying is a walk that fetches and brings.
type Carrying struct {
	Steps []Step `json:"steps"`
	// Metres is the length of the walk, from where it starts and back.
	Metres float64 `json:"metres"`
}

// Carried finds a short closed walk from start that fetches each carry before it brings it. It begins with the shortest
// round through all fetching and the shortest through all bringing, and moves single stops to better places for as long
// as that saves metres: a local search, which need not find the least (own method, no source). It is never longer than
// one round behind the other.
//
// start and the points are as Shortest wants them.
func Carried(f Floor, start Point, carries []Carry) (Carrying, error) {
	var fetched, brought []Point
	for _, c := range carries {
		fetched, brought = append(fetched, c.From), append(brought, c.To)
	}
	first, err := Shortest(f, start, fetched)
	if err != nil {
		return Carrying{}, err
	}
	second, err := Shortest(f, start, brought)
	if err != nil {
		return Carrying{}, err
	}
	w := carryingWalk{floor: f, start: start, carries: carries}
	for _, i := range first.Order {
		w.steps = append(w.steps, Step{Carry: i})
	}
	// A round is as long backwards: the one that goes on better from the last fetching is walked.
	last, back := slices.Clone(second.Order), slices.Clone(second.Order)
	slices.Reverse(back)
	forwards, backwards := w.with(last), w.with(back)
	if w.steps = forwards; w.length(backwards) < w.length(forwards) {
		w.steps = backwards
	}
	for w.improve() {
	}
	return Carrying{Steps: append([]Step{}, w.steps...), Metres: w.length(w.steps)}, nil
}

// carryingWalk is a walk that is being improved.
type carryingWalk struct {
	floor   Floor
	start   Point
	carries []Carry
	steps   []Step
}

// with is the walk with the carries brought in an order behind it.
func (w *carryingWalk) with(order []int) []Step {
	out := slices.Clone(w.steps)
	for _, i := range order {
		out = append(out, Step{i, true})
	}
	return out
}

func (w *carryingWalk) point(s Step) Point {
	if s.Bring {
		return w.carries[s.Carry].To
	}
	return w.carries[s.Carry].From
}

func (w *carryingWalk) length(steps []Step) float64 {
	points := make([]Point, len(steps))
	for i, s := range steps {
		points[i] = w.point(s)
	}
	return w.floor.Length(w.start, points)
}

// at is the point of a place in the walk; the start before the first and behind the last.
func (w *carryingWalk) at(steps []Step, i int) Point {
	if i < 0 || i >= len(steps) {
		return w.start
	}
	return w.point(steps[i])
}

// improve moves the first stop that saves metres elsewhere, and tells whether there was one.
func (w *carryingWalk) improve() bool {
	for i, s := range w.steps {
		rest := slices.Delete(slices.Clone(w.steps), i, i+1)
		p := w.point(s)
		saved := w.floor.Distance(w.at(w.steps, i-1), p) + w.floor.Distance(p, w.at(w.steps, i+1)) -
			w.floor.Distance(w.at(rest, i-1), w.at(rest, i))
		from, to := 0, len(rest)
		if twin := slices.Index(rest, Step{s.Carry, !s.Bring}); s.Bring {
			from = twin + 1
		} else {
			to = twin
		}
		best, cost := -1, math.Inf(1)
		for at := from; at <= to; at++ {
			c := w.floor.Distance(w.at(rest, at-1), p) + w.floor.Distance(p, w.at(rest, at)) -
				w.floor.Distance(w.at(rest, at-1), w.at(rest, at))
			if c < cost {
				best, cost = at, c
			}
		}
		if cost < saved-tolerance {
			w.steps = slices.Insert(rest, best, s)
			return true
		}
	}
	return false
}
