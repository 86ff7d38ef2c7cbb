package counting

import (
	"cmp"
	"math/rand/v2"
	"slices"
	"testing"
)

// shelf is a bin of a simulated warehouse: how busy it is, what moved since it was counted, and whether its books are
// wrong.
type shelf struct {
	busy  map[string]float64
	moves map[string]int
	wrong bool
	last  int
	// minutes is how long it takes to count it.
	minutes float64
}

// planted are the errors that a move of each kind makes in the simulated warehouse.
var planted = map[string]float64{"pick": 0.003, "put_away": 0.015, "move": 0.03}

// simulate lets a warehouse of so many bins live so many days, a few busy and many quiet ones; each day there are so
// many minutes to count, those first that come first by order. It returns how many were found wrong.
func simulate(seed uint64, bins, days int, daily float64, order func(day int, all []*shelf, past []Past) []*shelf) (found int) {
	r := rand.New(rand.NewPCG(seed, 15))
	all := make([]*shelf, bins)
	for i := range all {
		// Common practice has few bins see most of the work.
		busy := 8 / float64(1+r.IntN(bins)/8)
		all[i] = &shelf{busy: map[string]float64{"pick": busy, "put_away": busy / 8, "move": busy / 40}, moves: map[string]int{}, last: -1 - r.IntN(bins),
			minutes: 0.5 + 4*r.Float64()}
	}
	var past []Past
	for day := range days {
		for _, s := range all {
			s.live(r)
		}
		left := daily
		for _, s := range order(day, all, past) {
			if left -= s.minutes; left < 0 {
				break
			}
			if s.wrong {
				found++
			}
			past = append(past, Past{Moves: s.moves, Wrong: s.wrong})
			s.moves, s.wrong, s.last = map[string]int{}, false, day
		}
	}
	return found
}

// live lets a day pass.
func (s *shelf) live(r *rand.Rand) {
	for _, kind := range []string{"pick", "put_away", "move"} {
		n := int(s.busy[kind])
		if r.Float64() < s.busy[kind]-float64(n) {
			n++
		}
		for range n {
			s.moves[kind]++
			s.wrong = s.wrong || r.Float64() < planted[kind]
		}
	}
}

// TestWhereAnErrorIsLikelyMoreIsFound: for the same minutes, counts made where an error is most likely
// find at least a third more wrong bins than those made in turn, in warehouses whose errors are known.
func TestWhereAnErrorIsLikelyMoreIsFound(t *testing.T) {
	inTurn := func(_ int, all []*shelf, _ []Past) []*shelf {
		sorted := slices.Clone(all)
		slices.SortStableFunc(sorted, func(a, b *shelf) int { return cmp.Compare(a.last, b.last) })
		return sorted
	}
	byChance := func(_ int, all []*shelf, past []Past) []*shelf {
		rates := Learn(past, Common)
		sorted := slices.Clone(all)
		slices.SortStableFunc(sorted, func(a, b *shelf) int { return cmp.Compare(rates.Chance(b.moves), rates.Chance(a.moves)) })
		return sorted
	}
	turn, chance := 0, 0
	for seed := range uint64(8) {
		turn += simulate(seed, 600, 40, 20, inTurn)
		chance += simulate(seed, 600, 40, 20, byChance)
	}
	t.Logf("in turn %d are found, and by chance %d", turn, chance)
	if 3*chance < 4*turn {
		t.Errorf("in turn %d are found, and by chance only %d", turn, chance)
	}
}
