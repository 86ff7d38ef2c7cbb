package sampling_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os/exec"
	"strconv"
	"strings"
	"testing"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/sampling"

	"github.com/shopspring/decimal"
)

// TestPlansOfTheTable holds against entries of ISO 2859-1's single plans for normal
// inspection, level II, which are written from memory.
func TestPlansOfTheTable(t *testing.T) {
	for _, c := range []struct {
		size           int64
		limit, letter  string
		sample, accept int64
	}{
		{400, "1", "H", 50, 1}, {100, "1", "E", 13, 0}, {200, "1", "H", 50, 1}, {1000, "1", "J", 80, 2}, {3000, "1",
			"K", 125, 3},
		{500, "2.5", "H", 50, 3}, {1200, "4", "J", 80, 7}, {50, "6.5", "D", 8, 1}, {8, "0.65", "F", 8, 0}, {600_000,
			"0.65", "Q", 1250, 14},
		{600_000, "1", "Q", 1250, 21}, {600_000, "6.5", "L", 200, 21}, {90, "2.5", "F", 20, 1}, {25, "2.5", "C", 5,
			0}, {13, "1", "E", 13, 0}, {1, "4", "B", 1, 0},
	} {
		p, err := sampling.For(c.size, decimal.RequireFromString(c.limit))
		if err != nil || p != (sampling.Plan{Letter: c.letter, Sample: c.sample, Accept: c.accept}) {
			t.Errorf("%d at %s %%: %+v %v, want %s %d %d", c.size, c.limit, p, err, c.letter, c.sample, c.accept)
		}
	}
	for _, bad := range []struct {
		size        int64
		limit, code string
	}{{100, "3", "limit_unknown"}, {0, "1", "sample_of_nothing"}, {-4, "1", "sample_of_nothing"}} {
		_, err := sampling.For(bad.size, decimal.RequireFromString(bad.limit))
		if r := refusal.From(err); r == nil || string(r.Code) != bad.code {
			t.Errorf("%+v: %v", bad, err)
		}
	}
}

// TestAPlanLetsPassWhatRSaysItDoes compares the probabilities with phyper of R (Debian's
// r-base-core): exact to all the digits of its floating point.
func TestAPlanLetsPassWhatRSaysItDoes(t *testing.T) {
	r := rand.New(rand.NewPCG(2859, 1))
	var ours []float64
	var bad, fine, sample, accept []string
	for range 400 {
		size := 2 + r.Int64N(4000)
		p, err := sampling.For(size, decimal.RequireFromString(sampling.Limits()[r.IntN(6)]))
		if err != nil {
			t.Fatal(err)
		}
		d := r.Int64N(size/8 + 2)
		f, _ := p.Passes(size, d).Float64()
		ours = append(ours, f)
		bad, fine = append(bad, fmt.Sprint(d)), append(fine, fmt.Sprint(size-d))
		sample, accept = append(sample, fmt.Sprint(p.Sample)), append(accept, fmt.Sprint(p.Accept))
	}
	vector := func(v []string) string { return "c(" + strings.Join(v, ",") + ")" }
	script := fmt.Sprintf(`cat(sprintf("%%.17g", phyper(%s, %s, %s, %s)), sep="\n")`, vector(accept), vector(bad),
		vector(fine), vector(sample))
	out, err := exec.Command("Rscript", "-e", script).Output()
	if err != nil {
		t.Fatalf("Rscript (apt-get install r-base-core): %v", err)
	}
	theirs := strings.Fields(string(out))
	if len(theirs) != len(ours) {
		t.Fatalf("R answers %d of %d", len(theirs), len(ours))
	}
	for i := range ours {
		f, err := strconv.ParseFloat(theirs[i], 64)
		if err != nil || math.Abs(f-ours[i]) > 1e-12*math.Max(f, 1e-12) {
			t.Errorf("%s of %s+%s bad, sample %s, accept %s: %.17g, R says %s", bad[i], bad[i], fine[i], sample[i],
				accept[i], ours[i], theirs[i])
		}
	}
}

// TestPlansAreSound holds for any delivery: more failures never pass more often, none
// always pass, a delivery at the limit mostly does, and a larger one is never looked at
// less.
func TestPlansAreSound(t *testing.T) {
	for _, limit := range sampling.Limits() {
		l := decimal.RequireFromString(limit)
		before := int64(0)
		for _, size := range []int64{2, 8, 9, 15, 25, 26, 50, 90, 150, 280, 500, 1200, 3200, 10_000} {
			p, err := sampling.For(size, l)
			if err != nil || p.Sample > size || p.Accept >= p.Sample {
				t.Fatalf("%d at %s: %+v %v", size, limit, p, err)
			}
			if p.Sample < before {
				t.Errorf("%d at %s looks at %d, fewer than %d before", size, limit, p.Sample, before)
			}
			before = p.Sample
			last := 2.0
			for bad := int64(0); bad <= min(size, 40); bad++ {
				f, _ := p.Passes(size, bad).Float64()
				if f > last || bad == 0 && f != 1 {
					t.Fatalf("%d bad of %d at %s pass with %v after %v", bad, size, limit, f, last)
				}
				last = f
			}
			if at := l.Mul(decimal.NewFromInt(size)).Div(decimal.NewFromInt(100)).Floor().IntPart(); size > 50 {
				if f, _ := p.Passes(size, at).Float64(); f < 0.8 {
					t.Errorf("%d of %d bad, at the limit of %s, pass with %v", at, size, limit, f)
				}
			}
		}
	}
}

func TestASampleIsTakenFromAllOver(t *testing.T) {
	for size := 1; size <= 60; size++ {
		for n := 0; n <= size; n++ {
			at := sampling.Spread(size, n)
			for i, x := range at {
				// One from each n-th part of the whole.
				if x < i*size/n || x >= (i+1)*size/n+1 || x >= size || i > 0 && x <= at[i-1] {
					t.Fatalf("%d of %d: %v", n, size, at)
				}
			}
		}
	}
}
