package catalog

import (
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// Count reads how much of the item a person typed, in one of its packs or in base units
// where pack is 0, as base units. A non-stock line, an item whose id is 0, counts as it is.
func (i Item) Count(field string, pack int32, text string) (decimal.Decimal, error) {
	if i.ID == 0 {
		return measure.Parse(field+".quantity", text, measure.Unit{})
	}
	if pack == 0 {
		return measure.Parse(field+".quantity", text, i.Unit())
	}
	p, known := i.Pack(pack)
	if !known {
		return decimal.Zero, refusal.New(refusal.PackUnknown, field+".pack_id", "%s has no such pack.", i.SKU)
	}
	n, err := measure.Parse(field+".quantity", text, measure.Unit{Name: p.Name, Whole: true})
	if err != nil {
		return n, err
	}
	base := n.Mul(p.Holds)
	return base, measure.Check(field+".quantity", base, i.Unit())
}
