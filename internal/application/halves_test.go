package application_test

import (
	"context"
	"fmt"
	"testing"

	"lanternrow/internal/application"
	"lanternrow/internal/platform/config"
	"lanternrow/internal/test/world"
)

// TestAServerEndsBetweenTheHalves: one server ships the first half of a transfer and is killed; whoever had no answer
// asks another, which says the same and ships nothing twice, and the second half is received there. Goods in transit
// can be returned by nobody.
func TestAServerEndsBetweenTheHalves(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	ctx, stop := context.WithCancel(context.Background())
	t.Cleanup(stop)
	first := application.New(ctx, h.Pools(t), h.ServeURL, config.Config{StandIns: true, CompanyPrefix: "9521234"})
	base := world.Serve(t, first.App)
	lead := world.SignOn(t, base, "lead")
	ramp := otherSite(t, h)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	o := lead.Post("/transfer-orders", object{"from_site_id": 1, "to_site_id": 2, "wanted_on": day(0), "expected_on": day(2),
		"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": "5"}}}).JSON()
	packedFor(lead, o)
	lead.Key = "the-first-half"
	shipped := lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	if err := first.App.Shutdown(); err != nil {
		t.Fatal(err)
	}

	again := world.SignOn(t, world.Serve(t, application.New(ctx, h.Pools(t), h.ServeURL, config.Config{StandIns: true, CompanyPrefix: "9521234"}).App), "lead")
	again.Key = "the-first-half"
	if answer := again.Post("/shipments", object{"order_id": o["id"]}).JSON(); answer["number"] != shipped["number"] {
		t.Fatalf("asked again it is shipped with %v, and was with %v", answer["number"], shipped["number"])
	}
	again.Key = ""
	now := again.Get(fmt.Sprintf("/transfer-orders/%d", id(o, "id"))).JSON()
	if now["in_transit"] != "5" || len(now["shipments"].([]any)) != 1 {
		t.Fatalf("in transit are %v, with %v", now["in_transit"], now["shipments"])
	}
	again.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(again, "Credit"), "lines": []object{{
		"shipment_id": shipped["id"], "line_id": at(now, "lines", 0, "id"), "quantity": "1", "reason_id": 1}}}).
		Refused(422, "line_unknown", "lines[0].line_id", "in transit between two sites")
	a := again.Post("/arrivals", object{"order_ids": []any{at(now, "shipments", 0, "inbound_id")}, "dock_id": ramp}).JSON()
	for range 2 {
		again.Key = "the-second-half"
		again.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")), object{"version": a["version"], "lines": []object{
			{"line_id": at(a, "lines", 0, "id"), "quantity": "5"}}}).JSON()
	}
	if h.Holds(t, ramp, world.Clamp) != "5" || h.Holds(t, h.Bin(t, "A-01-1-A"), world.Clamp) != "4" {
		t.Errorf("there are %s at the other site", h.Holds(t, ramp, world.Clamp))
	}
	h.Whole(t)
}
