// Package allocation chooses which stock serves an order line.
//
// The objective, each rule deciding only where those before it leave a choice:
//
//  1. stock reserved for this very line goes first;
//  2. then stock in a bin named to be emptied first;
//  3. then the withdrawal rule: the earliest expiry first (FEFO) for lots that
//     expire, the earliest arrival first (FIFO) for other lots; stock of one date,
//     and all stock without lots, counts as equal;
//  4. a whole carton or pallet that is exactly what is wanted, before its count in loose
//     units;
//  5. the item's picking bins that are refilled, before the reserve behind them;
//  6. the fewest bins;
//  7. the least walk, as the sum of the bins' distances.
//
// Lots whose remaining life on the day of dispatch is too short are left out and
// named. FEFO and FIFO are common practice, no source.
package allocation

import (
	"fmt"
	"sort"

	"lanternrow/internal/core/covering"
	"lanternrow/internal/core/measure"

	"github.com/shopspring/decimal"
)

// Stock is one bin's holding of one lot of the item.
type Stock struct {
	// Key names the holding for the caller.
	Key      string          `json:"key"`
	Bin      string          `json:"bin"`
	Lot      string          `json:"lot,omitempty"`
	Quantity decimal.Decimal `json:"quantity"`
	// Expires and Arrived are dates, YYYY-MM-DD, empty when unknown.
	Expires string `json:"expires,omitempty"`
	Arrived string `json:"arrived,omitempty"`
	// Reserved is true for stock reserved for this very line.
	Reserved bool `json:"reserved,omitempty"`
	// First is true for a bin named to be emptied first.
	First bool `json:"first,omitempty"`
	// Picking is true for a bin of a zone that orders are picked from first, Usual for one
	// of the item's usual bins.
	Picking bool `json:"picking,omitempty"`
	Usual   bool `json:"usual,omitempty"`
	// Refilled is true for a picking bin of the item that is kept filled from reserve.
	Refilled bool `json:"refilled,omitempty"`
	// Whole is true where the holding is all that is in one carton or pallet.
	Whole bool `json:"whole,omitempty"`
	// WalkM is the bin's distance in metres.
	WalkM float64 `json:"walk_m"`
}

// A Want is what a line needs.
type Want struct {
	Quantity decimal.Decimal `json:"quantity"`
	// NotBefore is the earliest expiry that still leaves enough life, YYYY-MM-DD;
	// empty when any does.
	NotBefore string `json:"not_before,omitempty"`
}

// A Part is what is taken from one holding.
type Part struct {
	Key      string          `json:"key"`
	Bin      string          `json:"bin"`
	Lot      string          `json:"lot,omitempty"`
	Quantity decimal.Decimal `json:"quantity"`
	Holds    decimal.Decimal `json:"holds"`
	Why      string          `json:"why"`
}

// An Answer is the stock chosen for a want.
type Answer struct {
	Parts []Part `json:"parts"`
	// Short is what no stock covers.
	Short decimal.Decimal `json:"short"`
	// TooOld lists holdings left out for their remaining life, in words.
	TooOld []string `json:"too_old,omitempty"`
	Proven bool     `json:"proven"`
}

// perStop outweighs any walk, so that fewer bins always win.
const perStop = 1_000_000_000

// Choose serves the want from the stock.
func Choose(w Want, stock []Stock) Answer {
	out := Answer{Short: w.Quantity, Proven: true, Parts: []Part{}}
	var usable []Stock
	for _, s := range stock {
		switch {
		case !s.Quantity.IsPositive():
		case s.Expires != "" && s.Expires < w.NotBefore:
			out.TooOld = append(out.TooOld, fmt.Sprintf("%s of lot %s in %s expire %s, before %s", s.Quantity, s.Lot,
				s.Bin, s.Expires, w.NotBefore))
		default:
			usable = append(usable, s)
		}
	}
	sort.SliceStable(usable, func(i, j int) bool { return usable[i].rank().before(usable[j].rank()) })
	for i := 0; i < len(usable) && out.Short.IsPositive(); {
		j := i
		for j < len(usable) && usable[j].rank() == usable[i].rank() {
			j++
		}
		out.serve(usable[i:j])
		i = j
	}
	return out
}

// rank is the stock's place in the withdrawal order; equal ranks are equals.
type rank struct {
	class int
	date  string
}

func (s Stock) rank() rank {
	r := rank{class: 2, date: s.Arrived}
	if s.Expires != "" {
		r.date = s.Expires
	}
	if s.Lot == "" {
		r.date = ""
	}
	switch {
	case s.Reserved:
		r.class = 0
	case s.First:
		r.class = 1
	}
	return r
}

func (r rank) before(o rank) bool {
	return r.class < o.class || r.class == o.class && r.date < o.date
}

// exact is the nearest whole carton or pallet that holds just what is wanted, if there is one.
func exact(wanted decimal.Decimal, equals []Stock) (at int, found bool) {
	for i, s := range equals {
		if s.Whole && s.Quantity.Equal(wanted) && (!found || s.WalkM < equals[at].WalkM) {
			at, found = i, true
		}
	}
	return at, found
}

// serve takes what is short from equals: a carton that is just that; or else from what is refilled, and then from
// reserve.
func (a *Answer) serve(equals []Stock) {
	if i, found := exact(a.Short, equals); found {
		a.take(equals[i : i+1])
		return
	}
	var refilled, reserve []Stock
	for _, s := range equals {
		if s.Refilled {
			refilled = append(refilled, s)
		} else {
			reserve = append(reserve, s)
		}
	}
	a.take(refilled)
	a.take(reserve)
}

// take takes what is short from equals: fewest bins, then least walk; the fullest bin first.
func (a *Answer) take(equals []Stock) {
	if len(equals) == 0 || !a.Short.IsPositive() {
		return
	}
	choices := make([]covering.Choice, len(equals))
	for i, s := range equals {
		choices[i] = covering.Choice{Size: measure.Thousandths(s.Quantity), Cost: perStop + int64(s.WalkM*100) + 1}
	}
	picked, proven := covering.Cheapest(measure.Thousandths(a.Short), choices)
	a.Proven = a.Proven && proven
	sort.SliceStable(picked, func(i, j int) bool {
		x, y := equals[picked[i]], equals[picked[j]]
		return x.Quantity.GreaterThan(y.Quantity) || x.Quantity.Equal(y.Quantity) && x.Bin < y.Bin
	})
	for _, i := range picked {
		s := equals[i]
		q := decimal.Min(s.Quantity, a.Short)
		a.Short = a.Short.Sub(q)
		a.Parts = append(a.Parts, Part{Key: s.Key, Bin: s.Bin, Lot: s.Lot, Quantity: q, Holds: s.Quantity,
			Why: s.why(q)})
	}
}

func (s Stock) why(q decimal.Decimal) string {
	switch {
	case s.Reserved:
		return "reserved for this line"
	case s.First:
		return "this bin is to be emptied first"
	case s.Expires != "":
		return "expires first, " + s.Expires
	case s.Lot != "" && s.Arrived != "":
		return "arrived first, " + s.Arrived
	case s.Whole && q.Equal(s.Quantity):
		return "whole, just what is wanted"
	case q.Equal(s.Quantity):
		return "empties the bin"
	}
	return "holds enough in one location"
}
