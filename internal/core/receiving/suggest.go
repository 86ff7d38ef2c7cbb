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

// A Suggestion is how much to buy, and how it was reckoned.
type Suggestion struct {
	// Packs is how many whole packs, Quantity the same in base units.
	Packs     decimal.Decimal `json:"packs"`
	Quantity  decimal.Decimal `json:"quantity"`
	Reckoning string          `json:"reckoning"`
}

// Suggest reckons what to buy of an item that comes in packs of so many base units.
// free is without what is promised away and may be below zero. Nothing is suggested
// while there is more than the reorder point (reorder point and order-up-to level,
// common practice, no source).
func (l Levels) Suggest(free, onOrder, pack decimal.Decimal) Suggestion {
	reach := free.Add(onOrder)
	s := Suggestion{Packs: decimal.Zero, Quantity: decimal.Zero}
	words := fmt.Sprintf("%s free and %s on order make %s", free, onOrder, reach)
	switch {
	case !l.Target.IsPositive():
		s.Reckoning = words + "; no target is set"
		return s
	case reach.GreaterThan(l.ReorderPoint):
		s.Reckoning = fmt.Sprintf("%s, more than the reorder point of %s", words, l.ReorderPoint)
		return s
	}
	lacking := l.Target.Sub(reach)
	s.Packs = lacking.Div(pack).Ceil()
	s.Quantity = s.Packs.Mul(pack)
	s.Reckoning = fmt.Sprintf("%s, at or below %s; %s to the target of %s", words, l.ReorderPoint, lacking, l.Target)
	if !s.Quantity.Equal(lacking) {
		s.Reckoning += fmt.Sprintf(", as %s packs of %s: %s", s.Packs, pack, s.Quantity)
	}
	return s
}
