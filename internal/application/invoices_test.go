package application_test

import (
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// TestShipmentsStandOnOneInvoiceWhereACustomerWantsIt invoices three shipments, each of 0.13 with
// 19 % of tax: one by one they come to 0.15 each, and on one invoice, whose tax is calculated once
// (EN 16931, BR-CO-17, from memory), to 0.46.
func TestShipmentsStandOnOneInvoiceWhereACustomerWantsIt(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	if _, err := h.Owner.Exec(`
		UPDATE items SET sales_price = 0.13, tax_pct = 19 WHERE id = $1`, world.Clamp); err != nil {
		t.Fatal(err)
	}
	var shipments []any
	var numbers []string
	for range 3 {
		o := sellNow(lead, world.Clamp, "1")
		packedFor(lead, o)
		d := lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
		shipments, numbers = append(shipments, d["id"]), append(numbers, d["number"].(string))
	}
	all := object{"shipment_ids": shipments}
	apart := lead.Post("/invoices/preview", all).JSON()
	if apart["button"] != "Make 3 invoices, 0.45" || len(apart["notes"].([]any)) != 0 {
		t.Fatalf("apart they would be %v", apart)
	}
	lead.Post("/catalog/customers/import", object{"site_id": world.Site, "rows": []object{{"code": "CUS",
		"together": "yes"}}}).JSON()
	look := lead.Post("/invoices/preview", all).JSON()
	if look["button"] != "Make 1 invoice, 0.46" || !strings.Contains(fmt.Sprint(look["notes"]),
		strings.Join(numbers, ", ")+", over 0.46") {
		t.Fatalf("together it would be %v", look)
	}
	made := lead.Post("/invoices", all).JSONs()
	if len(made) != 1 || made[0]["total"] != "0.46" || made[0]["shipment"] != strings.Join(numbers, " ") ||
		len(made[0]["lines"].([]any)) != 3 {
		t.Fatalf("made %v", made)
	}
	if text := paperText(t, lead, fmt.Sprintf("/invoices/%d/invoice.pdf", id(made[0], "id"))); strings.Count(text,
		"Shipped with ") != 3 || !strings.Contains(text, "Tax of 19 % on 0.39: 0.07") {
		t.Errorf("the paper says\n%s", text)
	}
	// One that is invoiced already keeps the others from it, and nothing is made.
	lead.Post("/invoices/preview", all).Refused(409, "nothing_uninvoiced", "shipment_ids", numbers[0])
	lead.Post("/invoices", all).Refused(409, "nothing_uninvoiced", "shipment_ids", numbers[0])
	lead.Post("/invoices", object{"shipment_ids": []any{shipments[0], 999}}).Refused(404, "unknown", "")
	for i, s := range shipments {
		if d := lead.Get(fmt.Sprintf("/shipments/%v", s)).JSON(); d["invoiced"] != made[0]["number"] {
			t.Errorf("%s is said to be invoiced by %v", numbers[i], d["invoiced"])
		}
	}
	// Taken back, all three are asked for anew.
	lead.Post(fmt.Sprintf("/invoices/%d/credit", id(made[0], "id")), object{"reason": "another address"}).JSON()
	if open := lead.Get("/uninvoiced?site=1").Rows(); len(open) != 3 {
		t.Errorf("not invoiced: %v", open)
	}
}

// TestAShipmentIsTakenBackByAPaperOfItsOwn ships units, a lot and freight by mistake and takes the
// shipment back: goods, order and cartons stand as before it, both papers stay, and it is shipped
// anew. One that is invoiced is not taken back before its invoice is.
func TestAShipmentIsTakenBackByAPaperOfItsOwn(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": "6", "price": "20"},
			{"text": "Freight", "quantity": "1", "price": "12.5"}}}).JSON()
	packedFor(lead, o)
	figures := func() string { return fmt.Sprint(at(lead.Get("/items/1?site=1").JSON(), "figures")) }
	order := func() object { return lead.Get(fmt.Sprintf("/sales-orders/%d", id(o, "id"))).JSON() }
	before, packed := figures(), lead.Get("/cartons?site=1&state=packed").JSONs()
	d := lead.Post("/shipments", object{"order_id": o["id"], "invoice": "shipped"}).JSON()
	path := fmt.Sprintf("/shipments/%d", id(d, "id"))
	invoice := fmt.Sprintf("/invoices/%v", order()["invoices"].([]any)[0].(object)["id"])
	back := object{"reason": "the wrong order went"}
	picker.Post(path+"/take-back", back).Refused(403, "role", "")
	lead.Get(path+"/take-back/preview").Refused(409, "shipment_invoiced", "", "is invoiced by I-", "Take the invoice back first")
	lead.Post(path+"/take-back", back).Refused(409, "shipment_invoiced", "")
	lead.Get(path+"/taken-back.pdf").Refused(404, "unknown", "")
	lead.Post(invoice+"/credit", object{"reason": "it did not go"}).JSON()
	lead.Post(path+"/take-back", object{"reason": "x"}).Refused(422, "reason_short", "reason")
	look := lead.Get(path + "/take-back/preview").JSON()
	if look["button"] != fmt.Sprintf("Take %s back, 1 carton", d["number"]) || at(look, "moves", 0, "quantity") != "6" {
		t.Fatalf("it would be taken back so: %v", look)
	}
	taken := lead.Post(path+"/take-back", back).JSON()
	if taken["state"] != "taken_back" || taken["taken_back"] != "DB-1" || taken["reason"] != back["reason"] {
		t.Fatalf("taken back: %v", taken)
	}
	lead.Post(path+"/take-back", back).Refused(409, "shipment_taken_back", "", "already, with DB-1")
	lead.Post("/invoices", object{"shipment_ids": []any{d["id"]}}).Refused(409, "shipment_taken_back", "shipment_ids")
	if open := lead.Get("/uninvoiced?site=1").Rows(); len(open) != 0 {
		t.Errorf("to be invoiced: %v", open)
	}
	if after := figures(); after != before {
		t.Errorf("before it the item had %s, and has %s", before, after)
	}
	stands := lead.Get("/cartons?site=1&state=packed").JSONs()
	if got := order(); got["state"] != "released" || len(stands) != 1 || stands[0]["sscc"] != packed[0]["sscc"] {
		t.Errorf("the order is %v, packed are %v", got["state"], stands)
	}
	if text := paperText(t, lead, path+"/taken-back.pdf"); !strings.Contains(text, "DB-1") ||
		!strings.Contains(text, "Takes back delivery note "+d["number"].(string)+": the wrong order went") ||
		!strings.Contains(text, "HC-050") || !strings.Contains(text, "Freight") {
		t.Errorf("the paper says\n%s", text)
	}
	again := lead.Post("/shipments", object{"order_id": o["id"], "invoice": "shipped"}).JSON()
	if got := order(); got["state"] != "shipped" || again["invoiced"] == "" || len(got["shipments"].([]any)) != 2 {
		t.Errorf("shipped anew: %v, invoiced %v", got["state"], again["invoiced"])
	}
	h.Whole(t)
}

// TestASuppliersInvoiceMayComeBeforeItsGoodsAndOverOrders enters one invoice over two orders before
// all of it came: it is asked about, kept, counts nothing, and is matched once when the goods are here.
func TestASuppliersInvoiceMayComeBeforeItsGoodsAndOverOrders(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	office, receiver := world.SignOn(t, base, "office"), world.SignOn(t, base, "lead")
	first, came := buy(t, receiver, "12", "1")
	second, comes := buy(t, receiver, "7", "1")
	price, line := at(first, "lines", 0, "price"), func(o object) any { return at(o, "lines", 0, "id") }
	receive := func(arrival object, quantity string) {
		receiver.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")), object{"version": 1,
			"lines": []object{{"line_id": at(arrival, "lines", 0, "id"), "quantity": quantity}}}).JSON()
	}
	receive(came, "12")
	path := fmt.Sprintf("/purchase-orders/%d/invoices", id(first, "id"))
	invoice := object{"number": "F-80", "invoiced_on": day(0), "lines": []object{
		{"line_id": line(first), "quantity": "12", "price": price}, {"line_id": line(second), "quantity": "7", "price": price}}}
	office.Post(path, invoice).Refused(409, "goods_to_come", "lines[1].quantity",
		"the invoice is for 7, and 0 of 7 ordered on "+second["number"].(string)+" came")
	invoice["sure"] = []string{"goods_to_come"}
	kept := office.Post(path, invoice).JSON()
	both := fmt.Sprintf("%v, %v", first["number"], second["number"])
	if at(kept, "invoices", 0, "waits") != true || at(kept, "invoices", 0, "orders") != both ||
		at(kept, "lines", 0, "invoiced") != "0" {
		t.Fatalf("kept: %v, %v invoiced", kept["invoices"], at(kept, "lines", 0, "invoiced"))
	}
	office.Post(path, invoice).Refused(409, "invoice_known", "number")
	other := fmt.Sprintf("/purchase-orders/%d/invoices/%d", id(second, "id"), id(kept, "invoices", 0, "id"))
	office.Post(other+"/match", nil).Refused(422, "invoice_over_received", "", "7 ordered, 0 received")
	receive(comes, "7")
	matched := office.Post(other+"/match", nil).JSON()
	if at(matched, "invoices", 0, "waits") != false || at(matched, "lines", 0, "invoiced") != "7" {
		t.Fatalf("matched: %v", matched)
	}
	office.Post(other+"/match", nil).Refused(409, "invoice_matched", "")
	read := func(o object) any {
		return at(office.Get(fmt.Sprintf("/purchase-orders/%d", id(o, "id"))).JSON(), "lines", 0, "invoiced")
	}
	if read(first) != "12" {
		t.Errorf("%v of the first order are invoiced", read(first))
	}
	// Taken back, it is asked for on neither; one that waits takes nothing off when it goes.
	office.Post(other+"/take-back", object{"reason": "typed twice"}).JSON()
	if read(first) != "0" || read(second) != "0" {
		t.Errorf("after it was taken back %v and %v are invoiced", read(first), read(second))
	}
	third, _ := buy(t, receiver, "5", "1")
	path = fmt.Sprintf("/purchase-orders/%d/invoices", id(third, "id"))
	early := office.Post(path, object{"number": "F-81", "invoiced_on": day(0), "sure": []string{"goods_to_come"},
		"lines": []object{{"line_id": line(third), "quantity": "5", "price": price}}}).JSON()
	office.Post(fmt.Sprintf("%s/%d/take-back", path, id(early, "invoices", 0, "id")), object{"reason": "typed twice"}).JSON()
	if read(third) != "0" {
		t.Errorf("%v of the third order are invoiced", read(third))
	}
	// More than was ordered never waits.
	office.Post(path, object{"number": "F-82", "invoiced_on": day(0), "sure": []string{"goods_to_come"},
		"lines": []object{{"line_id": line(third), "quantity": "6", "price": price}}}).Refused(422, "invoice_over_received",
		"lines[0].quantity")
}
