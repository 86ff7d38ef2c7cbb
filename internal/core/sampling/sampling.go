// Package sampling judges a delivery by a sample of it: how many to look at, how many
// of those may fail, and how likely such a plan lets a delivery through.
//
// The plans are the single ones for normal inspection, general level II, of ISO 2859-1
// (ANSI/ASQ Z1.4). Their tables are written from memory.
package sampling

import (
	"math/big"
	"slices"

	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// A Plan is a sample and how much of it may fail.
type Plan struct {
	// Letter is the code letter that the delivery's size leads to.
	Letter string `json:"letter"`
	// Sample units are looked at; with more than Accept that fail, the delivery fails.
	// A delivery smaller than the sample is looked at whole.
	Sample int64 `json:"sample"`
	Accept int64 `json:"accept"`
}

const letters = "ABCDEFGHJKLMNPQ"

var (
	// upTo are the largest deliveries of the letters A to P; larger ones are Q.
	upTo = []int64{8, 15, 25, 50, 90, 150, 280, 500, 1200, 3200, 10000, 35000, 150000, 500000}
	// sizes are the samples of the letters.
	sizes = []int64{2, 3, 5, 8, 13, 20, 32, 50, 80, 125, 200, 315, 500, 800, 1250}
	// limits are the acceptable quality limits, in per cent, and first the letter of
	// each whose sample may have no failure at all.
	limits = []string{"0.65", "1", "1.5", "2.5", "4", "6.5"}
	first  = []int{5, 4, 3, 2, 1, 0}
	// accepts are the acceptance numbers from that letter on. The two behind it have
	// none of their own: the one points back to it, the other to the next.
	accepts = []int64{0, 0, 1, 1, 2, 3, 5, 7, 10, 14, 21}
)

// Limits are the acceptable quality limits there are plans for, in per cent.
func Limits() []string { return slices.Clone(limits) }

// For finds the plan for a delivery of size units at an acceptable quality limit in
// per cent.
func For(size int64, limit decimal.Decimal) (Plan, error) {
	at := slices.Index(limits, limit.String())
	if at < 0 {
		return Plan{}, refusal.New(refusal.LimitUnknown, "limit",
			"There is no plan for a quality limit of %s %%. Choose one of %v.", limit, limits)
	}
	if size < 1 {
		return Plan{}, refusal.New(refusal.SampleOfNothing, "size", "A lot of %d has nothing to look at.", size)
	}
	letter := 0
	for letter < len(upTo) && size > upTo[letter] {
		letter++
	}
	step := letter - first[at]
	switch {
	case step < 0:
		letter, step = first[at], 0
	case step == 1:
		letter, step = letter-1, 0
	case step == 2:
		letter, step = letter+1, 3
	case step >= len(accepts):
		letter, step = first[at]+len(accepts)-1, len(accepts)-1
	}
	return Plan{Letter: letters[letter : letter+1], Sample: min(sizes[letter], size), Accept: accepts[step]}, nil
}

// Passes is the exact probability that a delivery of size units, of which bad fail,
// passes the plan: hypergeometric, since no unit is looked at twice.
func (p Plan) Passes(size, bad int64) *big.Rat {
	total := new(big.Int).Binomial(size, p.Sample)
	sum := new(big.Int)
	for k := int64(0); k <= min(p.Accept, bad, p.Sample); k++ {
		if p.Sample-k > size-bad {
			continue
		}
		ways := new(big.Int).Binomial(bad, k)
		sum.Add(sum, ways.Mul(ways, new(big.Int).Binomial(size-bad, p.Sample-k)))
	}
	return new(big.Rat).SetFrac(sum, total)
}

// Spread picks n of size units, evenly from the first to the last, as their positions.
func Spread(size, n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = (2*i + 1) * size / (2 * n)
	}
	return out
}
