// Package sheets is the catalog as sheets: one row a thing. A sheet is listed, edited,
// imported and exported by the same columns and the same rules.
package sheets

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"

	"github.com/shopspring/decimal"
)

// A Column is one field of a sheet's rows.
type Column struct {
	Name  string `json:"name"`
	Label string `json:"label"`
	// Help explains the field to whoever fills it.
	Help   string `json:"help"`
	Needed bool   `json:"needed"`
	// Kind is text, number, count, percent, flag (yes or no) or choice.
	Kind    string   `json:"kind" enum:"text,number,count,percent,flag,choice"`
	Choices []string `json:"choices"`
	// Words are how choices are said, where that differs from how they are kept.
	Words map[string]string `json:"words"`
	// Of is the sheet whose keys a text names, or empty.
	Of string `json:"of" enum:",carriers"`
	// Default is what a new row has when nothing is said.
	Default string `json:"default"`

	// Money says that it tells of it, which not everybody sees; By is which role beside the sheet's own may change it.
	Money bool        `json:"money"`
	By    people.Role `json:"by" enum:",lead,accounts"`
	// Fixed says that whoever asks may not change it.
	Fixed bool `json:"fixed"`

	// places is how many decimals a number may have.
	places int32
	// open numbers and counts may be left out, which is not the same as 0.
	open bool
	// signed numbers may be below zero.
	signed bool
}

// longest is how many characters a text may have.
const longest = 200

var most = decimal.New(10_000_000, 0)

// read brings what was typed into the one form in which it is kept and compared.
func (c Column) read(typed string) (string, error) {
	typed = strings.TrimSpace(typed)
	if typed == "" {
		if c.Needed {
			return "", refusal.New(refusal.FieldMissing, c.Name, "%s is missing. %s", c.Label, c.Help)
		}
		return c.empty(), nil
	}
	switch c.Kind {
	case "flag":
		switch strings.ToLower(typed) {
		case "yes", "y", "true", "1":
			return "yes", nil
		case "no", "n", "false", "0":
			return "no", nil
		}
		return "", refusal.New(refusal.FlagMalformed, c.Name, "%s is yes or no, not %q.", c.Label, clip(typed))
	case "choice":
		if i := slices.IndexFunc(c.Choices,
			func(choice string) bool { return strings.EqualFold(choice, typed) }); i >= 0 {
			return c.Choices[i], nil
		}
		return "", refusal.New(refusal.ChoiceUnknown, c.Name, "%s is one of %s, not %q.", c.Label,
			strings.Join(c.Choices, ", "), clip(typed))
	case "count":
		n, err := strconv.Atoi(typed)
		if err != nil || n < 0 || n > 1_000_000 {
			return "", refusal.New(refusal.CountMalformed, c.Name, "%s is a whole number from 0 to 1000000, not %q.",
				c.Label, clip(typed))
		}
		return strconv.Itoa(n), nil
	case "number", "percent":
		d, err := decimal.NewFromString(typed)
		if err != nil || strings.ContainsAny(typed, "eE") {
			return "", refusal.New(refusal.NumberMalformed, c.Name,
				"%s is a number, with a point for decimals, not %q.", c.Label, clip(typed))
		}
		if c.Kind == "percent" && (d.IsNegative() || d.GreaterThan(decimal.NewFromInt(100))) {
			return "", refusal.New(refusal.PercentRange, c.Name, "%s goes from 0 to 100 per cent, not %s.", c.Label, d)
		}
		if d.IsNegative() && !c.signed || d.Abs().GreaterThan(most) {
			return "", refusal.New(refusal.NumberRange, c.Name, "%s goes from 0 to %s, not %s.", c.Label, most, d)
		}
		if !d.Equal(d.Truncate(c.places)) {
			return "", refusal.New(refusal.NumberTooFine, c.Name, "%s has at most %d decimals, and %s has more.",
				c.Label, c.places, d)
		}
		return d.String(), nil
	}
	if len([]rune(typed)) > longest {
		return "", refusal.New(refusal.TextLong, c.Name, "%s has %d characters and may have at most %d.", c.Label,
			len([]rune(typed)), longest)
	}
	if strings.ContainsFunc(typed, func(r rune) bool { return r < ' ' }) {
		return "", refusal.New(refusal.TextMalformed, c.Name,
			"%s has a character that cannot be read, such as a line break. Type it anew.", c.Label)
	}
	return typed, nil
}

// empty is what an empty field means.
func (c Column) empty() string {
	if c.Default != "" {
		return c.Default
	}
	if c.Kind == "number" && !c.open || c.Kind == "percent" || c.Kind == "count" && !c.open {
		return "0"
	}
	return ""
}

func clip(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

// A Row is a thing's fields by column name.
type Row map[string]string

// number is a field that has been read; nil when it is left open.
func (r Row) number(name string) *decimal.Decimal {
	if r[name] == "" {
		return nil
	}
	d := decimal.RequireFromString(r[name])
	return &d
}

func (r Row) flag(name string) bool { return r[name] == "yes" }

// text is a field for a column that may be NULL.
func (r Row) text(name string) *string {
	if r[name] == "" {
		return nil
	}
	s := r[name]
	return &s
}

func (r Row) count(name string) *int {
	if r[name] == "" {
		return nil
	}
	n, err := strconv.Atoi(r[name])
	if err != nil {
		panic(fmt.Sprintf("%s was not read: %q", name, r[name]))
	}
	return &n
}
