package application_test

import (
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// otherSite gives the house's other site a dock and a gate, so that goods can come and leave there.
func otherSite(t *testing.T, h *world.House) (dock int32) {
	t.Helper()
	if err := h.Owner.Get(&dock, `
		INSERT INTO locations (site_id, kind, code) VALUES (2, 'dock', 'Ramp') RETURNING id`); err != nil {
		t.Fatal(err)
	}
	return dock
}

// pack takes all of a round into a carton, to the bench, and closes it.
func packAll(lead, picker *world.Client, order int64) {
	r, rp := roundFor(lead, picker, order)
	sscc, carton := blank(lead, picker, rp, order)
	takeAll(picker, rp, sscc, r)
	picker.Post(rp+"/stage", object{}).JSON()
	picker.Post(fmt.Sprintf("/cartons/%d/pack", carton), object{}).JSON()
}

// TestATransferHasTwoHalves: what is shipped at one site is in transit, on neither site's shelves, until
// it is received at the other, in parts; never more than was shipped.
func TestATransferHasTwoHalves(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	dock := otherSite(t, h)
	bin := h.Bin(t, "A-01-1-A")
	h.Stock(t, world.Clamp, bin, 8)
	wish := func(more object) object {
		in := object{"from_site_id": world.Site, "to_site_id": world.OtherSite, "wanted_on": soon, "expected_on": day(9),
			"reason": "for the season", "release": true, "lines": []object{{"item_id": world.Clamp, "quantity": "10"}}}
		for k, v := range more {
			in[k] = v
		}
		return in
	}
	lead.Post("/transfer-orders", wish(object{"to_site_id": world.Site})).Refused(422, "same_site", "to_site_id")
	lead.Post("/transfer-orders", wish(object{"to_site_id": 9})).Refused(404, "unknown", "", "no site 9")
	lead.Post("/transfer-orders", wish(object{"expected_on": day(-1), "wanted_on": day(0)})).Refused(422, "bad_range",
		"expected_on", "cannot be there")
	lead.Post("/transfer-orders", wish(object{"wanted_on": day(-3)})).Refused(409, "day_past", "wanted_on")
	lead.Post("/transfer-orders", wish(object{"lines": []object{{"item_id": world.Clamp, "quantity": "1.5"}}})).Refused(422,
		"quantity_fraction", "lines[0].quantity")
	lead.Post("/transfer-orders", wish(object{"carrier": "Nobody"})).Refused(422, "carrier_unknown", "carrier")
	picker.Post("/transfer-orders", wish(nil)).Refused(403, "role", "")
	look := lead.Post("/transfer-orders/preview", wish(nil)).JSON()
	if at(look, "lines", 0, "from_free") != "8" || at(look, "lines", 0, "from_free_after") != "-2" ||
		at(look, "lines", 0, "to_free_after") != "10" || !strings.Contains(fmt.Sprint(look["warnings"]), "8 of HC-050 are free") {
		t.Fatalf("the outlook is %v", look)
	}
	o := lead.Post("/transfer-orders", wish(nil)).JSON()
	op := fmt.Sprintf("/transfer-orders/%d", id(o, "id"))
	stands := func(state, shipped, transit, received string) {
		t.Helper()
		now := lead.Get(op).JSON()
		if now["state"] != state || now["shipped"] != shipped || now["in_transit"] != transit || now["received"] != received {
			t.Fatalf("the transfer is %v: %v shipped, %v in transit, %v received", now["state"], now["shipped"],
				now["in_transit"], now["received"])
		}
	}
	stands("released", "0", "0", "0")
	held := lead.Post(op+"/hold", object{"version": o["version"]}).JSON()
	lead.Post(op+"/hold", object{"version": held["version"]}).Refused(409, "order_not_released", "", "is on hold")
	lead.Post(op+"/release", object{"version": o["version"]}).Refused(409, "stale", "version")
	lead.Post(op+"/release", object{"version": held["version"]}).JSON()

	// The other site counts on what is released for it.
	course := lead.Get(fmt.Sprintf("/items/%d/course?site=2", world.Clamp)).JSON()
	if at(course, "lines", 0, "document") != o["number"] || at(course, "lines", 0, "after") != "10" ||
		at(course, "lines", 0, "on") != day(9) {
		t.Errorf("the other site expects %v", course["lines"])
	}
	found := lead.Get("/scan?site=2&text=" + o["number"].(string)).JSON()["found"].([]any)
	if len(found) != 1 || at(found[0], "kind") != "transfer" {
		t.Errorf("its number is read as %v", found)
	}

	// 8 of 10 go: they are in transit, ours, and on neither site's shelves.
	packAll(lead, picker, id(o, "id"))
	lead.Post(op+"/hold", object{"version": lead.Get(op).JSON()["version"]}).Refused(409, "order_on_the_floor", "", "8 are")
	first := lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	stands("partly_shipped", "8", "8", "0")
	transit := lead.Get("/in-transit?site=2").Rows()
	if len(transit) != 1 || transit[0]["quantity"] != "8" || transit[0]["to"] != "Other House" ||
		len(lead.Get("/in-transit?site=1").Rows()) != 1 {
		t.Fatalf("in transit: %v", transit)
	}
	if h.Holds(t, bin, world.Clamp) != "0" || h.Holds(t, dock, world.Clamp) != "0" {
		t.Fatal("goods in transit lie on a shelf")
	}
	// Received in parts, never more than was shipped, and no lot or unit that was not in it.
	half := at(lead.Get(op).JSON(), "shipments", 0).(object)
	arrival := lead.Post("/arrivals", object{"order_ids": []any{half["inbound_id"]}, "dock_id": dock}).JSON()
	ap, line := fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")), at(arrival, "lines", 0, "id")
	came := func(quantity string) object {
		return object{"version": arrival["version"], "lines": []object{{"line_id": line, "quantity": quantity}}}
	}
	lead.Post(ap, came("9")).Refused(422, "over_allowance", "lines[0].quantity", "8")
	arrival = lead.Post(ap, came("5")).JSON()
	stands("partly_shipped", "8", "3", "5")
	// A shipment of which something came cannot be taken back.
	back := fmt.Sprintf("/shipments/%d/take-back", id(first, "id"))
	lead.Post(back, object{"reason": "wrong lorry"}).Refused(409, "goods_gone", "", "5 of D-")
	lead.Post(ap, came("3")).JSON()
	stands("partly_shipped", "8", "0", "8")
	if h.Holds(t, dock, world.Clamp) != "8" || len(lead.Get("/in-transit?site=2").Rows()) != 0 {
		t.Fatal("what came is not at the dock")
	}

	// The rest is cancelled: nothing is open, and the transfer is over.
	lead.Post(op+"/cancel-open", object{"version": lead.Get(op).JSON()["version"]}).JSON()
	stands("received", "8", "0", "8")
	lead.Post(op+"/cancel-open", object{"version": lead.Get(op).JSON()["version"]}).Refused(409, "order_over", "")
	if rows := lead.Get("/transfer-orders?site=2").Rows(); len(rows) != 1 || rows[0]["state"] != "received" ||
		len(lead.Get("/transfer-orders?site=2&open=true").Rows()) != 0 {
		t.Fatalf("the other site's transfers are %v", rows)
	}
	h.Whole(t)

	// A shipment that went by mistake is taken back: nothing is expected any more, until it goes again.
	h.Stock(t, world.Clamp, bin, 2)
	o = lead.Post("/transfer-orders", wish(object{"lines": []object{{"item_id": world.Clamp, "quantity": "2"}}})).JSON()
	op = fmt.Sprintf("/transfer-orders/%d", id(o, "id"))
	packAll(lead, picker, id(o, "id"))
	went := lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	stands("in_transit", "2", "2", "0")
	arrival = lead.Post("/arrivals", object{"order_ids": []any{at(lead.Get(op).JSON(), "shipments", 0, "inbound_id")},
		"dock_id": dock}).JSON()
	lead.Post(fmt.Sprintf("/shipments/%d/take-back", id(went, "id")), object{"reason": "wrong lorry"}).JSON()
	stands("released", "0", "0", "0")
	if now := lead.Get(fmt.Sprintf("/arrivals/%d", id(arrival, "id"))).JSON(); now["state"] != "done" {
		t.Errorf("the arrival is %v", now["state"])
	}
	lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	stands("in_transit", "2", "2", "0")
	if n := h.Runner.Disorder(); n != 0 {
		t.Errorf("%d were held out of order", n)
	}
	h.Whole(t)
}
