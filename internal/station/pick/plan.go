package pick

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/allocation"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/core/walking"
	"lanternrow/internal/ledger"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// planner is what rounds of a site are planned from, read once.
type planner struct {
	site  int32
	floor walking.Floor
	bench catalog.Location
	pace  walking.Pace
	lines map[int64]openLine
	// stock is by item; mine is what is reserved for a line by hand.
	stock map[int32][]*shelf
	mine  map[int64][]*shelf
	at    map[int32]walking.Point
	// countRequests are the bins of an item that are to be counted first.
	countRequests map[int32]string
}

// newPlanner reads the stock of the lines: from bins, or from these locations alone.
func newPlanner(
	ctx context.Context, q sqlx.QueryerContext, site int32, lines []openLine, only []int32,
) (*planner, error) {
	p := &planner{site: site, lines: map[int64]openLine{}, stock: map[int32][]*shelf{}, mine: map[int64][]*shelf{},
		at: map[int32]walking.Point{}}
	var err error
	if p.bench, p.floor, err = catalog.BenchAndFloor(ctx, q, site); err != nil {
		return nil, err
	}
	if err := sqlx.GetContext(ctx, q, &p.pace, `
		SELECT pace_set_up, pace_walk, pace_stop, pace_line, pace_unit, pace_kilo FROM sites WHERE id = $1`,
		site); err != nil {
		return nil, fmt.Errorf("reading the pace of a site: %w", err)
	}
	var items []int32
	var ids []int64
	for _, l := range lines {
		p.lines[l.ID] = l
		items, ids = append(items, l.ItemID), append(ids, l.ID)
	}
	stock, err := shelves(ctx, q, site, items, only)
	if err != nil {
		return nil, err
	}
	for i := range stock {
		p.add(&stock[i])
		p.stock[stock[i].ItemID] = append(p.stock[stock[i].ItemID], &stock[i])
	}
	if p.countRequests, err = toBeCounted(ctx, q, site, items); err != nil {
		return nil, err
	}
	reservations, err := reservation.ByHand(ctx, q, ids)
	if err != nil {
		return nil, err
	}
	for _, x := range reservations {
		if only != nil && !slices.Contains(only, x.LocationID) {
			continue
		}
		s := &shelf{LocationID: x.LocationID, Bin: x.Location, Zone: x.Zone, X: x.X, Y: x.Y, ItemID: x.ItemID, LotID: x.LotID,
			Lot: x.Lot, Expires: x.Expires, CartonID: x.CartonID, Carton: x.Carton,
			SerialID: x.SerialID, Serial: x.Serial, Available: x.Quantity, mine: true}
		p.add(s)
		p.mine[x.LineID] = append(p.mine[x.LineID], s)
	}
	return p, nil
}

func (p *planner) add(s *shelf) { p.at[s.LocationID] = p.floor.Reach(walking.Point{X: s.X, Y: s.Y}) }

// stocks are the holdings that a line may be served from, its own first.
func (p *planner) stocks(l openLine) []*shelf {
	return append(p.mine[l.ID][:len(p.mine[l.ID]):len(p.mine[l.ID])], p.stock[l.ItemID]...)
}

// allocate chooses stock for the lines, one after another: each is left what those before
// it leave.
func (p *planner) allocate(lines []openLine, b bounds, now time.Time) (stops []ProposedStop, short []Shortage) {
	for _, l := range lines {
		var candidates []allocation.Stock
		held := p.stocks(l)
		for i, s := range held {
			if s.Available.IsPositive() && b.take(s) {
				candidates = append(candidates, allocation.Stock{
					Key: strconv.Itoa(i), Bin: s.Bin, Lot: s.Lot, Quantity: s.Available, Expires: s.Expires, Arrived: s.Arrived, Reserved: s.mine,
					Refilled: s.Refilled, Whole: s.Whole,
					First: b.emptyFirst != "" &&
						strings.EqualFold(s.Bin, b.emptyFirst), WalkM: p.floor.Distance(p.bench.Point(),
						p.at[s.LocationID]),
				})
			}
		}
		var mine []ProposedStop
		answer := allocation.Choose(allocation.Want{Quantity: l.Open, NotBefore: l.notBefore(now)}, candidates)
		for _, part := range answer.Parts {
			i, _ := strconv.Atoi(part.Key)
			s := held[i]
			mine = l.with(mine, *s, part)
			s.Available = s.Available.Sub(part.Quantity)
		}
		stops = append(stops, mine...)
		if answer.Short.IsPositive() {
			why := cmp.Or(b.outside(held), "none is free in a bin")
			if bins := p.countRequests[l.ItemID]; bins != "" {
				why = "what is in " + bins + " is to be counted first"
			}
			if len(answer.TooOld) > 0 {
				why = strings.Join(answer.TooOld, "; ")
			}
			short = append(short, Shortage{l.Order, l.SKU, answer.Short, why})
		}
	}
	return stops, short
}

// Propose chooses stock for the open lines of the orders and the walk through it.
func Propose(ctx context.Context, q sqlx.QueryerContext, in Wish, now time.Time) (*Proposed, error) {
	lines, err := wishedLines(ctx, q, in)
	if err != nil {
		return nil, err
	}
	var only []int32
	if in.FromID != 0 {
		only = []int32{in.FromID}
	}
	p, err := newPlanner(ctx, q, in.SiteID, lines, only)
	if err != nil {
		return nil, err
	}
	within, err := in.bounds(ctx, q)
	if err != nil {
		return nil, err
	}
	stops, short := p.allocate(lines, within, now)
	if in.FromID != 0 {
		for i := range short {
			short[i].Why = "none is free on that dock"
		}
	}
	out, err := p.route(stops)
	if err != nil {
		return nil, err
	}
	out.Shortages = append(out.Shortages, short...)
	out.Robbed, err = p.robbed(ctx, q, stops)
	return out, err
}

// wishedLines reads the open lines that a round is wished for.
func wishedLines(ctx context.Context, q sqlx.QueryerContext, in Wish) ([]openLine, error) {
	lines, err := openLines(ctx, q, in.OrderIDs)
	if err != nil {
		return nil, err
	}
	if len(in.LineIDs) > 0 {
		lines = slices.DeleteFunc(lines, func(l openLine) bool { return !slices.Contains(in.LineIDs, l.ID) })
	}
	lines = slices.DeleteFunc(lines, func(l openLine) bool { return slices.Contains(in.Without, l.ID) })
	if len(lines) == 0 {
		return nil, refusal.New(refusal.NothingOpen, "order_ids",
			"Nothing is open on these orders: all of it is on a round, in a carton, or shipped.").Of(refusal.Conflict)
	}
	for _, l := range lines {
		if l.State != states.Released || l.SiteID != in.SiteID {
			return nil, refusal.New(refusal.OrderNotReleased, "order_ids",
				"%s is %s. Only orders of this site that are released can be picked.", l.Order, states.Label(l.State)).Of(refusal.Conflict)
		}
	}
	return lines, nil
}

// notBefore is the earliest expiry that leaves enough life today.
func (l openLine) notBefore(now time.Time) string {
	return now.AddDate(0, 0, l.LifeOut).Format(time.DateOnly)
}

func (l openLine) stop(s shelf, quantity decimal.Decimal, why string) ProposedStop {
	return ProposedStop{
		LineID: l.ID, OrderID: l.OrderID, Order: l.Order, LocationID: s.LocationID, Bin: s.Bin, Zone: s.Zone, ItemID: l.ItemID, SKU: l.SKU, Description: l.Text, Unit: l.Unit,
		LotID: s.LotID, Lot: s.Lot, CartonID: s.CartonID, Carton: s.Carton, SerialIDs: []int64{}, Serials: []string{}, Quantity: quantity, Available: s.Available, Why: why, mine: s.mine,
	}
}

// with adds what a line is allocated of a holding to its stops: units that are reserved by name in one place
// are taken at one stop.
func (l openLine) with(stops []ProposedStop, s shelf, part allocation.Part) []ProposedStop {
	if s.SerialID == nil {
		return append(stops, l.stop(s, part.Quantity, part.Why))
	}
	at := slices.IndexFunc(stops, func(p ProposedStop) bool { return len(p.SerialIDs) > 0 && s.holds(p.stock()) })
	if at < 0 {
		at = len(stops)
		stops = append(stops, l.stop(s, decimal.Zero, part.Why))
		stops[at].Available = decimal.Zero
	}
	p := &stops[at]
	p.SerialIDs, p.Serials = append(p.SerialIDs, *s.SerialID), append(p.Serials, s.Serial)
	p.Quantity, p.Available = p.Quantity.Add(part.Quantity), p.Available.Add(s.Available)
	return stops
}

// stock is where the stop takes from, whichever unit.
func (s ProposedStop) stock() ledger.Stock {
	return ledger.Stock{Location: s.LocationID, Item: s.ItemID, Lot: s.LotID, Carton: s.CartonID}
}

// holds tells whether the shelf is what lies just there, whichever unit.
func (s shelf) holds(at ledger.Stock) bool {
	return s.LocationID == at.Location && ledger.Same(s.LotID, at.Lot) && ledger.Same(s.CartonID, at.Carton)
}

// route puts the stops in the order of the shortest walk and sums the round up.
func (p *planner) route(stops []ProposedStop) (*Proposed, error) {
	out := &Proposed{Stops: []ProposedStop{}, Shortages: []Shortage{}, Robbed: []Robbed{}}
	sort.SliceStable(stops, func(i, j int) bool { return stops[i].Bin < stops[j].Bin })
	round, err := walking.Shortest(p.floor, p.bench.Point(), p.points(stops))
	if err != nil {
		return nil, err
	}
	orders := map[int64]bool{}
	for _, i := range round.Order {
		s := stops[i]
		out.Stops = append(out.Stops, s)
		if !orders[s.OrderID] {
			out.Orders = append(out.Orders, s.Order)
		}
		orders[s.OrderID] = true
		out.Units = out.Units.Add(s.Quantity)
		out.WeightKg = out.WeightKg.Add(s.Quantity.Mul(p.lines[s.LineID].WeightKg))
	}
	out.Metres, out.PlainMetres = catalog.Tenth(round.Metres), catalog.Tenth(round.PlainMetres)
	out.Button = fmt.Sprintf("Release %s for %s", measure.Count(len(out.Stops), "stop"),
		measure.Count(len(orders), "order"))
	out.Time = p.estimate(out)
	out.Path, err = json.Marshal(round.Path)
	return out, err
}

// estimate calculates how long the round takes at the site's pace. Stops one after another
// at one bin are stood at once.
func (p *planner) estimate(r *Proposed) walking.Estimate {
	work := walking.Work{Metres: decimal.NewFromFloat(r.Metres), Lines: len(r.Stops), Units: r.Units,
		WeightKg: r.WeightKg}
	for i, s := range r.Stops {
		if i == 0 || r.Stops[i-1].LocationID != s.LocationID {
			work.Stops++
		}
	}
	return p.pace.Estimate(work)
}

// review checks drafts of rounds as the lead changed them against lines and stock, and
// puts each in walking order.
func review(ctx context.Context, q sqlx.QueryerContext, site int32, drafts [][]Stop) (*planner, []*Proposed, error) {
	var ids []int64
	var locations []int32
	for _, stops := range drafts {
		if len(stops) == 0 {
			return nil, nil, refusal.New(refusal.StopsMissing, "stops",
				"The round has no stops. Choose orders with stock in bins.")
		}
		for _, s := range stops {
			ids, locations = append(ids, s.LineID), append(locations, s.LocationID)
		}
	}
	byID, err := linesByID(ctx, q, ids)
	if err != nil {
		return nil, nil, err
	}
	for n, stops := range drafts {
		for i, s := range stops {
			if l, known := byID[s.LineID]; !known || l.SiteID != site || l.State != states.Released {
				return nil, nil, refusal.New(refusal.LineUnknown, fmt.Sprintf("%sstops[%d].line_id",
					prefixOf(drafts, n), i), "Stop %d is for no open order of this site.", i+1)
			}
		}
	}
	p, err := newPlanner(ctx, q, site, slices.Collect(maps.Values(byID)), locations)
	if err != nil {
		return nil, nil, err
	}
	open := map[int64]decimal.Decimal{}
	for id, l := range byID {
		open[id] = l.Open
	}
	var out []*Proposed
	for n, stops := range drafts {
		at := prefixOf(drafts, n)
		var checked []ProposedStop
		for i, s := range stops {
			stop, err := p.check(fmt.Sprintf("%sstops[%d]", at, i), i, s, open)
			if err != nil {
				return nil, nil, nameReservations(ctx, q, err, s.LocationID, p.lines[s.LineID].ItemID, s.LineID)
			}
			checked = append(checked, stop)
		}
		r, err := p.route(checked)
		if err != nil {
			return nil, nil, err
		}
		out = append(out, r)
	}
	for id, left := range open {
		if left.IsPositive() {
			out[0].Shortages = append(out[0].Shortages, Shortage{byID[id].Order, byID[id].SKU, left,
				"not on this round"})
		}
	}
	slices.SortFunc(out[0].Shortages, func(a, b Shortage) int {
		return cmp.Or(cmp.Compare(a.Order, b.Order),
			cmp.Compare(a.SKU, b.SKU))
	})
	return p, out, nil
}

// nameReservations says whom stock is reserved for that is not free to a line.
func nameReservations(ctx context.Context, q sqlx.QueryerContext, err error, location, item int32, line int64) error {
	r := refusal.From(err)
	if r == nil || r.Code != refusal.NotEnough {
		return err
	}
	orders, e := reservation.ReservedFor(ctx, q, location, item, line)
	if e != nil {
		return e
	}
	if orders != "" {
		r.Sentence += " Others there are reserved for " + orders + "."
		return r.With("orders", orders)
	}
	return err
}

// prefixOf names the round that a field is of, where there are several.
func prefixOf(drafts [][]Stop, n int) string {
	if len(drafts) == 1 {
		return ""
	}
	return fmt.Sprintf("rounds[%d].", n)
}

// check holds one stop of a draft against its line and what is free in its bin.
func (p *planner) check(field string, i int, s Stop, open map[int64]decimal.Decimal) (ProposedStop, error) {
	l := p.lines[s.LineID]
	quantity, err := measure.Parse(field+".quantity", s.Quantity, measure.Unit{Name: l.Unit, Whole: l.Whole})
	if err != nil {
		return ProposedStop{}, err
	}
	from := p.offered(l, s, quantity)
	free := decimal.Zero
	for _, h := range from {
		free = free.Add(h.Available)
	}
	if free.LessThan(quantity) || len(from) == 0 {
		return ProposedStop{}, refusal.New(refusal.NotEnough, field+".quantity",
			"Stop %d wants %s of %s, and %s are free in that bin. Take less there, or add another bin.", i+1, quantity, l.SKU, free).Of(refusal.Conflict).With("free", free)
	}
	if open[l.ID] = open[l.ID].Sub(quantity); open[l.ID].IsNegative() {
		return ProposedStop{}, refusal.New(refusal.OverWanted, field+".quantity",
			"%s wants only %s more of %s: the stops come to %s too many.", l.Order, l.Open, l.SKU, open[l.ID].Neg()).Of(refusal.Conflict)
	}
	out := l.stop(*from[0], quantity, "")
	out.Available = free
	for _, h := range from {
		if h.SerialID != nil {
			out.SerialIDs, out.Serials = append(out.SerialIDs, *h.SerialID), append(out.Serials, h.Serial)
		}
	}
	left := quantity
	for _, h := range from {
		part := decimal.Min(left, h.Available)
		h.Available, left = h.Available.Sub(part), left.Sub(part)
	}
	return out, nil
}

// offered are the holdings that a stop of a draft may take from: those in its place, or its very units there, the
// first of them, as many as it wants.
func (p *planner) offered(l openLine, s Stop, quantity decimal.Decimal) (from []*shelf) {
	for _, h := range p.stocks(l) {
		if !h.holds(ledger.Stock{Location: s.LocationID, Lot: s.LotID, Carton: s.CartonID}) {
			continue
		}
		if named := len(s.SerialIDs) > 0; named != (h.SerialID != nil) ||
			named && (!slices.Contains(s.SerialIDs, *h.SerialID) || int64(len(from)) >= quantity.IntPart()) {
			continue
		}
		from = append(from, h)
	}
	return from
}
