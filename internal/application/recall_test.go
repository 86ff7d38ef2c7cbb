package application_test

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"testing"

	"lanternrow/internal/recall"
	"lanternrow/internal/test/world"
)

// recalledLot receives 40 of a lot and has some of it everywhere: 5 with a customer of which 2 came back, 3 scrapped of
// those, 4 in transit, 6 reserved, 3 packed, 2 on a round, and the rest in a bin. Another lot stands beside it.
type recalledLot struct {
	t            *testing.T
	h            *world.House
	lead, picker *world.Client
	lot          int64
	ramp         int32
	arrival      object
	transfer     object
	reserved     object
	packed       object
	round        string
	stop         object
	sscc         string
}

func newRecalledLot(t *testing.T) *recalledLot {
	t.Helper()
	h, base := serve(t)
	x := &recalledLot{t: t, h: h, lead: world.SignOn(t, base, "lead"), picker: world.SignOn(t, base, "picker"), ramp: otherSite(t, h)}
	_, x.arrival = order(t, x.lead, nil, object{"item_id": world.Fluid, "quantity": "40"})
	x.lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(x.arrival, "id")), object{"version": x.arrival["version"], "lines": []object{{
		"line_id": at(x.arrival, "lines", 0, "id"), "quantity": "40",
		"lots": []object{{"code": "BAD-1", "expires_on": day(200), "quantity": "40"}}}}}).JSON()
	if err := h.Owner.Get(&x.lot, `SELECT id FROM lots WHERE code = 'BAD-1'`); err != nil {
		t.Fatal(err)
	}
	for bin, n := range map[string]string{"B-01-1-A": "24", "B-03-1-A": "16"} {
		x.lead.Post("/transfers", object{"from_id": world.Dock, "item_id": world.Fluid, "lot_id": x.lot, "quantity": n, "to": bin}).JSON()
	}
	sold := soldOnce(x.lead, world.Fluid, "5", true)
	r := x.lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(x.lead, "Credit"), "lines": []object{
		back(x.lead.Get("/returnable?q=" + sold["number"].(string)).JSONs()[0], "2")}}).JSON()
	comeIn(x.lead, r, "2", "lots", []object{{"code": "BAD-1", "expires_on": day(200), "quantity": "2"}}).JSON()
	r = x.lead.Get(fmt.Sprintf("/returns/%d", id(r, "id"))).JSON()
	x.lead.Post(fmt.Sprintf("/returns/%d/decide", id(r, "id")), object{"version": r["version"], "line_id": at(r, "lines", 0, "id"),
		"fate": "scrap", "quantity": "1", "reason": "it leaks"}).JSON()
	x.transfer = x.lead.Post("/transfer-orders", object{"from_site_id": world.Site, "to_site_id": world.OtherSite, "wanted_on": soon,
		"expected_on": day(9), "release": true, "lines": []object{{"item_id": world.Fluid, "quantity": "4"}}}).JSON()
	packAll(x.lead, x.picker, id(x.transfer, "id"))
	x.lead.Post("/shipments", object{"order_id": x.transfer["id"]}).JSON()
	x.packed = sellNow(x.lead, world.Fluid, "3")
	packAll(x.lead, x.picker, id(x.packed, "id"))
	walked := sellNow(x.lead, world.Fluid, "2")
	round, rp := roundFor(x.lead, x.picker, id(walked, "id"))
	x.round, x.stop = rp, at(round, "stops", 0).(object)
	x.sscc, _ = blank(x.lead, x.picker, rp, id(walked, "id"))
	x.reserved = sellNow(x.lead, world.Fluid, "6")
	x.lead.Post(fmt.Sprintf("/sales-orders/%d/reserve-free", id(x.reserved, "id")), nil).JSON()
	h.StockLot(t, world.Fluid, h.Lot(t, world.Fluid, "GOOD-1", 300), h.Bin(t, "B-02-1-A"), 4)
	return x
}

func (x *recalledLot) trace(of string, id any) object {
	x.t.Helper()
	return x.lead.Get(fmt.Sprintf("/traces/%s/%v", of, id)).JSON()
}

// stands is how much of the lot stands in each condition.
func (x *recalledLot) stands() map[string]int {
	x.t.Helper()
	out := map[string]int{}
	for _, r := range x.trace("lot", x.lot)["here"].([]any) {
		n, err := strconv.Atoi(at(r, "quantity").(string))
		if err != nil {
			x.t.Fatal(err)
		}
		out[at(r, "condition").(string)+" "+at(r, "kind").(string)] += n
	}
	return out
}

// TestARecallFollowsEveryUnit has the numbers of a lot add up to what came in, from whatever it is called back by; one
// press holds what is left at every site, wherever it is; whoever is stopped reads why; and what is cleared goes on.
func TestARecallFollowsEveryUnit(t *testing.T) {
	t.Parallel()
	x := newRecalledLot(t)
	now := x.trace("lot", x.lot)
	g := at(now, "goods", 0)
	for field, want := range map[string]string{"came": "40", "shipped": "5", "came_back": "2", "scrapped": "1", "with_customers": "3",
		"left": "36", "stands": "36", "differs": "0", "lost": "0"} {
		if at(g, field) != want {
			t.Errorf("%s is %v, not %s", field, at(g, field), want)
		}
	}
	if now["whole"] != true || at(now, "came", 0, "arrival") != x.arrival["number"] || at(now, "went", 0, "quantity") != "5" {
		t.Errorf("it is whole: %v; it came %v and went %v", now["whole"], now["came"], now["went"])
	}
	for _, of := range []object{x.trace("arrival", x.arrival["id"]), x.trace("order", at(x.arrival, "orders", 0, "id"))} {
		if at(of, "goods", 0, "lot") != "BAD-1" || at(of, "goods", 0, "stands") != "36" {
			t.Errorf("from %v it is %v", of["from"], of["goods"])
		}
	}
	begin := func(c *world.Client, reason string, drill bool) world.Answer {
		return c.Post("/recalls", object{"source": "lot", "id": x.lot, "reason": reason, "drill": drill})
	}
	begin(x.picker, "glass was found in it", false).Refused(403, "role", "")
	begin(x.lead, "", false).Refused(422, "reason_missing", "reason")
	drill := begin(x.lead, "the drill of this quarter", true).JSON()
	if x.stands()["good bin"] != 28 {
		t.Fatalf("a drill held something: %v", x.stands())
	}
	drill = x.lead.Post(fmt.Sprintf("/recalls/%d/end", id(drill, "id")), nil).JSON()
	if drill["minutes"] == nil {
		t.Error("how long the drill took is not kept")
	}
	r := begin(x.lead, "glass was found in it", false).JSON()
	path := fmt.Sprintf("/recalls/%d", id(r, "id"))
	begin(x.lead, "it is called back twice", false).Refused(409, "recall_over", "", r["number"].(string))
	got := x.stands()
	// 28 in bins, of which 2 are on a round; 3 are packed, 4 in transit, and 1 came back.
	if got["recalled bin"] != 26 || got["good bin"] != 2 || got["good staging"] != 3 || got["good transit"] != 4 ||
		got["returned returns"] != 1 {
		t.Fatalf("held they stand as %v", got)
	}
	x.stopped(r)
	x.goesOn(path)
}

// stopped tries to take held goods on, from each place.
func (x *recalledLot) stopped(r object) {
	t, why := x.t, r["number"].(string)+": glass was found in it"
	x.picker.Post(x.round+"/pick", object{"stop_id": x.stop["id"], "bin": x.stop["bin"], "item": "HZ-500", "lot": "BAD-1",
		"carton": x.sscc, "quantity": "2"}).Refused(409, "goods_recalled", "", why)
	x.lead.Post("/shipments", object{"order_id": x.packed["id"]}).Refused(409, "goods_recalled", "", why)
	if o := x.lead.Get(fmt.Sprintf("/sales-orders/%d", id(x.reserved, "id"))).JSON(); at(o, "lines", 0, "reserved") != "0" {
		t.Errorf("the order that waits has %v reserved still", at(o, "lines", 0, "reserved"))
	}
	plan := x.lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []any{x.reserved["id"]}}).JSON()
	for _, s := range plan["stops"].([]any) {
		if at(s, "lot") != "GOOD-1" {
			t.Errorf("a round would take %v", s)
		}
	}
	// What is in transit comes in held.
	o := x.lead.Get(fmt.Sprintf("/transfer-orders/%d", id(x.transfer, "id"))).JSON()
	a := x.lead.Post("/arrivals", object{"order_ids": []any{at(o, "shipments", 0, "inbound_id")}, "dock_id": x.ramp}).JSON()
	x.lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")), object{"version": a["version"], "lines": []object{{
		"line_id": at(o, "expected", 0, "line_id"), "quantity": "4", "lots": []object{{"code": "BAD-1", "expires_on": day(200),
			"quantity": "4"}}}}}).JSON()
	if got := x.stands(); got["recalled dock"] != 4 || got["good transit"] != 0 {
		t.Errorf("received they stand as %v", got)
	}
	if now := x.trace("lot", x.lot); now["whole"] != true || at(now, "recall", "number") != r["number"] {
		t.Errorf("held it is whole: %v, by %v", now["whole"], now["recall"])
	}
}

// goesOn tells the customers, and lets the goods go.
func (x *recalledLot) goesOn(path string) {
	t := x.t
	x.h.Owner.MustExec(`UPDATE parties SET email = 'goods@example.org' WHERE id = $1`, world.Customer)
	if told := x.lead.Post(path+"/mail", nil).JSON(); told["mailed"] != 1.0 {
		t.Errorf("told were %v", told)
	}
	x.lead.Post(path+"/end", nil).Refused(409, "recall_over", "", "held by")
	x.lead.Post(path+"/clear", object{"becomes": "good", "reason": ""}).Refused(422, "reason_missing", "reason")
	x.lead.Post(path+"/clear", object{"becomes": "good", "reason": "the glass was of a lamp"}).JSON()
	x.lead.Post(path+"/clear", object{"becomes": "good", "reason": "the glass was of a lamp"}).Refused(409, "nothing_held", "")
	x.picker.Post(x.round+"/pick", object{"stop_id": x.stop["id"], "bin": x.stop["bin"], "item": "HZ-500", "lot": "BAD-1",
		"carton": x.sscc, "quantity": "2"}).JSON()
	if got := x.stands(); got["good bin"] != 26 || got["good dock"] != 4 {
		t.Errorf("cleared they stand as %v", got)
	}
	r := x.lead.Post(path+"/end", nil).JSON()
	if r["ended_at"] == nil {
		t.Error("it does not end")
	}
	csv := string(x.lead.Get(fmt.Sprintf("/traces/recall/%d/export", id(r, "id"))).Body)
	if !strings.Contains(csv, "went,HZ-500,BAD-1") || !strings.Contains(csv, "goods@example.org") {
		t.Errorf("as a file it is %s", csv)
	}
	got := x.lead.Get(fmt.Sprintf("/customers/%d/got", world.Customer)).Rows()
	if len(got) != 1 || got[0]["lot"] != "BAD-1" || got[0]["quantity"] != "5" {
		t.Errorf("the customer got %v", got)
	}
	x.h.Whole(t)
}

// TestASuppliersLotIsFollowed receives goods under a number of the house's own: what their supplier calls the lot is
// kept with it, finds it, stands on the page of a recall, and is told to partners by the house's number.
func TestASuppliersLotIsFollowed(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	_, a := order(t, lead, nil, object{"item_id": world.Fluid, "quantity": "6"})
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")), object{"version": a["version"], "lines": []object{{
		"line_id": at(a, "lines", 0, "id"), "quantity": "6",
		"lots": []object{{"code": "OURS-7", "supplier_lot": " X77/b ", "expires_on": day(200), "quantity": "6"}}}}}).JSON()
	found := lead.Get("/scan?site=1&text=x77%2FB").JSON()["found"].([]any)
	if len(found) != 1 || at(found, 0, "kind") != "lot" || at(found, 0, "code") != "OURS-7" {
		t.Fatalf("by its supplier's number is found %v", found)
	}
	trace := lead.Get(fmt.Sprintf("/traces/lot/%v", at(found, 0, "id"))).JSON()
	if at(trace, "goods", 0, "supplier_lot") != "X77/b" || trace["whole"] != true {
		t.Errorf("the page says %v", trace["goods"])
	}
	told := lead.Get(fmt.Sprintf("/traces/lot/%v/events", at(found, 0, "id")))
	if told.Status != 200 || !strings.Contains(string(told.Body), "/10/OURS-7") {
		t.Errorf("partners are told %s", told.Body)
	}
}

// followsOne follows a lot, a unit, an arrival or an order of the house, another each time, to where each of its goods is:
// the numbers come to what came in.
func followsOne(t *testing.T, h *world.House, n int) {
	t.Helper()
	var sources []struct {
		Source recall.Source
		ID     int64
	}
	if err := h.App.Select(&sources, `
		SELECT 'lot' AS source, id FROM lots WHERE id IN (SELECT lot_id FROM moves)
		UNION ALL SELECT 'serial', id FROM serials WHERE id IN (SELECT serial_id FROM moves)
		UNION ALL SELECT DISTINCT 'arrival', arrival_id FROM receipts JOIN moves m ON m.id = move_id WHERE m.lot_id IS NOT NULL
		UNION ALL SELECT DISTINCT 'order', l.order_id FROM receipts r JOIN inbound_lines l ON l.id = r.line_id
		  JOIN moves m ON m.id = r.move_id WHERE m.lot_id IS NOT NULL
		 ORDER BY 1, 2`); err != nil {
		t.Fatal(err)
	}
	if len(sources) == 0 {
		return
	}
	s := sources[n%len(sources)]
	followed, err := recall.Follow(context.Background(), h.App, s.Source, s.ID)
	if err != nil || !followed.Whole {
		t.Fatalf("step %d: %s %d does not add up: %+v (%v)", n, s.Source, s.ID, followed.Goods, err)
	}
}
