// Package relaying says how much of what is received at one site moves on to another by a standing rule.
package relaying

import (
	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// A How is what a rule sends on.
type How string

// The ways there are: all of it; what the other site is short of its target; or a share of it.
const (
	All    How = "all"
	Target How = "target"
	Share  How = "share"
)

// A Rule sends goods on that are received at a site.
type Rule struct {
	How How `json:"how"`
	// SharePct is how much of it, in per cent, by a share.
	SharePct decimal.Decimal `json:"share_pct"`
}

// Received is goods that came, in base units, with what the other site has of them.
type Received struct {
	Quantity decimal.Decimal `json:"quantity"`
	// Promised is how much of it is bought for somebody, and stays for them.
	Promised decimal.Decimal `json:"promised"`
	// Target is what the other site should have, and There what it has free and on the way.
	Target decimal.Decimal `json:"target"`
	There  decimal.Decimal `json:"there"`
	// Whole units are not parted.
	Whole bool `json:"whole"`
}

// A Relay is how many move on, and how many stay.
type Relay struct {
	Onward decimal.Decimal `json:"onward"`
	Stays  decimal.Decimal `json:"stays"`
}

// Onward calculates how many move on: never what is promised to somebody here, and of whole units a share rounded down,
// so that what is received is never sent on twice.
func (r Rule) Onward(in Received) (Relay, error) {
	free := decimal.Max(in.Quantity.Sub(in.Promised), decimal.Zero)
	onward := free
	switch r.How {
	case All:
	case Target:
		onward = decimal.Min(free, decimal.Max(in.Target.Sub(in.There), decimal.Zero))
	case Share:
		if r.SharePct.IsNegative() || r.SharePct.GreaterThan(decimal.NewFromInt(100)) {
			return Relay{}, refusal.New(refusal.PercentRange, "rule.share_pct", "A share goes from 0 to 100 per cent, not %s.",
				r.SharePct)
		}
		onward = decimal.Min(free, in.Quantity.Mul(r.SharePct).Div(decimal.NewFromInt(100)))
	default:
		return Relay{}, refusal.New(refusal.ChoiceUnknown, "rule.how", "What moves on is all, target or share, not %q.", r.How)
	}
	if in.Whole {
		onward = onward.Floor()
	}
	onward = onward.Truncate(3)
	return Relay{onward, in.Quantity.Sub(onward)}, nil
}

// Spare is how many of an item a site can give to another: what is free there beyond its target, whole units of what is
// not parted. free is without what its orders want, and may be below nought.
func Spare(free, target decimal.Decimal, whole bool) decimal.Decimal {
	n := decimal.Max(free.Sub(target), decimal.Zero)
	if whole {
		n = n.Floor()
	}
	return n
}
