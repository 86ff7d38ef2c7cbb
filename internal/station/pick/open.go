package pick

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/walking"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// OpenFilter narrows what is open.
type OpenFilter struct {
	Until    string `query:"until" doc:"Wanted on this day or before"`
	Carrier  string `query:"carrier" maxLength:"80"`
	Customer string `query:"customer" maxLength:"80" doc:"Words of the customer's name"`
	Words    string `query:"q" maxLength:"80" doc:"Part of its number or of its customer's name"`
	Zone     string `query:"zone" maxLength:"20" doc:"Only what can be taken from this zone"`
	Ready    bool   `query:"ready" doc:"Only orders of which all can go now"`
	Order    int64  `query:"order" doc:"Only this order, with its lines"`
}

// OpenOrder is an order that waits for a round, with what it asks of one.
type OpenOrder struct {
	ID       int64           `json:"id"`
	Number   string          `json:"number"`
	Customer string          `json:"customer"`
	Carrier  string          `json:"carrier"`
	WantedOn string          `json:"wanted_on"`
	Late     bool            `json:"late"`
	Lines    int             `json:"lines"`
	Units    decimal.Decimal `json:"units"`
	WeightKg decimal.Decimal `json:"weight_kg"`
	// CanGo is how many of the units lie free in a bin, those wanted before it first.
	CanGo decimal.Decimal `json:"can_go"`
	Zones []string        `json:"zones"`
	// Metres and Minutes are for a round of its own.
	Metres  float64         `json:"metres"`
	Minutes decimal.Decimal `json:"minutes"`
	// Parts are its lines, where it alone is asked for.
	Parts []OpenPart `json:"parts" nullable:"false"`
}

// OpenPart is a line that waits for a round.
type OpenPart struct {
	LineID      int64           `json:"line_id"`
	SKU         string          `json:"sku"`
	Description string          `json:"description"`
	Unit        string          `json:"unit"`
	Units       decimal.Decimal `json:"units"`
	CanGo       decimal.Decimal `json:"can_go"`
	Bins        []string        `json:"bins" doc:"Where it would be taken"`
}

// openOrders are the orders that wait for a round, as a list.
var openOrders = documents.Computed[OpenOrder]{
	Keys: map[string]documents.ComputedKey[OpenOrder]{
		"number":   {Text: func(o OpenOrder) string { return o.Number }},
		"customer": {Text: func(o OpenOrder) string { return o.Customer }},
		"wanted":   {Text: func(o OpenOrder) string { return o.WantedOn }},
		"carrier":  {Text: func(o OpenOrder) string { return o.Carrier }},
		"lines":    {Figure: func(o OpenOrder) decimal.Decimal { return decimal.NewFromInt(int64(o.Lines)) }},
		"units":    {Figure: func(o OpenOrder) decimal.Decimal { return o.Units }},
		"canGo":    {Figure: func(o OpenOrder) decimal.Decimal { return o.CanGo }},
		"kg":       {Figure: func(o OpenOrder) decimal.Decimal { return o.WeightKg }},
		"metres":   {Figure: func(o OpenOrder) decimal.Decimal { return decimal.NewFromFloat(o.Metres) }},
		"minutes":  {Figure: func(o OpenOrder) decimal.Decimal { return o.Minutes }},
	},
	ID: func(o OpenOrder) string { return fmt.Sprintf("%012d", o.ID) },
}

// Open is all that waits for a round: its orders, or a page of them, and what all of them come to.
type Open struct {
	documents.Page[OpenOrder]
	Lines    int             `json:"lines"`
	Units    decimal.Decimal `json:"units"`
	CanGo    decimal.Decimal `json:"can_go"`
	WeightKg decimal.Decimal `json:"weight_kg"`
	// What it can be narrowed by.
	Carriers []string `json:"carriers"`
	Zones    []string `json:"zones"`
}

// OpenAt calculates what waits for a round at a site, all of it: stock is offered to the orders by the day on
// which they are wanted.
func OpenAt(ctx context.Context, q sqlx.QueryerContext, site int32, f OpenFilter, now time.Time) (Open, error) {
	out := Open{Carriers: []string{}, Zones: []string{}}
	lines, err := pickableLines(ctx, q, site)
	if err != nil {
		return out, err
	}
	p, err := newPlanner(ctx, q, site, lines, nil)
	if err != nil {
		return out, err
	}
	stops, _ := p.allocate(lines, bounds{}, now)
	taken := map[int64][]ProposedStop{}
	for _, s := range stops {
		taken[s.OrderID] = append(taken[s.OrderID], s)
	}
	for i := 0; i < len(lines); {
		o, n := lines[i], i
		row := OpenOrder{ID: o.OrderID, Number: o.Order, Customer: o.Customer, Carrier: o.Carrier,
			WantedOn: o.WantedOn, Late: o.Late, Zones: []string{}, Parts: []OpenPart{}}
		for ; i < len(lines) && lines[i].OrderID == o.OrderID; i++ {
			row.Units = row.Units.Add(lines[i].Open)
			row.WeightKg = row.WeightKg.Add(lines[i].Open.Mul(lines[i].WeightKg))
		}
		row.Lines = i - n
		for _, s := range taken[o.OrderID] {
			row.CanGo = row.CanGo.Add(s.Quantity)
			row.Zones = with(row.Zones, s.Zone)
			out.Zones = with(out.Zones, s.Zone)
		}
		out.Carriers = with(out.Carriers, o.Carrier)
		if !f.takes(row) {
			continue
		}
		metres, err := walking.Metres(p.floor, p.bench.Point(), p.points(taken[o.OrderID]))
		if err != nil {
			return out, err
		}
		row.Metres = catalog.Tenth(metres)
		row.Minutes = p.estimate(&Proposed{Stops: taken[o.OrderID], Metres: row.Metres, Units: row.CanGo,
			WeightKg: row.WeightKg}).Minutes
		if f.Order != 0 {
			row.Parts = partsOf(lines[n:i], taken[o.OrderID])
		}
		out.Rows = append(out.Rows, row)
		out.Lines += row.Lines
		out.Units, out.CanGo, out.WeightKg = out.Units.Add(row.Units), out.CanGo.Add(row.CanGo), out.WeightKg.Add(row.WeightKg)
	}
	return out, nil
}

func (f OpenFilter) takes(o OpenOrder) bool {
	if f.Words != "" && !strings.Contains(strings.ToLower(o.Number+" "+o.Customer), strings.ToLower(f.Words)) {
		return false
	}
	return (f.Order == 0 || o.ID == f.Order) && (f.Until == "" || o.WantedOn <= f.Until) &&
		(f.Carrier == "" || o.Carrier == f.Carrier) &&
		(f.Customer == "" || strings.Contains(strings.ToLower(o.Customer), strings.ToLower(f.Customer))) &&
		(f.Zone == "" || slices.Contains(o.Zones, f.Zone)) && (!f.Ready || o.CanGo.Equal(o.Units))
}

// partsOf are the lines of an order, with where each would be taken.
func partsOf(lines []openLine, stops []ProposedStop) []OpenPart {
	out := make([]OpenPart, len(lines))
	for i, l := range lines {
		out[i] = OpenPart{LineID: l.ID, SKU: l.SKU, Description: l.Text, Unit: l.Unit, Units: l.Open, Bins: []string{}}
		for _, s := range stops {
			if s.LineID == l.ID {
				out[i].CanGo = out[i].CanGo.Add(s.Quantity)
				out[i].Bins = with(out[i].Bins, s.Bin)
			}
		}
	}
	return out
}

// with adds a word to a sorted list that has each once.
func with(list []string, s string) []string {
	if i, there := slices.BinarySearch(list, s); s != "" && !there {
		return slices.Insert(list, i, s)
	}
	return list
}
