package application_test

import (
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// TestBetweenSitesInsteadOfBuying: what is short here and to spare there, beyond its target and promises, is offered as
// a transfer with its day; one that is written for an order's line counts as on order for it, and what comes is
// reserved for it.
func TestBetweenSitesInsteadOfBuying(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	ramp := otherSite(t, h)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 20)
	h.Owner.MustExec(`UPDATE item_sites SET target = 6 WHERE item_id = 1 AND site_id = 1`)
	h.Owner.MustExec(`INSERT INTO item_sites (item_id, site_id, reorder_point, target) VALUES (1, 2, 4, 9)`)
	sellNow(lead, world.Clamp, "3")
	// 20 less 3 that are promised less the target of 6.
	s := lead.Get("/suggestions?site=2").JSONs()[0]
	spare := at(s, "elsewhere", 0)
	if at(spare, "site") != "Test House" || at(spare, "spare") != "11" || at(spare, "in_time") != true {
		t.Fatalf("elsewhere there is %v", s["elsewhere"])
	}
	order := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": 2, "wanted_on": day(4), "release": true,
		"lines": []object{{"item_id": world.Clamp, "quantity": "5"}}}).JSON()
	cover := func() object { return lead.Get(fmt.Sprintf("/sales-orders/%d/cover", id(order, "id"))).JSONs()[0] }
	c := cover()
	if c["short"] != "5" || at(c, "elsewhere", 0, "spare") != "11" {
		t.Fatalf("the order is short of %v", c)
	}
	transfer := func(line object) world.Answer {
		return lead.Post("/transfer-orders", object{"from_site_id": 1, "to_site_id": 2, "wanted_on": day(0), "expected_on": day(2),
			"release": true, "lines": []object{line}})
	}
	line := object{"item_id": world.Clamp, "quantity": "5", "covers": c["line_id"]}
	transfer(object{"item_id": world.Heavy, "quantity": "5", "covers": c["line_id"]}).Refused(409, "line_unknown", "lines[0].covers")
	made := transfer(line).JSON()
	if c = cover(); c["short"] != "0" || c["on_order"] != "5" {
		t.Fatalf("with a transfer the order is short of %v", c)
	}
	packAll(lead, picker, id(made, "id"))
	lead.Post("/shipments", object{"order_id": made["id"]}).JSON()
	if c = cover(); c["short"] != "0" || c["on_order"] != "5" {
		t.Fatalf("in transit, the order is short of %v", c)
	}
	half := at(lead.Get(fmt.Sprintf("/transfer-orders/%d", id(made, "id"))).JSON(), "shipments", 0, "inbound_id")
	a := lead.Post("/arrivals", object{"order_ids": []any{half}, "dock_id": ramp}).JSON()
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")), object{"version": a["version"], "lines": []object{
		{"line_id": at(a, "lines", 0, "id"), "quantity": "5"}}}).JSON()
	reserved := lead.Get("/reservations?site=2").Rows()
	if len(reserved) != 1 || reserved[0]["quantity"] != "5" || reserved[0]["order"] != order["number"] {
		t.Errorf("reserved is %v", reserved)
	}
	h.Whole(t)
}

// TestWhatGoesIsChosen: a transfer names its lot or its units, which are reserved and no others go; what is not free is
// refused with how many are.
func TestWhatGoesIsChosen(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	otherSite(t, h)
	h.StockUnits(t, world.Spot, h.Bin(t, "A-02-1-A"), "CH-1", "CH-2", "CH-3")
	soon, late := h.Lot(t, world.Cloth, "SOON", 100), h.Lot(t, world.Cloth, "LATE", 400)
	h.StockLot(t, world.Cloth, soon, h.Bin(t, "A-01-1-A"), 9)
	h.StockLot(t, world.Cloth, late, h.Bin(t, "A-03-1-A"), 6)
	transfer := func(line object) world.Answer {
		return lead.Post("/transfer-orders", object{"from_site_id": 1, "to_site_id": 2, "wanted_on": day(0), "expected_on": day(2),
			"release": true, "lines": []object{line}})
	}
	transfer(object{"item_id": world.Cloth, "quantity": "7", "lot_id": *late}).Refused(409, "not_enough", "lines[0].quantity",
		"6 of that lot of CL-BLK are free at Test House, not 7")
	transfer(object{"item_id": world.Spot, "quantity": "2", "serials": []string{"CH-1"}}).Refused(422, "serials_total", "lines[0].serials")
	transfer(object{"item_id": world.Spot, "quantity": "1", "serials": []string{"CH-9"}}).Refused(409, "serial_gone", "lines[0].serials")
	transfer(object{"item_id": world.Cloth, "quantity": "1", "serials": []string{"CH-1"}}).Refused(422, "serial_unwanted", "lines[0].serials")
	cloth := transfer(object{"item_id": world.Cloth, "quantity": "5", "lot_id": *late}).JSON()
	spots := transfer(object{"item_id": world.Spot, "quantity": "2", "serials": []string{"CH-3", "CH-1"}}).JSON()
	transfer(object{"item_id": world.Spot, "quantity": "1", "serials": []string{"CH-3"}}).Refused(409, "serial_gone", "lines[0].serials")
	plan := lead.Post("/pick/plan", object{"site_id": 1, "order_ids": []any{cloth["id"], spots["id"]}}).JSON()
	if text := fmt.Sprint(plan["stops"]); strings.Contains(text, "SOON") || strings.Contains(text, "CH-2") ||
		!strings.Contains(text, "CH-1") {
		t.Errorf("a round would take %s", text)
	}
	_, rp := roundFor(lead, picker, id(cloth, "id"))
	if stop := at(lead.Get(rp).JSON(), "stops", 0); at(stop, "lot") != "LATE" {
		t.Errorf("it takes lot %v", at(stop, "lot"))
	}
	h.Whole(t)
}
