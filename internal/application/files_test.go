package application_test

import (
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// TestTheListsOfTransfersAndReturnsComeAsFiles: picking bins, differences and suppliers' credits say in their files
// what they say on the page, row by row.
func TestTheListsOfTransfersAndReturnsComeAsFiles(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	ramp := otherSite(t, h)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 12)
	levels(lead, "HC-050 / HOME", "3", "9").JSON()
	rows := func(path string) (out [][]string) {
		t.Helper()
		for line := range strings.Lines(string(lead.Get(path).Body)) {
			out = append(out, strings.Split(strings.TrimSpace(line), ","))
		}
		if len(out) != 2 || len(out[0]) != len(out[1]) {
			t.Fatalf("%s has %d lines: %v", path, len(out), out)
		}
		return out
	}
	bins := rows("/picking-bins/export?site=1")
	if fmt.Sprint(bins[1]) != "[HC-050 Hook clamp 50 mm A-01-1-A 3 9 12 0 0 12 0]" {
		t.Errorf("the picking bin is written as %v", bins[1])
	}
	o := lead.Post("/transfer-orders", object{"from_site_id": 1, "to_site_id": 2, "wanted_on": day(0), "expected_on": day(2),
		"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": "4"}}}).JSON()
	packedFor(lead, o)
	lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	now := lead.Get(fmt.Sprintf("/transfer-orders/%d", id(o, "id"))).JSON()
	lead.Post("/arrivals", object{"order_ids": []any{at(now, "shipments", 0, "inbound_id")}, "dock_id": ramp}).JSON()
	c := lead.Post("/transfer-cases", object{"line_id": at(now, "expected", 0, "line_id"), "kind": "less", "quantity": "1",
		"note": "the strap was cut"}).JSON()
	cases := rows("/transfer-cases/export?site=2")
	if text := fmt.Sprint(cases[1]); !strings.HasPrefix(text, fmt.Sprintf("[%v %v Test House Other House HC-050 less 1", c["number"], o["number"])) ||
		!strings.Contains(text, "the strap was cut") {
		t.Errorf("the case is written as %v", text)
	}
	d := soldOnce(lead, world.Clamp, "2", true)
	r := lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Credit"), "lines": []object{
		back(lead.Get("/returnable?q=" + d["number"].(string)).JSONs()[0], "1")}}).JSON()
	comeIn(lead, r, "1").JSON()
	r = lead.Get(fmt.Sprintf("/returns/%d", id(r, "id"))).JSON()
	lead.Post(fmt.Sprintf("/returns/%d/decide", id(r, "id")), object{"version": r["version"], "line_id": at(r, "lines", 0, "id"),
		"fate": "supplier", "quantity": "1", "reason": "bad from the works", "supplier_id": world.Supplier}).JSON()
	credits := rows("/supplier-credits/export?site=1&sort=since")
	if text := fmt.Sprint(credits[1]); !strings.HasPrefix(text, fmt.Sprintf("[%v RS-", r["number"])) || !strings.Contains(text, "18.75") {
		t.Errorf("the credit is written as %v", text)
	}
	h.Whole(t)
}
