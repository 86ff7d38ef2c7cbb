package forecast_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"lanternrow/internal/core/forecast"
)

// The example that is printed most for Johnson's rule (S. M. Johnson, Optimal two- and
// three-stage production schedules with setup times included, 1954; its figures from
// memory): five jobs through two machines in the order C, A, D, E, B take 20.5. A walker
// and a packer are such machines.
func TestAWalkerAndAPackerAreAFlowShopOfTwoMachines(t *testing.T) {
	jobs := []struct{ walk, pack float64 }{{2.2, 5.0}, {3.2, 4.2}, {5.8, 4.0}, {3.1, 2.8}, {4.7, 1.5}}
	h := forecast.House{Walkers: 1, Packers: 1, Pack: 0.1, Of: map[int64]int{}}
	for i, j := range jobs {
		order := int64(i + 1)
		h.Rounds = append(h.Rounds, forecast.Round{Walker: forecast.Nobody,
			Parts: []forecast.Part{{Order: order, Minutes: j.walk, Cartons: int(math.Round(j.pack * 10))}}})
		h.Of[order] = i
		h.Collections = append(h.Collections, 30)
	}
	ends := []float64{7.2, 11.4, 15.4, 18.2, 20.5}
	for i, r := range h.Run() {
		if math.Abs(r.At-ends[i]) > 1e-6 || math.Abs(r.Spare-(30-ends[i])) > 1e-6 {
			t.Errorf("job %d ends at %g with %g to spare, not at %g", i+1, r.At, r.Spare, ends[i])
		}
	}
}

// random is a house with whole minutes.
func random(r *rand.Rand) forecast.House {
	h := forecast.House{Walkers: 1 + r.IntN(4), Packers: 1 + r.IntN(3), Pack: float64(r.IntN(4)), Load: float64(r.IntN(3)),
		Of: map[int64]int{}, AtBench: map[int64]int{}, Packed: map[int64]int{}}
	at := 0.0
	for range 1 + r.IntN(3) {
		at += float64(10 + r.IntN(60))
		h.Collections = append(h.Collections, at)
	}
	order := func() int64 {
		o := int64(1 + r.IntN(20))
		if _, known := h.Of[o]; !known {
			h.Of[o] = r.IntN(len(h.Collections))
		}
		return o
	}
	walking := r.Perm(h.Walkers)
	for range r.IntN(12) {
		round := forecast.Round{Walker: forecast.Nobody, SetUp: float64(r.IntN(4))}
		if len(walking) > 0 && r.IntN(3) == 0 {
			round.Walker, walking = walking[0], walking[1:]
		} else if r.IntN(3) == 0 {
			round.From = float64(r.IntN(30))
		}
		for range 1 + r.IntN(3) {
			round.Parts = append(round.Parts, forecast.Part{Order: order(), Minutes: float64(1 + r.IntN(20)), Cartons: 1 + r.IntN(3)})
		}
		h.Rounds = append(h.Rounds, round)
	}
	for range r.IntN(4) {
		h.AtBench[order()] += 1 + r.IntN(2)
		h.Packed[order()] += 1 + r.IntN(2)
	}
	return h
}

// What has to be true of any way through the work.
func TestTheWorkOfARandomHouseIsDoneByThoseWhoAreThere(t *testing.T) {
	for seed := range uint64(400) {
		h := random(rand.New(rand.NewPCG(seed, 7)))
		ready := h.Run()
		end, walk, cartons, longest := 0.0, 0.0, 0, 0.0
		for _, r := range ready {
			end = max(end, r.At)
		}
		for _, r := range h.Rounds {
			minutes := r.SetUp
			for _, p := range r.Parts {
				minutes += p.Minutes
				cartons += p.Cartons
			}
			walk, longest = walk+minutes, max(longest, r.From+minutes+h.Pack+h.Load)
		}
		packed := 0
		for _, n := range h.AtBench {
			cartons += n
		}
		for _, n := range h.Packed {
			packed += n
		}
		least := max(walk/float64(h.Walkers), float64(cartons)*h.Pack/float64(h.Packers), longest)
		most := 30 + walk + float64(cartons)*(h.Pack+h.Load) + float64(packed)*h.Load
		if end < least-1e-9 || end > most {
			t.Fatalf("seed %d: the last carton is ready at %g, where the work allows %g to %g: %+v", seed, end, least, most, h)
		}
		if again := h.Run(); !slices.Equal(again, ready) {
			t.Fatalf("seed %d: run again it is %v, not %v", seed, again, ready)
		}
		for i, r := range ready {
			if h.Collections[i]-r.At != r.Spare || r.Made() != (r.At <= h.Collections[i]) {
				t.Fatalf("seed %d: collection %d at %g is ready at %g, and said to have %g to spare", seed, i, h.Collections[i], r.At, r.Spare)
			}
		}
	}
}

// What is said to help does help, and no order is left for later that could go.
func TestWhatHelpsIsWorkedOut(t *testing.T) {
	helped, left := 0, 0
	for seed := range uint64(400) {
		h := random(rand.New(rand.NewPCG(seed, 8)))
		for i, r := range h.Run() {
			help := h.Help(i)
			if help.Waits && help.ReleaseNow.At < r.At {
				helped++
			}
			if r.Made() {
				if help.Leave != nil {
					t.Fatalf("seed %d: %v are left of a collection that is made", seed, help.Leave)
				}
				continue
			}
			if len(help.Leave) == 0 {
				continue
			}
			left++
			if !help.Left.Made() {
				t.Fatalf("seed %d: %v are left in vain", seed, help.Leave)
			}
			for _, order := range help.Leave {
				if h.Of[order] != i || h.AtBench[order]+h.Packed[order] > 0 {
					t.Fatalf("seed %d: order %d is begun, or of another collection", seed, order)
				}
				if fewer := slices.DeleteFunc(slices.Clone(help.Leave), func(o int64) bool { return o == order }); without(h, fewer).Run()[i].Made() {
					t.Fatalf("seed %d: without %v it is made as well", seed, fewer)
				}
			}
		}
	}
	if helped < 20 || left < 20 {
		t.Fatalf("the houses are too easy: %d were helped by a release, %d by leaving orders", helped, left)
	}
}

func without(h forecast.House, orders []int64) forecast.House {
	rounds := h.Rounds
	h.Rounds = nil
	for _, r := range rounds {
		r.Parts = slices.DeleteFunc(slices.Clone(r.Parts), func(p forecast.Part) bool { return slices.Contains(orders, p.Order) })
		if len(r.Parts) > 0 {
			h.Rounds = append(h.Rounds, r)
		}
	}
	return h
}

// Two orders go with a van in half an hour: one is being picked, one waits for a wave that
// is planned in a quarter of an hour.
func ExampleHouse_Help() {
	h := forecast.House{
		Walkers: 1, Packers: 1, Pack: 3, Load: 1,
		Rounds: []forecast.Round{
			{Walker: 0, Parts: []forecast.Part{{Order: 101, Minutes: 8, Cartons: 1}}},
			{Walker: forecast.Nobody, SetUp: 2, From: 15, Parts: []forecast.Part{{Order: 102, Minutes: 12, Cartons: 2}}},
		},
		Collections: []float64{30}, Of: map[int64]int{101: 0, 102: 0},
	}
	help := h.Help(0)
	fmt.Printf("as it goes %g, one more picker %g, released now %g, without %v %g\n",
		h.Run()[0].At, help.OneMore.At, help.ReleaseNow.At, help.Leave, help.Left.At)
	// Output: as it goes 36, one more picker 36, released now 29, without [102] 12
}
