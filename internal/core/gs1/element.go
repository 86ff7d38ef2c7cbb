// Package gs1 reads and writes what GS1 bar codes carry: element strings with
// their Application Identifiers, GTINs and SSCCs.
//
// The rules are those of the GS1 General Specifications; the table of identifiers
// is that of the GS1 Barcode Syntax Dictionary. Coupon identifiers 8110 and 8112
// are read and held to their length and to digits; their inner fields are not
// taken apart.
package gs1

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

// Separator ends an element string of open length; scanners send FNC1 as this.
const Separator = '\x1d'

// An Element is one element string: an identifier and its value.
type Element struct {
	AI    string `json:"ai"`
	Value string `json:"value"`
	Title string `json:"title,omitempty"`
	// Date is set for identifiers that carry one, with its time where the label gives one.
	// It has no zone: it is the time where the label was printed, written as UTC.
	Date *time.Time `json:"date,omitempty"`
	// Precision says how exactly Date is given; Until is the last day of a range.
	Precision Precision  `json:"precision,omitempty" enum:"day,hour,minute,second"`
	Until     *time.Time `json:"until,omitempty"`
	// Number is set for counts, and for measures and amounts with their
	// implied decimal point in place.
	Number *decimal.Decimal `json:"number,omitempty"`
}

// A Message is what one symbol carried.
type Message struct {
	// Symbology names the kind of symbol when the scanner said it.
	Symbology string    `json:"symbology,omitempty"`
	Elements  []Element `json:"elements"`
}

// Value returns the first element's value under any of the identifiers given.
func (m Message) Value(ais ...string) string {
	if e := m.Find(ais...); e != nil {
		return e.Value
	}
	return ""
}

// Find returns the first element under any of the identifiers given, or nil.
func (m Message) Find(ais ...string) *Element {
	for i, e := range m.Elements {
		for _, ai := range ais {
			if e.AI == ai {
				return &m.Elements[i]
			}
		}
	}
	return nil
}

// symbologies are the identifiers of ISO/IEC 15424 that announce GS1 data.
var symbologies = map[string]string{
	"]C1": "GS1-128", "]e0": "GS1 DataBar", "]e1": "GS1 Composite", "]e2": "GS1 Composite",
	"]d2": "GS1 DataMatrix", "]Q3": "GS1 QR Code", "]J1": "GS1 DotCode",
	"]E0": "EAN-13", "]E4": "EAN-8", "]I1": "ITF-14",
}

// Looks tells whether scan has the form of GS1 data (a symbology identifier, a bracketed
// identifier, a leading or inner separator, or an item's GTIN behind its identifier), so that
// Parse is worth calling and its refusal worth showing.
func Looks(scan string) bool {
	return len(scan) >= 3 && scan[0] == ']' || strings.HasPrefix(scan, "(") ||
		strings.IndexByte(scan, Separator) >= 0 || bare(scan)
}

// bare tells whether scan is a whole message that begins with a GTIN, as it comes from a
// scanner that was told to leave the symbology identifier out.
func bare(scan string) bool {
	if len(scan) < 16 || scan[:2] != "01" && scan[:2] != "02" {
		return false
	}
	if _, err := GTIN("", scan[2:16]); err != nil {
		return false
	}
	m, err := split("", scan)
	return err == nil && m.validate("", time.Unix(0, 0)) == nil
}

// Parse reads a scan: raw, with or without a symbology identifier and with
// separators, or typed with its identifiers in brackets. today places two-digit
// years. Every value is checked, and so is which identifiers stand together.
func Parse(field, scan string, today time.Time) (Message, error) {
	m, err := split(field, scan)
	if err != nil {
		return Message{}, err
	}
	return m, m.validate(field, today)
}

func split(field, scan string) (Message, error) {
	m := Message{}
	if len(scan) >= 3 && scan[0] == ']' {
		m.Symbology = symbologies[scan[:3]]
		if m.Symbology == "" {
			return m, refusal.New(refusal.GS1Symbology, field, "A symbol of kind %s does not carry GS1 data.", scan[:3])
		}
		scan = scan[3:]
		if plain := m.Symbology; plain == "EAN-13" || plain == "EAN-8" || plain == "ITF-14" {
			gtin, err := GTIN(field, scan)
			m.Elements = []Element{{AI: "01", Value: gtin}}
			return m, err
		}
	}
	if strings.HasPrefix(scan, "(") {
		return splitBracketed(field, m, scan)
	}
	scan = strings.TrimPrefix(scan, string(Separator))
	if scan == "" {
		return m, refusal.New(refusal.GS1Empty, field, "The scan is empty. Scan again.")
	}
	for scan != "" {
		id := identifierAt(scan)
		if id == nil {
			return m, refusal.New(refusal.GS1UnknownIdentifier, field,
				"%q does not begin with a GS1 Application Identifier. Scan again, or type the number.", clip(scan))
		}
		rest := scan[len(id.AI):]
		value := rest
		if n := predefined[id.AI[:2]]; n > 0 {
			value = rest[:min(n-len(id.AI), len(rest))]
			scan = strings.TrimPrefix(rest[len(value):], string(Separator))
		} else {
			value, scan, _ = strings.Cut(rest, string(Separator))
		}
		m.Elements = append(m.Elements, Element{AI: id.AI, Value: value})
	}
	return m, nil
}

func splitBracketed(field string, m Message, text string) (Message, error) {
	for text != "" {
		ai, rest, ok := strings.Cut(strings.TrimPrefix(text, "("), ")")
		if text[0] != '(' || !ok || identifiers[ai] == nil {
			return m, refusal.New(refusal.GS1UnknownIdentifier, field,
				"%q does not begin with a GS1 Application Identifier in brackets, such as (01).", clip(text))
		}
		// A bracket that opens a known identifier ends the value; any other
		// bracket belongs to it.
		end := len(rest)
		for i := range len(rest) {
			if rest[i] != '(' {
				continue
			}
			next, _, closed := strings.Cut(rest[i+1:], ")")
			if closed && identifiers[next] != nil {
				end = i
				break
			}
		}
		m.Elements = append(m.Elements, Element{AI: ai, Value: rest[:end]})
		text = rest[end:]
	}
	return m, nil
}

func (m *Message) validate(field string, today time.Time) error {
	seen := map[string]string{}
	for i := range m.Elements {
		e := &m.Elements[i]
		id := identifiers[e.AI]
		if err := id.check(e.Value, today); err != nil {
			code := refusal.GS1Value
			if wrong := checkDigitError(""); errors.As(err, &wrong) {
				code = refusal.CheckDigit
			}
			return refusal.New(code, field, "(%s) %s is wrong: %v. Scan again, or type what the label says.", e.AI,
				strings.TrimSpace(id.Title+" "+e.Value), err)
		}
		if before, twice := seen[e.AI]; twice && before != e.Value {
			return refusal.New(refusal.GS1Repeated, field, "(%s) stands twice, as %s and as %s.", e.AI, before, e.Value)
		}
		seen[e.AI] = e.Value
		e.read(id, today)
	}
	for _, e := range m.Elements {
		id := identifiers[e.AI]
		for _, other := range id.excludes {
			if found := m.other(e.AI, other); found != "" {
				return refusal.New(refusal.GS1Excluded, field, "(%s) and (%s) may not stand together.", e.AI, found)
			}
		}
		for _, demand := range id.requires {
			if !m.meets(e.AI, demand) {
				return refusal.New(refusal.GS1Required, field, "(%s) needs %s beside it.", e.AI, describeDemand(demand))
			}
		}
	}
	return nil
}

// other finds an identifier other than self that fits the pattern, where n stands
// for any digit.
func (m *Message) other(self, pattern string) string {
	for _, e := range m.Elements {
		if e.AI != self && fits(e.AI, pattern) || pattern == e.AI && pattern != self {
			return e.AI
		}
	}
	return ""
}

func (m *Message) meets(self string, demand [][]string) bool {
	for _, set := range demand {
		all := true
		for _, pattern := range set {
			all = all && m.other(self, pattern) != ""
		}
		if all {
			return true
		}
	}
	return false
}

func fits(ai, pattern string) bool {
	if len(ai) != len(pattern) {
		return false
	}
	for i := range len(ai) {
		if pattern[i] != 'n' && ai[i] != pattern[i] {
			return false
		}
	}
	return true
}

func describeDemand(demand [][]string) string {
	var words []string
	for _, set := range demand {
		words = append(words, "("+strings.Join(set, ") with (")+")")
	}
	return strings.Join(words, " or ")
}

// read fills Title, Date and Number of a checked element.
func (e *Element) read(id *Identifier, today time.Time) {
	e.Title = id.Title
	if m := id.moment(e.Value, today); m != nil {
		e.Date, e.Precision, e.Until = &m.At, m.Precision, m.Until
	}
	var places int32
	amount := e.Value
	switch {
	case e.AI == "30" || e.AI == "37":
	case len(e.AI) == 4 && e.AI >= "3100" && e.AI < "3700":
		places = int32(e.AI[3] - '0')
	case len(e.AI) == 4 && (e.AI[:3] == "390" || e.AI[:3] == "392"):
		places = int32(e.AI[3] - '0')
	case len(e.AI) == 4 && (e.AI[:3] == "391" || e.AI[:3] == "393"):
		places = int32(e.AI[3] - '0')
		amount = e.Value[3:]
	default:
		return
	}
	if n, err := decimal.NewFromString(amount); err == nil {
		n = n.Shift(-places)
		e.Number = &n
	}
}

// Bracketed writes the message as people read it: (01)09521234543213(10)VH-0933.
func (m Message) Bracketed() string {
	var b strings.Builder
	for _, e := range m.Elements {
		b.WriteString("(" + e.AI + ")" + e.Value)
	}
	return b.String()
}

// Write builds the raw element string of the elements given, checked as Parse
// checks, with a separator where the standard wants one. Those of fixed length go
// first, as the standard advises, so that the string is short.
func Write(elements []Element, today time.Time) (string, error) {
	m := Message{Elements: append([]Element(nil), elements...)}
	for i, e := range m.Elements {
		if identifiers[e.AI] == nil {
			return "", refusal.New(refusal.GS1UnknownIdentifier, "", "(%s) is not a GS1 Application Identifier.",
				e.AI).At(fmt.Sprintf("elements[%d].ai", i))
		}
	}
	if err := m.validate("elements", today); err != nil {
		return "", err
	}
	var fixed, open []string
	for _, e := range m.Elements {
		if identifiers[e.AI].separated() {
			open = append(open, e.AI+e.Value)
		} else {
			fixed = append(fixed, e.AI+e.Value)
		}
	}
	return strings.Join(fixed, "") + strings.Join(open, string(Separator)), nil
}

func clip(s string) string {
	if len(s) > 20 {
		return s[:20] + "…"
	}
	return s
}
