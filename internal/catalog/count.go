package catalog

import (
	"context"

	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
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

// A Counted is a quantity of an item as it was typed.
type Counted struct {
	ItemID   int32  `json:"item_id"`
	PackID   int32  `json:"pack_id,omitempty" doc:"The quantity counts these packs; base units without"`
	Quantity string `json:"quantity" maxLength:"40"`
}

// A Count is a quantity in base units, or why what was typed is none.
type Count struct {
	Quantity decimal.Decimal `json:"quantity"`
	Unit     string          `json:"unit"`
	Wrong    string          `json:"wrong" doc:"Why it cannot be counted"`
}

// countAll counts quantities of items in base units.
func countAll(ctx context.Context, q sqlx.QueryerContext, typed []Counted) ([]Count, error) {
	ids := make([]int32, len(typed))
	for i, t := range typed {
		ids[i] = t.ItemID
	}
	items, err := ItemsByID(ctx, q, ids)
	if err != nil {
		return nil, err
	}
	out := make([]Count, len(typed))
	for i, t := range typed {
		item := items[t.ItemID]
		out[i].Unit = item.BaseUnit
		out[i].Quantity, err = item.Count("", t.PackID, t.Quantity)
		if r := refusal.From(err); r != nil {
			out[i].Quantity, out[i].Wrong = decimal.Zero, r.Sentence
		} else if err != nil {
			return nil, err
		}
	}
	return out, nil
}
