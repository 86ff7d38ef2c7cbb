// Package returning has the rules of goods that come back from customers: how many may, and what a customer
// gets for them.
package returning

import (
	"lanternrow/internal/core/pricing"

	"github.com/shopspring/decimal"
)

// Sold is goods that went to a customer with one shipment, in base units.
type Sold struct {
	Shipped decimal.Decimal `json:"shipped"`
	// Returns are those of these goods that there are already.
	Returns []Part `json:"returns"`
}

// A Part is goods on a return: how many were announced, how many came, and how many stay with the customer for good.
// One that is over expects no more.
type Part struct {
	Announced decimal.Decimal `json:"announced"`
	Received  decimal.Decimal `json:"received"`
	Kept      decimal.Decimal `json:"kept"`
	Over      bool            `json:"over"`
}

// Returnable is how many may still be returned: what was shipped, less what came back, what is announced and may come
// still, and what the customer was given something for and keeps. It is never below nought.
func (s Sold) Returnable() decimal.Decimal {
	left := s.Shipped
	for _, p := range s.Returns {
		taken := p.Received.Add(p.Kept)
		if !p.Over {
			taken = decimal.Max(p.Announced, taken)
		}
		left = left.Sub(taken)
	}
	return decimal.Max(left, decimal.Zero)
}

// When a customer gets what a return gives.
type When string

// The steps after which it does.
const (
	Announced When = "announced"
	Received  When = "received"
	Decided   When = "decided"
)

// Progress is how far goods of a line are, in base units.
type Progress struct{ Announced, Received, Decided decimal.Decimal }

// Of is how many of a line are given for once this step is made.
func (w When) Of(p Progress) decimal.Decimal {
	switch w {
	case Announced:
		return p.Announced
	case Received:
		return p.Received
	}
	return p.Decided
}

// A Line is goods that a customer gets money for: the price that they were invoiced at.
type Line struct {
	Quantity decimal.Decimal `json:"quantity"`
	Price    decimal.Decimal `json:"price"`
	TaxPct   decimal.Decimal `json:"tax_pct"`
}

// A Settlement is what a customer gets.
type Settlement struct {
	// Prices are what a unit of each line is credited at, less the fee.
	Prices  []decimal.Decimal `json:"prices"`
	Amounts []decimal.Decimal `json:"amounts"`
	Taxes   []pricing.Tax     `json:"taxes"`
	Net     decimal.Decimal   `json:"net"`
	Total   decimal.Decimal   `json:"total"`
}

// Settle calculates what is credited for goods: each line at its price less a fee in per cent, to four
// decimals, its amount to two; taxes as on an invoice, or none where they are not given back.
func Settle(lines []Line, feePct decimal.Decimal, taxed bool) Settlement {
	out := Settlement{Prices: []decimal.Decimal{}, Amounts: []decimal.Decimal{}}
	keep := decimal.NewFromInt(100).Sub(feePct).Div(decimal.NewFromInt(100))
	amounts := make([]pricing.Taxable, len(lines))
	for i, l := range lines {
		price := l.Price.Mul(keep).Round(4)
		amounts[i] = pricing.Taxable{Amount: l.Quantity.Mul(price).Round(2)}
		if taxed {
			amounts[i].Pct = l.TaxPct
		}
		out.Prices, out.Amounts = append(out.Prices, price), append(out.Amounts, amounts[i].Amount)
	}
	out.Taxes = pricing.Taxes(amounts)
	out.Net, out.Total = pricing.Totals(out.Taxes)
	return out
}
