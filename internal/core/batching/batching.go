// Package batching gathers orders into rounds that together walk as little as possible.
//
// Each round starts and ends at the bench and serves its orders whole, within what a
// trolley takes. A few orders are gathered at the proven optimum, by dynamic programming
// over all subsets; many by seeds and savings (Clarke and Wright 1964, from memory), then
// by moving and trading orders between rounds while that shortens the walk.
package batching

import (
	"math"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/walking"
)

// An Order is what one order asks of a round.
type Order struct {
	// Key names the order for the caller.
	Key string `json:"key"`
	// Stops are where its goods are taken.
	Stops []walking.Point `json:"stops"`
	// Cartons is how many it fills on the trolley, one at least.
	Cartons  int     `json:"cartons"`
	Lines    int     `json:"lines"`
	WeightKg float64 `json:"weight_kg"`
}

// Limits are what one round takes; zero is any amount. An order that is beyond them by
// itself walks alone.
type Limits struct {
	Cartons  int     `json:"cartons"`
	Lines    int     `json:"lines"`
	WeightKg float64 `json:"weight_kg"`
}

// A Batch is the orders of one round, as indexes of the input, rising.
type Batch struct {
	Orders []int   `json:"orders"`
	Metres float64 `json:"metres"`
}

// An Answer is all rounds.
type Answer struct {
	Batches []Batch `json:"batches"`
	// Metres is the walk of all rounds together, SingleMetres that of the same orders
	// one by one.
	Metres       float64 `json:"metres"`
	SingleMetres float64 `json:"single_metres"`
	// Proven is true when no other gathering walks less.
	Proven bool `json:"proven"`
}

// MaxOrders is how many orders are gathered at once.
const MaxOrders = 5000

// fewest is up to how many orders every gathering is looked at.
const fewest = 9

// Gather puts the orders into rounds.
func Gather(f walking.Floor, start walking.Point, orders []Order, l Limits) (Answer, error) {
	out := Answer{Batches: []Batch{}}
	if len(orders) > MaxOrders {
		return out, refusal.New(refusal.OrdersMany, "orders",
			"%d orders are more than can be gathered at once (%d). Narrow the choice.", len(orders), MaxOrders)
	}
	g := &gatherer{floor: f, start: start, orders: orders, limits: l, known: map[string]float64{}}
	for i := range orders {
		metres, err := g.walk([]int{i})
		if err != nil {
			return out, err
		}
		out.SingleMetres += metres
	}
	var groups [][]int
	if len(orders) <= fewest {
		groups, out.Proven = g.exact(), true
	} else {
		g.profile()
		groups = g.polish(g.trade(g.seed()))
	}
	for _, group := range groups {
		metres, err := g.walk(group)
		if err != nil {
			return out, err
		}
		out.Batches = append(out.Batches, Batch{group, metres})
		out.Metres += metres
	}
	return out, nil
}

// gatherer is the orders with what is calculated of them.
type gatherer struct {
	floor  walking.Floor
	start  walking.Point
	orders []Order
	limits Limits
	// known are exact walks, by the orders they serve.
	known map[string]float64

	reaches []reach
	// aisles are the positions that the reaches count by.
	aisles []float64
	length float64
}

// walk is the length of the shortest walk for these orders, which are rising.
func (g *gatherer) walk(group []int) (float64, error) {
	key := make([]byte, 0, 3*len(group))
	for _, i := range group {
		key = append(key, byte(i), byte(i>>8), byte(i>>16))
	}
	if metres, ok := g.known[string(key)]; ok {
		return metres, nil
	}
	var stops []walking.Point
	for _, i := range group {
		stops = append(stops, g.orders[i].Stops...)
	}
	metres, err := walking.Metres(g.floor, g.start, stops)
	if err == nil {
		g.known[string(key)] = metres
	}
	return metres, err
}

// load is what a round carries.
type load struct {
	cartons, lines int
	weight         float64
}

func (l load) with(o Order) load {
	return load{l.cartons + max(1, o.Cartons), l.lines + o.Lines, l.weight + o.WeightKg}
}

func (l load) without(o Order) load {
	return load{l.cartons - max(1, o.Cartons), l.lines - o.Lines, l.weight - o.WeightKg}
}

// takes tells whether a round takes the load.
func (l Limits) takes(o load) bool {
	return (l.Cartons == 0 || o.cartons <= l.Cartons) && (l.Lines == 0 || o.lines <= l.Lines) &&
		(l.WeightKg == 0 || o.weight <= l.WeightKg+1e-9)
}

// exact looks at every way to part the orders into rounds: best[set] is the least walk
// that serves the set, by the round which serves its lowest order.
func (g *gatherer) exact() [][]int {
	n := len(g.orders)
	cost, best, last := make([]float64, 1<<n), make([]float64, 1<<n), make([]int, 1<<n)
	for set := 1; set < 1<<n; set++ {
		var carried load
		var group []int
		for i := range n {
			if set&(1<<i) != 0 {
				carried, group = carried.with(g.orders[i]), append(group, i)
			}
		}
		cost[set] = math.Inf(1)
		if len(group) == 1 || g.limits.takes(carried) {
			// The stops were walked one by one already: they are on the floor.
			cost[set], _ = g.walk(group)
		}
	}
	for set := 1; set < 1<<n; set++ {
		best[set] = math.Inf(1)
		lowest := set & -set
		for sub := set; sub > 0; sub = (sub - 1) & set {
			// Of equal walks the one with fewer rounds is met first.
			if total := cost[sub] + best[set&^sub]; sub&lowest != 0 && total < best[set]-1e-9 {
				best[set], last[set] = total, sub
			}
		}
	}
	var out [][]int
	for set := 1<<n - 1; set > 0; set &^= last[set] {
		var group []int
		for i := range n {
			if last[set]&(1<<i) != 0 {
				group = append(group, i)
			}
		}
		out = append(out, group)
	}
	return out
}
