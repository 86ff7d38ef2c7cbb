package receiving

import (
	"fmt"

	"github.com/shopspring/decimal"
)

// Levels are how much of an item a site wants to have: more is bought when what is
// free and on order together falls to ReorderPoint, up to Target.
type Levels struct {
	ReorderPoint decimal.Decimal `db:"reorder_point" json:"reorder_point"`
	Target       decimal.Decimal `db:"target" json:"target"`
}

// A Suggestion is how much to buy, and how it was calculated.
type Suggestion struct {
	// Packs is how many whole packs, Quantity the same in base units.
	Packs       decimal.Decimal `json:"packs"`
	Quantity    decimal.Decimal `json:"quantity"`
	Calculation string          `json:"calculation"`
}

// Reached tells whether an item is at its reorder point: what is free and on order is no
// more than that.
func (l Levels) Reached(free, onOrder decimal.Decimal) bool {
	return free.Add(onOrder).LessThanOrEqual(l.ReorderPoint)
}

// Suggest calculates what to buy of an item that comes in packs of so many base units.
// free is without what is promised away and may be below zero. Nothing is suggested
// while there is more than the reorder point (reorder point and order-up-to level,
// common practice, no source).
func (l Levels) Suggest(free, onOrder, pack decimal.Decimal) Suggestion {
	reach := free.Add(onOrder)
	s := Suggestion{Packs: decimal.Zero, Quantity: decimal.Zero}
	words := fmt.Sprintf("%s free and %s on order or asked for make %s", free, onOrder, reach)
	switch {
	case !l.Target.IsPositive():
		s.Calculation = words + "; no target is set"
		return s
	case !l.Reached(free, onOrder):
		s.Calculation = fmt.Sprintf("%s, more than the reorder point of %s", words, l.ReorderPoint)
		return s
	}
	short := l.Target.Sub(reach)
	s.Packs = short.Div(pack).Ceil()
	s.Quantity = s.Packs.Mul(pack)
	s.Calculation = fmt.Sprintf("%s, at or below %s; %s to the target of %s", words, l.ReorderPoint, short, l.Target)
	if !s.Quantity.Equal(short) {
		s.Calculation += fmt.Sprintf(", as %s packs of %s: %s", s.Packs, pack, s.Quantity)
	}
	return s
}

// AtLeast is the suggestion with no less than a supplier sells, in whole packs of so many base
// units. Where nothing is suggested nothing is.
func (s Suggestion) AtLeast(minimum, pack decimal.Decimal) Suggestion {
	if !s.Quantity.IsPositive() || !s.Quantity.LessThan(minimum) {
		return s
	}
	s.Packs = minimum.Div(pack).Ceil()
	s.Quantity = s.Packs.Mul(pack)
	s.Calculation += fmt.Sprintf("; the supplier sells %s at least: %s", minimum, s.Quantity)
	return s
}
