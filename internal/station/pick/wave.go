package pick

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/batching"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/walking"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// How a wave is split into rounds.
const (
	ByWalk    = "walk"
	ByOrder   = "order"
	ByZone    = "zone"
	AllInOne  = "one"
	mostStops = 1000
)

// WaveWish says what a wave is planned for, and how it is split into rounds.
type WaveWish struct {
	Wish
	Split      string  `json:"split,omitempty" enum:",walk,order,zone,one" doc:"walk gathers orders so that all walk least; order is a round an order; zone a round a zone; one is all in one"`
	MaxCartons int     `json:"max_cartons,omitempty" minimum:"0" maximum:"200" doc:"What a trolley takes; 0 is any number"`
	MaxLines   int     `json:"max_lines,omitempty" minimum:"0" maximum:"1000"`
	MaxKg      float64 `json:"max_kg,omitempty" minimum:"0" maximum:"10000"`
}

// WaveDraft is rounds that are released together.
type WaveDraft struct {
	SiteID   int32   `json:"site_id"`
	EachUnit *bool   `json:"each_unit,omitempty" doc:"Whether each unit is scanned; the site's setting without"`
	Rounds   []Stops `json:"rounds" minItems:"1" maxItems:"500"`
}

// Stops are those of one round.
type Stops struct {
	Stops []Stop `json:"stops" minItems:"1" maxItems:"1000"`
}

// Wave is rounds that are planned together.
type Wave struct {
	Rounds    []*Proposed `json:"rounds"`
	Shortages []Shortage  `json:"shortages"`
	Robbed    []Robbed    `json:"robbed" doc:"Orders wanted earlier that are promised what the wave takes"`
	Orders    int         `json:"orders"`
	Lines     int         `json:"lines"`
	// Metres is the walk of all rounds, SingleMetres that of the same orders one by one.
	Metres       float64         `json:"metres"`
	SingleMetres float64         `json:"single_metres"`
	Minutes      decimal.Decimal `json:"minutes"`
	Units        decimal.Decimal `json:"units"`
	WeightKg     decimal.Decimal `json:"weight_kg"`
	Button       string          `json:"button"`
}

// Draft is the wave as it is released unchanged.
func (w *Wave) Draft(site int32) WaveDraft {
	out := WaveDraft{SiteID: site}
	for _, r := range w.Rounds {
		out.Rounds = append(out.Rounds, Stops{Stops: r.Draft(site).Stops})
	}
	return out
}

// Draft is the round as it is released unchanged.
func (p *Proposed) Draft(site int32) Draft {
	out := Draft{SiteID: site}
	for _, s := range p.Stops {
		out.Stops = append(out.Stops, Stop{LineID: s.LineID, LocationID: s.LocationID, LotID: s.LotID,
			CartonID: s.CartonID, SerialIDs: s.SerialIDs, Quantity: s.Quantity.String()})
	}
	return out
}

// PlanWave chooses stock for many orders and gathers them into rounds.
func PlanWave(ctx context.Context, q sqlx.QueryerContext, in WaveWish, now time.Time) (*Wave, error) {
	lines, err := wishedLines(ctx, q, in.Wish)
	if err != nil {
		return nil, err
	}
	p, err := newPlanner(ctx, q, in.SiteID, lines, nil)
	if err != nil {
		return nil, err
	}
	trolley, err := readTrolley(ctx, q)
	if err != nil {
		return nil, err
	}
	out := &Wave{Rounds: []*Proposed{}, Shortages: []Shortage{}}
	within, err := in.bounds(ctx, q)
	if err != nil {
		return nil, err
	}
	stops, short := p.allocate(lines, within, now)
	out.Shortages = append(out.Shortages, short...)
	if len(stops) == 0 {
		return nil, nothingToTake(short)
	}
	if out.Robbed, err = p.robbed(ctx, q, stops); err != nil {
		return nil, err
	}
	for _, group := range groups(stops, in.Split) {
		rounds, single, err := p.split(group, in, trolley)
		if err != nil {
			return nil, err
		}
		out.SingleMetres += single
		for _, r := range rounds {
			routed, err := p.route(r)
			if err != nil {
				return nil, err
			}
			out.add(routed)
		}
	}
	if in.Split == ByZone {
		// A zone's share of an order is no walk for the whole of it.
		if out.SingleMetres, err = p.single(byOrder(stops)); err != nil {
			return nil, err
		}
	}
	out.sum(lines)
	return out, nil
}

// nothingToTake refuses a wave without a stop, and says why of the first lines.
func nothingToTake(short []Shortage) error {
	var why []string
	for _, s := range short[:min(len(short), mostNamed)] {
		why = append(why, fmt.Sprintf("%s of %s: %s", s.Quantity, s.SKU, s.Why))
	}
	return refusal.New(refusal.NothingToTake, "order_ids",
		"Nothing that these orders want can be taken there. %s. Look at what they wait for, or widen where it may be "+
			"taken from.", strings.Join(why, "; ")).Of(refusal.Conflict)
}

func (w *Wave) add(r *Proposed) {
	w.Rounds = append(w.Rounds, r)
	w.Metres += r.Metres
	w.Units, w.WeightKg, w.Minutes = w.Units.Add(r.Units), w.WeightKg.Add(r.WeightKg), w.Minutes.Add(r.Time.Minutes)
}

func (w *Wave) sum(lines []openLine) {
	orders := map[int64]bool{}
	for _, l := range lines {
		orders[l.OrderID] = true
	}
	w.Orders, w.Lines = len(orders), len(lines)
	w.Metres, w.SingleMetres = catalog.Tenth(w.Metres), catalog.Tenth(w.SingleMetres)
	w.Button = fmt.Sprintf("Release %s for %s", measure.Count(len(w.Rounds), "round"), measure.Count(w.Orders, "order"))
}

// single is what the orders would walk one by one.
func (p *planner) single(orders [][]ProposedStop) (float64, error) {
	total := 0.0
	for _, order := range orders {
		metres, err := walking.Metres(p.floor, p.bench.Point(), p.points(order))
		if err != nil {
			return 0, err
		}
		total += metres
	}
	return total, nil
}

func (p *planner) points(stops []ProposedStop) []walking.Point {
	points := make([]walking.Point, len(stops))
	for i, s := range stops {
		points[i] = p.at[s.LocationID]
	}
	return points
}

// byOrder parts stops by their orders, in the order in which they come.
func byOrder(stops []ProposedStop) (out [][]ProposedStop) {
	at := map[int64]int{}
	for _, s := range stops {
		i, known := at[s.OrderID]
		if !known {
			i = len(out)
			at[s.OrderID] = i
			out = append(out, nil)
		}
		out[i] = append(out[i], s)
	}
	return out
}

// groups parts stops by zone where the wave is split so.
func groups(stops []ProposedStop, split string) [][]ProposedStop {
	if split != ByZone {
		return [][]ProposedStop{stops}
	}
	by := map[string][]ProposedStop{}
	var zones []string
	for _, s := range stops {
		if _, known := by[s.Zone]; !known {
			zones = append(zones, s.Zone)
		}
		by[s.Zone] = append(by[s.Zone], s)
	}
	slices.Sort(zones)
	var out [][]ProposedStop
	for _, z := range zones {
		out = append(out, by[z])
	}
	return out
}

// split makes rounds of a group of stops, within what a trolley takes. single is what the
// group's orders would walk one by one.
func (p *planner) split(
	stops []ProposedStop, in WaveWish, t trolley,
) (out [][]ProposedStop, single float64, err error) {
	if in.MaxLines == 0 {
		in.MaxLines = mostStops
	}
	orders := byOrder(stops)
	var rounds [][]ProposedStop
	switch in.Split {
	case ByOrder:
		rounds = orders
		single, err = p.single(orders)
	case AllInOne:
		rounds = [][]ProposedStop{stops}
		single, err = p.single(orders)
	default:
		rounds, single, err = p.gather(orders, in, t)
	}
	if err != nil {
		return nil, 0, err
	}
	for _, r := range rounds {
		cut, err := p.cut(r, in)
		if err != nil {
			return nil, 0, err
		}
		out = append(out, cut...)
	}
	return out, single, nil
}

// gather puts whole orders together so that all walk least.
func (p *planner) gather(
	orders [][]ProposedStop, in WaveWish, t trolley,
) (rounds [][]ProposedStop, single float64, err error) {
	wants := make([]batching.Order, len(orders))
	for i, order := range orders {
		wants[i] = batching.Order{Key: order[0].Order, Stops: p.points(order), Lines: len(order)}
		wants[i].Cartons, wants[i].WeightKg = p.needs(order, t)
	}
	answer, err := batching.Gather(p.floor, p.bench.Point(), wants, batching.Limits{Cartons: in.MaxCartons,
		Lines: in.MaxLines, WeightKg: in.MaxKg})
	if err != nil {
		return nil, 0, err
	}
	for _, b := range answer.Batches {
		var round []ProposedStop
		for _, i := range b.Orders {
			round = append(round, orders[i]...)
		}
		rounds = append(rounds, round)
	}
	return rounds, answer.SingleMetres, nil
}

func (w WaveDraft) stops() [][]Stop {
	drafts := make([][]Stop, len(w.Rounds))
	for i, r := range w.Rounds {
		drafts[i] = r.Stops
	}
	return drafts
}

// ReviewWave plans a wave anew as the lead changed it: which rounds there are and what they
// take stays as it is.
func ReviewWave(ctx context.Context, q sqlx.QueryerContext, in WaveDraft) (*Wave, error) {
	p, rounds, err := review(ctx, q, in.SiteID, in.stops())
	if err != nil {
		return nil, err
	}
	out := &Wave{Rounds: []*Proposed{}, Shortages: rounds[0].Shortages}
	var stops []ProposedStop
	for _, r := range rounds {
		out.add(r)
		stops = append(stops, r.Stops...)
	}
	if out.SingleMetres, err = p.single(byOrder(stops)); err != nil {
		return nil, err
	}
	out.sum(slices.Collect(maps.Values(p.lines)))
	out.Robbed, err = p.robbed(ctx, q, stops)
	return out, err
}

// ReleaseWave releases rounds together.
func ReleaseWave(ctx context.Context, tx *command.Tx, in WaveDraft) ([]Round, error) {
	drafts := in.stops()
	var wave *int32
	if len(drafts) > 1 {
		var n int32
		if err := tx.GetContext(ctx, &n, `SELECT nextval('wave_numbers')`); err != nil {
			return nil, fmt.Errorf("numbering a wave: %w", err)
		}
		wave = &n
	}
	ids, err := release(ctx, tx, in.SiteID, drafts, wave, in.EachUnit)
	if err != nil {
		return nil, err
	}
	return readRounds(ctx, tx, ids...)
}
