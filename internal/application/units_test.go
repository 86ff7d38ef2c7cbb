package application_test

import (
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// order sends an order for lines and opens an arrival for it.
func order(t *testing.T, c *world.Client, more object, lines ...object) (placed, arrival object) {
	t.Helper()
	body := object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": soon, "send": true,
		"lines": lines}
	for k, v := range more {
		body[k] = v
	}
	placed = c.Post("/purchase-orders", body).JSON()
	arrival = c.Post("/arrivals", object{"order_ids": []int64{id(placed, "id")}, "dock_id": world.Dock}).JSON()
	return placed, arrival
}

func texts(v any) (out []string) {
	for _, x := range v.([]any) {
		out = append(out, x.(string))
	}
	return out
}

func has(v any, words string) bool { return strings.Contains(strings.Join(texts(v), "\n"), words) }

// TestUnitsAreKnownAllTheWay takes spotlights by their serials from the supplier to the
// customer: every location they were in is in each one's trail.
func TestUnitsAreKnownAllTheWay(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, receiver, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "receiver"), world.SignOn(t, base,
		"picker")
	_, arrival := order(t, lead, nil, object{"item_id": world.Spot, "quantity": "30"},
		object{"item_id": world.Headset, "quantity": "4"})
	path := fmt.Sprintf("/arrivals/%d", id(arrival, "id"))
	spots, sets := id(arrival, "lines", 0, "id"), id(arrival, "lines", 1, "id")
	var all []string
	receiver.Get("/serials/range?first=LR-0101&last=LR-0130").Into(&all)
	if len(all) != 30 || all[29] != "LR-0130" {
		t.Fatalf("the range is %v", all)
	}
	receiver.Get("/serials/range?first=LR-0101&last=LR-101").Refused(422, "range_malformed", "last")
	book := func(quantity string, serials []string) object {
		return object{"version": arrival["version"],
			"lines": []object{{"line_id": spots, "quantity": quantity, "serials": serials}}}
	}
	for _, c := range []struct {
		quantity string
		serials  []string
		code     string
		words    []string
	}{
		{"3", all[:2], "serials_total", []string{"2 serials are here for 3 units"}},
		{"1", nil, "serials_total", []string{"0 serials are here for 1"}},
		{"2", []string{"LR-0101", "LR-0101"}, "serial_twice", []string{"LR-0101"}},
		{"1", []string{"über"}, "serial_malformed", []string{"Scan the label again"}},
	} {
		receiver.Post(path+"/receive", book(c.quantity, c.serials)).Refused(422, c.code, "lines[0].serials", c.words...)
	}
	receiver.Post(path+"/receive",
		object{"version": 1,
			"lines": []object{{"line_id": sets, "quantity": "1",
				"serials": []string{"X"}}}}).Refused(422, "serial_unwanted", "lines[0].serials")
	plan := receiver.Post(path+"/receive/preview", book("26", all[:26])).JSON()
	if len(plan["moves"].([]any)) != 1 || at(plan, "moves", 0, "quantity") != "26" ||
		len(at(plan, "moves", 0, "serials").([]any)) != 26 {
		t.Fatalf("units that come alike are shown as %v", plan["moves"])
	}
	arrival = receiver.Post(path+"/receive", book("26", all[:26])).JSON()
	// A serial in stock is refused by its name and location.
	receiver.Post(path+"/receive", book("1", []string{"LR-0107"})).Refused(409, "serial_in_stock", "lines[0].serials",
		"LR-0107 of SP-150", "in Dock 1, Test House")
	if n := len(arrival["receipts"].([]any)); n != 1 || len(at(arrival, "receipts", 0, "serials").([]any)) != 26 {
		t.Fatalf("%d receipts: %v", n, arrival["receipts"])
	}
	// A mistake is taken back as it came; the units may come again.
	arrival = receiver.Post(path+"/receive", book("4", all[26:])).JSON()
	arrival = receiver.Post(path+"/undo", object{"version": arrival["version"], "move_id": at(arrival, "receipts", 0,
		"move_id"), "reason": "For another house"}).JSON()
	plan = receiver.Post(path+"/receive/preview", book("4", all[26:])).JSON()
	if h.Holds(t, world.Dock, world.Spot) != "26" ||
		!has(plan["warnings"], "LR-0127 of SP-150 was here before and is with Tarn & Tackle") {
		t.Fatalf("taken back: %s on the dock, %v", h.Holds(t, world.Dock, world.Spot), plan["warnings"])
	}
	receiver.Post(path+"/receive", object{"version": arrival["version"],
		"lines": []object{{"line_id": sets, "quantity": "4"}}}).JSON()

	// Bins take 24: the units meant for each are named, and stay so.
	goods := object{"location_id": world.Dock, "item_id": world.Spot, "quantity": "26"}
	proposal := receiver.Post("/put-away/propose", goods).JSON()
	if at(proposal, "locations", 0, "serials", 0) != "LR-0101" ||
		len(at(proposal, "locations", 1, "serials").([]any)) != 2 {
		t.Fatalf("proposed %v", proposal["locations"])
	}
	locations := func(a, b []string) []object {
		return []object{{"bin": "A-01-1-A", "quantity": fmt.Sprint(len(a)), "serials": a},
			{"bin": "A-02-1-A", "quantity": fmt.Sprint(len(b)), "serials": b}}
	}
	putAway := func(p []object) world.Answer {
		goods["locations"] = p
		return receiver.Post("/put-away", goods)
	}
	putAway([]object{{"bin": "A-01-1-A", "quantity": "20"}, {"bin": "A-02-1-A", "quantity": "6"}}).Refused(422,
		"serials_missing", "locations[0].serials", "26 of SP-150 are there, and 20 move: say which")
	putAway(locations(all[:20], append([]string{"LR-0101"}, all[20:25]...))).Refused(422, "serial_twice", "locations",
		"LR-0101")
	putAway(locations(all[:20], append([]string{"LR-0130"}, all[20:25]...))).Refused(409, "serial_elsewhere",
		"locations[1].serials", "with Tarn & Tackle")
	putAway(locations(all[:20], append([]string{"LR-9999"}, all[20:25]...))).Refused(409, "serial_unknown",
		"locations[1].serials", "LR-9999")
	putAway(locations(all[:20], all[20:26])).JSON()
	receiver.Post("/transfers", object{"from_id": h.Bin(t, "A-02-1-A"), "to": "A-03-1-A", "item_id": world.Spot,
		"quantity": "2"}).Refused(422, "serials_missing", "serials")
	receiver.Post("/transfers", object{"from_id": h.Bin(t, "A-02-1-A"), "to": "A-03-1-A", "item_id": world.Spot,
		"quantity": "2", "serials": all[20:22]}).JSON()
	receiver.Post("/put-away", object{"location_id": world.Dock, "item_id": world.Headset, "quantity": "4",
		"locations": []object{{"bin": "B-01-1-A", "quantity": "4"}}}).JSON()

	// Two orders from one bin: which unit goes to which is for the picker to say.
	var orders []int64
	for range 2 {
		o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site,
			"wanted_on": soon, "release": true,
			"lines": []object{{"item_id": world.Spot, "quantity": "10"},
				{"item_id": world.Headset, "quantity": "1"}}}).JSON()
		orders = append(orders, id(o, "id"))
	}
	proposed := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": orders}).JSON()
	var stops []object
	for _, s := range proposed["stops"].([]any) {
		stops = append(stops, object{"line_id": at(s, "line_id"), "location_id": at(s, "location_id"),
			"quantity": at(s, "quantity")})
	}
	round := lead.Post("/rounds", object{"site_id": world.Site, "stops": stops}).JSON()
	rp := fmt.Sprintf("/rounds/%d", id(round, "id"))
	picker.Post(rp+"/start", nil).JSON()
	var labels []object
	lead.Post("/cartons", object{"site_id": world.Site, "count": 2}).Into(&labels)
	for i, o := range orders {
		picker.Post(rp+"/cartons", object{"scan": labels[i]["sscc"], "order_id": o}).JSON()
	}
	carton := func(s object) any {
		return labels[map[bool]int{true: 0, false: 1}[id(s, "order_id") == orders[0]]]["sscc"]
	}
	// All of the bin's units are asked for; the picker begins with those at the back.
	taken := 0
	for _, x := range round["stops"].([]any) {
		s := x.(object)
		scans := object{"stop_id": s["id"], "bin": s["bin"], "item": s["sku"], "carton": carton(s),
			"quantity": s["quantity"]}
		if at(picker.Post(rp+"/check", scans).JSON(), "next") != "serial" {
			t.Fatal("no serial is asked for")
		}
		if s["sku"] == "SP-150" {
			n := decimalOf(s["quantity"])
			scans["serials"] = []string{"LR-0121"}
			picker.Post(rp+"/check", scans).Refused(409, "serial_elsewhere", "serials", "in A-03-1-A, Test House")
			scans["serials"] = all[20-taken-n : 20-taken]
			taken += n
			scans["quantity"] = "11"
			if n == 10 {
				picker.Post(rp+"/pick", scans).Refused(409, "over_wanted", "quantity")
			}
			scans["quantity"] = fmt.Sprint(n - 1)
			picker.Post(rp+"/pick", scans).Refused(422, "serials_total", "serials", "Scan one for each")
			scans["quantity"] = s["quantity"]
		} else {
			// Serials of headsets are taken down now; one that left before is refused.
			scans["serials"] = []string{"HS-77"}
			if s["order_id"] != float64(orders[0]) && id(s, "seq") > 1 {
				if a := picker.Post(rp+"/check", scans); a.Status == 409 {
					a.Refused(409, "serial_gone", "serials", "HS-77 of HS-001 is in carton")
					scans["serials"] = []string{"HS-78"}
				}
			}
		}
		if a := picker.Post(rp+"/pick", scans); a.Status == 409 {
			a.Refused(409, "serial_gone", "serials", "in carton")
			scans["serials"] = []string{"HS-78"}
			picker.Post(rp+"/pick", scans).JSON()
		}
	}
	picker.Post(rp+"/stage", object{}).JSON()
	for i := range orders {
		picker.Post(fmt.Sprintf("/cartons/%d/pack", id(labels[i], "id")), object{}).JSON()
	}
	first := lead.Post("/shipments", object{"order_id": orders[0]}).JSON()
	contents := at(first, "cartons", 0, "contents").([]any)
	units := map[string]int{}
	for _, c := range contents {
		units[at(c, "sku").(string)] = len(at(c, "serials").([]any))
	}
	if units["SP-150"] != 10 || units["HS-001"] != 1 {
		t.Errorf("the shipment says %v", contents)
	}

	// The unit is found by its label, and its trail is whole.
	read := lead.Get("/scan?site=1&text=%5DC10109521234000044" + "21LR-0120").JSON()
	if at(read, "goods", "serial") != "LR-0120" || at(read, "found", 0, "kind") != "serial" {
		t.Fatalf("the label reads %v", read)
	}
	unit := lead.Get(fmt.Sprintf("/serials/%d", id(read, "found", 0, "id"))).JSON()
	trail := lead.Get(fmt.Sprintf("/serials/%d/trail", id(read, "found", 0, "id"))).JSON()
	var kinds []string
	for _, l := range trail["lines"].([]any) {
		kinds = append(kinds, at(l, "kind").(string))
	}
	if unit["where"] != "with The Lyrebird Theatre" ||
		strings.Join(kinds, " ") != "ship pack pack stage stage pick pick put_away put_away receive" {
		t.Errorf("%v: %v", unit["where"], kinds)
	}
	headset := lead.Get("/scan?site=1&text=HS-77").JSON()
	if at(headset, "found", 0, "kind") != "serial" {
		t.Errorf("HS-77 is %v", headset)
	}
	h.Whole(t)
}

// TestATrolleyKeepsItsUnits takes units away on a walk and puts them down by name.
func TestATrolleyKeepsItsUnits(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "receiver")
	_, arrival := order(t, world.SignOn(t, base, "lead"), nil, object{"item_id": world.Spot, "quantity": "30"})
	var all []string
	c.Get("/serials/range?first=A01&last=A30").Into(&all)
	c.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")),
		object{"version": 1, "lines": []object{{"line_id": id(arrival, "lines", 0, "id"), "quantity": "30",
			"serials": all}}}).JSON()
	begin := func(serials []string) object {
		return object{"site_id": world.Site, "goods": []object{{"location_id": world.Dock, "item_id": world.Spot,
			"quantity": fmt.Sprint(len(serials)), "serials": serials}}}
	}
	first, second := c.Post("/put-away/walks", begin(all[:26])).JSON(), c.Post("/put-away/walks",
		begin(all[26:])).JSON()
	if n := len(at(first, "stops", 0, "serials").([]any)) + len(at(first, "stops", 1, "serials").([]any)); n != 26 {
		t.Fatalf("%d units are on the stops", n)
	}
	put := func(w object, bin string, serials ...string) world.Answer {
		body := object{"bin": bin, "item_id": world.Spot, "quantity": "2"}
		if len(serials) > 0 {
			body["serials"] = serials
		}
		return c.Post(fmt.Sprintf("/put-away/walks/%d/put-away", id(w, "id")), body)
	}
	put(first, "A-01-1-A").Refused(422, "serials_missing", "serials", "2 go here: say which")
	put(first, "A-01-1-A", "A01", "A27").Refused(409, "serial_elsewhere", "serials", "A27", "A01 to A26")
	put(first, "A-01-1-A", "A01", "A26").JSON()
	c.Post(fmt.Sprintf("/put-away/walks/%d/end", id(first, "id")), nil).JSON()
	if at(put(second, "A-02-1-A", "A28", "A30").JSON(), "stops", 0, "serials", 0) != "A27" {
		t.Error("the other trolley lost track of its units")
	}
	location := c.Get(fmt.Sprintf("/locations/%d", world.Dock)).JSON()
	if at(location, "holdings", 0, "quantity") != "24" || at(location, "holdings", 0, "serials", 0) != "A02" {
		t.Errorf("set back: %v", location["holdings"])
	}
	h.Whole(t)
}

// TestUnitsAreInspectedByName fails one spotlight of those that were set aside.
func TestUnitsAreInspectedByName(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	if _, err := h.Owner.Exec(`UPDATE items SET inspect_pct = 30 WHERE id = 5`); err != nil {
		t.Fatal(err)
	}
	c := world.SignOn(t, base, "receiver")
	_, arrival := order(t, world.SignOn(t, base, "lead"), nil, object{"item_id": world.Spot, "quantity": "10"})
	var all []string
	c.Get("/serials/range?first=A01&last=A10").Into(&all)
	body := object{"version": 1, "lines": []object{{"line_id": id(arrival, "lines", 0, "id"), "quantity": "10",
		"serials": all}}}
	plan := c.Post(fmt.Sprintf("/arrivals/%d/receive/preview", id(arrival, "id")), body).JSON()
	// Three of ten, from all over.
	if !has(plan["notes"], "Set aside to be inspected (30 %): SP-150 serial A02, A06, A09.") {
		t.Fatalf("%v", plan["notes"])
	}
	c.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")), body).JSON()
	var waiting []object
	c.Get("/inspections?site=1").Into(&waiting)
	path := fmt.Sprintf("/inspections/%d/decide", id(waiting[0], "id"))
	c.Post(path, object{"passed": "2", "reason": "Lens cracked"}).Refused(422, "serials_total", "serials",
		"1 of SP-150 are not fine, and 0 serials")
	c.Post(path, object{"passed": "2", "reason": "Lens cracked", "serials": []string{"A01"}}).Refused(409,
		"serial_elsewhere", "serials", "A02, A06, A09")
	c.Post(path, object{"passed": "2", "reason": "Lens cracked", "serials": []string{"A06"}}).JSON()
	damaged := c.Get(fmt.Sprintf("/locations/%d", h.Bin(t, "Damaged"))).JSON()
	if at(damaged, "holdings", 0, "serials", 0) != "A06" || h.Holds(t, world.Dock, world.Spot) != "9" {
		t.Errorf("%v", damaged["holdings"])
	}
	h.Whole(t)
}
