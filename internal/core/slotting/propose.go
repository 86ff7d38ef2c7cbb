// Package slotting proposes bins for goods and refuses those that cannot take them.
//
// The objective, in this order: the item's home bin takes what it can, also when that is
// only part (common practice, no source); put away as much as possible; then the least sum
// of points over the bins used. A bin's points are, with tenths of a point as the unit of
// account:
//
//	100  for each bin used, so that few are
//	-60  for the item's home bin
//	-30  for a bin that holds the same item and lot, -15 the same item only
//	  1  for each metre of walk to it
//	  1  for each metre from it to the gate, times the item's pace
//
// Points never fall below one tenth. The weights are common practice, no source.
package slotting

import (
	"fmt"
	"math"
	"sort"

	"lanternrow/internal/core/covering"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// A Location is one bin's part of a proposal.
type Location struct {
	Bin      string          `json:"bin"`
	Quantity decimal.Decimal `json:"quantity"`
	// Takes is all that the bin could take of these goods.
	Takes decimal.Decimal `json:"takes"`
	// Points are the bin's points, and Parts what they are made of.
	Points float64            `json:"points"`
	Parts  map[string]float64 `json:"parts"`
	// Why says in words what speaks for the bin.
	Why []string `json:"why"`
}

// A Proposal spreads goods over bins.
type Proposal struct {
	Locations []Location `json:"locations"`
	// Left is what no bin takes.
	Left decimal.Decimal `json:"left"`
	// Points is the sum over the bins used.
	Points float64 `json:"points"`
	// Proven is true when no better spread exists.
	Proven bool `json:"proven"`
}

// Propose spreads the goods over the bins.
func Propose(g Goods, bins []Bin) (Proposal, error) {
	if err := measure.Check("goods.quantity", g.Quantity, g.unit()); err != nil {
		return Proposal{}, err
	}
	out := Proposal{Left: g.Quantity, Locations: []Location{}}
	var locations []Location
	var choices []covering.Choice
	beside := g.Quantity
	for _, b := range bins {
		p, takes := b.offer(g)
		switch {
		case !takes:
		case b.Code == g.HomeBin:
			out.Locations = append(out.Locations, p)
			beside = beside.Sub(decimal.Min(p.Takes, beside))
		default:
			locations = append(locations, p)
			choices = append(choices, covering.Choice{Size: measure.Thousandths(p.Takes), Cost: tenths(p.Points)})
		}
	}
	var picked []int
	picked, out.Proven = covering.Cheapest(measure.Thousandths(beside), choices)
	for _, i := range picked {
		out.Locations = append(out.Locations, locations[i])
	}
	sort.SliceStable(out.Locations, func(i, j int) bool {
		a, b := out.Locations[i], out.Locations[j]
		switch g.HomeBin {
		case a.Bin, b.Bin:
			return a.Bin == g.HomeBin
		}
		return a.Points < b.Points || a.Points == b.Points && a.Bin < b.Bin
	})
	for i := range out.Locations {
		p := &out.Locations[i]
		p.Quantity = decimal.Min(p.Takes, out.Left)
		out.Left = out.Left.Sub(p.Quantity)
		out.Points += p.Points
	}
	return out, nil
}

// offer says what the bin takes of the goods and what speaks for it; takes is false where
// it takes nothing.
func (b Bin) offer(g Goods) (p Location, takes bool) {
	if b.Away && b.Code != g.HomeBin {
		return p, false
	}
	most, limit := b.capacity(g, false)
	if !most.IsPositive() {
		return p, false
	}
	p = b.score(g)
	p.Takes = most
	if limit != "" {
		p.Why = append(p.Why, fmt.Sprintf("takes %s, then full", most))
	}
	return p, true
}

// perBin is what each bin costs that is used, so that few are.
const perBin = 100

func tenths(points float64) int64 { return int64(math.Round(points * 10)) }

// score calculates the bin's points for the goods.
func (b Bin) score(g Goods) Location {
	p := Location{Bin: b.Code, Parts: map[string]float64{"bin": perBin, "walk": b.WalkM}}
	if b.Code == g.HomeBin {
		p.Parts["home"] = -60
		p.Why = append(p.Why, "the item's home bin")
	}
	same := 0.0
	for _, h := range b.Holds {
		switch {
		case h.Item == g.Item && h.Lot == g.Lot:
			same = -30
		case h.Item == g.Item && same == 0:
			same = -15
		}
	}
	switch {
	case same == -30 && g.Lot != "":
		p.Why = append(p.Why, "holds this lot already")
	case same == -30:
		p.Why = append(p.Why, "holds this item already")
	case same == -15:
		p.Why = append(p.Why, "holds another lot of this item; lots may mix there")
	}
	if same != 0 {
		p.Parts["same goods"] = same
	}
	if g.Pace > 0 {
		p.Parts["gate"] = b.GateM * g.Pace
		if g.Pace >= 0.5 {
			p.Why = append(p.Why, fmt.Sprintf("moves quickly, and the gate is %.0f m away", b.GateM))
		}
	}
	p.Why = append(p.Why, fmt.Sprintf("%.0f m to walk", b.WalkM))
	for _, name := range []string{"bin", "walk", "home", "same goods", "gate"} {
		p.Points += p.Parts[name]
	}
	p.Points = math.Max(0.1, math.Round(p.Points*10)/10)
	return p
}

// A Line is a bin that somebody chose, with the quantity for it.
type Line struct {
	Field    string
	Bin      Bin
	Quantity decimal.Decimal
}

// Check tests a spread that somebody chose: each bin takes its part, also when it
// is named twice, and the parts add up to the whole.
func Check(g Goods, lines []Line) error {
	total := decimal.Zero
	filled := map[string]Bin{}
	for _, l := range lines {
		if err := measure.Check(l.Field, l.Quantity, g.unit()); err != nil {
			return err
		}
		if l.Quantity.IsZero() {
			return refusal.New(refusal.QuantityZero, l.Field,
				"Nothing goes to %s. Enter a quantity or leave the bin out.", l.Bin.Code)
		}
		b, again := filled[l.Bin.Code]
		if !again {
			b = l.Bin
		}
		part := g
		part.Quantity = l.Quantity
		if takes, why := b.Capacity(part); takes.LessThan(l.Quantity) {
			return refusal.New(refusal.BinFull, l.Field,
				"%s can take %s of %s, not %s: %s. Put the other %s elsewhere.",
				b.Code, takes, g.Item, l.Quantity, why, l.Quantity.Sub(takes)).
				With("bin", b.Code).With("takes", takes).With("asked", l.Quantity)
		}
		filled[l.Bin.Code] = b.add(part, l.Quantity)
		total = total.Add(l.Quantity)
	}
	if !total.Equal(g.Quantity) {
		words := "short of"
		if total.GreaterThan(g.Quantity) {
			words = "over"
		}
		return refusal.New(refusal.SpreadTotal, "locations",
			"%s of %s are spread over bins: %s %s the whole. The parts must add up before they can be put away.",
			total, g.Quantity, total.Sub(g.Quantity).Abs(), words).With("placed", total).With("whole", g.Quantity)
	}
	return nil
}
