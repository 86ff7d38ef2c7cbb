// Package refilling says what is moved from reserve into picking bins so that rounds find enough there: how much each
// bin is short of, by what lies there and by what released orders will take, and which reserve it comes from.
package refilling

import (
	"cmp"
	"slices"

	"github.com/shopspring/decimal"
)

// A Bin is a picking bin of an item with the levels that it is kept between, in base units.
type Bin struct {
	Code string `json:"bin"`
	Item string `json:"item"`
	// Least is below what it is refilled, and Most up to what.
	Least decimal.Decimal `json:"least"`
	Most  decimal.Decimal `json:"most"`
	// Holds is what lies there, Coming what other refills bring there already, and Wanted what released orders will
	// take.
	Holds  decimal.Decimal `json:"holds"`
	Coming decimal.Decimal `json:"coming"`
	Wanted decimal.Decimal `json:"wanted"`
	// OneLot is true for a bin that takes goods of one lot alone, and Lot is the one that lies there; empty for none.
	OneLot bool   `json:"one_lot,omitempty"`
	Lot    string `json:"lot,omitempty"`
	// Fits is how much more it takes by its limits; nil for any amount.
	Fits *decimal.Decimal `json:"fits"`
}

// After is what is left in the bin once what comes is there and the orders are picked; below nought where they lack
// something.
func (b Bin) After() decimal.Decimal { return b.Holds.Add(b.Coming).Sub(b.Wanted) }

// Share spreads what orders want of an item, in no bin in particular, over its picking bins: in their order as much as
// is left in each, and what none has to the first of them (common practice, no source).
func Share(bins []Bin, wanted decimal.Decimal) {
	if len(bins) == 0 {
		return
	}
	for i := range bins {
		part := decimal.Min(wanted, decimal.Max(bins[i].After(), decimal.Zero))
		bins[i].Wanted, wanted = bins[i].Wanted.Add(part), wanted.Sub(part)
	}
	bins[0].Wanted = bins[0].Wanted.Add(wanted)
}

// Need is how much is moved there: nothing while enough is left; or else up to its most, as far as it fits beside what
// lies there now.
func (b Bin) Need() decimal.Decimal {
	if !b.After().LessThan(b.Least) {
		return decimal.Zero
	}
	need := b.Most.Sub(b.After())
	if b.Fits != nil {
		need = decimal.Min(need, *b.Fits)
	}
	return decimal.Max(need, decimal.Zero)
}

// Stock is goods in reserve: of a lot in one place, in one carton or pallet or loose, in base units.
type Stock struct {
	Place  string `json:"place"`
	Item   string `json:"item"`
	Lot    string `json:"lot,omitempty"`
	Carton string `json:"carton,omitempty"`
	// Mixed is true where more than this is in the carton, so that it does not go as it is.
	Mixed    bool            `json:"mixed,omitempty"`
	Expires  string          `json:"expires,omitempty"`
	Arrived  string          `json:"arrived,omitempty"`
	Quantity decimal.Decimal `json:"quantity"`
}

// A Move takes reserve to a picking bin.
type Move struct {
	From     string          `json:"from"`
	To       string          `json:"to"`
	Item     string          `json:"item"`
	Lot      string          `json:"lot,omitempty"`
	Carton   string          `json:"carton,omitempty"`
	Quantity decimal.Decimal `json:"quantity"`
	// Whole is true for a carton or pallet that goes as it is.
	Whole bool `json:"whole"`
}

// A Shortage is what a bin needs and no reserve covers.
type Shortage struct {
	Bin      string          `json:"bin"`
	Item     string          `json:"item"`
	Quantity decimal.Decimal `json:"quantity"`
}

// A Plan is what is moved, and what there is none for.
type Plan struct {
	Moves     []Move     `json:"moves"`
	Shortages []Shortage `json:"shortages"`
}

// Refill plans the moves for bins: the one whose orders lack most first. What expires first goes first, then what
// arrived first (common practice, no source); of goods of the same days whole cartons that fit into what is needed,
// the largest first, then loose goods, then a part of the smallest carton.
func Refill(bins []Bin, reserve []Stock) Plan {
	out := Plan{Moves: []Move{}, Shortages: []Shortage{}}
	bins, left := slices.Clone(bins), slices.Clone(reserve)
	slices.SortStableFunc(bins, func(a, b Bin) int {
		return cmp.Or(a.After().Sub(a.Least).Cmp(b.After().Sub(b.Least)), cmp.Compare(a.Code, b.Code))
	})
	for _, b := range bins {
		need := b.Need()
		for need.IsPositive() {
			i, quantity := next(left, b, need)
			if i < 0 {
				out.Shortages = append(out.Shortages, Shortage{b.Code, b.Item, need})
				break
			}
			s := &left[i]
			b.Lot = s.Lot
			out.Moves = append(out.Moves, Move{From: s.Place, To: b.Code, Item: b.Item, Lot: s.Lot, Carton: s.Carton,
				Quantity: quantity, Whole: s.Carton != "" && !s.Mixed && quantity.Equal(s.Quantity)})
			s.Quantity, need = s.Quantity.Sub(quantity), need.Sub(quantity)
		}
	}
	return out
}

// next chooses the reserve that goes next to a bin that needs so much; -1 when there is none.
func next(stock []Stock, to Bin, need decimal.Decimal) (best int, quantity decimal.Decimal) {
	best = -1
	for i, s := range stock {
		if to.takes(s) && s.Quantity.IsPositive() && (best < 0 || before(s, stock[best], need)) {
			best = i
		}
	}
	if best < 0 {
		return best, quantity
	}
	return best, decimal.Min(need, stock[best].Quantity)
}

// takes tells whether stock may go into the bin beside what lies there.
func (b Bin) takes(s Stock) bool {
	return s.Item == b.Item && (!b.OneLot || b.Lot == "" || b.Lot == s.Lot)
}

// before tells whether one stock goes before another to a bin that needs so much.
func before(a, b Stock, need decimal.Decimal) bool {
	rank := func(s Stock) int {
		switch {
		case s.Carton != "" && !s.Mixed && s.Quantity.LessThanOrEqual(need):
			return 0
		case s.Carton == "":
			return 1
		}
		return 2
	}
	// A larger whole carton saves a way, and a smaller one that is broken leaves less of it.
	size := a.Quantity.Cmp(b.Quantity)
	if rank(a) == 0 {
		size = -size
	}
	return cmp.Or(day(a.Expires, b.Expires), day(a.Arrived, b.Arrived), rank(a)-rank(b), size,
		cmp.Compare(a.Place, b.Place), cmp.Compare(a.Carton, b.Carton)) < 0
}

// day compares two days; none is the last.
func day(a, b string) int {
	switch {
	case a == b:
		return 0
	case a == "":
		return 1
	case b == "":
		return -1
	}
	return cmp.Compare(a, b)
}
