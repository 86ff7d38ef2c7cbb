package batching

import (
	"math"
	"slices"
	"sort"
)

// A reach is how far an order goes into each aisle, towards either end, as seen from the
// bench's cross aisle; and how far to either side.
type reach struct {
	up, down    []float32
	left, right float64
}

// profile calculates the reach of every order.
func (g *gatherer) profile() {
	g.aisles = slices.Clone(g.floor.Aisles)
	sort.Float64s(g.aisles)
	low, high := slices.Min(g.floor.Cross), slices.Max(g.floor.Cross)
	g.length = high - low
	g.reaches = make([]reach, len(g.orders))
	for i, o := range g.orders {
		r := g.empty()
		for _, s := range o.Stops {
			a := sort.SearchFloat64s(g.aisles, s.X-1e-6)
			if d := float32(s.Y - g.start.Y); d >= 0 {
				r.up[a] = max(r.up[a], d, 1e-3)
			} else {
				r.down[a] = max(r.down[a], -d)
			}
			r.left, r.right = min(r.left, s.X), max(r.right, s.X)
		}
		g.reaches[i] = r
	}
}

func (g *gatherer) empty() reach {
	return reach{make([]float32, len(g.aisles)), make([]float32, len(g.aisles)), g.start.X, g.start.X}
}

// estimate is about how long a walk is: into each aisle and back, or through it when that
// is shorter, and along the cross aisle there and back. b may be nil.
func (g *gatherer) estimate(a, b *reach) float64 {
	if b == nil {
		b = a
	}
	total, most := float32(0), float32(g.length)
	aDown, bUp, bDown := a.down[:len(a.up)], b.up[:len(a.up)], b.down[:len(a.up)]
	for i, up := range a.up {
		total += min(2*(max(up, bUp[i])+max(aDown[i], bDown[i])), most)
	}
	return float64(total) + 2*(max(a.right, b.right)-min(a.left, b.left))
}

func (g *gatherer) join(a *reach, b reach) {
	for i := range a.up {
		a.up[i], a.down[i] = max(a.up[i], b.up[i]), max(a.down[i], b.down[i])
	}
	a.left, a.right = min(a.left, b.left), max(a.right, b.right)
}

func (g *gatherer) reachOf(group []int) reach {
	r := g.empty()
	for _, i := range group {
		g.join(&r, g.reaches[i])
	}
	return r
}

// seed begins each round with the order that walks farthest, and adds the one that
// lengthens it least against what it would walk alone, until the trolley is full.
func (g *gatherer) seed() [][]int {
	alone := make([]float64, len(g.orders))
	left := make([]int, len(g.orders))
	for i := range g.orders {
		alone[i], left[i] = g.estimate(&g.reaches[i], nil), i
	}
	sort.SliceStable(left, func(a, b int) bool { return alone[left[a]] > alone[left[b]] })
	var out [][]int
	for len(left) > 0 {
		group, carried := []int{left[0]}, load{}.with(g.orders[left[0]])
		r := g.reachOf(group)
		left = left[1:]
		for {
			now, best, saved := g.estimate(&r, nil), -1, 0.0
			for at, i := range left {
				if !g.limits.takes(carried.with(g.orders[i])) {
					continue
				}
				if s := alone[i] + now - g.estimate(&r, &g.reaches[i]); best < 0 || s > saved {
					best, saved = at, s
				}
			}
			if best < 0 {
				break
			}
			i := left[best]
			group, carried = append(group, i), carried.with(g.orders[i])
			g.join(&r, g.reaches[i])
			left = slices.Delete(left, best, best+1)
		}
		slices.Sort(group)
		out = append(out, group)
	}
	return out
}

// rounds of trade and exact walks looked at in polish, at most: they bound the time.
const (
	trades = 4
	exacts = 200
)

// A round is a group of orders with what is calculated of it.
type round struct {
	orders []int
	load
	reach reach
	cost  float64
	// without is how far the round reaches without each of its orders.
	without []reach
}

func (g *gatherer) round(group []int) round {
	r := round{orders: group, reach: g.reachOf(group)}
	r.cost = g.estimate(&r.reach, nil)
	for k, i := range group {
		r.load = r.with(g.orders[i])
		rest := g.empty()
		for m, o := range group {
			if m != k {
				g.join(&rest, g.reaches[o])
			}
		}
		r.without = append(r.without, rest)
	}
	return r
}

// trade moves orders to other rounds and trades them between two, while that shortens
// the walk as it is estimated.
func (g *gatherer) trade(groups [][]int) [][]int {
	rounds := make([]round, len(groups))
	for i, group := range groups {
		rounds[i] = g.round(group)
	}
	for range trades {
		better := false
		for a := range rounds {
			for at := 0; at < len(rounds[a].orders); at++ {
				better = g.place(rounds, a, at) || better
			}
		}
		if !better {
			break
		}
	}
	var out [][]int
	for _, r := range rounds {
		if len(r.orders) > 0 {
			out = append(out, r.orders)
		}
	}
	return out
}

// place finds the best other round for one order of round a, by moving it there or by
// trading it for one of theirs, and makes the change when it shortens the walk.
func (g *gatherer) place(rounds []round, a, at int) bool {
	from, i := &rounds[a], rounds[a].orders[at]
	rest := &from.without[at]
	restLoad, restCost := from.load.without(g.orders[i]), g.estimate(rest, nil)
	// Whatever is done can at most save what this order costs where it is.
	if from.cost-restCost < 1e-6 {
		return false
	}
	best, to, traded := -1e-6, -1, -1
	for b := range rounds {
		r := &rounds[b]
		if b == a || len(r.orders) == 0 {
			continue
		}
		if g.limits.takes(r.with(g.orders[i])) {
			if d := restCost + g.estimate(&r.reach, &g.reaches[i]) - from.cost - r.cost; d < best {
				best, to, traded = d, b, -1
			}
		}
		for k, j := range r.orders {
			if !g.limits.takes(r.load.without(g.orders[j]).with(g.orders[i])) ||
				!g.limits.takes(restLoad.with(g.orders[j])) {
				continue
			}
			mine := g.estimate(rest, &g.reaches[j])
			if mine-from.cost >= best+r.cost {
				continue
			}
			if d := mine + g.estimate(&r.without[k], &g.reaches[i]) - from.cost - r.cost; d < best {
				best, to, traded = d, b, k
			}
		}
	}
	if to < 0 {
		return false
	}
	mine := slices.Delete(slices.Clone(from.orders), at, at+1)
	theirs := slices.Clone(rounds[to].orders)
	if traded >= 0 {
		mine = append(mine, theirs[traded])
		theirs = slices.Delete(theirs, traded, traded+1)
	}
	theirs = append(theirs, i)
	slices.Sort(mine)
	slices.Sort(theirs)
	rounds[a], rounds[to] = g.round(mine), g.round(theirs)
	return true
}

// weigh is what a group carries.
func (g *gatherer) weigh(group []int) (l load) {
	for _, i := range group {
		l = l.with(g.orders[i])
	}
	return l
}

// polish does the same by exact walks, between rounds that are near each other, for so
// long as the budget of exact walks lasts.
func (g *gatherer) polish(groups [][]int) [][]int {
	budget := exacts
	walk := func(group []int) float64 {
		if len(group) == 0 {
			return 0
		}
		before := len(g.known)
		metres, err := g.walk(group)
		if err != nil {
			return math.Inf(1)
		}
		budget -= len(g.known) - before
		return metres
	}
	with := func(group []int, out, in int) []int {
		next := make([]int, 0, len(group)+1)
		for _, o := range group {
			if o != out {
				next = append(next, o)
			}
		}
		if in >= 0 {
			next = append(next, in)
		}
		slices.Sort(next)
		return next
	}
	for better := true; better && budget > 0; {
		better = false
		for a := range groups {
			for _, b := range g.near(groups, a) {
				now := walk(groups[a]) + walk(groups[b])
				best, bestA, bestB := now-1e-6, []int(nil), []int(nil)
				try := func(nextA, nextB []int) {
					if budget <= 0 || !g.fits(nextA) || !g.fits(nextB) {
						return
					}
					if total := walk(nextA) + walk(nextB); total < best {
						best, bestA, bestB = total, nextA, nextB
					}
				}
				for _, i := range groups[a] {
					try(with(groups[a], i, -1), with(groups[b], -1, i))
					for _, j := range groups[b] {
						try(with(groups[a], i, j), with(groups[b], j, i))
					}
				}
				if bestB != nil {
					groups[a], groups[b], better = bestA, bestB, true
				}
			}
		}
	}
	return slices.DeleteFunc(groups, func(group []int) bool { return len(group) == 0 })
}

// fits tells whether one round takes the group; an order on its own always may walk.
func (g *gatherer) fits(group []int) bool { return len(group) < 2 || g.limits.takes(g.weigh(group)) }

// near are the two rounds whose walk overlaps most with round a's.
func (g *gatherer) near(groups [][]int, a int) []int {
	type other struct {
		b       int
		overlap float64
	}
	mine := g.reachOf(groups[a])
	var all []other
	for b := range groups {
		if b != a && len(groups[b]) > 0 {
			r := g.reachOf(groups[b])
			all = append(all, other{b, g.estimate(&mine, nil) + g.estimate(&r, nil) - g.estimate(&mine, &r)})
		}
	}
	sort.SliceStable(all, func(i, j int) bool { return all[i].overlap > all[j].overlap })
	var out []int
	for _, o := range all[:min(2, len(all))] {
		out = append(out, o.b)
	}
	return out
}
