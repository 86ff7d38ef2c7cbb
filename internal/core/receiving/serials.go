package receiving

import (
	"strconv"
	"strings"
	"time"

	"lanternrow/internal/core/gs1"
	"lanternrow/internal/core/refusal"
)

// mostSerials is how many serials one range may make, and one line may have.
const mostSerials = 1000

// checkSerials asks for one serial a unit where units are known from arrival on, and
// for none elsewhere.
func (l Line) checkSerials() error {
	field := l.Field + ".serials"
	if l.Tracking != Serial {
		if len(l.Serials) > 0 {
			return refusal.New(refusal.SerialUnwanted, field, "%s needs no serials when it comes in. Leave them out.",
				l.SKU)
		}
		return nil
	}
	for _, code := range l.Serials {
		if err := l.CheckTracked(field, "serial", code); err != nil {
			return err
		}
	}
	if err := CheckSerials(field, l.SKU, l.Serials); err != nil {
		return err
	}
	if n := int64(len(l.Serials)); !l.Here.IsInteger() || n != l.Here.IntPart() {
		return refusal.New(refusal.SerialsTotal, field,
			"%s is known unit by unit: %d serials are here for %s units. Scan one for each.", l.SKU, n, l.Here).With("serials", n)
	}
	return nil
}

// CheckSerials refuses serials that no label can carry, and any that stands twice.
func CheckSerials(field, sku string, codes []string) error {
	if len(codes) > mostSerials {
		return refusal.New(refusal.SerialsMany, field,
			"%s: %d serials are too many for one line. Receive %d at a time.", sku, len(codes), mostSerials)
	}
	seen := map[string]bool{}
	for _, code := range codes {
		// The GS1 General Specifications' AI (21): 1 to 20 characters of set 82.
		if err := gs1.CheckValue("21", code, time.Time{}); err != nil {
			return refusal.New(refusal.SerialMalformed, field, "%q is not a serial: %s. Scan the label again.",
				clip(code), err)
		}
		if seen[code] {
			return refusal.New(refusal.SerialTwice, field,
				"Serial %s of %s stands twice. Each unit has its own: scan the other one.", code, sku).With("serial", code)
		}
		seen[code] = true
	}
	return nil
}

// SerialRange lists the serials from first to last: the same letters, and digits at the
// end that count up at the same width.
func SerialRange(field, first, last string) ([]string, error) {
	first, last = strings.TrimSpace(first), strings.TrimSpace(last)
	head, from := cutNumber(first)
	other, to := cutNumber(last)
	a, err1 := strconv.ParseInt(from, 10, 64)
	b, err2 := strconv.ParseInt(to, 10, 64)
	switch {
	case err1 != nil || err2 != nil || head != other || len(from) != len(to):
		return nil, refusal.New(refusal.RangeMalformed, field,
			"%q to %q is not a range. Both begin alike and end in as many digits, such as LR-0101 to LR-0124.", clip(first), clip(last))
	case b < a:
		return nil, refusal.New(refusal.RangeMalformed, field, "%s comes after %s. Give the lower one first.", first,
			last)
	case b-a >= mostSerials:
		return nil, refusal.New(refusal.SerialsMany, field,
			"%s to %s are %d serials, and at most %d are made at once.", first, last, b-a+1, mostSerials)
	}
	out := make([]string, 0, b-a+1)
	for n := a; n <= b; n++ {
		digits := strconv.FormatInt(n, 10)
		out = append(out, head+strings.Repeat("0", len(from)-len(digits))+digits)
	}
	return out, CheckSerials(field, "the range", out)
}

// cutNumber parts a serial from the digits at its end, no more than a number holds.
func cutNumber(code string) (head, digits string) {
	at := len(code)
	for at > 0 && code[at-1] >= '0' && code[at-1] <= '9' && len(code)-at < 15 {
		at--
	}
	return code[:at], code[at:]
}

// SerialRanges words serials as people read them out: runs of more than two as "from to".
func SerialRanges(codes []string) string {
	var words []string
	for i := 0; i < len(codes); {
		j := i
		for j+1 < len(codes) && follows(codes[j], codes[j+1]) {
			j++
		}
		switch {
		case j-i >= 2:
			words = append(words, codes[i]+" to "+codes[j])
		default:
			words = append(words, codes[i:j+1]...)
		}
		i = j + 1
	}
	return strings.Join(words, ", ")
}

func follows(code, next string) bool {
	head, digits := cutNumber(code)
	head2, digits2 := cutNumber(next)
	a, err1 := strconv.ParseInt(digits, 10, 64)
	b, err2 := strconv.ParseInt(digits2, 10, 64)
	return err1 == nil && err2 == nil && head == head2 && len(digits) == len(digits2) && b == a+1
}

func clip(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}
