package counting

import (
	"slices"
	"strings"

	"github.com/shopspring/decimal"
)

// A Class says how closely items are counted: A are the few that most of the value moves in, C the many that little
// does.
type Class string

// The classes there are.
const (
	A Class = "A"
	B Class = "B"
	C Class = "C"
)

// Shares are up to which share of the value that moves, in per cent, items are A, and up to which B.
type Shares struct {
	A decimal.Decimal `json:"a"`
	B decimal.Decimal `json:"b"`
}

// A Mover is what of an item moved in a year, by value.
type Mover struct {
	Item  string          `json:"item"`
	Value decimal.Decimal `json:"value" money:"true"`
}

// A Ranked item has its place in the ranking: Share is that of it and all before it in the value of all, in per cent to
// two decimals.
type Ranked struct {
	Mover
	Share decimal.Decimal `json:"share"`
	Class Class           `json:"class"`
}

// Classify ranks items by the value that moves, the most first. An item is in a class as long as those before it have
// not filled its share yet, so that the first is A however much it is; what did not move is C. (Common practice after
// Pareto's ranking; no one source.)
func Classify(movers []Mover, shares Shares) []Ranked {
	sorted := slices.Clone(movers)
	slices.SortFunc(sorted, func(a, b Mover) int {
		if c := b.Value.Cmp(a.Value); c != 0 {
			return c
		}
		return strings.Compare(a.Item, b.Item)
	})
	total := decimal.Zero
	for _, m := range sorted {
		total = total.Add(m.Value)
	}
	out := make([]Ranked, len(sorted))
	before, hundred := decimal.Zero, decimal.NewFromInt(100)
	for i, m := range sorted {
		out[i] = Ranked{Mover: m, Class: C}
		if total.IsPositive() {
			out[i].Share = before.Add(m.Value).Mul(hundred).Div(total).Round(2)
		}
		if m.Value.IsPositive() {
			out[i].Class = shares.of(before.Mul(hundred).Div(total))
		}
		before = before.Add(m.Value)
	}
	return out
}

// of is the class of an item before which so much of the value is ranked, in per cent.
func (s Shares) of(before decimal.Decimal) Class {
	switch {
	case before.LessThan(s.A):
		return A
	case before.LessThan(s.B):
		return B
	}
	return C
}
