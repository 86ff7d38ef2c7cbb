package valuation

import (
	"math/rand/v2"
	"testing"

	"github.com/shopspring/decimal"
)

func n(i int64) decimal.Decimal { return decimal.NewFromInt(i) }

// TestTheTextbookOfThreePurchases is an example of the kind that open accounting textbooks use (its numbers from
// memory): 150 at 21, 225 at 27, of which 300 are sold, and 210 at 33. First in, first out: 7,200 are sold, and 8,955
// are left.
func TestTheTextbookOfThreePurchases(t *testing.T) {
	at, err := Layered([]Crossing{{Outside, 1, n(150), n(21), false}, {Outside, 1, n(225), n(27), false}, {1, Outside, n(120), n(0), false},
		{1, Outside, n(180), n(0), false}, {Outside, 1, n(210), n(33), false}})
	if err != nil {
		t.Fatal(err)
	}
	if quantity, value := Worth(at[1]); !quantity.Equal(n(285)) || !value.Equal(n(8955)) {
		t.Errorf("%s are left, worth %s", quantity, value)
	}
	// 4 at 18.75 are worth 75.00.
	four, err := Layered([]Crossing{{Outside, 1, n(4), decimal.RequireFromString("18.75"), false}})
	if err != nil {
		t.Fatal(err)
	}
	if _, value := Worth(four[1]); value.StringFixed(2) != "75.00" {
		t.Errorf("4 at 18.75 are worth %s", value)
	}
	if _, err := Layered([]Crossing{{1, 2, n(1), n(1), false}}); err == nil {
		t.Error("more went than there was")
	}
}

// TestGoodsTakeTheirCostAlong holds for any crossings between three places: it is what a replay piece by piece says,
// one piece a time.
func TestGoodsTakeTheirCostAlong(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 2))
	for n := range 200 {
		var crossings []Crossing
		pieces := map[int32][]int64{}
		var carried []int64
		for range r.IntN(60) {
			from, to := []int32{Outside, 0, 1, 2}[r.IntN(4)], []int32{Outside, 0, 1, 2}[r.IntN(4)]
			q, cost := 1+r.IntN(6), r.Int64N(50)
			if from == to || from != Outside && len(pieces[from]) < q {
				continue
			}
			moved := make([]int64, q)
			for i := range moved {
				moved[i] = cost
			}
			if from != Outside {
				moved, pieces[from] = append([]int64{}, pieces[from][:q]...), pieces[from][q:]
			}
			if to != Outside {
				pieces[to] = append(pieces[to], moved...)
			}
			carried = append(carried, 0)
			for _, cost := range moved {
				carried[len(carried)-1] += cost
			}
			crossings = append(crossings, Crossing{from, to, decimal.NewFromInt(int64(q)), decimal.NewFromInt(cost), false})
		}
		at, err := Layered(crossings)
		if err != nil {
			t.Fatal(err)
		}
		one := func(came, at int) decimal.Decimal { return decimal.NewFromInt(int64(min(1, at-came))) }
		plain, _ := Carried(crossings, func(int, int) decimal.Decimal { return decimal.Zero })
		more, _ := Carried(crossings, one)
		for i, want := range carried {
			// What goes out again, each unit known to cost one more by then.
			if crossings[i].From != Outside {
				want += crossings[i].Quantity.IntPart()
			}
			if more[i].IntPart() != want || plain[i].IntPart() != carried[i] {
				t.Fatalf("case %d: crossing %d carried %s and %s, and by pieces %d and %d", n, i, plain[i], more[i], carried[i], want)
			}
		}
		for place, all := range pieces {
			sum := int64(0)
			for _, cost := range all {
				sum += cost
			}
			if quantity, value := Worth(at[place]); quantity.IntPart() != int64(len(all)) || value.IntPart() != sum {
				t.Fatalf("case %d: at %d are %s worth %s, and by pieces %d worth %d", n, place, quantity, value, len(all), sum)
			}
		}
	}
}

// TestPartsAddUpToTheCent holds for any value and quantities.
func TestPartsAddUpToTheCent(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 3))
	for range 500 {
		value := decimal.New(r.Int64N(1_000_000), -2)
		quantities := make([]decimal.Decimal, 1+r.IntN(20))
		total := decimal.Zero
		for i := range quantities {
			quantities[i] = decimal.New(1+r.Int64N(9000), -3)
			total = total.Add(quantities[i])
		}
		sum := decimal.Zero
		for i, part := range Apportion(value, quantities) {
			share := value.Mul(quantities[i]).Div(total)
			if part.Sub(share).Abs().GreaterThanOrEqual(decimal.New(1, -2)) {
				t.Fatalf("%s of %s is given for a share of %s", part, value, share)
			}
			sum = sum.Add(part)
		}
		if !sum.Equal(value) {
			t.Fatalf("the parts of %s come to %s", value, sum)
		}
	}
}
