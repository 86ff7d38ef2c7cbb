package pick

import (
	"context"
	"encoding/json"
	"fmt"
	"sort"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/allocation"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/walking"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Propose chooses stock for the open lines of the orders and the walk through it.
func Propose(ctx context.Context, q sqlx.QueryerContext, in Wish, now time.Time) (*Proposed, error) {
	lines, err := openLines(ctx, q, in.OrderIDs)
	if err != nil {
		return nil, err
	}
	if len(lines) == 0 {
		return nil, refusal.New("nothing_open", "order_ids", "Nothing is open on these orders: all of it is on a round, in a carton, or sent.").Of(refusal.Conflict)
	}
	var items []int32
	for _, l := range lines {
		if l.State != "let go" || l.SiteID != in.SiteID {
			return nil, refusal.New("order_not_let_go", "order_ids", "%s is %s. Only orders of this site that are let go can be picked.", l.Order, l.State).Of(refusal.Conflict)
		}
		items = append(items, l.ItemID)
	}
	var only []int32
	if in.FromID != 0 {
		only = []int32{in.FromID}
	}
	stock, err := shelves(ctx, q, in.SiteID, items, only)
	if err != nil {
		return nil, err
	}
	bench, floor, err := benchAndFloor(ctx, q, in.SiteID)
	if err != nil {
		return nil, err
	}
	out := &Proposed{Stops: []ProposedStop{}, Lacking: []Lacking{}}
	for _, l := range lines {
		answer := allocation.Choose(allocation.Want{Quantity: l.Open, NotBefore: l.notBefore(now)}, l.candidates(stock, floor, bench, in.EmptyFirst))
		for _, part := range answer.Parts {
			s := find(stock, l.ItemID, part.Key)
			out.Stops = append(out.Stops, l.stop(*s, part.Quantity, part.Why))
			s.Available = s.Available.Sub(part.Quantity)
		}
		if answer.Lacking.IsPositive() {
			why := "none is free in a bin"
			if in.FromID != 0 {
				why = "none is free on that dock"
			}
			if len(answer.TooOld) > 0 {
				why = strings.Join(answer.TooOld, "; ")
			}
			out.Lacking = append(out.Lacking, Lacking{l.Order, l.SKU, answer.Lacking, why})
		}
	}
	return out, out.route(ctx, q, in.SiteID)
}

// notBefore is the earliest expiry that leaves enough life today.
func (l openLine) notBefore(now time.Time) string {
	return now.AddDate(0, 0, l.LifeOut).Format(time.DateOnly)
}

func (l openLine) candidates(stock []shelf, floor walking.Floor, bench catalog.Place, emptyFirst string) []allocation.Stock {
	var out []allocation.Stock
	for _, s := range stock {
		if s.ItemID == l.ItemID {
			out = append(out, allocation.Stock{
				Key: s.key(), Bin: s.Bin, Lot: s.Lot, Quantity: s.Available, Expires: s.Expires, Arrived: s.Arrived,
				First: strings.EqualFold(s.Bin, emptyFirst), WalkM: floor.Distance(bench.Point(), walking.Point{X: s.X, Y: s.Y}),
			})
		}
	}
	return out
}

func (s shelf) key() string { return fmt.Sprintf("%d/%s/%s", s.PlaceID, s.Lot, s.Carton) }

func find(stock []shelf, item int32, key string) *shelf {
	for i := range stock {
		if stock[i].ItemID == item && stock[i].key() == key {
			return &stock[i]
		}
	}
	return nil
}

func (l openLine) stop(s shelf, quantity decimal.Decimal, why string) ProposedStop {
	return ProposedStop{
		LineID: l.ID, OrderID: l.OrderID, Order: l.Order, PlaceID: s.PlaceID, Bin: s.Bin, ItemID: l.ItemID, SKU: l.SKU, Description: l.Text, Unit: l.Unit,
		LotID: s.LotID, Lot: s.Lot, CartonID: s.CartonID, Carton: s.Carton, Quantity: quantity, Available: s.Available, Why: why,
	}
}

func benchAndFloor(ctx context.Context, q sqlx.QueryerContext, site int32) (catalog.Place, walking.Floor, error) {
	bench, err := catalog.OnePlace(ctx, q, site, "bench")
	if err != nil {
		return bench, walking.Floor{}, err
	}
	floor, err := catalog.FloorOf(ctx, q, site)
	return bench, floor, err
}

// route puts the stops in the order of the shortest walk and sums the round up.
func (p *Proposed) route(ctx context.Context, q sqlx.QueryerContext, site int32) error {
	bench, floor, err := benchAndFloor(ctx, q, site)
	if err != nil {
		return err
	}
	sort.SliceStable(p.Stops, func(i, j int) bool { return p.Stops[i].Bin < p.Stops[j].Bin })
	ids := make([]int32, len(p.Stops))
	for i, s := range p.Stops {
		ids[i] = s.PlaceID
	}
	at, weights, err := pointsAndWeights(ctx, q, ids, p.Stops)
	if err != nil {
		return err
	}
	points := make([]walking.Point, len(p.Stops))
	for i, s := range p.Stops {
		points[i] = floor.Reach(at[s.PlaceID])
	}
	round, err := walking.Shortest(floor, bench.Point(), points)
	if err != nil {
		return err
	}
	ordered := make([]ProposedStop, 0, len(p.Stops))
	orders := map[int64]bool{}
	for _, i := range round.Order {
		s := p.Stops[i]
		ordered = append(ordered, s)
		orders[s.OrderID] = true
		p.Units = p.Units.Add(s.Quantity)
		p.WeightKg = p.WeightKg.Add(s.Quantity.Mul(weights[s.ItemID]))
	}
	p.Stops, p.Metres, p.PlainMetres = ordered, catalog.Tenth(round.Metres), catalog.Tenth(round.PlainMetres)
	p.Button = fmt.Sprintf("Let go %s for %s", plural(len(p.Stops), "stop"), plural(len(orders), "order"))
	if p.Time, err = p.estimate(ctx, q, site); err != nil {
		return err
	}
	p.Path, err = json.Marshal(round.Path)
	return err
}

// estimate reckons how long the round takes at the site's pace. Stops one after another
// at one bin are stood at once.
func (p *Proposed) estimate(ctx context.Context, q sqlx.QueryerContext, site int32) (walking.Estimate, error) {
	var pace walking.Pace
	if err := sqlx.GetContext(ctx, q, &pace, `SELECT pace_set_up, pace_walk, pace_stop, pace_line, pace_unit, pace_kilo FROM sites WHERE id = $1`, site); err != nil {
		return walking.Estimate{}, fmt.Errorf("reading the pace of a site: %w", err)
	}
	work := walking.Work{Metres: decimal.NewFromFloat(p.Metres), Lines: len(p.Stops), Units: p.Units, WeightKg: p.WeightKg}
	for i, s := range p.Stops {
		if i == 0 || p.Stops[i-1].PlaceID != s.PlaceID {
			work.Stops++
		}
	}
	return pace.Estimate(work), nil
}

func plural(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	return fmt.Sprintf("%d %ss", n, noun)
}

func pointsAndWeights(ctx context.Context, q sqlx.QueryerContext, places []int32, stops []ProposedStop) (map[int32]walking.Point, map[int32]decimal.Decimal, error) {
	var rows []struct {
		ID   int32
		X, Y float64
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `SELECT id, x, y FROM places WHERE id = ANY($1)`, places); err != nil {
		return nil, nil, fmt.Errorf("reading where bins are: %w", err)
	}
	at := map[int32]walking.Point{}
	for _, r := range rows {
		at[r.ID] = walking.Point{X: r.X, Y: r.Y}
	}
	var items []int32
	for _, s := range stops {
		items = append(items, s.ItemID)
	}
	var weighed []struct {
		ID       int32
		WeightKg decimal.Decimal `db:"weight_kg"`
	}
	if err := sqlx.SelectContext(ctx, q, &weighed, `SELECT id, weight_kg FROM items WHERE id = ANY($1)`, items); err != nil {
		return nil, nil, fmt.Errorf("reading weights: %w", err)
	}
	weights := map[int32]decimal.Decimal{}
	for _, w := range weighed {
		weights[w.ID] = w.WeightKg
	}
	return at, weights, nil
}

// review checks a draft as the lead changed it against lines and stock, and puts it
// in walking order.
func review(ctx context.Context, q sqlx.QueryerContext, in Draft) (*Proposed, error) {
	if len(in.Stops) == 0 {
		return nil, refusal.New("stops_missing", "stops", "The round has no stops. Choose orders with stock in bins.")
	}
	var ids []int64
	for _, s := range in.Stops {
		ids = append(ids, s.LineID)
	}
	lines, err := linesByID(ctx, q, ids)
	if err != nil {
		return nil, err
	}
	var items []int32
	for _, l := range lines {
		items = append(items, l.ItemID)
	}
	var places []int32
	for _, s := range in.Stops {
		places = append(places, s.PlaceID)
	}
	stock, err := shelves(ctx, q, in.SiteID, items, places)
	if err != nil {
		return nil, err
	}
	out := &Proposed{Stops: []ProposedStop{}, Lacking: []Lacking{}}
	open := map[int64]decimal.Decimal{}
	for id, l := range lines {
		open[id] = l.Open
	}
	for i, s := range in.Stops {
		field := fmt.Sprintf("stops[%d]", i)
		l, known := lines[s.LineID]
		if !known || l.SiteID != in.SiteID || l.State != "let go" {
			return nil, refusal.New("line_unknown", field+".line_id", "Stop %d is for no open order of this site.", i+1)
		}
		quantity, err := measure.Parse(field+".quantity", s.Quantity, measure.Unit{Name: l.Unit, Whole: l.Whole})
		if err != nil {
			return nil, err
		}
		from := at(stock, l.ItemID, s)
		if from == nil || from.Available.LessThan(quantity) {
			free := decimal.Zero
			if from != nil {
				free = from.Available
			}
			return nil, refusal.New("not_enough", field+".quantity", "Stop %d wants %s of %s, and %s are free in that bin. Take less there, or add another bin.", i+1, quantity, l.SKU, free).Of(refusal.Conflict).With("free", free)
		}
		if open[l.ID] = open[l.ID].Sub(quantity); open[l.ID].IsNegative() {
			return nil, refusal.New("over_wanted", field+".quantity", "%s wants only %s more of %s: the stops come to %s too many.", l.Order, l.Open, l.SKU, open[l.ID].Neg()).Of(refusal.Conflict)
		}
		out.Stops = append(out.Stops, l.stop(*from, quantity, ""))
		from.Available = from.Available.Sub(quantity)
	}
	for id, left := range open {
		if left.IsPositive() {
			out.Lacking = append(out.Lacking, Lacking{lines[id].Order, lines[id].SKU, left, "not on this round"})
		}
	}
	sort.Slice(out.Lacking, func(i, j int) bool {
		return out.Lacking[i].Order+out.Lacking[i].SKU < out.Lacking[j].Order+out.Lacking[j].SKU
	})
	return out, out.route(ctx, q, in.SiteID)
}

func at(stock []shelf, item int32, s Stop) *shelf {
	for i := range stock {
		if stock[i].ItemID == item && stock[i].PlaceID == s.PlaceID && same(stock[i].LotID, s.LotID) && same(stock[i].CartonID, s.CartonID) {
			return &stock[i]
		}
	}
	return nil
}

func same(a, b *int64) bool { return a == nil && b == nil || a != nil && b != nil && *a == *b }
