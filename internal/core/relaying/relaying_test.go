package relaying

import (
	"testing"
	"testing/quick"

	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

// TestHowMuchMovesOn has check values worked by hand (common practice, no source).
func TestHowMuchMovesOn(t *testing.T) {
	for name, c := range map[string]struct {
		rule   Rule
		in     Received
		onward string
	}{
		"all of it":                     {Rule{How: All}, Received{Quantity: d("24"), Whole: true}, "24"},
		"all but what is promised here": {Rule{How: All}, Received{Quantity: d("24"), Promised: d("5"), Whole: true}, "19"},
		"more is promised than came":    {Rule{How: All}, Received{Quantity: d("4"), Promised: d("5"), Whole: true}, "0"},
		"up to its target":              {Rule{How: Target}, Received{Quantity: d("24"), Target: d("30"), There: d("18"), Whole: true}, "12"},
		"it has its target":             {Rule{How: Target}, Received{Quantity: d("24"), Target: d("30"), There: d("31"), Whole: true}, "0"},
		"it owes more than it has":      {Rule{How: Target}, Received{Quantity: d("24"), Target: d("30"), There: d("-6"), Whole: true}, "24"},
		"a share, rounded down":         {Rule{How: Share, SharePct: d("33")}, Received{Quantity: d("10"), Whole: true}, "3"},
		"a share of metres":             {Rule{How: Share, SharePct: d("33")}, Received{Quantity: d("10")}, "3.3"},
		"a share that is promised":      {Rule{How: Share, SharePct: d("50")}, Received{Quantity: d("10"), Promised: d("8"), Whole: true}, "2"},
	} {
		got, err := c.rule.Onward(c.in)
		if err != nil || !got.Onward.Equal(d(c.onward)) || !got.Onward.Add(got.Stays).Equal(c.in.Quantity) {
			t.Errorf("%s: %+v, %v", name, got, err)
		}
	}
	for _, rule := range []Rule{{How: "half"}, {How: Share, SharePct: d("101")}, {How: Share, SharePct: d("-1")}} {
		if _, err := rule.Onward(Received{Quantity: d("1")}); refusal.From(err) == nil {
			t.Errorf("%+v is taken", rule)
		}
	}
}

// TestNoMoreMovesOnThanIsFree holds for any receipt and rule.
func TestNoMoreMovesOnThanIsFree(t *testing.T) {
	n := func(v uint16) decimal.Decimal { return decimal.New(int64(v), -1) }
	err := quick.Check(func(quantity, promised, target, there uint16, share uint8, how uint8, whole bool) bool {
		rule := Rule{How: []How{All, Target, Share}[how%3], SharePct: decimal.NewFromInt(int64(share % 101))}
		in := Received{Quantity: n(quantity), Promised: n(promised), Target: n(target), There: n(there), Whole: whole}
		got, err := rule.Onward(in)
		free := decimal.Max(in.Quantity.Sub(in.Promised), decimal.Zero)
		return err == nil && !got.Onward.IsNegative() && got.Onward.LessThanOrEqual(free) &&
			got.Onward.Add(got.Stays).Equal(in.Quantity) && (!whole || got.Onward.IsInteger())
	}, nil)
	if err != nil {
		t.Error(err)
	}
}

// TestWhatASiteHasToSpare has check values of the trade (common practice, no source).
func TestWhatASiteHasToSpare(t *testing.T) {
	for name, c := range map[string]struct {
		free, target string
		whole        bool
		spare        string
	}{
		"beyond its target":             {"20", "6", true, "14"},
		"just its target":               {"6", "6", true, "0"},
		"below it":                      {"4", "6", true, "0"},
		"promised more than there is":   {"-3", "0", true, "0"},
		"none is set":                   {"5", "0", true, "5"},
		"metres":                        {"7.75", "2.5", false, "5.25"},
		"whole units of a part of them": {"7.75", "2.5", true, "5"},
	} {
		if got := Spare(decimal.RequireFromString(c.free), decimal.RequireFromString(c.target), c.whole); got.String() != c.spare {
			t.Errorf("%s: %s are to spare, not %s", name, got, c.spare)
		}
	}
}
