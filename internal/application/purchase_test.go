package application_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/test/world"
)

// TestAnOrderIsApprovedAboveALimit writes orders above and below what may be bought
// unasked.
func TestAnOrderIsApprovedAboveALimit(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	if _, err := h.Owner.Exec(`UPDATE sites SET approve_above = 1000 WHERE id = 1`); err != nil {
		t.Fatal(err)
	}
	lead, office := world.SignOn(t, base, "lead"), world.SignOn(t, base, "office")
	body := func(clamps string, send bool) object {
		return object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": soon, "send": send,
			"freight": "62.50",
			"lines":   []object{{"item_id": world.Clamp, "quantity": clamps}}}
	}
	// 50 at 18.75 are 937.50, and 62.50 freight: 1,000 exactly passes.
	if o := office.Post("/purchase-orders", body("50", true)).JSON(); o["state"] != "placed" || o["value"] != "1000" {
		t.Errorf("at the limit: %v", o)
	}
	office.Post("/purchase-orders", body("51", true)).Refused(409, "approval_missing", "",
		"comes to 1018.75, above 1000")
	o := office.Post("/purchase-orders", body("51", false)).JSON()
	path := fmt.Sprintf("/purchase-orders/%d", id(o, "id"))
	if n := len(office.Get("/purchase-orders?site=1&list=approve").JSON()["orders"].([]any)); n != 1 {
		t.Errorf("%d orders are to be approved", n)
	}
	office.Post(path+"/send-to-supplier", object{"version": 1}).Refused(409, "approval_missing", "")
	office.Post(path+"/approve", object{"version": 1}).Refused(403, "role", "")
	o = lead.Post(path+"/approve", object{"version": 1}).JSON()
	lead.Post(path+"/approve", object{"version": o["version"]}).Refused(409, "order_approved", "")
	o = office.Post(path+"/send-to-supplier", object{"version": o["version"]}).JSON()
	if o["approved_by"] != "Some lead" || o["state"] != "placed" {
		t.Errorf("approved: %v", o)
	}
	// Less may be written without asking again; more may not.
	amend := func(q string) object {
		return object{"version": o["version"], "expected_on": soon, "freight": "0",
			"lines": []object{{"id": at(o, "lines", 0, "id"), "item_id": world.Clamp, "quantity": q, "price": "18.75"}}}
	}
	o = office.Post(path+"/amend", amend("54")).JSON()
	if o["approved_by"] != "Some lead" || o["value"] != "1012.5" {
		t.Errorf("for less: %v", o)
	}
	office.Post(path+"/amend", amend("90")).Refused(409, "approval_missing", "", "1687.5")
	if o = lead.Post(path+"/amend", amend("90")).JSON(); o["approved_by"] != "Some lead" || o["state"] != "placed" {
		t.Errorf("a lead changes it: %v", o)
	}
	// What a lead sends is approved by that: others may change its date.
	mine := lead.Post("/purchase-orders", body("80", true)).JSON()
	change := object{"version": mine["version"], "expected_on": soon, "freight": "62.50",
		"lines": []object{{"id": at(mine, "lines", 0, "id"), "item_id": world.Clamp, "quantity": "80"}}}
	if o = office.Post(fmt.Sprintf("/purchase-orders/%d/amend", id(mine, "id")),
		change).JSON(); mine["approved_by"] != "Some lead" || o["approved_by"] != "Some lead" {
		t.Errorf("placed by a lead: %v", o)
	}
}

// TestAnOrderIsChangedAsFarAsNothingCame amends lines, and lets states follow.
func TestAnOrderIsChangedAsFarAsNothingCame(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	o, arrival := order(t, c, object{"freight": "30", "freight_by": "weight"},
		object{"item_id": world.Clamp, "quantity": "20"}, object{"item_id": world.Heavy, "quantity": "5"},
		object{"text": "Freight of the crane", "quantity": "1", "price": "80"})
	path := fmt.Sprintf("/purchase-orders/%d", id(o, "id"))
	// 30 by weight over 9 kg and 65 kg: 3.65 and 26.35; a non-stock line bears none.
	if at(o, "lines", 0, "freight", "share") != "3.65" || at(o, "lines", 1, "freight", "share") != "26.35" ||
		at(o, "lines", 2, "freight", "share") != "0" || at(o, "lines", 1, "landed") != "29.27" {
		t.Fatalf("freight: %v", o["lines"])
	}
	book := func(i int, q string) object {
		return object{"version": arrival["version"],
			"lines": []object{{"line_id": at(arrival, "lines", i, "id"), "quantity": q}}}
	}
	// A non-stock line is no item's, where figures of all are calculated.
	if _, err := h.Owner.Exec(`UPDATE item_sites SET target = 500, reorder_point = 400`); err != nil {
		t.Fatal(err)
	}
	if s := c.Get("/suggestions?site=1").JSONs(); len(s) != 1 {
		t.Errorf("%d suggestions", len(s))
	}
	bp := fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id"))
	c.Post(bp, book(2, "1")).Refused(422, "line_unknown", "lines[0].line_id")
	arrival = c.Post(bp, book(1, "2")).JSON()
	var cost string
	if err := h.Owner.Get(&cost, `
		SELECT unit_cost::text FROM moves ORDER BY id DESC LIMIT 1`); err != nil || cost != "29.270000" {
		t.Errorf("the move's cost is %s (%v)", cost, err)
	}
	o = c.Get(path).JSON()
	keep := func(i int, more object) object {
		l := at(o, "lines", i).(object)
		out := object{"id": l["id"], "item_id": l["item_id"], "text": map[bool]any{true: l["description"],
			false: ""}[id(l, "item_id") == 0], "quantity": l["quantity"], "price": l["price"]}
		for k, v := range more {
			out[k] = v
		}
		return out
	}
	remove := func(i int, lines ...object) world.Answer {
		gone := []any{}
		if i >= 0 {
			gone = append(gone, at(o, "lines", i, "id"))
		}
		return c.Post(path+"/amend", object{"version": o["version"], "expected_on": soon,
			"carrier": "Brook & Daughter", "terms": "14 days", "freight": "30", "freight_by": "weight",
			"lines": append([]object{}, lines...), "remove": gone})
	}
	amend := func(lines ...object) world.Answer { return remove(-1, lines...) }
	// What a request does not name stays: it was deleted once, when a form shipped the lines that
	// it had loaded so far.
	if o = amend(keep(0, nil)).JSON(); len(o["lines"].([]any)) != 3 || o["terms"] != "14 days" {
		t.Fatalf("lines that were not named are gone: %v", o["lines"])
	}
	c.Post(path+"/amend", object{"version": o["version"], "expected_on": soon,
		"remove": []any{at(o, "lines", 0, "id"), at(o, "lines", 2, "id"),
			999}}).Refused(422, "line_unknown", "remove[2]")
	remove(0, keep(0, nil)).Refused(422, "line_twice", "remove[0]", "both changed and removed")
	amend(keep(0, nil), keep(1, object{"quantity": "1"})).Refused(422, "below_received", "lines[1].quantity",
		"2 of SW-130 came already")
	remove(1, keep(0, nil)).Refused(409, "line_stands", "remove[0]", "Line 2 (SW-130)", "2 came on it")
	amend(keep(0, object{"item_id": world.Spot}), keep(1, nil)).Refused(422, "line_item_stands", "lines[0].item_id")
	amend(keep(0, nil), keep(0, nil), keep(1, nil)).Refused(422, "line_twice", "lines[1].id")
	amend(keep(0, nil), keep(1, nil), object{"quantity": "1"}).Refused(422, "item_unknown", "lines[2].item_id",
		"such as freight")
	amend(keep(0, object{"needed_on": "soon"}), keep(1, nil)).Refused(422, "date_malformed", "lines[0].needed_on")
	// Without the first line, and with the second for what came: the order is received.
	o = remove(0, keep(1, object{"quantity": "2", "needed_on": soon}), keep(2, nil)).JSON()
	if o["state"] != "received" || o["terms"] != "14 days" || len(o["lines"].([]any)) != 2 ||
		at(o, "lines", 0, "needed_on") != soon {
		t.Fatalf("changed: %v", o)
	}
	amend(keep(0, nil)).Refused(409, "order_closed", "", "is received")
	// The freight is invoiced though nothing of it was received; a lead lets a price pass.
	invoice := func(line int, q, price, reason string) object {
		return object{"number": "F-" + q + price, "invoiced_on": day(0),
			"lines": []object{{"line_id": at(o, "lines", line, "id"), "quantity": q, "price": price, "reason": reason}}}
	}
	office := world.SignOn(t, base, "office")
	office.Post(path+"/invoices", invoice(1, "2", "80", "")).Refused(422, "invoice_over_received",
		"lines[0].quantity", "Freight of the crane")
	office.Post(path+"/invoices", invoice(1, "1", "95", "")).Refused(422, "invoice_price", "lines[0].price",
		"have a lead let it pass")
	office.Post(path+"/invoices", invoice(1, "1", "95", "Agreed by phone")).Refused(403, "lead_decides",
		"lines[0].reason")
	c.Post(path+"/invoices", invoice(1, "1", "95", "Agreed by phone")).JSON()
	c.Post(path+"/invoices", invoice(0, "3", "1", "Agreed by phone")).Refused(422, "invoice_over_received",
		"lines[0].quantity")
	h.Whole(t)
}

// TestRequestsAndQuotesBecomeOrders begins an order on the floor and with a supplier.
func TestRequestsAndQuotesBecomeOrders(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	if _, err := h.Owner.Exec(`
		UPDATE parties SET terms = '30 days net', carrier = 'Northgate Vans' WHERE id = 1; UPDATE items
		   SET bought = false WHERE id = 3; UPDATE items SET stocked = false WHERE id = 6; UPDATE item_sites
		  SET allowed = false WHERE item_id = 1;
		INSERT INTO item_sites (item_id, site_id, allowed) VALUES (4, 2, false)`); err != nil {
		t.Fatal(err)
	}
	wish := func(item int32, more object) object {
		b := object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": soon, "send": true,
			"lines": []object{{"item_id": item, "quantity": "2"}}}
		for k, v := range more {
			b[k] = v
		}
		return b
	}
	// What an item is for, and where, holds.
	lead.Post("/purchase-orders", wish(world.Cloth, nil)).Refused(422, "item_not_bought", "lines[0].item_id", "CL-BLK")
	lead.Post("/purchase-orders", wish(world.Headset, nil)).Refused(422, "item_not_stocked", "lines[0].item_id",
		"HS-001")
	lead.Post("/purchase-orders", wish(world.Clamp, nil)).Refused(422, "item_not_here", "lines[0].item_id",
		"not allowed at Test House")
	lead.Post("/purchase-orders", wish(world.Heavy, object{"site_id": world.OtherSite})).Refused(422, "item_not_here",
		"lines[0].item_id", "Other House")

	picker.Post("/purchase-orders", wish(world.Spot, nil)).Refused(403, "role", "")
	r := picker.Post("/purchase-requests", wish(world.Spot, nil)).JSON()
	if r["state"] != "draft" || r["began_as"] != "request" || r["terms"] != "30 days net" ||
		r["carrier"] != "Northgate Vans" {
		t.Fatalf("asked for: %v", r)
	}
	if n := len(lead.Get("/purchase-orders?site=1&list=asked").JSON()["orders"].([]any)); n != 1 {
		t.Errorf("%d are asked for", n)
	}
	path := fmt.Sprintf("/purchase-orders/%d", id(r, "id"))
	lead.Post(path+"/mail", nil).Refused(409, "order_not_placed", "", "is a request")
	if o := lead.Post(path+"/send-to-supplier", object{"version": 1}).JSON(); o["state"] != "placed" {
		t.Error("the request is not placed")
	}
	quote := func(until string) object {
		return lead.Post("/purchase-orders",
			wish(world.Spot, object{"began_as": "quote", "quote": "Q 71", "quote_until": until, "send": false})).JSON()
	}
	old, good := quote(time.Now().AddDate(0, 0, -2).Format(time.DateOnly)), quote(time.Now().AddDate(0, 0,
		2).Format(time.DateOnly))
	lead.Post(fmt.Sprintf("/purchase-orders/%d/send-to-supplier", id(old, "id")), object{"version": 1}).Refused(409,
		"quote_over", "", "quote Q 71 stood until")
	lead.Post(fmt.Sprintf("/purchase-orders/%d/send-to-supplier", id(good, "id")), object{"version": 1}).JSON()
	only := lead.Post("/purchase-orders",
		wish(world.Spot,
			object{"send": false, "lines": []object{{"text": "A service", "quantity": "1", "price": "5"}}})).JSON()
	lead.Post(fmt.Sprintf("/purchase-orders/%d/send-to-supplier", id(only, "id")),
		object{"version": 1}).Refused(409+13, "lines_missing", "lines")
}

// TestAnOrderIsMailedOnceTheHostTakesIt mails an order's paper to hosts that fail, and
// reads the paper that went out.
func TestAnOrderIsMailedOnceTheHostTakesIt(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	o, _ := order(t, c, object{"freight": "12.50", "terms": "30 days net"},
		object{"item_id": world.Clamp, "pack_id": 2, "quantity": "4"}, object{"text": "Pallet exchange",
			"quantity": "1", "price": "9.9"})
	mail := fmt.Sprintf("/purchase-orders/%d/mail", id(o, "id"))
	c.Post(mail, nil).Refused(422, "address_missing", "email", "no address")
	if _, err := h.Owner.Exec(`UPDATE parties SET email = 'orders@example' WHERE id = 1`); err != nil {
		t.Fatal(err)
	}
	tell := func(does string) { c.Post("/outbox/tell", object{"site_id": world.Site, "does": does}).JSON() }
	read := outbox(c)
	for i, x := range []struct{ does, says string }{{"silent", "does not answer"}, {"refuses", "550"}} {
		tell(x.does)
		c.Post(mail, nil).JSON()
		c.Post("/outbox/again", object{"site_id": world.Site}).JSON()
		// What was asked first is tried first; what is behind it waits.
		box := eventually(t, read, func(o object) bool {
			return len(o["waiting"].([]any)) == i+1 && strings.Contains(at(o, "waiting", 0, "said").(string), x.says)
		})
		if len(box["sent"].([]any)) != 0 {
			t.Errorf("%s: %v", x.does, box)
		}
	}
	discard := fmt.Sprintf("/outbox/%d/discard", id(read(), "waiting", 1, "id"))
	c.Post(discard, object{"site_id": world.Site}).JSON()
	c.Post(discard, object{"site_id": world.Site}).Refused(404, "unknown", "")
	tell("takes")
	box := eventually(t, read, empty("waiting"))
	if at(box, "sent", 1, "state") != "done" || at(box, "sent", 0, "state") != "discarded" {
		t.Fatalf("shipped: %v", box)
	}
	// Sent once, it is not sent again.
	if c.Post("/outbox/again", object{"site_id": world.Site}).JSON(); len(read()["sent"].([]any)) != 2 {
		t.Errorf("sent again: %v", read()["sent"])
	}
	file := filepath.Join(t.TempDir(), "order.pdf")
	if err := os.WriteFile(file, c.Get(fmt.Sprintf("/outbox/%d/paper.pdf", id(box, "sent", 1, "id"))).Body,
		0o600); err != nil {
		t.Fatal(err)
	}
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatalf("pdftotext (apt-get install poppler-utils): %v", err)
	}
	for _, words := range []string{"Purchase order " + at(o, "number").(string), "HC-050", "4 × box of 12",
		"at 18.75: 900.00", "Pallet exchange", "Freight: 12.50", "Total: 922.40", "30 days net", "Tarn & Tackle"} {
		if !strings.Contains(string(text), words) {
			t.Errorf("the paper does not say %q:\n%s", words, text)
		}
	}
}

// TestListsAreNarrowedSavedAndExported reads one list three ways.
func TestListsAreNarrowedSavedAndExported(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c, other := world.SignOn(t, base, "lead"), world.SignOn(t, base, "office")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 6)
	first, _ := order(t, c, object{"note": "semicolons; \"quotes\", commas"},
		object{"item_id": world.Clamp, "quantity": "5"})
	order(t, c, nil, object{"item_id": world.Heavy, "quantity": "5"})
	count := func(query string) int {
		return len(c.Get("/purchase-orders?site=1&list=all" + query).JSON()["orders"].([]any))
	}
	number := at(first, "number").(string)
	if count("") != 2 || count("&q=hc-0") != 1 || count("&q="+strings.ToLower(number)) != 1 || count("&q=%25") != 0 ||
		count("&supplier=1") != 2 || count("&supplier=2") != 0 {
		t.Error("the list is not narrowed as asked")
	}
	table := func(path string) [][]string {
		rows, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(c.Get(path).Body,
			[]byte("\xef\xbb\xbf")))).ReadAll()
		if err != nil {
			t.Fatal(err)
		}
		return rows
	}
	if rows := table("/purchase-orders/export?site=1&list=all&q=hc-0"); len(rows) != 2 || rows[1][0] != number ||
		rows[1][12] != "semicolons; \"quotes\", commas" || rows[1][6] != "93.75" {
		t.Errorf("exported %v", rows)
	}
	if rows := table("/stock/export?site=1"); len(rows) != 2 || rows[1][0] != "A-01-1-A" || rows[1][8] != "6" {
		t.Errorf("stock: %v", rows)
	}
	if rows := table(fmt.Sprintf("/items/%d/trail/export?site=1", world.Clamp)); len(rows) != 2 ||
		rows[1][9] != "6" || rows[1][11] != "6" {
		t.Errorf("trail: %v", rows)
	}
	if x := c.Get("/stock/export?site=1&format=xlsx").Body; !bytes.HasPrefix(x, []byte("PK")) {
		t.Error("no XLSX comes")
	}
	view := func(name string, settings object) object { return object{"name": name, "settings": settings} }
	c.Post("/views/purchase-orders/save", view(" ", object{})).Refused(422, "name_missing", "name")
	c.Post("/views/purchase-orders/save", view("Mine", object{"list": "late"}))
	c.Post("/views/purchase-orders/save", view("Mine", object{"list": "week"}))
	var kept, theirs []object
	c.Post("/views/purchase-orders/save", view("another", object{"q": "HC"})).Into(&kept)
	other.Get("/views/purchase-orders").Into(&theirs)
	if len(kept) != 2 || at(kept[1], "settings", "list") != "week" || len(theirs) != 0 {
		t.Errorf("kept %v, another person's %v", kept, theirs)
	}
	c.Post("/views/purchase-orders/drop", object{"name": "another"}).Into(&kept)
	if len(kept) != 1 {
		t.Errorf("dropped: %v", kept)
	}
}

// TestAQuoteIsRenewedAndADraftGoesToAnotherSupplier changes what a draft may still change, and
// finds an arrival by the number of its delivery note.
func TestAQuoteIsRenewedAndADraftGoesToAnotherSupplier(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	c.Post("/catalog/suppliers/import", object{"site_id": world.Site, "rows": []object{{"code": "OTH",
		"name": "Other Works", "terms": "10 days"}}}).JSON()
	var other int64
	if err := h.Owner.Get(&other, `SELECT id FROM parties WHERE code = 'OTH'`); err != nil {
		t.Fatal(err)
	}
	o := c.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": 1, "expected_on": soon,
		"began_as": "quote", "quote": "Q-1", "quote_until": day(-1),
		"lines": []object{{"item_id": world.Clamp, "quantity": "5", "price": "3"}}}).JSON()
	path := fmt.Sprintf("/purchase-orders/%d", id(o, "id"))
	c.Post(path+"/send-to-supplier", object{"version": o["version"]}).Refused(409, "quote_over", "", "Q-1")
	change := object{"version": o["version"], "expected_on": soon, "supplier_id": other, "quote": "Q-2",
		"quote_until": day(9), "lines": []object{{"id": at(o, "lines", 0, "id"), "item_id": world.Clamp, "quantity": "5",
			"price": "2.5"}}}
	c.Post(path+"/amend", object{"version": o["version"], "expected_on": soon,
		"supplier_id": 9999}).Refused(422, "supplier_unknown", "supplier_id")
	o = c.Post(path+"/amend", change).JSON()
	if o["supplier"] != "Other Works" || o["quote"] != "Q-2" || o["quote_until"] != day(9) || o["value"] != "12.5" {
		t.Fatalf("renewed with another: %v", o)
	}
	o = c.Post(path+"/send-to-supplier", object{"version": o["version"]}).JSON()
	change["version"], change["supplier_id"] = o["version"], world.Supplier
	c.Post(path+"/amend", change).Refused(409, "order_placed", "supplier_id", "was sent to Other Works")

	arrival := c.Post("/arrivals", object{"order_ids": []int64{id(o, "id")}, "dock_id": world.Dock}).JSON()
	a := c.Post(fmt.Sprintf("/arrivals/%d/delivery-note", id(arrival, "id")), object{"version": arrival["version"],
		"number": " LS 88/17 "}).JSON()
	if a["delivery_note"] != "LS 88/17" || a["source"] != "Other Works" {
		t.Fatalf("the arrival is %v", a)
	}
	if found := c.Get("/scan?site=1&text=ls+88/17").JSON(); at(found, "found", 0, "code") != arrival["number"] {
		t.Errorf("its delivery note finds %v", found["found"])
	}
	h.Whole(t)
}

// TestSuppliersAreAskedAndTheirAnswersCompared asks two suppliers for a request: their answers stand
// beside each other line by line, and the chosen one becomes the order while the others are closed.
func TestSuppliersAreAskedAndTheirAnswersCompared(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	office, receiver := world.SignOn(t, base, "office"), world.SignOn(t, base, "receiver")
	if _, err := h.Owner.Exec(`
		WITH l AS (INSERT INTO locations (kind, code) VALUES ('supplier', 'SU2') RETURNING id)
		INSERT INTO parties (kind, code, name, location_id) SELECT 'supplier', 'SU2', 'Quarry Lane Rigging', id FROM l`); err != nil {
		t.Fatal(err)
	}
	other := int32(office.Get("/parties?kind=supplier&q=quarry").JSONs()[0]["id"].(float64))
	request := receiver.Post("/purchase-requests", object{"supplier_id": world.Supplier, "site_id": world.Site,
		"expected_on": soon, "lines": []object{{"item_id": world.Clamp, "pack_id": 2, "quantity": "3"},
			{"item_id": world.Heavy, "quantity": "5"}, {"text": "Pallet", "quantity": "1", "price": "0"}}}).JSON()
	path := fmt.Sprintf("/purchase-orders/%d", id(request, "id"))
	ask := object{"supplier_ids": []int32{world.Supplier, other}}
	receiver.Post(path+"/ask", ask).Refused(403, "role", "")
	asked := office.Post(path+"/ask", ask).JSONs()
	if again := office.Post(path+"/ask", ask).JSONs(); len(asked) != 2 || len(again) != 2 ||
		at(asked[1], "supplier") != "Quarry Lane Rigging" || at(asked[0], "lines", 0, "quantity") != "36" ||
		at(asked[0], "lines", 0, "least") != false {
		t.Fatalf("asked %v, again %v", asked, again)
	}
	office.Post(path+"/choose", object{"quote_id": asked[0]["id"]}).Refused(409, "quote_missing", "quote_id", "has not answered")
	answer := func(a map[string]any, number, clamps, weights string) {
		p := fmt.Sprintf("/purchase-orders/%v", a["id"])
		q := office.Get(p).JSON()
		office.Post(p+"/amend", object{"version": q["version"], "expected_on": soon, "quote": number, "quote_until": day(30),
			"lines": []object{{"id": at(q, "lines", 0, "id"), "item_id": world.Clamp, "quantity": "36", "price": clamps},
				{"id": at(q, "lines", 1, "id"), "item_id": world.Heavy, "quantity": "5", "price": weights}}}).JSON()
	}
	answer(asked[0], "Q-1", "18", "25")
	answer(asked[1], "Q-2", "19", "24")
	answers := office.Get(path + "/answers").JSONs()
	least := fmt.Sprint(at(answers[0], "lines", 0, "least"), at(answers[0], "lines", 1, "least"),
		at(answers[1], "lines", 0, "least"), at(answers[1], "lines", 1, "least"))
	if least != "true false false true" || answers[0]["value"] != "773" || answers[1]["value"] != "804" {
		t.Fatalf("compared: %v", answers)
	}
	office.Post(path+"/choose", object{"quote_id": id(request, "id")}).Refused(404, "unknown", "")
	first := office.Get(fmt.Sprintf("/purchase-orders/%d", id(answers[0], "id"))).JSON()
	office.Post(fmt.Sprintf("/purchase-orders/%d/amend", id(first, "id")), object{"version": first["version"],
		"expected_on": soon, "supplier_id": answers[1]["supplier_id"], "lines": []object{{"id": at(first, "lines", 0, "id"), "item_id": world.Clamp,
			"quantity": "36", "price": "18"}}}).Refused(409, "supplier_asked", "supplier_id", "is asked already, with P-")
	order := office.Post(path+"/choose", object{"quote_id": answers[1]["id"]}).JSON()
	if order["state"] != "placed" || order["supplier"] != "Quarry Lane Rigging" || order["quote"] != "Q-2" {
		t.Fatalf("ordered: %v", order)
	}
	for _, p := range []string{path, fmt.Sprintf("/purchase-orders/%v", answers[0]["id"])} {
		if o := office.Get(p).JSON(); o["state"] != "closed" {
			t.Errorf("%v is %v", o["number"], o["state"])
		}
	}
	office.Post(path+"/choose", object{"quote_id": answers[0]["id"]}).Refused(409, "no_request", "", "is closed")
	office.Post(path+"/ask", ask).Refused(409, "no_request", "")
}
