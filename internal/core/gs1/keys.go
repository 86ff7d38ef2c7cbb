package gs1

import (
	"fmt"
	"strings"

	"lanternrow/internal/core/refusal"
)

// CheckDigit computes the last digit of a GS1 key from the digits before it: the
// sum of the digits weighted 3 and 1 alternately from the right, filled up to ten
// (GS1 General Specifications, section 7.9.1).
func CheckDigit(digits string) byte {
	sum := 0
	for i := range len(digits) {
		weight := 1
		if (len(digits)-i)%2 == 1 {
			weight = 3
		}
		sum += weight * int(digits[i]-'0')
	}
	return byte('0' + (10-sum%10)%10)
}

func checked(digits string) bool {
	n := len(digits) - 1
	return n > 0 && numeric(digits) && digits[n] == CheckDigit(digits[:n])
}

// GTIN reads a GTIN of 8, 12, 13 or 14 digits and returns it with 14, filled with
// leading zeros, as it is kept.
func GTIN(field, digits string) (string, error) {
	switch {
	case !numeric(digits):
		return "", refusal.New(refusal.GTINMalformed, field, "%q is not a GTIN: it has characters other than digits.",
			digits)
	case len(digits) != 8 && len(digits) != 12 && len(digits) != 13 && len(digits) != 14:
		return "", refusal.New(refusal.GTINMalformed, field, "%s has %d digits. A GTIN has 8, 12, 13 or 14.", digits,
			len(digits))
	case !checked(digits):
		return "", checkDigitRefusal(field, "GTIN", digits)
	}
	return strings.Repeat("0", 14-len(digits)) + digits, nil
}

// SSCC reads an 18-digit Serial Shipping Container Code.
func SSCC(field, digits string) (string, error) {
	switch {
	case len(digits) != 18 || !numeric(digits):
		return "", refusal.New(refusal.SSCCMalformed, field, "%q is not a carton number. An SSCC has 18 digits.",
			digits)
	case !checked(digits):
		return "", checkDigitRefusal(field, "SSCC", digits)
	}
	return digits, nil
}

// MakeSSCC builds the SSCC with the extension digit, company prefix and serial
// reference given; the reference is filled up with zeros to 16 digits in all.
func MakeSSCC(extension int, prefix string, reference int64) (string, error) {
	room := 16 - len(prefix)
	ref := fmt.Sprintf("%0*d", room, reference)
	if extension < 0 || extension > 9 || !numeric(prefix) || room < 1 || len(ref) > room || reference < 0 {
		return "", refusal.New(refusal.SSCCRange, "reference",
			"No SSCC can be made of extension %d, prefix %s and reference %d.", extension, prefix, reference)
	}
	body := fmt.Sprintf("%d%s%s", extension, prefix, ref)
	return body + string(CheckDigit(body)), nil
}

func checkDigitRefusal(field, what, digits string) error {
	n := len(digits) - 1
	return refusal.New(refusal.CheckDigit, field,
		"%s %s ends in %c, but its check digit would be %c. Scan it again, or read the number from the label.",
		what, digits, digits[n], CheckDigit(digits[:n])).With("expected", string(CheckDigit(digits[:n])))
}

func numeric(s string) bool {
	for i := range len(s) {
		if s[i] < '0' || s[i] > '9' {
			return false
		}
	}
	return s != ""
}
