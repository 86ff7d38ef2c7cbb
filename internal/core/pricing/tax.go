package pricing

import (
	"fmt"
	"slices"

	"github.com/shopspring/decimal"
)

// A Taxable is an amount of money with the rate that it is taxed at, in per cent.
type Taxable struct{ Amount, Pct decimal.Decimal }

// A Tax is what is due on all amounts of one rate.
type Tax struct {
	Pct    decimal.Decimal `json:"pct"`
	Net    decimal.Decimal `json:"net" money:"true"`
	Amount decimal.Decimal `json:"amount" money:"true"`
}

// Taxes sums amounts up by their rate, the lowest first. The tax is calculated once for each
// rate on the sum of its amounts and rounded to two decimals, half away from nought (EN
// 16931-1, rules BR-S-08 and BR-CO-17; from memory), so that it does not depend on how the
// amounts are split over lines. A rate of nought is no tax.
func Taxes(amounts []Taxable) []Tax {
	out := []Tax{}
	for _, a := range amounts {
		i := slices.IndexFunc(out, func(t Tax) bool { return t.Pct.Equal(a.Pct) })
		if i < 0 {
			i = len(out)
			out = append(out, Tax{Pct: a.Pct})
		}
		out[i].Net = out[i].Net.Add(a.Amount)
	}
	hundred := decimal.NewFromInt(100)
	for i, t := range out {
		out[i].Amount = t.Net.Mul(t.Pct).Div(hundred).Round(2)
	}
	slices.SortFunc(out, func(a, b Tax) int { return a.Pct.Cmp(b.Pct) })
	return out
}

// Totals are what amounts come to before and with their taxes.
func Totals(taxes []Tax) (net, gross decimal.Decimal) {
	for _, t := range taxes {
		net, gross = net.Add(t.Net), gross.Add(t.Net).Add(t.Amount)
	}
	return net, gross
}

// Words are what stands under amounts on a paper: what they come to before tax, each tax, and the
// total; the total alone where there is no tax.
func Words(taxes []Tax) []string {
	net, total := Totals(taxes)
	var out []string
	if !net.Equal(total) {
		out = append(out, "Before tax: "+net.StringFixed(2))
		for _, t := range taxes {
			out = append(out, fmt.Sprintf("Tax of %s %% on %s: %s", t.Pct, t.Net.StringFixed(2), t.Amount.StringFixed(2)))
		}
	}
	return append(out, "Total: "+total.StringFixed(2))
}
