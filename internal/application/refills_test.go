package application_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"lanternrow/internal/ledger"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

// inCarton puts units of an item into a carton of its own that stands in a bin.
func inCarton(t *testing.T, h *world.House, sscc string, item, location int32, quantity int64) (carton int64) {
	t.Helper()
	if err := h.Owner.Get(&carton, `INSERT INTO cartons (sscc, kind) VALUES ($1, 'carton') RETURNING id`, sscc); err != nil {
		t.Fatal(err)
	}
	if err := h.Post(ledger.Move{Item: item, Quantity: decimal.NewFromInt(quantity), From: world.SupplierLocation, To: location,
		ToBox: &carton}); err != nil {
		t.Fatal(err)
	}
	return carton
}

// levels sets picking bins up, each as SKU / bin, least and most.
func levels(lead *world.Client, rows ...string) world.Answer {
	var out []object
	for i := 0; i < len(rows); i += 3 {
		out = append(out, object{"for": rows[i], "least": rows[i+1], "most": rows[i+2]})
	}
	return lead.Post("/catalog/picking-bins/import", object{"site_id": world.Site, "rows": out})
}

// walked makes the next step of a refill as it is told, and returns what is left.
func walked(c *world.Client, r object, more object) world.Answer {
	step := at(r, "steps", 0).(object)
	body := object{"line_id": step["line_id"], "bin": step["bin"], "quantity": step["quantity"]}
	for k, v := range more {
		body[k] = v
	}
	return c.Post(fmt.Sprintf("/refills/%d/%s", id(r, "id"), step["does"]), body)
}

// TestPickingBinsAreRefilled keeps clamps between 6 and 24 in their home bin: what is short now and what orders will
// take is fetched from reserve, a whole carton first, on one walk, never more than fits, and not twice by two refills.
func TestPickingBinsAreRefilled(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	home, reserve := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A")
	h.Stock(t, world.Clamp, home, 4)
	carton := inCarton(t, h, "095212340000000017", world.Clamp, reserve, 12)
	h.Stock(t, world.Clamp, h.Bin(t, "A-03-1-A"), 20)
	wrong := lead.Post("/catalog/picking-bins/import/preview", object{"site_id": world.Site, "rows": []object{
		{"for": "HC-050", "least": "6", "most": "24"}, {"for": "NO-SUCH / HOME", "least": "6", "most": "24"},
		{"for": "HC-050 / Z-99", "least": "6", "most": "24"}, {"for": "SW-130 / HOME", "least": "1", "most": "2"},
		{"for": "HC-050 / HOME", "least": "25", "most": "24"}}}).JSON()
	if wrong["wrong"] != 5.0 {
		t.Fatalf("of five picking bins that cannot be, %v are wrong: %v", wrong["wrong"], wrong["rows"])
	}
	levels(lead, "HC-050 / home", "6", "24").JSON()
	level := lead.Get("/picking-bins?site=1").JSONs()[0]
	if level["bin"] != "A-01-1-A" || level["holds"] != "4" || level["need"] != "20" || level["short"] != true {
		t.Fatalf("the home bin is %v", level)
	}
	// Orders will take 3 of the 4 that lie there. 23 would be wanted then, and 20 fit.
	o := sellNow(lead, world.Clamp, "3")
	if level = lead.Get("/picking-bins?site=1").JSONs()[0]; level["wanted"] != "3" || level["after"] != "1" || level["need"] != "20" {
		t.Fatalf("with an order it is %v", level)
	}
	// A round takes from it, and not from reserve behind it.
	plan := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []int64{id(o, "id")}}).JSON()
	if at(plan, "stops", 0, "bin") != "A-01-1-A" {
		t.Errorf("a round takes from %v", at(plan, "stops", 0, "bin"))
	}
	seen := picker.Post("/refills/preview", object{"site_id": world.Site}).JSON()
	fetches := at(seen, "walks", 0, "fetches").([]any)
	if len(fetches) != 2 || seen["button"] != "Make 1 refill of 2 lines" {
		t.Fatalf("it would fetch %v", fetches)
	}
	made := picker.Post("/refills", object{"site_id": world.Site}).JSONs()
	picker.Post("/refills", object{"site_id": world.Site}).Refused(409, "nothing_to_take", "", "No picking bin is short")
	r := made[0]
	path := fmt.Sprintf("/refills/%d", id(r, "id"))
	walked(picker, r, nil).Refused(409, "walk_not_begun", "")
	r = picker.Post(path+"/begin", nil).JSON()
	picker.Post(path+"/cancel", nil).Refused(409, "walk_begun", "")
	for _, f := range r["lines"].([]any) {
		if whole := f.(object)["whole"] == true; whole != (f.(object)["quantity"] == "12") {
			t.Errorf("it fetches %v", f)
		}
	}
	walked(picker, r, object{"bin": "B-01-1-A"}).Refused(409, "wrong_bin", "bin", "You scanned B-01-1-A")
	walked(picker, r, object{"quantity": "30"}).Refused(409, "not_enough", "quantity")
	for i := 0; r["state"] == "walking" && i < 9; i++ {
		r = walked(picker, r, nil).JSON()
	}
	if r["state"] != "done" || h.Holds(t, home, world.Clamp) != "24" || h.Holds(t, world.Trolley, world.Clamp) != "0" {
		t.Fatalf("it is %v, and the bin holds %s", r["state"], h.Holds(t, home, world.Clamp))
	}
	var stands int32
	if err := h.Owner.Get(&stands, `SELECT location_id FROM balances WHERE carton_id = $1 AND quantity > 0`, carton); err != nil || stands != home {
		t.Errorf("the carton stands at %d: %v", stands, err)
	}
	walked(picker, made[0], nil).Refused(409, "walk_done", "")
	if kinds := fmt.Sprint(lead.Get("/history?kind=refill&site=1").JSON()["rows"]); kinds == "[]" {
		t.Error("history knows no refill")
	}
	h.Whole(t)
}

// TestAPickingBinTakesLessThanWasPlanned: somebody fills it meanwhile, and reserve holds fewer than the books say. What
// does not fit goes back, the place is counted, and a walk that is ended leaves nothing on the trolley.
func TestAPickingBinTakesLessThanWasPlanned(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	home, far, near := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-03-1-A"), h.Bin(t, "A-02-1-A")
	h.Stock(t, world.Clamp, far, 20)
	h.StockUnits(t, world.Spot, near, "RF-1", "RF-2", "RF-3")
	levels(lead, "HC-050 / A-01-1-A", "6", "20", "SP-150 / B-01-1-A", "1", "2").JSON()
	r := lead.Post("/refills", object{"site_id": world.Site}).JSONs()[0]
	path := fmt.Sprintf("/refills/%d", id(r, "id"))
	r = picker.Post(path+"/begin", nil).JSON()
	if r["person"] != "Some picker" || r["made_by"] != "Some lead" {
		t.Errorf("%v walks it, and %v made it", r["person"], r["made_by"])
	}
	line := func(sku string) object {
		for _, l := range r["lines"].([]any) {
			if at(l, "sku") == sku {
				return l.(object)
			}
		}
		t.Fatalf("no line of %s", sku)
		return nil
	}
	do := func(what, sku, bin, quantity string, more object) world.Answer {
		body := object{"line_id": line(sku)["id"], "bin": bin, "quantity": quantity}
		for k, v := range more {
			body[k] = v
		}
		return picker.Post(path+"/"+what, body)
	}
	// Two of the three units go: they are named.
	do("fetch", "SP-150", "A-02-1-A", "2", nil).Refused(422, "serials_missing", "serials")
	do("fetch", "SP-150", "A-02-1-A", "2", object{"serials": []string{"RF-1", "RF-9"}}).Refused(409, "serial_unknown", "serials")
	do("fetch", "SP-150", "A-02-1-A", "2", object{"serials": []string{"RF-1", "RF-3"}}).JSON()
	do("bring", "SP-150", "B-01-1-A", "1", object{"serials": []string{"RF-2"}}).Refused(409, "serial_elsewhere", "serials")
	do("bring", "SP-150", "B-01-1-A", "1", object{"serials": []string{"RF-3"}}).JSON()
	// 15 of the 20 are found: the place is to be counted, and nothing more is fetched there till then.
	do("fetch", "HC-050", "A-03-1-A", "0", nil).Refused(422, "quantity_zero", "quantity")
	r = do("fetch", "HC-050", "A-03-1-A", "15", object{"no_more": true}).JSON()
	if l := line("HC-050"); l["fetched"] != "15" || l["missed"] != "5" || len(askedFor(lead)) != 1 {
		t.Fatalf("fetched: %v", l)
	}
	// Somebody put 12 there: 12 of the 15 fit.
	h.Stock(t, world.Clamp, home, 12)
	do("bring", "HC-050", "A-01-1-A", "15", nil).Refused(422, "bin_full", "quantity", "can take 12")
	r = do("bring", "HC-050", "A-01-1-A", "12", object{"no_more": true}).JSON()
	steps := fmt.Sprint(r["steps"])
	do("return", "HC-050", "A-01-1-A", "3", nil).Refused(422, "bin_full", "quantity")
	do("return", "HC-050", "Bench", "3", nil).Refused(422, "not_a_bin", "bin")
	do("return", "HC-050", "A-03-1-A", "3", nil).JSON()
	if h.Holds(t, home, world.Clamp) != "24" || h.Holds(t, far, world.Clamp) != "8" {
		t.Fatalf("it holds %s, reserve %s, and was told %s", h.Holds(t, home, world.Clamp), h.Holds(t, far, world.Clamp), steps)
	}
	// Somebody else takes it over and ends it: the unit on the trolley goes back.
	if r = lead.Post(path+"/begin", nil).JSON(); r["person"] != "Some lead" {
		t.Errorf("%v walks it", r["person"])
	}
	r = lead.Post(path+"/end", nil).JSON()
	if r["state"] != "done" || h.Holds(t, world.Trolley, world.Spot) != "0" || h.Holds(t, near, world.Spot) != "2" {
		t.Errorf("ended it is %v, with %s units in reserve", r["state"], h.Holds(t, near, world.Spot))
	}
	lead.Post(path+"/end", nil).Refused(409, "walk_done", "")
	h.Whole(t)
}

// TestSixPeopleMakeTheSameRefill: one is made.
func TestSixPeopleMakeTheSameRefill(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-03-1-A"), 20)
	levels(lead, "HC-050 / HOME", "6", "10").JSON()
	done, refusals := together(t, base, 6, func(c *world.Client, _ int) world.Answer {
		return c.Post("/refills", object{"site_id": world.Site})
	})
	if done != 1 || refusals["nothing_to_take"] != 5 {
		t.Errorf("%d made it, and %v", done, refusals)
	}
	r := lead.Get("/refills?site=1").JSONs()[0]
	lead.Post(fmt.Sprintf("/refills/%d/cancel", id(r, "id")), nil).JSON()
	if again := lead.Post("/refills", object{"site_id": world.Site}).JSONs(); len(again) != 1 {
		t.Errorf("after it is given up, %d are made", len(again))
	}
	h.Whole(t)
}

// TestRefillsNeverOverfillNorLose makes and walks refills at random, several at once and some given up on the way,
// while moves come between: no bin ever holds more than it may, what is in the house stays as much, and nothing stays
// on a trolley.
func TestRefillsNeverOverfillNorLose(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	lead.Blunt = true
	r := rand.New(rand.NewPCG(14, 29))
	total := map[int32]int{}
	stock := func(item int32, bin string, n int) {
		h.Stock(t, item, h.Bin(t, bin), int64(n))
		total[item] += n
	}
	// Clamps and weights share a picking bin of 24 units; reserve is loose and in cartons.
	levels(lead, "HC-050 / A-01-1-A", "5", "14", "SW-130 / A-01-1-A", "3", "12", "HC-050 / A-02-1-A", "2", "9").JSON()
	stock(world.Clamp, "A-03-1-A", 20)
	stock(world.Heavy, "A-04-1-A", 24)
	inCarton(t, h, "095212340000000024", world.Clamp, h.Bin(t, "B-01-1-A"), 8)
	inCarton(t, h, "095212340000000031", world.Clamp, h.Bin(t, "B-02-1-A"), 5)
	total[world.Clamp] += 13
	var open []object
	for range 200 {
		switch r.IntN(6) {
		case 0:
			if a := lead.Post("/refills", object{"site_id": world.Site, "max_lines": 1 + r.IntN(3)}); a.Status == 200 {
				for _, x := range a.JSONs() {
					open = append(open, lead.Post(fmt.Sprintf("/refills/%d/begin", id(x, "id")), nil).JSON())
				}
			}
		case 1:
			// Somebody takes what lies in a bin elsewhere, off its carton if need be.
			from := h.Bin(t, []string{"A-01-1-A", "A-01-1-A", "A-02-1-A", "A-03-1-A"}[r.IntN(4)])
			lie := lead.Get(fmt.Sprintf("/locations/%d", from)).JSON()["holdings"].([]any)
			if len(lie) == 0 {
				continue
			}
			x := lie[r.IntN(len(lie))].(object)
			lead.Post("/transfers", object{"from_id": from, "item_id": x["item_id"], "carton_id": x["carton_id"],
				"quantity": x["quantity"], "to": []string{"A-03-1-A", "A-04-1-A", "B-03-1-A", "B-02-1-A"}[r.IntN(4)]})
		case 2:
			if len(open) > 0 && r.IntN(3) == 0 {
				lead.Post(fmt.Sprintf("/refills/%d/end", id(open[0], "id")), nil)
				open = open[1:]
			}
		default:
			if len(open) == 0 {
				continue
			}
			i := r.IntN(len(open))
			x := lead.Get(fmt.Sprintf("/refills/%d", id(open[i], "id"))).JSON()
			if x["state"] != "walking" {
				open = append(open[:i], open[i+1:]...)
				continue
			}
			if a := walked(lead, x, nil); a.Status != 200 {
				// It is not there, or does not fit any more.
				walked(lead, x, object{"quantity": "0", "no_more": true}).JSON()
				h.Owner.MustExec(`UPDATE count_requests SET settled_at = now()`)
			}
		}
		withinLimits(t, h)
	}
	for _, x := range open {
		lead.Post(fmt.Sprintf("/refills/%d/end", id(x, "id")), nil)
	}
	var moved int
	if err := h.Owner.Get(&moved, `SELECT count(*) FROM refill_moves WHERE brought > 0`); err != nil || moved < 8 {
		t.Errorf("%d lines were brought in all: %v", moved, err)
	}
	for item, n := range total {
		var have int
		if err := h.Owner.Get(&have, `
			SELECT sum(quantity)::int FROM balances b JOIN locations p ON p.id = b.location_id WHERE item_id = $1 AND p.real`,
			item); err != nil || have != n || h.Holds(t, world.Trolley, item) != "0" {
			t.Errorf("of %d there are %d, %s of them on trolleys: %v", n, have, h.Holds(t, world.Trolley, item), err)
		}
	}
	h.Whole(t)
}

// withinLimits fails the test where a bin holds more units than it may.
func withinLimits(t *testing.T, h *world.House) {
	t.Helper()
	var over []string
	if err := h.Owner.Select(&over, `
		SELECT p.code || ' holds ' || sum(b.quantity) FROM locations p JOIN balances b ON b.location_id = p.id
		 WHERE p.max_units IS NOT NULL GROUP BY p.id HAVING sum(b.quantity) > p.max_units`); err != nil || len(over) > 0 {
		t.Fatalf("over their limits: %v %v", over, err)
	}
}

// TestSixPeopleWalkOneRefill make the same step of it at the same moment: it is made once.
func TestSixPeopleWalkOneRefill(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	home := h.Bin(t, "A-01-1-A")
	h.Stock(t, world.Clamp, h.Bin(t, "A-03-1-A"), 20)
	levels(lead, "HC-050 / HOME", "6", "10").JSON()
	x := lead.Post("/refills", object{"site_id": world.Site}).JSONs()[0]
	path := fmt.Sprintf("/refills/%d", id(x, "id"))
	x = lead.Post(path+"/begin", nil).JSON()
	for _, holds := range []string{"0", "10"} {
		step := at(x, "steps", 0).(object)
		done, refusals := together(t, base, 6, func(c *world.Client, _ int) world.Answer {
			return c.Post(path+"/"+step["does"].(string), object{"line_id": step["line_id"], "bin": step["bin"], "quantity": step["quantity"]})
		})
		if done != 1 || refusals["not_enough"]+refusals["walk_done"] != 5 {
			t.Errorf("%v: %d made it, and %v", step["does"], done, refusals)
		}
		if h.Holds(t, home, world.Clamp) != holds {
			t.Errorf("after %v the bin holds %s", step["does"], h.Holds(t, home, world.Clamp))
		}
		x = lead.Get(path).JSON()
	}
	h.Whole(t)
}

// TestRefillsAreMadeOnSchedule by the settings of the schedule, for whoever set it up; what it would do is said before.
func TestRefillsAreMadeOnSchedule(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	wish := object{"site_id": world.Site, "task": "make-refills", "rule": object{"at": []string{"05:45"}},
		"settings": object{"days": 1, "max_lines": 1}}
	if look := lead.Post("/schedules/preview", wish).JSON(); at(look, "would", "words") != "makes no refill: no picking bin is short of what reserve has" {
		t.Errorf("it would be: %v", look["would"])
	}
	h.Stock(t, world.Clamp, h.Bin(t, "A-03-1-A"), 20)
	h.Stock(t, world.Heavy, h.Bin(t, "A-04-1-A"), 20)
	levels(lead, "HC-050 / HOME", "6", "10", "SW-130 / B-01-1-A", "2", "4").JSON()
	if look := lead.Post("/schedules/preview", wish).JSON(); at(look, "would", "words") != "makes 2 refills" {
		t.Errorf("it would be: %v", look["would"])
	}
	s := lead.Post("/schedules", wish).JSON()
	lead.Post(fmt.Sprintf("/schedules/%d/run", id(s, "id")), nil).JSON()
	if made := lead.Get("/refills?site=1").JSONs(); len(made) != 2 || len(made[0]["lines"].([]any)) != 1 {
		t.Errorf("made are %v", made)
	}
	h.Whole(t)
}

// TestACartonMovesAsItIs within its site, with all that is in it: refused whole where it does not fit or part of it is
// held.
func TestACartonMovesAsItIs(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	from, to := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A")
	carton := inCarton(t, h, "095212340000000048", world.Clamp, from, 12)
	h.Stock(t, world.Clamp, to, 13)
	move := func(to string) world.Answer {
		return picker.Post("/transfers/carton", object{"carton_id": carton, "to": to})
	}
	move("A-02-1-A").Refused(422, "bin_full", "quantity", "can take 11 of HC-050, not 12")
	move("A-01-1-A").Refused(422, "same_location", "to")
	move("Z-01-1-A").Refused(404, "unknown", "")
	picker.Post("/transfers/carton", object{"carton_id": 999, "to": "A-02-1-A"}).Refused(404, "carton_empty", "carton_id")
	o := sellNow(lead, world.Clamp, "2")
	lead.Post(fmt.Sprintf("/sales-lines/%d/reservations", id(o, "lines", 0, "id")),
		object{"reservations": []object{{"location_id": from, "carton_id": carton, "quantity": "2"}}}).JSON()
	move("A-03-1-A").Refused(409, "reserved", "", o["number"].(string))
	lead.Post(fmt.Sprintf("/reservations/%d/unreserve", id(lead.Get("/reservations?site=1").Rows()[0], "id")), nil).JSON()
	look := picker.Post("/transfers/carton/preview", object{"carton_id": carton, "to": "A-03-1-A"}).JSON()
	if look["button"] != "Move carton …0048 to A-03-1-A" {
		t.Errorf("its button says %v", look["button"])
	}
	move("A-03-1-A").JSON()
	if h.Holds(t, h.Bin(t, "A-03-1-A"), world.Clamp) != "12" || h.Holds(t, from, world.Clamp) != "0" {
		t.Error("it did not move with what is in it")
	}
	h.Whole(t)
}
