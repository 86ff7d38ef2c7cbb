package application_test

import (
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/core/gs1"
	"lanternrow/internal/test/world"
)

func figures(c *world.Client, sku string) object {
	var found []object
	c.Get("/items?site=1&q=" + sku).Into(&found)
	return at(found[0], "figures").(object)
}

// TestGoodsWaitOnTheDockForTheRestOfTheirOrder brings two orders on one vehicle; what came
// of the one waits for the rest, and is free in the moment that comes.
func TestGoodsWaitOnTheDockForTheRestOfTheirOrder(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, c := world.SignOn(t, base, "lead"), world.SignOn(t, base, "receiver")
	sent := func(lines ...object) object {
		return lead.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site,
			"expected_on": soon, "send": true, "lines": lines}).JSON()
	}
	first := sent(object{"item_id": world.Clamp, "quantity": "20"}, object{"item_id": world.Spot, "quantity": "2"})
	second, third := sent(object{"item_id": world.Clamp,
		"quantity": "5"}), sent(object{"item_id": world.Heavy, "quantity": "3"})
	// A second arrival for an order that has one open is asked about.
	stands := c.Post("/arrivals", object{"order_ids": []int64{id(second, "id")}, "dock_id": world.Dock}).JSON()
	again := object{"order_ids": []int64{id(first, "id"), id(second, "id")}, "dock_id": world.Dock}
	c.Post("/arrivals", again).Refused(409, "arrival_stands", "order_ids", stands["number"].(string)+" is open for")
	of := c.Get(fmt.Sprintf("/arrivals?site=1&order=%d", id(second, "id"))).JSONs()
	if none := c.Get(fmt.Sprintf("/arrivals?site=1&order=%d", id(first, "id"))).JSONs(); len(of) != 1 || len(none) != 0 {
		t.Errorf("open for the second order: %v, for the first: %v", of, none)
	}
	arrival := c.Post("/arrivals", object{"another": true, "order_ids": []int64{id(first, "id"), id(second, "id")},
		"dock_id": world.Dock, "waits": true}).JSON()
	path := fmt.Sprintf("/arrivals/%d", id(arrival, "id"))
	if len(arrival["lines"].([]any)) != 3 || arrival["order"] != fmt.Sprint(first["number"], ", ", second["number"]) {
		t.Fatalf("two orders are on it: %v", arrival)
	}
	arrival = c.Post(path+"/orders", object{"version": 1, "order_id": id(third, "id")}).JSON()
	book := func(lines ...object) object {
		return c.Post(path+"/receive", object{"version": arrival["version"], "lines": lines}).JSON()
	}
	line := func(i int) any { return at(arrival, "lines", i, "id") }
	clamps := object{"line_id": line(0), "quantity": "20"}
	plan := c.Post(path+"/receive/preview", object{"version": arrival["version"], "lines": []object{clamps}}).JSON()
	if !has(plan["notes"], fmt.Sprintf("20 of HC-050 wait on the dock until %v is complete", first["number"])) ||
		at(plan, "changes", 0, "after") != "20" || at(plan, "changes", 1, "after") != "0" {
		t.Fatalf("before and after says %v", plan)
	}
	arrival = book(clamps)
	if f := figures(c, "HC-050"); f["on_hand"] != "20" || f["free"] != "0" {
		t.Errorf("waiting goods are on hand and not free: %v", f)
	}
	// They cannot be put away, moved, picked or promised meanwhile.
	c.Post("/put-away", object{"location_id": world.Dock, "item_id": world.Clamp, "quantity": "5",
		"locations": []object{{"bin": "A-01-1-A",
			"quantity": "5"}}}).Refused(409, "not_enough", "quantity", "holds 0 of HC-050")
	c.Post("/transfers", object{"from_id": world.Dock, "to": "A-01-1-A", "item_id": world.Clamp,
		"quantity": "5"}).Refused(409, "not_enough", "")
	var waiting []object
	c.Get("/put-away/waiting?site=1").Into(&waiting)
	if len(waiting) != 0 {
		t.Errorf("on the list to be putAway: %v", waiting)
	}
	// The second order is complete at once: its goods do not wait. So are those of a line that completes the first.
	arrival = book(object{"line_id": line(2), "quantity": "5"})
	if f := figures(c, "HC-050"); f["free"] != "5" {
		t.Errorf("a complete order's goods are free: %v", f)
	}
	arrival = book(object{"line_id": line(1), "quantity": "2", "serials": []string{"S1", "S2"}})
	if f := figures(c, "HC-050"); f["free"] != "25" || at(arrival, "orders", 0, "state") != "received" ||
		arrival["state"] != "open" {
		t.Errorf("the rest came: %v, %v", f, arrival["orders"])
	}
	// What is released is taken back as any other.
	for i, b := range arrival["receipts"].([]any) {
		if at(b, "quantity") == "20" {
			arrival = c.Post(path+"/undo", object{"version": arrival["version"], "move_id": at(arrival, "receipts", i,
				"move_id"), "reason": "Counted twice"}).JSON()
		}
	}
	if f := figures(c, "HC-050"); f["on_hand"] != "5" {
		t.Errorf("taken back: %v", f)
	}
	arrival = book(object{"line_id": line(0), "quantity": "7"})
	// A lead releases it without the rest.
	order := lead.Get(fmt.Sprintf("/purchase-orders/%d", id(first, "id"))).JSON()
	waits := lead.Get("/purchase-orders?site=1&list=waiting").JSON()
	if len(waits["orders"].([]any)) != 1 {
		t.Errorf("waiting on the dock: %v", waits["orders"])
	}
	release := fmt.Sprintf("/purchase-orders/%d/release", id(first, "id"))
	lead.Post(release, object{"version": order["version"]}).JSON()
	if f := figures(c, "HC-050"); f["free"] != "12" {
		t.Errorf("released: %v", f)
	}
	lead.Post(release, object{"version": 0}).Refused(409, "nothing_waits", "")
	h.Whole(t)
}

func TestAnArrivalTakesOrdersOfOneSupplierAndSite(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	if _, err := h.Owner.Exec(`
		INSERT INTO locations (kind, code)
		VALUES ('supplier', 'SU2'); INSERT INTO parties (kind, code, name, location_id)
		  VALUES ('supplier', 'SU2', 'Another House', (SELECT id FROM locations WHERE code = 'SU2'))`); err != nil {
		t.Fatal(err)
	}
	_, arrival := order(t, c, nil, object{"item_id": world.Clamp, "quantity": "5"})
	for _, x := range []struct {
		order object
		code  string
		words string
	}{
		{object{"supplier_id": 3, "site_id": world.Site}, "order_elsewhere", "with Another House"},
		{object{"supplier_id": world.Supplier, "site_id": world.OtherSite}, "order_elsewhere", "to one site"},
		{object{"supplier_id": world.Supplier, "site_id": world.Site, "send": false}, "order_not_open", "is draft"},
	} {
		body := object{"expected_on": soon, "send": true, "lines": []object{{"item_id": world.Clamp, "quantity": "5"}}}
		for k, v := range x.order {
			body[k] = v
		}
		o := c.Post("/purchase-orders", body).JSON()
		c.Post(fmt.Sprintf("/arrivals/%d/orders", id(arrival, "id")),
			object{"version": 1, "order_id": id(o, "id")}).Refused(409, x.code, "order_ids", x.words)
	}
}

// TestAPalletIsPutAwayInOneScan receives goods on pallets, puts away one as it came, picks off
// it, and finds each by its number.
func TestAPalletIsPutAwayInOneScan(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, c := world.SignOn(t, base, "lead"), world.SignOn(t, base, "receiver")
	if _, err := h.Owner.Exec(`UPDATE items SET inspect_pct = 10 WHERE id = 2`); err != nil {
		t.Fatal(err)
	}
	_, arrival := order(t, lead, nil, object{"item_id": world.Clamp, "quantity": "48"},
		object{"item_id": world.Spot, "quantity": "2"}, object{"item_id": world.Fluid, "quantity": "10"})
	path := fmt.Sprintf("/arrivals/%d", id(arrival, "id"))
	sscc, err := gs1.MakeSSCC(3, "9529999", 77)
	if err != nil {
		t.Fatal(err)
	}
	book := func(carton object, lines ...object) world.Answer {
		return c.Post(path+"/receive", object{"version": arrival["version"], "carton": carton, "lines": lines})
	}
	clamps := func(q string) object { return object{"line_id": at(arrival, "lines", 0, "id"), "quantity": q} }
	book(object{"kind": "pallet", "sscc": sscc[:17] + "0"}, clamps("1")).Refused(422, "check_digit", "carton.sscc")
	arrival = book(object{"kind": "pallet", "sscc": "(00)" + sscc}, clamps("20")).JSON()
	arrival = book(object{"kind": "pallet", "sscc": sscc}, object{"line_id": at(arrival, "lines", 1, "id"),
		"quantity": "2", "serials": []string{"S1", "S2"}}).JSON()
	arrival = book(object{"kind": "carton"}, clamps("12"), object{"line_id": at(arrival, "lines", 2, "id"),
		"quantity": "10", "lots": []object{{"code": "L1", "expires_on": "2029-01-01", "quantity": "10"}}}).JSON()
	var pallets []object
	c.Get("/put-away/pallets?site=1").Into(&pallets)
	if len(pallets) != 2 || pallets[0]["sscc"] != sscc || len(pallets[0]["holds"].([]any)) != 2 {
		t.Fatalf("on the dock: %v", pallets)
	}
	// What is inspected does not stay on the carton.
	if at(pallets[1], "holds", 1, "quantity") != "9" {
		t.Errorf("on the carton: %v", pallets[1]["holds"])
	}
	// The new number's label waits at the printer; the supplier's own has one.
	queue := c.Get("/printer?site=1").JSON()
	titles := []string{}
	for _, j := range queue["waiting"].([]any) {
		titles = append(titles, at(j, "title").(string))
	}
	if all := strings.Join(titles, "|"); strings.Count(all, "carton …") != 1 || strings.Contains(all, "pallet") ||
		!strings.Contains(all, "SP-150 serial S1") {
		t.Errorf("labels: %v", titles)
	}
	putAway := func(pallet object, bin string) world.Answer {
		return c.Post("/put-away/pallets", object{"carton_id": pallet["id"], "bin": bin})
	}
	putAway(pallets[1], "A-01-1-A").Refused(422, "bin_full", "bin", "HZ-500", "does not take fluid")
	putAway(pallets[0], "Gate").Refused(422, "not_a_bin", "bin")
	h.Stock(t, world.Heavy, h.Bin(t, "A-04-1-A"), 5)
	putAway(pallets[0], "A-04-1-A").Refused(422, "bin_full", "bin",
		"can take 19 of HC-050, not the 20 that stand on it")
	var offers []object
	c.Get(fmt.Sprintf("/put-away/pallets/%d/bins", id(pallets[0], "id"))).Into(&offers)
	if offers[0]["bin"] != "A-01-1-A" || !has(offers[0]["why"], "the item's home bin") {
		t.Fatalf("offered %v", offers)
	}
	for _, o := range offers {
		if o["bin"] == "A-04-1-A" {
			t.Error("a bin that cannot take it is offered")
		}
	}
	plan := putAway(pallets[0], "a-01-1-a").JSON()
	if len(plan["moves"].([]any)) != 2 || h.Holds(t, h.Bin(t, "A-01-1-A"), world.Clamp) != "20" ||
		h.Holds(t, h.Bin(t, "A-01-1-A"), world.Spot) != "2" {
		t.Fatalf("putAway: %v", plan)
	}
	putAway(pallets[0], "A-01-1-A").Refused(422, "same_location", "bin")
	read := c.Get("/scan?site=1&text=%5DC100" + sscc).JSON()
	if at(read, "found", 0, "label") != "pallet, in A-01-1-A" {
		t.Errorf("its label reads %v", read["found"])
	}
	// Orders are served off it, and a transfer takes goods down.
	if f := figures(c, "HC-050"); f["free"] != "32" || f["in_cartons"] != "0" {
		t.Errorf("%v", f)
	}
	o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": "8"}}}).JSON()
	p := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []int64{id(o, "id")}}).JSON()
	s := at(p, "stops", 0).(object)
	if s["carton"] != sscc {
		t.Fatalf("planned %v", s)
	}
	round := lead.Post("/rounds",
		object{"site_id": world.Site, "stops": []object{{"line_id": s["line_id"], "location_id": s["location_id"],
			"carton_id": s["carton_id"], "quantity": "8"}}}).JSON()
	from := object{"from_id": h.Bin(t, "A-01-1-A"), "to": "A-02-1-A", "item_id": world.Clamp, "quantity": "13",
		"carton_id": pallets[0]["id"]}
	c.Post("/transfers", from).Refused(409, "reserved", "", "8 of them are reserved for S-3301", "At most 12")
	from["quantity"] = "12"
	c.Post("/transfers", from).JSON()
	picker := world.SignOn(t, base, "picker")
	rp := fmt.Sprintf("/rounds/%d", id(round, "id"))
	picker.Post(rp+"/start", nil).JSON()
	var labels []object
	lead.Post("/cartons", object{"site_id": world.Site, "count": 1}).Into(&labels)
	picker.Post(rp+"/cartons", object{"scan": labels[0]["sscc"]}).JSON()
	done := picker.Post(rp+"/pick", object{"stop_id": at(round, "stops", 0, "id"), "bin": "A-01-1-A",
		"item": "HC-050", "carton": labels[0]["sscc"], "quantity": "8"}).JSON()
	if at(done, "stops", 0, "state") != "picked" || h.Holds(t, h.Bin(t, "A-01-1-A"), world.Clamp) != "0" {
		t.Errorf("taken off the pallet: %v", done["stops"])
	}
	// The order's own carton is no pallet: it is not putAway, and nothing is taken off it.
	c.Post("/put-away/pallets", object{"carton_id": labels[0]["id"], "bin": "A-02-1-A"}).Refused(404, "carton_empty",
		"carton_id", "from the round to the bench")
	picker.Post(rp+"/stage", object{}).JSON()
	c.Post("/transfers", object{"from_id": world.Bench, "to": "A-02-1-A", "item_id": world.Clamp, "quantity": "1",
		"carton_id": labels[0]["id"]}).Refused(404, "carton_empty", "carton_id")
	book(object{"kind": "pallet", "sscc": labels[0]["sscc"]}, clamps("1")).Refused(409, "carton_used", "carton.sscc",
		"our own")
	book(object{"kind": "pallet", "sscc": sscc}, clamps("1")).Refused(409, "carton_elsewhere", "carton.sscc",
		"stands in A-01-1-A already")
	h.Whole(t)
}

// TestWhatWaitingOrdersWantGoesStraightFromTheDock serves an order off the lorry.
func TestWhatWaitingOrdersWantGoesStraightFromTheDock(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, c := world.SignOn(t, base, "lead"), world.SignOn(t, base, "receiver")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 6)
	var orders []int64
	for _, q := range []string{"10", "9"} {
		o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site,
			"wanted_on": soon, "release": true, "lines": []object{{"item_id": world.Clamp, "quantity": q}}}).JSON()
		orders = append(orders, id(o, "id"))
	}
	_, arrival := order(t, lead, nil, object{"item_id": world.Clamp, "quantity": "8"})
	path := fmt.Sprintf("/arrivals/%d", id(arrival, "id"))
	body := object{"version": 1, "lines": []object{{"line_id": at(arrival, "lines", 0, "id"), "quantity": "8"}}}
	if plan := c.Post(path+"/receive/preview", body).JSON(); !has(plan["notes"],
		"Waiting orders are 13 of HC-050 short: this covers 8.") {
		t.Errorf("it is not said: %v", plan["notes"])
	}
	arrival = c.Post(path+"/receive", body).JSON()
	// The bin serves 6 of the first order; the dock's 8 serve its other 4 and 4 of the second.
	wanted := arrival["wanted"].([]any)
	if len(wanted) != 2 || at(wanted[0], "quantity") != "4" || at(wanted[1], "quantity") != "4" {
		t.Fatalf("wanted: %v", wanted)
	}
	lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": orders}).JSON()
	p := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": orders, "from_id": world.Dock}).JSON()
	if at(p, "stops", 0, "bin") != "Dock 1" || p["units"] != "8" ||
		at(p, "shortages", 0, "why") != "none is free on that dock" {
		t.Fatalf("planned %v", p)
	}
	var stops []object
	for _, s := range p["stops"].([]any) {
		stops = append(stops, object{"line_id": at(s, "line_id"), "location_id": at(s, "location_id"),
			"quantity": at(s, "quantity")})
	}
	round := lead.Post("/rounds", object{"site_id": world.Site, "stops": stops}).JSON()
	c.Post("/put-away", object{"location_id": world.Dock, "item_id": world.Clamp, "quantity": "1",
		"locations": []object{{"bin": "A-02-1-A",
			"quantity": "1"}}}).Refused(409, "reserved", "", "reserved for S-3301")
	if len(at(c.Get(path).JSON(), "wanted").([]any)) != 0 {
		t.Error("what is on a round is wanted still")
	}
	if round["metres"].(float64) <= 0 {
		t.Errorf("the walk is %v m", round["metres"])
	}
	h.Whole(t)
}

// TestASiteMayPickFromItsDocks plans from a dock only where the site does not insist on
// bins.
func TestASiteMayPickFromItsDocks(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, world.Dock, 6)
	o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": "4"}}}).JSON()
	plan := object{"site_id": world.Site, "order_ids": []int64{id(o, "id")}}
	if p := lead.Post("/pick/plan", plan).JSON(); len(p["stops"].([]any)) != 0 ||
		at(p, "shortages", 0, "quantity") != "4" {
		t.Errorf("where bins are insisted on: %v", p)
	}
	sheet := lead.Post("/catalog/sites/import",
		object{"site_id": world.Site, "rows": []object{{"code": "T", "insist_bins": "no"}}}).JSON()
	if sheet["changed"] != 1.0 {
		t.Fatalf("%v", sheet)
	}
	if p := lead.Post("/pick/plan", plan).JSON(); at(p, "stops", 0, "bin") != "Dock 1" {
		t.Errorf("where they are not: %v", p)
	}
	// What is not sold, or not here, stands on no order.
	if _, err := h.Owner.Exec(`
		UPDATE items SET sold = false WHERE id = 1; UPDATE items SET stocked = false WHERE id = 4`); err != nil {
		t.Fatal(err)
	}
	for item, code := range map[int32]string{world.Clamp: "item_not_sold", world.Heavy: "item_not_stocked"} {
		lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
			"lines": []object{{"item_id": item, "quantity": "4"}}}).Refused(422, code, "lines[0].item_id")
	}
}

// TestADeliveryIsJudgedByItsSample passes one shipment and refuses another.
func TestADeliveryIsJudgedByItsSample(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	if _, err := h.Owner.Exec(`UPDATE items SET inspect_aql = 1, inspect_pct = 50 WHERE id = 1`); err != nil {
		t.Fatal(err)
	}
	c := world.SignOn(t, base, "receiver")
	quarantine, damaged := h.Bin(t, "Quarantine"), h.Bin(t, "Damaged")
	for _, x := range []struct {
		passed, code string
		words        []string
		button       string
		dock, broken string
	}{
		{"49", "", nil, "Pass 399, fail 1", "399", "1"},
		{"48", "", nil, "Pass 0, fail 400", "399", "401"},
		{"51", "over_inspected", []string{"50 of HC-050 are to be inspected, not 51"}, "", "", ""},
	} {
		_, arrival := order(t, world.SignOn(t, base, "lead"), nil, object{"item_id": world.Clamp, "quantity": "400"})
		path := fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id"))
		body := object{"version": 1, "lines": []object{{"line_id": at(arrival, "lines", 0, "id"), "quantity": "400"}}}
		if plan := c.Post(path+"/preview", body).JSON(); !has(plan["notes"],
			"all 400 wait in quarantine. A sample of 50 is looked at, of which at most 1 may fail (plan H, limit 1 %)") {
			t.Fatalf("%v", plan["notes"])
		}
		free := figures(c, "HC-050")["free"]
		c.Post(path, body).JSON()
		if got := figures(c, "HC-050")["free"]; got != free || h.Holds(t, quarantine, world.Clamp) != "400" {
			t.Fatalf("goods that wait for their sample are free: %v", got)
		}
		var waiting []object
		c.Get("/inspections?site=1").Into(&waiting)
		if waiting[0]["sample"] != "50" || waiting[0]["accept"] != 1.0 || waiting[0]["limit"] != "1" {
			t.Fatalf("%v", waiting[0])
		}
		decide := fmt.Sprintf("/inspections/%d/decide", id(waiting[0], "id"))
		verdict := object{"passed": x.passed, "reason": "Jaw does not close"}
		if x.code != "" {
			c.Post(decide, verdict).Refused(422, x.code, "passed", x.words...)
			continue
		}
		if plan := c.Post(decide+"/preview", verdict).JSON(); plan["button"] != x.button {
			t.Errorf("%s fine: %v", x.passed, plan["button"])
		}
		c.Post(decide, verdict).JSON()
		if h.Holds(t, world.Dock, world.Clamp) != x.dock || h.Holds(t, damaged, world.Clamp) != x.broken {
			t.Errorf("%s fine: %s on the dock, %s damaged", x.passed, h.Holds(t, world.Dock, world.Clamp),
				h.Holds(t, damaged, world.Clamp))
		}
	}
	h.Whole(t)
}

func TestLotsAreMadeWhereTheSupplierGivesNone(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	if _, err := h.Owner.Exec(`UPDATE items SET lot_rule = '{SUP}/{N2}' WHERE id = 3`); err != nil {
		t.Fatal(err)
	}
	c := world.SignOn(t, base, "receiver")
	_, arrival := order(t, world.SignOn(t, base, "lead"), nil, object{"item_id": world.Cloth, "quantity": "20"},
		object{"item_id": world.Clamp, "quantity": "24", "pack_id": 2})
	path := fmt.Sprintf("/arrivals/%d", id(arrival, "id"))
	make := func(item int32) world.Answer { return c.Post(path+"/lots", object{"item_id": item}) }
	if a, b := make(world.Cloth).JSON()["code"], make(world.Cloth).JSON()["code"]; a != "SUP/01" || b != "SUP/02" {
		t.Errorf("made %v and %v", a, b)
	}
	make(world.Clamp).Refused(422, "lot_unwanted", "item_id")
	// Packs are counted as they are: 24 boxes of 12 are 288.
	if at(arrival, "lines", 1, "quantity") != "288" {
		t.Fatalf("%v", arrival["lines"])
	}
	body := object{"version": 1, "lines": []object{{"line_id": at(arrival, "lines", 1, "id"), "quantity": "3",
		"pack_id": 2}}}
	plan := c.Post(path+"/receive/preview", body).JSON()
	if at(plan, "moves", 0, "quantity") != "36" || !has(plan["notes"], "3 × box of 12 of HC-050 are 36 each.") {
		t.Errorf("%v", plan)
	}
	body["lines"] = []object{{"line_id": at(arrival, "lines", 1, "id"), "quantity": "1.5", "pack_id": 2}}
	c.Post(path+"/receive", body).Refused(422, "quantity_fraction", "lines[0].quantity")
}

// TestGoodsGoStraightIntoBins receives into home bins and others, and refuses by name what has
// none and what does not fit.
func TestGoodsGoStraightIntoBins(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "receiver")
	_, arrival := buy(t, world.SignOn(t, base, "lead"), "40", "6")
	path := fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id"))
	if at(arrival, "homes", fmt.Sprint(world.Clamp)) != "A-01-1-A" {
		t.Errorf("home bins: %v", arrival["homes"])
	}
	line := func(n int, quantity, bin string) object {
		l := object{"line_id": id(arrival, "lines", n, "id"), "quantity": quantity}
		if n == 1 {
			l["lots"] = []object{{"code": "L-9", "expires_on": day(900), "quantity": quantity}}
		}
		if bin != "" {
			l["bin"] = bin
		}
		return l
	}
	straight := func(lines ...object) object { return object{"version": 1, "straight": true, "lines": lines} }
	for _, x := range []struct {
		body               object
		code, field, words string
	}{
		{straight(line(0, "12", ""), line(1, "6", "")), "bin_missing", "lines[1].bin", "HZ-500 has no home bin"},
		{straight(line(0, "12", "Q-1")), "bin_unknown", "lines[0].bin", "Q-1"},
		{straight(line(0, "12", "Dock 1")), "not_a_bin", "lines[0].bin", "not a storage bin"},
		{straight(line(0, "30", "")), "bin_full", "lines[0].bin", "A-01-1-A can take 24"},
	} {
		c.Post(path+"/preview", x.body).Refused(422, x.code, x.field, x.words)
		c.Post(path, x.body).Refused(422, x.code, x.field, x.words)
	}
	body := straight(line(0, "24", ""), line(1, "6", "b-01-1-a"))
	if p := c.Post(path+"/preview", body).JSON(); p["button"] != "Receive 30 into 2 bins" {
		t.Errorf("the button says %v", p["button"])
	}
	c.Post(path, body).JSON()
	if h.Holds(t, h.Bin(t, "A-01-1-A"), world.Clamp) != "24" || h.Holds(t, h.Bin(t, "B-01-1-A"), world.Fluid) != "6" ||
		h.Holds(t, world.Dock, world.Clamp) != "0" {
		t.Fatal("the goods are not in their bins")
	}
	// The dock is a stop all the same, where it is chosen.
	c.Post(path, object{"version": 2, "lines": []object{line(0, "16", "")}}).JSON()
	if h.Holds(t, world.Dock, world.Clamp) != "16" {
		t.Error("what was received at the dock is not there")
	}
	h.Whole(t)
}
