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
	for _, c := range lead.Get("/cartons?site=1&state=at%20bench").JSONs() {
		lead.Post(fmt.Sprintf("/cartons/%d/pack", id(c, "id")), object{}).JSON()
	}
}

// TestABillGoesWithWhatIsSentAsItIsAsked sends by order, many at once and on a vehicle:
// each time the bill follows as the customer is billed, or as whoever makes bills says.
func TestABillGoesWithWhatIsSentAsItIsAsked(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 24)
	charged := func(quantity string) object {
		return lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon, "let_go": true,
			"lines": []object{{"item_id": world.Clamp, "quantity": quantity, "price": "20.005"}, {"text": "Carriage", "quantity": "1", "price": "12.50"}}}).JSON()
	}
	billed := func(o object) []any {
		return lead.Get(fmt.Sprintf("/sales-orders/%d", id(o, "id"))).JSON()["bills"].([]any)
	}
	unbilled := func() int { return len(lead.Get("/unbilled?site=1").JSONs()) }

	// Mailed is refused where there is nowhere to mail to, and nothing is sent.
	o := charged("2")
	packedFor(lead, o)
	lead.Post("/deliveries", object{"order_id": o["id"], "bill": "mailed"}).Refused(422, "address_missing", "bill", "The Lyrebird Theatre", "without mailing it")
	picker.Post("/deliveries", object{"order_id": o["id"], "bill": "sent"}).Refused(403, "bill_barred", "bill", "makes no bills")
	if p := lead.Post("/deliveries/preview", object{"order_id": o["id"], "bill": "sent"}).JSON(); !strings.Contains(fmt.Sprint(p["notes"]), "over 52.51.") {
		t.Errorf("it notes %v", p["notes"])
	}
	if lead.Post("/deliveries", object{"order_id": o["id"], "bill": "sent"}).JSON(); len(billed(o)) != 1 || unbilled() != 0 {
		t.Errorf("billed with %v", billed(o))
	}
	bill := lead.Get(fmt.Sprintf("/sales-bills/%d", id(billed(o)[0].(object), "id"))).JSON()
	if bill["total"] != "52.51" || len(bill["lines"].([]any)) != 2 || at(bill, "lines", 0, "amount") != "40.01" {
		t.Errorf("the bill is %v", bill)
	}

	// The charge goes with the first delivery alone; the second bill is over goods.
	o = charged("4")
	line := at(o, "lines", 0, "id")
	p := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []any{o["id"]}}).JSON()
	for range 2 {
		r := lead.Post("/rounds", object{"site_id": world.Site, "stops": []object{{"line_id": line, "place_id": at(p, "stops", 0, "place_id"), "quantity": "2"}}}).JSON()
		lead.Post(fmt.Sprintf("/rounds/%d/confirm", id(r, "id")), object{}).JSON()
		c := lead.Get("/cartons?site=1&state=at%20bench").JSONs()[0]
		lead.Post(fmt.Sprintf("/cartons/%d/pack", id(c, "id")), object{}).JSON()
		lead.Post("/deliveries", object{"order_id": o["id"], "bill": "sent"}).JSON()
	}
	var totals []any
	for _, b := range billed(o) {
		totals = append(totals, lead.Get(fmt.Sprintf("/sales-bills/%d", id(b.(object), "id"))).JSON()["total"])
	}
	if fmt.Sprint(totals) != "[52.51 40.01]" {
		t.Errorf("billed %v", totals)
	}

	// As the customer is billed: a picker sends, and the bill is mailed by itself.
	if _, err := h.Owner.Exec(`UPDATE parties SET billed = 'mailed', email = 'stage@example.org' WHERE id = $1`, world.Customer); err != nil {
		t.Fatal(err)
	}
	many := []object{charged("1"), charged("2")}
	packedFor(lead, many...)
	sent := picker.Post("/deliveries/many", object{"order_ids": []any{many[0]["id"], many[1]["id"]}}).JSONs()
	if len(sent) != 2 || sent[0]["billed"] == "" || sent[1]["billed"] == "" {
		t.Errorf("sent %v", sent)
	}
	later := charged("1")
	packedFor(lead, later)
	picker.Post("/deliveries", object{"order_id": later["id"], "bill": "later"}).JSON()
	if len(billed(later)) != 0 || unbilled() != 1 {
		t.Errorf("to be billed later, it was billed with %v", billed(later))
	}

	// On a vehicle: what is left of an order is cancelled with it, as agreed.
	rest := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon, "let_go": true,
		"lines": []object{{"item_id": world.Clamp, "quantity": "3"}, {"item_id": world.Heavy, "quantity": "9"}}}).JSON()
	packedFor(lead, rest)
	load := picker.Post("/loads", object{"site_id": world.Site, "carrier": "Northgate Vans"}).JSON()
	lp := fmt.Sprintf("/loads/%d", id(load, "id"))
	picker.Post(lp+"/scan", object{"scan": lead.Get("/cartons?site=1&state=packed").JSONs()[0]["sscc"]}).JSON()
	look := lead.Post(lp+"/leave/preview", object{"rest": "cancel", "bill": "sent"}).JSON()
	if words := fmt.Sprint(look["warnings"], look["notes"]); !strings.Contains(words, "9 units of "+rest["number"].(string)+" are cancelled") || !strings.Contains(words, "over 56.25") || at(look, "origins", 0, "bin") != "A-01-1-A" {
		t.Errorf("it says %s, from %v", words, look["origins"])
	}
	picker.Post(lp+"/leave", object{"rest": "cancel", "bill": "sent"}).Refused(403, "bill_barred", "bill")
	lead.Post(lp+"/leave", object{"rest": "cancel", "bill": "sent"}).JSON()
	if got := lead.Get(fmt.Sprintf("/sales-orders/%d", id(rest, "id"))).JSON(); got["state"] != "sent" || at(got, "lines", 1, "cancelled") != "9" || len(billed(rest)) != 1 {
		t.Errorf("it is %v, %v of it cancelled, billed with %v", got["state"], at(got, "lines", 1, "cancelled"), got["bills"])
	}
	h.Whole(t)
}

// TestWhatIsNotWantedAnyMoreDoesNotGoStraightOut changes an order while it is in a carton on
// a round: what is to be put back keeps it from going, at the last take and at the bench.
func TestWhatIsNotWantedAnyMoreDoesNotGoStraightOut(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	o := sellNow(lead, world.Clamp, "4")
	r, rp := roundFor(lead, lead, id(o, "id"))
	sscc, carton := blank(lead, lead, rp, id(o, "id"))
	lead.Post(rp+"/send", object{"order_ids": []any{o["id"]}}).Refused(409, "stops_left", "", "1 stop of")
	lead.Post(rp+"/send", object{"order_ids": []any{o["id"]}, "leave_rest": true}).Refused(409, "nothing_taken", "order_ids")
	takeAll(lead, rp, sscc, r)
	now := lead.Get(fmt.Sprintf("/sales-orders/%d", id(o, "id"))).JSON()
	lead.Post(fmt.Sprintf("/sales-orders/%d/change", id(o, "id")), object{"version": now["version"], "wanted_on": soon, "lines": []object{{"id": at(now, "lines", 0, "id"), "item_id": world.Clamp, "quantity": "3"}}}).JSON()
	if look := lead.Post(rp+"/send/preview", object{}).JSON(); !strings.Contains(at(look, "orders", 0, "why").(string), "Put them back first") || len(look["moves"].([]any)) != 0 {
		t.Errorf("it would send %v: %v", look["moves"], look["orders"])
	}
	lead.Post(rp+"/send", object{"order_ids": []any{o["id"]}}).Refused(409, "put_back_first", "")
	task := lead.Get("/put-backs?site=1").JSONs()[0]
	lead.Post(fmt.Sprintf("/put-backs/%d", id(task, "id")), object{"bin": task["from"]}).JSON()
	look := lead.Post(rp+"/send/preview", object{}).JSON()
	if at(look, "origins", 0, "quantity") != "3" || at(look, "origins", 0, "left") != "6" {
		t.Errorf("what goes came from %v", look["origins"])
	}
	d := lead.Post(rp+"/send", object{"order_ids": []any{o["id"]}}).JSONs()[0]
	if at(d, "cartons", 0, "weight_kg") != "1.35" || at(d, "cartons", 0, "state") != "sent" || id(d["cartons"].([]any)[0].(object), "id") != carton {
		t.Errorf("sent %v", d["cartons"])
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
	second := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon, "let_go": true, "carrier": "Ferry", "lines": []object{{"item_id": world.Heavy, "quantity": "3"}}}).JSON()
	open := lead.Get(fmt.Sprintf("/pick/open?site=1&order=%d", id(first, "id"))).JSON()
	if at(open, "orders", 0, "parts", 0, "can_go") != "7" || fmt.Sprint(at(open, "orders", 0, "parts", 0, "bins")) != "[A-01-1-A A-02-1-A]" || len(open["orders"].([]any)) != 1 {
		t.Fatalf("open: %v", open["orders"])
	}
	if all := lead.Get("/pick/open?site=1").JSON(); len(all["orders"].([]any)) != 2 || len(at(all, "orders", 0, "parts").([]any)) != 0 {
		t.Errorf("all that is open: %v", all["orders"])
	}
	heavy := at(first, "lines", 1, "id")
	p := lead.Post("/waves/plan", object{"site_id": world.Site, "order_ids": []any{first["id"], second["id"]}, "without": []any{heavy}}).JSON()
	for _, r := range p["rounds"].([]any) {
		for _, s := range at(r, "stops").([]any) {
			if at(s, "line_id") == heavy {
				t.Errorf("planned all the same: %v", s)
			}
		}
	}
	lead.Post("/waves/plan", object{"site_id": world.Site, "order_ids": []any{second["id"]}, "without": []any{at(second, "lines", 0, "id")}}).Refused(409, "nothing_open", "order_ids")

	would := func(settings object) object {
		return lead.Post("/schedules/preview", object{"site_id": world.Site, "task": "plan-rounds", "rule": object{"at": []string{"06:30"}}, "settings": settings}).JSON()["would"].(object)
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

// TestAPinIsChanged ties more and less of the same stock, never more than the line wants or
// than lies there.
func TestAPinIsChanged(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	office, viewer := world.SignOn(t, base, "office"), world.SignOn(t, base, "viewer")
	bin := h.Bin(t, "A-01-1-A")
	h.Stock(t, world.Clamp, bin, 6)
	o, other := sellNow(office, world.Clamp, "8"), sellNow(office, world.Clamp, "2")
	pin := func(o object, quantity string) string {
		office.Post(fmt.Sprintf("/sales-lines/%v/pins", at(o, "lines", 0, "id")), object{"pins": []object{{"place_id": bin, "quantity": quantity}}}).JSON()
		return fmt.Sprintf("/pins/%d", id(lastOf(office.Get("/pins?site=1").JSONs(), "order", o["number"]), "id"))
	}
	mine, theirs := pin(o, "3"), pin(other, "2")
	viewer.Post(mine+"/change", object{"quantity": "1"}).Refused(403, "role", "")
	office.Post(mine+"/change", object{"quantity": "9"}).Refused(409, "over_wanted", "quantity", "8 of HC-050 at most")
	office.Post(mine+"/change", object{"quantity": "5"}).Refused(409, "pinned", "", other["number"].(string))
	office.Post(mine+"/change", object{"quantity": "0"}).Refused(422, "quantity_zero", "quantity")
	if got := office.Post(mine+"/change", object{"quantity": "4"}).JSON(); at(got, "pins", 0, "quantity") != "4" || got["pinned"] != "4" {
		t.Errorf("pinned %v", got["pins"])
	}
	// Its number is another one now: what stood there before is not changed again.
	office.Post(mine+"/change", object{"quantity": "1"}).Refused(404, "unknown", "")
	r, _ := roundFor(world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker"), id(other, "id"))
	office.Post(theirs+"/change", object{"quantity": "1"}).Refused(404, "unknown", "")
	taken := lastOf(office.Get("/pins?site=1").JSONs(), "order", other["number"])
	office.Post(fmt.Sprintf("/pins/%d/change", id(taken, "id")), object{"quantity": "1"}).Refused(409, "pin_on_round", "", r["number"].(string))
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
