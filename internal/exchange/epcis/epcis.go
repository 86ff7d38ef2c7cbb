// Package epcis writes what was done with goods as events that trading partners read: EPCIS 2.0 (ISO/IEC 19987) in
// JSON-LD, with the words of the Core Business Vocabulary 2.0 (ISO/IEC 19988) and goods named by GS1 Digital Link
// (canonical form, id.gs1.org).
package epcis

import (
	"encoding/json"
	"fmt"
	"net/url"
	"time"

	"github.com/shopspring/decimal"
)

// Context is where the words of the format are defined.
const Context = "https://ref.gs1.org/standards/epcis/2.0.0/epcis-context.jsonld"

// An Action is what an event does to what it is about.
type Action string

// The actions: something is seen, is added to a carton, or is taken out of one or destroyed.
const (
	Observe Action = "OBSERVE"
	Add     Action = "ADD"
	Delete  Action = "DELETE"
)

// Goods are what an event is about: so many of a class, or units by their serials.
type Goods struct {
	// GTIN has 14 digits; SKU is said where there is none.
	GTIN, SKU string
	Lot       string
	Serials   []string
	Quantity  decimal.Decimal
	// Unit is by UN/ECE Recommendation 20, as MTR; empty where pieces are counted.
	Unit string
}

// An Event is something that was done with goods.
type Event struct {
	ID     string
	At     time.Time
	Action Action
	// Step and Disposition are of the Core Business Vocabulary.
	Step, Disposition string
	// From is where it was seen, and To where it is from then on; To is empty where nobody knows.
	From, To string
	// Carton is the SSCC of what the goods are put into or taken out of; empty for goods that are seen.
	Carton string
	Goods  []Goods
	// Document is the paper that it was done for.
	Document string
}

type id struct {
	ID string `json:"id"`
}

type quantity struct {
	Class    string      `json:"epcClass"`
	Quantity json.Number `json:"quantity"`
	UOM      string      `json:"uom,omitempty"`
}

type transaction struct {
	Transaction string `json:"bizTransaction"`
}

// written is an event as the format has it.
type written struct {
	Type          string        `json:"type"`
	EventID       string        `json:"eventID"`
	EventTime     string        `json:"eventTime"`
	Offset        string        `json:"eventTimeZoneOffset"`
	ParentID      string        `json:"parentID,omitempty"`
	EPCs          []string      `json:"epcList,omitempty"`
	ChildEPCs     []string      `json:"childEPCs,omitempty"`
	Quantities    []quantity    `json:"quantityList,omitempty"`
	ChildQuantity []quantity    `json:"childQuantityList,omitempty"`
	Action        Action        `json:"action"`
	Step          string        `json:"bizStep"`
	Disposition   string        `json:"disposition,omitempty"`
	ReadPoint     *id           `json:"readPoint,omitempty"`
	Location      *id           `json:"bizLocation,omitempty"`
	Transactions  []transaction `json:"bizTransactionList,omitempty"`
}

type document struct {
	Context       []string  `json:"@context"`
	Type          string    `json:"type"`
	SchemaVersion string    `json:"schemaVersion"`
	Created       time.Time `json:"creationDate"`
	Body          struct {
		Events []written `json:"eventList"`
	} `json:"epcisBody"`
}

// Document writes events as one document.
func Document(created time.Time, events []Event) ([]byte, error) {
	d := document{Context: []string{Context}, Type: "EPCISDocument", SchemaVersion: "2.0", Created: created.UTC().Truncate(time.Second)}
	d.Body.Events = make([]written, len(events))
	for i, e := range events {
		d.Body.Events[i] = e.written()
	}
	out, err := json.MarshalIndent(d, "", "  ")
	if err != nil {
		return nil, fmt.Errorf("writing events: %w", err)
	}
	return out, nil
}

// written is the event in the format's words: an aggregation where a carton is filled or emptied, an observation of
// goods otherwise.
func (e Event) written() written {
	w := written{Type: "ObjectEvent", EventID: e.ID, EventTime: e.At.UTC().Format("2006-01-02T15:04:05.000Z"), Offset: "+00:00",
		Action: e.Action, Step: e.Step, Disposition: e.Disposition, ReadPoint: &id{e.From}}
	if e.To != "" {
		w.Location = &id{e.To}
	}
	if e.Document != "" {
		w.Transactions = []transaction{{"urn:x-document:" + url.PathEscape(e.Document)}}
	}
	epcs, quantities := listed(e.Goods)
	if e.Carton == "" {
		w.EPCs, w.Quantities = epcs, quantities
		return w
	}
	w.Type, w.ParentID, w.ChildEPCs, w.ChildQuantity = "AggregationEvent", "https://id.gs1.org/00/"+e.Carton, epcs, quantities
	return w
}

// listed are goods as the format lists them: units one by one, and others by how many.
func listed(goods []Goods) (epcs []string, quantities []quantity) {
	for _, g := range goods {
		for _, serial := range g.Serials {
			epcs = append(epcs, g.unit(serial))
		}
		if len(g.Serials) == 0 {
			quantities = append(quantities, quantity{Class: g.class(), Quantity: json.Number(g.Quantity.String()), UOM: g.Unit})
		}
	}
	return epcs, quantities
}

// class names goods by their item and lot.
func (g Goods) class() string {
	if g.Lot == "" {
		return g.item()
	}
	return g.item() + "/10/" + url.PathEscape(g.Lot)
}

// unit names a unit by its item and serial.
func (g Goods) unit(serial string) string { return g.item() + "/21/" + url.PathEscape(serial) }

// item names an item by its GTIN, or by its SKU in a namespace of one's own.
func (g Goods) item() string {
	if g.GTIN == "" {
		return "urn:x-sku:" + url.PathEscape(g.SKU)
	}
	return "https://id.gs1.org/01/" + g.GTIN
}

// Place names a location of a site, or of nobody's site.
func Place(site, location string) string {
	if site == "" {
		return "urn:x-place:" + url.PathEscape(location)
	}
	return "urn:x-place:" + url.PathEscape(site) + ":" + url.PathEscape(location)
}

// units are those of UN/ECE Recommendation 20 that base units may be; pieces have none (the quantity counts them).
var units = map[string]string{"metre": "MTR", "litre": "LTR", "kilogram": "KGM", "square metre": "MTK", "kg": "KGM", "m": "MTR", "l": "LTR"}

// Unit is a base unit by UN/ECE Recommendation 20; empty for pieces.
func Unit(base string) string { return units[base] }
