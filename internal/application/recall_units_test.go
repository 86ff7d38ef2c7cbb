package application_test

import (
	"fmt"
	"sync"
	"testing"

	"lanternrow/internal/test/world"
)

// TestUnitsAreFollowedOneByOne receives five units, of which two are sold, one comes back and goes out again repaired,
// and has the arrival that brought them called back: each is where it is, one is cleared by itself and the others are
// scrapped.
func TestUnitsAreFollowedOneByOne(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	units := []string{"RU-1", "RU-2", "RU-3", "RU-4", "RU-5"}
	_, a := order(t, lead, nil, object{"item_id": world.Spot, "quantity": "5"}, object{"item_id": world.Clamp, "quantity": "7"})
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")), object{"version": a["version"], "lines": []object{
		{"line_id": at(a, "lines", 0, "id"), "quantity": "5", "serials": units},
		{"line_id": at(a, "lines", 1, "id"), "quantity": "7"}}}).JSON()
	lead.Post("/transfers", object{"from_id": world.Dock, "item_id": world.Spot, "quantity": "5", "to": "A-02-1-A", "serials": units}).JSON()
	o := sellNow(lead, world.Spot, "2")
	round, rp := roundFor(lead, picker, id(o, "id"))
	stop := at(round, "stops", 0).(object)
	sscc, _ := blank(lead, picker, rp, id(o, "id"))
	sold := texts(stop["units"])
	if len(sold) != 2 {
		sold = []string{"RU-1", "RU-2"}
	}
	picker.Post(rp+"/pick", object{"stop_id": stop["id"], "bin": stop["bin"], "item": "SP-150", "carton": sscc, "quantity": "2",
		"serials": sold}).JSON()
	lead.Post(rp+"/ship", object{"order_ids": []any{o["id"]}}).JSONs()
	r := lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Credit"), "lines": []object{
		back(lead.Get("/returnable?q=" + sold[0]).JSONs()[0], "1", "serials", sold[:1])}}).JSON()
	comeIn(lead, r, "1", "serials", sold[:1]).JSON()

	trace := func() object { return lead.Get(fmt.Sprintf("/traces/arrival/%d", id(a, "id"))).JSON() }
	now := trace()
	g := at(now, "goods", 0)
	if now["whole"] != true || at(g, "came") != "5" || at(g, "with_customers") != "1" || at(g, "stands") != "4" ||
		at(now, "pooled", 0, "sku") != "HC-050" || at(now, "pooled", 0, "quantity") != "7" {
		t.Fatalf("what came is %v, and what cannot be followed %v", g, now["pooled"])
	}
	if at(now, "went", 0, "serials") == "" || at(now, "back", 0, "serials") != sold[0] {
		t.Errorf("it went %v and came back %v", now["went"], now["back"])
	}
	if one := lead.Get(fmt.Sprintf("/traces/serial/%d", serialID(t, h, sold[1]))).JSON(); len(one["here"].([]any)) != 0 ||
		at(one, "went", 0, "quantity") != "1" {
		t.Errorf("a unit that was sold is here: %v", one["here"])
	}
	// Two people call the same goods back at the same moment: one of them does.
	done, refused := together(t, base, 4, func(c *world.Client, _ int) world.Answer {
		return c.Post("/recalls", object{"source": "arrival", "id": a["id"], "reason": "the plug is live"})
	})
	if done != 1 || refused["recall_over"] != 3 {
		t.Fatalf("%d called it back, and refused %v", done, refused)
	}
	recall := trace()["recall"]
	path := fmt.Sprintf("/recalls/%d", id(recall, "id"))
	if at(recall, "held") != 5.0 || h.Holds(t, h.Bin(t, "A-02-1-A"), world.Spot) != "3" {
		t.Fatalf("held are %v", recall)
	}
	now = lead.Get(fmt.Sprintf("/returns/%d", id(r, "id"))).JSON()
	lead.Post(fmt.Sprintf("/returns/%d/decide", id(r, "id")), object{"version": now["version"], "line_id": at(now, "lines", 0, "id"),
		"fate": "stock", "quantity": "1", "serials": sold[:1]}).Refused(409, "goods_recalled", "", "the plug is live")
	var stays string
	for _, u := range units {
		if u != sold[0] && u != sold[1] {
			stays = u
		}
	}
	lead.Post(path+"/clear", object{"becomes": "good", "reason": "this one was tested", "serials": []int64{serialID(t, h, stays)}}).JSON()
	lead.Post(path+"/clear", object{"becomes": "scrap", "reason": "the maker pays for them"}).JSON()
	now = trace()
	if g = at(now, "goods", 0); now["whole"] != true || at(g, "scrapped") != "2" || at(g, "stands") != "2" {
		t.Errorf("two were scrapped, one tested, one came back and one is sold: %v", g)
	}
	if last := now["gone"].([]any); len(last) != 1 || at(last, 0, "how") != "scrapped" || at(last, 0, "note") != "the maker pays for them" {
		t.Errorf("off the books went %v", last)
	}
	h.Whole(t)
}

func serialID(t *testing.T, h *world.House, code string) (id int64) {
	t.Helper()
	if err := h.Owner.Get(&id, `SELECT id FROM serials WHERE code = $1`, code); err != nil {
		t.Fatal(err)
	}
	return id
}

// TestNothingSlipsThroughWhileItIsHeld has six pickers move a lot on while it is called back: each move is before the
// hold or is refused, and what is left stands held, to the unit.
func TestNothingSlipsThroughWhileItIsHeld(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	lot := h.Lot(t, world.Fluid, "SLIP-1", 200)
	h.StockLot(t, world.Fluid, lot, h.Bin(t, "B-01-1-A"), 20)
	orders := make([]object, 6)
	for i := range orders {
		orders[i] = sellNow(lead, world.Fluid, "2")
		packAll(lead, lead, id(orders[i], "id"))
	}
	var held world.Answer
	var begun sync.WaitGroup
	begun.Go(func() { held = lead.Post("/recalls", object{"source": "lot", "id": *lot, "reason": "it slips"}) })
	shipped, refused := together(t, base, 6, func(c *world.Client, who int) world.Answer {
		return c.Post("/shipments", object{"order_id": orders[who]["id"]})
	})
	begun.Wait()
	held.JSON()
	if shipped+refused["goods_recalled"] != 6 {
		t.Errorf("%d were shipped, and refused %v", shipped, refused)
	}
	now := lead.Get(fmt.Sprintf("/traces/lot/%d", *lot)).JSON()
	if g := at(now, "goods", 0); now["whole"] != true || at(g, "with_customers") != fmt.Sprint(2*shipped) || at(g, "stands") != fmt.Sprint(20-2*shipped) {
		t.Errorf("%d were shipped, and it became %v", shipped, g)
	}
	for _, r := range now["here"].([]any) {
		if at(r, "kind") == "bin" && at(r, "condition") != "recalled" {
			t.Errorf("in the bin stand %v", r)
		}
	}
	h.Whole(t)
}
