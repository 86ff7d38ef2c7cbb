package application_test

import (
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// TestTwoOrdersAndThreeCartonsOnOneTrolley walks one round for two orders, fills a
// carton and opens another, and is stopped at every step that is not right.
func TestTwoOrdersAndThreeCartonsOnOneTrolley(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 24)
	h.Stock(t, world.Heavy, h.Bin(t, "B-02-1-A"), 24)
	var orders []int64
	for _, quantity := range []string{"6", "4"} {
		o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site,
			"wanted_on": soon, "release": true,
			"lines": []object{{"item_id": world.Clamp, "quantity": quantity},
				{"item_id": world.Heavy, "quantity": "1"}}}).JSON()
		orders = append(orders, id(o, "id"))
	}
	p := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": orders, "empty_first": "B-02-1-A"}).JSON()
	if at(p, "button") != "Release 4 stops for 2 orders" || at(p, "units") != "12" ||
		at(p, "metres").(float64) > at(p, "plain_metres").(float64) {
		t.Fatalf("planned %v", p)
	}
	// 90 s to set up, the walk at 1.3 m/s, 2 bins at 6 s, 4 lines at 4 s, 12 units at 1.5 s, 30.5 kg at 0.2 s.
	if got, want := at(p, "time", "minutes").(string), fmt.Sprintf("%.1f",
		(90+p["metres"].(float64)/1.3+12+16+18+6.1)/60); got != want {
		t.Errorf("it is calculated to take %s minutes, want %s", got, want)
	}
	stops := []object{}
	for _, s := range p["stops"].([]any) {
		stops = append(stops, object{"line_id": at(s, "line_id"), "location_id": at(s, "location_id"),
			"quantity": at(s, "quantity")})
	}
	elsewhere := append([]object{}, stops...)
	elsewhere[0] = object{"line_id": stops[0]["line_id"], "location_id": h.Bin(t, "A-03-1-A"),
		"quantity": stops[0]["quantity"]}
	lead.Post("/pick/preview", object{"site_id": world.Site, "stops": elsewhere}).Refused(409, "not_enough",
		"stops[0].quantity", "0 are free in that bin")
	lead.Post("/pick/preview", object{"site_id": world.Site, "stops": append(stops, stops[0])}).Refused(409,
		"over_wanted", "stops[4].quantity")
	lead.Post("/pick/preview", object{"site_id": world.OtherSite, "stops": stops}).Refused(422, "line_unknown",
		"stops[0].line_id")
	lead.Post("/pick/preview", object{"site_id": world.Site, "stops": []object{}}).Refused(422, "stops_missing",
		"stops")
	round := lead.Post("/rounds", object{"site_id": world.Site, "stops": stops}).JSON()
	lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": orders}).Refused(409, "nothing_open",
		"order_ids")
	rp := fmt.Sprintf("/rounds/%d", id(round, "id"))

	picker.Post(rp+"/pick", object{"stop_id": 1}).Refused(409, "round_not_walking", "", "Start it")
	picker.Post(rp+"/start", nil).JSON()
	var labels []object
	lead.Post("/cartons", object{"site_id": world.Site, "count": 4}).Into(&labels)
	label := func(i int) string { return labels[i]["sscc"].(string) }
	picker.Post(rp+"/cartons", object{"scan": label(0)}).Refused(422, "order_missing", "order_id", "2 orders")
	picker.Post(rp+"/cartons", object{"scan": label(0), "order_id": orders[0]}).JSON()
	picker.Post(rp+"/cartons", object{"scan": label(0), "order_id": orders[1]}).Refused(409, "carton_used", "carton",
		"blank label")
	if now := picker.Get(rp).JSON(); now["minutes"] != at(p, "time", "minutes") || now["ends_at"] == nil {
		t.Errorf("it ends at %v", now["ends_at"])
	}
	first := round["stops"].([]any)[0].(object)
	other := int(1 - map[bool]int{true: 0, false: 1}[id(first, "order_id") == orders[0]])
	scans := func(s object, carton string) object {
		return object{"stop_id": s["id"], "bin": s["bin"], "item": s["sku"], "carton": carton,
			"quantity": s["quantity"]}
	}
	if other == 0 { // the first stop is for the order that has no carton yet
		picker.Post(rp+"/check", scans(first, label(0))).Refused(409, "carton_missing", "carton", "blank carton label")
	}
	picker.Post(rp+"/cartons", object{"scan": "]C100" + label(1), "order_id": orders[1]}).JSON()
	mine := map[int64]string{orders[0]: label(0), orders[1]: label(1)}
	wrong := map[int64]string{orders[0]: label(1), orders[1]: label(0)}
	picker.Post(rp+"/check", scans(first, wrong[id(first, "order_id")])).Refused(409, "wrong_carton", "carton",
		"You scanned carton")
	picker.Post(rp+"/check", scans(first, label(3))).Refused(409, "wrong_carton", "carton", "not on this round")

	// The first stop's carton is full after one: a second is opened for its order.
	one := scans(first, mine[id(first, "order_id")])
	one["quantity"] = "1"
	picker.Post(rp+"/pick", one).JSON()
	round = picker.Post(rp+"/cartons", object{"scan": label(2), "order_id": id(first, "order_id")}).JSON()
	if at(round, "cartons", 2, "letter") != "C" {
		t.Fatalf("the third carton is %v", at(round, "cartons", 2))
	}
	mine[id(first, "order_id")] = label(2)
	for _, s := range round["stops"].([]any) {
		s := s.(object)
		if s["state"] != "open" {
			continue
		}
		take := scans(s, mine[id(s, "order_id")])
		if s["picked"] != "0" {
			take["quantity"] = fmt.Sprint(decimalOf(s["quantity"]) - decimalOf(s["picked"]))
		}
		picker.Post(rp+"/pick", take).JSON()
	}
	picker.Post(rp+"/pick", scans(first, label(2))).Refused(409, "stop_done", "stop_id")
	picker.Post(rp+"/stage", object{}).JSON()
	picker.Post(rp+"/stage", object{}).Refused(409, "round_not_walking", "", "is done")
	picker.Post(rp+"/start", nil).Refused(409, "round_done", "")

	// One carton is closed and shipped; the order says what is on its way elsewhere.
	picker.Post("/shipments", object{"order_id": orders[0]}).Refused(409, "nothing_packed", "order_id",
		"Close its cartons")
	for i := range 3 {
		picker.Post(fmt.Sprintf("/cartons/%d/pack", id(labels[i], "id")), object{}).JSON()
	}
	picker.Post(fmt.Sprintf("/cartons/%d/pack", id(labels[0], "id")), object{}).Refused(409, "carton_state", "",
		"is packed")
	picker.Get(fmt.Sprintf("/cartons/%d/slip.pdf", id(labels[3], "id"))).Refused(409, "carton_blank", "")
	for _, o := range orders {
		picker.Post("/shipments", object{"order_id": o}).JSON()
		if got := lead.Get(fmt.Sprintf("/sales-orders/%d", o)).JSON(); got["state"] != "shipped" {
			t.Fatalf("order %d is %v", o, got["state"])
		}
	}
	if h.Holds(t, h.Bin(t, "A-01-1-A"), world.Clamp) != "14" || h.Holds(t, h.Bin(t, "B-02-1-A"), world.Heavy) != "22" {
		t.Fatal("the bins do not hold what is left")
	}
	trail := lead.Get(fmt.Sprintf("/cartons/%d/trail", id(labels[2], "id"))).JSON()
	var kinds []string
	for _, l := range trail["lines"].([]any) {
		kinds = append([]string{at(l, "kind").(string)}, kinds...)
	}
	if story := strings.Join(kinds, " "); !strings.HasPrefix(story, "pick") || !strings.HasSuffix(story, "ship") {
		t.Fatalf("the carton's story is %s", story)
	}
	h.Whole(t)
}

func decimalOf(v any) (n int) {
	_, _ = fmt.Sscan(v.(string), &n)
	return n
}

func TestARoundIsTakenOverByTheLeadOnly(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 24)
	round, _ := release(t, lead, world.Clamp, "3")
	rp := fmt.Sprintf("/rounds/%d", id(round, "id"))
	lead.Post(rp+"/start", nil).JSON()
	picker.Post(rp+"/start", nil).Refused(409, "round_taken", "", "Some lead walks")
	again, _ := release(t, lead, world.Clamp, "2")
	picker.Post(fmt.Sprintf("/rounds/%d/start", id(again, "id")), nil).JSON()
	if taken := lead.Post(fmt.Sprintf("/rounds/%d/start", id(again, "id")),
		nil).JSON(); taken["picker"] != "Some lead" {
		t.Fatalf("the lead could not take over: %v", taken["picker"])
	}
}

func TestExpiringStockGoesFirstAndTooShortALifeStays(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	for bin, days := range map[string]int{"B-01-1-A": 400, "B-02-1-A": 90, "B-03-1-A": 10} {
		lot := h.Lot(t, world.Fluid, fmt.Sprint("L", days), days)
		if _, err := h.Owner.Exec(`
			SELECT ledger_post('{"kind":"receive","person":1}',
			       jsonb_build_array(jsonb_build_object('item', 2, 'lot', $1::bigint, 'quantity', 5, 'from_location',
			       1, 'to_location', $2::int)))`, *lot, h.Bin(t, bin)); err != nil {
			t.Fatal(err)
		}
	}
	o := lead.Post("/sales-orders", object{"customer_id": 2, "site_id": 1, "wanted_on": soon, "release": true,
		"lines": []object{{"item_id": world.Fluid, "quantity": "12"}}}).JSON()
	p := lead.Post("/pick/plan", object{"site_id": 1, "order_ids": []int64{id(o, "id")}}).JSON()
	taken := map[string]string{}
	for _, s := range p["stops"].([]any) {
		taken[at(s, "lot").(string)] = at(s, "quantity").(string)
	}
	// 30 days must be left when it goes: the lot with 10 stays, and is named.
	if fmt.Sprint(taken) != "map[L400:5 L90:5]" || at(p, "shortages", 0, "quantity") != "2" ||
		!strings.Contains(at(p, "shortages", 0, "why").(string), "lot L10 in B-03-1-A") {
		t.Fatalf("planned %v, short %v", taken, p["shortages"])
	}
}

func TestWhatIsLookedAtNowhereIsMissing(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	c := world.SignOn(t, base, "viewer")
	for _, path := range []string{"/purchase-orders/9", "/arrivals/9", "/sales-orders/9", "/rounds/9", "/cartons/9",
		"/shipments/9", "/items/99?site=1", "/locations/999", "/lots/9", "/floor?site=9", "/shipments/9/note.pdf"} {
		c.Get(path).Refused(404, "unknown", "", "There is no")
	}
	c.Get("/items/1/trail?site=1&after=yesterday").Refused(422, "cursor_malformed", "after")
	c.Get("/nothing/like/this").Refused(404, "no_such_operation", "")
	if a := c.Get("/openapi.json"); a.Status != 200 || !strings.Contains(string(a.Body), `"openapi":"3.1.0"`) {
		t.Errorf("the description answers %d", a.Status)
	}
}

// Docks and corners have no zone of their own: what a bin's zone would not accept may
// stand there.
func TestGoodsOfAnyHandlingMayStandOnADock(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "picker")
	lot := h.Lot(t, world.Fluid, "L1", 400)
	h.StockLot(t, world.Fluid, lot, h.Bin(t, "B-01-1-A"), 6)
	move := object{"from_id": h.Bin(t, "B-01-1-A"), "item_id": world.Fluid, "lot_id": *lot, "quantity": "2",
		"to": "A-01-1-A"}
	c.Post("/transfers", move).Refused(422, "bin_full", "quantity", "does not take fluid goods")
	move["to"] = "Dock 1"
	c.Post("/transfers", move).JSON()
	if got := h.Holds(t, world.Dock, world.Fluid); got != "2" {
		t.Fatalf("the dock holds %s", got)
	}
	h.Whole(t)
}

// TestARoundIsDissolvedAndWhatWasOnItIsOpenAgain ends rounds early: one that nobody has begun,
// and one of which a part lies in a carton.
func TestARoundIsDissolvedAndWhatWasOnItIsOpenAgain(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 12)
	o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": "12"}}}).JSON()
	released := func() string {
		t.Helper()
		plan := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []int64{id(o, "id")}}).JSON()
		s := plan["stops"].([]any)[0]
		r := lead.Post("/rounds", object{"site_id": world.Site, "stops": []object{{"line_id": at(s, "line_id"),
			"location_id": at(s, "location_id"), "quantity": at(s, "quantity")}}}).JSON()
		return fmt.Sprintf("/rounds/%d", id(r, "id"))
	}
	first := released()
	lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []int64{id(o, "id")}}).Refused(409, "nothing_open",
		"order_ids")
	picker.Post(first+"/dissolve", nil).Refused(403, "role", "")
	if got := lead.Post(first+"/dissolve", nil).JSON(); got["state"] != "done" {
		t.Fatalf("it is %v", got["state"])
	}
	lead.Post(first+"/dissolve", nil).Refused(409, "round_done", "", "done already")

	second := released()
	r := picker.Post(second+"/start", nil).JSON()
	sscc, carton := blank(lead, picker, second, id(o, "id"))
	stop := r["stops"].([]any)[0].(object)
	picker.Post(second+"/pick", object{"stop_id": stop["id"], "bin": stop["bin"], "item": stop["sku"], "carton": sscc,
		"quantity": "5"}).JSON()
	lead.Post(second+"/dissolve", nil).JSON()
	if got := lead.Get(fmt.Sprintf("/cartons/%d", carton)).JSON()["state"]; got != "at_bench" {
		t.Errorf("its carton is %v", got)
	}
	// The seven that were not taken are planned again, and no more.
	plan := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []int64{id(o, "id")}}).JSON()
	if plan["units"] != "7" {
		t.Errorf("%v are planned again", plan["units"])
	}
	h.Whole(t)
}

// TestStopsAreTakenOffARound takes one of two stops off a round that was begun: what was not taken
// there is open for another round, the rest is walked, and with the last stop the round is over.
func TestStopsAreTakenOffARound(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 6)
	h.Stock(t, world.Heavy, h.Bin(t, "B-02-1-A"), 4)
	o := sellNow(lead, world.Clamp, "6", world.Heavy, "4")
	r, path := roundFor(lead, picker, id(o, "id"))
	stops := r["stops"].([]any)
	first, second := stops[0].(object), stops[1].(object)
	off := func(ids ...any) object { return object{"stop_ids": ids} }
	picker.Post(path+"/take-off", off(second["id"])).Refused(403, "role", "")
	lead.Post(path+"/take-off", off(999)).Refused(404, "unknown", "")
	sscc, _ := blank(lead, picker, path, id(o, "id"))
	picker.Post(path+"/pick", object{"stop_id": first["id"], "bin": first["bin"], "item": first["sku"], "carton": sscc,
		"quantity": first["quantity"]}).JSON()
	lead.Post(path+"/take-off", off(first["id"])).Refused(409, "stop_done", "stop_ids[0]", "was made already")
	after := lead.Post(path+"/take-off", off(second["id"], second["id"])).JSON()
	if after["state"] != "done" || at(after, "stops", 1, "state") != "short" {
		t.Fatalf("with its last stop taken off the round is %v: %v", after["state"], at(after, "stops", 1))
	}
	lead.Post(path+"/take-off", off(second["id"])).Refused(409, "round_done", "")
	plan := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []any{o["id"]}}).JSON()
	if plan["units"] != second["quantity"] || at(plan, "stops", 0, "sku") != second["sku"] {
		t.Errorf("open again are %v", plan)
	}
	// Of one that nobody has begun the others stay.
	again := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"release": true, "lines": []object{{"item_id": world.Heavy, "quantity": second["quantity"]}}}).JSON()
	h.Stock(t, world.Heavy, h.Bin(t, "A-02-1-A"), 4)
	both, path := roundFor(lead, picker, id(o, "id"), id(again, "id"))
	left := lead.Post(path+"/take-off", off(at(both, "stops", 0, "id"))).JSON()
	if left["state"] == "done" || left["done_count"] != 1.0 {
		t.Errorf("%v of its stops are done, it is %v", left["done_count"], left["state"])
	}
	h.Whole(t)
}

// TestStopsAreAddedToARound adds an order to a round that nobody has begun, and one to a round that is walked: each
// stop is walked where it costs the least, the walk is measured anew, and what cannot be added changes nothing.
func TestStopsAreAddedToARound(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	near, far, between := h.Bin(t, "A-01-1-A"), h.Bin(t, "B-04-1-A"), h.Bin(t, "A-03-1-A")
	h.Stock(t, world.Clamp, near, 20)
	h.Stock(t, world.Heavy, far, 4)
	h.StockUnits(t, world.Spot, between, "AD-1", "AD-2")
	first, second, third := sellNow(lead, world.Clamp, "6"), sellNow(lead, world.Heavy, "2"), sellNow(lead, world.Spot, "2")
	plan := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []any{first["id"]}}).JSON()
	r := lead.Post("/rounds", object{"site_id": world.Site, "stops": []object{{"line_id": at(first, "lines", 0, "id"),
		"location_id": near, "quantity": "6"}}}).JSON()
	path := fmt.Sprintf("/rounds/%d", id(r, "id"))
	if plan["metres"] != r["metres"] {
		t.Fatalf("planned are %v m, released %v", plan["metres"], r["metres"])
	}
	add := func(o object) (object, object) {
		p := lead.Post(path+"/add/preview", object{"order_ids": []any{o["id"]}}).JSON()
		var stops []object
		for _, s := range p["stops"].([]any) {
			stops = append(stops, object{"line_id": at(s, "line_id"), "location_id": at(s, "location_id"),
				"quantity": at(s, "quantity")})
		}
		return p, object{"stops": stops}
	}
	_, stops := add(second)
	picker.Post(path+"/add", stops).Refused(403, "role", "")
	lead.Post(path+"/add", object{"stops": []object{{"line_id": at(second, "lines", 0, "id"), "location_id": far,
		"quantity": "3"}}}).Refused(409, "over_wanted", "stops[0].quantity", "wants only 2 more")
	two := lead.Post(path+"/add", stops).JSON()

	if len(two["stops"].([]any)) != 2 || two["metres"].(float64) <= r["metres"].(float64) {
		t.Fatalf("with a stop more it is %v m and was %v", two["metres"], r["metres"])
	}
	lead.Post(path+"/add/preview", object{"order_ids": []any{second["id"]}}).Refused(409, "nothing_open", "order_ids")
	// Somebody walks it, and has been at the first bin: what is added then comes behind that.
	walked := picker.Post(path+"/start", nil).JSON()
	begun := at(walked, "stops", 0).(object)
	sscc, _ := blank(lead, picker, path, id(begun, "order_id"))
	picker.Post(path+"/pick", object{"stop_id": begun["id"], "bin": begun["bin"], "item": begun["sku"], "carton": sscc,
		"quantity": "1"}).JSON()

	_, stops = add(third)
	three := lead.Post(path+"/add", stops).JSON()
	var bins []any
	for i, s := range three["stops"].([]any) {
		bins = append(bins, at(s, "bin"))
		if at(s, "seq") != float64(i+1) {
			t.Errorf("stop %d has number %v", i+1, at(s, "seq"))
		}
	}
	if bins[0] != begun["bin"] || bins[1] != "A-03-1-A" {
		t.Errorf("walked are %v", bins)
	}
	lead.Post(path+"/dissolve", nil).JSON()
	lead.Post(path+"/add", stops).Refused(409, "round_done", "")
	h.Whole(t)
}

// TestARoundIsHandedToNobodyOfAnotherSite: whoever works elsewhere is refused by name, and the round stays with whom it
// was.
func TestARoundIsHandedToNobodyOfAnotherSite(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 6)
	_, path := roundFor(lead, lead, id(sellNow(lead, world.Clamp, "2"), "id"))
	var who int32
	if err := h.Owner.Get(&who, `UPDATE people SET site_id = 2 WHERE login = 'picker' RETURNING id`); err != nil {
		t.Fatal(err)
	}
	lead.Post(path+"/reassign", object{"person_id": who}).Refused(409, "person_elsewhere", "person_id", "Some picker works at Other House")
	if r := lead.Get(path).JSON(); r["picker"] != "Some lead" {
		t.Errorf("it is walked by %v", r["picker"])
	}
	if _, err := h.Owner.Exec(`UPDATE people SET site_id = 1 WHERE id = $1`, who); err != nil {
		t.Fatal(err)
	}
	lead.Post(path+"/reassign", object{"person_id": who}).JSON()
	picker.Post(path+"/reassign", object{}).JSON()
}
