package counting

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os/exec"
	"strings"
	"testing"
)

// rSays runs a script of R (Debian's r-base-core, and r-cran-survey where it is asked for) and reads the numbers that
// it prints.
func rSays(t *testing.T, script string) (out []float64) {
	t.Helper()
	printed, err := exec.Command("Rscript", "-e", script).Output()
	if err != nil {
		t.Fatalf("Rscript (apt-get install r-base-core r-cran-survey): %v", err)
	}
	for _, field := range strings.Fields(string(printed)) {
		var v float64
		if _, err := fmt.Sscan(field, &v); err != nil {
			t.Fatalf("R says %q", printed)
		}
		out = append(out, v)
	}
	return out
}

// TestBoundsAreWhatRSays compares the bounds of right bins with binom.test of R.
func TestBoundsAreWhatRSays(t *testing.T) {
	cases := [][2]int{{0, 1}, {1, 1}, {0, 12}, {12, 12}, {1, 7}, {49, 50}, {95, 100}, {310, 333}, {1999, 2000}, {4000, 4120}}
	script := strings.Builder{}
	for _, c := range cases {
		fmt.Fprintf(&script, "cat(sprintf('%%.12f ', binom.test(%d, %d)$conf.int)); ", c[0], c[1])
	}
	want := rSays(t, script.String())
	for i, c := range cases {
		low, high := Bounds(c[0], c[1])
		if math.Abs(low-want[2*i]) > 1e-8 || math.Abs(high-want[2*i+1]) > 1e-8 {
			t.Errorf("%d of %d: %v to %v, and R says %v to %v", c[0], c[1], low, high, want[2*i], want[2*i+1])
		}
	}
}

// TestValueBoundsAreWhatRSays compares the bounds of the right value with svyratio of R's package survey, for samples
// of which some are off by little, some by more than there should be, and some by nothing.
func TestValueBoundsAreWhatRSays(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 1))
	for range 3 {
		samples := make([]Sample, 40+r.IntN(60))
		var book, off []string
		for i := range samples {
			samples[i].Book = 10 + 500*r.Float64()
			if r.IntN(4) == 0 {
				samples[i].Off, samples[i].Wrong = samples[i].Book*r.Float64()/3, true
			}
			book, off = append(book, fmt.Sprint(samples[i].Book)), append(off, fmt.Sprint(samples[i].Off))
		}
		want := rSays(t, fmt.Sprintf("suppressWarnings(suppressPackageStartupMessages(library(survey))); "+
			"d <- data.frame(book=c(%s), off=c(%s)); "+
			"r <- svyratio(~off, ~book, svydesign(ids=~1, weights=~rep(1,nrow(d)), data=d)); "+
			"cat(sprintf('%%.12f ', c(1-coef(r), 1-rev(confint(r)))))", strings.Join(book, ","), strings.Join(off, ",")))
		got := Accuracies(samples)[0].Value
		for i, v := range []float64{got.Share, got.Low, got.High} {
			if math.Abs(v-want[i]) > 1e-9 {
				t.Errorf("of %d counts %v, and R says %v", len(samples), got, want)
			}
		}
	}
}

// TestNothingOffIsNoProof: a sample in which nothing was off bounds the value no closer than the bins.
func TestNothingOffIsNoProof(t *testing.T) {
	a := Accuracies([]Sample{{Book: 10}, {Book: 90}, {Book: 4}})[0]
	if a.Value.Share != 1 || a.Value.Low != a.Bins.Low || a.Bins.Low < 0.29 || a.Bins.Low > 0.3 {
		t.Errorf("three counts without a difference say %+v", a)
	}
}

// TestBoundsHoldAsOftenAsTheySay draws samples of warehouses whose accuracy is known.
func TestBoundsHoldAsOftenAsTheySay(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	held, all := 0, 2000
	for range all {
		p, n, right := 0.8+0.2*r.Float64(), 20+r.IntN(200), 0
		for range n {
			if r.Float64() < p {
				right++
			}
		}
		if low, high := Bounds(right, n); low <= p && p <= high {
			held++
		}
	}
	if share := float64(held) / float64(all); share < 0.95 {
		t.Errorf("bounds for 19 in 20 held in %v", share)
	}
}

// TestErrorsAreLaidToWhatMadeThem plants errors that one kind of move makes: they are laid to it, and add up to no
// fewer than the counts that were wrong.
func TestErrorsAreLaidToWhatMadeThem(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	var past []Past
	wrong := 0.0
	for range 800 {
		p := Past{Moves: map[string]int{"pick": r.IntN(9), "receive": r.IntN(3), "move": r.IntN(4)}}
		for range p.Moves["pick"] {
			p.Wrong = p.Wrong || r.Float64() < 0.05
		}
		if p.Wrong {
			wrong++
		}
		past = append(past, p)
	}
	causes, sum := Causes(past, Common), 0.0
	for _, c := range causes {
		sum += c.Errors
	}
	if causes[0].Kind != "pick" || causes[0].Errors < 0.8*sum || sum < wrong || math.Abs(causes[0].Rate-0.05) > 0.015 {
		t.Errorf("%v wrong counts are laid to %+v", wrong, causes)
	}
}
