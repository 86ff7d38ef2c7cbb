package pick

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"lanternrow/internal/core/cartonization"

	"github.com/shopspring/decimal"
)

// TestATrolleyIsNeverLoadedBeyondItsWeight parts the stops of a walk for trolleys, for any
// weights: all of it is taken, nothing more, and a trolley is heavier than it may be only for
// one thing that cannot be parted.
func TestATrolleyIsNeverLoadedBeyondItsWeight(t *testing.T) {
	r := rand.New(rand.NewPCG(19, 19))
	carton := int64(7)
	for range 2000 {
		line := openLine{ID: 1, Whole: r.IntN(5) > 0, WeightKg: decimal.New(r.Int64N(4000), -2)}
		p := &planner{lines: map[int64]openLine{1: line}}
		stop := ProposedStop{LineID: 1, Quantity: decimal.NewFromInt(1 + r.Int64N(40))}
		if r.IntN(4) == 0 {
			stop.CartonID = &carton
		}
		most := float64(1 + r.IntN(120))
		room, first := most*r.Float64(), false
		want, left, walks := stop.Quantity, stop.Quantity, 0
		for left.IsPositive() {
			if walks++; walks > 200 {
				t.Fatalf("%v of %v kg on %v: it never ends", want, line.WeightKg, most)
			}
			part, whole := p.within(ProposedStop{LineID: 1, CartonID: stop.CartonID, Quantity: left}, room, most, first)
			kg := p.weight(part)
			parted := stop.CartonID == nil && line.Whole && part.Quantity.GreaterThan(decimal.NewFromInt(1))
			if part.Quantity.IsNegative() || part.Quantity.GreaterThan(left) || whole != part.Quantity.Equal(left) ||
				kg > room+1e-6 && (!first || parted) {
				t.Fatalf("%v of %v kg in room for %v of %v, first %v: %v, all %v", left, line.WeightKg, room, most, first,
					part.Quantity, whole)
			}
			left = left.Sub(part.Quantity)
			room, first = most, true
		}
	}
}

// TestPaperRoundsFollowTheProposal fills the boxes of a proposal with takes that come in any
// order and size: each box gets what was proposed for it.
func TestPaperRoundsFollowTheProposal(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 20))
	for range 300 {
		var answer cartonization.Answer
		left := map[string]int{}
		for n := range 1 + r.IntN(4) {
			c := cartonization.Filled{Size: fmt.Sprint("S", n)}
			for i := range 1 + r.IntN(3) {
				part := cartonization.Part{Key: fmt.Sprint("I", i), Count: 1 + r.IntN(6)}
				c.Things, left[part.Key] = append(c.Things, part), left[part.Key]+part.Count
			}
			answer.Cartons = append(answer.Cartons, c)
		}
		boxes := proposedBoxes(answer, nil, 1)
		for sku, n := range left {
			for n > 0 {
				take := decimal.NewFromInt(int64(1 + r.IntN(n)))
				n -= int(take.IntPart())
				for _, b := range boxes {
					part := b.takes(sku, take)
					b.room[sku], take = b.room[sku].Sub(part), take.Sub(part)
				}
				if !take.IsZero() {
					t.Fatalf("%s of %s are left beside %+v", take, sku, answer.Cartons)
				}
			}
		}
		for _, b := range boxes {
			for sku, room := range b.room {
				if !room.IsZero() {
					t.Fatalf("room for %s of %s is left in a box of %+v", room, sku, answer.Cartons)
				}
			}
		}
	}
}
