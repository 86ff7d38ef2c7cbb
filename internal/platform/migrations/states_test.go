package migrations_test

import (
	"slices"
	"strings"
	"testing"

	"lanternrow/internal/core/states"
	"lanternrow/internal/test/world"
)

// TestTheDatabaseKnowsTheSameSteps holds the triggers that refuse a step against the steps
// of the core, and tries one.
func TestTheDatabaseKnowsTheSameSteps(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	var triggers []struct {
		Document states.Document
		Steps    string
	}
	err := h.Owner.Select(&triggers, `
		SELECT c.relname AS document, encode(t.tgargs, 'escape') AS steps
		  FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid WHERE t.tgname = 'state_step'`)
	if err != nil {
		t.Fatal(err)
	}
	if len(triggers) != len(states.Steps) {
		t.Errorf("%d documents have steps in the database, %d in the core", len(triggers), len(states.Steps))
	}
	for _, d := range triggers {
		here := strings.Split(strings.TrimSuffix(d.Steps, `\000`), `\000`)
		var core []string
		for from, all := range states.Steps[d.Document] {
			for _, to := range all {
				core = append(core, from+">"+to)
			}
		}
		slices.Sort(here)
		slices.Sort(core)
		if !slices.Equal(here, core) {
			t.Errorf("%s: the database knows %v, the core %v", d.Document, here, core)
		}
	}
	h.Owner.MustExec(`INSERT INTO inspections (site_id) VALUES (1)`)
	h.Owner.MustExec(`UPDATE inspections SET state = 'decided'`)
	if _, err := h.Owner.Exec(`UPDATE inspections
		    SET state = 'waiting'`); err == nil || !strings.Contains(err.Error(), `from "decided" to "waiting"`) {
		t.Errorf("a step back: %v", err)
	}
}
