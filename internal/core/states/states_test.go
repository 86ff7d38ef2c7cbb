package states

import (
	"errors"
	"testing"
)

func TestStepsThatThereAreNot(t *testing.T) {
	for _, ok := range []error{
		Check("outbound_orders", Quote, OnHold), Check("outbound_orders", Released, Released), Check("inbound_orders",
			Received, PartlyReceived),
		Check("carton_work", CartonPacked, CartonAtBench), Check("arrivals", ArrivalDone, ArrivalOpen),
		// A shipment of it was taken back.
		Check("outbound_orders", Shipped, Released), Check("carton_work", CartonShipped, CartonPacked),
	} {
		if ok != nil {
			t.Error(ok)
		}
	}
	for _, refused := range []error{
		Check("outbound_orders", Shipped, OnHold), Check("outbound_orders", Quote, Shipped), Check("inbound_orders",
			Closed, Placed),
		Check("carton_work", CartonShipped, CartonAtBench), Check("inspections", InspectionDecided,
			InspectionWaiting), Check("rounds", RoundDone, RoundWalking), Check("shipments", ShipmentTakenBack, ShipmentLeft),
	} {
		var e *StepError
		if !errors.As(refused, &e) {
			t.Errorf("allowed: %v", refused)
		}
	}
}

// Every state that can be reached can be left, but for those that end a document, and none
// is left out.
func TestEveryStateIsReachedAndEnds(t *testing.T) {
	ends := map[Document][]string{
		"outbound_orders": {"cancelled"}, "inbound_orders": {"closed"}, "rounds": {"done"}, "carton_work": {},
		"arrivals": {}, "inspections": {"decided",
			"withdrawn"}, "loads": {"left", "cancelled"}, "counts": {"repeated", "withdrawn", "taken_back"}, "count_sheets": {"closed"}, "count_sheet_lines": {"left"}, "outbound_lines": {}, "inbound_lines": {"cancelled"},
		"round_stops": {"picked", "short"}, "shipments": {"taken_back"}, "count_requests": {"settled"},
		"refills": {"done", "cancelled"},
	}
	for d, from := range Steps {
		last := map[string]bool{}
		for _, all := range from {
			for _, to := range all {
				if len(from[to]) == 0 {
					last[to] = true
				}
			}
		}
		if len(last) != len(ends[d]) {
			t.Errorf("%s ends in %v, not in %v", d, last, ends[d])
		}
		for _, s := range ends[d] {
			if !last[s] {
				t.Errorf("%s does not end in %q", d, s)
			}
		}
	}
}
