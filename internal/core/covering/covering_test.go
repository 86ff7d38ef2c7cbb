package covering

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"lanternrow/internal/test/judge"
)

func random(r *rand.Rand, n int) (int64, []Choice) {
	choices := make([]Choice, n)
	for i := range choices {
		choices[i] = Choice{Size: 1 + r.Int64N(30), Cost: 1 + r.Int64N(60)}
	}
	return 1 + r.Int64N(90), choices
}

func cost(choices []Choice, picked []int) (cost, size int64) {
	for _, i := range picked {
		cost += choices[i].Cost
		size += choices[i].Size
	}
	return cost, size
}

func TestCheapestEqualsTryingEverySet(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for i := range 3000 {
		need, choices := random(r, 1+r.IntN(10))
		best := int64(math.MaxInt64)
		for set := range 1 << len(choices) {
			var picked []int
			for j := range choices {
				if set&(1<<j) != 0 {
					picked = append(picked, j)
				}
			}
			if c, s := cost(choices, picked); s >= need && c < best {
				best = c
			}
		}
		picked, proven := Cheapest(need, choices)
		c, s := cost(choices, picked)
		switch {
		case best == math.MaxInt64:
			if len(picked) != len(choices) {
				t.Fatalf("case %d: all together are too small, and %v are picked", i, picked)
			}
		case c != best || s < need || !proven:
			t.Fatalf("case %d: need %d of %+v: picked %v for %d, the least is %d", i, need, choices, picked, c, best)
		}
	}
}

// TestCheapestEqualsAnIntegerProgramme compares larger cases with COIN-OR CBC.
func TestCheapestEqualsAnIntegerProgramme(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 2))
	for i := range 8 {
		need, choices := random(r, 60)
		need *= 5
		var objective, constraint, names strings.Builder
		for j, c := range choices {
			fmt.Fprintf(&objective, " + %d x%d", c.Cost, j)
			fmt.Fprintf(&constraint, " + %d x%d", c.Size, j)
			fmt.Fprintf(&names, " x%d", j)
		}
		want, _ := judge.Minimum(t, fmt.Sprintf("Minimize\nobj:%s\nSubject To\nc:%s >= %d\nBinaries\n%s\nEnd\n",
			&objective, &constraint, need, &names))
		picked, _ := Cheapest(need, choices)
		if got, _ := cost(choices, picked); math.Abs(float64(got)-want) > 1e-6 {
			t.Fatalf("case %d: %d, cbc finds %g", i, got, want)
		}
	}
}

func TestWhatIsTooLargeForProofIsStillCovered(t *testing.T) {
	choices := make([]Choice, 5000)
	for i := range choices {
		choices[i] = Choice{Size: int64(1_000_003 + 7919*i), Cost: int64(100 + i%37)}
	}
	need := int64(3_000_000_007)
	picked, proven := Cheapest(need, choices)
	if _, size := cost(choices, picked); proven || size < need {
		t.Fatalf("covered %d of %d, proven %v", size, need, proven)
	}
}
