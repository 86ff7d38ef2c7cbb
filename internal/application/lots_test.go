package application_test

import (
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/test/world"
)

// TestALotAtDispatchIsTakenDownOnTheWayOut: its goods lie in bins as one, and every unit that goes
// is of a lot from the take on, in the carton, on the papers and in the trail.
func TestALotAtDispatchIsTakenDownOnTheWayOut(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	if _, err := h.Owner.Exec(`UPDATE items SET tracking = 'lot_out', life_out = 30 WHERE sku = 'HC-050'`); err != nil {
		t.Fatal(err)
	}
	_, arrival := order(t, lead, nil, object{"item_id": world.Clamp, "quantity": "2"})
	line := at(arrival, "lines", 0, "id")
	lead.Post(fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id")), object{"version": arrival["version"],
		"lines": []object{{"line_id": line, "quantity": "2", "lots": []object{{"code": "X", "quantity": "2"}}}}}).Refused(422,
		"lot_unwanted", "lines[0].lots", "needs no lots when it comes in")
	bin := h.Bin(t, "A-01-1-A")
	h.Stock(t, world.Clamp, bin, 8)

	o := sellNow(lead, world.Clamp, "5")
	r, rp := roundFor(lead, picker, id(o, "id"))
	stop := at(r, "stops", 0).(object)
	first, a := blank(lead, picker, rp, id(o, "id"))
	scans := func(lot, quantity, carton string) object {
		return object{"stop_id": stop["id"], "bin": stop["bin"], "item": "HC-050", "lot": lot, "carton": carton,
			"quantity": quantity}
	}
	if next := picker.Post(rp+"/check", scans("", "", "")).JSON(); next["next"] != "lot" {
		t.Fatalf("asked for is %v", next["next"])
	}
	picker.Post(rp+"/pick", scans("", "3", first)).Refused(422, "scan_missing", "lot")
	picker.Post(rp+"/check", scans("HC-050", "", "")).Refused(422, "own_code", "lot")
	picker.Post(rp+"/check", scans("no lot at all, far too long", "", "")).Refused(422, "lot_malformed", "lot")
	picker.Post(rp+"/check", scans("(01)09521234000037(10)L1", "", "")).Refused(409, "wrong_item", "lot",
		"a lot of HZ-500")
	picker.Post(rp+"/other-lot", object{"stop_id": stop["id"], "lot": "D-1"}).Refused(422, "lot_unwanted", "lot")
	// Three of one lot fill the carton, and the rest of the stop is of another, in another.
	picker.Post(rp+"/pick", scans("D-1", "3", first)).JSON()
	second, b := blank(lead, picker, rp, id(o, "id"))
	after := picker.Post(rp+"/pick", scans("D-2", "2", second)).JSON()
	if at(after, "stops", 0, "state") != "picked" || h.Holds(t, bin, world.Clamp) != "3" {
		t.Fatalf("the stop is %v", at(after, "stops", 0))
	}
	picker.Post(rp+"/stage", object{}).JSON()
	// At the bench one goes over, and its lot with it.
	picker.Post(fmt.Sprintf("/cartons/%d/repack", a), object{"to": second, "scan": "HC-050"}).JSON()
	holds := map[string]string{}
	for _, c := range at(lead.Get(fmt.Sprintf("/cartons/%d", b)).JSON(), "contents").([]any) {
		holds[at(c, "lot").(string)] = at(c, "quantity").(string)
	}
	if fmt.Sprint(holds) != "map[D-1:1 D-2:2]" {
		t.Fatalf("the second carton holds %v", holds)
	}
	for _, carton := range []int64{a, b} {
		picker.Post(fmt.Sprintf("/cartons/%d/pack", carton), object{}).JSON()
	}
	shipment := lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	note := paperText(t, lead, fmt.Sprintf("/shipments/%d/note.pdf", id(shipment, "id")))
	if !strings.Contains(note, "D-1") || !strings.Contains(note, "D-2") {
		t.Errorf("the note says %s", note)
	}
	// The lot's trail runs from the take on; nothing of it lies here now.
	lot := at(lead.Get("/scan?site=1&text=D-1").JSON(), "found", 0).(object)
	moved := map[string]int{}
	for _, l := range lead.Get(fmt.Sprintf("/lots/%d/trail?site=1", id(lot, "id"))).JSON()["lines"].([]any) {
		moved[at(l, "kind").(string)] += decimalOf(at(l, "delta"))
	}
	if lot["kind"] != "lot" || moved["ship"] != -3 || moved["pick"] != 0 {
		t.Fatalf("the trail of %v: %v", lot["code"], moved)
	}
	h.Whole(t)

	// Taken back, cancelled and returned to stock, it lies there as one again.
	lead.Post(fmt.Sprintf("/shipments/%d/take-back", id(shipment, "id")), object{"reason": "wrong customer"}).JSON()
	op := fmt.Sprintf("/sales-orders/%d", id(o, "id"))
	lead.Post(op+"/cancel-open", object{"version": lead.Get(op).JSON()["version"]}).JSON()
	for _, task := range lead.Get("/restocks?site=1").JSONs() {
		lead.Post(fmt.Sprintf("/restocks/%d", id(task, "id")), object{"bin": "A-01-1-A"}).JSON()
	}
	if h.Holds(t, bin, world.Clamp) != "8" {
		t.Fatalf("the bin holds %s", h.Holds(t, bin, world.Clamp))
	}
	h.Whole(t)

	// On paper the lot is written down.
	o = sellNow(lead, world.Clamp, "4")
	r, rp = roundFor(lead, lead, id(o, "id"))
	if list := paperText(t, lead, rp+"/list.pdf"); !strings.Contains(list, "lot: ____") {
		t.Errorf("the list has no place for the lot: %s", list)
	}
	lead.Post(rp+"/confirm", object{}).Refused(422, "lot_missing", "differing.lot", "write the lot of the 4 HC-050")
	lead.Post(rp+"/confirm", object{"differing": []object{{"stop_id": at(r, "stops", 0, "id"), "picked": "4",
		"lot": "D-3"}}}).JSON()
	h.Whole(t)
}
