package counting

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/shopspring/decimal"
)

func whole(n int64) decimal.Decimal { return decimal.NewFromInt(n) }

// TestWhoCountsNext goes through what a count, a second and a third can find.
func TestWhoCountsNext(t *testing.T) {
	right := []Difference(nil)
	two, three := []Difference{{Key: "a", Delta: whole(-2)}}, []Difference{{Key: "a", Delta: whole(-3)}}
	swapped := []Difference{{Key: "a", Missing: []string{"S1"}, Extra: []string{"S2"}}}
	for _, c := range []struct {
		name   string
		counts [][]Difference
		passes bool
		want   Verdict
	}{
		{"the books are right", [][]Difference{right}, true, Right},
		{"within the allowance", [][]Difference{two}, true, Decide},
		{"beyond it", [][]Difference{two}, false, Again},
		{"another unit than there should be", [][]Difference{swapped}, false, Again},
		{"the second agrees", [][]Difference{two, two}, false, Decide},
		{"the second disagrees", [][]Difference{two, three}, false, Again},
		{"the second says that the books are right", [][]Difference{two, right}, false, Again},
		{"the third agrees with one", [][]Difference{two, three, two}, false, Decide},
		{"two say that the books are right", [][]Difference{two, right, right}, false, Right},
		{"all three disagree", [][]Difference{two, right, three}, false, Decide},
	} {
		if got := Judge(c.counts, c.passes); got != c.want {
			t.Errorf("%s: %s, not %s", c.name, got, c.want)
		}
	}
}

// TestAllowances are those of cycle counting handbooks for A, B and C (0.2, 1 and 5 per cent, from memory), at their
// edges.
func TestAllowances(t *testing.T) {
	percent := func(text string) Allowance { return Allowance{Percent: decimal.RequireFromString(text)} }
	for _, c := range []struct {
		a         Allowance
		off, book int64
		value     int64
		passes    bool
	}{
		{percent("0.2"), 1, 500, 9, true}, {percent("0.2"), 1, 499, 9, false},
		{percent("1"), 1, 100, 9, true}, {percent("1"), 2, 100, 9, false},
		{percent("5"), 5, 100, 9, true}, {percent("5"), 6, 100, 9, false},
		{percent("5"), 1, 0, 9, false}, {percent("0"), 0, 0, 0, true},
		{Allowance{Value: whole(10)}, 3, 4, 10, true}, {Allowance{Value: whole(10)}, 3, 4, 11, false},
	} {
		if got := c.a.Passes(whole(c.off), whole(c.book), whole(c.value)); got != c.passes {
			t.Errorf("%d of %d, worth %d, within %+v: %v", c.off, c.book, c.value, c.a, got)
		}
	}
	off := Off([]Difference{{Delta: whole(3)}, {Delta: whole(-3)}, {Missing: []string{"S1"}, Extra: []string{"S2"}}})
	if !off.Equal(whole(8)) {
		t.Errorf("3 more, 3 fewer and another unit are off by %s", off)
	}
}

// TestNoTeamHasMoreThanItMust compares the stretches with all ways of cutting: the longest is never longer than the
// best.
func TestNoTeamHasMoreThanItMust(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	for range 500 {
		work, teams := make([]float64, 1+r.IntN(9)), 1+r.IntN(4)
		for i := range work {
			work[i] = float64(r.IntN(20))
		}
		longest, before := longestOf(work, Share(work, teams)), 0
		for _, team := range Share(work, teams) {
			if team < before || team > before+1 || team > teams {
				t.Fatalf("%v is shared out as %v", work, Share(work, teams))
			}
			before = max(team, 1)
		}
		if best := bestCut(work, teams); longest > best {
			t.Fatalf("%v among %d: the longest takes %v, and could take %v", work, teams, longest, best)
		}
	}
}

func longestOf(work []float64, team []int) float64 {
	sums := map[int]float64{}
	longest := 0.0
	for i, w := range work {
		sums[team[i]] += w
		longest = max(longest, sums[team[i]])
	}
	return longest
}

func bestCut(work []float64, teams int) float64 {
	total := 0.0
	for _, w := range work {
		total += w
	}
	if teams == 1 || len(work) == 0 {
		return total
	}
	best, first := total, 0.0
	for i := range slices.Clone(work) {
		first += work[i]
		best = min(best, max(first, bestCut(work[i+1:], teams-1)))
	}
	return best
}
