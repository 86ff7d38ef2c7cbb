package application_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/test/world"
)

func day(ahead int) string { return time.Now().UTC().AddDate(0, 0, ahead).Format(time.DateOnly) }

// sell takes an order of clamps, wanted in so many days.
func sell(t *testing.T, c *world.Client, quantity string, ahead int, more object) world.Answer {
	t.Helper()
	body := object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": day(ahead), "release": true,
		"lines": []object{{"item_id": world.Clamp, "quantity": quantity}}}
	for k, v := range more {
		body[k] = v
	}
	return c.Post("/sales-orders", body)
}

// TestWhatWillBeFreeAndWhen follows the check of common practice (no source): 60 there
// and 7 reserved make 53 free; 30 more arrive: 83; the reserved order leaves: still 83.
func TestWhatWillBeFreeAndWhen(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	for _, bin := range []string{"A-01-1-A", "A-02-1-A"} {
		h.Stock(t, world.Clamp, h.Bin(t, bin), 24)
	}
	h.Stock(t, world.Clamp, h.Bin(t, "A-03-1-A"), 12)
	reserved := sell(t, c, "7", 4, nil).JSON()
	p := c.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []int64{id(reserved, "id")}}).JSON()
	var stops []object
	for _, s := range p["stops"].([]any) {
		stops = append(stops, object{"line_id": at(s, "line_id"), "location_id": at(s, "location_id"),
			"quantity": at(s, "quantity")})
	}
	c.Post("/rounds", object{"site_id": world.Site, "stops": stops}).JSON()
	c.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": day(2),
		"send": true, "lines": []object{{"item_id": world.Clamp, "quantity": "30"}}}).JSON()
	course := func(q string) object {
		return c.Get(fmt.Sprintf("/items/%d/course?site=1&quantity=%s", world.Clamp, q)).JSON()
	}
	a := course("60")
	if a["good"] != "60" || a["start"] != "53" || at(a, "lines", 0, "after") != "83" ||
		at(a, "lines", 1, "after") != "83" || at(a, "lines", 1, "moves") != "0" || a["promise"] != day(2) {
		t.Fatalf("the course is %v", a)
	}
	// An order that takes all but 3: what is wanted beyond goes when no one is robbed.
	big := sell(t, c, "80", 5, nil).JSON()
	for q, promise := range map[string]string{"3": day(0), "4": "", "53": ""} {
		if got := course(q)["promise"]; got != promise {
			t.Errorf("%s more can go on %q, want %q", q, got, promise)
		}
	}
	// Each open line says when it can go: the order before it first.
	last := sell(t, c, "10", 6, nil).JSON()
	c.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": day(9),
		"send": true, "lines": []object{{"item_id": world.Clamp, "quantity": "5"}}}).JSON()
	canGo := func(o object) any {
		return at(c.Get(fmt.Sprintf("/sales-orders/%d", id(o, "id"))).JSON(), "lines", 0, "can_go")
	}
	if canGo(big) != day(5) || canGo(last) != "" || canGo(reserved) != nil {
		t.Errorf("can go: %v, %v, %v", canGo(big), canGo(last), canGo(reserved))
	}
	c.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": day(12),
		"send": true, "lines": []object{{"item_id": world.Clamp, "quantity": "2"}}}).JSON()
	if canGo(last) != day(12) {
		t.Errorf("when the rest comes: %v", canGo(last))
	}
	if o := entered(c, day(9), 0, world.Clamp, "1").JSON(); at(o, "lines", 0, "next_on") != day(2) ||
		at(o, "lines", 0, "next_quantity") != "30" || at(o, "lines", 0, "can_go") != "" {
		t.Errorf("the outlook says %v", o)
	}
}

// entered asks what an order of one item after the other, each followed by how many are wanted,
// would come to.
func entered(c *world.Client, on string, customer int, more ...any) world.Answer {
	lines := []object{}
	for i := 0; i < len(more); i += 2 {
		lines = append(lines, object{"item_id": more[i], "quantity": more[i+1]})
	}
	return c.Post("/sales-orders/outlook", object{"site_id": world.Site, "customer_id": customer, "wanted_on": on, "lines": lines})
}

// TestWhatIsRarelyMeantIsAskedAbout: a day that is past, a reference used twice, a quote that is
// over already; whoever is sure has it, and what stood before is not asked about again.
func TestWhatIsRarelyMeantIsAskedAbout(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	c := world.SignOn(t, base, "office")
	asked := object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": day(-2), "quote_until": day(-1),
		"reference": "PO 9", "lines": []object{{"item_id": world.Fluid, "quantity": "1"}}}
	var sure []string
	c.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon, "reference": "po 9",
		"lines": []object{{"item_id": world.Fluid, "quantity": "1"}}}).JSON()
	for _, q := range []struct{ code, field, words string }{{"day_past", "wanted_on", day(-2) + " is past"},
		{"reference_used", "reference", "PO 9 is on S-"}, {"quote_expired", "quote_until", "is over already"}} {
		c.Post("/sales-orders", asked).Refused(409, q.code, q.field, q.words)
		sure = append(sure, q.code)
		asked["sure"] = sure
	}
	kept := c.Post("/sales-orders", asked).JSON()
	// What stood before is not asked about again.
	c.Post(fmt.Sprintf("/sales-orders/%d/change", id(kept, "id")), object{"version": kept["version"], "wanted_on": day(-2),
		"reference": "PO 9", "note": "as agreed"}).JSON()
	p := object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": day(-1),
		"lines": []object{{"item_id": world.Clamp, "quantity": "5"}}}
	c.Post("/purchase-orders", p).Refused(409, "day_past", "expected_on")
	p["sure"] = []string{"day_past"}
	c.Post("/purchase-orders", p).JSON()
}

// TestTheFormAndTheSavedOrderSayTheSame enters orders of an item on several lines, over stock,
// receipts and other orders made at random, and saves each: what the form said of each line
// stands on the saved order, lines share what is free, and who is said to wait waits.
func TestTheFormAndTheSavedOrderSayTheSame(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	r := rand.New(rand.NewPCG(16, 16))
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 40)
	canGo := func(o object) (days []any) {
		for _, l := range c.Get(fmt.Sprintf("/sales-orders/%d", id(o, "id"))).JSON()["lines"].([]any) {
			days = append(days, at(l, "can_go"))
		}
		return days
	}
	open := map[string]object{}
	delayed := 0
	for n := range 14 {
		if n%3 == 0 {
			c.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site, "expected_on": day(2 + r.IntN(8)),
				"send": true, "lines": []object{{"item_id": world.Clamp, "quantity": fmt.Sprint(5 + r.IntN(20))}}}).JSON()
		}
		on, first, second := day(1+r.IntN(8)), fmt.Sprint(1+r.IntN(9)), fmt.Sprint(1+r.IntN(9))
		said := entered(c, on, world.Customer, world.Clamp, first, world.Clamp, second).JSON()
		before := map[string][]any{}
		for number, o := range open {
			before[number] = canGo(o)
		}
		o := c.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": on, "lines": []object{
			{"item_id": world.Clamp, "quantity": first}, {"item_id": world.Clamp, "quantity": second}}}).JSON()
		if got := canGo(o); got[0] != at(said, "lines", 0, "can_go") || got[1] != at(said, "lines", 1, "can_go") {
			t.Errorf("order %d of %s and %s on %s: saved %v, the form said %v", n, first, second, on, got, said)
		}
		if at(said, "lines", 1, "free") != at(said, "lines", 0, "free_after") || at(said, "total") != o["value"] {
			t.Errorf("order %d: lines do not share what is free, or it comes to %v: %v", n, o["value"], said)
		}
		for number, other := range open {
			now, wanted := canGo(other), other["wanted_on"]
			waits := before[number][1] == wanted && now[1] != wanted
			if told := slices.Contains(said["delays"].([]any), any(number)); told != waits {
				t.Errorf("order %d on %s: %s went from %v to %v, told: %v", n, on, number, before[number], now, told)
			}
			if waits {
				delayed++
			}
		}
		open[o["number"].(string)] = o
	}
	if delayed == 0 {
		t.Error("no order ever delayed another: the test shows nothing")
	}
}

// TestACustomerThatOwesRaisesAQuestion asks about money overdue and about a limit.
func TestACustomerThatOwesRaisesAQuestion(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, office := world.SignOn(t, base, "lead"), world.SignOn(t, base, "office")
	set := func(overdue, limit string) {
		if _, err := h.Owner.Exec(`
			UPDATE parties SET overdue = $1, credit_limit = nullif($2,
			'')::numeric WHERE id = 2`, overdue, limit); err != nil {
			t.Fatal(err)
		}
	}
	set("0", "100")
	// 5 clamps at 18.75 are 93.75.
	sell(t, office, "5", 1, nil).JSON()
	sell(t, office, "1", 1, nil).Refused(422, "credit_limit", "reason",
		"comes to 112.50 that is open, above its limit of 100.00")
	set("412.5", "")
	sell(t, office, "1", 1, nil).Refused(422, "customer_owes", "reason", "owes 412.50 beyond its time")
	sell(t, office, "1", 1, object{"reason": "They paid this morning"}).Refused(403, "lead_decides", "order.reason")
	sell(t, lead, "1", 1, object{"reason": "ok"}).Refused(422, "reason_short", "order.reason")
	o := sell(t, lead, "1", 1, object{"reason": "They paid this morning"}).JSON()
	if o["owing"] != "They paid this morning" || o["owing_by"] != "Some lead" {
		t.Errorf("kept: %v, by %v", o["owing"], o["owing_by"])
	}
	// Beyond its time and above its limit are two questions, and both are said.
	set("412.5", "100")
	sell(t, office, "1", 1, nil).Refused(422, "customer_owes", "reason", "owes 412.50 beyond its time", "above its limit of 100.00")
	if n := len(lead.Get("/sales-orders?site=1").JSONs()); n != 2 {
		t.Errorf("%d orders were taken", n)
	}
	// Sixteen at once do not pass the limit together.
	set("0", "300")
	done := make(chan int, 16)
	for range 16 {
		go func() { done <- sell(t, office, "3", 1, nil).Status }()
	}
	taken := 0
	for range 16 {
		if <-done < 300 {
			taken++
		}
	}
	if taken != 3 {
		t.Errorf("%d orders of 56.25 passed a limit of 300 with 112.50 open", taken)
	}
}

// TestOrdersAreHeldAgainAndConfirmed takes orders back from the floor, and mails what the
// customer is told.
func TestOrdersAreHeldAgainAndConfirmed(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 10)
	a, b := sell(t, c, "4", 1, object{"reference": "PO 77"}).JSON(), sell(t, c, "20", 2, nil).JSON()
	marks := func(list ...object) object {
		var out []object
		for _, o := range list {
			out = append(out, object{"id": o["id"], "version": o["version"]})
		}
		return object{"orders": out, "reason": "hand"}
	}
	p := c.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []int64{id(a, "id")}}).JSON()
	c.Post("/rounds",
		object{"site_id": world.Site,
			"stops": []object{{"line_id": at(p, "stops", 0, "line_id"), "location_id": at(p, "stops", 0, "location_id"),
				"quantity": "4"}}}).JSON()
	a = c.Get(fmt.Sprintf("/sales-orders/%d", id(a, "id"))).JSON()
	// Both or none.
	c.Post("/sales-orders/hold", marks(b, a)).Refused(409, "order_on_the_floor", "", "4 are on a round")
	if got := c.Get(fmt.Sprintf("/sales-orders/%d", id(b, "id"))).JSON(); got["state"] != "released" {
		t.Errorf("half a bulk step was done: %v", got["state"])
	}
	c.Post("/sales-orders/hold", marks(b)).JSONs()
	b = c.Get(fmt.Sprintf("/sales-orders/%d", id(b, "id"))).JSON()
	again := marks(b)
	again["alone"] = true
	delete(again, "reason")
	c.Post("/sales-orders/release", again).JSONs()

	mail := fmt.Sprintf("/sales-orders/%d/mail", id(b, "id"))
	c.Post(mail, nil).Refused(422, "address_missing", "email")
	if _, err := h.Owner.Exec(`UPDATE parties SET email = 'house@example.org' WHERE id = 2`); err != nil {
		t.Fatal(err)
	}
	c.Post(mail, nil).JSON()
	box := eventually(t, outbox(c),
		func(o object) bool { return empty("waiting")(o) && !empty("sent")(o) })
	file := filepath.Join(t.TempDir(), "confirmation.pdf")
	if err := os.WriteFile(file, c.Get(fmt.Sprintf("/outbox/%d/paper.pdf", id(box, "sent", 0, "id"))).Body,
		0o600); err != nil {
		t.Fatal(err)
	}
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatalf("pdftotext (apt-get install poppler-utils): %v", err)
	}
	for _, words := range []string{"Confirmation of order " + b["number"].(string), "at 18.75: 375.00",
		"we have no day for it yet", "Total: 375.00", "The Lyrebird Theatre"} {
		if !strings.Contains(string(text), words) {
			t.Errorf("the paper does not say %q:\n%s", words, text)
		}
	}
}

// TestSalesLinesAreFilledWithSalesPrices takes orders without a price: they were once filled
// with what the item cost us.
func TestSalesLinesAreFilledWithSalesPrices(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	if _, err := h.Owner.Exec(`
		UPDATE items SET cost = 77.77, sales_price = CASE sku WHEN 'HC-050' THEN 24 WHEN 'SW-130' THEN 30 END`); err != nil {
		t.Fatal(err)
	}
	sheet := func(name string, rows ...string) world.Answer {
		return c.Post("/catalog/"+name+"/import",
			object{"site_id": world.Site, "data": []byte(strings.Join(rows, "\n"))})
	}
	sheet("customers", "code,discount_pct", "CUS,5").JSON()
	sheet("prices", "for,price", "cus / sw-130 / 2027-13-01,20").Refused(422, "rows_wrong", "for", "2027-13-01")
	sheet("prices", "for,price", "CUS / SW-130 / 2026-01-01,20", "CUS / SW-130 / 2090-01-01,19").JSON()
	ask := func(item int32, price any) object {
		line := object{"item_id": item, "quantity": "2"}
		if price != nil {
			line["price"] = price
		}
		return object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon, "lines": []object{line}}
	}
	for name, x := range map[string]struct {
		item                int32
		price               any
		amount, source, why string
	}{
		"less the discount": {world.Clamp, nil, "22.8", "discount", "24 less 5 %"},
		"as agreed":         {world.Heavy, nil, "20", "agreed", "agreed from 2026-01-01"},
		"entered":           {world.Heavy, "18.5", "18.5", "typed", "as entered"},
	} {
		o := c.Post("/sales-orders", ask(x.item, x.price)).JSON()
		if l := at(o, "lines", 0).(object); l["price"] != x.amount || l["price_source"] != x.source ||
			l["price_why"] != x.why {
			t.Errorf("%s: %v, %v, %v", name, l["price"], l["price_source"], l["price_why"])
		}
		look := at(entered(c, soon, world.Customer, x.item, "1").JSON(), "lines", 0)
		if x.price == nil && (at(look, "price", "amount") != x.amount || at(look, "price", "why") != x.why) {
			t.Errorf("%s, beforehand: %v", name, look)
		}
		// Changed without a word of the price, it stays; nothing on the paper says what it cost.
		changed := c.Post(fmt.Sprintf("/sales-orders/%d/change", id(o, "id")),
			object{"version": o["version"], "wanted_on": soon,
				"lines": []object{{"id": at(o, "lines", 0, "id"), "item_id": x.item, "quantity": "3"}}}).JSON()
		if l := at(changed, "lines", 0).(object); l["price"] != x.amount || l["price_source"] != x.source {
			t.Errorf("%s, changed: %v, %v", name, l["price"], l["price_source"])
		}
		file := filepath.Join(t.TempDir(), "confirmation.pdf")
		if err := os.WriteFile(file, c.Get(fmt.Sprintf("/sales-orders/%d/confirmation.pdf", id(o, "id"))).Body,
			0o600); err != nil {
			t.Fatal(err)
		}
		text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
		if err != nil || strings.Contains(string(text), "77.77") || !strings.Contains(string(text), "at "+x.amount) {
			t.Errorf("%s, on paper: %s %v", name, text, err)
		}
	}
	c.Post("/sales-orders", ask(world.Fluid, nil)).Refused(422, "price_missing", "lines[0].price",
		"HZ-500 has no sales price")
	c.Post("/sales-orders", ask(world.Fluid, "44")).JSON()
}

// TestAHoldHasAReasonAndSticks parks an order for money, and puts one on hold by hand: a bulk
// step and a schedule leave both where they are.
func TestAHoldHasAReasonAndSticks(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, office := world.SignOn(t, base, "lead"), world.SignOn(t, base, "office")
	if _, err := h.Owner.Exec(`UPDATE parties SET overdue = 80 WHERE id = $1`, world.Customer); err != nil {
		t.Fatal(err)
	}
	parked := sell(t, office, "2", 1, object{"release": true, "hold": object{"reason": "credit", "note": "pays on Friday"}}).JSON()
	if parked["state"] != "on_hold" || parked["hold"] != "credit" || parked["held_by"] != "Some office" {
		t.Fatalf("it is %v for %v by %v", parked["state"], parked["hold"], parked["held_by"])
	}
	if _, err := h.Owner.Exec(`UPDATE parties SET overdue = 0 WHERE id = $1`, world.Customer); err != nil {
		t.Fatal(err)
	}
	waits := sell(t, office, "1", 1, object{"release": false}).JSON()
	byHand := sell(t, office, "1", 1, object{"release": false}).JSON()
	mark := func(o object) object {
		now := office.Get(fmt.Sprintf("/sales-orders/%d", id(o, "id"))).JSON()
		return object{"id": now["id"], "version": now["version"]}
	}
	office.Post("/sales-orders/hold", object{"orders": []object{mark(byHand)}, "reason": "address"}).JSONs()
	office.Post("/sales-orders/hold", object{"orders": []object{mark(byHand)}, "reason": "weather"}).Refused(422, "malformed", "reason")
	office.Post("/sales-orders/release", object{"orders": []object{mark(waits), mark(byHand)}}).Refused(409, "order_held", "",
		"Some office put "+byHand["number"].(string)+" on hold: address")
	due := office.Post("/schedules/preview", object{"site_id": world.Site, "task": "release-orders",
		"rule": object{"at": []string{"07:30"}}, "settings": object{"days": 60}}).JSON()
	if text := fmt.Sprint(due); !strings.Contains(text, waits["number"].(string)) || strings.Contains(text, byHand["number"].(string)) ||
		strings.Contains(text, parked["number"].(string)) {
		t.Errorf("on schedule it would do %v", due)
	}
	office.Post("/sales-orders/release", object{"orders": []object{mark(waits)}}).JSONs()
	office.Post("/sales-orders/release", object{"orders": []object{mark(byHand)}, "alone": true}).JSONs()

	// What is on hold for money is asked about when it is released.
	if _, err := h.Owner.Exec(`UPDATE parties SET overdue = 80 WHERE id = $1`, world.Customer); err != nil {
		t.Fatal(err)
	}
	alone := object{"orders": []object{mark(parked)}, "alone": true}
	office.Post("/sales-orders/release", alone).Refused(422, "customer_owes", "reason", "owes 80.00 beyond its time")
	alone["reason"] = "Their bank confirmed it"
	if o := lead.Post("/sales-orders/release", alone).JSONs()[0]; o["state"] != "released" || o["hold"] != "" || o["owing"] != alone["reason"] {
		t.Errorf("released, it is %v, on hold for %v, taken because %v", o["state"], o["hold"], o["owing"])
	}
}

// TestAnOrderIsToldWhoHoldsWhatItLacks reserves all there is for an order that is wanted late: one
// that is wanted before it is named with what it lacks, until the later one lets go.
func TestAnOrderIsToldWhoHoldsWhatItLacks(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 8)
	wanted := func(on string, quantity string) object {
		return lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": on,
			"release": true, "lines": []object{{"item_id": world.Clamp, "quantity": quantity}}}).JSON()
	}
	late := wanted(day(9), "6")
	held := lead.Post(fmt.Sprintf("/sales-lines/%v/reservations", at(late, "lines", 0, "id")), object{"reservations": []object{
		{"location_id": h.Bin(t, "A-01-1-A"), "quantity": "6"}}}).JSON()
	robbed := func() []map[string]any { return lead.Get("/sales-orders/robbed?site=1").JSONs() }
	if all := robbed(); len(all) != 0 {
		t.Fatalf("nobody else wants it, and it is said that %v", all)
	}
	soonest := wanted(day(2), "5")
	all := robbed()
	if len(all) != 1 || all[0]["order"] != soonest["number"] || all[0]["lacks"] != "3" || all[0]["sku"] != "HC-050" ||
		at(all[0], "by", 0, "order") != late["number"] || at(all[0], "by", 0, "quantity") != "3" ||
		at(all[0], "by", 0, "on_round") != false {
		t.Fatalf("robbed are %v", all)
	}
	// What is wanted after it takes nothing from it.
	wanted(day(20), "1")
	if again := robbed(); len(again) != 1 {
		t.Errorf("robbed are %v", again)
	}
	lead.Post(fmt.Sprintf("/reservations/%v/unreserve", at(held, "reservations", 0, "id")), nil).JSON()
	if all := robbed(); len(all) != 0 {
		t.Errorf("it was let go, and robbed are %v", all)
	}
}
