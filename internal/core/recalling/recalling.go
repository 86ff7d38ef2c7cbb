// Package recalling adds up what became of goods, from where they came in to where they are, for a recall.
package recalling

import "github.com/shopspring/decimal"

// A Place is whose hands goods are in.
type Place string

// The places there are. Ours are all sites, and what is on its way between them.
const (
	Ours     Place = "ours"
	Supplier Place = "supplier"
	Customer Place = "customer"
	Scrapped Place = "scrapped"
	Lost     Place = "lost"
)

// A Flow is goods that went from one place to another, in base units. One that takes another back has Back set: a
// receipt or a shipment that was made by mistake never was.
type Flow struct {
	From     Place           `json:"from"`
	To       Place           `json:"to"`
	Quantity decimal.Decimal `json:"quantity"`
	Back     bool            `json:"back"`
}

// A Tally is what became of goods, in base units.
type Tally struct {
	// Came is what suppliers sent, and Found what turned up otherwise.
	Came  decimal.Decimal `json:"came"`
	Found decimal.Decimal `json:"found"`
	// Shipped went to customers, and CameBack came back from them.
	Shipped  decimal.Decimal `json:"shipped"`
	CameBack decimal.Decimal `json:"came_back"`
	SentBack decimal.Decimal `json:"sent_back" doc:"Back to suppliers"`
	Scrapped decimal.Decimal `json:"scrapped"`
	Lost     decimal.Decimal `json:"lost"`
}

// Sum adds flows up. Those within one place change nothing.
func Sum(flows []Flow) (t Tally) {
	for _, f := range flows {
		if f.From == f.To {
			continue
		}
		switch {
		case f.Back && f.To == Supplier:
			t.Came = t.Came.Sub(f.Quantity)
		case f.Back && f.From == Customer:
			t.Shipped = t.Shipped.Sub(f.Quantity)
		default:
			t.leave(f)
			t.arrive(f)
		}
	}
	return t
}

func (t *Tally) leave(f Flow) {
	switch f.From {
	case Supplier:
		t.Came = t.Came.Add(f.Quantity)
	case Customer:
		t.CameBack = t.CameBack.Add(f.Quantity)
	case Scrapped, Lost:
		t.Found = t.Found.Add(f.Quantity)
	}
}

func (t *Tally) arrive(f Flow) {
	switch f.To {
	case Supplier:
		t.SentBack = t.SentBack.Add(f.Quantity)
	case Customer:
		t.Shipped = t.Shipped.Add(f.Quantity)
	case Scrapped:
		t.Scrapped = t.Scrapped.Add(f.Quantity)
	case Lost:
		t.Lost = t.Lost.Add(f.Quantity)
	}
}

// WithCustomers is what customers have.
func (t Tally) WithCustomers() decimal.Decimal { return t.Shipped.Sub(t.CameBack) }

// Ours is what has to be left with us: all that came in by whatever way, less all that went.
func (t Tally) Ours() decimal.Decimal {
	in := t.Came.Add(t.Found).Add(t.CameBack)
	return in.Sub(t.Shipped).Sub(t.SentBack).Sub(t.Scrapped).Sub(t.Lost)
}
