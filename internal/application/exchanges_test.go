package application_test

import (
	"fmt"
	"testing"

	"lanternrow/internal/test/world"
)

// settledBy looks at how a return would be settled, and settles it.
func settledBy(c *world.Client, r object, more object) (look, settled object) {
	c.T.Helper()
	path := fmt.Sprintf("/returns/%d", id(r, "id"))
	look = c.Post(path+"/settle/preview", more).JSON()
	body := object{"version": c.Get(path).JSON()["version"]}
	for k, v := range more {
		body[k] = v
	}
	return look, c.Post(path+"/settle", body).JSON()
}

// TestSomethingElseInstead has two clamps exchanged for a stage weight: worked by hand, two at 20 with 20 % of tax are
// 48.00, and a weight at 50 with 20 % is 60.00, so that 12.00 are paid; then for a cheaper one, so that 18.00 are
// given.
func TestSomethingElseInstead(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	h.Stock(t, world.Heavy, h.Bin(t, "A-02-1-A"), 5)
	h.Owner.MustExec(`UPDATE items SET tax_pct = 20; UPDATE items SET sales_price = 50 WHERE sku = 'SW-130'`)
	d := soldOnce(lead, world.Clamp, "4", true)
	sold := lead.Get("/returnable?q=" + d["number"].(string)).JSONs()[0]
	exchange := func() object {
		r := lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Something else"),
			"lines": []object{back(sold, "2")}}).JSON()
		comeIn(lead, r, "2").JSON()
		return lead.Get(fmt.Sprintf("/returns/%d", id(r, "id"))).JSON()
	}
	r := exchange()
	path := fmt.Sprintf("/returns/%d", id(r, "id"))
	if r["may_settle"] != true {
		t.Fatalf("received it is %v", r["state"])
	}
	instead := func(quantity, price string) object {
		return object{"instead": []object{{"item_id": world.Heavy, "quantity": quantity, "price": price}}}
	}
	lead.Post(path+"/settle/preview", object{}).Refused(422, "lines_missing", "instead", "add what The Lyrebird Theatre gets")
	lead.Post(path+"/settle/preview", instead("1.5", "")).Refused(422, "quantity_fraction", "instead[0].quantity")
	look, done := settledBy(lead, r, instead("1", ""))
	if look["total"] != "48" || at(look, "instead", "total") != "60" || look["difference"] != "12" ||
		look["button"] != "Credit 48.00, and send what it gets instead for 60.00" {
		t.Fatalf("it would be settled by %v", look)
	}
	if done["state"] != "received" && done["settled_at"] == nil {
		t.Fatalf("settled it is %v", done)
	}
	o := lead.Get(fmt.Sprintf("/sales-orders/%d", id(done, "replacement_id"))).JSON()
	if o["state"] != "released" || o["reference"] != r["number"] || at(o, "lines", 0, "price") != "50" {
		t.Errorf("the order is %v", o)
	}
	if found := lead.Get("/scan?site=1&text=" + o["number"].(string)).JSON()["found"].([]any); at(found[0], "id") != o["id"] {
		t.Errorf("%v is read as %v", o["number"], found)
	}
	lead.Post(path+"/settle", object{"version": done["version"], "instead": instead("1", "")["instead"]}).Refused(409, "return_settled", "")
	look, _ = settledBy(lead, exchange(), instead("1", "25"))
	if look["difference"] != "-18" {
		t.Errorf("the difference is %v", look["difference"])
	}
	// What a return gives stands from when it was announced.
	third := lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Something else"),
		"lines": []object{back(soldAgain(lead), "1")}}).JSON()
	lead.Post("/catalog/return-kinds/import", object{"site_id": world.Site, "rows": []object{{"name": "Something else",
		"gives": "nothing"}}}).JSON()
	if now := lead.Get(fmt.Sprintf("/returns/%d", id(third, "id"))).JSON(); now["gives"] != "something else" {
		t.Errorf("it gives %v since its kind does", now["gives"])
	}
	h.Whole(t)
}

// soldAgain ships one more clamp, and is what may come back of it.
func soldAgain(c *world.Client) object {
	return c.Get("/returnable?q=" + soldOnce(c, world.Clamp, "1", true)["number"].(string)).JSONs()[0]
}

// TestGoodsWithoutAPaper are taken by a lead with a reason: units and lots that are ours and not elsewhere; their money
// is that of an invoice that is named, and no more than that asked for.
func TestGoodsWithoutAPaper(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, office := world.SignOn(t, base, "lead"), world.SignOn(t, base, "office")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	h.StockUnits(t, world.Spot, h.Bin(t, "A-02-1-A"), "NP-1")
	h.Lot(t, world.Fluid, "HZ-9", 400)
	soldOnce(lead, world.Clamp, "3", true)
	line := func(item int32, quantity string, more ...any) object {
		out := object{"item_id": item, "quantity": quantity, "reason_id": 1}
		for i := 0; i < len(more); i += 2 {
			out[more[i].(string)] = more[i+1]
		}
		return out
	}
	wish := func(reason, kind string, lines ...object) object {
		return object{"site_id": world.Site, "customer_id": world.Customer, "kind_id": kindOf(lead, kind), "reason": reason, "lines": lines}
	}
	take := func(in object) world.Answer { return lead.Post("/returns/without-paper", in) }
	office.Post("/returns/without-paper", wish("they lost it", "Without paper", line(world.Clamp, "2"))).Refused(403, "role", "")
	take(wish("", "Without paper", line(world.Clamp, "2"))).Refused(422, "reason_missing", "reason")
	take(wish("they lost it", "Credit", line(world.Clamp, "2"))).Refused(422, "paper_missing", "kind_id", "Credit needs what was shipped")
	take(wish("they lost it", "Without paper", line(world.Spot, "1", "serials", []string{"NP-1"}))).
		Refused(409, "serial_in_stock", "lines[0].serials", "is in stock, in A-02-1-A")
	take(wish("they lost it", "Without paper", line(world.Spot, "1", "serials", []string{"NP-9"}))).
		Refused(409, "serial_not_ours", "lines[0].serials")
	take(wish("they lost it", "Without paper", line(world.Fluid, "1", "lot", "HZ-8"))).Refused(409, "lot_unknown", "lines[0].lot")
	take(wish("they lost it", "Without paper", line(world.Clamp, "1"), line(world.Clamp, "1"))).Refused(422, "line_twice", "lines[1]")
	lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Without paper"), "lines": []object{
		back(soldAgain(lead), "1")}}).Refused(422, "paper_unwanted", "kind_id")

	r := take(wish("the driver took them along", "Without paper", line(world.Clamp, "4"))).JSON()
	path := fmt.Sprintf("/returns/%d", id(r, "id"))
	if r["reason"] != "the driver took them along" || at(r, "lines", 0, "shipment") != "" {
		t.Fatalf("taken is %v", r)
	}
	// In what condition they came is said of each: three opened, one broken.
	comeIn(lead, r, "3", "found", nil).Refused(422, "condition_missing", "lines[0].found", "Say in what condition HC-050 came")
	comeIn(lead, lead.Get(path).JSON(), "3").JSON()
	comeIn(lead, lead.Get(path).JSON(), "1", "found", "broken").JSON()
	r = lead.Get(path).JSON()
	if at(r, "lines", 0, "found") != "1 broken, 3 opened" {
		t.Errorf("found they are %v", at(r, "lines", 0, "found"))
	}
	for fate, n := range map[string]string{"stock": "3", "scrap": "1"} {
		r = lead.Post(path+"/decide", object{"version": r["version"], "line_id": at(r, "lines", 0, "id"), "fate": fate, "quantity": n,
			"reason": "as it was found"}).JSON()
	}
	lead.Post(path+"/settle/preview", object{}).Refused(422, "invoice_missing", "against", "Choose the invoice")
	invoices := lead.Get(path + "/creditable").JSONs()
	against := func(i int) object {
		return object{"against": []object{{"line_id": at(r, "lines", 0, "id"), "invoice_id": invoices[i]["invoice_id"]}}}
	}
	if len(invoices) != 2 || invoices[1]["left"] != "3" {
		t.Fatalf("they may be credited against %v", invoices)
	}
	lead.Post(path+"/settle/preview", against(1)).Refused(409, "over_invoiced", "against", "of which 3 may still be credited, not 4")
	h.Whole(t)
}

// TestAnotherInvoiceIsCredited has goods of one shipment credited against another invoice of their customer, once.
func TestAnotherInvoiceIsCredited(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	soldOnce(lead, world.Clamp, "2", true)
	h.Owner.MustExec(`UPDATE invoice_lines SET price = 17.5`)
	sold := lead.Get("/returnable?q=" + soldOnce(lead, world.Clamp, "3", true)["number"].(string)).JSONs()[0]
	returned := func() object {
		r := lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Refused delivery"),
			"lines": []object{back(sold, "1")}}).JSON()
		comeIn(lead, r, "1").JSON()
		return lead.Get(fmt.Sprintf("/returns/%d", id(r, "id"))).JSON()
	}
	r := returned()
	invoices := lead.Get(fmt.Sprintf("/returns/%d/creditable", id(r, "id"))).JSONs()
	older := invoices[len(invoices)-1]
	look, _ := settledBy(lead, r, object{"against": []object{{"line_id": at(r, "lines", 0, "id"), "invoice_id": older["invoice_id"]}}})
	if at(look, "lines", 0, "invoice") != older["number"] || at(look, "lines", 0, "price") != "17.5" {
		t.Fatalf("it is credited by %v, not %v", at(look, "lines", 0), older)
	}
	left := lead.Get(fmt.Sprintf("/returns/%d/creditable", id(r, "id"))).JSONs()
	if left[len(left)-1]["left"] != "1" || left[0]["left"] != "3" {
		t.Errorf("still to be credited are %v", left)
	}
	h.Whole(t)
}

// TestGoodsWithoutAPaperAreCreditedAgainstAnInvoice that is named: at its price, with its tax, and never beyond what it
// asked for less what was credited of it. A lot and a unit that are with the customer come back without a paper too.
func TestGoodsWithoutAPaperAreCreditedAgainstAnInvoice(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	h.StockUnits(t, world.Spot, h.Bin(t, "A-02-1-A"), "UP-1", "UP-2")
	lot := h.Lot(t, world.Fluid, "UP-L", 400)
	h.StockLot(t, world.Fluid, lot, h.Bin(t, "B-01-1-A"), 4)
	h.Owner.MustExec(`UPDATE items SET tax_pct = 10`)
	soldOnce(lead, world.Clamp, "5", true)
	soldOnce(lead, world.Fluid, "2", true)
	spots := sellNow(lead, world.Spot, "2")
	packedFor(lead, spots)
	lead.Post("/shipments", object{"order_id": spots["id"]}).JSON()
	taken := func(line object) object {
		line["reason_id"] = 1
		return lead.Post("/returns/without-paper", object{"site_id": world.Site, "customer_id": world.Customer,
			"kind_id": kindOf(lead, "Without paper"), "reason": "the note is lost", "lines": []object{line}}).JSON()
	}
	decided := func(r object, n string, more ...any) object {
		path := fmt.Sprintf("/returns/%d", id(r, "id"))
		comeIn(lead, r, n, more...).JSON()
		r = lead.Get(path).JSON()
		in := object{"version": r["version"], "line_id": at(r, "lines", 0, "id"), "fate": "stock", "quantity": n}
		if units := at(r, "lines", 0, "here").([]any); len(units) > 0 {
			in["serials"] = units
		}
		return lead.Post(path+"/decide", in).JSON()
	}
	// A lead may accept more than was said: how many went is not known.
	r := taken(object{"item_id": world.Clamp, "quantity": "2"})
	comeIn(lead, r, "3").Refused(422, "over_allowance", "lines[0].quantity")
	r = decided(lead.Get(fmt.Sprintf("/returns/%d", id(r, "id"))).JSON(), "3", "reason", "three were in the box")
	invoice := lead.Get(fmt.Sprintf("/returns/%d/creditable", id(r, "id"))).JSONs()[0]
	against := object{"against": []object{{"line_id": at(r, "lines", 0, "id"), "invoice_id": invoice["invoice_id"]}}}
	look, done := settledBy(lead, r, against)
	if look["net"] != "60" || look["total"] != "66" || done["state"] != "settled" || done["credit"] == "" {
		t.Fatalf("settled by %v it is %v", look, done)
	}
	again := decided(taken(object{"item_id": world.Clamp, "quantity": "3"}), "3")
	against["against"].([]object)[0]["line_id"] = at(again, "lines", 0, "id")
	lead.Post(fmt.Sprintf("/returns/%d/settle/preview", id(again, "id")), against).Refused(409, "over_invoiced", "against",
		"of which 2 may still be credited, not 3")

	fluid := decided(taken(object{"item_id": world.Fluid, "quantity": "1", "lot": "up-l"}), "1",
		"lots", []object{{"code": "UP-L", "quantity": "1", "expires_on": day(400)}})
	unit := decided(taken(object{"item_id": world.Spot, "quantity": "1", "serials": []string{"UP-2"}}), "1", "serials", []string{"UP-2"})
	for _, x := range []object{fluid, unit} {
		if x["state"] != "decided" {
			t.Errorf("%v is %v", x["number"], x["state"])
		}
	}
	if names, _ := wheres(lead, "UP-2"); names[len(names)-1] != "Test House" {
		t.Errorf("the unit was at %v", names)
	}
	h.Whole(t)
}

// TestAnExchangeForACustomerThatOwes is an order like any: what it would owe beyond its limit is a lead's to decide.
func TestAnExchangeForACustomerThatOwes(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, office := world.SignOn(t, base, "lead"), world.SignOn(t, base, "office")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	sold := lead.Get("/returnable?q=" + soldOnce(lead, world.Clamp, "4", true)["number"].(string)).JSONs()[0]
	r := lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Something else"),
		"lines": []object{back(sold, "1")}}).JSON()
	comeIn(lead, r, "1").JSON()
	h.Owner.MustExec(`UPDATE parties SET credit_limit = 100 WHERE id = $1`, world.Customer)
	path := fmt.Sprintf("/returns/%d", id(r, "id"))
	in := object{"version": lead.Get(path).JSON()["version"], "instead": []object{{"item_id": world.Clamp, "quantity": "3", "price": "50"}}}
	office.Post(path+"/settle", in).Refused(403, "lead_decides", "instead", "above its limit of 100.00")
	if now := lead.Get(path).JSON(); now["settled_at"] != nil || now["replacement"] != "" || now["credit"] != "" {
		t.Fatalf("refused, and it is settled: %v", now)
	}
	if done := lead.Post(path+"/settle", in).JSON(); done["replacement"] == "" {
		t.Errorf("settled by a lead it is %v", done)
	}
	h.Whole(t)
}
