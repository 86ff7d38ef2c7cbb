package slotting

import (
	"fmt"
	"slices"

	"lanternrow/internal/core/measure"

	"github.com/shopspring/decimal"
)

// Goods are what is to be put away: one item, one lot.
type Goods struct {
	Item     string          `json:"item"`
	Lot      string          `json:"lot,omitempty"`
	Quantity decimal.Decimal `json:"quantity"`
	// Whole is true when the item cannot be divided.
	Whole bool `json:"whole"`
	// WeightKg and VolumeL are those of one base unit; zero is unknown.
	WeightKg decimal.Decimal `json:"weight_kg"`
	VolumeL  decimal.Decimal `json:"volume_l"`
	// Handling is the item's handling class, empty for ordinary goods.
	Handling string `json:"handling,omitempty"`
	// HomeBin is the bin the item belongs to, if it has one.
	HomeBin string `json:"home_bin,omitempty"`
	// Pace is how quickly the item moves: 0 for slow to 1 for the quickest.
	Pace float64 `json:"pace,omitempty"`
}

func (g Goods) unit() measure.Unit { return measure.Unit{Name: "units", Whole: g.Whole} }

// A Bin is a location that may take goods. Limits that are nil are open.
type Bin struct {
	Code        string           `json:"code"`
	MaxUnits    *decimal.Decimal `json:"max_units,omitempty"`
	MaxWeightKg *decimal.Decimal `json:"max_weight_kg,omitempty"`
	MaxVolumeL  *decimal.Decimal `json:"max_volume_l,omitempty"`
	// MixItems and MixLots say whether different items, or different lots of one
	// item, may lie together.
	MixItems bool `json:"mix_items"`
	MixLots  bool `json:"mix_lots"`
	// Accepts lists the handling classes taken; empty takes only ordinary goods.
	Accepts []string `json:"accepts,omitempty"`
	// Holds is what lies there.
	Holds []Held `json:"holds,omitempty"`
	// WalkM is the walk from where the goods stand, GateM that to where picked
	// goods leave, both in metres.
	WalkM float64 `json:"walk_m"`
	GateM float64 `json:"gate_m"`
	// Away is true for bins that are not offered, though they may be named.
	Away bool `json:"away,omitempty"`
}

// Held is one kind of goods in a bin.
type Held struct {
	Item     string          `json:"item"`
	Lot      string          `json:"lot,omitempty"`
	Quantity decimal.Decimal `json:"quantity"`
	WeightKg decimal.Decimal `json:"weight_kg"`
	VolumeL  decimal.Decimal `json:"volume_l"`
}

// Capacity tells how much of the goods the bin can still take, at most their
// quantity, and what sets the limit ("" when all of it fits).
func (b Bin) Capacity(g Goods) (decimal.Decimal, string) { return b.capacity(g, true) }

// capacity is Capacity; unless it is to say so in words, what sets the limit is "full".
func (b Bin) capacity(g Goods, say bool) (decimal.Decimal, string) {
	if g.Handling != "" && !slices.Contains(b.Accepts, g.Handling) {
		return decimal.Zero, fmt.Sprintf("its zone does not take %s goods", g.Handling)
	}
	var units, weight, volume decimal.Decimal
	for _, h := range b.Holds {
		if h.Item != g.Item && !b.MixItems {
			return decimal.Zero, fmt.Sprintf("it holds %s, and items may not mix there", h.Item)
		}
		if h.Item == g.Item && h.Lot != g.Lot && !b.MixLots {
			return decimal.Zero, fmt.Sprintf("it holds lot %s, and lots may not mix there", h.Lot)
		}
		units = units.Add(h.Quantity)
		weight = weight.Add(h.Quantity.Mul(h.WeightKg))
		volume = volume.Add(h.Quantity.Mul(h.VolumeL))
	}
	takes, why := g.Quantity, ""
	limit := func(most *decimal.Decimal, held, each decimal.Decimal, words string) {
		if most == nil {
			return
		}
		if fits, sized := measure.Fits(most.Sub(held), each, g.unit()); sized && fits.LessThan(takes) {
			if takes, why = fits, "full"; say {
				why = fmt.Sprintf(words, held, most)
			}
		}
	}
	limit(b.MaxUnits, units, decimal.NewFromInt(1), "it holds %s of at most %s units")
	limit(b.MaxWeightKg, weight, g.WeightKg, "it carries %s of at most %s kg")
	limit(b.MaxVolumeL, volume, g.VolumeL, "%s of its %s litres are full")
	return takes, why
}

// add returns the bin with goods laid into it.
// With is the bin once so much of the goods lies in it too.
func (b Bin) With(g Goods, q decimal.Decimal) Bin { return b.add(g, q) }

func (b Bin) add(g Goods, q decimal.Decimal) Bin {
	b.Holds = append(slices.Clip(b.Holds), Held{Item: g.Item, Lot: g.Lot, Quantity: q, WeightKg: g.WeightKg,
		VolumeL: g.VolumeL})
	return b
}
