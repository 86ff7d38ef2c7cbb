package application_test

import (
	"fmt"
	"testing"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/ledger"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

// differing is the count of an item at a location that waits for a lead.
func differing(c *world.Client, of counter) string {
	for _, d := range c.Get("/counts/differing?site=1").JSONs() {
		if id(d, "location_id") == int64(of.bin) && id(d, "item_id") == int64(of.item) {
			return fmt.Sprintf("/counts/%d", id(d, "id"))
		}
	}
	panic("nothing waits there")
}

// asKind is a count of one kind of goods, as the entry names it.
func (c counter) asKind(by *world.Client, found string, sheet any) object {
	kind := at(by.Get(fmt.Sprintf("/counts/entry?location=%d&item=%d", c.bin, c.item)).JSON(), "kinds", 0).(object)
	counted := object{"quantity": found, "condition": kind["condition"]}
	for _, name := range []string{"lot_id", "carton_id"} {
		if kind[name] != nil {
			counted[name] = kind[name]
		}
	}
	return c.of(by, found, object{"sheet": sheet, "kinds": []object{counted}})
}

// TestAFullStocktakeReachesWhateverRestsAnywhere counts a house whole: goods on the dock, in quarantine, among the
// damaged, at the returns corner and in cartons at the gate are on the sheet, each as what it is; what differs is
// settled in the condition that it was in, and taken back so; and what a document is in the midst of stays for it.
func TestAFullStocktakeReachesWhateverRestsAnywhere(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	allowAll(h)
	bin, damaged, quarantine := h.Bin(t, "A-01-1-A"), h.Bin(t, "Damaged"), h.Bin(t, "Quarantine")
	gate, trolley := h.Bin(t, "Gate"), h.Bin(t, "Trolleys")
	h.Stock(t, world.Clamp, bin, 20)
	d := soldOnce(lead, world.Clamp, "2", false)
	sold := lead.Get("/returnable?q=" + d["number"].(string)).JSONs()[0]
	r := lead.Post("/returns", object{"site_id": world.Site, "kind_id": kindOf(lead, "Credit"), "lines": []object{back(sold, "2")}}).JSON()
	comeIn(lead, r, "2").JSON()
	packedFor(lead, sellNow(lead, world.Clamp, "4"))
	lot := h.Lot(t, world.Fluid, "L-1", 300)
	for _, m := range []ledger.Move{
		{Item: world.Clamp, To: damaged, ToState: posting.Damaged}, {Item: world.Fluid, Lot: lot, To: quarantine, ToState: posting.Held},
		{Item: world.Clamp, To: world.Dock}, {Item: world.Clamp, To: trolley}} {
		m.From, m.Quantity = 1, decimal.NewFromInt(5)
		if err := h.Post(m); err != nil {
			t.Fatal(err)
		}
	}

	f := lead.Post("/count-sheets/preview", object{"site_id": 1, "scope": "all", "teams": 1}).JSON()
	if f["left_out"] != "1 items are on Trolleys, which is counted where it is put down" {
		t.Errorf("left out: %v", f["left_out"])
	}
	s := lead.Post("/count-sheets", object{"site_id": 1, "scope": "all", "teams": 1}).JSON()
	on := map[string]bool{}
	for _, row := range lead.Get(fmt.Sprintf("/count-sheets/%v", s["id"])).JSON()["rows"].([]any) {
		on[fmt.Sprint(at(row, "zone"), " ", at(row, "bin"), " ", at(row, "sku"))] = true
	}
	corner := h.Bin(t, "Returns corner")
	for _, want := range []string{"A A-01-1-A HC-050", "damaged Damaged HC-050", "quarantine Quarantine HZ-500", "dock Dock 1 HC-050",
		"returns Returns corner HC-050", "staging Gate HC-050", "bench Bench "} {
		if !on[want] {
			t.Errorf("%s is not on the sheet: %v", want, on)
		}
	}
	if on["trolley Trolleys HC-050"] {
		t.Error("a trolley is on the sheet")
	}
	count := func(c counter, found string) object {
		t.Helper()
		return picker.Post("/counts", c.asKind(picker, found, s["id"])).JSON()
	}
	settle := func(c counter) world.Answer {
		return lead.Post(differing(lead, c)+"/settle", object{"reason": "as it lies there"})
	}
	for c, found := range map[counter]string{{bin, world.Clamp}: "14", {world.Dock, world.Clamp}: "5"} {
		if got := count(c, found); got["verdict"] != "right" {
			t.Errorf("%v: %v", c, got)
		}
	}
	// One of the damaged is missing, and one more of what is held is there.
	broken, held := counter{damaged, world.Clamp}, counter{quarantine, world.Fluid}
	count(broken, "4")
	count(held, "6")
	stand := func(want string) {
		t.Helper()
		var got string
		if err := h.Owner.Get(&got, `
			SELECT string_agg(p.code || ' ' || b.condition || ' ' || trim_scale(b.quantity), ', ' ORDER BY p.code) FROM balances b
			  JOIN locations p ON p.id = b.location_id WHERE p.kind IN ('damaged', 'quarantine')`); err != nil || got != want {
			t.Errorf("there are %s, not %s: %v", got, want, err)
		}
	}
	settle(broken).JSON()
	settle(held).JSON()
	stand("Damaged damaged 4, Quarantine on_hold 6")
	for _, c := range lead.Get("/counts?site=1").JSON()["rows"].([]any) {
		if at(c, "off") != "0" {
			lead.Post(fmt.Sprintf("/counts/%d/take-back", id(c, "id")), object{"reason": "it was not so"}).JSON()
		}
	}
	stand("Damaged damaged 5, Quarantine on_hold 5")
	// What is packed stays for its order, and what came back for its return, whichever way the count differs.
	carton, returned := counter{gate, world.Clamp}, counter{corner, world.Clamp}
	for _, not := range []struct {
		counter
		found string
		says  []string
	}{{carton, "3", []string{"1 of HC-050 are missing in Gate", "unpack it at Pack"}}, {carton, "5", []string{"1 more", "Unpack it at Pack"}},
		{returned, "1", []string{r["number"].(string), "decide there"}}, {returned, "3", []string{"receive them on a return"}}} {
		count(not.counter, not.found)
		settle(not.counter).Refused(409, "count_bound", "", not.says...)
		lead.Post(differing(lead, not.counter)+"/again", object{}).JSON()
	}
	h.Whole(t)
}

// TestASiteWithoutAislesIsCounted lists what is to be counted at a site whose floor nobody has drawn yet.
func TestASiteWithoutAislesIsCounted(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 20)
	h.Stock(t, world.Clamp, h.Bin(t, "B-03-1-A"), 20)
	h.Owner.MustExec(`DELETE FROM aisles`)
	h.Owner.MustExec(`UPDATE sites SET cross_aisles = '{}'`)
	h.Owner.MustExec(`INSERT INTO count_requests (location_id, item_id, expected, why, raised_by, raised_at)
		SELECT id, $1, 0, 'anew', 1, now() FROM locations WHERE code IN ('A-01-1-A', 'B-03-1-A')`, world.Clamp)
	now := lead.Get("/counts/today?site=1").JSON()
	if len(now["rows"].([]any)) != 2 || now["metres"].(float64) <= 0 {
		t.Errorf("to be counted are %v", now)
	}
	f := lead.Post("/count-sheets/preview", object{"site_id": 1, "scope": "all", "teams": 2}).JSON()
	if len(f["teams"].([]any)) != 2 || at(f, "teams", 1, "metres").(float64) <= 0 {
		t.Errorf("counted whole it is %v", f)
	}
}
