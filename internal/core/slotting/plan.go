package slotting

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
	p := &Plan{bins: slices.Clone(bins), room: make([]room, len(bins)), at: map[string]int{},
		holding: map[string][]int{}, nearest: map[float64][]int{}}
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

// Bins are the bins as the plan has filled them so far.
func (p *Plan) Bins() []Bin { return p.bins }

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

// Location proposes bins for the goods and lays them in, for those that come after.
func (p *Plan) Location(g Goods) (Proposal, error) {
	proposal, err := Propose(g, p.candidates(g))
	for _, location := range proposal.Locations {
		i := p.at[location.Bin]
		p.bins[i] = p.bins[i].add(g, location.Quantity)
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

// position is what a bin costs that has nothing but where it stands to speak for it.
func (b Bin) position(pace float64) float64 { return perBin + b.WalkM + b.GateM*pace }

// candidates are bins among which a best spread of the goods is found, if there is one
// among all. The home bin is always one, and what it takes the others need not. First come
// those that have something to speak for them, which hold the item. Of the others, taken by position, no bin is needed
// that alone costs more than a spread already found, less what the least number of
// further bins must cost.
func (p *Plan) candidates(g Goods) []Bin {
	var out []Bin
	taken := map[int]bool{}
	if i, there := p.at[g.HomeBin]; there {
		taken[i] = true
		if takes, _ := p.bins[i].capacity(g, false); takes.IsPositive() {
			out = append(out, p.bins[i])
			g.Quantity = g.Quantity.Sub(decimal.Min(takes, g.Quantity))
		}
		if g.Quantity.IsZero() {
			return out
		}
	}
	b := bounds{need: g.Quantity.InexactFloat64(), further: p.fewest(g) - 1, limit: math.Inf(1)}
	if g.Whole && b.need <= countable {
		b.sizes = make([]int, int(b.need)+1)
	}
	take := func(i int, cost float64) float64 {
		taken[i] = true
		takes, _ := p.bins[i].capacity(g, false)
		if takes.IsPositive() {
			out = append(out, p.bins[i])
			b.found(cost, takes.InexactFloat64())
		}
		return takes.InexactFloat64()
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
	const slack = 1e-6
	for _, i := range p.byPosition(g.Pace) {
		cost := p.bins[i].position(g.Pace)
		// Points are rounded to a tenth.
		if cost > b.limit+0.1*float64(widest) {
			break
		}
		if g.Handling != "" && !slices.Contains(p.bins[i].Accepts, g.Handling) {
			continue
		}
		r := p.room[i]
		if taken[i] || p.bins[i].Away || r.own || r.units < least-slack || r.kg < kg-slack || r.litres < litres-slack {
			continue
		}
		if b.useless(r.takes(kg, litres)) {
			continue
		}
		b.countBin(take(i, cost))
	}
	return out
}

// takes is how many whole units of such a weight and volume there is room for.
func (r room) takes(kg, litres float64) float64 {
	n := r.units
	if kg > 0 {
		n = math.Min(n, r.kg/kg)
	}
	if litres > 0 {
		n = math.Min(n, r.litres/litres)
	}
	return math.Floor(n + 1e-6)
}

// fewest is how many bins the goods need at least, were all of them empty.
func (p *Plan) fewest(g Goods) int {
	most := decimal.Zero
	g.Handling = ""
	for _, empty := range p.limits {
		empty.MixItems, empty.MixLots = true, true
		takes, _ := empty.capacity(g, false)
		most = decimal.Max(most, takes)
	}
	if !most.IsPositive() {
		return 1
	}
	return max(1, int(g.Quantity.Div(most).Ceil().IntPart()))
}

// widest is how many bins a spread has at most that bounds look for.
const widest = 8

// bounds keep, of the bins found so far, what tells how much one more may cost.
type bounds struct {
	need float64
	// further is how many bins any spread has beside one.
	further int
	// cheapest are the least costs found, rising. able[j] are those of the j+1
	// cheapest bins of which j+1 together are enough.
	cheapest []float64
	able     [widest][]float64
	// limit is what most says of the bins found so far.
	limit float64
	// sizes counts the bins found by position by how many whole units they take; what
	// takes more than is needed counts as enough. It is empty where nothing is counted.
	sizes []int
}

// countable is up to how many units bins are counted by size.
const countable = 2000

func (b *bounds) countBin(takes float64) {
	if len(b.sizes) > 0 && takes > 0 {
		b.sizes[min(int(takes), len(b.sizes)-1)]++
	}
}

// useless tells whether so many bins that take as much are found already, none of them
// dearer, that one more cannot be of use: a spread that had it could have one of them
// instead, or has them all, and they are enough without it.
func (b *bounds) useless(takes float64) bool {
	if len(b.sizes) == 0 || takes < 1 {
		return false
	}
	size := min(int(math.Min(takes, b.need)), len(b.sizes)-1)
	as := 0
	for _, n := range b.sizes[size:] {
		as += n
	}
	return float64(as) >= math.Ceil(b.need/float64(size))
}

func (b *bounds) found(cost, takes float64) {
	b.cheapest = keepLeast(b.cheapest, cost, widest)
	for j := range widest {
		if takes*float64(j+1) >= b.need {
			b.able[j] = keepLeast(b.able[j], cost, j+1)
		}
	}
	b.limit = b.most()
}

func keepLeast(list []float64, cost float64, n int) []float64 {
	if len(list) == n && cost >= list[n-1] {
		return list
	}
	i, _ := slices.BinarySearch(list, cost)
	list = slices.Insert(list, i, cost)
	return list[:min(len(list), n)]
}

// most is the most that one bin of a best spread can cost: what a spread of the bins
// found costs, less the least that its other bins do. Bins not found yet cost no less
// than those that were. It is without bound until a spread is found.
func (b *bounds) most() float64 {
	spread := math.Inf(1)
	for j, costs := range b.able {
		if len(costs) == j+1 {
			sum := 0.0
			for _, c := range costs {
				sum += c
			}
			spread = math.Min(spread, sum)
		}
	}
	others := 0.0
	for j := range min(b.further, len(b.cheapest)) {
		others += b.cheapest[j]
	}
	return spread - others
}
