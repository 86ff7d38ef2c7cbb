package measure

import (
	"math/rand/v2"
	"strings"
	"testing"
	"testing/quick"

	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

var each, metre = Unit{Name: "each", Whole: true}, Unit{Name: "metre"}

func TestWhatIsAQuantity(t *testing.T) {
	for _, c := range []struct {
		text string
		unit Unit
		want string // the quantity, or the refusal's code
		says string
	}{
		{"12", each, "12", ""}, {"0012", each, "12", ""}, {"+7", each, "7", ""}, {"7.000", each, "7", ""},
		{"2.5", metre, "2.5", ""}, {"0.001", metre, "0.001", ""}, {"10000000", each, "10000000", ""},
		{"0", each, "quantity_zero", "at least 1"}, {"0.000", metre, "quantity_zero", "at least 0.001"},
		{"-3", each, "quantity_negative", "-3 is below zero"}, {"2.5", each, "quantity_fraction", "whole units (each)"},
		{"0.0001", metre, "quantity_too_fine", "at most 3"}, {"10000001", each, "quantity_absurd", "10000001"},
		{"", each, "quantity_malformed", "digits"}, {"twelve", each, "quantity_malformed", `"twelve"`}, {"1e3", each,
			"quantity_malformed", ""},
		{"1,5", metre, "quantity_malformed", "with a point"}, {"12 ", each, "quantity_malformed", ""}, {".5", metre,
			"quantity_malformed", ""}, {"NaN", metre, "quantity_malformed", ""},
		{"٣", each, "quantity_malformed", ""}, {strings.Repeat("9", 30), each, "quantity_malformed",
			"…"}, {"999999999999999999", each, "quantity_absurd", ""},
	} {
		got, err := Parse("q", c.text, c.unit)
		if r := refusal.From(err); r != nil {
			if string(r.Code) != c.want || r.Field != "q" || !strings.Contains(r.Sentence, c.says) {
				t.Errorf("%q of %s: %s at %s: %s, want %s saying %q", c.text, c.unit.Name, r.Code, r.Field,
					r.Sentence, c.want, c.says)
			}
		} else if got.String() != c.want {
			t.Errorf("%q of %s is %s, want %s", c.text, c.unit.Name, got, c.want)
		}
	}
}

func TestThousandthsGoThereAndBack(t *testing.T) {
	if err := quick.Check(func(n int64) bool {
		n %= 10_000_000_000
		q := FromThousandths(n)
		return Thousandths(q) == n && q.Equal(q.Truncate(Places))
	}, nil); err != nil {
		t.Error(err)
	}
}

// TestFitsIsTheMost holds the answer to its meaning: so many go in, and one more of
// the smallest part would not.
func TestFitsIsTheMost(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	for range 5000 {
		room, size := decimal.New(r.Int64N(2_000_000)-1000, -3), decimal.New(1+r.Int64N(50_000), -3)
		for _, u := range []Unit{each, metre} {
			n, bound := Fits(room, size, u)
			least := decimal.New(1, 0)
			if !u.Whole {
				least = decimal.New(1, -Places)
			}
			if !bound || n.IsNegative() || room.IsPositive() && n.Mul(size).GreaterThan(room) ||
				n.Add(least).Mul(size).LessThanOrEqual(room) || u.Whole && !n.IsInteger() {
				t.Fatalf("%s of %s each go into %s (%v)", n, size, room, u)
			}
		}
	}
	if _, bound := Fits(decimal.NewFromInt(5), decimal.Zero, each); bound {
		t.Error("what has no size is bounded")
	}
}

func FuzzParse(f *testing.F) {
	f.Add("12")
	f.Add("2.5")
	f.Add("-0")
	f.Fuzz(func(t *testing.T, text string) {
		q, err := Parse("q", text, metre)
		if err == nil && (!q.IsPositive() || q.GreaterThan(Most) || !q.Equal(q.Truncate(Places))) {
			t.Errorf("%q was read as %s", text, q)
		}
		if err != nil && refusal.From(err) == nil {
			t.Errorf("%q fails without a word: %v", text, err)
		}
	})
}
