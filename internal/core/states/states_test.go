package states

import (
	"errors"
	"testing"
)

func TestStepsThatThereAreNot(t *testing.T) {
	for _, ok := range []error{
		Check("outbound_orders", Quote, Held), Check("outbound_orders", LetGo, LetGo), Check("inbound_orders", AllIn, PartIn),
		Check("carton_work", CartonPacked, CartonAtBench), Check("arrivals", ArrivalDone, ArrivalOpen),
	} {
		if ok != nil {
			t.Error(ok)
		}
	}
	for _, refused := range []error{
		Check("outbound_orders", Sent, LetGo), Check("outbound_orders", Quote, Sent), Check("inbound_orders", Closed, Placed),
		Check("carton_work", CartonSent, CartonPacked), Check("inspections", InspectionDecided, InspectionWaiting), Check("rounds", RoundDone, RoundWalking),
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
		"outbound_orders": {"sent", "cancelled"}, "inbound_orders": {"closed"}, "rounds": {"done"}, "carton_work": {"sent"},
		"arrivals": {}, "inspections": {"decided", "taken back"}, "loads": {"left"},
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
