package application_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// soldOnce ships so much of an item to the customer, invoiced if it is wanted, and returns the shipment.
func soldOnce(lead *world.Client, item int32, quantity string, invoiced bool) object {
	o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"release": true, "lines": []object{{"item_id": item, "quantity": quantity, "price": "20"}}}).JSON()
	packedFor(lead, o)
	d := lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	if invoiced {
		lead.Post("/invoices", object{"shipment_ids": []any{d["id"]}}).JSONs()
	}
	return d
}

// kindOf finds a kind of return by its name.
func kindOf(c *world.Client, name string) any {
	for _, k := range c.Get("/return-kinds").JSONs() {
		if k["name"] == name {
			return k["id"]
		}
	}
	return nil
}

// back is a line of a return over goods as they were sold.
func back(sold object, quantity string, more ...any) object {
	out := object{"shipment_id": sold["shipment_id"], "line_id": sold["line_id"], "quantity": quantity, "reason_id": 1}
	if sold["lot_id"] != nil {
		out["lot_id"] = sold["lot_id"]
	}
	for i := 0; i < len(more); i += 2 {
		out[more[i].(string)] = more[i+1]
	}
	return out
}

// corner is where returns come in.
func corner(c *world.Client) any { return c.Get("/locations?site=1&kind=returns").JSONs()[0]["id"] }

// comeIn receives so many of a return's first line at the returns corner.
func comeIn(c *world.Client, r object, quantity string, more ...any) world.Answer {
	a := object{"id": r["arrival_id"], "version": nil}
	if r["arrival_id"] == 0.0 {
		a = c.Post("/arrivals", object{"order_ids": []any{r["id"]}, "dock_id": corner(c)}).JSON()
	} else {
		a = c.Get(fmt.Sprintf("/arrivals/%v", r["arrival_id"])).JSON()
	}
	line := object{"line_id": at(r, "lines", 0, "id"), "quantity": quantity, "found": "opened"}
	for i := 0; i < len(more); i += 2 {
		if line[more[i].(string)] = more[i+1]; more[i+1] == nil {
			delete(line, more[i].(string))
		}
	}
	return c.Post(fmt.Sprintf("/arrivals/%d/receive", id(a, "id")), object{"version": a["version"], "lines": []object{line}})
}

// TestTwoOfNineComeBack follows two of nine clamps from the customer to the credit note: what may be returned lessens,
// they are not free until somebody decides, one goes back to stock and one to scrap, and the money is that of the
// invoice.
func TestTwoOfNineComeBack(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 12)
	if _, err := h.Owner.Exec(`UPDATE items SET tax_pct = 20 WHERE id = $1`, world.Clamp); err != nil {
		t.Fatal(err)
	}
	d := soldOnce(lead, world.Clamp, "9", true)
	number := d["number"].(string)
	sold := lead.Get("/returnable?q=" + number).JSONs()[0]
	if sold["returnable"] != "9" || sold["shipped"] != "9" {
		t.Fatalf("of 9 shipped, %v may be returned", sold["returnable"])
	}
	wish := func(quantity string) object {
		return object{"site_id": world.Site, "kind_id": kindOf(lead, "Credit"), "lines": []object{back(sold, quantity)}}
	}
	lead.Post("/returns", wish("10")).Refused(409, "over_returnable", "lines[0].quantity", "9 may still be returned, not 10")
	lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Credit"), "lines": []object{back(sold, "1"),
		back(sold, "1")}}).Refused(422, "line_twice", "lines[1]")
	r := lead.Post("/returns", wish("2")).JSON()
	path := fmt.Sprintf("/returns/%d", id(r, "id"))
	if r["state"] != "announced" || lead.Get("/returnable?q=" + number).JSONs()[0]["returnable"] != "7" {
		t.Fatalf("announced, it is %v", r["state"])
	}
	lead.Post("/returns", wish("8")).Refused(409, "over_returnable", "lines[0].quantity", "7 may still be returned, not 8")
	if text := paperText(t, lead, path+"/paper.pdf"); !strings.Contains(text, r["number"].(string)) ||
		!strings.Contains(text, "from "+number) {
		t.Errorf("its paper says\n%s", text)
	}
	if text := paperText(t, lead, path+"/label.pdf"); !strings.Contains(text, "From The Lyrebird Theatre") ||
		!strings.Contains(text, r["number"].(string)) {
		t.Errorf("its label says\n%s", text)
	}

	// In, at the corner, and not free.
	free := func() any { return at(lead.Get("/items/1?site=1").JSON(), "figures", "free") }
	before := free()
	lead.Post("/arrivals", object{"order_ids": []any{r["id"]}, "dock_id": world.Dock}).Refused(422, "dock_unknown", "dock_id",
		"Choose a returns corner")
	comeIn(lead, r, "3").Refused(422, "over_allowance", "lines[0].quantity", "at most 2 may still come")
	r = lead.Get(path).JSON()
	comeIn(lead, r, "10", "reason", "they sent all of them").Refused(409, "over_returnable", "lines[0].quantity",
		"Set the other 1 aside")
	comeIn(lead, r, "2").JSON()
	r = lead.Get(path).JSON()
	if r["state"] != "received" || free() != before || r["may_settle"] != false {
		t.Fatalf("received, it is %v, and %v are free where %v were", r["state"], free(), before)
	}
	lead.Post(path+"/settle", object{"version": r["version"]}).Refused(409, "return_open", "", "2 came and 0 are decided")

	// One is good again, one is scrap.
	decide := func(fate, quantity, reason string) world.Answer {
		return lead.Post(path+"/decide", object{"version": lead.Get(path).JSON()["version"], "line_id": at(r, "lines", 0, "id"),
			"fate": fate, "quantity": quantity, "reason": reason})
	}
	decide("stock", "3", "").Refused(409, "over_wanted", "quantity", "2 are left, not 3")
	decide("scrap", "1", "").Refused(422, "reason_missing", "reason")
	decide("stock", "1", "").JSON()
	if fmt.Sprint(free()) != "4" {
		t.Fatalf("one is good again, and %v are free", free())
	}
	r = decide("scrap", "1", "jaw is bent").JSON()
	scrap := at(r, "lines", 0, "decisions", 1)
	if r["state"] != "decided" || at(scrap, "fate") != "scrap" || at(scrap, "value") == "0" {
		t.Fatalf("decided, it is %v, and the scrap %v", r["state"], scrap)
	}
	decide("stock", "1", "").Refused(409, "over_wanted", "quantity", "0 are left")

	// Two at 20 and 20 % of tax.
	look := lead.Post(path+"/settle/preview", object{}).JSON()
	if look["button"] != "Credit 48.00" || at(look, "lines", 0, "credited") != "2" {
		t.Fatalf("it would be settled by %v", look)
	}
	lead.Post(path+"/settle", object{"version": r["version"], "mail": true}).Refused(422, "address_missing", "email")
	r = lead.Post(path+"/settle", object{"version": r["version"]}).JSON()
	note := lead.Get(fmt.Sprintf("/invoices/%d", id(r, "credit_id"))).JSON()
	if r["state"] != "settled" || note["total"] != "-48" || note["net"] != "-40" || note["return"] != r["number"] {
		t.Fatalf("settled, it is %v with %v", r["state"], note)
	}
	lead.Post(path+"/settle", object{"version": r["version"]}).Refused(409, "return_settled", "", r["credit"].(string))
	lead.Post(path+"/withdraw", object{"version": r["version"]}).Refused(409, "return_over", "")
	if text := paperText(t, lead, fmt.Sprintf("/invoices/%d/invoice.pdf", id(note, "id"))); !strings.Contains(text,
		"Credit note "+r["credit"].(string)) || !strings.Contains(text, "Returned with "+r["number"].(string)) {
		t.Errorf("the credit note says\n%s", text)
	}
	invoice := lead.Get("/invoices?site=1").JSONs()
	lead.Post(fmt.Sprintf("/invoices/%d/credit", id(lastOf(invoice, "shipment", number), "id")), object{"reason": "wrong address"}).
		Refused(409, "invoice_credited", "")
	// 2 of 9 are 22.2 per cent, by whatever they are told.
	for by, label := range map[string]string{"item": "HC-050, Hook clamp 50 mm", "customer": "The Lyrebird Theatre",
		"reason": "does not work"} {
		told := lead.Get("/returns-told?site=1&by=" + by).JSON()
		row := at(told, "rows", 0)
		if at(row, "label") != label || at(row, "returned") != "2" || at(row, "shipped") != "9" || at(row, "pct") != "22.2" {
			t.Errorf("by %s returns tell %v", by, row)
		}
	}
	if weeks := at(lead.Get("/returns-told?site=1&days=7").JSON(), "weeks").([]any); at(weeks[len(weeks)-1], "returned") != "2" {
		t.Errorf("by week returns tell %v", weeks)
	}
	if rows := lead.Get("/returns?site=1").Rows(); len(rows) != 1 || rows[0]["credit"] != r["credit"] {
		t.Errorf("the list of returns is %v", rows)
	}
	h.Whole(t)
}

// TestWhatWasNotInvoicedIsNotAnyMore returns two of four that wait for their invoice, and one after it.
func TestWhatWasNotInvoicedIsNotAnyMore(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 12)
	d := soldOnce(lead, world.Clamp, "4", false)
	all := func(quantity string) object {
		sold := lead.Get(fmt.Sprintf("/returnable?q=%s", d["number"])).JSONs()[0]
		r := lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Refused delivery"),
			"lines": []object{back(sold, quantity)}}).JSON()
		comeIn(lead, r, quantity).JSON()
		r = lead.Get(fmt.Sprintf("/returns/%d", id(r, "id"))).JSON()
		// Its kind gives money once it is received, though nothing is decided.
		if r["may_settle"] != true || r["decided"] != "0" {
			t.Fatalf("received, may it be settled: %v", r["may_settle"])
		}
		return lead.Post(fmt.Sprintf("/returns/%d/settle", id(r, "id")), object{"version": r["version"]}).JSON()
	}
	lead.Post(fmt.Sprintf("/shipments/%d/take-back", id(d, "id")), object{"reason": "by mistake"}).JSON()
	d = soldOnce(lead, world.Clamp, "4", false)
	if r := all("2"); r["credit"] != "" || r["settled_at"] == nil {
		t.Fatalf("nothing was invoiced, and it is settled with %v", r["credit"])
	}
	lead.Post(fmt.Sprintf("/shipments/%d/take-back", id(d, "id")), object{"reason": "by mistake"}).
		Refused(409, "goods_gone", "", "RC-")
	if b := lead.Post("/invoices", object{"shipment_ids": []any{d["id"]}}).JSONs()[0]; b["net"] != "40" {
		t.Fatalf("two of four at 20 are invoiced over %v", b["net"])
	}
	if r := all("1"); r["credit"] == "" {
		t.Fatal("what was invoiced is not credited")
	}
	h.Whole(t)
}

// TestTheSameUnitAgain returns a unit that does not work: only what went to the customer may come, and another unit is
// ordered by itself once it is in. No money moves.
func TestTheSameUnitAgain(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	bin := h.Bin(t, "A-02-1-A")
	h.StockUnits(t, world.Spot, bin, "RU-1", "RU-2", "RU-3", "RU-4")
	o := sellNow(lead, world.Spot, "2")
	round, rp := roundFor(lead, picker, id(o, "id"))
	stop := at(round, "stops", 0).(object)
	sscc, _ := blank(lead, picker, rp, id(o, "id"))
	picker.Post(rp+"/pick", object{"stop_id": stop["id"], "bin": stop["bin"], "item": "SP-150", "carton": sscc,
		"quantity": "2", "serials": []string{"RU-1", "RU-2"}}).JSON()
	lead.Post(rp+"/ship", object{"order_ids": []any{o["id"]}}).JSONs()
	sold := lead.Get("/returnable?q=ru-2").JSONs()[0]
	if fmt.Sprint(sold["serials"]) != "[RU-1 RU-2]" {
		t.Fatalf("may come back: %v", sold["serials"])
	}
	wish := func(serials ...string) object {
		return object{"site_id": world.Site, "kind_id": kindOf(lead, "Same again"),
			"lines": []object{back(sold, fmt.Sprint(len(serials)), "serials", serials)}}
	}
	lead.Post("/returns", wish("RU-3")).Refused(409, "wrong_serial", "lines[0].serials", "Serial RU-3 of SP-150 did not go to")
	r := lead.Post("/returns", wish("RU-2")).JSON()
	lead.Post("/returns", wish("RU-2")).Refused(409, "wrong_serial", "lines[0].serials", "is on another return")
	comeIn(lead, r, "1", "serials", []string{"RU-1"}).Refused(409, "wrong_serial", "lines[0].serials", "is not on RC-")
	r = lead.Get(fmt.Sprintf("/returns/%d", id(r, "id"))).JSON()
	comeIn(lead, r, "1", "serials", []string{"RU-2"}).JSON()
	path := fmt.Sprintf("/returns/%d", id(r, "id"))
	r = lead.Get(path).JSON()
	if r["replacement"] == "" || fmt.Sprint(at(r, "lines", 0, "here")) != "[RU-2]" {
		t.Fatalf("once it is in, the replacement is %v", r["replacement"])
	}
	lead.Post(path+"/settle", object{"version": r["version"]}).Refused(409, "return_settled", "", r["replacement"].(string))
	// Another unit goes to the same customer as any other order.
	again, ap := roundFor(lead, picker, id(r, "replacement_id"))
	stop = at(again, "stops", 0).(object)
	sscc, _ = blank(lead, picker, ap, id(r, "replacement_id"))
	picker.Post(ap+"/pick", object{"stop_id": stop["id"], "bin": stop["bin"], "item": "SP-150", "carton": sscc,
		"quantity": "1", "serials": []string{"RU-3"}}).JSON()
	lead.Post(ap+"/ship", object{"order_ids": []any{r["replacement_id"]}}).JSONs()
	lead.Post(path+"/decide", object{"version": r["version"], "line_id": at(r, "lines", 0, "id"), "fate": "quarantine",
		"quantity": "1", "serials": []string{"RU-2"}, "reason": "to be looked at"}).JSON()
	if r = lead.Get(path).JSON(); r["state"] != "settled" {
		t.Errorf("it is %v", r["state"])
	}
	if open := lead.Get("/invoices?site=1").JSONs(); len(open) != 0 {
		t.Errorf("money moved: %v", open)
	}
	h.Whole(t)
}

// TestARandomMonthOfReturnsAddsUp has shipments returned in parts, received, decided and settled in a random order, and
// holds the application against bare counting: returned is at most shipped, decided at most received, and what was
// credited is what was decided.
func TestARandomMonthOfReturnsAddsUp(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 24)
	d := soldOnce(lead, world.Clamp, "20", true)
	r := rand.New(rand.NewPCG(14, 1))
	type aReturn struct {
		id                           int64
		announced, received, decided int
		settled                      bool
	}
	var all []*aReturn
	kind, left, owed := kindOf(lead, "Credit"), 20, 0
	for range 60 {
		sold := lead.Get(fmt.Sprintf("/returnable?q=%s", d["number"])).JSONs()[0]
		if sold["returnable"] != fmt.Sprint(left) {
			t.Fatalf("%v may be returned, and by counting %d", sold["returnable"], left)
		}
		n := 1 + r.IntN(4)
		if len(all) == 0 || r.IntN(4) == 0 {
			a := lead.Post("/returns", object{"site_id": world.Site, "kind_id": kind, "lines": []object{back(sold, fmt.Sprint(n))}})
			if n > left {
				a.Refused(409, "over_returnable", "lines[0].quantity")
				continue
			}
			all, left = append(all, &aReturn{id: id(a.JSON(), "id"), announced: n}), left-n
			continue
		}
		x := all[r.IntN(len(all))]
		path := fmt.Sprintf("/returns/%d", x.id)
		now := lead.Get(path).JSON()
		switch r.IntN(3) {
		case 0:
			if x.received == x.announced {
				continue
			}
			n = min(n, x.announced-x.received)
			comeIn(lead, now, fmt.Sprint(n)).JSON()
			x.received += n
		case 1:
			n = max(1, min(n, x.received-x.decided))
			a := lead.Post(path+"/decide", object{"version": now["version"], "line_id": at(now, "lines", 0, "id"),
				"fate": []string{"stock", "quarantine", "damaged", "scrap"}[r.IntN(4)], "quantity": fmt.Sprint(n), "reason": "as it looks"})
			if x.received == x.decided {
				a.Refused(409, "over_wanted", "quantity")
				continue
			}
			a.JSON()
			x.decided += n
		default:
			a := lead.Post(path+"/settle", object{"version": now["version"]})
			switch {
			case x.settled:
				a.Refused(409, "return_settled", "")
			case x.decided < x.announced:
				a.Refused(409, "return_open", "")
			default:
				a.JSON()
				x.settled, owed = true, owed+20*x.decided
			}
		}
	}
	if total := credited(t, lead); total != float64(owed) || owed == 0 {
		t.Errorf("credited are %v, and by counting %d", total, owed)
	}
	h.Whole(t)
}

// TestAUnitIsRepairedOrGoesBackToItsSupplier has one unit repaired and sent to the same customer again, the very one,
// and another sent back to who supplied it, with the credit that is expected.
func TestAUnitIsRepairedOrGoesBackToItsSupplier(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	bin := h.Bin(t, "A-02-1-A")
	h.StockUnits(t, world.Spot, bin, "RP-1", "RP-2", "RP-3")
	send := func(order any, serials ...string) {
		t.Helper()
		round, rp := roundFor(lead, picker, int64(order.(float64)))
		sscc, _ := blank(lead, picker, rp, int64(order.(float64)))
		stop := at(round, "stops", 0).(object)
		picker.Post(rp+"/pick", object{"stop_id": stop["id"], "bin": stop["bin"], "item": "SP-150", "carton": sscc,
			"quantity": fmt.Sprint(len(serials)), "serials": serials}).JSON()
		lead.Post(rp+"/ship", object{"order_ids": []any{order}}).JSONs()
	}
	o := sellNow(lead, world.Spot, "2")
	send(o["id"], "RP-1", "RP-2")
	sold := lead.Get("/returnable?q=rp-1").JSONs()[0]
	r := lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Repair"), "lines": []object{
		back(sold, "2", "serials", []string{"RP-1", "RP-2"})}}).JSON()
	path := fmt.Sprintf("/returns/%d", id(r, "id"))
	comeIn(lead, r, "2", "serials", []string{"RP-1", "RP-2"}).JSON()
	decide := func(fate, serial string, more ...any) world.Answer {
		in := object{"version": lead.Get(path).JSON()["version"], "line_id": at(r, "lines", 0, "id"), "fate": fate, "quantity": "1",
			"serials": []string{serial}, "reason": "the shutter sticks"}
		for i := 0; i < len(more); i += 2 {
			in[more[i].(string)] = more[i+1]
		}
		return lead.Post(path+"/decide", in)
	}
	decide("supplier", "RP-2").Refused(422, "supplier_unsaid", "supplier_id", "Nobody is known to have supplied SP-150")
	now := decide("repair", "RP-1").JSON()
	repair := at(now, "lines", 0, "decisions", 0)
	send2 := object{"version": now["version"], "decision_id": at(repair, "id")}
	now = lead.Post(path+"/repaired", send2).JSON()
	lead.Post(path+"/repaired", object{"version": now["version"], "decision_id": at(repair, "id")}).Refused(409, "return_over", "",
		"they went with RP-")
	now = decide("supplier", "RP-2", "supplier_id", world.Supplier).JSON()
	if credit := at(now, "lines", 0, "decisions", 1, "value"); credit == "0" {
		t.Errorf("a credit of %v is expected of the supplier", credit)
	}
	// The supplier credits less than it cost, which is asked about; and once.
	due := lead.Get("/supplier-credits?site=1&open=true&sort=since").Rows()
	if len(due) != 1 || due[0]["supplier"] != "Tarn & Tackle Rigging" || due[0]["expected"] == "0" {
		t.Fatalf("suppliers are to credit %v", due)
	}
	credit := fmt.Sprintf("/supplier-credits/%d", id(due[0], "id"))
	lead.Post(credit, object{"number": " ", "amount": "1"}).Refused(422, "invoice_number_missing", "number")
	lead.Post(credit, object{"number": "SC-1", "amount": "1"}).Refused(409, "credit_differs", "amount", "credits 1.00")
	noted := lead.Post(credit, object{"number": "SC-1", "amount": "1", "sure": []string{"credit_differs"}}).JSON()
	lead.Post(credit, object{"number": "SC-2", "amount": "1"}).Refused(409, "credit_known", "", "with SC-1 already")
	if noted["number"] != "SC-1" || len(lead.Get("/supplier-credits?site=1&open=true&sort=since").Rows()) != 0 ||
		at(lead.Get(path).JSON(), "lines", 0, "decisions", 1, "credit_number") != "SC-1" {
		t.Errorf("noted is %v", noted)
	}
	// Both go as any order, and no other unit goes for them.
	for i, unit := range []string{"RP-1", "RP-2"} {
		number := at(now, "lines", 0, "decisions", i, "outbound").(string)
		found := lead.Get("/scan?site=1&text=" + number).JSON()["found"].([]any)
		if len(found) != 1 || at(found[0], "kind") != "customer_return" || at(found[0], "id") != now["id"] {
			t.Fatalf("%s is read as %v", number, found)
		}
		var order int64
		if err := h.Owner.Get(&order, `SELECT id FROM outbound_orders WHERE number = $1`, number); err != nil {
			t.Fatal(err)
		}
		send(float64(order), unit)
	}
	var where []string
	if err := h.Owner.Select(&where, `
		SELECT (SELECT p.kind FROM moves m JOIN locations p ON p.id = m.to_location WHERE m.serial_id = s.id ORDER BY m.id DESC LIMIT 1)
		  FROM serials s WHERE s.code LIKE 'RP-%' ORDER BY s.code`); err != nil || fmt.Sprint(where) != "[customer supplier bin]" {
		t.Errorf("the units are with %v, %v", where, err)
	}
	h.Whole(t)
}
