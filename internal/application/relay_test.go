package application_test

import (
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// TestWhatIsReceivedMovesOn has clamps and fluid move on to the other site by standing rules: a transfer is made by
// itself for what the rule says, its goods are reserved on the dock and go straight from there, and what is left stays.
func TestWhatIsReceivedMovesOn(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	ramp := otherSite(t, h)
	rule := func(name string, more ...string) object {
		row := object{"name": name, "to_site": "Other House"}
		for i := 0; i < len(more); i += 2 {
			row[more[i]] = more[i+1]
		}
		return row
	}
	save := func(rows ...object) world.Answer {
		return lead.Post("/catalog/relays/import", object{"site_id": world.Site, "rows": rows})
	}
	wrong := lead.Post("/catalog/relays/import/preview", object{"site_id": world.Site, "rows": []object{rule("a", "item", "HC-050", "to_site", "Nowhere"),
		rule("b"), rule("c", "item", "NO-SUCH"), rule("d", "item", "HC-050", "how", "some")}}).JSON()
	if wrong["wrong"] != 4.0 {
		t.Fatalf("of four rules that cannot be, %v are wrong: %v", wrong["wrong"], wrong["rows"])
	}
	save(rule("Clamps for the loft", "item", "HC-050", "how", "target"), rule("Half the fluids", "handling", "fluid", "how", "share",
		"share_pct", "50", "release", "no")).JSON()
	if _, err := h.Owner.Exec(`
		INSERT INTO item_sites (item_id, site_id, target) VALUES ($1, 2, 9) ON CONFLICT (item_id, site_id) DO UPDATE SET target = 9`,
		world.Clamp); err != nil {
		t.Fatal(err)
	}
	come := func(clamps, fluid string) object {
		t.Helper()
		_, a := buy(t, lead, clamps, fluid)
		return a
	}
	a := come("12", "5")
	lines := a["lines"].([]any)
	in := object{"version": a["version"], "lines": []object{{"line_id": at(lines, 0, "id"), "quantity": "12"},
		{"line_id": at(lines, 1, "id"), "quantity": "5", "lots": []object{{"code": "FL-1", "expires_on": day(300), "quantity": "5"}}}}}
	if notes := fmt.Sprint(lead.Post(fmt.Sprintf("/arrivals/%d/receive/preview", id(a, "id")), in).JSON()["notes"]); !strings.Contains(notes,
		`9 of HC-050 move on to Other House by "Clamps for the loft"`) {
		t.Fatalf("before it is received it says %s", notes)
	}
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")), in).JSON()
	made := lead.Get("/transfer-orders?site=2&sort=number").Rows()
	if len(made) != 2 {
		t.Fatalf("made by themselves: %v", made)
	}
	loft, fluids := made[0], made[1]
	// 9 are its target, and it has none; half of five whole canisters are two.
	if loft["wanted"] != "9" || loft["state"] != "released" || fluids["wanted"] != "2" || fluids["state"] != "on_hold" ||
		!strings.Contains(loft["reason"].(string), a["number"].(string)+": Clamps for the loft") {
		t.Fatalf("it moves on as %v and %v", loft, fluids)
	}
	reserved := lead.Get("/reservations?site=1").Rows()
	if len(reserved) != 2 || reserved[0]["location"] != "Dock 1" {
		t.Fatalf("reserved are %v", reserved)
	}
	// Straight from the dock, and no other order takes them.
	picker.Post("/transfers", object{"from_id": world.Dock, "item_id": world.Clamp, "quantity": "4", "to": "A-02-1-A"}).
		Refused(409, "reserved", "", loft["number"].(string))
	packAll(lead, picker, id(loft, "id"))
	lead.Post("/shipments", object{"order_id": loft["id"]}).JSON()
	now := lead.Get(fmt.Sprintf("/transfer-orders/%d", id(loft, "id"))).JSON()
	if now["in_transit"] != "9" {
		t.Fatalf("%v are in transit", now["in_transit"])
	}
	// What is on its way counts: nothing more moves on to a site that has its target. What comes there moves nowhere.
	b := come("6", "1")
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(b, "id")), object{"version": b["version"], "lines": []object{
		{"line_id": at(b, "lines", 0, "id"), "quantity": "6"}}}).JSON()
	arrival := lead.Post("/arrivals", object{"order_ids": []any{at(now, "shipments", 0, "inbound_id")}, "dock_id": ramp}).JSON()
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")), object{"version": arrival["version"], "lines": []object{
		{"line_id": at(arrival, "lines", 0, "id"), "quantity": "9"}}}).JSON()
	if again := lead.Get("/transfer-orders?site=2").Rows(); len(again) != 2 {
		t.Errorf("more moved on: %v", again)
	}
	// A rule that is used no longer moves nothing.
	save(rule("Half the fluids", "handling", "fluid", "how", "share", "share_pct", "50", "release", "no", "retired", "yes")).JSON()
	h.Whole(t)
}
