package epcis_test

import (
	"encoding/json"
	"fmt"
	"time"

	"lanternrow/internal/exchange/epcis"

	"github.com/shopspring/decimal"
)

// A unit of a lot that goes into a carton, and metres of cloth that are received: named by GS1 Digital Link, and by SKU where there is no
// GTIN.
func ExampleDocument() {
	at := time.Date(2027, 3, 2, 10, 30, 0, 0, time.UTC)
	text, err := epcis.Document(at, []epcis.Event{
		{ID: "urn:uuid:1", At: at, Action: epcis.Add, Step: "packing", Disposition: "in_progress", From: epcis.Place("QH", "Bench"),
			To: epcis.Place("QH", "Bench"), Carton: "095212340000004943",
			Goods: []epcis.Goods{{GTIN: "09521234000044", Serials: []string{"SP/1"}}}},
		{ID: "urn:uuid:2", At: at, Action: epcis.Observe, Step: "receiving", From: epcis.Place("QH", "Dock 1"), Document: "A-401",
			Goods: []epcis.Goods{{SKU: "CL-BLK", Lot: "CL 7", Quantity: decimal.RequireFromString("2.5"), Unit: epcis.Unit("metre")}}},
	})
	var read struct {
		Body struct {
			Events []map[string]any `json:"eventList"`
		} `json:"epcisBody"`
	}
	fmt.Println(err, json.Unmarshal(text, &read))
	for _, e := range read.Body.Events {
		fmt.Println(e["type"], e["action"], e["parentID"], e["childEPCs"], e["quantityList"], e["bizTransactionList"])
	}
	// Output:
	// <nil> <nil>
	// AggregationEvent ADD https://id.gs1.org/00/095212340000004943 [https://id.gs1.org/01/09521234000044/21/SP%2F1] <nil> <nil>
	// ObjectEvent OBSERVE <nil> <nil> [map[epcClass:urn:x-sku:CL-BLK/10/CL%207 quantity:2.5 uom:MTR]] [map[bizTransaction:urn:x-document:A-401]]
}
