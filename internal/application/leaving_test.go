package application_test

import (
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// packedFor picks all of an order from the list on paper, and closes its cartons.
func packedFor(lead *world.Client, orders ...object) {
	for _, o := range orders {
		_, rp := roundFor(lead, lead, id(o, "id"))
		lead.Post(rp+"/confirm", object{}).JSON()
	}
	for _, c := range lead.Get("/cartons?site=1&state=at_bench").JSONs() {
		lead.Post(fmt.Sprintf("/cartons/%d/pack", id(c, "id")), object{}).JSON()
	}
}

// TestAnInvoiceGoesWithWhatIsSentAsItIsAsked sends by order, many at once and on a vehicle:
// each time the invoice follows as the customer is invoiced, or as whoever makes invoices says.
func TestAnInvoiceGoesWithWhatIsSentAsItIsAsked(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 24)
	charged := func(quantity string) object {
		return lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site,
			"wanted_on": soon, "release": true,
			"lines": []object{{"item_id": world.Clamp, "quantity": quantity, "price": "20.005"},
				{"text": "Freight", "quantity": "1", "price": "12.50"}}}).JSON()
	}
	invoiced := func(o object) []any {
		return lead.Get(fmt.Sprintf("/sales-orders/%d", id(o, "id"))).JSON()["invoices"].([]any)
	}
	uninvoiced := func() int { return len(lead.Get("/uninvoiced?site=1").Rows()) }

	// Mailed is refused where there is nowhere to mail to, and nothing is shipped.
	o := charged("2")
	packedFor(lead, o)
	lead.Post("/shipments", object{"order_id": o["id"], "invoice": "mailed"}).Refused(422, "address_missing",
		"invoice", "The Lyrebird Theatre", "without mailing it")
	picker.Post("/shipments", object{"order_id": o["id"], "invoice": "shipped"}).Refused(403, "invoice_barred",
		"invoice", "may make no invoices")
	if p := lead.Post("/shipments/preview",
		object{"order_id": o["id"],
			"invoice": "shipped"}).JSON(); !strings.Contains(fmt.Sprint(p["notes"]), "over 52.51.") {
		t.Errorf("it notes %v", p["notes"])
	}
	if lead.Post("/shipments", object{"order_id": o["id"], "invoice": "shipped"}).JSON(); len(invoiced(o)) != 1 ||
		uninvoiced() != 0 {
		t.Errorf("invoiced with %v", invoiced(o))
	}
	invoice := lead.Get(fmt.Sprintf("/invoices/%d", id(invoiced(o)[0].(object), "id"))).JSON()
	if invoice["total"] != "52.51" || len(invoice["lines"].([]any)) != 2 ||
		at(invoice, "lines", 0, "amount") != "40.01" {
		t.Errorf("the invoice is %v", invoice)
	}

	// The charge goes with the first shipment alone; the second invoice is over goods.
	o = charged("4")
	line := at(o, "lines", 0, "id")
	p := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []any{o["id"]}}).JSON()
	for range 2 {
		r := lead.Post("/rounds",
			object{"site_id": world.Site,
				"stops": []object{{"line_id": line, "location_id": at(p, "stops", 0, "location_id"),
					"quantity": "2"}}}).JSON()
		lead.Post(fmt.Sprintf("/rounds/%d/confirm", id(r, "id")), object{}).JSON()
		c := lead.Get("/cartons?site=1&state=at_bench").JSONs()[0]
		lead.Post(fmt.Sprintf("/cartons/%d/pack", id(c, "id")), object{}).JSON()
		lead.Post("/shipments", object{"order_id": o["id"], "invoice": "shipped"}).JSON()
	}
	var totals []any
	for _, b := range invoiced(o) {
		totals = append(totals, lead.Get(fmt.Sprintf("/invoices/%d", id(b.(object), "id"))).JSON()["total"])
	}
	if fmt.Sprint(totals) != "[52.51 40.01]" {
		t.Errorf("invoiced %v", totals)
	}

	// As the customer is invoiced: a picker ships, and the invoice is mailed on its own.
	if _, err := h.Owner.Exec(`
		UPDATE parties SET invoiced = 'mailed', email = 'stage@example.org' WHERE id = $1`,
		world.Customer); err != nil {
		t.Fatal(err)
	}
	many := []object{charged("1"), charged("2")}
	packedFor(lead, many...)
	both := object{"order_ids": []any{many[0]["id"], many[1]["id"], many[0]["id"]}}
	plan := picker.Post("/shipments/many/preview", both).JSON()
	moves := plan["moves"].([]any)
	if plan["button"] != "Ship 2 orders with Northgate Vans" || len(moves) != 2 || at(moves, 0, "quantity") != "1" ||
		at(moves, 1, "quantity") != "2" {
		t.Errorf("before and after of many: %v", plan)
	}
	shipped := picker.Post("/shipments/many", object{"order_ids": []any{many[0]["id"], many[1]["id"]}}).JSONs()
	if len(shipped) != 2 || shipped[0]["invoiced"] == "" || shipped[1]["invoiced"] == "" {
		t.Errorf("shipped %v", shipped)
	}
	later := charged("1")
	packedFor(lead, later)
	picker.Post("/shipments", object{"order_id": later["id"], "invoice": "later"}).JSON()
	if len(invoiced(later)) != 0 || uninvoiced() != 1 {
		t.Errorf("to be invoiced later, it was invoiced with %v", invoiced(later))
	}

	// On a vehicle: what is left of an order is cancelled with it, as agreed.
	rest := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"release": true,
		"lines":   []object{{"item_id": world.Clamp, "quantity": "3"}, {"item_id": world.Heavy, "quantity": "9"}}}).JSON()
	packedFor(lead, rest)
	load := picker.Post("/loads", object{"site_id": world.Site, "carrier": "Northgate Vans"}).JSON()
	lp := fmt.Sprintf("/loads/%d", id(load, "id"))
	picker.Post(lp+"/scan", object{"scan": lead.Get("/cartons?site=1&state=packed").JSONs()[0]["sscc"]}).JSON()
	look := lead.Post(lp+"/leave/preview", object{"rest": "cancel", "invoice": "shipped"}).JSON()
	if words := fmt.Sprint(look["warnings"], look["notes"]); !strings.Contains(words,
		"9 units of "+rest["number"].(string)+" are cancelled") || !strings.Contains(words, "over 56.25") ||
		at(look, "origins", 0, "bin") != "A-01-1-A" {
		t.Errorf("it says %s, from %v", words, look["origins"])
	}
	picker.Post(lp+"/leave", object{"rest": "cancel", "invoice": "shipped"}).Refused(403, "invoice_barred", "invoice")
	lead.Post(lp+"/leave", object{"rest": "cancel", "invoice": "shipped"}).JSON()
	if got := lead.Get(fmt.Sprintf("/sales-orders/%d", id(rest, "id"))).JSON(); got["state"] != "shipped" ||
		at(got, "lines", 1, "cancelled") != "9" || len(invoiced(rest)) != 1 {
		t.Errorf("it is %v, %v of it cancelled, invoiced with %v", got["state"], at(got, "lines", 1, "cancelled"),
			got["invoices"])
	}
	h.Whole(t)
}

// TestWhatIsNotWantedAnyMoreDoesNotGoStraightOut changes an order while it is in a carton on
// a round: what is to be returned to stock keeps it from going, at the last take and at the bench.
func TestWhatIsNotWantedAnyMoreDoesNotGoStraightOut(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	o := sellNow(lead, world.Clamp, "4")
	r, rp := roundFor(lead, lead, id(o, "id"))
	sscc, carton := blank(lead, lead, rp, id(o, "id"))
	lead.Post(rp+"/ship", object{"order_ids": []any{o["id"]}}).Refused(409, "stops_left", "", "1 stop of")
	lead.Post(rp+"/ship", object{"order_ids": []any{o["id"]}, "leave_rest": true}).Refused(409, "nothing_taken",
		"order_ids")
	takeAll(lead, rp, sscc, r)
	now := lead.Get(fmt.Sprintf("/sales-orders/%d", id(o, "id"))).JSON()
	lead.Post(fmt.Sprintf("/sales-orders/%d/change", id(o, "id")), object{"version": now["version"],
		"wanted_on": soon, "lines": []object{{"id": at(now, "lines", 0, "id"), "item_id": world.Clamp,
			"quantity": "3"}}}).JSON()
	if look := lead.Post(rp+"/ship/preview", object{}).JSON(); !strings.Contains(at(look, "orders", 0,
		"why").(string), "Return them to stock first") || len(look["moves"].([]any)) != 0 {
		t.Errorf("it would send %v: %v", look["moves"], look["orders"])
	}
	lead.Post(rp+"/ship", object{"order_ids": []any{o["id"]}}).Refused(409, "restock_first", "")
	task := lead.Get("/restocks?site=1").JSONs()[0]
	lead.Post(fmt.Sprintf("/restocks/%d", id(task, "id")), object{"bin": task["from"]}).JSON()
	look := lead.Post(rp+"/ship/preview", object{}).JSON()
	if at(look, "origins", 0, "quantity") != "3" || at(look, "origins", 0, "left") != "6" {
		t.Errorf("what goes came from %v", look["origins"])
	}
	d := lead.Post(rp+"/ship", object{"order_ids": []any{o["id"]}}).JSONs()[0]
	if at(d, "cartons", 0, "weight_kg") != "1.35" || at(d, "cartons", 0, "state") != "shipped" ||
		id(d["cartons"].([]any)[0].(object), "id") != carton {
		t.Errorf("shipped %v", d["cartons"])
	}
	h.Whole(t)
}

// TestSomeOfWhatWaitsIsPlanned leaves lines out of a round, shows where each line would be
// taken, and plans by schedule what its settings name alone.
func TestSomeOfWhatWaitsIsPlanned(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
	h.Stock(t, world.Clamp, h.Bin(t, "A-02-1-A"), 4)
	h.Stock(t, world.Heavy, h.Bin(t, "B-02-1-A"), 2)
	first := sellNow(lead, world.Clamp, "7", world.Heavy, "1")
	// A carrier comes from the catalog, wherever it is named.
	lead.Post("/loads", object{"site_id": world.Site, "carrier": "Ferrry"}).Refused(422, "carrier_unknown", "carrier",
		"Ferrry", "There are Brook & Daughter, Carrier 0, Carrier 1, Ferry")
	lead.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": soon,
		"carrier": "Ferrry", "lines": []object{{"item_id": world.Clamp, "quantity": "1"}}}).Refused(422, "carrier_unknown",
		"carrier")
	lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"carrier": "Ferrry", "lines": []object{{"item_id": world.Heavy, "quantity": "3"}}}).Refused(422, "carrier_unknown",
		"carrier")
	second := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site,
		"wanted_on": soon, "release": true, "carrier": "Ferry", "lines": []object{{"item_id": world.Heavy,
			"quantity": "3"}}}).JSON()
	open := lead.Get(fmt.Sprintf("/pick/open?site=1&order=%d", id(first, "id"))).JSON()
	if at(open, "rows", 0, "parts", 0, "can_go") != "7" ||
		fmt.Sprint(at(open, "rows", 0, "parts", 0, "bins")) != "[A-01-1-A A-02-1-A]" ||
		len(open["rows"].([]any)) != 1 {
		t.Fatalf("open: %v", open["rows"])
	}
	if all := lead.Get("/pick/open?site=1").JSON(); len(all["rows"].([]any)) != 2 ||
		len(at(all, "rows", 0, "parts").([]any)) != 0 {
		t.Errorf("all that is open: %v", all["rows"])
	}
	heavy := at(first, "lines", 1, "id")
	p := lead.Post("/waves/plan", object{"site_id": world.Site, "order_ids": []any{first["id"], second["id"]},
		"without": []any{heavy}}).JSON()
	for _, r := range p["rounds"].([]any) {
		for _, s := range at(r, "stops").([]any) {
			if at(s, "line_id") == heavy {
				t.Errorf("planned all the same: %v", s)
			}
		}
	}
	lead.Post("/waves/plan", object{"site_id": world.Site, "order_ids": []any{second["id"]},
		"without": []any{at(second, "lines", 0, "id")}}).Refused(409, "nothing_open", "order_ids")

	would := func(settings object) object {
		return lead.Post("/schedules/preview", object{"site_id": world.Site, "task": "plan-rounds",
			"rule": object{"at": []string{"06:30"}}, "settings": settings}).JSON()["would"].(object)
	}
	for want, settings := range map[string]object{
		"plans 1 round for 1 order":  {"days": 365, "carrier": "Ferry"},
		"plans no round":             {"days": 365, "carrier": "Ferry", "ready": true},
		"plans 2 rounds for 2 order": {"days": 365, "split": "order"},
		"plans 4 rounds for 2 order": {"days": 365, "split": "one", "max_lines": 1},
		"plans 1 round for 2 orders": {"days": 365, "zone": "B"},
	} {
		if got := would(settings)["words"].(string); !strings.HasPrefix(got, want) {
			t.Errorf("%v: it %s, want %s", settings, got, want)
		}
	}
	if got := would(object{"days": 0})["words"]; got != "plans no round: nothing that waits can be taken" {
		t.Errorf("for today alone it %v", got)
	}
}

// TestAReservationIsChanged reserves more and less of the same stock, never more than the line wants or
// than lies there.
func TestAReservationIsChanged(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	office, viewer := world.SignOn(t, base, "office"), world.SignOn(t, base, "viewer")
	bin := h.Bin(t, "A-01-1-A")
	h.Stock(t, world.Clamp, bin, 6)
	o, other := sellNow(office, world.Clamp, "8"), sellNow(office, world.Clamp, "2")
	reservation := func(o object, quantity string) string {
		office.Post(fmt.Sprintf("/sales-lines/%v/reservations", at(o, "lines", 0, "id")),
			object{"reservations": []object{{"location_id": bin, "quantity": quantity}}}).JSON()
		return fmt.Sprintf("/reservations/%d",
			id(lastOf(office.Get("/reservations?site=1").Rows(), "order", o["number"]), "id"))
	}
	mine, theirs := reservation(o, "3"), reservation(other, "2")
	viewer.Post(mine+"/change", object{"quantity": "1"}).Refused(403, "role", "")
	office.Post(mine+"/change", object{"quantity": "9"}).Refused(409, "over_wanted", "quantity", "8 of HC-050 at most")
	office.Post(mine+"/change", object{"quantity": "5"}).Refused(409, "reserved", "", other["number"].(string))
	office.Post(mine+"/change", object{"quantity": "0"}).Refused(422, "quantity_zero", "quantity")
	if got := office.Post(mine+"/change", object{"quantity": "4"}).JSON(); at(got, "reservations", 0,
		"quantity") != "4" || got["reserved"] != "4" {
		t.Errorf("reserved %v", got["reservations"])
	}
	// Its number is another one now: what stood there before is not changed again.
	office.Post(mine+"/change", object{"quantity": "1"}).Refused(404, "unknown", "")
	r, _ := roundFor(world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker"), id(other, "id"))
	office.Post(theirs+"/change", object{"quantity": "1"}).Refused(404, "unknown", "")
	taken := lastOf(office.Get("/reservations?site=1").Rows(), "order", other["number"])
	office.Post(fmt.Sprintf("/reservations/%d/change", id(taken, "id")), object{"quantity": "1"}).Refused(409,
		"reservation_on_round", "", r["number"].(string))
}

// lastOf is the last of a list whose field has a value.
func lastOf(list []object, field string, value any) (out object) {
	for _, x := range list {
		if x[field] == value {
			out = x
		}
	}
	return out
}
