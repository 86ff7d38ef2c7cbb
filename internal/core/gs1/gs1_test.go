package gs1

import (
	"fmt"
	"strings"
	"testing"
	"testing/quick"
	"time"

	"lanternrow/internal/core/refusal"
)

func TestDatesSlideAroundTodayAndDayZeroIsTheLast(t *testing.T) {
	// Worked cases of the GS1 General Specifications' rule, section 7.12.
	for _, c := range []struct {
		today, yymmdd, want string
		open                bool
	}{
		{"2026-11-23", "270100", "2027-01-31", true}, {"2026-11-23", "280200", "2028-02-29", true}, {"2026-11-23",
			"270200", "2027-02-28", true},
		{"2026-11-23", "761231", "2076-12-31", false}, {"2026-11-23", "770101", "1977-01-01", false}, {"2026-11-23",
			"990101", "1999-01-01", false},
		{"2026-11-23", "000229", "2000-02-29", false}, {"2051-06-01", "010101", "2101-01-01", false}, {"2051-06-01",
			"020101", "2002-01-01", false},
		{"2098-06-01", "480101", "2148-01-01", false}, {"2026-11-23", "270100", "", false}, {"2026-11-23", "271301",
			"", true}, {"2026-11-23", "270230", "", true},
	} {
		today, _ := time.Parse(time.DateOnly, c.today)
		got, err := Date(c.yymmdd, c.open, today)
		if c.want == "" && err == nil || c.want != "" && (err != nil || got.Format(time.DateOnly) != c.want) {
			t.Errorf("on %s, %s is %s (%v), want %q", c.today, c.yymmdd, got.Format(time.DateOnly), err, c.want)
		}
	}
}

func TestCheckDigitsOfTheStandardsOwnExamples(t *testing.T) {
	// GS1 General Specifications, section 7.9.1: 6291041500213 and 376104250021234569.
	for body, want := range map[string]byte{"629104150021": '3', "37610425002123456": '9'} {
		if got := CheckDigit(body); got != want {
			t.Errorf("check digit of %s is %c, want %c", body, got, want)
		}
	}
}

func TestOneWrongDigitIsAlwaysFound(t *testing.T) {
	found := func(seed uint64, at, by uint8) bool {
		body := []byte(strings.Repeat("0", 13))
		for i := range body {
			body[i] = byte('0' + seed%10)
			seed /= 10
		}
		gtin := append(body, CheckDigit(string(body)))
		i := int(at) % 14
		gtin[i] = '0' + (gtin[i]-'0'+1+by%9)%10
		_, err := GTIN("gtin", string(gtin))
		r := refusal.From(err)
		return r != nil && r.Code == "check_digit"
	}
	if err := quick.Check(found, nil); err != nil {
		t.Error(err)
	}
}

func TestRefusalsSayWhatIsWrong(t *testing.T) {
	for scan, want := range map[string][2]string{
		"(01)09521234543214":            {"check_digit", "check digit would be 3"},
		"(10)LOT1":                      {"gs1_required", "needs (01)"},
		"(01)09521234543213(37)5":       {"gs1_excluded", "may not stand together"},
		"(01)09521234543213(17)270230":  {"gs1_value", "2027-02 has no day 30"},
		"]d10109521234543213":           {"gs1_symbology", "]d1"},
		"(98765)x":                      {"gs1_unknown_identifier", "in brackets"},
		"]C1":                           {"gs1_empty", "empty"},
		"\x1d0109521234543213\x1d10":    {"gs1_value", "0 characters"},
		"(01)09521234543213(10)A(10)BB": {"gs1_repeated", "stands twice"},
	} {
		_, err := Parse("scan", scan, now)
		r := refusal.From(err)
		if r == nil || string(r.Code) != want[0] || !strings.Contains(r.Sentence, want[1]) || r.Field != "scan" {
			t.Errorf("%q: got %v, want %s saying %q", scan, err, want[0], want[1])
		}
	}
}

func TestMeasuresAndCountsHaveTheirPoint(t *testing.T) {
	for scan, want := range map[string]string{
		"(01)09521234543213(3103)001250": "1.25", "(00)095212340000004721(37)24(02)09521234543213": "24", "(01)09521234543213(30)7": "7", "(01)09521234543213(3922)1234": "12.34",
		"(01)09521234543213(3100)000012": "12",
	} {
		m, err := Parse("scan", scan, now)
		if scan == "(01)09521234543213(3922)1234" { // an amount needs a measure beside it
			m, err = Parse("scan", scan+"(3103)001000", now)
		}
		if err != nil || m.Elements[1].Number == nil || m.Elements[1].Number.String() != want {
			t.Errorf("%s: %+v (%v), want %s", scan, m.Elements, err, want)
		}
	}
}

func FuzzParseNeverPanicsAndWritesWhatItRead(f *testing.F) {
	for _, seed := range []string{"(01)09521234543213(10)A", "]C10109521234543213", "010952123454321310A\x1d17271231",
		"(", "]Q3", "\x1d"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, scan string) {
		m, err := Parse("scan", scan, now)
		if err != nil {
			if refusal.From(err) == nil {
				t.Fatalf("%q: %v is no refusal", scan, err)
			}
			return
		}
		raw, err := Write(m.Elements, now)
		if err != nil {
			t.Fatalf("%q was read and cannot be written: %v", scan, err)
		}
		if _, err := Parse("scan", raw, now); err != nil {
			t.Fatalf("%q was written as %q, which is not read: %v", scan, raw, err)
		}
	})
}

func TestMadeSSCCsAreRight(t *testing.T) {
	for n := range int64(200) {
		sscc, err := MakeSSCC(int(n%10), "9521234", n*4999)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := SSCC("sscc", sscc); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := MakeSSCC(0, "9521234", 1_000_000_000); err == nil {
		t.Error("a reference of ten digits fits into nine")
	}
}

// Dates with a time in the GS1 General Specifications (sections 3.5 and 3.8): each keeps
// what the label gives. They once lost their hours and minutes.
func TestADateKeepsItsTimeAndSaysHowExactlyItIsGiven(t *testing.T) {
	today := time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC)
	const goods = "(01)09521234000013"
	for text, want := range map[string]string{
		goods + "(17)270300":                         "2027-03-31T00:00:00Z day",
		goods + "(7003)2703011430":                   "2027-03-01T14:30:00Z minute",
		goods + "(8008)27030114":                     "2027-03-01T14:00:00Z hour",
		goods + "(8008)2703011405":                   "2027-03-01T14:05:00Z minute",
		goods + "(8008)270301140559":                 "2027-03-01T14:05:59Z second",
		goods + "(7011)270301":                       "2027-03-01T00:00:00Z day",
		goods + "(7011)2703012359":                   "2027-03-01T23:59:00Z minute",
		goods + "(7006)270301":                       "2027-03-01T00:00:00Z day",
		goods + "(7007)270301":                       "2027-03-01T00:00:00Z day",
		goods + "(7007)270301270305":                 "2027-03-01T00:00:00Z day to 2027-03-05",
		"(00)095212340000000013(4324)2703001430":     "2027-03-31T14:30:00Z minute",
		"(00)095212340000000013(4325)2703010005":     "2027-03-01T00:05:00Z minute",
		"(00)095212340000000013(4326)270301":         "2027-03-01T00:00:00Z day",
		"(8018)095212340000000013(7250)19681231":     "1968-12-31T00:00:00Z day",
		"(8018)095212340000000013(7251)196812312359": "1968-12-31T23:59:00Z minute",
	} {
		m, err := Parse("scan", text, today)
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		e := m.Elements[len(m.Elements)-1]
		got := fmt.Sprint(e.Date.Format(time.RFC3339), " ", e.Precision)
		if e.Until != nil {
			got += " to " + e.Until.Format(time.DateOnly)
		}
		if got != want {
			t.Errorf("%s is %s, want %s", text, got, want)
		}
	}
}
