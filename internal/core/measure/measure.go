// Package measure checks and words quantities.
//
// A quantity is always in an item's base unit, a decimal with at most three
// places. Whole items (pieces) take no fraction; measured items (metres of
// cloth) may.
package measure

import (
	"fmt"
	"regexp"

	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// Places is how many decimals a measured quantity may have.
const Places = 3

// Most is the largest quantity one line may carry.
var Most = decimal.New(10_000_000, 0)

var form = regexp.MustCompile(`^[+-]?[0-9]{1,18}(\.[0-9]{1,18})?$`)

// Unit is an item's base unit.
type Unit struct {
	// Name as it is read aloud: "each", "metre".
	Name string
	// Whole is true when the unit cannot be divided.
	Whole bool
}

// Parse reads a positive quantity typed for field. It refuses what is not a
// number, zero and below, fractions of a whole unit, and more than Most.
func Parse(field, text string, u Unit) (decimal.Decimal, error) {
	q, err := ParseOrZero(field, text, u)
	if err == nil && q.IsZero() {
		return q, refusal.New(refusal.QuantityZero, field, "A quantity of 0 moves nothing. Enter at least %s.",
			u.least())
	}
	return q, err
}

// ParseOrZero is Parse, with zero allowed.
func ParseOrZero(field, text string, u Unit) (decimal.Decimal, error) {
	if !form.MatchString(text) {
		return decimal.Zero, refusal.New(refusal.QuantityMalformed, field,
			"%q is not a quantity. Use digits, with a point for decimals, such as 12 or 2.5.", clip(text))
	}
	q, err := decimal.NewFromString(text)
	if err != nil {
		return decimal.Zero, refusal.New(refusal.QuantityMalformed, field, "%q is not a quantity.", clip(text))
	}
	return q, Check(field, q, u)
}

// Check applies Parse's rules, but the one about zero, to a number.
func Check(field string, q decimal.Decimal, u Unit) error {
	switch {
	case q.IsNegative():
		return refusal.New(refusal.QuantityNegative, field, "%s is below zero. Enter %s or more.", q, u.least())
	case u.Whole && !q.IsInteger():
		return refusal.New(refusal.QuantityFraction, field,
			"%s is not a whole number, and this item is kept in whole units (%s).", q, u.Name)
	case !q.Equal(q.Truncate(Places)):
		return refusal.New(refusal.QuantityTooFine, field, "%s is finer than can be kept: at most %d decimals.", q,
			Places)
	case q.GreaterThan(Most):
		return refusal.New(refusal.QuantityAbsurd, field,
			"%s is more than one line can carry (%s). Check the number.", q, Most)
	}
	return nil
}

func (u Unit) least() string {
	if u.Whole {
		return "1"
	}
	return "0.001"
}

func clip(s string) string {
	if len(s) > 24 {
		return s[:24] + "…"
	}
	return s
}

// Count words how many of something there are: "1 carton", "2 cartons".
func Count(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	return fmt.Sprintf("%d %ss", n, noun)
}

// Thousandths turns a checked quantity into a whole count of thousandths of its
// unit, in which the core's searches count.
func Thousandths(q decimal.Decimal) int64 { return q.Shift(Places).IntPart() }

// FromThousandths is the way back.
func FromThousandths(n int64) decimal.Decimal { return decimal.New(n, -Places) }

// Fits tells how many units, at size each, go into room: all of it when the unit
// has no size, whole units only when u is whole, never below zero.
func Fits(room, each decimal.Decimal, u Unit) (decimal.Decimal, bool) {
	if !each.IsPositive() {
		return decimal.Zero, false
	}
	if room.IsNegative() {
		return decimal.Zero, true
	}
	if u.Whole {
		return room.DivRound(each, 9).Floor(), true
	}
	return room.DivRound(each, 9).Truncate(Places), true
}

// ParsePrice reads a price typed for field: not below zero.
func ParsePrice(field, text string) (decimal.Decimal, error) {
	price, err := decimal.NewFromString(text)
	if err != nil || price.IsNegative() || price.GreaterThan(Most) {
		return price, refusal.New(refusal.PriceMalformed, field, "%q is not a price.", text)
	}
	return price, nil
}
