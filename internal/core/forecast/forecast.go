// Package forecast says when the last carton of each collection will be ready, and what
// would help where that is too late. It follows the work that is left as it would be done:
// who walks takes the round that is wanted first, who packs takes the carton that is wanted
// first, and each collection's cartons are loaded one after the other. That is list
// scheduling by earliest due date (common practice, no source), through two stages and a
// third for each collection.
//
// Times are minutes from now.
package forecast

import (
	"cmp"
	"maps"
	"math"
	"slices"
)

// Nobody walks a round that waits for whoever is free.
const Nobody = -1

// A Part is what a round does for one order.
type Part struct {
	Order   int64   `json:"order"`
	Minutes float64 `json:"minutes"`
	// Cartons come to the bench with the round.
	Cartons int `json:"cartons"`
}

// A Round is picking that one person does in one go, as far as it is left.
type Round struct {
	// Walker is who walks it now, from 0 on, or Nobody.
	Walker int `json:"walker"`
	// SetUp is what it takes whatever is on it.
	SetUp float64 `json:"set_up"`
	Parts []Part  `json:"parts"`
	// From is when it can begin at the earliest.
	From float64 `json:"from"`
}

// A House is the work that is left, and who does it.
type House struct {
	// Walkers and Packers are how many there are; at least one of each is counted on.
	Walkers int `json:"walkers"`
	Packers int `json:"packers"`
	// Pack and Load are what one carton takes at the bench and at the gate.
	Pack   float64 `json:"pack"`
	Load   float64 `json:"load"`
	Rounds []Round `json:"rounds"`
	// AtBench and Packed are the cartons of each order that are picked and packed.
	AtBench map[int64]int `json:"at_bench"`
	Packed  map[int64]int `json:"packed"`
	// Collections are when each is made, in the order of time; infinity for one without a
	// time. Of gives the collection that an order goes with.
	Collections []float64     `json:"collections"`
	Of          map[int64]int `json:"of"`
}

// Ready is when a collection's last carton is ready; 0 where nothing is left to do.
type Ready struct {
	At float64 `json:"at"`
	// Spare is how long before the collection that is: below nought it is missed.
	Spare float64 `json:"spare"`
}

// Made tells whether all of it is ready when it is collected.
func (r Ready) Made() bool { return r.Spare >= 0 }

// job is a piece of work that comes at a time and is wanted by a collection.
type job struct {
	comes, takes float64
	wanted       int
	seq          int
	parts        []Part
}

// Run follows the work to its end. What Check refuses is not to be run.
func (h House) Run() []Ready {
	packed := h.pack(h.walk())
	out := make([]Ready, len(h.Collections))
	for _, c := range packed {
		r := &out[c.wanted]
		r.At = math.Max(r.At, c.comes) + h.Load
	}
	for i, at := range h.Collections {
		out[i].Spare = at - out[i].At
	}
	return out
}

// walk has the rounds walked, and gives the cartons as they come to the bench.
func (h House) walk() (cartons []job) {
	free := make([]float64, max(1, h.Walkers))
	var waiting []job
	for i, r := range h.Rounds {
		j := job{comes: r.From, takes: r.minutes(), wanted: h.first(r), seq: i, parts: r.Parts}
		if r.Walker == Nobody {
			waiting = append(waiting, j)
			continue
		}
		for r.Walker >= len(free) {
			free = append(free, 0)
		}
		free[r.Walker] += j.takes
		cartons = append(cartons, h.cartonsOf(j, free[r.Walker])...)
	}
	serve(waiting, free, func(j job, end float64) { cartons = append(cartons, h.cartonsOf(j, end)...) })
	return cartons
}

// pack has the cartons packed that stand at the bench or come there, and gives all that are
// packed in the order in which they are.
func (h House) pack(coming []job) (packed []job) {
	for _, order := range slices.Sorted(maps.Keys(h.Packed)) {
		for range h.Packed[order] {
			packed = append(packed, job{wanted: h.Of[order]})
		}
	}
	for _, order := range slices.Sorted(maps.Keys(h.AtBench)) {
		coming = append(coming, h.cartonsOf(job{parts: []Part{{Order: order, Cartons: h.AtBench[order]}}}, 0)...)
	}
	for i := range coming {
		coming[i].takes, coming[i].seq = h.Pack, i
	}
	serve(coming, make([]float64, max(1, h.Packers)), func(j job, end float64) {
		j.comes = end
		packed = append(packed, j)
	})
	slices.SortStableFunc(packed, func(a, b job) int { return cmp.Compare(a.comes, b.comes) })
	return packed
}

// serve has jobs done by people who are free at these times: whoever is free first takes,
// of what is there, what is wanted first, or else waits for what comes next.
func serve(jobs []job, free []float64, done func(j job, end float64)) {
	waiting := slices.Clone(jobs)
	for len(waiting) > 0 {
		who := 0
		for i := range free {
			if free[i] < free[who] {
				who = i
			}
		}
		now := math.Max(free[who], slices.MinFunc(waiting, func(a, b job) int { return cmp.Compare(a.comes, b.comes) }).comes)
		next := -1
		for i, j := range waiting {
			if j.comes <= now && (next < 0 || before(j, waiting[next])) {
				next = i
			}
		}
		j := waiting[next]
		waiting = slices.Delete(waiting, next, next+1)
		free[who] = now + j.takes
		done(j, free[who])
	}
}

func before(a, b job) bool {
	return cmp.Or(cmp.Compare(a.wanted, b.wanted), cmp.Compare(a.comes, b.comes), cmp.Compare(a.seq, b.seq)) < 0
}

func (r Round) minutes() float64 {
	sum := r.SetUp
	for _, p := range r.Parts {
		sum += p.Minutes
	}
	return sum
}

// first is the first collection that anything on a round goes with.
func (h House) first(r Round) int {
	first := len(h.Collections)
	for _, p := range r.Parts {
		first = min(first, h.Of[p.Order])
	}
	return first
}

func (h House) cartonsOf(j job, at float64) (out []job) {
	for _, p := range j.parts {
		for range p.Cartons {
			out = append(out, job{comes: at, wanted: h.Of[p.Order]})
		}
	}
	return out
}
