package application_test

import (
	"fmt"
	"math/rand/v2"
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
	if f["left_out"] != "1 item is on Trolleys, to be counted where it is put down" {
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

// TestPlantedErrorsAreFound moves goods about at random, each time with a chance that other than the books say was put
// down, and has the house counted whole: each error that was planted is found where it is, and no other; settled, the
// books are as the house is, and accuracy says how many were wrong.
func TestPlantedErrorsAreFound(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	allowAll(h)
	r := rand.New(rand.NewPCG(15, 43))
	places := []int32{world.Dock, h.Bin(t, "Gate")}
	for _, code := range []string{"A-01-1-A", "A-02-1-A", "A-03-1-A", "B-01-1-A", "B-02-1-A", "B-03-1-A"} {
		places = append(places, h.Bin(t, code))
	}
	books, truth := map[counter]int64{}, map[counter]int64{}
	for range 120 {
		item, n := []int32{world.Clamp, world.Heavy}[r.IntN(2)], 1+r.Int64N(6)
		from, to := counter{places[r.IntN(len(places))], item}, counter{places[r.IntN(len(places))], item}
		m := ledger.Move{Item: item, From: from.bin, To: to.bin, Quantity: decimal.NewFromInt(n)}
		if from == to || books[from] < n || truth[from] < n {
			m.From = 1
		} else {
			books[from], truth[from] = books[from]-n, truth[from]-n
		}
		if err := h.Post(m); err != nil {
			t.Fatal(err)
		}
		books[to], truth[to] = books[to]+n, truth[to]+n
		if r.IntN(8) == 0 {
			truth[to] += []int64{-1, 1}[r.IntN(2)]
		}
	}
	planted := map[string]bool{}
	for c, n := range books {
		if n != truth[c] {
			planted[fmt.Sprint(c.bin, " ", c.item, " ", truth[c]-n)] = true
		}
	}
	if len(planted) < 5 {
		t.Fatalf("only %d errors were planted", len(planted))
	}
	s := lead.Post("/count-sheets", object{"site_id": 1, "scope": "all", "teams": 3}).JSON()
	sp := fmt.Sprintf("/count-sheets/%v", s["id"])
	counted := 0
	for _, row := range picker.Get(sp).JSON()["rows"].([]any) {
		if at(row, "item_id") == nil {
			continue
		}
		c := counter{int32(id(row, "location_id")), int32(id(row, "item_id"))}
		picker.Post("/counts", c.asKind(picker, fmt.Sprint(truth[c]), s["id"])).JSON()
		counted++
	}
	for _, d := range lead.Get("/counts/differing?site=1").JSONs() {
		if at := fmt.Sprint(d["location_id"], " ", d["item_id"], " ", d["variance"]); !planted[at] {
			t.Errorf("%s was found, and never planted", at)
		} else {
			delete(planted, at)
		}
		lead.Post(fmt.Sprintf("/counts/%d/settle", id(d, "id")), object{"reason": "as it lies there"}).JSON()
	}
	wrong := 0
	for c, n := range truth {
		if h.Holds(t, c.bin, c.item) != fmt.Sprint(n) {
			t.Errorf("in %d of %d are %s by the books, and %d", c.bin, c.item, h.Holds(t, c.bin, c.item), n)
		}
		if n != books[c] {
			wrong++
		}
	}
	all := lead.Get("/counts/accuracy?site=1").JSON()["all"].([]any)[0]
	if len(planted) > 0 || int(id(all, "counted")) != counted || int(id(all, "right")) != counted-wrong {
		t.Errorf("not found: %v; of %d counts %d were wrong, and accuracy says %v", planted, counted, wrong, all)
	}
	h.Whole(t)
}
