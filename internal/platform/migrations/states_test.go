package migrations_test

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/shopspring/decimal"

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

// TestDerivedStatesAreThoseOfTheCore has the database calculate the states that follow from
// quantities, for random ones, and holds them against the core.
func TestDerivedStatesAreThoseOfTheCore(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	r := rand.New(rand.NewPCG(3, 9))
	derived := func(table string, from string, args ...any) (state string) {
		var rule string
		err := h.Owner.Get(&rule, `
			SELECT pg_get_expr(d.adbin, d.adrelid)
			  FROM pg_attrdef d JOIN pg_attribute a ON a.attrelid = d.adrelid AND a.attnum = d.adnum
			 WHERE d.adrelid = $1::regclass AND a.attname = 'state'`, table)
		if err == nil {
			err = h.Owner.Get(&state, `SELECT `+rule+` FROM (SELECT `+from+`) AS t`, args...)
		}
		if err != nil {
			t.Fatal(err)
		}
		return state
	}
	n := func() decimal.Decimal { return decimal.NewFromInt(r.Int64N(3)) }
	for range 300 {
		q := states.Quantities{Planned: n(), Picked: n(), Shipped: n(), Cancelled: n()}
		q.Wanted = q.Planned.Add(q.Picked).Add(q.Shipped).Add(q.Cancelled).Add(n())
		if q.Wanted.IsZero() {
			continue
		}
		got := derived("outbound_lines", `
			$1::numeric AS quantity, $2::numeric AS planned, $3::numeric AS picked, $4::numeric AS shipped,
			$5::numeric AS cancelled`, q.Wanted, q.Planned, q.Picked, q.Shipped, q.Cancelled)
		if want := q.Of(); got != string(want) {
			t.Fatalf("%+v is %s, and %s in the database", q, want, got)
		}
		picked, short := n(), n()
		quantity := picked.Add(short).Add(n())
		got = derived("round_stops", `$1::numeric AS quantity, $2::numeric AS picked, $3::numeric AS short`, quantity, picked, short)
		if want := states.OfStop(quantity, picked, short); got != string(want) {
			t.Fatalf("a stop for %s, %s picked, %s short, is %s, and %s in the database", quantity, picked, short, want, got)
		}
		received, closed := n(), r.IntN(2) == 0
		got = derived("inbound_lines", `$1::numeric AS received, $2::boolean AS closed`, received, closed)
		if want := states.Inbounds(received, closed); got != string(want) {
			t.Fatalf("%s received, closed %t, is %s, and %s in the database", received, closed, want, got)
		}
	}
}
