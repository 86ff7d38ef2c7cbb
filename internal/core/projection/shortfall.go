package projection

import "github.com/shopspring/decimal"

// A Shortfall is a line that wants stock, beside what all others want.
type Shortfall struct {
	// Wanted is what the line still wants and is not reserved for it.
	Wanted decimal.Decimal `json:"wanted"`
	// Free is what is free when every line, this one too, has what it wants; below zero
	// when that is not so.
	Free decimal.Decimal `json:"free"`
	// OnOrder is what was ordered for this very line, Others what was ordered for other
	// lines, and has not come.
	OnOrder decimal.Decimal `json:"on_order"`
	Others  decimal.Decimal `json:"others"`
}

// Short is how much has to be bought for the line: what it wants, less what is free to it
// once all others have theirs, less what is on order for it. What others lack and is on
// order for them takes nothing from it.
func (s Shortfall) Short() decimal.Decimal {
	free := decimal.Max(s.Free.Add(s.Wanted).Add(s.Others), decimal.Zero)
	return decimal.Max(s.Wanted.Sub(free).Sub(s.OnOrder), decimal.Zero)
}
