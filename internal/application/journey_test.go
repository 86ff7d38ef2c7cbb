package application_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/test/world"
)

// wheres are the places of a unit's way.
func wheres(c *world.Client, serial string) (names []string, stays []any) {
	c.T.Helper()
	found := c.Get("/scan?site=1&text=" + serial).JSON()["found"].([]any)
	stays = c.Get(fmt.Sprintf("/serials/%d", id(found[0], "id"))).JSON()["journey"].([]any)
	for _, s := range stays {
		names = append(names, at(s, "where").(string))
	}
	return names, stays
}

// TestAUnitsWayIsTold from its supplier by way of two sites to the customer and back, with the time of each step: moves
// within a site are one stay, and each stay ends when the next begins.
func TestAUnitsWayIsTold(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	ramp := otherSite(t, h)
	h.Owner.MustExec(`INSERT INTO locations (site_id, kind, code, x, y) VALUES (2, 'bench', 'Table', 6, 0), (2, 'trolley', 'Carts', 6, 0),
		(2, 'staging', 'Exit', 6, 0)`)
	h.Owner.MustExec(`INSERT INTO aisles VALUES (2, 'Z', 4)`)
	h.Owner.MustExec(`UPDATE sites SET insist_bins = false WHERE id = 2`)
	lead.Post("/catalog/relays/import", object{"site_id": world.Site, "rows": []object{{"name": "Spots", "to_site": "Other House",
		"item": "SP-150"}}}).JSON()
	_, a := order(t, lead, nil, object{"item_id": world.Spot, "quantity": "1"})
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")), object{"version": a["version"], "lines": []object{
		{"line_id": at(a, "lines", 0, "id"), "quantity": "1", "serials": []string{"WAY-1"}}}}).JSON()
	relayed := lead.Get("/transfer-orders?site=1&sort=number").Rows()[0]
	packedFor(lead, relayed)
	lead.Post("/shipments", object{"order_id": relayed["id"]}).JSON()
	if names, _ := wheres(lead, "WAY-1"); strings.Join(names, ", ") != "Tarn & Tackle Rigging, Test House, Between sites" {
		t.Fatalf("under way it was at %v", names)
	}
	half := at(lead.Get(fmt.Sprintf("/transfer-orders/%d", id(relayed, "id"))).JSON(), "shipments", 0, "inbound_id")
	b := lead.Post("/arrivals", object{"order_ids": []any{half}, "dock_id": ramp}).JSON()
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(b, "id")), object{"version": b["version"], "lines": []object{
		{"line_id": at(b, "lines", 0, "id"), "quantity": "1", "serials": []string{"WAY-1"}}}}).JSON()
	o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": 2, "wanted_on": day(1), "release": true,
		"lines": []object{{"item_id": world.Spot, "quantity": "1"}}}).JSON()
	plan := lead.Post("/pick/plan", object{"site_id": 2, "order_ids": []any{o["id"]}}).JSON()
	stop := at(plan, "stops", 0).(object)
	r := lead.Post("/rounds", object{"site_id": 2, "stops": []object{{"line_id": stop["line_id"], "location_id": stop["location_id"],
		"quantity": "1"}}}).JSON()
	rp := fmt.Sprintf("/rounds/%d", id(r, "id"))
	r = lead.Post(rp+"/start", nil).JSON()
	var labels []object
	lead.Post("/cartons", object{"site_id": 2, "count": 1}).Into(&labels)
	lead.Post(rp+"/cartons", object{"scan": labels[0]["sscc"], "order_id": o["id"]}).JSON()
	lead.Post(rp+"/pick", object{"stop_id": at(r, "stops", 0, "id"), "bin": "Ramp", "item": "SP-150", "carton": labels[0]["sscc"],
		"quantity": "1", "serials": []string{"WAY-1"}}).JSON()
	lead.Post(rp+"/ship", object{"order_ids": []any{o["id"]}}).JSONs()

	names, stays := wheres(lead, "WAY-1")
	if strings.Join(names, ", ") != "Tarn & Tackle Rigging, Test House, Between sites, Other House, The Lyrebird Theatre" {
		t.Fatalf("it was at %v", names)
	}
	for i, s := range stays {
		last := i == len(stays)-1
		if (at(s, "since") == nil) != (i == 0) || (at(s, "until") == nil) != last {
			t.Errorf("%v since %v until %v", at(s, "where"), at(s, "since"), at(s, "until"))
		}
		if !last && at(s, "until") != at(stays[i+1], "since") {
			t.Errorf("%v ends at %v, and the next begins at %v", at(s, "where"), at(s, "until"), at(stays[i+1], "since"))
		}
		if i > 0 {
			if _, err := time.Parse(time.RFC3339, at(s, "since").(string)); err != nil || at(s, "document") == "" {
				t.Errorf("%v with %v: %v", at(s, "where"), at(s, "document"), err)
			}
		}
	}
	h.Whole(t)
}

// TestSixLeadsTakeTheSameUnitBack without a paper, and six clerks exchange the same return: each happens once.
func TestSixLeadsTakeTheSameUnitBack(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.StockUnits(t, world.Spot, h.Bin(t, "A-02-1-A"), "SIX-1")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 6)
	h.Stock(t, world.Heavy, h.Bin(t, "A-03-1-A"), 6)
	o := sellNow(lead, world.Spot, "1")
	packedFor(lead, o)
	lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	done, refusals := together(t, base, 6, func(c *world.Client, _ int) world.Answer {
		return c.Post("/returns/without-paper", object{"site_id": world.Site, "customer_id": world.Customer,
			"kind_id": kindOf(lead, "Without paper"), "reason": "it stood at the gate", "lines": []object{
				{"item_id": world.Spot, "quantity": "1", "serials": []string{"SIX-1"}, "reason_id": 1}}})
	})
	if done != 1 || refusals["wrong_serial"] != 5 {
		t.Errorf("%d took it back, and %v", done, refusals)
	}
	d := soldOnce(lead, world.Clamp, "4", true)
	sold := lead.Get("/returnable?q=" + d["number"].(string)).JSONs()[0]
	r := lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Something else"),
		"lines": []object{back(sold, "2")}}).JSON()
	comeIn(lead, r, "2").JSON()
	version := lead.Get(fmt.Sprintf("/returns/%d", id(r, "id"))).JSON()["version"]
	done, refusals = together(t, base, 6, func(c *world.Client, _ int) world.Answer {
		return c.Post(fmt.Sprintf("/returns/%d/settle", id(r, "id")), object{"version": version,
			"instead": []object{{"item_id": world.Heavy, "quantity": "1"}}})
	})
	if done != 1 || refusals["stale"] != 5 {
		t.Errorf("%d exchanged it, and %v", done, refusals)
	}
	var notes, orders int
	if err := h.Owner.QueryRow(`
		SELECT (SELECT count(*) FROM invoices WHERE return_id = $1), (SELECT count(*) FROM outbound_orders WHERE reference = $2)`,
		id(r, "id"), r["number"]).Scan(&notes, &orders); err != nil || notes != 1 || orders != 1 {
		t.Errorf("%d credit notes and %d orders: %v", notes, orders, err)
	}
	h.Whole(t)
}
