// Package cartonization proposes what goes into which carton: the fewest that hold it, each the
// smallest that does.
//
// A carton holds what its weight, its volume and its three sides allow. Things whose
// sides are known are laid into it turned any way, each against others or the walls;
// those whose sides are not known count by their volume alone. Lengths are centimetres,
// volumes litres, weights kilograms.
package cartonization

import (
	"fmt"
	"slices"
	"sort"

	"lanternrow/internal/core/refusal"
)

// A Thing is goods of one kind that go into cartons.
type Thing struct {
	// Key names it for the caller.
	Key      string  `json:"key"`
	Count    int     `json:"count"`
	WeightKg float64 `json:"weight_kg"`
	VolumeL  float64 `json:"volume_l"`
	// SidesCm are those of one; zeros when they are not known.
	SidesCm [3]float64 `json:"sides_cm"`
}

// A Size is a kind of carton, as measured inside.
type Size struct {
	Code    string     `json:"code"`
	SidesCm [3]float64 `json:"sides_cm"`
	// MaxKg is what may lie in it; zero is any weight. TareKg is the carton itself.
	MaxKg  float64 `json:"max_kg"`
	TareKg float64 `json:"tare_kg"`
}

// VolumeL is what the size holds, in litres.
func (s Size) VolumeL() float64 { return s.SidesCm[0] * s.SidesCm[1] * s.SidesCm[2] / 1000 }

// A Part is so many of one thing in a carton.
type Part struct {
	Key   string `json:"key"`
	Count int    `json:"count"`
}

// A Placement is where one thing lies, from a corner of the carton.
type Placement struct {
	Key     string     `json:"key"`
	AtCm    [3]float64 `json:"at_cm"`
	SidesCm [3]float64 `json:"sides_cm"`
}

// A Filled is one carton with what goes into it.
type Filled struct {
	Size string `json:"size"`
	// WeightKg is with the carton itself.
	WeightKg float64 `json:"weight_kg"`
	// Full is the share of its volume that is taken, 0 to 1.
	Full   float64     `json:"full"`
	Things []Part      `json:"things"`
	Placed []Placement `json:"placed"`
}

// An Answer is the cartons proposed.
type Answer struct {
	Cartons []Filled `json:"cartons"`
	// Least is how many are needed in any case, by weight and volume; Proven is true when
	// no fewer can hold it.
	Least  int  `json:"least"`
	Proven bool `json:"proven"`
}

// MaxThings is how many things are laid out at once.
const MaxThings = 2000

const tolerance = 1e-6

// unit is one thing to be laid.
type unit struct {
	thing  int
	weight float64
	volume float64
	sides  [3]float64 // longest first
}

func (u unit) sided() bool { return u.sides[0] > 0 }

// Propose puts the things into the fewest cartons of the sizes. A thing that none of
// them takes is refused by name.
func Propose(things []Thing, sizes []Size) (Answer, error) {
	out := Answer{Cartons: []Filled{}}
	if len(sizes) == 0 {
		return out, refusal.New(refusal.SizesMissing, "sizes",
			"There are no carton sizes to choose from. Write them into the catalog first.")
	}
	p := packer{things: things, sizes: slices.Clone(sizes)}
	sort.SliceStable(p.sizes, func(i, j int) bool { return p.sizes[i].VolumeL() < p.sizes[j].VolumeL() })
	for i, t := range things {
		u := unit{thing: i, weight: t.WeightKg, volume: t.VolumeL, sides: t.SidesCm}
		sort.Sort(sort.Reverse(sort.Float64Slice(u.sides[:])))
		if u.sides[2] <= 0 {
			u.sides = [3]float64{}
		} else if v := u.sides[0] * u.sides[1] * u.sides[2] / 1000; u.volume <= 0 || v > u.volume {
			u.volume = v
		}
		if !slices.ContainsFunc(p.sizes, func(s Size) bool { return newBox(s).add(u) }) {
			return out, refusal.New(refusal.ThingTooLarge, fmt.Sprintf("things[%d]", i),
				"%s goes into no carton: it weighs %g kg, takes %.1f l, and its longest side is %g cm. It goes as "+
					"it is, with a label of its own.",
				t.Key, u.weight, u.volume, u.sides[0]).With("key", t.Key)
		}
		for range t.Count {
			p.units = append(p.units, u)
		}
		if len(p.units) > MaxThings {
			return out, refusal.New(refusal.ThingsMany, "things",
				"%d things are more than can be laid out at once (%d).", len(p.units), MaxThings)
		}
	}
	boxes := p.fewest()
	out.Least = p.least()
	out.Proven = len(boxes) == out.Least || p.proven
	for _, b := range boxes {
		out.Cartons = append(out.Cartons, p.describe(p.shrink(b)))
	}
	sort.SliceStable(out.Cartons, func(i, j int) bool { return out.Cartons[i].WeightKg > out.Cartons[j].WeightKg })
	return out, nil
}

type packer struct {
	things []Thing
	sizes  []Size // smallest first
	units  []unit
	proven bool
}

// least is how many cartons weight and volume alone ask for.
func (p *packer) least() int {
	weight, volume, mostKg, mostL := 0.0, 0.0, 0.0, 0.0
	for _, s := range p.sizes {
		if s.MaxKg == 0 {
			mostKg = -1
		} else if mostKg >= 0 {
			mostKg = max(mostKg, s.MaxKg)
		}
		mostL = max(mostL, s.VolumeL())
	}
	for _, u := range p.units {
		weight, volume = weight+u.weight, volume+u.volume
	}
	n := ceil(volume / mostL)
	if mostKg > 0 {
		n = max(n, ceil(weight/mostKg))
	}
	if len(p.units) == 0 {
		return 0
	}
	return max(1, n)
}

func ceil(v float64) int {
	n := int(v)
	if v-float64(n) > tolerance {
		n++
	}
	return n
}

// orders are the ways in which things are taken up; the first is the usual one for
// first-fit decreasing, so that nothing found here is worse than it.
var orders = []func(a, b unit) bool{
	func(a, b unit) bool { return a.volume > b.volume },
	func(a, b unit) bool { return a.sides[0] > b.sides[0] },
	func(a, b unit) bool { return a.weight > b.weight },
	func(a, b unit) bool { return a.sides[0]*a.sides[1] > b.sides[0]*b.sides[1] },
}

// fewest is the least number of cartons found: by several orders of first fit, then, where
// they are few, by looking at every way.
func (p *packer) fewest() []*box {
	var best []*box
	for _, before := range orders {
		units := slices.Clone(p.units)
		sort.SliceStable(units, func(i, j int) bool { return before(units[i], units[j]) })
		for _, size := range p.mains() {
			if boxes := firstFit(units, size); boxes != nil && (best == nil || len(boxes) < len(best)) {
				best = boxes
			}
		}
	}
	if best == nil {
		best = p.mixed()
	}
	if len(best) > p.least() && len(p.units) <= fewUnits {
		best = p.search(best)
	}
	return best
}

// mains are the sizes worth filling: those that no other one holds more than in every
// way.
func (p *packer) mains() []Size {
	var out []Size
	for i, s := range p.sizes {
		if !slices.ContainsFunc(p.sizes[i+1:], func(o Size) bool { return o.beyond(s) }) {
			out = append(out, s)
		}
	}
	return out
}

// beyond tells whether whatever s takes goes into o.
func (s Size) beyond(o Size) bool {
	a, b := s.SidesCm, o.SidesCm
	slices.Sort(a[:])
	slices.Sort(b[:])
	return a[0] >= b[0] && a[1] >= b[1] && a[2] >= b[2] && (s.MaxKg == 0 || o.MaxKg > 0 && s.MaxKg >= o.MaxKg)
}

// firstFit puts each into the first carton that takes it; nil when a unit goes into none
// of the size.
func firstFit(units []unit, size Size) []*box {
	var boxes []*box
next:
	for _, u := range units {
		for _, b := range boxes {
			if b.add(u) {
				continue next
			}
		}
		b := newBox(size)
		if !b.add(u) {
			return nil
		}
		boxes = append(boxes, b)
	}
	return boxes
}

// mixed is first fit where no one size takes everything: each new carton is the largest
// that takes the thing.
func (p *packer) mixed() []*box {
	units := slices.Clone(p.units)
	sort.SliceStable(units, func(i, j int) bool { return orders[0](units[i], units[j]) })
	var boxes []*box
next:
	for _, u := range units {
		for _, b := range boxes {
			if b.add(u) {
				continue next
			}
		}
		for i := len(p.sizes) - 1; i >= 0; i-- {
			if b := newBox(p.sizes[i]); b.add(u) {
				boxes = append(boxes, b)
				break
			}
		}
	}
	return boxes
}

// shrink takes the smallest size that holds what is in the carton.
func (p *packer) shrink(b *box) *box {
	for _, s := range p.sizes {
		if s.VolumeL() >= b.size.VolumeL() {
			break
		}
		smaller, all := newBox(s), true
		for _, u := range b.units {
			if all = smaller.add(u); !all {
				break
			}
		}
		if all {
			return smaller
		}
	}
	return b
}

func (p *packer) describe(b *box) Filled {
	c := Filled{Size: b.size.Code, WeightKg: b.weight + b.size.TareKg, Full: b.volume / b.size.VolumeL(),
		Things: []Part{}, Placed: []Placement{}}
	for _, u := range b.units {
		key := p.things[u.thing].Key
		if i := slices.IndexFunc(c.Things, func(x Part) bool { return x.Key == key }); i >= 0 {
			c.Things[i].Count++
		} else {
			c.Things = append(c.Things, Part{key, 1})
		}
	}
	for _, l := range b.laid {
		c.Placed = append(c.Placed, Placement{p.things[l.thing].Key, l.at, l.sides})
	}
	return c
}
