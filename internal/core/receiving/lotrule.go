package receiving

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"lanternrow/internal/core/refusal"
)

// A LotRule is how lots get their codes where the supplier gives none: text with
// marks in braces, such as {SUP}-{YY}{DDD}-{N3}.
type LotRule string

// DefaultLotRule is the year, the day of the year, and a number of three digits.
const DefaultLotRule LotRule = "{YY}{DDD}-{N3}"

// LotRuleHelp says which marks there are.
const LotRuleHelp = "{SUP} the supplier's code, {YYYY} {YY} {MM} {DD} the date, {DDD} the day of the year, {N} to " +
	"{N6} a running number of so many digits"

// Make writes the code of the n-th lot that is made, on a day, of a supplier's goods.
func (r LotRule) Make(field, supplier string, day time.Time, n int64) (string, error) {
	if r == "" {
		r = DefaultLotRule
	}
	var out strings.Builder
	counted := false
	rest := string(r)
	for rest != "" {
		head, tail, found := strings.Cut(rest, "{")
		out.WriteString(head)
		if !found {
			break
		}
		mark, after, closed := strings.Cut(tail, "}")
		text, counts, known := lotMark(mark, supplier, day, n)
		if !closed || !known {
			return "", refusal.New(refusal.LotRuleMalformed, field,
				"The lot rule %q has a mark that is not known. There are: %s.", clip(string(r)), LotRuleHelp)
		}
		counted = counted || counts
		out.WriteString(text)
		rest = after
	}
	if !counted {
		return "", refusal.New(refusal.LotRuleMalformed, field,
			"The lot rule %q has no running number, so two lots would be called the same. Add {N}.", clip(string(r)))
	}
	if out.Len() > 20 {
		return "", refusal.New(refusal.LotRuleMalformed, field,
			"The lot rule %q makes %s, which has %d characters; a lot may have at most 20.", clip(string(r)), out.String(), out.Len())
	}
	return out.String(), nil
}

func lotMark(mark, supplier string, day time.Time, n int64) (text string, counts, known bool) {
	switch mark {
	case "SUP":
		return supplier, false, true
	case "YYYY":
		return day.Format("2006"), false, true
	case "YY":
		return day.Format("06"), false, true
	case "MM":
		return day.Format("01"), false, true
	case "DD":
		return day.Format("02"), false, true
	case "DDD":
		return fmt.Sprintf("%03d", day.YearDay()), false, true
	case "N":
		return strconv.FormatInt(n, 10), true, true
	}
	if digits, is := strings.CutPrefix(mark, "N"); is && len(digits) == 1 && digits >= "1" && digits <= "6" {
		return fmt.Sprintf("%0*d", int(digits[0]-'0'), n), true, true
	}
	return "", false, false
}
