package application_test

import (
	"fmt"
	"testing"

	"lanternrow/internal/test/world"
)

// TestAKindDecidesByItself sets up kinds of return without code: one takes back to stock what comes as new and pays for
// it, one scraps whatever comes. What comes otherwise than new waits for somebody; a return keeps what its kind had.
func TestAKindDecidesByItself(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	h.StockUnits(t, world.Spot, h.Bin(t, "A-02-1-A"), "BK-1", "BK-2")
	kinds := func(rows ...object) {
		lead.Post("/catalog/return-kinds/import", object{"site_id": world.Site, "rows": rows}).JSON()
	}
	kinds(object{"name": "Unopened", "decides": "stock"}, object{"name": "Not worth it", "decides": "scrap"})
	announce := func(kind string, line object) object {
		return lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, kind), "lines": []object{line}}).JSON()
	}
	now := func(r object) object { return lead.Get(fmt.Sprintf("/returns/%d", id(r, "id"))).JSON() }
	free := func() any { return at(lead.Get("/items/1?site=1").JSON(), "figures", "free") }

	sold := soldAgain(lead)
	d := soldOnce(lead, world.Clamp, "5", true)
	sold5 := lead.Get("/returnable?q=" + d["number"].(string)).JSONs()[0]
	look := lead.Post("/returns/preview", object{"site_id": world.Site, "kind_id": kindOf(lead, "Unopened"),
		"lines": []object{back(sold5, "4")}}).JSON()
	if !has(look["notes"], "What comes as new goes back to stock by itself; somebody decides on the rest.") {
		t.Errorf("before it is announced it says %v", look["notes"])
	}
	r := announce("Unopened", back(sold5, "4"))
	kinds(object{"name": "Unopened", "decides": "by a person"})
	before := free()
	comeIn(lead, r, "3", "found", "as_new").JSON()
	r = now(r)
	arrival := fmt.Sprintf("/arrivals/%d", id(r, "arrival_id"))
	body := object{"version": 0, "lines": []object{{"line_id": at(r, "lines", 0, "id"), "quantity": "1", "found": "as_new"}}}
	plan := lead.Post(arrival+"/receive/preview", body).JSON()
	if !has(plan["notes"], "1 of HC-050 go back to stock by themselves.") {
		t.Errorf("before it is received it says %v", plan["notes"])
	}
	if before != "3" || free() != "6" || at(r, "lines", 0, "decided") != "3" || at(r, "lines", 0, "decisions", 0, "fate") != "stock" {
		t.Fatalf("%v were free and %v are; the line is %v", before, free(), at(r, "lines", 0))
	}
	comeIn(lead, r, "1", "found", "used").JSON()
	if r = now(r); r["state"] != "received" || r["may_settle"] != false || free() != "6" {
		t.Errorf("with a used one it is %v, to be settled %v, and %v are free", r["state"], r["may_settle"], free())
	}
	came := lead.Get(arrival).JSON()
	for _, m := range came["receipts"].([]any) {
		if at(m, "found") == "as_new" {
			lead.Post(arrival+"/undo", object{"version": came["version"],
				"move_id": at(m, "move_id"), "reason": "it is another's"}).Refused(409, "goods_gone", "move_id", "3 of HC-050 are decided on already")
		}
	}

	r = announce("Not worth it", back(sold, "1"))
	comeIn(lead, r, "1", "found", "broken").JSON()
	if r = now(r); r["may_settle"] != true || at(r, "lines", 0, "decisions", 0, "fate") != "scrap" ||
		at(r, "lines", 0, "decisions", 0, "reason") != "as every return of the kind Not worth it" {
		t.Errorf("scrapped as it came it is %v", at(r, "lines", 0, "decisions"))
	}

	// A unit is the unit that came.
	o := sellNow(lead, world.Spot, "2")
	round, rp := roundFor(lead, picker, id(o, "id"))
	stop := at(round, "stops", 0).(object)
	sscc, _ := blank(lead, picker, rp, id(o, "id"))
	picker.Post(rp+"/pick", object{"stop_id": stop["id"], "bin": stop["bin"], "item": "SP-150", "carton": sscc,
		"quantity": "2", "serials": []string{"BK-1", "BK-2"}}).JSON()
	lead.Post(rp+"/ship", object{"order_ids": []any{o["id"]}}).JSONs()
	kinds(object{"name": "Unopened", "decides": "stock"})
	units := []string{"BK-1", "BK-2"}
	r = announce("Unopened", back(lead.Get("/returnable?q=bk-2").JSONs()[0], "2", "serials", units))
	comeIn(lead, r, "2", "serials", units, "found", "as_new").JSON()
	if r = now(r); at(r, "lines", 0, "decisions", 0, "serials") != "BK-1, BK-2" {
		t.Errorf("the units are %v", at(r, "lines", 0, "decisions"))
	}
	h.Whole(t)
}

// TestGoodsStayWithTheCustomer has a kind of which nothing is sent in: the money follows once it is approved, nothing
// is ever expected at the dock, what was given for may not come back again, and a kind with steps that do not go
// together is refused.
func TestGoodsStayWithTheCustomer(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, office := world.SignOn(t, base, "lead"), world.SignOn(t, base, "office")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	row := func(more ...string) world.Answer {
		in := object{"name": "Keep it", "goods_stay": "yes", "gives_when": "announced", "approved": "yes"}
		for i := 0; i < len(more); i += 2 {
			in[more[i]] = more[i+1]
		}
		return lead.Post("/catalog/return-kinds/import", object{"site_id": world.Site, "rows": []object{in}})
	}
	row("gives_when", "decided").Refused(422, "rows_wrong", "gives_when", "neither received nor decided on")
	row("decides", "scrap").Refused(422, "rows_wrong", "decides", "do not come in")
	row("papered", "no").Refused(422, "rows_wrong", "papered", "known by what was shipped")
	row("goods_stay", "no", "inspected", "no", "decides", "stock").Refused(422, "rows_wrong", "inspected", "said in what condition")
	row().JSON()
	d := soldOnce(lead, world.Clamp, "5", true)
	sold := func() object { return lead.Get("/returnable?q=" + d["number"].(string)).JSONs()[0] }
	announce := func(n string) object {
		return office.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Keep it"),
			"lines": []object{back(sold(), n)}}).JSON()
	}
	r := announce("2")
	path := fmt.Sprintf("/returns/%d", id(r, "id"))
	if r["state"] != "asked" || r["may_settle"] != false || sold()["returnable"] != "3" {
		t.Fatalf("asked for it is %v, and %v may be returned besides", r["state"], sold()["returnable"])
	}
	r = lead.Post(path+"/approve", object{"version": r["version"]}).JSON()
	if r["state"] != "decided" || r["kept"] != "2" || r["may_settle"] != true {
		t.Fatalf("approved it is %v with %v kept", r["state"], r["kept"])
	}
	if open := lead.Get("/returns?site=1&open=true").Rows(); len(open) != 1 {
		t.Errorf("%d returns are open, while one waits for its money", len(open))
	}
	lead.Post("/arrivals", object{"order_ids": []any{r["id"]}, "dock_id": corner(lead)}).Refused(409, "order_not_open", "order_ids")
	lead.Get(path+"/label.pdf").Refused(409, "return_over", "", "stay with")
	r = lead.Post(path+"/settle", object{"version": r["version"]}).JSON()
	if r["state"] != "settled" || credited(t, lead) != 40 || sold()["returnable"] != "3" {
		t.Errorf("settled it is %v over %v, and %v may still come back", r["state"], credited(t, lead), sold()["returnable"])
	}
	if told := lead.Get("/returns-told?site=1&by=item&days=30").JSON(); at(told, "rows", 0, "returned") != "2" {
		t.Errorf("returned are told to be %v", told["rows"])
	}
	// One that nobody approves was never given for.
	r = announce("3")
	path = fmt.Sprintf("/returns/%d", id(r, "id"))
	if r = lead.Post(path+"/withdraw", object{"version": r["version"]}).JSON(); r["state"] != "withdrawn" || sold()["returnable"] != "3" {
		t.Errorf("it is %v, and %v may come back", r["state"], sold()["returnable"])
	}
	// Goods of a kind that nobody inspects come in without their condition.
	row("name", "As it is", "goods_stay", "no", "inspected", "no", "approved", "no", "gives_when", "received").JSON()
	r = lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "As it is"), "lines": []object{back(sold(), "1")}}).JSON()
	comeIn(lead, r, "1").Refused(422, "condition_unwanted", "lines[0].found")
	comeIn(lead, lead.Get(fmt.Sprintf("/returns/%d", id(r, "id"))).JSON(), "1", "found", nil).JSON()
	h.Whole(t)
}
