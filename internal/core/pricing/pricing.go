// Package pricing says what a customer pays for a base unit of an item, and why.
package pricing

import (
	"fmt"

	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// A Source is where a line's price comes from.
type Source string

// The sources of a price, the first that applies.
const (
	// Typed by whoever took the order.
	Typed Source = "typed"
	// Agreed with the customer for the item, from a day on.
	Agreed Source = "agreed"
	// Discount is the item's sales price less the customer's discount.
	Discount Source = "discount"
	// List is the item's sales price.
	List Source = "list"
)

// An Agreement is a price that a customer has for an item from a day on, YYYY-MM-DD.
type Agreement struct {
	From  string          `json:"from"`
	Price decimal.Decimal `json:"price"`
}

// Terms are what a price is made of: the item's sales price, nil where it has none; the
// customer's discount in per cent; and what was agreed with it for the item.
type Terms struct {
	SKU      string           `json:"sku"`
	List     *decimal.Decimal `json:"list"`
	Discount decimal.Decimal  `json:"discount_pct"`
	Agreed   []Agreement      `json:"agreed"`
}

// A Price is what a base unit costs the customer, and Why says how it came about.
type Price struct {
	Amount decimal.Decimal `json:"amount" money:"true"`
	Source Source          `json:"source" enum:"typed,agreed,discount,list"`
	Why    string          `json:"why"`
}

// On is the price of an order taken on a day, YYYY-MM-DD: what was agreed last from that
// day or before; or else the sales price less the discount, to the hundredth. Without
// either it is refused: what an item cost us is no price.
func (t Terms) On(field, day string) (Price, error) {
	var agreed *Agreement
	for i, a := range t.Agreed {
		if a.From <= day && (agreed == nil || a.From > agreed.From) {
			agreed = &t.Agreed[i]
		}
	}
	switch {
	case agreed != nil:
		return Price{agreed.Price, Agreed, "agreed from " + agreed.From}, nil
	case t.List == nil:
		return Price{}, refusal.New(refusal.PriceMissing, field,
			"%s has no sales price. Enter one here, or write it into the catalog.", t.SKU)
	case t.Discount.IsPositive():
		off := t.List.Mul(t.Discount).Div(decimal.NewFromInt(100))
		return Price{t.List.Sub(off).Round(2), Discount, fmt.Sprintf("%s less %s %%", t.List, t.Discount)}, nil
	}
	return Price{*t.List, List, "sales price"}, nil
}

// Entered is a price that somebody typed, unless it is what the terms say anyway.
func (t Terms) Entered(amount decimal.Decimal, day string) Price {
	if p, err := t.On("", day); err == nil && p.Amount.Equal(amount) {
		return p
	}
	return Price{amount, Typed, "as entered"}
}
