package gs1

import (
	_ "embed"
	"fmt"
	"strconv"
	"strings"
	"time"
)

//go:embed identifiers.txt
var identifiersText string

//go:embed codelists.txt
var codelistsText string

// An Identifier is one Application Identifier of the GS1 General Specifications.
type Identifier struct {
	AI    string
	Title string
	parts []part
	// excludes lists identifiers that may not stand beside this one; requires
	// lists, for each demand, the alternatives, each a set that must all be there.
	excludes []string
	requires [][][]string
}

type part struct {
	set      byte // N, X, Y or Z
	min, max int
	optional bool
	checks   []string
}

var (
	identifiers = map[string]*Identifier{}
	codelists   = map[string]map[string]bool{}
)

func init() {
	for line := range strings.Lines(identifiersText) {
		if line = strings.TrimSpace(line); line != "" && line[0] != '#' {
			id := readIdentifier(line)
			identifiers[id.AI] = id
		}
	}
	for line := range strings.Lines(codelistsText) {
		words := strings.Fields(line)
		if len(words) == 0 || words[0] == "#" {
			continue
		}
		codes := make(map[string]bool, len(words)-1)
		for _, w := range words[1:] {
			codes[w] = true
		}
		codelists[words[0]] = codes
	}
}

// readIdentifier reads one line of identifiers.txt, which is part of the program:
// a wrong line is a programming error.
func readIdentifier(line string) *Identifier {
	id := &Identifier{}
	if i := strings.IndexByte(line, '"'); i >= 0 {
		id.Title = strings.Trim(line[i:], `"`)
		line = line[:i]
	}
	words := strings.Fields(line)
	id.AI = words[0]
	for _, w := range words[1:] {
		switch {
		case strings.HasPrefix(w, "ex="):
			id.excludes = strings.Split(w[3:], ",")
		case strings.HasPrefix(w, "req="):
			var alternatives [][]string
			for a := range strings.SplitSeq(w[4:], "|") {
				alternatives = append(alternatives, strings.Split(a, "+"))
			}
			id.requires = append(id.requires, alternatives)
		default:
			id.parts = append(id.parts, readPart(w))
		}
	}
	return id
}

func readPart(w string) part {
	p := part{}
	if w[0] == '[' {
		p.optional = true
		w = strings.Trim(w, "[]")
	}
	words := strings.Split(w, ",")
	p.set, p.checks = words[0][0], words[1:]
	low, high, ranged := strings.Cut(words[0][1:], "..")
	if !ranged {
		high = low
	}
	if low == "" {
		low = "1"
	}
	var err1, err2 error
	p.min, err1 = strconv.Atoi(low)
	p.max, err2 = strconv.Atoi(high)
	if err1 != nil || err2 != nil {
		panic(fmt.Sprintf("gs1: bad part %q", w))
	}
	return p
}

// predefined holds the two-digit openings of element strings whose length is
// fixed by the standard, so that no separator follows them (GS1 General
// Specifications, figure 7.8.5-2).
var predefined = map[string]int{
	"00": 20, "01": 16, "02": 16, "03": 16, "04": 18,
	"11": 8, "12": 8, "13": 8, "14": 8, "15": 8, "16": 8, "17": 8, "18": 8, "19": 8, "20": 4,
	"31": 10, "32": 10, "33": 10, "34": 10, "35": 10, "36": 10, "41": 16,
}

// Known tells whether ai is an Application Identifier of the standard.
func Known(ai string) bool { return identifiers[ai] != nil }

// CheckValue says why value cannot stand under an identifier, such as 21 for a serial;
// nil when it can.
func CheckValue(ai, value string, today time.Time) error {
	id := identifiers[ai]
	if id == nil {
		return fmt.Errorf("there is no identifier %s", ai)
	}
	return id.check(value, today)
}

// Identifiers returns how many Application Identifiers the table holds.
func Identifiers() int { return len(identifiers) }

// identifierAt finds the identifier at the head of s. No identifier is the
// opening of another, so the first that fits is the one.
func identifierAt(s string) *Identifier {
	for n := 2; n <= 4 && n <= len(s); n++ {
		if id := identifiers[s[:n]]; id != nil {
			return id
		}
	}
	return nil
}

func (id *Identifier) maxLength() int {
	n := 0
	for _, p := range id.parts {
		n += p.max
	}
	return n
}

func (id *Identifier) minLength() int {
	n := 0
	for _, p := range id.parts {
		if !p.optional {
			n += p.min
		}
	}
	return n
}

// separated tells whether a separator must follow the identifier's value when
// another element string comes after it.
func (id *Identifier) separated() bool { return predefined[id.AI[:2]] == 0 }
