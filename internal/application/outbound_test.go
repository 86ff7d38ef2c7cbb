package application_test

import (
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/test/world"
)

// sellNow takes an order that is released, of items and quantities one after another.
func sellNow(c *world.Client, lines ...any) object {
	var list []object
	for i := 0; i < len(lines); i += 2 {
		list = append(list, object{"item_id": lines[i], "quantity": lines[i+1]})
	}
	return c.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"release": true, "lines": list}).JSON()
}

// roundFor releases a round for orders as it is proposed, and has it started by c.
func roundFor(lead, c *world.Client, orders ...int64) (object, string) {
	p := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": orders}).JSON()
	var stops []object
	for _, s := range p["stops"].([]any) {
		s := s.(object)
		stop := object{"line_id": s["line_id"], "location_id": s["location_id"], "quantity": s["quantity"]}
		for _, k := range []string{"lot_id", "carton_id", "serial_ids"} {
			if s[k] != nil {
				stop[k] = s[k]
			}
		}
		stops = append(stops, stop)
	}
	r := lead.Post("/rounds", object{"site_id": world.Site, "stops": stops}).JSON()
	path := fmt.Sprintf("/rounds/%d", id(r, "id"))
	return c.Post(path+"/start", nil).JSON(), path
}

// blank makes a blank carton and opens it on a round for an order.
func blank(lead, c *world.Client, round string, order int64) (sscc string, carton int64) {
	var labels []object
	lead.Post("/cartons", object{"site_id": world.Site, "count": 1}).Into(&labels)
	c.Post(round+"/cartons", object{"scan": labels[0]["sscc"], "order_id": order}).JSON()
	return labels[0]["sscc"].(string), id(labels[0], "id")
}

func takeAll(c *world.Client, round, sscc string, r object) {
	for _, s := range r["stops"].([]any) {
		s := s.(object)
		if s["state"] == "open" {
			c.Post(round+"/pick", object{"stop_id": s["id"], "bin": s["bin"], "item": s["sku"], "carton": sscc,
				"quantity": s["quantity"]}).JSON()
		}
	}
}

func TestAQuoteBecomesAnOrderWhileItsPricesStand(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "office")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 10)
	quote := func(until string) object {
		return c.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
			"quote_until": until, "sure": []string{"quote_expired"},
			"lines": []object{{"item_id": world.Clamp, "quantity": "4", "price": "21.50"},
				{"text": "Freight", "quantity": "1", "price": "12"}}}).JSON()
	}
	q := quote(soon)
	if q["state"] != "quote" || q["value"] != "98" || at(c.Get("/items/1?site=1").JSON(), "figures", "free") != "10" {
		t.Fatalf("the quote is %v, of %v", q["state"], q["value"])
	}
	path := fmt.Sprintf("/sales-orders/%d", id(q, "id"))
	c.Post("/sales-orders/release", object{"orders": []object{{"id": q["id"], "version": q["version"]}}}).Refused(409,
		"order_not_on_hold", "")
	if a := c.Get(path + "/confirmation.pdf"); a.Status != 200 || !strings.HasPrefix(string(a.Body), "%PDF") {
		t.Fatalf("the quote's paper answers %d", a.Status)
	}
	o := c.Post(path+"/accept", object{"version": q["version"]}).JSON()
	if o["state"] != "on_hold" || at(c.Get("/items/1?site=1").JSON(), "figures", "free") != "6" {
		t.Fatalf("the order is %v", o["state"])
	}
	c.Post(path+"/accept", object{"version": o["version"]}).Refused(409, "order_no_quote", "", "no quote any more")
	old := quote(time.Now().AddDate(0, 0, -2).Format(time.DateOnly))
	c.Post(fmt.Sprintf("/sales-orders/%d/accept", id(old, "id")), object{"version": old["version"]}).Refused(409,
		"quote_over", "", "stood until")
	c.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"lines": []object{{"text": "Freight", "quantity": "1"}}}).Refused(422, "lines_missing", "lines")
	counts := c.Get("/sales-orders/counts?site=1").JSON()
	if counts["quotes"] != 1.0 || counts["on_hold"] != 1.0 {
		t.Fatalf("counted %v", counts)
	}
}

// TestAnOrderIsChangedOnTheFloor takes part of an order into a carton, then wants less:
// what is on the round goes, what is reserved is unreserved, and what is in the carton is put
// back by a task, and is never lost.
func TestAnOrderIsChangedOnTheFloor(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 8)
	h.Stock(t, world.Clamp, h.Bin(t, "A-03-1-A"), 8)
	h.Stock(t, world.Heavy, h.Bin(t, "B-02-1-A"), 5)
	o := sellNow(lead, world.Clamp, "12", world.Heavy, "2")
	op := fmt.Sprintf("/sales-orders/%d", id(o, "id"))
	r, rp := roundFor(lead, picker, id(o, "id"))
	sscc, carton := blank(lead, picker, rp, id(o, "id"))
	first := r["stops"].([]any)[0].(object)
	picker.Post(rp+"/pick", object{"stop_id": first["id"], "bin": first["bin"], "item": first["sku"], "carton": sscc,
		"quantity": first["quantity"]}).JSON()
	took := decimalOf(first["quantity"])
	now := lead.Get(op).JSON()
	lines := now["lines"].([]any)
	item := world.Clamp
	if first["sku"] == "SW-130" {
		item = world.Heavy
	}
	// One less than was taken of that item is wanted; the other line is removed.
	stays, goes := 0, 1
	if item == world.Heavy {
		stays, goes = 1, 0
	}
	keep := object{"id": at(lines, stays, "id"), "item_id": item, "quantity": fmt.Sprint(took - 1)}
	remove := []any{at(lines, goes, "id")}
	// A line that is not named stays as it is.
	if now = lead.Post(op+"/change", object{"version": now["version"], "wanted_on": soon}).JSON(); at(now, "lines",
		goes, "cancelled") != "0" {
		t.Fatalf("a line that was not named is cancelled: %v", now["lines"])
	}
	lead.Post(op+"/change", object{"version": 1, "wanted_on": soon, "lines": []object{keep}}).Refused(409, "stale",
		"version")
	after := lead.Post(op+"/change", object{"version": now["version"], "wanted_on": soon, "lines": []object{keep},
		"remove": remove}).JSON()
	if !strings.Contains(fmt.Sprint(after["freed"]), "1 to be returned to stock") ||
		!strings.Contains(fmt.Sprint(after["freed"]), "taken off rounds") {
		t.Fatalf("freed %v", after["freed"])
	}
	if left := picker.Get(rp).JSON()["stops"].([]any); len(left) != 1 || at(left, 0, "state") == "open" {
		t.Fatalf("the round has %v", left)
	}
	picker.Post(rp+"/stage", object{}).JSON()
	picker.Post(fmt.Sprintf("/cartons/%d/pack", carton), object{}).Refused(409, "restock_first", "",
		"Return them to stock first")
	tasks := picker.Get("/restocks?site=1").JSONs()
	if len(tasks) != 1 || tasks[0]["quantity"] != "1" || tasks[0]["from"] != first["bin"] {
		t.Fatalf("to be returned to stock: %v", tasks)
	}
	task := fmt.Sprintf("/restocks/%d", id(tasks[0], "id"))
	picker.Post(task, object{"bin": "Dock 1"}).Refused(422, "not_a_bin", "bin")
	picker.Post(task, object{"bin": tasks[0]["from"]}).JSON()
	picker.Post(task, object{"bin": tasks[0]["from"]}).Refused(409, "restock_done", "")
	picker.Post(fmt.Sprintf("/cartons/%d/pack", carton), object{}).JSON()
	lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	if got := lead.Get(op).JSON(); got["state"] != "shipped" || at(got, "due") != "0" {
		t.Fatalf("the order is %v, %v due", got["state"], got["due"])
	}
	all := decimalOf(h.Holds(t, h.Bin(t, "A-01-1-A"), item)) + decimalOf(h.Holds(t, h.Bin(t, "A-03-1-A"), item)) +
		decimalOf(h.Holds(t, h.Bin(t, "B-02-1-A"), item))
	if want := map[int32]int{world.Clamp: 16, world.Heavy: 5}[item] - took + 1; all != want {
		t.Fatalf("the bins hold %d, want %d", all, want)
	}
	lead.Post(op+"/cancel-open", object{"version": 99}).Refused(409, "stale", "version")

	// The rest of another order is cancelled before anything of it went: it is over.
	o = sellNow(lead, world.Heavy, "1")
	gone := lead.Post(fmt.Sprintf("/sales-orders/%d/cancel-open", id(o, "id")), object{"version": o["version"]}).JSON()
	if gone["state"] != "cancelled" || at(gone, "lines", 0, "cancelled") != "1" {
		t.Fatalf("the order is %v", gone["state"])
	}
	lead.Post(fmt.Sprintf("/sales-orders/%d/change", id(o, "id")), object{"version": gone["version"],
		"wanted_on": soon, "lines": []object{}}).Refused(409, "order_over", "", "is cancelled")
	h.Whole(t)
}

// TestAReservedLotIsDefended reserves a lot for an order by hand: no move, round or other reservation
// takes it, each is told for whom it is, and the order's own round takes it first.
func TestAReservedLotIsDefended(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	early, late := h.Lot(t, world.Fluid, "EARLY", 200), h.Lot(t, world.Fluid, "LATE", 400)
	b1, b2 := h.Bin(t, "B-01-1-A"), h.Bin(t, "B-02-1-A")
	h.StockLot(t, world.Fluid, early, b1, 5)
	h.StockLot(t, world.Fluid, late, b2, 5)
	old := h.Lot(t, world.Fluid, "OLD", 10)
	h.StockLot(t, world.Fluid, old, h.Bin(t, "B-03-1-A"), 5)
	mine, other := sellNow(lead, world.Fluid, "4"), sellNow(lead, world.Fluid, "3")
	line := id(mine, "lines", 0, "id")
	path := fmt.Sprintf("/sales-lines/%d", line)
	offered := lead.Get(path + "/stock").JSONs()
	if len(offered) != 3 || offered[0]["lot"] != "EARLY" || offered[2]["too_old"] != true {
		t.Fatalf("offered %v", offered)
	}
	reservation := func(location int32, lot *int64, quantity string) world.Answer {
		return lead.Post(path+"/reservations",
			object{"reservations": []object{{"location_id": location, "lot_id": *lot, "quantity": quantity}}})
	}
	reservation(b2, late, "5").Refused(409, "over_wanted", "reservations[0].quantity", "wants 4 more")
	reservation(h.Bin(t, "B-03-1-A"), old, "1").Refused(409, "too_old", "reservations[0].lot_id",
		"30 days must be left")
	o := reservation(b2, late, "4").JSON()
	if at(o, "lines", 0, "reserved") != "4" || at(o, "reservations", 0, "lot") != "LATE" {
		t.Fatalf("reserved %v", o["reservations"])
	}
	f := at(lead.Get("/items/2?site=1").JSON(), "figures")
	if at(f, "reserved") != "4" || at(f, "promised") != "3" || at(f, "free") != "8" {
		t.Fatalf("the figures are %v", f)
	}
	number := mine["number"].(string)
	picker.Post("/transfers", object{"from_id": b2, "item_id": world.Fluid, "lot_id": *late, "quantity": "2",
		"to": "Dock 1"}).Refused(409, "reserved", "", number, "At most 1")
	lead.Post(fmt.Sprintf("/sales-lines/%d/reservations", id(other, "lines", 0, "id")),
		object{"reservations": []object{{"location_id": b2, "lot_id": *late,
			"quantity": "2"}}}).Refused(409, "reserved", "", number)
	lead.Post("/rounds",
		object{"site_id": world.Site, "stops": []object{{"line_id": at(other, "lines", 0, "id"), "location_id": b2,
			"lot_id": *late, "quantity": "2"}}}).Refused(409, "not_enough", "stops[0].quantity", "Others there "+
		"are reserved for "+number)

	list := lead.Get("/reservations?site=1").Rows()
	if len(list) != 1 || list[0]["order"] != number {
		t.Fatalf("the list of reservations is %v", list)
	}
	// The order's own round takes what is reserved for it, though another lot expires first.
	r, rp := roundFor(lead, picker, id(mine, "id"))
	if at(r, "stops", 0, "lot") != "LATE" || at(r, "stops", 0, "quantity") != "4" {
		t.Fatalf("planned %v", r["stops"])
	}
	lead.Post(fmt.Sprintf("/reservations/%d/unreserve", id(lead.Get("/reservations?site=1").Rows()[0], "id")),
		nil).Refused(409, "reservation_on_round", "", r["number"].(string))
	sscc, _ := blank(lead, picker, rp, id(mine, "id"))
	stop := at(r, "stops", 0).(object)
	picker.Post(rp+"/pick", object{"stop_id": stop["id"], "bin": stop["bin"], "item": "(01)09521234000037(10)LATE",
		"carton": sscc, "quantity": "4"}).JSON()
	if h.Holds(t, b2, world.Fluid) != "1" {
		t.Fatal("the reserved lot was not taken")
	}

	// Another reservation is unreserved again, and everybody may have it.
	o = lead.Post(fmt.Sprintf("/sales-lines/%d/reservations", id(other, "lines", 0, "id")),
		object{"reservations": []object{{"location_id": b1, "lot_id": *early, "quantity": "3"}}}).JSON()
	lead.Post(fmt.Sprintf("/reservations/%d/unreserve", id(o, "reservations", 0, "id")), nil).JSON()
	picker.Post("/transfers", object{"from_id": b1, "item_id": world.Fluid, "lot_id": *early, "quantity": "5",
		"to": "Dock 1"}).JSON()
	h.Whole(t)
}

// TestReservedUnitsAreTheOnesThatGo reserves two units of four by their serials: they are one stop, with one scan of
// the bin, and no other goes for them. What is not found of them is given up with the stop.
func TestReservedUnitsAreTheOnesThatGo(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	bin := h.Bin(t, "A-02-1-A")
	h.StockUnits(t, world.Spot, bin, "SP-1", "SP-2", "SP-3", "SP-4")
	o := sellNow(lead, world.Spot, "3")
	lead.Post(fmt.Sprintf("/sales-lines/%d/reservations", id(o, "lines", 0, "id")),
		object{"reservations": []object{{"location_id": bin, "serial": "SP-2", "quantity": "1"},
			{"location_id": bin, "serial": "SP-3", "quantity": "1"},
			{"location_id": bin, "serial": "SP-4", "quantity": "1"}}}).JSON()
	r, rp := roundFor(lead, picker, id(o, "id"))
	stop := at(r, "stops", 0).(object)
	if len(r["stops"].([]any)) != 1 || fmt.Sprint(stop["serials"]) != "[SP-2 SP-3 SP-4]" {
		t.Fatalf("there are %d stops, and the first asks for %v", len(r["stops"].([]any)), stop["serials"])
	}
	sscc, _ := blank(lead, picker, rp, id(o, "id"))
	take := object{"stop_id": stop["id"], "bin": stop["bin"], "item": "SP-150", "carton": sscc, "quantity": "2",
		"serials": []string{"SP-1", "SP-3"}}
	picker.Post(rp+"/pick", take).Refused(409, "wrong_serial", "serials", "the very units SP-2, SP-3, SP-4 of", "not SP-1")
	take["quantity"], take["serials"] = "1", []string{"SP-3"}
	after := picker.Post(rp+"/pick", take).JSON()
	if got := fmt.Sprint(at(after, "stops", 0, "serials")); got != "[SP-2 SP-4]" {
		t.Fatalf("two are left to take, and the stop asks for %s", got)
	}
	// The order wants one fewer: the last of them is given up, and the other stays reserved.
	now := lead.Get(fmt.Sprintf("/sales-orders/%d", id(o, "id"))).JSON()
	lead.Post(fmt.Sprintf("/sales-orders/%d/change", id(o, "id")), object{"version": now["version"],
		"wanted_on": soon, "lines": []object{{"id": at(now, "lines", 0, "id"), "item_id": world.Spot,
			"quantity": "2"}}}).JSON()
	if got := fmt.Sprint(at(lead.Get(rp).JSON(), "stops", 0, "serials")); got != "[SP-2]" {
		t.Fatalf("after the order wants one fewer, the stop asks for %s", got)
	}
	picker.Post(rp+"/short", object{"stop_id": stop["id"], "found": "0"}).JSON()
	if list := lead.Get("/reservations?site=1").Rows(); len(list) != 0 {
		t.Fatalf("SP-2 was not found, and reserved is %v", list)
	}
	h.Whole(t)
}

// TestWhatAnOrderIsShortOfIsBoughtAndReservedForIt follows cover from a shortage to dispatch:
// exactly what is short is ordered, once; what comes is reserved at the dock, put away with its
// reservation, and picked for that very order.
func TestWhatAnOrderIsShortOfIsBoughtAndReservedForIt(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
	// Somebody has supplied it before.
	before := lead.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site,
		"expected_on": soon, "lines": []object{{"item_id": world.Clamp, "quantity": "1"}}}).JSON()
	lead.Post(fmt.Sprintf("/purchase-orders/%d/close", id(before, "id")), object{"version": before["version"]}).JSON()
	first := sellNow(lead, world.Clamp, "3")
	o := sellNow(lead, world.Clamp, "10")
	path := fmt.Sprintf("/sales-orders/%d", id(o, "id"))
	// 5 lie there, 3 are promised to the first order: of 10, 2 are free and 8 are short.
	if c := lead.Get(path + "/cover").JSONs(); len(c) != 1 || c[0]["short"] != "8" || c[0]["free"] != "-8" {
		t.Fatalf("it short %v", c)
	}
	if got := lead.Get(path).JSON()["blockers"]; got != "1 of 1 lines short" {
		t.Errorf("the order is blocked by %q", got)
	}
	made := lead.Post(path+"/cover", nil).JSONs()
	if len(made) != 1 || at(made[0], "lines", 0, "quantity") != "8" ||
		at(made[0], "lines", 0, "covers_order") != o["number"] {
		t.Fatalf("drafted %v", made)
	}
	lead.Post(path+"/cover", nil).Refused(409, "nothing_short", "", "short of nothing")
	if c := lead.Get(fmt.Sprintf("/sales-orders/%d/cover", id(first, "id"))).JSONs(); c[0]["short"] != "0" {
		t.Fatalf("the first order, which has its stock, short %v", c[0]["short"])
	}
	lead.Post(fmt.Sprintf("/purchase-orders/%d/send-to-supplier", id(made[0], "id")),
		object{"version": made[0]["version"]}).JSON()
	a := lead.Post("/arrivals", object{"order_ids": []int64{id(made[0], "id")}, "dock_id": world.Dock}).JSON()
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")),
		object{"version": a["version"],
			"lines": []object{{"line_id": at(a, "lines", 0, "id"), "quantity": "8"}}}).JSON()
	if l := at(lead.Get(path).JSON(), "lines", 0); at(l, "reserved") != "8" || at(l, "covered") != "0" {
		t.Fatalf("after receiving, the line has %v", l)
	}
	picker.Post("/transfers", object{"from_id": world.Dock, "item_id": world.Clamp, "quantity": "8",
		"to": "A-02-1-A"}).Refused(409, "reserved", "", o["number"].(string))
	picker.Post("/put-away", object{"location_id": world.Dock, "item_id": world.Clamp, "quantity": "8",
		"locations": []object{{"bin": "A-02-1-A", "quantity": "5"}, {"bin": "A-03-1-A", "quantity": "3"}}}).JSON()
	reservations := lead.Get(path).JSON()["reservations"].([]any)
	total := 0
	for _, p := range reservations {
		if at(p, "location") == "Dock 1" {
			t.Fatal("a reservation was left at the dock")
		}
		total += decimalOf(at(p, "quantity"))
	}
	if total != 8 {
		t.Fatalf("%d are reserved after putting away: %v", total, reservations)
	}
	r, rp := roundFor(lead, picker, id(o, "id"))
	sscc, carton := blank(lead, picker, rp, id(o, "id"))
	takeAll(picker, rp, sscc, r)
	picker.Post(rp+"/stage", object{}).JSON()
	picker.Post(fmt.Sprintf("/cartons/%d/pack", carton), object{}).JSON()
	picker.Post("/shipments", object{"order_id": o["id"]}).JSON()
	if got := lead.Get(path).JSON(); got["state"] != "shipped" {
		t.Fatalf("the order is %v", got["state"])
	}
	if h.Holds(t, h.Bin(t, "A-01-1-A"), world.Clamp) != "3" {
		t.Fatal("what the first order needs is gone")
	}
	h.Whole(t)
}

// TestTheFreePartIsReservedWhileTheRestIsBought leaves what others are promised alone.
func TestTheFreePartIsReservedWhileTheRestIsBought(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 8)
	h.Stock(t, world.Clamp, h.Bin(t, "A-02-1-A"), 12)
	other := sellNow(lead, world.Clamp, "5")
	o := sellNow(lead, world.Clamp, "30")
	path := fmt.Sprintf("/sales-orders/%d", id(o, "id"))
	// Of 20 there, 5 are promised to another.
	got := lead.Post(path+"/reserve-free", nil).JSON()
	if got["reserved"] != "15" || len(got["reservations"].([]any)) != 2 {
		t.Fatalf("reserved %v: %v", got["reserved"], got["reservations"])
	}
	lead.Post(path+"/reserve-free", nil).Refused(409, "nothing_to_take", "")
	if mine := lead.Post(fmt.Sprintf("/sales-orders/%d/reserve-free", id(other, "id")), nil).JSON(); mine["reserved"] != "5" {
		t.Errorf("the other has %v of its 5", mine["reserved"])
	}
	h.Whole(t)
}

// TestAWaveIsGatheredIntoRounds plans four orders as rounds of two cartons each, lets them
// go together, and lets one person hand a round on to another in the middle of it.
func TestAWaveIsGatheredIntoRounds(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 24)
	h.Stock(t, world.Heavy, h.Bin(t, "B-04-1-A"), 24)
	var orders []int64
	for _, item := range []int32{world.Clamp, world.Heavy, world.Clamp, world.Heavy} {
		orders = append(orders, id(sellNow(lead, item, "2"), "id"))
	}
	open := lead.Get("/pick/open?site=1").JSON()
	if list := open["rows"].([]any); len(list) != 4 || open["units"] != "8" || open["can_go"] != "8" ||
		at(list, 1, "weight_kg") != "26" || at(list, 1, "metres").(float64) <= 0 {
		t.Fatalf("open is %v", open)
	}
	if none := lead.Get("/pick/open?site=1&carrier=Nobody").JSON(); len(none["rows"].([]any)) != 0 {
		t.Fatal("a carrier that no order has narrows nothing")
	}
	wish := object{"site_id": world.Site, "order_ids": orders, "max_cartons": 2}
	w := lead.Post("/waves/plan", wish).JSON()
	// The clamps together and the weights together walk less than any other way.
	rounds := w["rounds"].([]any)
	if len(rounds) != 2 || w["metres"].(float64) >= w["single_metres"].(float64) ||
		at(rounds, 0, "stops", 0, "sku") != at(rounds, 0, "stops", 1, "sku") {
		t.Fatalf("planned %v m for %v m one by one: %v", w["metres"], w["single_metres"], rounds)
	}
	for split, n := range map[string]int{"order": 4, "zone": 2, "one": 1} {
		wish["split"], wish["max_cartons"] = split, 0
		if got := lead.Post("/waves/plan", wish).JSON()["rounds"].([]any); len(got) != n {
			t.Errorf("split by %s: %d rounds, want %d", split, len(got), n)
		}
	}
	wish["split"], wish["max_lines"] = "one", 3
	if got := lead.Post("/waves/plan", wish).JSON()["rounds"].([]any); len(got) != 2 {
		t.Errorf("at most 3 lines: %d rounds, want 2", len(got))
	}
	wish["zone"] = "B"
	if got := lead.Post("/waves/plan", wish).JSON(); got["units"] != "4" {
		t.Errorf("from zone B: %v units, want 4", got["units"])
	}
	// What lies elsewhere is named, and a bound that is not there is refused.
	if why := at(lead.Post("/waves/plan", wish).JSON(), "shortages", 0, "why"); why !=
		"24 free lie in A-01-1-A, outside what is planned from" {
		t.Errorf("from zone B it says of what lies in A: %v", why)
	}
	for field, code := range map[string]string{"zone": "zone_unknown", "from_bin": "bin_unknown",
		"to_bin": "bin_unknown", "empty_first": "bin_unknown"} {
		bad := object{"site_id": world.Site, "order_ids": orders, field: "Q-9"}
		lead.Post("/waves/plan", bad).Refused(422, code, field, "Q-9")
		lead.Post("/pick/plan", bad).Refused(422, code, field, "Q-9")
	}
	// Weights of 13 kg each: a trolley of 20 kg takes one at a time, though an order wants two.
	delete(wish, "max_lines")
	wish["max_kg"] = 20
	if got := lead.Post("/waves/plan", wish).JSON(); len(got["rounds"].([]any)) != 4 || got["units"] != "4" {
		t.Errorf("at most 20 kg: %v", got["rounds"])
	}
	// A later order that takes all of it takes what these are promised.
	late := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": "22"}}}).JSON()
	robs := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []any{late["id"]}}).JSON()["robbed"]
	if len(robs.([]any)) != 1 || at(robs, 0, "order_id") != float64(orders[2]) || at(robs, 0, "quantity") != "2" {
		t.Errorf("of 24, 22 are planned for a later order and 4 are promised: %v", robs)
	}
	draft := object{"site_id": world.Site, "rounds": []object{}, "each_unit": true}
	for _, r := range rounds {
		var stops []object
		for _, s := range at(r, "stops").([]any) {
			stops = append(stops, object{"line_id": at(s, "line_id"), "location_id": at(s, "location_id"),
				"quantity": at(s, "quantity")})
		}
		draft["rounds"] = append(draft["rounds"].([]object), object{"stops": stops})
	}
	twice := object{"site_id": world.Site, "rounds": append(append([]object{}, draft["rounds"].([]object)...),
		draft["rounds"].([]object)[0])}
	lead.Post("/waves", twice).Refused(409, "over_wanted", "rounds[2].stops[0].quantity")
	// One round is changed, and the other stays as it is planned.
	changed := lead.Post("/waves/preview", object{"site_id": world.Site, "rounds": []object{
		{"stops": draft["rounds"].([]object)[0]["stops"].([]object)[:1]}, draft["rounds"].([]object)[1]}}).JSON()
	if changed["units"] != "6" || len(at(changed, "rounds", 0, "stops").([]any)) != 1 ||
		len(at(changed, "rounds", 1, "stops").([]any)) != 2 {
		t.Errorf("a wave with one stop less is %v", changed)
	}
	gone := lead.Post("/waves", draft).JSONs()
	if len(gone) != 2 || gone[0]["wave"] != gone[1]["wave"] || gone[0]["wave"] == 0.0 || gone[0]["each_unit"] != true {
		t.Fatalf("released %v", gone)
	}
	lead.Post("/waves", draft).Refused(409, "over_wanted", "rounds[0].stops[0].quantity")

	r, rp := gone[0], fmt.Sprintf("/rounds/%d", id(gone[0], "id"))
	picker.Post(rp+"/start", nil).JSON()
	order := id(r, "orders", 0, "id")
	sscc, _ := blank(lead, picker, rp, order)
	var stop object
	for _, s := range r["stops"].([]any) {
		if id(s, "order_id") == order {
			stop = s.(object)
		}
	}
	// Each unit is scanned: another item among them is refused, and so is a wrong count.
	take := object{"stop_id": stop["id"], "bin": stop["bin"], "item": stop["sku"], "carton": sscc, "quantity": "2"}
	if next := picker.Post(rp+"/check", take).JSON(); next["next"] != "each" {
		t.Fatalf("next is %v", next)
	}
	take["each"] = []any{stop["sku"], "HZ-500"}
	picker.Post(rp+"/pick", take).Refused(409, "wrong_item", "each[1]")
	take["each"] = []any{stop["sku"]}
	picker.Post(rp+"/pick", take).Refused(422, "each_total", "quantity", "1 units are scanned, not 2")
	take["quantity"] = "1"
	picker.Post(rp+"/pick", take).JSON()

	// Reassigned to the lead: the picker's next take is refused, the lead's is not.
	if got := picker.Post(rp+"/reassign", object{"person_id": 1}).JSON(); got["picker"] != "Some lead" {
		t.Fatalf("reassigned to %v", got["picker"])
	}
	picker.Post(rp+"/pick", take).Refused(409, "round_reassigned", "", "Some lead walks")
	picker.Post(rp+"/reassign", object{}).Refused(403, "round_not_yours", "")
	lead.Post(rp+"/reassign", object{"person_id": 5}).Refused(422, "person_no_picker", "person_id", "walks no rounds")
	lead.Post(rp+"/each-unit", object{"each_unit": false}).JSON()
	lead.Post(rp+"/pick", object{"stop_id": stop["id"], "bin": stop["bin"], "item": stop["sku"], "carton": sscc,
		"quantity": "1"}).JSON()
	if got := lead.Post(rp+"/reassign", object{}).JSON(); got["state"] != "released" || got["picker"] != "" {
		t.Fatalf("reassigned to nobody: %v", got["state"])
	}
	h.Whole(t)
}

// TestARoundOnPaperIsConfirmedInOneStep confirms a printed round line by line where it
// differed: the rest was made as planned, into cartons of the orders' own.
func TestARoundOnPaperIsConfirmedInOneStep(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	h.Stock(t, world.Headset, h.Bin(t, "A-02-1-A"), 3)
	if _, err := h.Owner.Exec(`
		INSERT INTO carton_sizes (code, name, sides_cm, max_kg, tare_kg) VALUES ('S', 'small', '{60,40,40}', 1, 0)`); err != nil {
		t.Fatal(err)
	}
	a, b := sellNow(lead, world.Clamp, "4"), sellNow(lead, world.Clamp, "5", world.Headset, "2")
	r, rp := roundFor(lead, lead, id(a, "id"), id(b, "id"))
	if pdf := lead.Get(rp + "/list.pdf"); pdf.Status != 200 || !strings.HasPrefix(string(pdf.Body), "%PDF") {
		t.Fatalf("the list answers %d", pdf.Status)
	}
	var headsets, clamps object
	for _, s := range r["stops"].([]any) {
		if at(s, "sku") == "HS-001" {
			headsets = s.(object)
		} else if at(s, "quantity") == "5" {
			clamps = s.(object)
		}
	}
	lead.Post(rp+"/confirm", object{}).Refused(422, "serials_total", "differing.serials",
		"write the serials of the 2 HS-001")
	done := lead.Post(rp+"/confirm", object{"differing": []object{
		{"stop_id": headsets["id"], "picked": "2", "serials": []string{"H-1", "H-2"}}, {"stop_id": clamps["id"],
			"picked": "3"}}}).JSON()
	// Of at most 1 kg each, the orders' 1.8 and 2.15 kg go into 2 and 3 cartons, as is proposed.
	if done["state"] != "done" || len(done["cartons"].([]any)) != 5 {
		t.Fatalf("the round is %v with %v", done["state"], done["cartons"])
	}
	for _, c := range lead.Get("/cartons?site=1&state=at_bench").JSONs() {
		if kg, _ := strconv.ParseFloat(c["expected_kg"].(string), 64); kg > 1 || c["size"] != "S" {
			t.Errorf("a carton of size %v holds %v kg", c["size"], kg)
		}
	}
	if h.Holds(t, h.Bin(t, "A-01-1-A"), world.Clamp) != "2" || h.Holds(t, world.Bench, world.Clamp) != "7" ||
		h.Holds(t, world.Bench, world.Headset) != "2" {
		t.Fatal("the goods are not where the paper says")
	}
	if l := at(lead.Get(fmt.Sprintf("/sales-orders/%d", id(b, "id"))).JSON(), "lines", 0); at(l, "picked") != "3" ||
		at(l, "due") != "2" || at(l, "planned") != "0" {
		t.Fatalf("the line that fell short is %v", l)
	}
	h.Whole(t)
}

// TestALotThatIsAskedOnTheWayOutIsDemanded on paper as in the hand.
func TestALotThatIsAskedOnTheWayOutIsDemanded(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	if _, err := h.Owner.Exec(`UPDATE items SET ask_out = true WHERE sku = 'HZ-500'`); err != nil {
		t.Fatal(err)
	}
	lot := h.Lot(t, world.Fluid, "L-77", 900)
	h.StockLot(t, world.Fluid, lot, h.Bin(t, "B-01-1-A"), 5)
	r, rp := roundFor(lead, lead, id(sellNow(lead, world.Fluid, "2"), "id"))
	stop := at(r, "stops", 0, "id")
	taken := func(lot string) object {
		return object{"differing": []object{{"stop_id": stop, "picked": "2", "lot": lot}}}
	}
	lead.Post(rp+"/confirm", object{}).Refused(422, "lot_missing", "differing.lot", "write the lot of the 2 HZ-500")
	lead.Post(rp+"/confirm", taken("L-78")).Refused(409, "wrong_lot", "differing[0].lot", "take lot L-77")
	if done := lead.Post(rp+"/confirm", taken("L-77")).JSON(); done["state"] != "done" {
		t.Fatalf("the round is %v", done["state"])
	}
	// After use a pack keeps its size, and says by what it was used.
	lead.Post("/catalog/items/import", object{"site_id": world.Site, "rows": []object{{"sku": "HZ-500",
		"packs": "canister=2"}}}).Refused(422, "rows_wrong", "packs", "A canister of HZ-500 holds 1, and that stays",
		"has made")
	h.Whole(t)
}

// TestAWholePalletIsTakenInOneScan and goes to its order under its own number; and another
// lot than planned is taken where the site allows it, and is recorded.
func TestAWholePalletIsTakenInOneScan(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	_, arrival := order(t, lead, nil, object{"item_id": world.Heavy, "quantity": "20"})
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")), object{"version": arrival["version"],
		"carton": object{"kind": "pallet", "sscc": ""},
		"lines":  []object{{"line_id": at(arrival, "lines", 0, "id"), "quantity": "20"}}}).JSON()
	pallet := lead.Get("/put-away/pallets?site=1").JSONs()[0]
	lead.Post("/put-away/pallets", object{"carton_id": pallet["id"], "bin": "B-02-1-A"}).JSON()
	o := sellNow(lead, world.Heavy, "20")
	r, rp := roundFor(lead, picker, id(o, "id"))
	stop := at(r, "stops", 0).(object)
	if stop["whole_carton"] != true {
		t.Fatalf("the stop is %v", stop)
	}
	picker.Post(rp+"/whole", object{"stop_id": stop["id"], "scan": pallet["sscc"]}).Refused(422, "scan_missing", "bin")
	picker.Post(rp+"/whole", object{"stop_id": stop["id"], "bin": stop["bin"], "scan": "HC-050"}).Refused(409,
		"wrong_carton", "scan", "Here you take")
	picker.Post(rp+"/whole", object{"stop_id": stop["id"], "bin": stop["bin"], "scan": "9521234999997"}).Refused(404,
		"gtin_unknown", "scan")
	after := picker.Post(rp+"/whole", object{"stop_id": stop["id"], "bin": stop["bin"],
		"scan": "]C100" + pallet["sscc"].(string)}).JSON()
	if at(after, "stops", 0, "state") != "picked" || at(after, "cartons", 0, "sscc") != pallet["sscc"] {
		t.Fatalf("after the scan: %v", after["cartons"])
	}
	picker.Post(rp+"/stage", object{}).JSON()
	picker.Post(fmt.Sprintf("/cartons/%d/pack", id(pallet, "id")), object{}).JSON()
	picker.Post("/shipments", object{"order_id": o["id"]}).JSON()

	lots := map[string]*int64{"L1": h.Lot(t, world.Fluid, "L1", 100), "L2": h.Lot(t, world.Fluid, "L2", 300),
		"L3": h.Lot(t, world.Fluid, "L3", 9)}
	for _, lot := range lots {
		h.StockLot(t, world.Fluid, lot, h.Bin(t, "B-01-1-A"), 3)
	}
	o = sellNow(lead, world.Fluid, "3")
	r, rp = roundFor(lead, picker, id(o, "id"))
	stop = at(r, "stops", 0).(object)
	sscc, _ := blank(lead, picker, rp, id(o, "id"))
	picker.Post(rp+"/other-lot", object{"stop_id": stop["id"], "lot": "L3"}).Refused(409, "too_old", "lot",
		"30 days must be left")
	picker.Post(rp+"/other-lot", object{"stop_id": stop["id"], "lot": "L9"}).Refused(404, "unknown", "")
	if _, err := h.Owner.Exec(`UPDATE sites SET other_lot = false`); err != nil {
		t.Fatal(err)
	}
	picker.Post(rp+"/other-lot", object{"stop_id": stop["id"], "lot": "L2"}).Refused(409, "other_lot_barred", "lot",
		"the lot that is planned is taken: L1")
	if _, err := h.Owner.Exec(`UPDATE sites SET other_lot = true`); err != nil {
		t.Fatal(err)
	}
	// A lot that another order has is that order's, until it is unreserved.
	rival := sellNow(lead, world.Fluid, "3")
	lead.Post(fmt.Sprintf("/sales-lines/%d/reservations", id(rival, "lines", 0, "id")),
		object{"reservations": []object{{"location_id": h.Bin(t, "B-01-1-A"), "lot_id": *lots["L2"],
			"quantity": "3"}}}).JSON()
	picker.Post(rp+"/other-lot", object{"stop_id": stop["id"], "lot": "L2"}).Refused(409, "not_enough", "lot",
		"Others there are reserved for "+rival["number"].(string))
	lead.Post(fmt.Sprintf("/reservations/%d/unreserve",
		id(lastOf(lead.Get("/reservations?site=1").Rows(), "order", rival["number"]), "id")), nil).JSON()
	now := picker.Post(rp+"/other-lot", object{"stop_id": stop["id"], "lot": "(01)09521234000037(10)L2"}).JSON()
	stop = at(now, "stops", 0).(object)
	if stop["lot"] != "L2" || stop["planned_lot"] != "L1" {
		t.Fatalf("the stop is for lot %v, planned %v", stop["lot"], stop["planned_lot"])
	}
	picker.Post(rp+"/pick", object{"stop_id": stop["id"], "bin": stop["bin"], "item": "(01)09521234000037(10)L2",
		"carton": sscc, "quantity": "3"}).JSON()
	if trail := fmt.Sprint(lead.Get(fmt.Sprintf("/lots/%d/trail",
		*lots["L2"])).JSON()["lines"]); !strings.Contains(trail, "lot L2 instead of L1") {
		t.Fatalf("the trail does not say so: %s", trail)
	}
	h.Whole(t)
}

// TestFromTheBenchToTheInvoice checks a carton by scan, has it weighed, stacks it, loads it
// onto the right vehicle and invoices what was delivered.
func TestFromTheBenchToTheInvoice(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	if _, err := h.Owner.Exec(`
		INSERT INTO carriers (name, collects, base, per_kg, max_kg) VALUES ('Northgate Vans', '{16:00}', 5, 0.5, 30),
		  ('Brook', '{}', 1, 0, NULL);
		INSERT INTO carton_sizes (code, name, sides_cm, max_kg, tare_kg) VALUES ('S', 'small', '{30,20,20}', 10, 0.3),
		  ('L', 'large', '{60,40,40}', 30, 1);
		UPDATE sites SET bench_check = true; UPDATE parties SET email = 'house@example.org', terms = '30 days net'
		 WHERE kind = 'customer'`); err != nil {
		t.Fatal(err)
	}
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 24)
	h.Stock(t, world.Headset, h.Bin(t, "A-02-1-A"), 4)
	o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"release": true,
		"lines": []object{{"item_id": world.Clamp, "quantity": "6", "price": "20"},
			{"item_id": world.Headset, "quantity": "1", "price": "150"}, {"text": "Freight", "quantity": "1",
				"price": "12.50"}}}).JSON()
	if c := lead.Get(fmt.Sprintf("/sales-orders/%d/cartons", id(o, "id"))).JSON(); at(c, "cartons", 0,
		"size") != "S" || c["proven"] != true {
		t.Fatalf("proposed %v", c)
	}
	r, rp := roundFor(lead, picker, id(o, "id"))
	sscc, carton := blank(lead, picker, rp, id(o, "id"))
	for _, s := range r["stops"].([]any) {
		take := object{"stop_id": at(s, "id"), "bin": at(s, "bin"), "item": at(s, "sku"), "carton": sscc,
			"quantity": at(s, "quantity")}
		if at(s, "sku") == "HS-001" {
			take["serials"] = []string{"H-7"}
		}
		picker.Post(rp+"/pick", take).JSON()
	}
	picker.Post(rp+"/stage", object{}).JSON()
	cp := fmt.Sprintf("/cartons/%d", carton)

	// The bench looks through it: what does not belong, and one too many, is stopped.
	picker.Post(cp+"/pack", object{}).Refused(409, "not_checked", "", "6 of HC-050, 1 of HS-001")
	picker.Post(cp+"/check", object{"scan": "SW-130"}).Refused(409, "not_in_carton", "scan", "Set it aside")
	picker.Post(cp+"/check", object{"scan": "HC-050", "quantity": "6"}).JSON()
	picker.Post(cp+"/check", object{"scan": "HC-050"}).Refused(409, "one_too_many", "scan", "6 of HC-050 belong")
	picker.Post(cp+"/check", object{"scan": "HS-001"}).Refused(409, "serial_missing", "scan", "H-7")
	if c := picker.Post(cp+"/check", object{"scan": "H-7"}).JSON(); c["checked_by"] != "Some picker" {
		t.Fatalf("looked through by %v", c["checked_by"])
	}
	// 6 × 0.45 + 0.4 = 3.1 kg and 0.3 kg of carton. The scale says half a kilogram more: it
	// is opened again, and a lead lets it pass once it was looked through.
	picker.Post("/scale/tell", object{"site_id": world.Site, "variance_kg": 0.5, "answers": true}).JSON()
	// What is too heavy for its size is refused, and says how to part it.
	picker.Post(cp+"/pack/preview", object{"size": "S", "weight_kg": "11.5"}).Refused(409, "too_heavy", "size",
		"holds 11.2 kg, and size S takes 10", "Move 3 of HC-050 (1.35 kg) to another")
	// It is parted: two clamps go into a blank carton, and back again.
	other := picker.Post("/cartons", object{"site_id": world.Site, "count": 1}).JSONs()[0]
	repack := func(from, to any, more object) object {
		body := object{"to": to, "scan": "HC-050"}
		for k, v := range more {
			body[k] = v
		}
		return picker.Post(fmt.Sprintf("/cartons/%v/repack", from), body).JSON()
	}
	picker.Post(cp+"/repack", object{"to": sscc, "scan": "HC-050"}).Refused(409, "wrong_carton", "to")
	picker.Post(cp+"/repack", object{"to": other["sscc"], "scan": "SW-130"}).Refused(409, "not_in_carton", "scan")
	picker.Post(cp+"/repack", object{"to": other["sscc"], "scan": "HC-050", "quantity": "7"}).Refused(409, "not_enough",
		"quantity", "holds 6 of HC-050, not 7")
	parted := repack(carton, other["sscc"], object{"quantity": "2"})
	if at(parted, "from", "expected_kg") != "2.2" || at(parted, "to", "expected_kg") != "0.9" ||
		at(parted, "to", "state") != "at_bench" || at(parted, "to", "order") != at(o, "number") {
		t.Fatalf("two clamps go over: %v", parted)
	}
	repack(carton, other["sscc"], object{"scan": "H-7"})
	repack(id(other, "id"), sscc, object{"scan": "H-7"})
	if back := repack(id(other, "id"), sscc, object{"quantity": "2"}); at(back, "to", "expected_kg") != "3.1" ||
		at(back, "from", "state") != "blank" {
		t.Fatalf("two clamps come back: %v", back)
	}
	picker.Post(cp+"/check", object{"scan": "HC-050", "quantity": "6"}).JSON()
	picker.Post(cp+"/check", object{"scan": "H-7"}).JSON()
	if sizes := picker.Get(cp + "/sizes").JSONs(); len(sizes) != 2 || sizes[0]["code"] != "S" {
		t.Errorf("sizes that hold it: %v", sizes)
	}
	body := object{"size": "S", "weight_kg": "3.9"}
	if p := picker.Post(cp+"/pack/preview", body).JSON(); !strings.HasPrefix(p["button"].(string), "Open carton") ||
		len(p["moves"].([]any)) != 0 {
		t.Fatalf("the plan is %v", p)
	}
	if c := picker.Post(cp+"/pack", body).JSON(); c["state"] != "at_bench" || c["variance_kg"] != "0.5" ||
		at(c, "contents", 0, "checked") != "0" {
		t.Fatalf("the carton is %v, %v off", c["state"], c["variance_kg"])
	}
	if w := picker.Get(cp + "/weight").JSON(); w["weight_kg"] != "3.9" {
		t.Fatalf("it weighs %v", w)
	}
	picker.Post(cp+"/pack", body).Refused(409, "not_checked", "")
	picker.Post(cp+"/check", object{"scan": "HC-050", "quantity": "6"}).JSON()
	picker.Post(cp+"/check", object{"scan": "H-7"}).JSON()
	picker.Post(cp+"/pack", body).Refused(409, "weight_differs", "weight_kg",
		"a difference of 0.5 kg, and 0.2 kg is allowed")
	body["reason"] = "a wet carton"
	picker.Post(cp+"/pack", body).Refused(403, "lead_decides", "weight.reason")
	if c := lead.Post(cp+"/pack", body).JSON(); c["state"] != "packed" || c["weight_kg"] != "3.9" {
		t.Fatalf("the carton is %v", c["state"])
	}
	picker.Post("/scale/tell", object{"site_id": world.Site, "variance_kg": 0, "answers": false}).JSON()
	picker.Get(cp+"/weight").Refused(409, "scale_silent", "weight_kg")

	// Stacked on a pallet, it is loaded with it; a vehicle of another carrier refuses it.
	stack := func() []object {
		return picker.Post("/pallets", object{"site_id": world.Site, "cartons": []string{sscc}}).JSONs()
	}
	off := fmt.Sprintf("/cartons/%d/unstack", id(stack()[0], "id"))
	if c := picker.Post(off, nil).JSON(); c["pallet"] != "" && c["pallet"] != nil {
		t.Errorf("taken off its pallet it stands on %v", c["pallet"])
	}
	picker.Post(off, nil).Refused(409, "carton_not_stacked", "")
	stacked := stack()
	wrong := picker.Post("/loads", object{"site_id": world.Site, "carrier": "Brook"}).JSON()
	picker.Post(fmt.Sprintf("/loads/%d/scan", id(wrong, "id")), object{"scan": sscc}).Refused(409, "other_carrier",
		"scan", "goes with Northgate Vans")
	load := picker.Post("/loads", object{"site_id": world.Site, "carrier": "Northgate Vans", "vehicle": "NV 1"}).JSON()
	lp := fmt.Sprintf("/loads/%d", id(load, "id"))
	picker.Post(lp+"/leave", object{}).Refused(409, "nothing_loaded", "")
	if l := picker.Post(lp+"/scan", object{"scan": stacked[0]["pallet"]}).JSON(); l["count"] != 1.0 {
		t.Fatalf("on the vehicle: %v", l)
	}
	picker.Post(lp+"/scan", object{"scan": sscc}).Refused(409, "carton_loaded", "scan", "already")
	second := picker.Post("/loads", object{"site_id": world.Site, "carrier": "Northgate Vans"}).JSON()
	picker.Post(fmt.Sprintf("/loads/%d/scan", id(second, "id")), object{"scan": sscc}).Refused(409, "other_load",
		"scan", load["number"].(string))
	picker.Post("/shipments", object{"order_id": o["id"]}).Refused(409, "nothing_packed", "order_id")
	if l := picker.Post(lp+"/off", object{}).JSON(); l["count"] != 0.0 || h.Holds(t, world.Gate, world.Clamp) != "6" {
		t.Fatalf("taken off: %v", l)
	}
	picker.Post(lp+"/scan", object{"scan": sscc}).JSON()
	// One that was opened by mistake is cancelled, while nothing is on it.
	picker.Post(lp+"/cancel", object{}).Refused(409, "carton_loaded", "", "1 carton on", "Take them off first")
	by := fmt.Sprintf("/loads/%d", id(second, "id"))
	if l := picker.Post(by+"/cancel", object{}).JSON(); l["state"] != "cancelled" {
		t.Fatalf("cancelled: %v", l)
	}
	picker.Post(by+"/scan", object{"scan": sscc}).Refused(409, "load_cancelled", "")
	picker.Post(by+"/cancel", object{}).Refused(409, "load_cancelled", "")
	for _, l := range picker.Get("/loads?site=1").JSONs() {
		if l["number"] == second["number"] {
			t.Error("a cancelled vehicle is still listed")
		}
	}

	// The carrier does not answer and the host answers oddly: it is shipped all the same.
	picker.Post("/carriers/tell", object{"site_id": world.Site, "name": "Northgate Vans", "does": "silent"})
	lead.Post("/host/tell", object{"site_id": world.Site, "does": "odd"}).JSON()
	if l := picker.Post(lp+"/leave", object{}).JSON(); l["state"] != "left" {
		t.Fatalf("the vehicle is %v", l["state"])
	}
	picker.Post(lp+"/off", object{}).Refused(409, "load_left", "")
	dp := fmt.Sprintf("/shipments/%d", id(lead.Get(fmt.Sprintf("/sales-orders/%d", id(o, "id"))).JSON(), "shipments",
		0, "id"))
	read := func() object { return lead.Get(dp).JSON() }
	d := eventually(t, read, func(d object) bool { return d["said"] != "" })
	if d["tracking"] != "" || d["rate"] != "6.95" || !strings.Contains(d["said"].(string), "does not answer") {
		t.Fatalf("the carrier said %v for %v", d["said"], d["rate"])
	}
	picker.Post("/carriers/tell", object{"site_id": world.Site, "name": "Northgate Vans", "does": "takes"})
	picker.Post(dp+"/ask-again", nil).JSON()
	if d = eventually(t, read,
		func(d object) bool { return d["tracking"] != "" }); !strings.HasPrefix(d["tracking"].(string), "NV0000") ||
		d["said"] != "" {
		t.Fatalf("the number is %v", d["tracking"])
	}
	told := func() object { return lead.Get("/host?site=1").JSON() }
	host := eventually(t, told, func(o object) bool {
		return !empty("waiting")(o) && at(o, "waiting", 0, "attempts") != 0.0 && at(o, "waiting", 0, "said") != ""
	})
	if at(host, "waiting", 0, "document") != d["number"] || at(host, "waiting", 0, "body", "cartons", 0, "lines", 1,
		"serials", 0) != "H-7" {
		t.Fatalf("the host waits for %v", host["waiting"])
	}
	lead.Post("/host/tell", object{"site_id": world.Site, "does": "takes"}).JSON()
	if host = eventually(t, told, empty("waiting")); at(host, "told", 0, "state") != "done" {
		t.Fatalf("the host was told %v", host["told"])
	}

	// The invoice follows the shipment, with the freight on it, once.
	if u := lead.Get("/uninvoiced?site=1").Rows(); len(u) != 1 || u[0]["value"] != "282.5" || u[0]["lines"] != 3.0 {
		t.Fatalf("not invoiced: %v", u)
	}
	invoices := lead.Post("/invoices", object{"shipment_ids": []any{d["id"]}, "mail": true}).JSONs()
	if invoices[0]["total"] != "282.5" || len(invoices[0]["lines"].([]any)) != 3 {
		t.Fatalf("invoiced %v", invoices)
	}
	// One made by mistake is taken back by a credit note, once, and what it asked is asked anew:
	// with tax of two rates, the charge at the higher, and due by the customer's days.
	made := fmt.Sprintf("/invoices/%d", id(invoices[0], "id"))
	if _, err := h.Owner.Exec(`
		UPDATE items SET tax_pct = CASE sku WHEN 'HC-050' THEN 19 ELSE 7 END;
		UPDATE parties SET due_days = 30 WHERE kind = 'customer'`); err != nil {
		t.Fatal(err)
	}
	picker.Post(made+"/credit", object{"reason": "wrong prices"}).Refused(403, "role", "")
	lead.Post(made+"/credit", object{"reason": "x"}).Refused(422, "reason_short", "reason")
	note := lead.Post(made+"/credit", object{"reason": "wrong prices"}).JSON()
	if note["total"] != "-282.5" || note["credits_number"] != invoices[0]["number"] || note["credits"] != invoices[0]["id"] {
		t.Fatalf("taken back by %v", note)
	}
	lead.Post(made+"/credit", object{"reason": "wrong prices"}).Refused(409, "invoice_credited", "", "taken back by CN-1")
	lead.Post(fmt.Sprintf("/invoices/%d/credit", id(note, "id")), object{"reason": "wrong again"}).Refused(409,
		"invoice_credited", "", "credit note already")
	anew := lead.Post("/invoices", object{"shipment_ids": []any{d["id"]}}).JSONs()[0]
	// 120 and 12.50 at 19 % are 25.175, so 25.18; 150 at 7 % are 10.50.
	if anew["net"] != "282.5" || anew["total"] != "318.18" || anew["due_on"] != day(30) ||
		at(anew, "taxes", 0, "amount") != "10.5" || at(anew, "taxes", 1, "amount") != "25.18" {
		t.Fatalf("invoiced anew: %v", anew)
	}
	if pdf := lead.Get(fmt.Sprintf("/invoices/%d/invoice.pdf", id(note, "id"))); pdf.Status != 200 {
		t.Errorf("the credit note's paper answers %d", pdf.Status)
	}
	if list := lead.Get("/invoices/list?site=1").JSON(); at(list, "sums", "total") != "318.18" || list["total"] != 3.0 {
		t.Errorf("all papers come to %v", list["sums"])
	}
	lead.Post("/invoices", object{"shipment_ids": []any{d["id"]}}).Refused(409, "nothing_uninvoiced", "shipment_ids",
		"invoiced already")
	mails := outbox(lead)
	if out := eventually(t, mails, func(o object) bool { return !empty("sent")(o) }); at(out, "sent", 0,
		"document") != invoices[0]["number"] {
		t.Fatalf("mailed %v", out["sent"])
	}
	if l := at(lead.Get(fmt.Sprintf("/sales-orders/%d", id(o, "id"))).JSON(), "lines", 0); at(l, "invoiced") != "6" ||
		at(l, "shipped") != "6" {
		t.Fatalf("the line is %v", l)
	}
	h.Whole(t)
}

// TestManyOrdersAreSentInOneStep sends the orders of one carrier together; one that takes
// no partial shipments waits for its rest, or cancels it; what is too heavy is refused.
func TestManyOrdersAreSentInOneStep(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	if _, err := h.Owner.Exec(`
		INSERT INTO carriers (name, base, per_kg, max_kg) VALUES ('Northgate Vans', 5, 0, 20)`); err != nil {
		t.Fatal(err)
	}
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 24)
	h.Stock(t, world.Heavy, h.Bin(t, "B-02-1-A"), 6)
	pack := func(o object) {
		r, rp := roundFor(lead, lead, id(o, "id"))
		sscc, carton := blank(lead, lead, rp, id(o, "id"))
		takeAll(lead, rp, sscc, r)
		lead.Post(rp+"/stage", object{}).JSON()
		lead.Post(fmt.Sprintf("/cartons/%d/pack", carton), object{}).JSON()
	}
	a, b, part, heavy := sellNow(lead, world.Clamp, "2"), sellNow(lead, world.Clamp, "3"), sellNow(lead, world.Clamp,
		"1", world.Cloth, "4"), sellNow(lead, world.Heavy, "2")
	for _, o := range []object{a, b, part, heavy} {
		pack(o)
	}
	lead.Post("/shipments/many", object{"order_ids": []any{a["id"], heavy["id"]}}).Refused(409, "too_heavy",
		"carrier", "20 kg in a carton at most", "26 kg")
	if _, err := h.Owner.Exec(`
		UPDATE carriers SET max_kg = NULL; UPDATE parties SET in_parts = false WHERE kind = 'customer'`); err != nil {
		t.Fatal(err)
	}
	lead.Post("/shipments/many", object{"order_ids": []any{a["id"], part["id"]}}).Refused(409, "parts_unwanted",
		"order_id", "wants "+part["number"].(string)+" whole: 4 units")
	if got := lead.Get(fmt.Sprintf("/sales-orders/%d", id(a, "id"))).JSON(); got["shipped"] != "0" {
		t.Fatal("one was shipped though another refused")
	}
	if shipped := lead.Post("/shipments/many",
		object{"order_ids": []any{b["id"], a["id"], heavy["id"]}}).JSONs(); len(shipped) != 3 {
		t.Fatalf("shipped %v", shipped)
	}
	lead.Post("/shipments", object{"order_id": part["id"], "rest": "cancel"}).JSON()
	if got := lead.Get(fmt.Sprintf("/sales-orders/%d", id(part, "id"))).JSON(); got["state"] != "shipped" ||
		at(got, "lines", 1, "cancelled") != "4" {
		t.Fatalf("the order is %v, %v", got["state"], got["lines"])
	}
	h.Whole(t)
}
