package returning

import (
	"testing"
	"testing/quick"

	"github.com/shopspring/decimal"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

// TestTwoOfNineLeavesSeven has the check values of the trade (common practice, no source).
func TestTwoOfNineLeavesSeven(t *testing.T) {
	for name, c := range map[string]struct {
		sold Sold
		left string
	}{
		"nothing came back":          {Sold{Shipped: d("9")}, "9"},
		"two of nine":                {Sold{d("9"), []Part{{Announced: d("2"), Received: d("2"), Over: true}}}, "7"},
		"two announced":              {Sold{d("9"), []Part{{Announced: d("2"), Received: d("0"), Over: false}}}, "7"},
		"announced, then given up":   {Sold{d("9"), []Part{{Announced: d("2"), Received: d("0"), Over: true}}}, "9"},
		"one of two came, no more":   {Sold{d("9"), []Part{{Announced: d("2"), Received: d("1"), Over: true}}}, "8"},
		"one of two came, more will": {Sold{d("9"), []Part{{Announced: d("2"), Received: d("1"), Over: false}}}, "7"},
		"all of it, in two returns":  {Sold{d("9"), []Part{{Announced: d("4"), Received: d("4"), Over: true}, {Announced: d("5"), Received: d("5"), Over: true}}}, "0"},
		"two kept by the customer":   {Sold{d("9"), []Part{{Announced: d("2"), Kept: d("2"), Over: true}}}, "7"},
		"metres":                     {Sold{d("2.5"), []Part{{Announced: d("0.75"), Received: d("0.75"), Over: true}}}, "1.75"},
	} {
		if got := c.sold.Returnable(); !got.Equal(d(c.left)) {
			t.Errorf("%s: %s may be returned, not %s", name, got, c.left)
		}
	}
}

// TestNoMoreComesBackThanWent holds for whatever was announced within what may be returned, in any order.
func TestNoMoreComesBackThanWent(t *testing.T) {
	err := quick.Check(func(shipped uint16, tries []uint8, over []bool) bool {
		s := Sold{Shipped: decimal.NewFromInt(int64(shipped))}
		came := decimal.Zero
		for i, n := range tries {
			asked := decimal.Min(decimal.NewFromInt(int64(n)), s.Returnable())
			part := Part{Announced: asked, Received: asked, Over: i < len(over) && over[i]}
			if part.Over {
				part.Received = asked.Div(decimal.NewFromInt(2)).Floor()
			}
			s.Returns, came = append(s.Returns, part), came.Add(part.Received)
		}
		return came.LessThanOrEqual(s.Shipped) && !s.Returnable().IsNegative()
	}, nil)
	if err != nil {
		t.Error(err)
	}
}

// TestWhatIsCredited is worked by hand: 3 at 12.50 and 1 at 7.99 with 20 %, and 2 at 4.00 with 5 %.
func TestWhatIsCredited(t *testing.T) {
	lines := []Line{{d("3"), d("12.50"), d("20")}, {d("1"), d("7.99"), d("20")}, {d("2"), d("4"), d("5")}}
	for name, c := range map[string]struct {
		fee        string
		taxed      bool
		net, total string
	}{
		// 37.50 + 7.99 + 8.00 = 53.49; 20 % of 45.49 is 9.098, rounded 9.10; 5 % of 8.00 is 0.40.
		"with tax": {"0", true, "53.49", "62.99"},
		"without":  {"0", false, "53.49", "53.49"},
		// Less 15 %: at 10.625, 6.7915 and 3.40 that is 31.88 + 6.79 + 6.80 = 45.47; 20 % of 38.67 is 7.734.
		"less a fee": {"15", true, "45.47", "53.54"},
		"all of it":  {"100", true, "0", "0"},
	} {
		got := Settle(lines, d(c.fee), c.taxed)
		if !got.Net.Equal(d(c.net)) || !got.Total.Equal(d(c.total)) {
			t.Errorf("%s: %s before tax and %s with it, not %s and %s", name, got.Net, got.Total, c.net, c.total)
		}
	}
	if n := Received.Of(Progress{d("4"), d("3"), d("2")}); !n.Equal(d("3")) {
		t.Errorf("on receipt %s are given for", n)
	}
}
