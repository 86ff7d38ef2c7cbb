package slotting

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/shopspring/decimal"
)

// shelves makes a house of bins, some of them full, some choosy.
func shelves(r *rand.Rand, n int) []Bin {
	bins := make([]Bin, n)
	for i := range bins {
		b := Bin{Code: fmt.Sprintf("B-%05d", i), MixItems: r.IntN(3) > 0, MixLots: r.IntN(4) > 0,
			WalkM: float64(r.IntN(900)) / 10, GateM: float64(r.IntN(900)) / 10, Away: r.IntN(30) == 0}
		switch r.IntN(4) {
		case 0:
			b.MaxUnits = limit("24")
		case 1:
			b.MaxWeightKg = limit("120")
		case 2:
			b.MaxUnits, b.MaxVolumeL = limit("40"), limit("90")
		}
		if r.IntN(8) == 0 {
			b.Accepts = []string{"fluid"}
		}
		for range r.IntN(3) {
			b.Holds = append(b.Holds, Held{Item: fmt.Sprint("I", r.IntN(12)), Lot: fmt.Sprint("L", r.IntN(2)),
				Quantity: decimal.NewFromInt(1 + r.Int64N(24)), WeightKg: d("2.5"), VolumeL: d("1.5")})
		}
		bins[i] = b
	}
	return bins
}

func shipment(r *rand.Rand, bins []Bin, items int) Goods {
	g := Goods{Item: fmt.Sprint("I", r.IntN(items)), Lot: fmt.Sprint("L", r.IntN(2)),
		Quantity: decimal.NewFromInt(1 + r.Int64N(60)), Whole: r.IntN(3) > 0,
		WeightKg: d("2.5"), VolumeL: d("1.5"), Pace: float64(r.IntN(11)) / 10}
	if r.IntN(6) == 0 {
		g.Handling = "fluid"
	}
	if r.IntN(2) == 0 {
		g.HomeBin = bins[r.IntN(len(bins))].Code
	}
	return g
}

// TestAPlanIsAsGoodAsLookingAtEveryBin puts deliveries away one after another, and asks
// Propose for each with all the bins as they are by then.
func TestAPlanIsAsGoodAsLookingAtEveryBin(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 6))
	narrowed := 0
	for range 60 {
		bins := shelves(r, 40+r.IntN(160))
		p := NewPlan(bins)
		for range 12 {
			g := shipment(r, bins, 12)
			whole, err := Propose(g, p.bins)
			if err != nil {
				t.Fatal(err)
			}
			if len(p.candidates(g)) < len(bins)/3 {
				narrowed++
			}
			now := make([]Bin, len(p.bins))
			copy(now, p.bins)
			got, err := p.Location(g)
			if err != nil {
				t.Fatal(err)
			}
			if !got.Left.Equal(whole.Left) || math.Abs(got.Points-whole.Points) > 1e-6 {
				t.Fatalf("%+v: the plan leaves %s for %.1f points, all bins leave %s for %.1f\n%+v\n%+v", g, got.Left,
					got.Points, whole.Left, whole.Points, got.Locations, whole.Locations)
			}
			// And what it says fits, bin by bin.
			var lines []Line
			for _, location := range got.Locations {
				lines = append(lines, Line{Field: "q", Bin: now[p.at[location.Bin]], Quantity: location.Quantity})
			}
			placed := g
			placed.Quantity = g.Quantity.Sub(got.Left)
			if len(lines) > 0 {
				if err := Check(placed, lines); err != nil {
					t.Fatalf("%+v is placed where it does not fit: %v", g, err)
				}
			}
		}
	}
	if narrowed < 200 {
		t.Errorf("the plan looked at most bins all the same: it was narrow %d times", narrowed)
	}
}

// TestLinesDoNotMeetInABin gives two lines one bin between them.
func TestLinesDoNotMeetInABin(t *testing.T) {
	p := NewPlan([]Bin{{Code: "NEAR", MaxUnits: limit("24"), MixItems: true, MixLots: true, WalkM: 1},
		{Code: "FAR", MaxUnits: limit("24"), MixItems: true, MixLots: true, WalkM: 50}})
	first, _ := p.Location(Goods{Item: "A", Quantity: d("20"), Whole: true})
	second, _ := p.Location(Goods{Item: "B", Quantity: d("20"), Whole: true})
	if first.Locations[0].Bin != "NEAR" || len(second.Locations) != 1 || second.Locations[0].Bin != "FAR" {
		t.Fatalf("A goes to %+v, B to %+v", first.Locations, second.Locations)
	}
	third, _ := p.Location(Goods{Item: "C", Quantity: d("20"), Whole: true})
	if len(third.Locations) != 2 || third.Left.String() != "12" {
		t.Fatalf("C goes to %+v and leaves %s, where 4 and 4 have room", third.Locations, third.Left)
	}
}

func BenchmarkThousandLinesOverTenThousandBins(b *testing.B) {
	for range b.N {
		b.StopTimer()
		r := rand.New(rand.NewPCG(1, 1))
		bins := shelves(r, 10_000)
		goods := make([]Goods, 1000)
		for i := range goods {
			goods[i] = shipment(r, bins, 400)
		}
		b.StartTimer()
		p := NewPlan(bins)
		for _, g := range goods {
			if _, err := p.Location(g); err != nil {
				b.Fatal(err)
			}
		}
	}
}
