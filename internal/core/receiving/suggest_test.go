package receiving

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
)

func TestWhatIsSuggestedAndHowItWasReckoned(t *testing.T) {
	for _, c := range []struct {
		point, target, free, onOrder, pack string
		packs, quantity, says              string
	}{
		{"12", "60", "10", "0", "1", "50", "50",
			"10 free and 0 on order or asked for make 10, at or below 12; 50 to the target of 60"},
		{"12", "60", "12", "0", "24", "2", "48", "at or below 12"},
		{"12", "60", "10", "0", "24", "3", "72", "as 3 packs of 24: 72"},
		{"12", "60", "13", "0", "24", "0", "0", "more than the reorder point of 12"},
		{"12", "60", "2", "24", "24", "0", "0", "2 free and 24 on order or asked for make 26, more than"},
		// Promised away already: free is below zero.
		{"12", "60", "-30", "24", "24", "3", "72", "-30 free and 24 on order or asked for make -6"},
		{"0", "10", "0", "0", "4", "3", "12", ""},
		{"0", "0", "-5", "0", "1", "0", "0", "no target is set"},
		{"20", "40.5", "19.25", "0", "0.5", "43", "21.5", ""},
	} {
		s := Levels{dec(c.point), dec(c.target)}.Suggest(dec(c.free), dec(c.onOrder), dec(c.pack))
		if s.Packs.String() != c.packs || s.Quantity.String() != c.quantity || !strings.Contains(s.Calculation,
			c.says) {
			t.Errorf("%+v: %+v", c, s)
		}
	}
}

// TestASuggestionReachesTheTargetAndNoPackFurther holds for any figures, and after it
// is bought nothing more is suggested.
func TestASuggestionReachesTheTargetAndNoPackFurther(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 2))
	for range 10_000 {
		n := func(most int64) decimal.Decimal { return decimal.NewFromInt(r.Int64N(most)) }
		point := n(50)
		l := Levels{point, point.Add(n(200)).Add(decimal.NewFromInt(1))}
		free, onOrder, pack := n(200).Sub(n(100)), n(60), n(30).Add(decimal.NewFromInt(1))
		s := l.Suggest(free, onOrder, pack)
		after := free.Add(onOrder).Add(s.Quantity)
		if s.Quantity.IsPositive() != free.Add(onOrder).LessThanOrEqual(l.ReorderPoint) || s.Quantity.IsPositive() &&
			(after.LessThan(l.Target) || after.Sub(pack).GreaterThanOrEqual(l.Target)) {
			t.Fatalf("%+v free %s on order %s in packs of %s: %+v", l, free, onOrder, pack, s)
		}
		minimum := n(120)
		least := s.AtLeast(minimum, pack)
		if s.Quantity.IsPositive() && (least.Quantity.LessThan(minimum) || least.Quantity.LessThan(s.Quantity) ||
			!least.Packs.Mul(pack).Equal(least.Quantity)) || !s.Quantity.IsPositive() && least != s {
			t.Fatalf("at least %s in packs of %s: %+v becomes %+v", minimum, pack, s, least)
		}
		if again := l.Suggest(free, onOrder.Add(s.Quantity), pack); again.Quantity.IsPositive() {
			t.Fatalf("bought, and still suggested: %+v", again)
		}
	}
}
