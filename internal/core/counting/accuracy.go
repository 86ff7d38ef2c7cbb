package counting

import (
	"cmp"
	"math"
	"slices"

	"lanternrow/internal/core/refusal"
)

// A Sample is a count as accuracy sees it.
type Sample struct {
	// Group is what is reported on: a zone, a class, a person, a month.
	Group string `json:"group"`
	Wrong bool   `json:"wrong"`
	// Book is what the books said is worth at cost, and Off what the count was off by; both from 0 on.
	Book float64 `json:"book"`
	Off  float64 `json:"off"`
}

// Accuracy is how right the books of a group are found, with the bounds between which it lies for the whole of it 19
// times in 20, as far as what was counted is a fair sample. All are from 0 to 1.
type Accuracy struct {
	Group   string `json:"group"`
	Counted int    `json:"counted"`
	Right   int    `json:"right"`
	// Bins is the share of right bins: its bounds are exact (Clopper and Pearson 1934).
	Bins Bounded `json:"bins"`
	// Value is one less the share of the value that was off: its bounds are those of a ratio of two sums (Cochran,
	// Sampling Techniques, from memory), and open from 0 to 1 where one count alone says nothing of how they scatter.
	// Where nothing was off, nor do many: it lies no lower than the share of bins, as if a wrong one were off by all of
	// it.
	Value Bounded `json:"value"`
	Book  float64 `json:"book"`
	Off   float64 `json:"off"`
}

// Bounded is a share with the bounds of a sample.
type Bounded struct {
	Share float64 `json:"share"`
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
}

// CheckSamples refuses worth that is none.
func CheckSamples(samples []Sample) error {
	for _, s := range samples {
		if !(s.Book >= 0 && s.Off >= 0 && s.Book <= most && s.Off <= most) {
			return refusal.New(refusal.NumberRange, "samples", "What the books said is worth, and what is off, are from 0 to %.0f; %s has %v and %v.",
				float64(most), s.Group, s.Book, s.Off)
		}
	}
	return nil
}

// Accuracies are those of each group, in the order in which they first come.
func Accuracies(samples []Sample) []Accuracy {
	var order []string
	by := map[string][]Sample{}
	for _, s := range samples {
		if by[s.Group] == nil {
			order = append(order, s.Group)
		}
		by[s.Group] = append(by[s.Group], s)
	}
	out := make([]Accuracy, len(order))
	for i, group := range order {
		out[i] = accuracyOf(group, by[group])
	}
	return out
}

// Rounded are the same to six digits behind the point, as a file or another program is given them.
func Rounded(samples []Sample) []Accuracy {
	out := Accuracies(samples)
	for i := range out {
		for _, b := range []*Bounded{&out[i].Bins, &out[i].Value} {
			b.Share, b.Low, b.High = sixth(b.Share), sixth(b.Low), sixth(b.High)
		}
	}
	return out
}

func sixth(x float64) float64 { return math.Round(x*1e6) / 1e6 }

func accuracyOf(group string, of []Sample) Accuracy {
	a := Accuracy{Group: group, Counted: len(of)}
	for _, s := range of {
		if !s.Wrong {
			a.Right++
		}
		a.Book, a.Off = a.Book+s.Book, a.Off+s.Off
	}
	low, high := Bounds(a.Right, a.Counted)
	a.Bins = Bounded{Share: float64(a.Right) / float64(a.Counted), Low: low, High: high}
	if a.Value = ratio(of, a.Book, a.Off); a.Off == 0 {
		a.Value.Low = low
	}
	return a
}

// doubt is the part of cases in which bounds may miss what they bound, and deviates how many standard errors that is to
// each side.
const (
	doubt    = 0.05
	deviates = 1.959963984540054
)

// ratio is the share of value that is right.
func ratio(of []Sample, book, off float64) Bounded {
	if book == 0 {
		return Bounded{Share: 1, Low: 0, High: 1}
	}
	share := off / book
	n, squares := float64(len(of)), 0.0
	for _, s := range of {
		e := s.Off - share*s.Book
		squares += e * e
	}
	cut := func(x float64) float64 { return min(1, max(0, x)) }
	if n < 2 {
		return Bounded{Share: cut(1 - share), Low: 0, High: 1}
	}
	width := deviates * math.Sqrt(n/(n-1)*squares) / book
	return Bounded{Share: cut(1 - share), Low: cut(1 - share - width), High: cut(1 - share + width)}
}

// Bounds are between which share of all there are right ones 19 times in 20, of which so many of n were right: the
// exact bounds of Clopper and Pearson (1934).
func Bounds(right, n int) (low, high float64) {
	high = 1
	if right > 0 {
		low = halve(func(p float64) bool { return atMost(n-right, n, 1-p) > doubt/2 })
	}
	if right < n {
		high = halve(func(p float64) bool { return atMost(right, n, p) < doubt/2 })
	}
	return low, high
}

// halve finds where in 0 to 1 something begins to hold.
func halve(holds func(float64) bool) float64 {
	low, high := 0.0, 1.0
	for range 60 {
		if mid := (low + high) / 2; holds(mid) {
			high = mid
		} else {
			low = mid
		}
	}
	return (low + high) / 2
}

// atMost is how likely no more than k of n come out where each does with probability p.
func atMost(k, n int, p float64) (sum float64) {
	switch {
	case k >= n || p <= 0:
		return 1
	case p >= 1:
		return 0
	}
	all, _ := math.Lgamma(float64(n + 1))
	for i := range k + 1 {
		some, _ := math.Lgamma(float64(i + 1))
		rest, _ := math.Lgamma(float64(n - i + 1))
		sum += math.Exp(all - some - rest + float64(i)*math.Log(p) + float64(n-i)*math.Log1p(-p))
	}
	return min(1, sum)
}

// A Cause is how many errors are laid to a kind of move, and how many it makes on average.
type Cause struct {
	Kind   string  `json:"kind"`
	Moves  int     `json:"moves"`
	Errors float64 `json:"errors"`
	Rate   float64 `json:"rate"`
}

// Causes lays the errors that past counts found to the kinds of the moves before them, the most first.
func Causes(past []Past, prior Prior) []Cause {
	rates, errors, moves := Learn(past, prior), map[string]float64{}, map[string]int{}
	for _, p := range past {
		rates.lay(p, errors)
		for kind, n := range p.Moves {
			moves[kind] += n
		}
	}
	out := make([]Cause, 0, len(moves))
	for kind, n := range moves {
		out = append(out, Cause{Kind: kind, Moves: n, Errors: sixth(errors[kind]), Rate: sixth(rates[kind])})
	}
	slices.SortFunc(out, func(a, b Cause) int {
		return cmp.Or(cmp.Compare(b.Errors, a.Errors), cmp.Compare(a.Kind, b.Kind))
	})
	return out
}
