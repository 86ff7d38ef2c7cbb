package application_test

import (
	"fmt"
	"testing"
	"time"

	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

// TestADepartureFollowsItsOrders has an order of ten go all the way: at each step every
// unit of it stands on the board once, at the stage it is at, beside the work that is left.
func TestADepartureFollowsItsOrders(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 8)
	// A collection in half an hour, where a round takes two: what is not picked is missed.
	if _, err := h.Owner.Exec(`
		INSERT INTO carriers (name, collects, base, per_kg)
		SELECT 'Northgate Vans', ARRAY[to_char((now() + interval '30 minutes') AT TIME ZONE timezone, 'HH24:MI')], 5, 1
		  FROM sites WHERE id = 1; UPDATE sites SET pace_set_up = 7200`); err != nil {
		t.Fatal(err)
	}
	o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site,
		"carrier": "Northgate Vans", "wanted_on": time.Now().UTC().Format(time.DateOnly), "release": true,
		"lines": []object{{"item_id": world.Clamp, "quantity": "10"}}}).JSON()
	later := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site,
		"carrier": "Northgate Vans", "wanted_on": day(30), "release": true,
		"lines": []object{{"item_id": world.Clamp, "quantity": "1"}}}).JSON()
	board := func(want ...string) {
		t.Helper()
		all := lead.Get("/dispatch/departures?site=1").JSONs()
		if len(all) != 1 || all[0]["carrier"] != "Northgate Vans" || all[0]["orders"] != 1.0 {
			t.Fatalf("the board shows %v, not the order alone", all)
		}
		d, sum := all[0], decimal.Zero
		for i, stage := range []string{"not_begun", "on_round", "picked", "packed", "shipped"} {
			if d[stage] != want[i] {
				t.Errorf("%s: %v, want %s", stage, d[stage], want[i])
			}
			sum = sum.Add(decimal.RequireFromString(d[stage].(string)))
		}
		if !sum.Equal(decimal.NewFromInt(10)) {
			t.Errorf("%s units in all, want 10", sum)
		}
	}
	outlook := func(walkers float64, lacking string, made, left bool) object {
		t.Helper()
		f := lead.Get("/dispatch/forecast?site=1").JSON()
		c := at(f, "collections").([]any)[0].(object)
		if f["walkers"] != walkers || c["made"] != made || c["lacking"] != lacking || (c["ready_at"] != nil) != left {
			t.Errorf("%v walk, %v lack, made %v, ready at %v", f["walkers"], c["lacking"], c["made"], c["ready_at"])
		}
		return c
	}
	board("10", "0", "0", "0", "0")
	c := outlook(0, "2", false, true)
	if leave := at(c, "help", "leave").([]any); len(leave) != 1 || at(leave[0], "number") != o["number"] ||
		at(c, "help", "leave_at") == nil || at(c, "help", "release_at") != nil {
		t.Errorf("what would help is %v", c["help"])
	}
	round, rp := roundFor(lead, lead, id(o, "id"))
	board("2", "8", "0", "0", "0")
	sscc, carton := blank(lead, lead, rp, id(o, "id"))
	stop := round["stops"].([]any)[0].(object)
	lead.Post(rp+"/pick", object{"stop_id": stop["id"], "bin": stop["bin"], "item": stop["sku"], "carton": sscc,
		"quantity": "5"}).JSON()
	board("2", "3", "5", "0", "0")
	if c := outlook(1, "2", false, true); len(at(c, "help", "leave").([]any)) != 0 {
		t.Errorf("what is being picked is to be left: %v", c["help"])
	}
	lead.Post(rp+"/short", object{"stop_id": stop["id"], "found": "0"}).JSON()
	lead.Post(rp+"/stage", object{}).JSON()
	lead.Post(fmt.Sprintf("/cartons/%d/pack", carton), object{}).JSON()
	board("5", "0", "0", "5", "0")
	outlook(1, "5", true, true)
	lead.Post("/shipments", object{"order_id": o["id"], "rest": "open"}).JSON()
	board("5", "0", "0", "0", "5")
	outlook(1, "5", true, false)
	if got := lead.Get(fmt.Sprintf("/sales-orders/%d", id(later, "id"))).JSON()["state"]; got != "released" {
		t.Errorf("the order for later is %v", got)
	}
}

// TestADaySaysWhatIsThere reads what stations show when nothing is chosen, against what was
// done: docks and what is expected, figures and fullness, how orders stand, and schedules.
func TestADaySaysWhatIsThere(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 24)
	for _, ahead := range []int{-1, 0, 3, 30} {
		p := lead.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site,
			"expected_on": day(ahead), "sure": []string{"day_past"}, "lines": []object{{"item_id": world.Clamp, "quantity": "2"}}}).JSON()
		lead.Post(fmt.Sprintf("/purchase-orders/%d/send-to-supplier", id(p, "id")), object{"version": p["version"]}).JSON()
	}
	expected := lead.Get("/receive/day?site=1").JSON()["expected"].([]any)
	for i, want := range []float64{1, 1, 0, 0, 1, 0, 0, 0, 0} {
		if got := expected[i].(object)["orders"]; got != want {
			t.Errorf("day %d expects %v orders, want %v", i-1, got, want)
		}
	}
	for _, quantity := range []string{"4", "400"} {
		lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": day(0),
			"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": quantity}}}).JSON()
	}
	blocked := map[string]any{}
	for _, s := range lead.Get("/sales-orders/counts?site=1").JSON()["standing"].([]any) {
		blocked[fmt.Sprint(at(s, "state"), "/", at(s, "blocked_by"))] = at(s, "orders")
	}
	if len(blocked) != 2 || blocked["released/"] != 1.0 || blocked["released/lines_short"] != 1.0 {
		t.Errorf("orders stand as %v", blocked)
	}
	// Each standing opens to the very orders that it counts.
	for by, n := range map[string]int{"": 2, "lines_short": 1, "bin_short": 0} {
		list := lead.Get("/sales-orders/list?site=1&state=released&blocked_by=" + by).JSON()
		if len(list["orders"].([]any)) != n || list["total"] != float64(n) {
			t.Errorf("%d released orders kept by %q: %v", n, by, list["orders"])
		}
	}
	for _, shown := range lead.Get("/stock/items?site=1").Rows() {
		page := lead.Get(fmt.Sprintf("/items/%d?site=1", id(shown, "id"))).JSON()
		for _, figure := range []string{"on_hand", "on_hold", "reserved", "free", "on_order", "promised"} {
			if a, b := at(shown, "figures", figure), at(page, "figures", figure); a != b {
				t.Errorf("%v: %s is %v in the list, %v on its page", shown["sku"], figure, a, b)
			}
		}
	}
	for _, zone := range lead.Get("/stock/zones?site=1").JSONs() {
		if n := at(zone, "empty").(float64) + at(zone, "part").(float64) + at(zone, "most").(float64) +
			at(zone, "full").(float64); n != zone["bins"] {
			t.Errorf("zone %v has %v bins, %v of them by fullness", zone["zone"], zone["bins"], n)
		}
	}
	lead.Post("/schedules", object{"site_id": world.Site, "task": "release-orders", "rule": object{"days": []int{},
		"every": 240, "first": "00:00", "last": "23:59"}, "settings": object{"days": 1}}).JSON()
	coming := lead.Get("/schedules?site=1").JSONs()[0]["coming"].([]any)
	if len(coming) != 6 {
		t.Errorf("what is done every four hours comes %d times within a day: %v", len(coming), coming)
	}
}
