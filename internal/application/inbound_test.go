package application_test

import (
	"fmt"
	"net/url"
	"slices"
	"testing"
	"time"

	"lanternrow/internal/test/world"
)

// allow sets allowances of 5 % and 5 % on clamps, a smallest life on arrival for fluid,
// and 2 % on the supplier's prices.
func allow(t *testing.T, h *world.House) {
	t.Helper()
	if _, err := h.Owner.Exec(`
		UPDATE items SET short_pct = 5, over_pct = 5 WHERE id = 1; UPDATE items SET life_in = 90
		 WHERE id = 2; UPDATE parties SET price_pct = 2 WHERE id = 1`); err != nil {
		t.Fatal(err)
	}
}

func line(v any, i int, name string) any { return at(v, "lines", i, name) }

func TestAPartDeliveryWithAllowancesAndLots(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	allow(t, h)
	lead, receiver := world.SignOn(t, base, "lead"), world.SignOn(t, base, "receiver")
	order, arrival := buy(t, lead, "100", "10")
	clamps, fluid := id(arrival, "lines", 0, "id"), id(arrival, "lines", 1, "id")
	path := fmt.Sprintf("/arrivals/%d", id(arrival, "id"))
	if line(arrival, 0, "least") != "95" || line(arrival, 0, "most") != "105" {
		t.Fatalf("the line says %v", at(arrival, "lines", 0))
	}
	book := func(c *world.Client, a object, l object) world.Answer {
		return c.Post(path+"/receive", object{"version": a["version"], "lines": []object{l}})
	}
	// A first part of 60: 40 are open, since 60 is less than 95.
	preview := receiver.Post(path+"/receive/preview",
		object{"version": 1, "lines": []object{{"line_id": clamps, "quantity": "60"}}}).JSON()
	if got := at(preview, "changes", 2, "after"); got != "60 of 100, 40 open" {
		t.Errorf("before and after says %q", got)
	}
	arrival = book(receiver, arrival, object{"line_id": clamps, "quantity": "60"}).JSON()
	if at(lead.Get(fmt.Sprintf("/purchase-orders/%d", id(order, "id"))).JSON(), "state") != "partly_received" {
		t.Error("the order is not part in")
	}
	// 46 more make 106: refused, and the most that may come is named; earlier receipts count.
	over := object{"line_id": clamps, "quantity": "46"}
	book(receiver, arrival, over).Refused(422, "over_allowance", "lines[0].quantity", "at most 45 may still come",
		"60 already in")
	over["reason"] = "They shipped a whole pallet"
	book(receiver, arrival, over).Refused(403, "lead_decides", "lines[0].reason", "Only a lead", "at most 45")
	over["reason"] = "ok"
	book(lead, arrival, over).Refused(422, "reason_short", "lines[0].reason", "stays in the trail")
	if h.Holds(t, world.Dock, world.Clamp) != "60" {
		t.Fatal("a refusal received something in")
	}
	over["reason"] = "They shipped a whole pallet"
	arrival = book(lead, arrival, over).JSON()
	if line(arrival, 0, "closed") != true || line(arrival, 0, "received") != "106" ||
		line(arrival, 0, "cancelled") != "0" {
		t.Fatalf("the line is left as %v", at(arrival, "lines", 0))
	}
	book(lead, arrival, object{"line_id": clamps, "quantity": "1"}).Refused(422, "line_closed", "lines[0].quantity",
		"106 of 100")
	trail := lead.Get(fmt.Sprintf("/items/%d/trail?site=1", world.Clamp)).JSON()
	if at(trail, "lines", 0, "note") != at(order, "number").(string)+", accepted: They shipped a whole pallet" ||
		at(trail, "lines", 0, "person") != "Some lead" {
		t.Errorf("the trail says %v", at(trail, "lines", 0))
	}

	// Fluid comes in two lots; one is too short-lived and asks for a decision.
	lot := func(code string, days int, q string) object {
		return object{"code": code, "expires_on": time.Now().UTC().AddDate(0, 0, days).Format(time.DateOnly),
			"quantity": q}
	}
	lots := object{"line_id": fluid, "quantity": "10", "lots": []object{lot("L1", 400, "6"), lot("L2", 30, "4")}}
	book(receiver, arrival, lots).Refused(422, "short_lived", "lines[0].lots[1].expires_on", "30 days left",
		"at least 90")
	gone := object{"line_id": fluid, "quantity": "10", "lots": []object{lot("L1", 400, "9"), lot("L0", -2, "1")}}
	book(receiver, arrival, gone).Refused(422, "lot_expired", "lines[0].lots[1].expires_on", "have a lead accept it")
	gone["reason"] = "For the smoke test in the yard"
	book(receiver, arrival, gone).Refused(403, "lead_decides", "lines[0].reason")
	lead.Post(path+"/receive/preview", object{"version": arrival["version"], "lines": []object{gone}}).JSON()
	lots["reason"] = "Needed for Friday's show"
	arrival = book(lead, arrival, lots).JSON()
	if at(arrival, "state") != "done" || at(lead.Get(fmt.Sprintf("/purchase-orders/%d", id(order, "id"))).JSON(),
		"state") != "received" {
		t.Errorf("all lines are closed, and the arrival is %v", at(arrival, "state"))
	}
	h.Whole(t)
}

func TestAShortLineClosesAndSaysWhatIsCancelled(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	allow(t, h)
	c := world.SignOn(t, base, "lead")
	for _, x := range []struct {
		here, after string
		onOrder     string
		follows     bool
	}{{"96", "96 of 100, closes; 4 cancelled", "0", false}, {"94", "94 of 100, 6 open", "6", false},
		// The rest of what is short within its allowance follows.
		{"96", "96 of 100, 4 open", "10", true}, {"100", "100 of 100, closes", "10", true}} {
		_, arrival := buy(t, c, "100", "1")
		body := object{"version": 1, "lines": []object{{"line_id": id(arrival, "lines", 0, "id"), "quantity": x.here,
			"follows": x.follows}}}
		path := fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id"))
		if got := at(c.Post(path+"/preview", body).JSON(), "changes", 2, "after"); got != x.after {
			t.Errorf("%s: before and after says %q", x.here, got)
		}
		c.Post(path, body).JSON()
		var found []object
		c.Get("/items?site=1&q=HC-050").Into(&found)
		if got := at(found[0], "figures", "on_order"); got != x.onOrder {
			t.Errorf("after %s of 100, %s are on order", x.here, got)
		}
	}
	h.Whole(t)
}

// TestAPreviewRefusesWhatPressingWill: a lot that is known with another expiry, and labels and
// codes that are no lot.
func TestAPreviewRefusesWhatPressingWill(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	allow(t, h)
	c := world.SignOn(t, base, "lead")
	_, arrival := buy(t, c, "100", "10")
	h.Lot(t, world.Fluid, "L1", 900)
	path := fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id"))
	for _, x := range []struct{ code, expires, refused, field string }{
		{"L1", "2029-03-01", "expiry_differs", "lines[0].lots[0].expires_on"},
		{"(01)09521234000037(10)L1", "2029-03-01", "label_whole", "lines[0].lots[0].code"},
		{"010952123400003710L1", "2029-03-01", "label_whole", "lines[0].lots[0].code"},
		{"HZ-500", "2029-03-01", "own_code", "lines[0].lots[0].code"},
		{"9521234000037", "2029-03-01", "own_code", "lines[0].lots[0].code"},
	} {
		body := object{"version": 1, "lines": []object{{"line_id": id(arrival, "lines", 1, "id"), "quantity": "10",
			"lots": []object{{"code": x.code, "expires_on": x.expires, "quantity": "10"}}}}}
		c.Post(path+"/preview", body).Refused(422, x.refused, x.field)
		c.Post(path, body).Refused(422, x.refused, x.field)
	}
	if got := h.Holds(t, world.Dock, world.Fluid); got != "0" {
		t.Errorf("%s came in", got)
	}
}

func TestAReceiptIsTakenBackByACounterMove(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	allow(t, h)
	c := world.SignOn(t, base, "receiver")
	order, arrival := buy(t, world.SignOn(t, base, "lead"), "100", "10")
	path := fmt.Sprintf("/arrivals/%d", id(arrival, "id"))
	lots := []object{{"code": "L1", "expires_on": "2029-01-01", "quantity": "6"},
		{"code": "L2", "expires_on": "2029-02-01", "quantity": "4"}}
	arrival = c.Post(path+"/receive", object{"version": 1, "lines": []object{
		{"line_id": id(arrival, "lines", 0, "id"), "quantity": "100"}, {"line_id": id(arrival, "lines", 1, "id"),
			"quantity": "10", "lots": lots}}}).JSON()
	if at(arrival, "state") != "done" || len(arrival["receipts"].([]any)) != 3 {
		t.Fatalf("received: %v", arrival["receipts"])
	}
	receipt := func(a object, sku string, lot any) int64 {
		for i, b := range a["receipts"].([]any) {
			if at(b, "sku") == sku && at(b, "lot") == lot {
				return id(a, "receipts", i, "move_id")
			}
		}
		t.Fatalf("no receipt of %s %v", sku, lot)
		return 0
	}
	undo := object{"version": arrival["version"], "move_id": receipt(arrival, "HZ-500", "L2"), "reason": ""}
	c.Post(path+"/undo", undo).Refused(422, "reason_missing", "reason")
	plan := c.Post(path+"/undo/preview", undo).JSON()
	if at(plan, "button") != "Take 4 of HZ-500 back" || at(plan, "changes", 0, "after") != "6 of 10" {
		t.Errorf("before and after says %v", plan)
	}
	undo["reason"] = "Counted the lorry's own spare"
	arrival = c.Post(path+"/undo", undo).JSON()
	if at(arrival, "state") != "open" || line(arrival, 1, "received") != "6" || line(arrival, 1, "closed") != false ||
		h.Holds(t, world.Dock, world.Fluid) != "6" {
		t.Fatalf("after taking back: %v", arrival["lines"])
	}
	undo["version"] = arrival["version"]
	c.Post(path+"/undo", undo).Refused(409, "undone_already", "move_id", "Counted the lorry's own spare")
	trail := c.Get(fmt.Sprintf("/items/%d/trail?site=1", world.Fluid)).JSON()
	if at(trail, "lines", 0, "kind") != "reverse_receipt" || at(trail, "lines", 0, "delta") != "-4" ||
		at(trail, "lines", 1, "kind") != "receive" {
		t.Errorf("the trail shows %v", trail["lines"])
	}
	// Goods that went on to a bin cannot be taken back from the dock.
	c.Post("/put-away", object{"location_id": world.Dock, "item_id": world.Clamp, "quantity": "24",
		"locations": []object{{"bin": "A-01-1-A", "quantity": "24"}}}).JSON()
	// On a walk, too, they keep the name of the arrival that brought them.
	walk := c.Post("/put-away/walks", object{"site_id": world.Site, "goods": []object{
		{"location_id": world.Dock, "item_id": world.Clamp, "quantity": "2"}}}).JSON()
	c.Post(fmt.Sprintf("/put-away/walks/%d/put-away", id(walk, "id")), object{"bin": "A-02-1-A", "item_id": world.Clamp,
		"quantity": "2"}).JSON()
	brought := c.Get(fmt.Sprintf("/items/%d/trail?site=1", world.Clamp)).JSON()
	if at(brought, "lines", 0, "document") != at(arrival, "number") || at(brought, "lines", 0, "note") != at(walk, "number") {
		t.Errorf("a walk into the bin is told as %v", at(brought, "lines", 0))
	}
	gone := object{"version": arrival["version"], "move_id": receipt(arrival, "HC-050", nil),
		"reason": "Not ours at all"}
	c.Post(path+"/undo", gone).Refused(409, "goods_gone", "move_id", "Dock 1 holds 74 of HC-050", "100 were received")
	// And what is invoiced stays.
	office := world.SignOn(t, base, "office")
	office.Post(fmt.Sprintf("/purchase-orders/%d/invoices", id(order, "id")),
		object{"number": "F-1", "invoiced_on": day(0),
			"lines": []object{{"line_id": id(arrival, "lines", 1, "id"), "quantity": "6", "price": "42"}}}).JSON()
	paid := object{"version": arrival["version"], "move_id": receipt(arrival, "HZ-500", "L1"),
		"reason": "Not ours at all"}
	c.Post(path+"/undo", paid).Refused(409, "invoiced", "move_id", "6 of HZ-500 are invoiced")
	h.Whole(t)
}

func TestAnInvoiceIsHeldAgainstWhatWasOrderedAndWhatCame(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	allow(t, h)
	c, office := world.SignOn(t, base, "lead"), world.SignOn(t, base, "office")
	order, arrival := buy(t, c, "100", "10")
	clamps := id(arrival, "lines", 0, "id")
	c.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")),
		object{"version": 1, "lines": []object{{"line_id": clamps, "quantity": "96"}}}).JSON()
	path := fmt.Sprintf("/purchase-orders/%d/invoices", id(order, "id"))
	invoice := func(number, quantity, price string) object {
		return object{"number": number, "invoiced_on": day(0),
			"lines": []object{{"line_id": clamps, "quantity": quantity, "price": price}}}
	}
	uninvoiced := func() (numbers []string) {
		for _, o := range office.Get("/purchase-orders?site=1&list=uninvoiced").JSON()["orders"].([]any) {
			numbers = append(numbers, at(o, "number").(string))
		}
		return numbers
	}
	number := at(order, "number").(string)
	if !slices.Contains(uninvoiced(), number) {
		t.Error("what is in and not invoiced is not on its list")
	}
	office.Post(path, invoice("F-77", "100", "18.75")).Refused(422, "invoice_over_received", "lines[0].quantity",
		"at most 96", "100 ordered, 96 received, 0 invoiced")
	office.Post(path, invoice("F-77", "96", "19.50")).Refused(422, "invoice_price", "lines[0].price",
		"18.75 was agreed", "19.125")
	office.Post(path, invoice("", "96", "18.75")).Refused(422, "invoice_number_missing", "number")
	office.Post(path, invoice("F-77", "-1", "18.75")).Refused(422, "quantity_negative", "lines[0].quantity")
	c2 := world.SignOn(t, base, "receiver")
	c2.Post(path, invoice("F-77", "96", "18.75")).Refused(403, "role", "")
	after := office.Post(path, invoice("F-77", "90", "18.80")).JSON()
	if at(after, "invoices", 0, "amount") != "1692" || line(after, 0, "invoiced") != "90" {
		t.Errorf("invoiced: %v", after["invoices"])
	}
	office.Post(path, invoice("F-77", "6", "18.75")).Refused(409, "invoice_known", "number", number)
	office.Post(path, invoice("F-78", "7", "18.75")).Refused(422, "invoice_over_received", "lines[0].quantity",
		"at most 6")
	office.Post(path, invoice("F-78", "6", "18.75")).JSON()
	if slices.Contains(uninvoiced(), number) {
		t.Error("it is invoiced and still on the list")
	}
}

// TestAnInvoiceIsAskedAboutBeforeItIsOdd: a price of nought, a day far off, and a number that was
// entered before, however it is written.
func TestAnInvoiceIsAskedAboutBeforeItIsOdd(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	allow(t, h)
	c := world.SignOn(t, base, "lead")
	order, arrival := buy(t, c, "100", "10")
	c.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")),
		object{"version": 1, "lines": []object{{"line_id": id(arrival, "lines", 0, "id"), "quantity": "100"}}}).JSON()
	path := fmt.Sprintf("/purchase-orders/%d/invoices", id(order, "id"))
	enter := func(number, on, price string, sure ...string) world.Answer {
		return c.Post(path, object{"number": number, "invoiced_on": on, "sure": sure,
			"lines": []object{{"line_id": id(arrival, "lines", 0, "id"), "quantity": "1", "price": price}}})
	}
	enter("F-1", day(1), "0").Refused(409, "day_far", "invoiced_on")
	enter("F-1", day(-181), "0").Refused(409, "day_far", "invoiced_on", "180 days")
	enter("F-1", day(0), "0").Refused(409, "price_nought", "lines[0].price", "HC-050 is 0")
	enter("F-1 ", day(-181), "0", "day_far", "price_nought").JSON()
	enter(" f-1", day(0), "1").Refused(409, "invoice_known", "number")
}

// TestASuppliersInvoiceIsTakenBack by a counter-entry, once, and is entered anew.
func TestASuppliersInvoiceIsTakenBack(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	c := world.SignOn(t, base, "lead")
	o, arrival := buy(t, c, "12", "1")
	c.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")), object{"version": 1,
		"lines": []object{{"line_id": id(arrival, "lines", 0, "id"), "quantity": "12"}}}).JSON()
	path := fmt.Sprintf("/purchase-orders/%d/invoices", id(o, "id"))
	invoice := object{"number": "F-77", "invoiced_on": day(0), "lines": []object{{"line_id": id(o, "lines", 0, "id"),
		"quantity": "12", "price": at(o, "lines", 0, "price")}}}
	entered := c.Post(path, invoice).JSON()
	c.Post(path, invoice).Refused(409, "invoice_known", "number")
	back := fmt.Sprintf("%s/%d/take-back", path, id(entered, "invoices", 0, "id"))
	c.Post(back, object{"reason": "-"}).Refused(422, "reason_short", "reason")
	taken := c.Post(back, object{"reason": "typed from another order"}).JSON()
	if at(taken, "lines", 0, "invoiced") != "0" || len(taken["invoices"].([]any)) != 2 ||
		at(taken, "invoices", 1, "amount") != "-"+at(taken, "invoices", 0, "amount").(string) {
		t.Fatalf("taken back: %v", taken["invoices"])
	}
	c.Post(back, object{"reason": "typed from another order"}).Refused(409, "invoice_credited", "")
	if anew := c.Post(path, invoice).JSON(); at(anew, "lines", 0, "invoiced") != "12" {
		t.Errorf("entered anew: %v", anew["lines"])
	}
}

func TestAClosedOrderCanBeReadAndAnnotatedOnly(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	order, arrival := buy(t, c, "100", "10")
	path := fmt.Sprintf("/purchase-orders/%d", id(order, "id"))
	c.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")),
		object{"version": 1, "lines": []object{{"line_id": id(arrival, "lines", 0, "id"), "quantity": "70"}}}).JSON()
	now := c.Get(path).JSON()
	c.Post(path+"/close", object{"version": 1}).Refused(409, "stale", "version")
	closed := c.Post(path+"/close", object{"version": now["version"]}).JSON()
	if at(closed, "state") != "closed" || line(closed, 0, "cancelled") != "30" || line(closed, 1, "cancelled") != "10" {
		t.Fatalf("closed: %v", closed["lines"])
	}
	c.Post(path+"/close", object{"version": closed["version"]}).Refused(409, "order_closed", "")
	c.Post(path+"/send-to-supplier", object{"version": closed["version"]}).Refused(409, "order_placed", "")
	c.Post("/arrivals", object{"order_ids": []int64{id(order, "id")}, "dock_id": world.Dock}).Refused(409,
		"order_not_open", "order_ids", "closed")
	noted := c.Post(path+"/note", object{"version": closed["version"], "note": "The rest was never made"}).JSON()
	if at(noted, "note") != "The rest was never made" || at(noted, "state") != "closed" {
		t.Errorf("annotated: %v", noted)
	}
	move := at(c.Get(fmt.Sprintf("/arrivals/%d", id(arrival, "id"))).JSON(), "receipts", 0, "move_id")
	c.Post(fmt.Sprintf("/arrivals/%d/undo", id(arrival, "id")), object{"version": 2, "move_id": move,
		"reason": "Too late for that"}).Refused(409, "order_closed", "", "send them back")
	h.Whole(t)
}

// TestListsOfOrdersAreReadPageByPage makes orders for many days and compares each list
// with what it should hold, read in pages of three.
func TestListsOfOrdersAreReadPageByPage(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	c := world.SignOn(t, base, "office")
	today := time.Now().UTC()
	want := map[string]int{"open": 0, "late": 0, "today": 0, "week": 0, "partly_received": 0, "uninvoiced": 0, "all": 0}
	for days := -5; days <= 9; days++ {
		send := days%3 != 0
		c.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site,
			"expected_on": today.AddDate(0, 0, days).Format(time.DateOnly), "send": send, "sure": []string{"day_past"},
			"lines": []object{{"item_id": world.Clamp, "quantity": "5"}}}).JSON()
		want["open"]++
		want["all"]++
		if send && days < 0 {
			want["late"]++
		}
		if send && days >= 0 && days <= 6 {
			want["week"]++
		}
		if send && days == 0 {
			want["today"]++
		}
	}
	for list, n := range want {
		seen := map[float64]bool{}
		after, last := "", ""
		for {
			page := c.Get(fmt.Sprintf("/purchase-orders?site=1&list=%s&limit=3&after=%s", url.QueryEscape(list),
				url.QueryEscape(after))).JSON()
			for _, o := range page["orders"].([]any) {
				seen[at(o, "id").(float64)] = true
				day := at(o, "expected_on").(string)
				if last != "" && (list == "all") != (day <= last) && day != last {
					t.Errorf("%s: %s after %s", list, day, last)
				}
				last = day
			}
			if after = page["next"].(string); after == "" {
				break
			}
		}
		if len(seen) != n {
			t.Errorf("%s has %d orders, want %d", list, len(seen), n)
		}
	}
	c.Get("/purchase-orders?site=1&after=nonsense").Refused(422, "cursor_malformed", "after")
}

// TestWhatIsAtItsReorderPointIsSuggested follows one item down to its reorder point and
// up again, and looks at what is suggested and why.
func TestWhatIsAtItsReorderPointIsSuggested(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	if _, err := h.Owner.Exec(`UPDATE item_sites SET reorder_point = 12, target = 60`); err != nil {
		t.Fatal(err)
	}
	suggested := func() []object {
		var out []object
		c.Get(fmt.Sprintf("/suggestions?site=1&supplier=%d", world.Supplier)).Into(&out)
		return out
	}
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 20)
	if got := suggested(); len(got) != 0 {
		t.Fatalf("suggested before it was ever bought: %v", got)
	}
	_, arrival := buy(t, c, "12", "1")
	c.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")),
		object{"version": 1, "lines": []object{{"line_id": id(arrival, "lines", 0, "id"), "quantity": "12"}}}).JSON()
	if got := suggested(); len(got) != 0 {
		t.Fatalf("suggested with 32 free: %v", got)
	}
	c.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": 1, "wanted_on": soon,
		"lines": []object{{"item_id": world.Clamp, "quantity": "25"}}}).JSON()
	got := suggested()
	if len(got) != 1 || at(got[0], "suggest", "packs") != "5" || at(got[0], "suggest", "quantity") != "60" ||
		at(got[0], "suggest",
			"calculation") != "7 free and 0 on order or asked for make 7, at or below 12; 53 to the target of 60, as 5 packs "+
			"of 12: 60" {
		t.Fatalf("suggested %v", got)
	}
	// What is suggested can be ordered as it is; then nothing more is.
	c.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": 1, "expected_on": soon, "send": true,
		"lines": []object{{"item_id": world.Clamp, "pack_id": got[0]["pack_id"], "quantity": at(got[0], "suggest",
			"packs")}}}).JSON()
	if got := suggested(); len(got) != 0 {
		t.Fatalf("suggested again: %v", got)
	}
}

// TestWhatIsSuggestedIsOrderedPerSupplier orders what is at its reorder point in one step: as
// suppliers sell it, once, and also what was never bought.
func TestWhatIsSuggestedIsOrderedPerSupplier(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	if _, err := h.Owner.Exec(`
		INSERT INTO item_sites (item_id, site_id) VALUES (2, 1); UPDATE item_sites SET reorder_point = 12, target = 60`); err != nil {
		t.Fatal(err)
	}
	code := c.Get("/parties?kind=supplier").JSONs()[0]["code"]
	row := func(sku string, more object) object {
		row := object{"for": fmt.Sprintf("%v / %s", code, sku), "code": "", "pack": "", "price": "", "minimum": "",
			"lead_days": ""}
		for k, v := range more {
			row[k] = v
		}
		return object{"site_id": world.Site, "rows": []object{row}}
	}
	add := func(body object) world.Answer { return c.Post("/catalog/supplier-items/import", body) }
	add(row("NO-SUCH", nil)).Refused(422, "rows_wrong", "for", "There is no item NO-SUCH")
	add(row("HC-050", object{"pack": "barrel"})).Refused(422, "rows_wrong", "pack", "HC-050 has no pack barrel")
	add(row("HC-050", object{"code": "4711", "price": "3.25", "minimum": "100", "lead_days": "9"})).JSON()
	got := map[any]object{}
	for _, s := range c.Get("/suggestions?site=1").JSONs() {
		got[at(s, "item", "sku")] = s
	}
	clamps := got["HC-050"]
	if clamps["supplier_id"] != float64(world.Supplier) || at(clamps, "suggest", "quantity") != "108" ||
		clamps["price"] != "3.25" || clamps["expected_on"] != day(9) || got["HZ-500"]["supplier_id"] != 0.0 {
		t.Fatalf("suggested: %v and %v", clamps, got["HZ-500"])
	}
	line := func(s object, supplier any) object {
		return object{"item_id": at(s, "item", "id"), "supplier_id": supplier, "pack_id": s["pack_id"],
			"quantity": at(s, "suggest", "packs")}
	}
	ask := func(lines ...object) object { return object{"site_id": world.Site, "lines": lines} }
	c.Post("/suggestions/order", ask(line(got["HZ-500"], 0))).Refused(422, "supplier_unknown", "lines[0].supplier_id",
		"HZ-500 was never bought")
	body := ask(line(clamps, clamps["supplier_id"]), line(got["HZ-500"], world.Supplier))
	orders := c.Post("/suggestions/order", body).JSONs()
	if len(orders) != 1 || at(orders[0], "state") != "draft" || at(orders[0], "expected_on") != day(9) ||
		at(orders[0], "lines", 0, "price") != "3.25" || at(orders[0], "lines", 0, "quantity") != "108" {
		t.Fatalf("ordered: %v", orders)
	}
	// A draft counts as on the way: nothing is suggested, or ordered, twice.
	c.Post("/suggestions/order", body).Refused(409, "not_suggested", "lines[0].item_id", "HC-050 is not at its reorder")
	for _, s := range c.Get("/suggestions?site=1").JSONs() {
		if sku := at(s, "item", "sku"); sku == "HC-050" || sku == "HZ-500" {
			t.Errorf("%v is suggested again", sku)
		}
	}
	// An order that names no price begins with the supplier's.
	o := c.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": 1, "expected_on": soon,
		"lines": []object{{"item_id": world.Clamp, "quantity": "1"}}}).JSON()
	if at(o, "lines", 0, "price") != "3.25" {
		t.Errorf("the price is %v", at(o, "lines", 0, "price"))
	}
}

func TestAShareIsInspectedBeforeItIsFree(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "receiver")
	if _, err := h.Owner.Exec(`UPDATE items SET inspect_pct = 10`); err != nil {
		t.Fatal(err)
	}
	_, arrival := buy(t, world.SignOn(t, base, "lead"), "42", "10")
	path := fmt.Sprintf("/arrivals/%d", id(arrival, "id"))
	body := object{"version": 1, "lines": []object{{"line_id": id(arrival, "lines", 0, "id"), "quantity": "42"},
		{"line_id": id(arrival, "lines", 1, "id"), "quantity": "10",
			"lots": []object{{"code": "L1", "expires_on": "2029-01-01", "quantity": "6"},
				{"code": "L2", "expires_on": "2029-01-01", "quantity": "4"}}}}}
	plan := c.Post(path+"/receive/preview", body).JSON()
	if len(plan["moves"].([]any)) != 6 || at(plan, "notes", 0) != "Set aside to be inspected (10 %): 5 of HC-050." ||
		at(plan, "changes", 1, "after") != "37" {
		t.Fatalf("before and after says %v", plan)
	}
	arrival = c.Post(path+"/receive", body).JSON()
	quarantine, damaged := h.Bin(t, "Quarantine"), h.Bin(t, "Damaged")
	if h.Holds(t, world.Dock, world.Clamp) != "37" || h.Holds(t, quarantine, world.Clamp) != "5" ||
		h.Holds(t, quarantine, world.Fluid) != "2" {
		t.Fatal("the goods are not where they should be")
	}
	figures := func() any {
		var found []object
		c.Get("/items?site=1&q=HC-050").Into(&found)
		return fmt.Sprint(at(found[0], "figures", "on_hand"), " ", at(found[0], "figures", "free"))
	}
	if figures() != "42 37" {
		t.Errorf("figures %v", figures())
	}
	var waiting []object
	c.Get("/inspections?site=1").Into(&waiting)
	if len(waiting) != 3 || at(waiting[0], "quantity") != "5" || at(waiting[0], "arrival") != arrival["number"] {
		t.Fatalf("to be inspected: %v", waiting)
	}
	// What is held cannot be ordered away, moved as good, or shipped.
	c.Post("/transfers", object{"from_id": quarantine, "to": "A-01-1-A", "item_id": world.Clamp,
		"quantity": "1"}).Refused(409, "not_enough", "")
	one := fmt.Sprintf("/inspections/%d/decide", id(waiting[0], "id"))
	c.Post(one, object{"passed": "6"}).Refused(422, "over_inspected", "passed", "5 of HC-050")
	c.Post(one, object{"passed": "3"}).Refused(422, "reason_missing", "reason", "2 of HC-050 are not fine")
	c.Post(one, object{"passed": "2.5"}).Refused(422, "quantity_fraction", "passed")
	verdict := object{"passed": "3", "reason": "Two have cracked jaws"}
	if got := c.Post(one+"/preview", verdict).JSON(); at(got, "button") != "Pass 3, fail 2" ||
		at(got, "changes", 0, "after") != "40" {
		t.Errorf("before and after says %v", got)
	}
	c.Post(one, verdict).JSON()
	c.Post(one, verdict).Refused(409, "inspection_over", "", "3 passed, 2 failed")
	if h.Holds(t, world.Dock, world.Clamp) != "40" || h.Holds(t, damaged, world.Clamp) != "2" || figures() != "42 40" {
		t.Errorf("after the verdict: %s on the dock, %s damaged, figures %v", h.Holds(t, world.Dock, world.Clamp),
			h.Holds(t, damaged, world.Clamp), figures())
	}
	trail := c.Get(fmt.Sprintf("/items/%d/trail?site=1", world.Clamp)).JSON()
	if at(trail, "lines", 0, "kind") != "inspect" || at(trail, "lines", 0, "note") != "Two have cracked jaws" {
		t.Errorf("the trail says %v", at(trail, "lines", 0))
	}
	// All of a lot is fine: no reason is asked. And one receipt is taken back unseen.
	c.Post(fmt.Sprintf("/inspections/%d/decide", id(waiting[1], "id")),
		object{"passed": at(waiting[1], "quantity")}).JSON()
	arrival = c.Get(path).JSON()
	for i, b := range arrival["receipts"].([]any) {
		if at(b, "condition") == "on_hold" && at(b, "lot") == "L2" {
			c.Post(path+"/undo", object{"version": arrival["version"], "move_id": id(arrival, "receipts", i,
				"move_id"), "reason": "Not ours at all"}).JSON()
		}
	}
	c.Get("/inspections?site=1").Into(&waiting)
	if len(waiting) != 0 || h.Holds(t, quarantine, world.Fluid) != "0" {
		t.Errorf("still to be inspected: %v", waiting)
	}
	h.Whole(t)
}
