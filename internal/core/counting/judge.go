package counting

import (
	"slices"
	"strings"

	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// An Allowance is by how much a count may differ before another person counts again. A difference passes where it is
// within either.
type Allowance struct {
	// Percent is of what should be there, by quantity.
	Percent decimal.Decimal `json:"percent"`
	// Value is what the difference is worth at cost.
	Value decimal.Decimal `json:"value"`
}

// Passes tells whether a difference of off units in all, worth value, of a book of so many units is within the
// allowance. Of a book of none any difference is beyond each percentage.
func (a Allowance) Passes(off, book, value decimal.Decimal) bool {
	if off.IsZero() {
		return true
	}
	if a.Value.IsPositive() && value.LessThanOrEqual(a.Value) {
		return true
	}
	return book.IsPositive() && off.Mul(decimal.NewFromInt(100)).LessThanOrEqual(a.Percent.Mul(book))
}

// Off is by how many units differences are off in all: what is missing and what is there besides do not make up for
// each other.
func Off(differences []Difference) (sum decimal.Decimal) {
	for _, d := range differences {
		units := decimal.NewFromInt(int64(len(d.Missing) + len(d.Extra)))
		sum = sum.Add(decimal.Max(d.Delta.Abs(), units))
	}
	return sum
}

// A Verdict is what follows from the counts of one item in a bin.
type Verdict string

// The verdicts: the books are right; another person counts again; somebody decides.
const (
	Right  Verdict = "right"
	Again  Verdict = "again"
	Decide Verdict = "decide"
)

// mostCounts is by how many persons an item in a bin is counted before somebody decides.
const mostCounts = 3

// Judge says what follows from what the counts so far differ in, the first first: each against the books as they stood
// when it was made. A first count beyond its allowance is made again by another person, and a third time where those
// two disagree.
func Judge(counts [][]Difference, passes bool) Verdict {
	n := len(counts)
	last := counts[n-1]
	switch {
	case n == 1 && len(last) == 0:
		return Right
	case n == 1 && passes:
		return Decide
	case n == 1:
		return Again
	case len(last) == 0 && Alike(last, counts[n-2]):
		return Right
	case n < mostCounts && !Alike(last, counts[n-2]):
		return Again
	}
	return Decide
}

// Alike tells whether two counts found the same.
func Alike(a, b []Difference) bool {
	return slices.EqualFunc(ordered(a), ordered(b), func(x, y Difference) bool {
		return x.Key == y.Key && x.Delta.Equal(y.Delta) && slices.Equal(x.Missing, y.Missing) && slices.Equal(x.Extra, y.Extra)
	})
}

func ordered(d []Difference) []Difference {
	return slices.SortedFunc(slices.Values(d), func(x, y Difference) int { return strings.Compare(x.Key, y.Key) })
}

// Share cuts work that lies in a row into as many stretches as there are teams, so that the longest takes as little as
// can be. It returns the team of each, from 1 on. Work is in any unit of time and never negative.
func Share(work []float64, teams int) []int {
	low, high := 0.0, 0.0
	for _, w := range work {
		low, high = max(low, w), high+w
	}
	for range 60 {
		if mid := (low + high) / 2; stretches(work, mid) <= teams {
			high = mid
		} else {
			low = mid
		}
	}
	out := make([]int, len(work))
	team, sum := 1, 0.0
	for i, w := range work {
		// A little more is let pass for what halving leaves.
		if sum > 0 && sum+w > high*(1+1e-12) && team < teams {
			team, sum = team+1, 0
		}
		sum += w
		out[i] = team
	}
	return out
}

// stretches is into how many stretches of no more than so much each work falls.
func stretches(work []float64, most float64) int {
	n, sum := 1, 0.0
	for _, w := range work {
		if sum > 0 && sum+w > most {
			n, sum = n+1, 0
		}
		sum += w
	}
	return n
}

// ComparedWith is a count with what should have been there when it was made.
type ComparedWith struct {
	Recorded []Holding `json:"recorded"`
	Counted  []Holding `json:"counted"`
	// UnitCost is what one unit costs.
	UnitCost decimal.Decimal `json:"unit_cost"`
}

// Judged is what follows from counts, and by how much each is off.
type Judged struct {
	Verdict Verdict           `json:"verdict"`
	Off     []decimal.Decimal `json:"off"`
	Passes  []bool            `json:"passes"`
}

// JudgeAll compares counts of one item in a bin, the first first, and says what follows.
func JudgeAll(a Allowance, counts []ComparedWith) (Judged, error) {
	out := Judged{Off: []decimal.Decimal{}, Passes: []bool{}}
	if len(counts) == 0 || len(counts) > mostCounts {
		return out, refusal.New(refusal.NumberRange, "counts", "Give from one to %d counts, not %d.", mostCounts, len(counts))
	}
	all := make([][]Difference, len(counts))
	for i, c := range counts {
		book := decimal.Zero
		for _, h := range c.Recorded {
			book = book.Add(h.Quantity)
		}
		all[i] = Compare(c.Recorded, c.Counted)
		off := Off(all[i])
		out.Off, out.Passes = append(out.Off, off), append(out.Passes, a.Passes(off, book, off.Mul(c.UnitCost)))
	}
	out.Verdict = Judge(all, out.Passes[len(counts)-1])
	return out, nil
}
