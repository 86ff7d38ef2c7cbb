package application_test

import (
	"fmt"
	"slices"
	"testing"

	"lanternrow/internal/test/world"
)

// TestWhoMayActAtWhichSite: a picker who may act at one site is refused at another by name, whatever is tried there,
// and nothing changes; at their own everything goes on, and so does it for who may act at all.
func TestWhoMayActAtWhichSite(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, office := world.SignOn(t, base, "lead"), world.SignOn(t, base, "office")
	ramp := otherSite(t, h)
	h.Stock(t, world.Clamp, ramp, 6)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	set := func(c *world.Client, login string, sites ...int) world.Answer {
		id := slices.Index(world.Logins, login) + 1
		m := lead.Get(fmt.Sprintf("/people/%d", id)).JSON()
		return c.Post(fmt.Sprintf("/people/%d", id), object{"version": m["version"], "name": m["name"], "login": login, "roles": m["roles"],
			"badge": m["badge"], "site_id": append(sites, world.Site)[0], "sites": append([]int{}, sites...)})
	}
	set(office, "picker", world.Site).Refused(403, "role", "")
	set(lead, "picker", 99).Refused(422, "site_unknown", "sites")
	set(lead, "picker", world.Site).JSON()
	set(lead, "office", 2).JSON()
	// A session knows it within seconds; a new one at once.
	picker := world.SignOn(t, base, "picker")
	office = world.SignOn(t, base, "office")
	if sites := at(picker.Get("/session").JSON(), "person", "sites").([]any); len(sites) != 1 || sites[0] != 1.0 {
		t.Fatalf("the picker may act at %v", sites)
	}
	move := object{"from_id": ramp, "item_id": world.Clamp, "quantity": "1", "to": "Z-01-1-A"}
	picker.Blunt = true
	picker.Post("/transfers", move).Refused(403, "site_barred", "", "may act at Test House, and not at Other House")
	picker.Post("/transfers/empty", object{"from_id": ramp, "to": "Z-01-1-A"}).Refused(403, "site_barred", "")
	picker.Post("/refills", object{"site_id": 2}).Refused(403, "site_barred", "")
	picker.Post("/loads", object{"site_id": 2, "carrier": "Ferry"}).Refused(403, "site_barred", "")
	h.Owner.MustExec(`INSERT INTO locations (site_id, kind, code) VALUES (2, 'bin', 'OH-01')`)
	picker.Post("/counts", object{"location_id": h.Bin(t, "OH-01"), "item_id": world.Clamp, "since": 0,
		"kinds": []object{{"quantity": "1"}}}).Refused(403, "site_barred", "")
	picker.Post("/printer/print", object{"site_id": 2}).Refused(403, "site_barred", "")
	if h.Holds(t, ramp, world.Clamp) != "6" {
		t.Fatal("goods were moved")
	}
	picker.Post("/transfers", object{"from_id": h.Bin(t, "A-01-1-A"), "item_id": world.Clamp, "quantity": "1", "to": "A-02-1-A"}).JSON()
	// Who is of the other site takes no order at this one, and may not change one.
	o := sellNow(lead, world.Clamp, "2")
	office.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon, "release": true,
		"lines": []object{{"item_id": world.Clamp, "quantity": "2"}}}).Refused(403, "site_barred", "", "not at Test House")
	office.Post(fmt.Sprintf("/sales-orders/%d/cancel-open", id(o, "id")), object{"version": o["version"]}).Refused(403, "site_barred", "")
	office.Post("/catalog/items/import", object{"site_id": world.Site, "rows": []object{{"sku": "HC-050", "target": "9"}}}).
		Refused(403, "site_barred", "")
	// A transfer leaves for the other site all the same.
	made := lead.Post("/transfer-orders", object{"from_site_id": 1, "to_site_id": 2, "wanted_on": day(0), "expected_on": day(2),
		"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": "2"}}}).JSON()
	packAll(lead, picker, id(made, "id"))
	picker.Post("/shipments", object{"order_id": made["id"]}).JSON()
	set(lead, "picker").JSON()
	world.SignOn(t, base, "picker").Post("/transfers", move).JSON()
	h.Whole(t)
}

// TestAStrangerIsRefusedWhatNoWayTries: commands that no way asks for, each of something that is there.
func TestAStrangerIsRefusedWhatNoWayTries(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	_, arrival := buy(t, lead, "20", "8")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 12)
	sold := lead.Get("/returnable?q=" + soldOnce(lead, world.Clamp, "4", true)["number"].(string)).JSONs()[0]
	back := lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Something else"), "lines": []object{back(sold, "2")}}).JSON()
	sale := sellNow(lead, world.Clamp, "2")
	packedFor(lead, sale)
	var carton, invoice int64
	if err := h.Owner.QueryRow(`
		SELECT (SELECT carton_id FROM carton_work WHERE order_id = $1), (SELECT max(id) FROM invoices)`, id(sale, "id")).Scan(&carton, &invoice); err != nil {
		t.Fatal(err)
	}
	comeStranger(t, h)
	stranger := world.SignOn(t, base, "stranger")
	stranger.Blunt = true
	at1 := object{"site_id": world.Site}
	for path, body := range map[string]object{
		fmt.Sprintf("/arrivals/%d/close", id(arrival, "id")): {"version": 1},
		fmt.Sprintf("/cartons/%d/open-again", carton):        nil,
		fmt.Sprintf("/cartons/%d/unstack", carton):           nil,
		fmt.Sprintf("/invoices/%d/mail", invoice):            nil,
		fmt.Sprintf("/returns/%d/mail", id(back, "id")):      nil,
		"/host/again": at1, "/host/1/discard": at1, "/printer/jobs/1/again": at1, "/printer/jobs/1/discard": at1,
		"/printer/tell": {"site_id": world.Site, "answers": false, "paper": 0},
	} {
		if said := stranger.Post(path, body).Code(); said != "site_barred" {
			t.Errorf("%s says %s to a stranger", path, said)
		}
	}
	h.Whole(t)
}
