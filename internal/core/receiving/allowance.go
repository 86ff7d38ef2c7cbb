package receiving

import (
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// An Allowance is by how many per cent of what was ordered a line may come in short
// or over, and be fine.
type Allowance struct {
	Short decimal.Decimal `db:"short_pct" json:"short"`
	Over  decimal.Decimal `db:"over_pct" json:"over"`
}

var hundred = decimal.NewFromInt(100)

// Bounds are what may come in all on a line: it closes from least, and takes no more
// than most. Where the unit cannot be divided, least is rounded up and most down.
func (a Allowance) Bounds(ordered decimal.Decimal, u measure.Unit) (least, most decimal.Decimal) {
	locations := int32(measure.Places)
	if u.Whole {
		locations = 0
	}
	least = ordered.Mul(hundred.Sub(a.Short)).Div(hundred).RoundCeil(locations)
	most = ordered.Mul(hundred.Add(a.Over)).Div(hundred).RoundFloor(locations)
	return decimal.Max(least, decimal.Zero), most
}

// An Incoming is what comes in on a line, beside what was ordered and came before.
type Incoming struct {
	Ordered, Already, Here decimal.Decimal
	Allowance
	Unit measure.Unit
	// Follows keeps a line that is short within its allowance open: the rest comes later.
	Follows bool
}

// A Settlement is what becomes of a line when more comes in on it.
type Settlement struct {
	// Least closes the line, Most is all that may come on it, MayCome what is left
	// of that.
	Least   decimal.Decimal `json:"least"`
	Most    decimal.Decimal `json:"most"`
	MayCome decimal.Decimal `json:"may_come"`
	// Received is what is in with it. A line that closes cancels what is missing;
	// one that does not leaves it open.
	Received  decimal.Decimal `json:"received"`
	Closes    bool            `json:"closes"`
	Cancelled decimal.Decimal `json:"cancelled"`
	Open      decimal.Decimal `json:"open"`
	// Over is how much more came than may: somebody has to say why.
	Over decimal.Decimal `json:"over"`
}

// Settle calculates what becomes of a line.
func (in Incoming) Settle() Settlement {
	var s Settlement
	s.Least, s.Most = in.Bounds(in.Ordered, in.Unit)
	s.MayCome = decimal.Max(s.Most.Sub(in.Already), decimal.Zero)
	s.Received = in.Already.Add(in.Here)
	missing := decimal.Max(in.Ordered.Sub(s.Received), decimal.Zero)
	s.Closes = s.Received.IsPositive() && s.Received.GreaterThanOrEqual(s.Least) && !(in.Follows && missing.IsPositive())
	if s.Closes {
		s.Cancelled = missing
	} else {
		s.Open = missing
	}
	s.Over = decimal.Max(in.Here.Sub(s.MayCome), decimal.Zero)
	return s
}

// Refuse is the refusal of what is over, naming the most that may come; nil when
// nothing is.
func (s Settlement) Refuse(field, sku string, in Incoming) error {
	if !s.Over.IsPositive() {
		return nil
	}
	return refusal.New(refusal.OverAllowance, field,
		"%s: %s are here, and at most %s may still come (%s ordered, %s at most, %s already in). Receive %s and "+
			"set the rest aside, or have a lead accept more and say why.",
		sku, in.Here, s.MayCome, in.Ordered, s.Most, in.Already, s.MayCome).With("most", s.MayCome).With("here", in.Here)
}

// Inspect is how much of a delivery is set aside at a share in per cent: at least one
// unit when there is a share, and never half a whole one.
func Inspect(quantity, share decimal.Decimal, u measure.Unit) decimal.Decimal {
	locations := int32(measure.Places)
	if u.Whole {
		locations = 0
	}
	return decimal.Min(quantity.Mul(share).Div(hundred).RoundCeil(locations), quantity)
}
