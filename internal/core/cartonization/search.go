package cartonization

import (
	"slices"
	"sort"
)

// Up to so many units every way to part them is looked at, for at most so many steps.
const (
	fewUnits = 24
	steps    = 12_000
)

// search looks for fewer cartons than best by branch and bound: each unit, the largest
// first, goes into every carton begun that is not like another, or into a new one.
func (p *packer) search(best []*box) []*box {
	mains := p.mains()
	if len(mains) != 1 {
		return best
	}
	units := slices.Clone(p.units)
	sort.SliceStable(units, func(i, j int) bool { return orders[0](units[i], units[j]) })
	rest := make([]float64, len(units)+1)
	restKg := make([]float64, len(units)+1)
	sided := false
	for i := len(units) - 1; i >= 0; i-- {
		rest[i], restKg[i] = rest[i+1]+units[i].volume, restKg[i+1]+units[i].weight
		sided = sided || units[i].sided()
	}
	s := &searcher{units: units, size: mains[0], rest: rest, restKg: restKg, best: best, least: p.least(), left: steps}
	s.step(nil, 0)
	// Where sides decide, another way to lay the same things could hold more: only the
	// count by weight and volume is proven.
	p.proven = s.left > 0 && !sided
	return s.best
}

type searcher struct {
	units        []unit
	size         Size
	rest, restKg []float64
	best         []*box
	least, left  int
}

func (s *searcher) step(boxes []*box, at int) {
	if s.left--; s.left <= 0 || len(s.best) == s.least {
		return
	}
	if at == len(s.units) {
		if len(boxes) < len(s.best) {
			s.best = make([]*box, len(boxes))
			for i, b := range boxes {
				s.best[i] = b.clone()
			}
		}
		return
	}
	freeL, freeKg := 0.0, 0.0
	for _, b := range boxes {
		freeL, freeKg = freeL+s.size.VolumeL()-b.volume, freeKg+s.size.MaxKg-b.weight
	}
	more := max(0, ceil((s.rest[at]-freeL)/s.size.VolumeL()))
	if s.size.MaxKg > 0 {
		more = max(more, ceil((s.restKg[at]-freeKg)/s.size.MaxKg))
	}
	if len(boxes)+more >= len(s.best) {
		return
	}
	type like struct{ volume, weight float64 }
	seen := map[like]bool{}
	for i, b := range boxes {
		if l := (like{b.volume, b.weight}); seen[l] && len(b.laid) == 0 {
			continue
		} else {
			seen[l] = true
		}
		next := b.clone()
		if next.add(s.units[at]) {
			boxes[i] = next
			s.step(boxes, at+1)
			boxes[i] = b
		}
	}
	if len(boxes)+1 < len(s.best) {
		b := newBox(s.size)
		if b.add(s.units[at]) {
			s.step(append(slices.Clip(boxes), b), at+1)
		}
	}
}
