package pick

import (
	"math/rand/v2"
	"testing"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/allocation"
	"lanternrow/internal/core/walking"

	"github.com/shopspring/decimal"
)

// TestAStopIsPutWhereItCostsTheLeast puts random stops into random walks: it stands behind the stop that somebody is
// at, the others keep their order, and no other place behind that one is shorter.
func TestAStopIsPutWhereItCostsTheLeast(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 1))
	p := &planner{floor: walking.Floor{Aisles: []float64{4, 8, 12, 16}, Cross: []float64{0, 12, 24}},
		bench: catalog.Location{X: 6, Y: 0}}
	somewhere := func() (x, y float64) { return p.floor.Aisles[r.IntN(4)], float64(1 + r.IntN(23)) }
	for range 300 {
		walk := make([]walkStop, r.IntN(7))
		for i := range walk {
			walk[i] = walkStop{ID: int64(i + 1), Seq: i + 1, Quantity: decimal.NewFromInt(1)}
			walk[i].X, walk[i].Y = somewhere()
		}
		behind := 0
		if len(walk) > 0 {
			behind = r.IntN(len(walk) + 1)
		}
		s := walkStop{added: 1}
		s.X, s.Y = somewhere()
		got := p.insert(append([]walkStop(nil), walk...), behind, s)
		at, kept := -1, []walkStop{}
		for i, x := range got {
			if x.added == 1 {
				at = i
				continue
			}
			kept = append(kept, x)
		}
		for i := range kept {
			if kept[i].ID != walk[i].ID {
				t.Fatalf("the others are walked as %v", kept)
			}
		}
		if at < behind {
			t.Fatalf("it is put at %d, and somebody is at %d already", at, behind)
		}
		least := p.floor.Length(p.bench.Point(), points(got))
		for i := behind; i <= len(walk); i++ {
			other := append(append(append([]walkStop(nil), walk[:i]...), s), walk[i:]...)
			if m := p.floor.Length(p.bench.Point(), points(other)); m < least-1e-6 {
				t.Fatalf("at %d the walk is %.1f m, at %d it would be %.1f", at, least, i, m)
			}
		}
	}
}

// TestAllOfARoundIsWalkedTheShortestWayAgain: no order of the stops is shorter than the one a round is put into that
// nobody has begun.
func TestAllOfARoundIsWalkedTheShortestWayAgain(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 2))
	p := &planner{floor: walking.Floor{Aisles: []float64{4, 8, 12}, Cross: []float64{0, 20}}, bench: catalog.Location{X: 4, Y: 0}}
	for range 40 {
		walk := make([]walkStop, 1+r.IntN(5))
		for i := range walk {
			walk[i] = walkStop{ID: int64(i), X: p.floor.Aisles[r.IntN(3)], Y: float64(1 + r.IntN(19)), Bin: string(rune('A' + i))}
		}
		got, err := p.shortest(append([]walkStop(nil), walk...))
		if err != nil {
			t.Fatal(err)
		}
		least := p.floor.Length(p.bench.Point(), points(got))
		orders(walk, func(other []walkStop) {
			if m := p.floor.Length(p.bench.Point(), points(other)); m < least-1e-6 {
				t.Fatalf("%.1f m, and %.1f in another order", least, m)
			}
		})
	}
}

// orders tells each order of the stops.
func orders(walk []walkStop, tell func([]walkStop)) {
	var next func(int)
	next = func(k int) {
		if k == len(walk) {
			tell(walk)
			return
		}
		for i := k; i < len(walk); i++ {
			walk[k], walk[i] = walk[i], walk[k]
			next(k + 1)
			walk[k], walk[i] = walk[i], walk[k]
		}
	}
	next(0)
}

// TestUnitsByNameAreOneStop: units that lie in one place are allocated as one stop, those of another place or lot as
// another, and a draft that wants fewer takes the first of them.
func TestUnitsByNameAreOneStop(t *testing.T) {
	id := func(n int64) *int64 { return &n }
	one := decimal.NewFromInt(1)
	l := openLine{ID: 7, ItemID: 3, SKU: "SP-150", Open: decimal.NewFromInt(4), Whole: true}
	p := &planner{lines: map[int64]openLine{7: l}, mine: map[int64][]*shelf{}, stock: map[int32][]*shelf{}}
	for i, at := range []struct {
		location int32
		lot      *int64
	}{{1, nil}, {2, nil}, {1, nil}, {1, id(9)}} {
		p.mine[7] = append(p.mine[7], &shelf{LocationID: at.location, ItemID: 3, LotID: at.lot, SerialID: id(int64(i + 1)),
			Serial: string(rune('a' + i)), Available: one, mine: true})
	}
	var stops []ProposedStop
	for _, s := range p.mine[7] {
		stops = l.with(stops, *s, allocation.Part{Quantity: one})
	}
	if len(stops) != 3 || len(stops[0].SerialIDs) != 2 || !stops[0].Quantity.Equal(decimal.NewFromInt(2)) {
		t.Fatalf("the stops are %+v", stops)
	}
	for want, names := range map[string]int{"1": 1, "2": 2} {
		got, err := p.check("stops[0]", 0, Stop{LineID: 7, LocationID: 1, SerialIDs: []int64{1, 3}, Quantity: want},
			map[int64]decimal.Decimal{7: l.Open})
		if err != nil || len(got.SerialIDs) != names || got.SerialIDs[0] != 1 {
			t.Errorf("of two units %s takes %v, %v", want, got.SerialIDs, err)
		}
		for _, s := range p.mine[7] {
			s.Available = one
		}
	}
	if _, err := p.check("stops[0]", 0, Stop{LineID: 7, LocationID: 1, SerialIDs: []int64{1, 3}, Quantity: "3"},
		map[int64]decimal.Decimal{7: l.Open}); err == nil {
		t.Error("three are taken of two")
	}
}
