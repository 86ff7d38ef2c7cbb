package walking

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/shopspring/decimal"
)

func TestHowLongARoundTakes(t *testing.T) {
	d := decimal.RequireFromString
	// By hand: 90 s to set up, 130 m at 1.3 m/s are 100 s, 4 stops 24 s, 5 lines 20 s,
	// 12 units 18 s, 40 kg 8 s: 260 s.
	e := UsualPace.Estimate(Work{Metres: d("130"), Stops: 4, Lines: 5, Units: d("12"), WeightKg: d("40")})
	if e.Minutes.String() != "4.3" || e.SetUp.String() != "1.5" || e.Walking.String() != "1.7" ||
		e.Handling.String() != "1.2" {
		t.Errorf("%+v", e)
	}
	if e := (Pace{}).Estimate(Work{Metres: d("130"), Stops: 4}); !e.Minutes.IsZero() {
		t.Errorf("a floor without a pace: %+v", e)
	}
	// MTM-1 (from memory): a foot of walking takes 5.3 TMU of 0.036 s.
	if mtm := 0.3048 / (5.3 * 0.036); math.Abs(mtm-1.6) > 0.01 || UsualPace.MetresPerSecond.InexactFloat64() > mtm {
		t.Errorf("with a trolley one walks no quicker than %.2f m/s", mtm)
	}
}

// TestMoreWorkNeverTakesLess holds for any pace and work.
func TestMoreWorkNeverTakesLess(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 36))
	n := func(most int64) decimal.Decimal { return decimal.New(r.Int64N(most), -1) }
	for range 3000 {
		p := Pace{n(2000), n(30), n(200), n(200), n(100), n(30)}
		w := Work{n(5000), r.IntN(100), r.IntN(100), n(5000), n(5000)}
		more := Work{w.Metres.Add(n(100)), w.Stops + r.IntN(3), w.Lines + r.IntN(3), w.Units.Add(n(50)),
			w.WeightKg.Add(n(50))}
		a, b := p.Estimate(w), p.Estimate(more)
		if b.Minutes.LessThan(a.Minutes) ||
			a.Minutes.Sub(a.SetUp.Add(a.Walking).Add(a.Handling)).Abs().GreaterThan(decimal.New(2, -1)) {
			t.Fatalf("%+v takes %+v, and %+v takes %+v", w, a, more, b)
		}
	}
}
