package application_test

import (
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// TestADifferenceIsACaseUntilItIsSettled ships ten clamps, of which six come as they should: one is found, one is back
// at the first site, one is lost and one came damaged. All of it stays in transit until somebody says so, nothing is
// settled twice, and what came besides is taken in out of what was lost and found.
func TestADifferenceIsACaseUntilItIsSettled(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker, office := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker"), world.SignOn(t, base, "office")
	dock := otherSite(t, h)
	for kind, code := range map[string]string{"damaged": "Broken goods", "quarantine": "Aside"} {
		if _, err := h.Owner.Exec(`INSERT INTO locations (site_id, kind, code) VALUES (2, $1, $2)`, kind, code); err != nil {
			t.Fatal(err)
		}
	}
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 12)
	o := lead.Post("/transfer-orders", object{"from_site_id": world.Site, "to_site_id": world.OtherSite, "wanted_on": soon,
		"expected_on": day(9), "release": true, "lines": []object{{"item_id": world.Clamp, "quantity": "10"}}}).JSON()
	op := fmt.Sprintf("/transfer-orders/%d", id(o, "id"))
	packAll(lead, picker, id(o, "id"))
	d := lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	now := lead.Get(op).JSON()
	line := at(now, "expected", 0, "line_id")
	if at(now, "expected", 0, "quantity") != "10" {
		t.Fatalf("expected are %v", now["expected"])
	}
	arrival := lead.Post("/arrivals", object{"order_ids": []any{at(now, "shipments", 0, "inbound_id")}, "dock_id": dock}).JSON()
	receive := func(n string) {
		a := lead.Get(fmt.Sprintf("/arrivals/%d", id(arrival, "id"))).JSON()
		lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")), object{"version": a["version"], "lines": []object{
			{"line_id": line, "quantity": n}}}).JSON()
	}
	receive("6")
	tell := func(kind, quantity string) world.Answer {
		return lead.Post("/transfer-cases", object{"line_id": line, "kind": kind, "quantity": quantity, "note": "as the tally says"})
	}
	picker.Post("/transfer-cases", object{"line_id": line, "kind": "less", "quantity": "1"}).Refused(403, "role", "")
	tell("less", "5").Refused(409, "over_in_transit", "quantity", "4 of HC-050 are in transit", "not 5")
	tell("less", "1.5").Refused(422, "quantity_fraction", "quantity")
	var cases []object
	for _, kind := range []string{"less", "less", "less", "damaged"} {
		cases = append(cases, tell(kind, "1").JSON())
	}
	tell("less", "1").Refused(409, "over_in_transit", "quantity", "0 of HC-050")
	more := tell("more", "2").JSON()
	lead.Post(fmt.Sprintf("/shipments/%d/take-back", id(d, "id")), object{"reason": "by mistake"}).Refused(409, "goods_gone", "")
	if open := lead.Get("/transfer-cases?site=1").JSONs(); len(open) != 5 || open[0]["arrival"] == "" {
		t.Fatalf("open are %v", open)
	}
	stands := func(transit, received, elsewhere, state string) {
		t.Helper()
		now := lead.Get(op).JSON()
		if now["in_transit"] != transit || now["received"] != received || now["elsewhere"] != elsewhere || now["state"] != state {
			t.Fatalf("in transit %v, received %v, elsewhere %v: it is %v", now["in_transit"], now["received"],
				now["elsewhere"], now["state"])
		}
	}
	stands("4", "6", "0", "partly_received")

	settle := func(c *world.Client, of object, outcome, reason string) world.Answer {
		return c.Post(fmt.Sprintf("/transfer-cases/%d/settle", id(of, "id")), object{"outcome": outcome, "reason": reason})
	}
	settle(office, cases[2], "lost", "the carrier has no trace").Refused(403, "lead_decides", "outcome")
	settle(lead, cases[2], "lost", "").Refused(422, "reason_missing", "reason")
	settle(lead, more, "lost", "what is here is not").Refused(422, "bad_outcome", "outcome")
	settle(office, cases[0], "received", "").JSON()
	stands("3", "7", "0", "partly_received")
	settle(office, cases[1], "back", "it was left at the gate").JSON()
	stands("2", "7", "1", "partly_received")
	lost := settle(lead, cases[2], "lost", "the carrier has no trace").JSON()
	if lost["value"] == "0" || lost["settled_by"] == "" {
		t.Errorf("what is lost is worth %v", lost["value"])
	}
	settle(lead, cases[2], "back", "").Refused(409, "case_settled", "", "lost on the way")
	settle(office, cases[3], "received", "a jaw is bent").JSON()
	stands("0", "8", "2", "closed")
	settle(office, more, "received", "").JSON()
	if h.Holds(t, dock, world.Clamp) != "9" || h.Holds(t, h.Bin(t, "Dock 1"), world.Clamp) != "1" ||
		h.Holds(t, h.Bin(t, "Broken goods"), world.Clamp) != "1" {
		t.Errorf("the ramp holds %s, the first site's dock %s", h.Holds(t, dock, world.Clamp), h.Holds(t, h.Bin(t, "Dock 1"), world.Clamp))
	}
	if open := lead.Get("/transfer-cases?site=2").JSONs(); len(open) != 0 {
		t.Errorf("still open: %v", open)
	}
	h.Whole(t)
}

// TestAnotherLotCame ships one lot and has another come: both sites' books are right once that is settled. A case about
// what is found later and received as any goods moves nothing more.
func TestAnotherLotCame(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	dock := otherSite(t, h)
	h.StockLot(t, world.Fluid, h.Lot(t, world.Fluid, "SENT", 200), h.Bin(t, "B-01-1-A"), 4)
	h.StockLot(t, world.Fluid, h.Lot(t, world.Fluid, "CAME", 300), h.Bin(t, "B-02-1-A"), 4)
	o := lead.Post("/transfer-orders", object{"from_site_id": world.Site, "to_site_id": world.OtherSite, "wanted_on": soon,
		"expected_on": day(9), "release": true, "lines": []object{{"item_id": world.Fluid, "quantity": "4"}}}).JSON()
	op := fmt.Sprintf("/transfer-orders/%d", id(o, "id"))
	packAll(lead, picker, id(o, "id"))
	lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	now := lead.Get(op).JSON()
	line := at(now, "expected", 0, "line_id")
	lead.Post("/transfer-cases", object{"line_id": line, "kind": "other_lot", "quantity": "3", "lot": "CAME", "came_lot": "SENT"}).
		Refused(409, "not_in_transit", "lot", "no 3 of HZ-500 CAME in transit")
	lead.Post("/transfer-cases", object{"line_id": line, "kind": "other_lot", "quantity": "3", "lot": "SENT"}).Refused(422,
		"lot_missing", "came_lot")
	swap := lead.Post("/transfer-cases", object{"line_id": line, "kind": "other_lot", "quantity": "3", "lot": "SENT",
		"came_lot": "CAME"}).JSON()
	less := lead.Post("/transfer-cases", object{"line_id": line, "kind": "less", "quantity": "1", "lot": "SENT"}).JSON()
	look := lead.Post(fmt.Sprintf("/transfer-cases/%d/settle/preview", id(swap, "id")), object{"outcome": "received"}).JSON()
	if len(look["moves"].([]any)) != 2 {
		t.Fatalf("it would move %v", look["moves"])
	}
	lead.Post(fmt.Sprintf("/transfer-cases/%d/settle", id(swap, "id")), object{"outcome": "received"}).JSON()
	arrival := lead.Post("/arrivals", object{"order_ids": []any{at(now, "shipments", 0, "inbound_id")}, "dock_id": dock}).JSON()
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")), object{"version": arrival["version"], "lines": []object{
		{"line_id": line, "quantity": "1", "lots": []object{{"code": "SENT", "expires_on": day(200), "quantity": "1"}}}}}).JSON()
	look = lead.Post(fmt.Sprintf("/transfer-cases/%d/settle/preview", id(less, "id")), object{"outcome": "received"}).JSON()
	if !strings.Contains(fmt.Sprint(look["notes"]), "received meanwhile") {
		t.Errorf("what was found is said to be %v", look)
	}
	lead.Post(fmt.Sprintf("/transfer-cases/%d/settle", id(less, "id")), object{"outcome": "received"}).JSON()
	if now = lead.Get(op).JSON(); now["state"] != "received" || now["received"] != "4" {
		t.Errorf("it is %v with %v received", now["state"], now["received"])
	}
	h.Whole(t)
}

// TestAUnitThatWasNeverSentHasItsSerial sends one of three spots, and has another come besides: it is a case with its
// serial, and is taken in from where it stood by the books. Units that are elsewhere, or nowhere, came by no mistake in
// sending.
func TestAUnitThatWasNeverSentHasItsSerial(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	dock := otherSite(t, h)
	shelf := h.Bin(t, "A-02-1-A")
	h.StockUnits(t, world.Spot, shelf, "S-1", "S-2", "S-3")
	h.StockUnits(t, world.Spot, dock, "S-9")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
	o := lead.Post("/transfer-orders", object{"from_site_id": world.Site, "to_site_id": world.OtherSite, "wanted_on": soon,
		"expected_on": day(9), "release": true,
		"lines": []object{{"item_id": world.Spot, "quantity": "1", "serials": []string{"S-1"}}}}).JSON()
	op := fmt.Sprintf("/transfer-orders/%d", id(o, "id"))
	round, rp := roundFor(lead, picker, id(o, "id"))
	stop := at(round, "stops", 0).(object)
	sscc, _ := blank(lead, picker, rp, id(o, "id"))
	picker.Post(rp+"/pick", object{"stop_id": stop["id"], "bin": stop["bin"], "item": "SP-150", "carton": sscc, "quantity": "1",
		"serials": []string{"S-1"}}).JSON()
	lead.Post(rp+"/ship", object{"order_ids": []any{o["id"]}}).JSONs()
	now := lead.Get(op).JSON()
	half, line := at(now, "shipments", 0, "inbound_id"), at(now, "expected", 0, "line_id")
	besides := func(quantity string, units ...string) world.Answer {
		return lead.Post("/transfer-cases", object{"inbound_id": half, "kind": "more", "item_id": world.Spot, "quantity": quantity,
			"serials": units})
	}
	besides("1").Refused(422, "serials_total", "serials", "0 serials are entered for 1 of SP-150")
	besides("1", "S-1").Refused(409, "serial_elsewhere", "serials", "in transit already")
	besides("1", "S-9").Refused(409, "serial_in_stock", "serials", "is here already")
	besides("1", "S-77").Refused(409, "serial_not_ours", "serials", "never in our books")
	lead.Post("/transfer-cases", object{"line_id": line, "item_id": world.Clamp, "kind": "less", "quantity": "1"}).
		Refused(422, "line_unknown", "item_id", "Only what came besides")
	first, second := besides("1", "S-2").JSON(), besides("1", "S-3").JSON()
	other := lead.Post("/transfer-cases", object{"inbound_id": half, "kind": "more", "item_id": world.Clamp, "quantity": "2"}).JSON()
	if at(first, "serials", 0) != "S-2" || other["sku"] != "HC-050" {
		t.Fatalf("the cases are about %v and %v", first["serials"], other["sku"])
	}
	settle := func(c object, outcome string) world.Answer {
		return lead.Post(fmt.Sprintf("/transfer-cases/%d/settle", id(c, "id")), object{"outcome": outcome})
	}
	look := lead.Post(fmt.Sprintf("/transfer-cases/%d/settle/preview", id(first, "id")), object{"outcome": "received"}).JSON()
	if move := at(look, "moves", 0); at(move, "serials", 0) != "S-2" || at(move, "from") != "A-02-1-A" {
		t.Errorf("it would move %v", move)
	}
	settle(first, "received").JSON()
	settle(second, "back").JSON()
	settle(other, "received").JSON()
	for _, want := range []struct {
		at   int32
		item int32
		n    string
	}{{shelf, world.Spot, "1"}, {dock, world.Spot, "2"}, {dock, world.Clamp, "2"}} {
		if got := h.Holds(t, want.at, want.item); got != want.n {
			t.Errorf("%s of item %d are at %d, not %s", got, want.item, want.at, want.n)
		}
	}
	// What was taken in is no part of what was sent: that is in transit still.
	if now = lead.Get(op).JSON(); now["state"] != "in_transit" || now["in_transit"] != "1" {
		t.Errorf("it is %v with %v in transit", now["state"], now["in_transit"])
	}
	h.Whole(t)
}
