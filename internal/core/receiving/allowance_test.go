package receiving

import (
	"math/rand/v2"
	"strings"
	"testing"

	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

var (
	each  = measure.Unit{Name: "each", Whole: true}
	metre = measure.Unit{Name: "metre"}
)

func dec(s string) decimal.Decimal { return decimal.RequireFromString(s) }

// The cases of common practice (no source): 5 % and 5 % on a line of 100, and on a
// line of 30 in whole units.
func TestAllowancesOfCommonPractice(t *testing.T) {
	for _, c := range []struct {
		ordered, already, here, short, over string
		unit                                measure.Unit
		closes                              bool
		cancelled, open, most, least        string
	}{
		{"100", "0", "96", "5", "5", each, true, "4", "0", "105", "95"},
		{"100", "0", "94", "5", "5", each, false, "0", "6", "105", "95"},
		{"100", "0", "103", "5", "5", each, true, "0", "0", "105", "95"},
		{"100", "0", "105", "5", "5", each, true, "0", "0", "105", "95"},
		{"100", "0", "106", "5", "5", each, true, "0", "0", "105", "95"},
		{"30", "0", "29", "5", "5", each, true, "1", "0", "31", "29"},
		{"30", "0", "28", "5", "5", each, false, "0", "2", "31", "29"},
		{"30", "0", "31", "5", "5", each, true, "0", "0", "31", "29"},
		// Earlier receipts count.
		{"100", "60", "45", "5", "5", each, true, "0", "0", "105", "95"},
		{"100", "60", "35", "5", "5", each, true, "5", "0", "105", "95"},
		{"100", "60", "46", "5", "5", each, true, "0", "0", "105", "95"},
		// No allowance at all; and one that lets anything pass.
		{"12", "0", "11", "0", "0", each, false, "0", "1", "12", "12"},
		{"12", "0", "1", "100", "100", each, true, "11", "0", "24", "0"},
		// Cloth: thousandths of a metre.
		{"33.333", "0", "32.667", "2", "2", metre, true, "0.666", "0", "33.999", "32.667"},
		{"33.333", "0", "32.666", "2", "2", metre, false, "0", "0.667", "33.999", "32.667"},
	} {
		in := Incoming{Ordered: dec(c.ordered), Already: dec(c.already), Here: dec(c.here),
			Allowance: Allowance{dec(c.short), dec(c.over)}, Unit: c.unit}
		s := in.Settle()
		if s.Closes != c.closes || s.Cancelled.String() != c.cancelled || s.Open.String() != c.open ||
			s.Most.String() != c.most || s.Least.String() != c.least {
			t.Errorf("%s and %s of %s at %s/%s: %+v", c.already, c.here, c.ordered, c.short, c.over, s)
		}
		over := dec(c.already).Add(dec(c.here)).GreaterThan(dec(c.most))
		r := refusal.From(s.Refuse("q", "X", in))
		if over != (r != nil) {
			t.Errorf("%s of %s is refused: %v", c.here, c.ordered, r)
		}
		if r != nil && (r.Code != "over_allowance" || !strings.Contains(r.Sentence,
			"at most "+dec(c.most).Sub(dec(c.already)).String())) {
			t.Errorf("the refusal does not name the most that may come: %s", r.Sentence)
		}
	}
}

// TestASettlementAddsUp holds for any line: nothing is lost between received,
// cancelled and open; rounding never helps the supplier; and receiving in two goes
// comes to the same as in one.
func TestASettlementAddsUp(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	for range 20_000 {
		u, scale := each, int32(0)
		if r.IntN(2) == 0 {
			u, scale = metre, -3
		}
		q := func(n int64) decimal.Decimal { return decimal.New(r.Int64N(n), scale) }
		in := Incoming{Ordered: q(100_000).Add(decimal.New(1, scale)), Already: q(60_000), Here: q(60_000),
			Allowance: Allowance{decimal.New(r.Int64N(10_001), -2), decimal.New(r.Int64N(10_001), -2)}, Unit: u}
		s := in.Settle()
		missing := decimal.Max(in.Ordered.Sub(s.Received), decimal.Zero)
		if !s.Cancelled.Add(s.Open).Equal(missing) || s.Cancelled.IsPositive() && s.Open.IsPositive() || s.Closes &&
			s.Open.IsPositive() || !s.Closes && s.Cancelled.IsPositive() {
			t.Fatalf("%+v settles as %+v", in, s)
		}
		// Where the rest follows nothing is cancelled, and what is whole closes all the same.
		in.Follows = true
		if f := in.Settle(); !f.Cancelled.IsZero() || !f.Open.Equal(missing) || f.Closes != (s.Closes && missing.IsZero()) {
			t.Fatalf("%+v, the rest following, settles as %+v", in, f)
		}
		in.Follows = false
		exactMost := in.Ordered.Mul(hundred.Add(in.Over)).Div(hundred)
		exactLeast := in.Ordered.Mul(hundred.Sub(in.Short)).Div(hundred)
		if s.Most.GreaterThan(exactMost) || s.Least.LessThan(exactLeast) || s.Least.GreaterThan(in.Ordered) ||
			s.Most.LessThan(in.Ordered) || u.Whole && !(s.Most.IsInteger() && s.Least.IsInteger()) {
			t.Fatalf("%+v: from %s to %s, exactly %s to %s", in, s.Least, s.Most, exactLeast, exactMost)
		}
		if in.Already.LessThanOrEqual(s.Most) {
			first := in
			first.Already, first.Here = decimal.Zero, in.Already
			second := in
			if first.Settle().Over.IsPositive() != in.Already.GreaterThan(s.Most) ||
				second.Settle().Over.IsPositive() != s.Received.GreaterThan(s.Most) {
				t.Fatalf("%+v in two goes differs from one", in)
			}
		}
	}
}

func TestAShareIsSetAsideForInspection(t *testing.T) {
	for _, c := range []struct {
		quantity, share string
		unit            measure.Unit
		want            string
	}{
		{"100", "5", each, "5"}, {"42", "5", each, "3"}, {"1", "5", each, "1"}, {"10", "0", each, "0"}, {"10", "100",
			each, "10"},
		{"33.333", "10", metre, "3.334"}, {"0.001", "50", metre, "0.001"},
	} {
		if got := Inspect(dec(c.quantity), dec(c.share), c.unit); got.String() != c.want {
			t.Errorf("%s at %s %%: %s, want %s", c.quantity, c.share, got, c.want)
		}
	}
}
