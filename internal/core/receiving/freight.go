package receiving

import (
	"github.com/shopspring/decimal"
)

// Costed is a line that freight is spread over.
type Costed struct {
	// Quantity is in base units; Price and WeightKg are those of one.
	Quantity, Price, WeightKg decimal.Decimal
}

// Freight is what a line bears of the freight.
type Freight struct {
	// Share is the line's, in whole hundredths; Each is for one base unit, to four
	// decimals.
	Share decimal.Decimal `json:"share" money:"true"`
	Each  decimal.Decimal `json:"each" money:"true"`
}

// SpreadFreight shares the freight of an order out over its lines, by weight or else
// by value (common practice, no source): the shares are whole hundredths and come to
// the freight exactly, the hundredths left by rounding down going to the largest
// remainders. Where nothing weighs, or is worth, anything, each unit bears as much.
func SpreadFreight(freight decimal.Decimal, by string, lines []Costed) []Freight {
	out := make([]Freight, len(lines))
	parts, whole := make([]decimal.Decimal, len(lines)), decimal.Zero
	measure := func(of func(Costed) decimal.Decimal) {
		whole = decimal.Zero
		for i, l := range lines {
			parts[i] = of(l)
			whole = whole.Add(parts[i])
		}
	}
	if by == "weight" {
		measure(func(l Costed) decimal.Decimal { return l.Quantity.Mul(l.WeightKg) })
	} else {
		measure(func(l Costed) decimal.Decimal { return l.Quantity.Mul(l.Price) })
	}
	if whole.IsZero() {
		measure(func(l Costed) decimal.Decimal { return l.Quantity })
	}
	if whole.IsZero() {
		return out
	}
	left := freight
	rest := make([]decimal.Decimal, len(lines))
	for i := range lines {
		exact := freight.Mul(parts[i])
		out[i].Share = exact.Div(whole).RoundFloor(2)
		// Compared as they are, without dividing: what the line lost by rounding.
		rest[i] = exact.Sub(out[i].Share.Mul(whole))
		left = left.Sub(out[i].Share)
	}
	cent := decimal.New(1, -2)
	for left.IsPositive() {
		at := 0
		for i := range rest {
			if rest[i].GreaterThan(rest[at]) {
				at = i
			}
		}
		out[at].Share, rest[at], left = out[at].Share.Add(cent), decimal.NewFromInt(-1), left.Sub(cent)
	}
	for i, l := range lines {
		if l.Quantity.IsPositive() {
			out[i].Each = out[i].Share.DivRound(l.Quantity, 4)
		}
	}
	return out
}
