package walking

// node is a crossing (stop < 0) or a location in an aisle's section where somebody
// stops.
type node struct {
	col, row, stop int
}

// trace follows the layers back from the end and returns every edge of the walk.
func (g *grid) trace(layers []*layer, end frontier) map[node][]node {
	edges := map[node][]node{}
	link := func(a, b node, n int) {
		for range n {
			edges[a] = append(edges[a], b)
			edges[b] = append(edges[b], a)
		}
	}
	at, n := end, len(layers)-1
	for i := len(g.columns) - 1; i >= 0; i-- {
		st := layers[n].to(at, len(g.cross))
		for k := range g.cross {
			link(node{i, k, -1}, node{i + 1, k, -1}, st.choice>>(2*k)&3)
		}
		at, n = st.from, n-1
		if !g.columns[i].aisle {
			continue
		}
		for k := len(g.cross) - 2; k >= 0; k-- {
			st := layers[n].to(at, len(g.cross))
			g.lay(link, i, k, vertical(st.choice))
			at, n = st.from, n-1
		}
	}
	return edges
}

// lay draws the edges of one section's choice: a chain of its stops between its
// two crossings.
func (g *grid) lay(link func(a, b node, n int), i, k int, v vertical) {
	stops := g.columns[i].stops[k]
	chain := []node{{i, k, -1}}
	for j := range stops {
		chain = append(chain, node{i, k, j})
	}
	chain = append(chain, node{i, k + 1, -1})
	skip := -1
	each := 2
	switch v {
	case nothing:
		return
	case once:
		each = 1
	case fromLow:
		skip = len(chain) - 2
	case fromHigh:
		skip = 0
	case bothEnds:
		at, _ := widest(stops)
		skip = at + 1
	}
	for j := range len(chain) - 1 {
		if j != skip {
			link(chain[j], chain[j+1], each)
		}
	}
}

// walk goes around the edges once, from the bench and back (Hierholzer), and
// returns the stops in the order first reached.
func (g *grid) walk(edges map[node][]node) []int {
	var tour []node
	stack := []node{{g.depot.col, g.depot.row, -1}}
	for len(stack) > 0 {
		at := stack[len(stack)-1]
		next := edges[at]
		if len(next) == 0 {
			tour = append(tour, at)
			stack = stack[:len(stack)-1]
			continue
		}
		to := next[len(next)-1]
		edges[at] = next[:len(next)-1]
		edges[to] = without(edges[to], at)
		stack = append(stack, to)
	}
	var order []int
	seen := map[node]bool{}
	for _, n := range tour {
		if seen[n] {
			continue
		}
		seen[n] = true
		c := g.columns[n.col]
		if n.stop >= 0 {
			order = append(order, c.stops[n.row][n.stop].ids...)
		} else {
			order = append(order, c.at[n.row]...)
		}
	}
	return order
}

func without(list []node, n node) []node {
	for i, m := range list {
		if m == n {
			list[i] = list[len(list)-1]
			return list[:len(list)-1]
		}
	}
	return list
}
