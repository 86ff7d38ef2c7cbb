package pack

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"lanternrow/internal/cartons"

	"github.com/shopspring/decimal"
)

// TestACartonIsLightenedByTheFewestUnits reads back what is said, for any contents: it is there,
// it is enough, and one unit less of the lightest would not be.
func TestACartonIsLightenedByTheFewestUnits(t *testing.T) {
	r := rand.New(rand.NewPCG(23, 23))
	for range 400 {
		var c closed
		units := map[int32]decimal.Decimal{}
		whole := decimal.Zero
		for i := range int32(1 + r.IntN(5)) {
			n, kg := decimal.NewFromInt(1+r.Int64N(9)), decimal.New(1+r.Int64N(900), -2)
			c.Contents = append(c.Contents, cartons.Content{ItemID: i, SKU: fmt.Sprint("I", i), Quantity: n})
			units[i], whole = kg, whole.Add(n.Mul(kg))
		}
		over := whole.Mul(decimal.New(1+r.Int64N(99), -2)).Round(3)
		moved, last := decimal.Zero, decimal.Zero
		said := lighten(over, c, units)
		for _, x := range c.Contents {
			for n := int64(1); n <= x.Quantity.IntPart(); n++ {
				kg := units[x.ItemID].Mul(decimal.NewFromInt(n))
				if slices.Contains(strings.Split(said, " and "), fmt.Sprintf("%d of %s (%s kg)", n, x.SKU, kg)) {
					moved = moved.Add(kg)
					if last.IsZero() || units[x.ItemID].LessThan(last) {
						last = units[x.ItemID]
					}
				}
			}
		}
		if moved.LessThan(over) || !moved.Sub(last).LessThan(over) {
			t.Fatalf("to be lighter by %s of %s: %q moves %s", over, whole, said, moved)
		}
	}
}
