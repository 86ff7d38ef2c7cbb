package cartonization

import (
	"slices"
	"sort"
)

// A box is a carton that is being filled.
type box struct {
	size           Size
	weight, volume float64
	units          []unit
	laid           []laid
	// corners are where a thing can be laid: against what lies there (extreme points;
	// Crainic, Perboli and Tadei 2008, from memory).
	corners [][3]float64
}

type laid struct {
	thing     int
	at, sides [3]float64
}

func newBox(s Size) *box { return &box{size: s, corners: [][3]float64{{}}} }

// add puts a unit into the box, or leaves the box as it is.
func (b *box) add(u unit) bool {
	if b.size.MaxKg > 0 && b.weight+u.weight > b.size.MaxKg+tolerance ||
		b.volume+u.volume > b.size.VolumeL()+tolerance {
		return false
	}
	if u.sided() && !b.lay(u) {
		return false
	}
	b.weight, b.volume, b.units = b.weight+u.weight, b.volume+u.volume, append(b.units, u)
	return true
}

// turns are the six ways to lay something down.
var turns = [6][3]int{{0, 1, 2}, {1, 0, 2}, {0, 2, 1}, {2, 0, 1}, {1, 2, 0}, {2, 1, 0}}

// lay finds the lowest corner, then the rearmost and leftmost, in which the unit fits,
// turned so that it rises least.
func (b *box) lay(u unit) bool {
	for _, at := range b.corners {
		best, height := laid{}, -1.0
		for _, t := range turns {
			l := laid{u.thing, at, [3]float64{u.sides[t[0]], u.sides[t[1]], u.sides[t[2]]}}
			if b.free(l) && (height < 0 || l.sides[2] < height) {
				best, height = l, l.sides[2]
			}
		}
		if height >= 0 {
			b.put(best)
			return true
		}
	}
	return false
}

// free tells whether something lies within the box there and in nothing else.
func (b *box) free(l laid) bool {
	for i := range 3 {
		if l.at[i]+l.sides[i] > b.size.SidesCm[i]+tolerance {
			return false
		}
	}
	return !slices.ContainsFunc(b.laid, l.meets)
}

func (l laid) meets(o laid) bool {
	for i := range 3 {
		if l.at[i]+l.sides[i] <= o.at[i]+tolerance || o.at[i]+o.sides[i] <= l.at[i]+tolerance {
			return false
		}
	}
	return true
}

// put lays something down and notes the corners that it makes: beyond each of its sides,
// slid back along the other two until something is in the way.
func (b *box) put(l laid) {
	b.laid = append(b.laid, l)
	for i := range 3 {
		corner := l.at
		corner[i] += l.sides[i]
		if corner[i] >= b.size.SidesCm[i]-tolerance {
			continue
		}
		b.corner(corner)
		for j := range 3 {
			if j != i {
				b.corner(b.slide(corner, j))
			}
		}
	}
	b.corners = slices.DeleteFunc(b.corners, func(c [3]float64) bool { return b.covered(c) })
	sort.SliceStable(b.corners, func(i, j int) bool {
		p, q := b.corners[i], b.corners[j]
		switch {
		case p[2] != q[2]:
			return p[2] < q[2]
		case p[1] != q[1]:
			return p[1] < q[1]
		}
		return p[0] < q[0]
	})
}

func (b *box) corner(c [3]float64) {
	if !slices.Contains(b.corners, c) {
		b.corners = append(b.corners, c)
	}
}

// slide moves a point back along an axis to the nearest thing behind it, or the wall.
func (b *box) slide(c [3]float64, axis int) [3]float64 {
	to := 0.0
	for _, l := range b.laid {
		end := l.at[axis] + l.sides[axis]
		if end > c[axis]+tolerance || end <= to {
			continue
		}
		behind := true
		for k := range 3 {
			behind = behind && (k == axis || l.at[k] <= c[k]+tolerance && c[k] < l.at[k]+l.sides[k]-tolerance)
		}
		if behind {
			to = end
		}
	}
	c[axis] = to
	return c
}

// covered tells whether a corner lies within something.
func (b *box) covered(c [3]float64) bool {
	return slices.ContainsFunc(b.laid, func(l laid) bool {
		for k := range 3 {
			if c[k] < l.at[k]-tolerance || c[k] >= l.at[k]+l.sides[k]-tolerance {
				return false
			}
		}
		return true
	})
}

func (b *box) clone() *box {
	c := *b
	c.units, c.laid, c.corners = slices.Clone(b.units), slices.Clone(b.laid), slices.Clone(b.corners)
	return &c
}
