package counting

import (
	"math/rand/v2"
	"testing"

	"github.com/shopspring/decimal"
)

// TestTheRankingOfTen is worked by hand: 1000 move in all, of which the first two are 80 %.
func TestTheRankingOfTen(t *testing.T) {
	var movers []Mover
	for i, v := range []int64{500, 300, 60, 50, 40, 20, 15, 10, 5, 0} {
		movers = append(movers, Mover{string(rune('a' + i)), decimal.NewFromInt(v)})
	}
	rand.New(rand.NewPCG(1, 1)).Shuffle(len(movers), func(i, j int) { movers[i], movers[j] = movers[j], movers[i] })
	got, classes := Classify(movers, Shares{decimal.NewFromInt(80), decimal.NewFromInt(95)}), ""
	for _, r := range got {
		classes += r.Item + string(r.Class) + " "
	}
	if classes != "aA bA cB dB eB fC gC hC iC jC " || got[1].Share.String() != "80" || !got[9].Share.Equal(decimal.NewFromInt(100)) {
		t.Errorf("they are %s, with shares of %s and %s", classes, got[1].Share, got[9].Share)
	}
	for _, r := range Classify([]Mover{{"a", decimal.Zero}}, Shares{}) {
		if r.Class != C || !r.Share.IsZero() {
			t.Errorf("what does not move is %+v", r)
		}
	}
}

// TestRatesAreLearnt plants rates and counts often enough to find them again.
func TestRatesAreLearnt(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 5))
	planted := map[string]float64{"pick": 0.004, "put_away": 0.02, "refill": 0.01}
	var past []Past
	for range 30_000 {
		p := Past{Moves: map[string]int{"pick": r.IntN(40), "put_away": r.IntN(4), "refill": r.IntN(8)}}
		for kind, n := range p.Moves {
			for range n {
				p.Wrong = p.Wrong || r.Float64() < planted[kind]
			}
		}
		past = append(past, p)
	}
	for kind, rate := range Learn(past, Common) {
		if rate < 0.8*planted[kind] || rate > 1.25*planted[kind] {
			t.Errorf("%s errs at %.4f, and was planted at %.4f", kind, rate, planted[kind])
		}
	}
	if got := (Rates{}).Chance(nil); got != 0 {
		t.Errorf("what did not move is wrong with a chance of %v", got)
	}
	if got := Learn(nil, Common).Chance(map[string]int{"pick": 200}); got < 0.6 || got > 0.7 {
		t.Errorf("with nothing known, 200 picks make %v", got)
	}
}
