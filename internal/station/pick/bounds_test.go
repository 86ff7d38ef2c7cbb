package pick

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
)

// TestWhatLiesOutsideIsNamed holds for any stock and bounds: what is taken from and what is named
// outside are together all that there is, once, with what is reserved apart.
func TestWhatLiesOutsideIsNamed(t *testing.T) {
	r := rand.New(rand.NewPCG(18, 18))
	for range 500 {
		b := bounds{fromBin: fmt.Sprintf("A-%02d", r.IntN(9)), toBin: fmt.Sprintf("C-%02d", r.IntN(9))}
		if r.IntN(2) == 0 {
			b.zone = "B"
		}
		var held []*shelf
		free, reserved, bins := decimal.Zero, decimal.Zero, 0
		for i := range r.IntN(12) {
			zone := []string{"A", "B", "C", "D"}[r.IntN(4)]
			s := &shelf{Bin: fmt.Sprintf("%s-%02d", zone, i), Zone: zone, Available: decimal.NewFromInt(r.Int64N(5)),
				mine: r.IntN(4) == 0}
			held = append(held, s)
			switch {
			case b.take(s):
			case s.mine:
				reserved = reserved.Add(s.Available)
			default:
				free = free.Add(s.Available)
				if s.Available.IsPositive() {
					bins++
				}
			}
		}
		said := b.outside(held)
		for what, n := range map[string]decimal.Decimal{" free lie in ": free, " reserved for it lie in ": reserved} {
			if n.IsPositive() != strings.Contains(said, n.String()+what) {
				t.Fatalf("%+v with %s%s outside: %q", b, n, what, said)
			}
		}
		if more := fmt.Sprintf("and %d more", bins-mostNamed); bins > mostNamed && !strings.Contains(said, more) {
			t.Fatalf("%d bins outside: %q does not say %q", bins, said, more)
		}
	}
}
