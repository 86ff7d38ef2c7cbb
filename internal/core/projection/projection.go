// Package projection calculates what will be free, and when: it starts from free stock and
// follows each dated inflow and outflow.
package projection

import (
	"sort"

	"github.com/shopspring/decimal"
)

// A Flow is goods that come in or go out on a day.
type Flow struct {
	// On is the day, YYYY-MM-DD.
	On string `json:"on"`
	// Quantity is above zero; Out tells which way it goes.
	Quantity decimal.Decimal `json:"quantity"`
	Out      bool            `json:"out"`
	// Reserved is how much of an outflow is taken off the start already, since exact stock
	// is reserved for it.
	Reserved decimal.Decimal `json:"reserved"`
	// Document and Party say what it is.
	Document string `json:"document,omitempty"`
	Party    string `json:"party,omitempty"`
}

// A Line is a flow with what it moves and what is free after it.
type Line struct {
	Flow
	Moves decimal.Decimal `json:"moves"`
	After decimal.Decimal `json:"after"`
}

// A Course is what will be free, day by day.
type Course struct {
	// Start is what is free before the first flow: the physical stock less what is
	// reserved.
	Start decimal.Decimal `json:"start"`
	Lines []Line          `json:"lines"`
}

// Follow follows the flows from what is there. An outflow whose goods are reserved does
// not move the balance again. On one day what comes in counts before what goes out.
func Follow(physical, reserved decimal.Decimal, flows []Flow) Course {
	c := Course{Start: physical.Sub(reserved), Lines: make([]Line, 0, len(flows))}
	ordered := append([]Flow(nil), flows...)
	sort.SliceStable(ordered, func(i, j int) bool {
		a, b := ordered[i], ordered[j]
		return a.On < b.On || a.On == b.On && !a.Out && b.Out
	})
	free := c.Start
	for _, f := range ordered {
		l := Line{Flow: f, Moves: f.Quantity}
		if f.Out {
			l.Moves = f.Quantity.Sub(decimal.Min(f.Reserved, f.Quantity)).Neg()
		}
		free = free.Add(l.Moves)
		l.After = free
		c.Lines = append(c.Lines, l)
	}
	return c
}

// Served is the day on which an outflow can go, those before it first: its own day when
// enough is there, or that of the inflow which ends its shortage; empty when none does.
func (c Course) Served(document string) string {
	for _, l := range c.Lines {
		if l.Out && l.Document == document {
			return c.ServedPart(document, l.Moves.Neg())
		}
	}
	return ""
}

// ServedPart is the day on which the first so much of an outflow can go, of what no exact
// stock is reserved for.
func (c Course) ServedPart(document string, part decimal.Decimal) string {
	for i, l := range c.Lines {
		if !l.Out || l.Document != document {
			continue
		}
		// What is short then is short for those before it too, who come first.
		behind := l.Moves.Neg().Sub(part)
		short, day := l.After.Add(behind).Neg(), l.On
		for _, later := range c.Lines[i+1:] {
			if !short.IsPositive() {
				break
			}
			if !later.Out {
				short, day = short.Sub(later.Quantity), later.On
			}
		}
		if short.IsPositive() {
			return ""
		}
		return day
	}
	return ""
}

// Delayed are the documents of outflows that could go at least on their day in this course and
// go later, or never, in the other, where more goes out before them.
func (c Course) Delayed(other Course) (documents []string) {
	for _, l := range c.Lines {
		if !l.Out || c.Served(l.Document) != l.On {
			continue
		}
		if day := other.Served(l.Document); day == "" || day > l.On {
			documents = append(documents, l.Document)
		}
	}
	return documents
}

// Promise is the first day, from today on, on which so much more can go without taking
// what a later outflow relies on: what is free does not fall below it afterwards. It is
// empty when no day is known.
func (c Course) Promise(quantity decimal.Decimal, today string) string {
	// least[i] is the least that is free from line i on.
	day, least := "", decimal.Zero
	for i := len(c.Lines); i >= 0; i-- {
		after := c.Start
		if i > 0 {
			after = c.Lines[i-1].After
		}
		if i == len(c.Lines) || after.LessThan(least) {
			least = after
		}
		if least.LessThan(quantity) {
			return day
		}
		day = today
		if i > 0 && c.Lines[i-1].On > today {
			day = c.Lines[i-1].On
		}
	}
	return day
}
