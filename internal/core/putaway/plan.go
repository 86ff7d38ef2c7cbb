package putaway

import (
	"math"
	"slices"
	"sort"

	"github.com/shopspring/decimal"
)

// A Plan gives bins to many goods, one after another: each finds what those before it
// have left. It proposes what Propose would, without looking at every bin for each.
type Plan struct {
	bins []Bin
	room []room
	at   map[string]int
	// holding are the bins that hold an item, nearest lists the bins by the points
	// that their position alone gives them, for each pace there was.
	holding map[string][]int
	nearest map[float64][]int
	// limits are the kinds of bins there are, empty, to know how much any could take.
	limits []Bin
}

// room is what a bin has left, roughly: enough to pass over one that has none.
type room struct {
	units, kg, litres float64
	// own is true where nothing else may be laid beside what is there.
	own bool
}

// NewPlan plans over these bins, as they are now.
func NewPlan(bins []Bin) *Plan {
	p := &Plan{bins: slices.Clone(bins), room: make([]room, len(bins)), at: map[string]int{}, holding: map[string][]int{}, nearest: map[float64][]int{}}
	kinds := map[[3]string]bool{}
	for i, b := range p.bins {
		p.at[b.Code] = i
		p.room[i] = b.leftOver()
		for _, h := range b.Holds {
			p.hold(h.Item, i)
		}
		if kind := [3]string{text(b.MaxUnits), text(b.MaxWeightKg), text(b.MaxVolumeL)}; !kinds[kind] {
			kinds[kind] = true
			p.limits = append(p.limits, Bin{MaxUnits: b.MaxUnits, MaxWeightKg: b.MaxWeightKg, MaxVolumeL: b.MaxVolumeL})
		}
	}
	return p
}

func text(d *decimal.Decimal) string {
	if d == nil {
		return ""
	}
	return d.String()
}

func (b Bin) leftOver() room {
	r := room{units: math.Inf(1), kg: math.Inf(1), litres: math.Inf(1), own: !b.MixItems && len(b.Holds) > 0}
	limit := func(left *float64, most *decimal.Decimal, each func(Held) decimal.Decimal) {
		if most == nil {
			return
		}
		*left = most.InexactFloat64()
		for _, h := range b.Holds {
			*left -= h.Quantity.Mul(each(h)).InexactFloat64()
		}
	}
	limit(&r.units, b.MaxUnits, func(Held) decimal.Decimal { return decimal.NewFromInt(1) })
	limit(&r.kg, b.MaxWeightKg, func(h Held) decimal.Decimal { return h.WeightKg })
	limit(&r.litres, b.MaxVolumeL, func(h Held) decimal.Decimal { return h.VolumeL })
	return r
}

func (p *Plan) hold(item string, bin int) {
	if !slices.Contains(p.holding[item], bin) {
		p.holding[item] = append(p.holding[item], bin)
	}
}

// Place proposes bins for the goods and lays them in, for those that come after.
func (p *Plan) Place(g Goods) (Proposal, error) {
	proposal, err := Propose(g, p.candidates(g))
	for _, place := range proposal.Places {
		i := p.at[place.Bin]
		p.bins[i] = p.bins[i].add(g, place.Quantity)
		p.room[i] = p.bins[i].leftOver()
		p.hold(g.Item, i)
	}
	return proposal, err
}

// byPosition lists the bins by walk and gate alone.
func (p *Plan) byPosition(pace float64) []int {
	if order, known := p.nearest[pace]; known {
		return order
	}
	order := make([]int, len(p.bins))
	points := make([]float64, len(p.bins))
	for i, b := range p.bins {
		order[i], points[i] = i, b.position(pace)
	}
	sort.Slice(order, func(i, j int) bool { return points[order[i]] < points[order[j]] })
	p.nearest[pace] = order
	return order
}

// position is what a bin costs that has nothing but its place to speak for it.
func (b Bin) position(pace float64) float64 { return 100 + b.WalkM + b.GateM*pace }

// candidates are bins among which a best spread of the goods is found, if there is one
// among all. First come those that have something to speak for them: the home bin,
// and those that hold the item. Of the others, taken by position, no bin is needed
// that alone costs more than a spread already found, less what the least number of
// further bins must cost.
func (p *Plan) candidates(g Goods) []Bin {
	var out []Bin
	taken := map[int]bool{}
	found := decimal.Zero
	var points []float64
	var sizes []decimal.Decimal
	cheapest, enough := math.Inf(1), math.Inf(1)
	take := func(i int, cost float64) {
		taken[i] = true
		takes, _ := p.bins[i].Capacity(g)
		if !takes.IsPositive() {
			return
		}
		out = append(out, p.bins[i])
		found = found.Add(takes)
		points, sizes = append(points, cost), append(sizes, takes)
		cheapest = math.Min(cheapest, cost)
		if takes.GreaterThanOrEqual(g.Quantity) {
			// It does by itself: what costs more is of no use.
			enough = math.Min(enough, cost)
		}
	}
	if i, there := p.at[g.HomeBin]; there {
		take(i, p.bins[i].score(g).Points)
	}
	for _, i := range p.holding[g.Item] {
		if !taken[i] && !p.bins[i].Away {
			take(i, p.bins[i].score(g).Points)
		}
	}
	least := 0.001
	if g.Whole {
		least = 1
	}
	kg, litres := least*g.WeightKg.InexactFloat64(), least*g.VolumeL.InexactFloat64()
	bounded := false
	bound := func() {
		if !bounded && found.GreaterThanOrEqual(g.Quantity) {
			bounded = true
			enough = math.Min(enough, p.bound(g, points, sizes, cheapest))
		}
	}
	bound()
	const slack = 1e-6
	for _, i := range p.byPosition(g.Pace) {
		cost := p.bins[i].position(g.Pace)
		if cost > enough+0.1 {
			break
		}
		r := p.room[i]
		if g.Handling != "" && !slices.Contains(p.bins[i].Accepts, g.Handling) {
			continue
		}
		if taken[i] || p.bins[i].Away || r.own || r.units < least-slack || r.kg < kg-slack || r.litres < litres-slack {
			continue
		}
		take(i, cost)
		bound()
	}
	return out
}

// bound is the most that one bin of a best spread can cost: what the cheapest bins
// found cost together, less the least that all its other bins do.
func (p *Plan) bound(g Goods, points []float64, sizes []decimal.Decimal, cheapest float64) float64 {
	order := make([]int, len(points))
	for i := range order {
		order[i] = i
	}
	sort.Slice(order, func(i, j int) bool { return points[order[i]] < points[order[j]] })
	spread, left := 0.0, g.Quantity
	for _, i := range order {
		if !left.IsPositive() {
			break
		}
		spread += points[i]
		left = left.Sub(sizes[i])
	}
	most := decimal.Zero
	for _, empty := range p.limits {
		empty.MixItems, empty.MixLots = true, true
		any := g
		any.Handling = ""
		takes, _ := empty.Capacity(any)
		most = decimal.Max(most, takes)
	}
	further := 0.0
	if most.IsPositive() {
		further = math.Max(g.Quantity.Div(most).Ceil().InexactFloat64()-1, 0)
	}
	if order := p.byPosition(g.Pace); len(order) > 0 {
		cheapest = math.Min(cheapest, p.bins[order[0]].position(g.Pace))
	}
	return spread - further*math.Max(cheapest, 0)
}
