package gs1

import (
	"fmt"
	"strings"
	"time"
)

const (
	set82 = `!"%&'()*+,-./0123456789:;<=>?ABCDEFGHIJKLMNOPQRSTUVWXYZ_abcdefghijklmnopqrstuvwxyz`
	set39 = `#-/0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ`
	set64 = `-0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ_abcdefghijklmnopqrstuvwxyz`
	set32 = `23456789ABCDEFGHJKLMNPQRSTUVWXYZ`
)

// check tests a value against the identifier's parts: lengths, character sets and
// the checks of each.
func (id *Identifier) check(value string, today time.Time) error {
	if n := id.minLength(); len(value) < n {
		return fmt.Errorf("it has %d characters and needs at least %d", len(value), n)
	}
	if n := id.maxLength(); len(value) > n {
		return fmt.Errorf("it has %d characters and may have at most %d", len(value), n)
	}
	return id.each(value, func(p part, piece string) error {
		if len(piece) < p.min {
			return fmt.Errorf("%q has %d characters and needs %d", piece, len(piece), p.min)
		}
		if err := inSet(p.set, piece); err != nil {
			return err
		}
		for _, name := range p.checks {
			if err := checks[name](piece, today); err != nil {
				return err
			}
		}
		return nil
	})
}

// each takes a value apart and hands fn each part that is there, until fn fails.
func (id *Identifier) each(value string, fn func(p part, piece string) error) error {
	for _, p := range id.parts {
		piece := value[:min(p.max, len(value))]
		value = value[len(piece):]
		if piece == "" && p.optional {
			continue
		}
		if err := fn(p, piece); err != nil {
			return err
		}
	}
	return nil
}

func inSet(set byte, s string) error {
	allowed := map[byte]string{'N': "0123456789", 'X': set82, 'Y': set39, 'Z': set64}[set]
	if set == 'Z' {
		body := strings.TrimRight(s, "=")
		if pad := len(s) - len(body); pad > 0 && (pad > 2 || len(s)%4 != 0 && (len(body)+pad)%3 != 0) {
			return fmt.Errorf("%q is not padded as base 64", s)
		}
		s = body
	}
	for i := range len(s) {
		if strings.IndexByte(allowed, s[i]) < 0 {
			return fmt.Errorf("the character %q may not stand in it", s[i])
		}
	}
	return nil
}

// checkDigitError says that a value's check digits are not those of its others.
type checkDigitError string

func (e checkDigitError) Error() string { return string(e) }

// checks are the value checks that identifiers.txt names.
var checks = map[string]func(string, time.Time) error{
	"csum": func(s string, _ time.Time) error {
		if !checked(s) {
			return checkDigitError(fmt.Sprintf("%s ends in %c, but its check digit would be %c",
				s, s[len(s)-1], CheckDigit(s[:len(s)-1])))
		}
		return nil
	},
	"csumalpha":     func(s string, _ time.Time) error { return checkPair(s) },
	"gcppos1":       func(s string, _ time.Time) error { return companyPrefix(s) },
	"gcppos2":       func(s string, _ time.Time) error { return companyPrefix(s[1:]) },
	"iso3166":       inList("iso3166", "country"),
	"iso3166alpha2": inList("iso3166alpha2", "country"),
	"iso4217":       inList("iso4217", "currency"),
	"packagetype":   inList("packagetype", "package type"),
	"mediatype":     inList("aidcmediatype", "media type"),
	"iso3166999": func(s string, t time.Time) error {
		return unless(s == "999", inList("iso3166", "country"), s,
			t)
	},
	"iso5218":      oneOf("0129", "0, 1, 2 or 9"),
	"yesno":        oneOf("01", "0 or 1"),
	"winding":      oneOf("019", "0, 1 or 9"),
	"zero":         oneOf("0", "0"),
	"hyphen":       oneOf("-", "a hyphen"),
	"importeridx":  oneOf(set64, "one letter, digit, hyphen or underscore"),
	"nonzero":      when(func(s string) bool { return strings.Trim(s, "0") == "" }, "it may not be zero"),
	"nozeroprefix": when(func(s string) bool { return len(s) > 1 && s[0] == '0' }, "it may not begin with 0"),
	"hasnondigit":  when(numeric, "it needs a character that is not a digit"),
	"hh":           below(0, 24, "hour"),
	"mi":           below(0, 60, "minute"),
	"ss":           below(0, 60, "second"),
	"hhmi": func(s string, t time.Time) error {
		return first(below(0, 24, "hour")(s, t), below(2, 60, "minute")(s, t))
	},
	"latitude":       when(func(s string) bool { return s > "1800000000" }, "it is beyond 180 degrees"),
	"longitude":      when(func(s string) bool { return s > "3600000000" }, "it is beyond 360 degrees"),
	"yymmdd":         func(s string, t time.Time) error { _, err := Date(s, false, t); return err },
	"yymmd0":         func(s string, t time.Time) error { _, err := Date(s, true, t); return err },
	"yyyymmdd":       func(s string, _ time.Time) error { return longDate(s) },
	"pcenc":          func(s string, _ time.Time) error { return percentEncoded(s) },
	"pieceoftotal":   func(s string, _ time.Time) error { return pieceOfTotal(s[:len(s)/2], s[len(s)/2:]) },
	"posinseqslash":  func(s string, _ time.Time) error { return position(s) },
	"iban":           func(s string, _ time.Time) error { return iban(s) },
	"couponcode":     func(s string, _ time.Time) error { return inSet('N', s) },
	"couponposoffer": func(s string, _ time.Time) error { return inSet('N', s) },
}

func inList(list, what string) func(string, time.Time) error {
	return func(s string, _ time.Time) error {
		if !codelists[list][s] {
			return fmt.Errorf("%s is not a known %s", s, what)
		}
		return nil
	}
}

func oneOf(allowed, words string) func(string, time.Time) error {
	return func(s string, _ time.Time) error {
		if len(s) != 1 || !strings.Contains(allowed, s) {
			return fmt.Errorf("%q must be %s", s, words)
		}
		return nil
	}
}

func when(bad func(string) bool, words string) func(string, time.Time) error {
	return func(s string, _ time.Time) error {
		if bad(s) {
			return fmt.Errorf("%s: %s", s, words)
		}
		return nil
	}
}

func unless(fine bool, check func(string, time.Time) error, s string, t time.Time) error {
	if fine {
		return nil
	}
	return check(s, t)
}

func below(at, limit int, what string) func(string, time.Time) error {
	return func(s string, _ time.Time) error {
		if n := int(s[at]-'0')*10 + int(s[at+1]-'0'); n >= limit {
			return fmt.Errorf("there is no %s %d", what, n)
		}
		return nil
	}
}

func first(errs ...error) error {
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

func companyPrefix(s string) error {
	if len(s) < 2 || !numeric(s[:2]) {
		return fmt.Errorf("%q does not begin with a GS1 Company Prefix", s)
	}
	return nil
}

func longDate(s string) error {
	if len(s) != 8 {
		return fmt.Errorf("%q is not a date of eight digits", s)
	}
	_, err := dateOf(digits(s[:4]), digits(s[4:6]), digits(s[6:]), false)
	return err
}

func percentEncoded(s string) error {
	for i := 0; i < len(s); i++ {
		if s[i] == '%' && (i+2 >= len(s) || !hex(s[i+1]) || !hex(s[i+2])) {
			return fmt.Errorf("%q has a %% that no two hexadecimal digits follow", s)
		}
	}
	return nil
}

func hex(c byte) bool { return strings.IndexByte("0123456789ABCDEFabcdef", c) >= 0 }

func pieceOfTotal(piece, total string) error {
	if len(piece) != len(total) || strings.Trim(piece, "0") == "" || piece > total {
		return fmt.Errorf("piece %s of %s cannot be", piece, total)
	}
	return nil
}

func position(s string) error {
	pos, end, ok := strings.Cut(s, "/")
	if !ok || !numeric(pos) || !numeric(end) || pos[0] == '0' || end[0] == '0' ||
		len(pos) > len(end) || len(pos) == len(end) && pos > end {
		return fmt.Errorf("%q is not a position and an end, such as 2/5", s)
	}
	return nil
}

// iban checks an International Bank Account Number by ISO 13616's remainder of 97.
func iban(s string) error {
	if len(s) <= 4 {
		return fmt.Errorf("%s is too short for an IBAN", s)
	}
	remainder := 0
	for _, c := range []byte(s[4:] + s[:4]) {
		switch {
		case c >= '0' && c <= '9':
			remainder = (remainder*10 + int(c-'0')) % 97
		case c >= 'A' && c <= 'Z':
			remainder = (remainder*100 + int(c-'A') + 10) % 97
		default:
			return fmt.Errorf("the character %q may not stand in an IBAN", c)
		}
	}
	if remainder != 1 {
		return checkDigitError(fmt.Sprintf("the check digits of IBAN %s are wrong", s))
	}
	return inList("iso3166alpha2", "country")(s[:2], time.Time{})
}

var primes = firstPrimes(83)

func firstPrimes(n int) (out []int) {
next:
	for c := 2; len(out) < n; c++ {
		for _, p := range out {
			if c%p == 0 {
				continue next
			}
		}
		out = append(out, c)
	}
	return out
}

// checkPair checks the two closing characters of a GMN (GS1 General
// Specifications, section 7.9.5): the 82-set values weighted by primes from the
// right, modulo 1021, written in base 32.
func checkPair(s string) error {
	if len(s) < 2 {
		return fmt.Errorf("%q is too short for a pair of check characters", s)
	}
	body, pair := s[:len(s)-2], s[len(s)-2:]
	if len(body) > len(primes) {
		return fmt.Errorf("%q is too long for a pair of check characters", s)
	}
	sum := 0
	for i := range len(body) {
		sum += strings.IndexByte(set82, body[i]) * primes[len(body)-1-i]
	}
	sum %= 1021
	want := string([]byte{set32[sum>>5], set32[sum&31]})
	if pair != want {
		return fmt.Errorf("%s ends in %s, but its check characters would be %s", s, pair, want)
	}
	return nil
}
