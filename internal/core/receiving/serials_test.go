package receiving

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

func TestARangeOfSerials(t *testing.T) {
	for _, c := range []struct {
		first, last string
		n           int
		third, code string
	}{
		{"LR-0101", "LR-0124", 24, "LR-0103", ""},
		{"0098", "0103", 6, "0100", ""},
		{"A7", "A7", 1, "", ""},
		{" B-1-08 ", "B-1-11", 4, "B-1-10", ""},
		{"999999999999998", "999999999999999", 2, "", ""},
		{"LR-99", "LR-101", 0, "", "range_malformed"},
		{"LR-9", "XR-12", 0, "", "range_malformed"},
		{"LR-12", "LR-09", 0, "", "range_malformed"},
		{"LR", "LR", 0, "", "range_malformed"},
		{"", "", 0, "", "range_malformed"},
		{"A0001", "A1001", 0, "", "serials_many"},
		{"A0001", "A1000", 1000, "A0003", ""},
		{"a b1", "a b3", 0, "", "serial_malformed"},
		{"ABCDEFGHIJKLMNOPQRST1", "ABCDEFGHIJKLMNOPQRST2", 0, "", "serial_malformed"},
	} {
		got, err := SerialRange("last", c.first, c.last)
		r := refusal.From(err)
		if (r == nil) != (c.code == "") || r != nil && string(r.Code) != c.code || r == nil && len(got) != c.n {
			t.Errorf("%s to %s: %d serials, %v", c.first, c.last, len(got), err)
		}
		if c.third != "" && got[2] != c.third {
			t.Errorf("%s to %s has %s as its third", c.first, c.last, got[2])
		}
	}
}

// TestRangesReadOutListEveryUnitOnce writes serials as ranges for people and reads them
// back.
func TestRangesReadOutListEveryUnitOnce(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 1))
	for range 500 {
		seen := map[string]bool{}
		for range r.IntN(40) {
			seen[fmt.Sprintf("%s%02d", []string{"A-", "B"}[r.IntN(2)], r.IntN(30))] = true
		}
		var codes, back []string
		for c := range seen {
			codes = append(codes, c)
		}
		slices.Sort(codes)
		for part := range strings.SplitSeq(SerialRanges(codes), ", ") {
			first, last, is := strings.Cut(part, " to ")
			switch {
			case part == "":
			case !is:
				back = append(back, part)
			default:
				all, err := SerialRange("", first, last)
				if err != nil {
					t.Fatal(err)
				}
				back = append(back, all...)
			}
		}
		if !slices.Equal(codes, back) {
			t.Fatalf("%v read out as %q", codes, SerialRanges(codes))
		}
	}
}

func TestUnitsNeedOneSerialEach(t *testing.T) {
	for name, c := range map[string]struct {
		tracking, here string
		serials        []string
		code           string
	}{
		"one for each":          {Serial, "2", []string{"A1", "A2"}, ""},
		"too few":               {Serial, "3", []string{"A1", "A2"}, "serials_total"},
		"none":                  {Serial, "1", nil, "serials_total"},
		"one twice":             {Serial, "2", []string{"A1", "A1"}, "serial_twice"},
		"empty":                 {Serial, "1", []string{""}, "serial_malformed"},
		"too long":              {Serial, "1", []string{strings.Repeat("7", 21)}, "serial_malformed"},
		"a letter out of set":   {Serial, "1", []string{"Ü1"}, "serial_malformed"},
		"not asked for":         {None, "1", []string{"A1"}, "serial_unwanted"},
		"asked on the way out":  {SerialOut, "1", []string{"A1"}, "serial_unwanted"},
		"none on the way in":    {SerialOut, "5", nil, ""},
		"as long as a label":    {Serial, "1", []string{strings.Repeat("7", 20)}, ""},
		"case tells them apart": {Serial, "2", []string{"a1", "A1"}, ""},
	} {
		l := Line{Field: "lines[0]", Codes: Codes{SKU: "SP-150"}, Tracking: c.tracking, Unit: each, Here: dec(c.here),
			Serials: c.serials}
		r := refusal.From(l.Check())
		if (r == nil) != (c.code == "") || r != nil && (string(r.Code) != c.code || r.Field != "lines[0].serials") {
			t.Errorf("%s: %+v", name, r)
		}
	}
}

func TestLotsAreNamedByRule(t *testing.T) {
	day := time.Date(2027, 2, 3, 12, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		rule       LotRule
		n          int64
		want, code string
	}{
		{"", 7, "27034-007", ""},
		{"{SUP}-{YY}{DDD}-{N3}", 12, "TAR-27034-012", ""},
		{"{YYYY}{MM}{DD}/{N}", 1234, "20270203/1234", ""},
		{"L{N6}", 5, "L000005", ""},
		{"{SUP}", 1, "", "lot_rule_malformed"},
		{"{N} {WEEK}", 1, "", "lot_rule_malformed"},
		{"{N", 1, "", "lot_rule_malformed"},
		{"{N7}", 1, "", "lot_rule_malformed"},
		{"A very long lot name {N}", 1, "", "lot_rule_malformed"},
	} {
		got, err := c.rule.Make("f", "TAR", day, c.n)
		if r := refusal.From(err); got != c.want || (r == nil) != (c.code == "") || r != nil &&
			string(r.Code) != c.code {
			t.Errorf("%q makes %q, %v", c.rule, got, err)
		}
	}
}

// TestTwoMadeLotsNeverHaveOneName holds for any rule that is taken.
func TestTwoMadeLotsNeverHaveOneName(t *testing.T) {
	day := time.Date(2027, 2, 3, 0, 0, 0, 0, time.UTC)
	for _, rule := range []LotRule{"", "{N}", "{N1}", "{SUP}{N2}", "{N3}-{DD}"} {
		seen := map[string]bool{}
		for n := int64(1); n <= 3000; n++ {
			code, err := rule.Make("f", "T", day, n)
			if err != nil || seen[code] {
				t.Fatalf("%q: lot %d is %s again (%v)", rule, n, code, err)
			}
			seen[code] = true
		}
	}
}

func TestCarriageIsSpreadByValueOrWeight(t *testing.T) {
	// Common practice, no source: 90 over lines worth 600, 300 and 0, and of 10, 20 and
	// 60 kg.
	lines := []Costed{{dec("10"), dec("60"), dec("1")}, {dec("20"), dec("15"), dec("1")},
		{dec("4"), dec("0"), dec("15")}}
	for _, c := range []struct{ by, shares string }{{"value", "60 30 0"}, {"weight", "10 20 60"}} {
		var got []string
		for _, f := range SpreadFreight(dec("90"), c.by, lines) {
			got = append(got, f.Share.String())
		}
		if strings.Join(got, " ") != c.shares {
			t.Errorf("by %s: %v, want %s", c.by, got, c.shares)
		}
	}
	if f := SpreadFreight(dec("10"), "value", []Costed{{dec("3"), dec("0"), dec("0")},
		{dec("1"), dec("0"), dec("0")}}); f[0].Share.String() != "7.5" || f[0].Each.String() != "2.5" {
		t.Errorf("worth nothing: %v", f)
	}
}

// TestSpreadCarriageComesToTheCarriage holds for any order: the shares add up to the
// hundredth, and each is within one of its exact part.
func TestSpreadCarriageComesToTheCarriage(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 11))
	for range 3000 {
		lines := make([]Costed, 1+r.IntN(8))
		whole := decimal.Zero
		for i := range lines {
			lines[i] = Costed{decimal.NewFromInt(1 + r.Int64N(500)), decimal.New(r.Int64N(100_000), -2),
				decimal.New(r.Int64N(50_000), -3)}
			whole = whole.Add(lines[i].Quantity.Mul(lines[i].WeightKg))
		}
		freight := decimal.New(r.Int64N(100_000), -2)
		sum := decimal.Zero
		for i, f := range SpreadFreight(freight, "weight", lines) {
			sum = sum.Add(f.Share)
			if whole.IsPositive() {
				exact := freight.Mul(lines[i].Quantity.Mul(lines[i].WeightKg)).Div(whole)
				if f.Share.Sub(exact).Abs().GreaterThanOrEqual(decimal.New(1, -2)) {
					t.Fatalf("line %d of %v bears %s of %s, exactly %s", i, lines, f.Share, freight, exact)
				}
			}
		}
		if !sum.Equal(freight) {
			t.Fatalf("%s is spread as %s over %v", freight, sum, lines)
		}
	}
}
