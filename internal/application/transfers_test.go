package application_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"lanternrow/internal/platform/command"
	"lanternrow/internal/shipping"
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
	world.Must[shipping.Shipment](t)(world.Act(h, func(ctx context.Context, tx *command.Tx) (shipping.Shipment, error) {
		return shipping.TakeBack(ctx, tx, id(went, "id"), "wrong lorry")
	}))
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

// TestACartonInTransitIsReceivedAsItIs: what is in it is known, with lots and units, and is taken out of
// that very carton.
func TestACartonInTransitIsReceivedAsItIs(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	dock := otherSite(t, h)
	h.StockLot(t, world.Fluid, h.Lot(t, world.Fluid, "L-5", 900), h.Bin(t, "B-01-1-A"), 6)
	h.StockUnits(t, world.Spot, h.Bin(t, "A-02-1-A"), "S-1", "S-2")
	o := lead.Post("/transfer-orders", object{"from_site_id": 1, "to_site_id": 2, "wanted_on": soon, "expected_on": soon,
		"release": true, "lines": []object{{"item_id": world.Fluid, "quantity": "6"},
			{"item_id": world.Spot, "quantity": "2"}}}).JSON()
	r, rp := roundFor(lead, lead, id(o, "id"))
	var cartons []string
	for _, x := range r["stops"].([]any) {
		s := x.(object)
		sscc, _ := blank(lead, lead, rp, id(o, "id"))
		take := object{"stop_id": s["id"], "bin": s["bin"], "item": s["sku"], "carton": sscc, "quantity": s["quantity"]}
		if s["sku"] == "SP-150" {
			take["serials"] = []string{"S-1", "S-2"}
		}
		lead.Post(rp+"/pick", take).JSON()
		cartons = append(cartons, sscc)
	}
	lead.Post(rp+"/stage", object{}).JSON()
	for _, c := range lead.Get("/cartons?site=1&state=at_bench").JSONs() {
		lead.Post(fmt.Sprintf("/cartons/%d/pack", id(c, "id")), object{}).JSON()
	}
	lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	half := at(lead.Get(fmt.Sprintf("/transfer-orders/%d", id(o, "id"))).JSON(), "shipments", 0).(object)
	arrival := lead.Post("/arrivals", object{"order_ids": []any{half["inbound_id"]}, "dock_id": dock}).JSON()
	ap := fmt.Sprintf("/arrivals/%d", id(arrival, "id"))
	coming := lead.Get(ap + "/coming").JSONs()
	if len(coming) != 2 || coming[0]["sscc"] != cartons[0] {
		t.Fatalf("coming: %v", coming)
	}
	lineOf := map[any]any{}
	for _, l := range arrival["lines"].([]any) {
		lineOf[at(l, "sku")] = at(l, "id")
	}
	// In each carton there is one kind of goods here: each is received off the carton that it is in.
	for _, c := range coming {
		g := at(c, "goods", 0).(object)
		other := coming[0]
		if other["sscc"] == c["sscc"] {
			other = coming[1]
		}
		body := func(off any) object {
			line := object{"line_id": lineOf[g["sku"]], "quantity": g["quantity"], "serials": g["serials"]}
			if g["lot"] != "" {
				line["lots"] = []object{{"code": g["lot"], "expires_on": g["expires_on"], "quantity": g["quantity"]}}
			}
			return object{"version": lead.Get(ap).JSON()["version"], "off": off, "lines": []object{line}}
		}
		if len(lead.Get(ap+"/coming").JSONs()) == 2 {
			lead.Post(ap+"/receive", body(other["sscc"])).Refused(409, "not_enough", "")
		}
		lead.Post(ap+"/receive", body("095212340000099999")).Refused(409, "wrong_carton", "off", "is on its way here")
		lead.Post(ap+"/receive", body(c["sscc"])).JSON()
	}
	if left := lead.Get(ap + "/coming").JSONs(); len(left) != 0 || h.Holds(t, dock, world.Fluid) != "6" ||
		h.Holds(t, dock, world.Spot) != "2" {
		t.Fatalf("still coming: %v", left)
	}
	h.Whole(t)
}

// aTransfer is a transfer as a naive model knows it: so many wanted, shipped in so many shipments of
// which so much came, or cancelled.
type aTransfer struct {
	id        int64
	wanted    int
	open      bool
	cancelled bool
	shipments []aShipment
}

type aShipment struct {
	id, inbound, arrival, line int64
	units, came                int
	back                       bool
}

func (a aTransfer) sums() (shipped, came int) {
	for _, s := range a.shipments {
		if !s.back {
			shipped, came = shipped+s.units, came+s.came
		}
	}
	return shipped, came
}

// state is how far the transfer is, in words of its own.
func (a aTransfer) state() string {
	shipped, came := a.sums()
	switch {
	case a.cancelled && shipped == 0:
		return "cancelled"
	case a.open && shipped == 0:
		return "released"
	case a.open:
		return "partly_shipped"
	case came == 0:
		return "in_transit"
	case came < shipped:
		return "partly_received"
	}
	return "received"
}

// TestARandomMonthOfTransfersAddsUp: transfers are written, shipped, received in parts, taken back and
// cancelled at random; after each step what lies at both sites and in transit is what a model counts,
// and so is each transfer's state.
func TestARandomMonthOfTransfersAddsUp(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	dock, bin := otherSite(t, h), h.Bin(t, "A-01-1-A")
	const all = 160
	h.Stock(t, world.Clamp, bin, all)
	r := rand.New(rand.NewPCG(14, 8))
	var written []aTransfer
	took := map[string]int{}
	for range 60 {
		here, there := h.Holds(t, bin, world.Clamp), 0
		if len(written) == 0 || r.IntN(4) == 0 {
			n := 1 + r.IntN(9)
			if n > decimalOf(here) {
				continue
			}
			o := lead.Post("/transfer-orders", object{"from_site_id": 1, "to_site_id": 2, "wanted_on": soon, "expected_on": soon,
				"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": fmt.Sprint(n)}}}).JSON()
			written = append(written, aTransfer{id: id(o, "id"), wanted: n, open: true})
			took["written"]++
		}
		step := "nothing"
		for try := 0; step == "nothing" && try < 9; try++ {
			step = stepOf(lead, r, dock, &written[r.IntN(len(written))])
		}
		took[step]++
		transit := 0
		for _, a := range written {
			shipped, came := a.sums()
			transit, there = transit+shipped-came, there+came
			now := lead.Get(fmt.Sprintf("/transfer-orders/%d", a.id)).JSON()
			if now["state"] != a.state() || decimalOf(now["shipped"]) != shipped || decimalOf(now["received"]) != came ||
				decimalOf(now["in_transit"]) != shipped-came {
				t.Fatalf("%v is %v with %v shipped, %v received and %v in transit; the model has %s, %d and %d (took %v)",
					now["number"], now["state"], now["shipped"], now["received"], now["in_transit"], a.state(), shipped, came, took)
			}
		}
		var under, ours int
		if err := h.Owner.QueryRow(`
			SELECT coalesce(sum(quantity) FILTER (WHERE kind = 'transit'), 0)::int, sum(quantity)::int
			  FROM balances b JOIN locations p ON p.id = b.location_id WHERE p.real AND b.item_id = $1`,
			world.Clamp).Scan(&under, &ours); err != nil || under != transit || ours != all {
			t.Fatalf("%d are in transit and %d ours in all, the model has %d and %d (%v)", under, ours, transit, all, err)
		}
		if got := decimalOf(h.Holds(t, dock, world.Clamp)); got != there {
			t.Fatalf("%d came, the model has %d", got, there)
		}
	}
	for _, step := range []string{"written", "shipped", "received", "taken back", "cancelled"} {
		if took[step] < 2 {
			t.Errorf("the month had %d %s: %v", took[step], step, took)
		}
	}
	h.Whole(t)
}

// stepOf does something with a transfer that can be done with it, and says what.
func stepOf(lead *world.Client, r *rand.Rand, dock int32, a *aTransfer) string {
	op := fmt.Sprintf("/transfer-orders/%d", a.id)
	if a.open && r.IntN(3) > 0 {
		if r.IntN(4) == 0 {
			lead.Post(op+"/cancel-open", object{"version": lead.Get(op).JSON()["version"]}).JSON()
			a.open, a.cancelled = false, true
			return "cancelled"
		}
		shipped, _ := a.sums()
		if backs := slices.ContainsFunc(a.shipments, func(s aShipment) bool { return s.back }); !backs {
			packAll(lead, lead, a.id)
		}
		d := lead.Post("/shipments", object{"order_id": a.id}).JSON()
		halves := lead.Get(op).JSON()["shipments"].([]any)
		a.shipments = append(a.shipments, aShipment{id: id(d, "id"), inbound: id(halves[len(halves)-1], "inbound_id"),
			units: a.wanted - shipped})
		a.open = false
		return "shipped"
	}
	for i := range a.shipments {
		s := &a.shipments[i]
		if s.back || s.came == s.units {
			continue
		}
		if s.came == 0 && r.IntN(2) == 0 {
			lead.Post(fmt.Sprintf("/shipments/%d/take-back", s.id), object{"reason": "the wrong lorry"}).JSON()
			s.back, a.open = true, true
			return "taken back"
		}
		if s.arrival == 0 {
			arrival := lead.Post("/arrivals", object{"order_ids": []int64{s.inbound}, "dock_id": dock}).JSON()
			s.arrival, s.line = id(arrival, "id"), id(arrival, "lines", 0, "id")
		}
		n := 1 + r.IntN(s.units-s.came)
		version := lead.Get(fmt.Sprintf("/arrivals/%d", s.arrival)).JSON()["version"]
		come := func(n int) world.Answer {
			return lead.Post(fmt.Sprintf("/arrivals/%d/receive", s.arrival), object{"version": version,
				"lines": []object{{"line_id": s.line, "quantity": fmt.Sprint(n)}}})
		}
		come(s.units-s.came+1).Refused(422, "over_allowance", "lines[0].quantity")
		come(n).JSON()
		s.came += n
		return "received"
	}
	return "nothing"
}

// TestTheRestIsReceivedOnce though six receive it at the same moment.
func TestTheRestIsReceivedOnce(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	dock := otherSite(t, h)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 4)
	o := lead.Post("/transfer-orders", object{"from_site_id": 1, "to_site_id": 2, "wanted_on": soon, "expected_on": soon,
		"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": "4"}}}).JSON()
	packAll(lead, lead, id(o, "id"))
	lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	op := fmt.Sprintf("/transfer-orders/%d", id(o, "id"))
	arrival := lead.Post("/arrivals", object{"order_ids": []any{at(lead.Get(op).JSON(), "shipments", 0, "inbound_id")},
		"dock_id": dock}).JSON()
	devices := make([]*world.Client, 6)
	for i := range devices {
		devices[i] = world.SignOn(t, base, "receiver")
	}
	got := atOnce(devices, fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")), object{"version": arrival["version"],
		"lines": []object{{"line_id": at(arrival, "lines", 0, "id"), "quantity": "4"}}})
	if got["ok"] != 1 || h.Holds(t, dock, world.Clamp) != "4" || lead.Get(op).JSON()["state"] != "received" {
		t.Fatalf("six who receive the same: %v", got)
	}
	h.Whole(t)
}

// TestABinIsEmptiedIntoAnother moves all that lies in a bin at once: loose goods, a lot, units and a pallet as it is. A
// bin that takes only part of it takes nothing, and what is reserved stays.
func TestABinIsEmptiedIntoAnother(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	from, to := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A")
	h.Stock(t, world.Clamp, from, 6)
	h.Stock(t, world.Heavy, from, 2)
	h.StockUnits(t, world.Spot, from, "EM-1", "EM-2")
	h.Stock(t, world.Clamp, to, 13)
	empty := func(c *world.Client, to string) world.Answer {
		return c.Post("/transfers/empty", object{"from_id": from, "to": to, "note": "the shelf is painted"})
	}
	// 24 at most go into a bin: 13 lie there, and 6, 2 and 2 are 23 with them; 2 more are one too many.
	empty(picker, "A-01-1-A").Refused(422, "same_location", "to")
	empty(picker, "Bench").Refused(422, "not_a_bin", "to")
	h.Stock(t, world.Clamp, to, 2)
	empty(picker, "A-02-1-A").Refused(422, "bin_full", "quantity")
	if h.Holds(t, from, world.Clamp) != "6" || h.Holds(t, to, world.Heavy) != "0" {
		t.Fatal("part of it was moved")
	}
	picker.Post("/transfers", object{"from_id": to, "item_id": world.Clamp, "quantity": "2", "to": "A-03-1-A"}).JSON()
	look := picker.Post("/transfers/empty/preview", object{"from_id": from, "to": "A-02-1-A"}).JSON()
	if look["button"] != "Empty A-01-1-A into A-02-1-A" || len(look["moves"].([]any)) != 3 {
		t.Fatalf("it would move %v", look["moves"])
	}
	o := sellNow(lead, world.Heavy, "2")
	lead.Post(fmt.Sprintf("/sales-lines/%d/reservations", id(o, "lines", 0, "id")),
		object{"reservations": []object{{"location_id": from, "quantity": "2"}}}).JSON()
	empty(picker, "A-02-1-A").Refused(409, "reserved", "", o["number"].(string))
	lead.Post(fmt.Sprintf("/reservations/%d/unreserve", id(lead.Get("/reservations?site=1").Rows()[0], "id")), nil).JSON()
	empty(picker, "A-02-1-A").JSON()
	empty(picker, "A-02-1-A").Refused(409, "nothing_moves", "from_id")
	if h.Holds(t, to, world.Clamp) != "19" || h.Holds(t, to, world.Spot) != "2" || h.Holds(t, from, world.Heavy) != "0" {
		t.Errorf("it holds %s clamps and %s spots", h.Holds(t, to, world.Clamp), h.Holds(t, to, world.Spot))
	}
	h.Whole(t)
}
