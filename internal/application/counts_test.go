package application_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"lanternrow/internal/test/world"
)

// askedFor are the bins of the first site that somebody put down for counting.
func askedFor(c *world.Client) (out []object) {
	for _, r := range c.Get("/counts/today?site=1").JSON()["rows"].([]any) {
		if strings.Contains(fmt.Sprint(at(r, "reasons")), "asked") {
			out = append(out, r.(object))
		}
	}
	return out
}

// counter counts one item in one bin.
type counter struct {
	bin, item int32
}

// of is a count as it is sent: of the entry as the client reads it now.
func (c counter) of(by *world.Client, found string, more object) object {
	entry := by.Get(fmt.Sprintf("/counts/entry?location=%d&item=%d", c.bin, c.item)).JSON()
	body := object{"location_id": c.bin, "item_id": c.item, "since": entry["since"], "kinds": []object{{"quantity": found}}}
	for k, v := range more {
		body[k] = v
	}
	return body
}

func (c counter) confirm(by *world.Client, found string) object {
	return by.Post("/counts", c.of(by, found, nil)).JSON()
}

// TestWhatDiffersByMuchIsCountedByOthers counts 20 by the books as 17, which is beyond what any class may differ by:
// another person counts again, a third where those two disagree, and nobody twice; a lead decides on what the last
// found.
func TestWhatDiffersByMuchIsCountedByOthers(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker, receiver := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker"), world.SignOn(t, base, "receiver")
	clamps := counter{h.Bin(t, "A-01-1-A"), world.Clamp}
	h.Stock(t, world.Clamp, clamps.bin, 20)
	if d := clamps.confirm(picker, "17"); d["verdict"] != "again" || strings.Contains(d["words"].(string), "20") {
		t.Fatalf("17 of 20 counted: %v", d)
	}
	today := lead.Get("/counts/today?site=1").JSON()
	if fmt.Sprint(at(today, "rows", 0, "reasons")) != "[again]" || fmt.Sprint(at(today, "rows", 0, "barred")) != "[3]" {
		t.Fatalf("to be counted again: %v", today["rows"])
	}
	picker.Post("/counts/preview", clamps.of(picker, "17", nil)).Refused(409, "count_mine", "", "yourself")
	picker.Post("/counts", clamps.of(picker, "17", nil)).Refused(409, "count_mine", "", "somebody else")
	first := id(lead.Get("/counts/differing?site=1").JSONs()[0], "id")
	lead.Post(fmt.Sprintf("/counts/%d/settle", first), object{"reason": "it must be so"}).Refused(409, "count_over", "", "recount")
	if d := clamps.confirm(receiver, "18"); d["verdict"] != "again" {
		t.Fatalf("two that disagree: %v", d)
	}
	receiver.Post("/counts", clamps.of(receiver, "17", nil)).Refused(409, "count_mine", "")
	d := clamps.confirm(lead, "17")
	if d["verdict"] != "decide" {
		t.Fatalf("the third: %v", d)
	}
	file := lead.Get(fmt.Sprintf("/counts/%d", id(d, "id"))).JSON()
	if len(file["counts"].([]any)) != 3 || at(file, "counts", 0, "state") != "repeated" || at(file, "counts", 2, "passes") != false {
		t.Errorf("the three counts are %v", file["counts"])
	}
	lead.Post(fmt.Sprintf("/counts/%d/settle", id(d, "id")), object{"reason": "three are nowhere"}).JSON()
	if h.Holds(t, clamps.bin, world.Clamp) != "17" {
		t.Errorf("settled, there are %s", h.Holds(t, clamps.bin, world.Clamp))
	}
	// Two who say that the books are right outvote one.
	clamps.confirm(picker, "3")
	clamps.confirm(receiver, "17")
	if d := clamps.confirm(lead, "17"); d["verdict"] != "right" || len(lead.Get("/counts/differing?site=1").JSONs()) != 0 {
		t.Errorf("two found what should be there: %v", d)
	}
	// What is within the allowance of its class waits for a lead at once; by its worth too.
	h.Owner.MustExec(`UPDATE sites SET allow_c_pct = 10`)
	if d := clamps.confirm(picker, "16"); d["verdict"] != "decide" {
		t.Errorf("1 of 17 is within 10 per cent: %v", d)
	}
	lead.Post(fmt.Sprintf("/counts/%d/again", id(lead.Get("/counts/differing?site=1").JSONs()[0], "id")), object{}).JSON()
	h.Owner.MustExec(`UPDATE sites SET allow_c_pct = 0, allow_value = 40`)
	if d := clamps.confirm(picker, "15"); d["verdict"] != "decide" {
		t.Errorf("2 of 17, worth 37.50, are within 40: %v", d)
	}
	h.Whole(t)
}

// TestACountStandsForItsMoment counts while goods move: whoever counts says whether it was before or after, what moves
// until it is settled is taken into account and shown, and a settled count is taken back by its opposite.
func TestACountStandsForItsMoment(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	allowAll(h)
	clamps := counter{h.Bin(t, "A-01-1-A"), world.Clamp}
	h.Stock(t, world.Clamp, clamps.bin, 20)
	read := clamps.of(picker, "19", nil)
	h.Stock(t, world.Clamp, clamps.bin, 5)
	picker.Post("/counts", read).Refused(409, "moved_since", "since", "Some lead", "before that")
	read["before"] = true
	picker.Post("/counts", read).JSON()
	c := lead.Get("/counts/differing?site=1").JSONs()[0]
	file := lead.Get(fmt.Sprintf("/counts/%d", id(c, "id"))).JSON()
	if c["expected"] != "20" || c["variance"] != "-1" || at(file, "moved", 0, "delta") != "5" {
		t.Fatalf("counted before 5 came: %v", file)
	}
	h.Stock(t, world.Clamp, clamps.bin, 3)
	cp := fmt.Sprintf("/counts/%d", id(c, "id"))
	if plan := lead.Post(cp+"/settle/preview", object{"reason": ""}).JSON(); at(plan, "moves", 0, "quantity") != "1" {
		t.Fatalf("settled it would %v", plan)
	}
	lead.Post(cp+"/settle", object{"reason": "one is bent"}).JSON()
	if got := h.Holds(t, clamps.bin, world.Clamp); got != "27" {
		t.Fatalf("20 counted as 19, 8 came: there are %s", got)
	}
	picker.Post(cp+"/take-back", object{"reason": "it was not"}).Refused(403, "role", "")
	lead.Post(cp+"/take-back", object{"reason": "no"}).Refused(422, "reason_short", "reason")
	if plan := lead.Post(cp+"/take-back/preview", object{}).JSON(); at(plan, "button") != "Take back "+c["number"].(string) {
		t.Errorf("taken back it would %v", plan)
	}
	lead.Post(cp+"/take-back", object{"reason": "the bent one is fine"}).JSON()
	lead.Post(cp+"/take-back", object{"reason": "the bent one is fine"}).Refused(409, "count_over", "", "taken back")
	if got := h.Holds(t, clamps.bin, world.Clamp); got != "28" || len(askedFor(lead)) != 1 {
		t.Errorf("taken back, there are %s, and %v are to be counted", got, askedFor(lead))
	}
	// On paper: a time that has not come, one before the first move, and one before a count that was settled since.
	picker.Post("/counts", clamps.of(picker, "28", object{"how": "paper", "at": "2099-01-01T10:00:00Z"})).Refused(422, "day_far", "at")
	picker.Post("/counts", clamps.of(picker, "28", object{"how": "paper", "at": "1999-01-01T10:00:00Z"})).Refused(422, "day_past", "at")
	picker.Post("/counts", clamps.of(picker, "28", object{"at": "half past ten"})).Refused(422, "time_malformed", "at")
	var before string
	if err := h.Owner.Get(&before, `
		SELECT to_char(entered_at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"') FROM postings ORDER BY id LIMIT 1`); err != nil {
		t.Fatal(err)
	}
	picker.Post("/counts", clamps.of(picker, "28", object{"at": before})).Refused(409, "moved_since", "since", "settled by")
	for wrong, code := range map[string]string{"-3": "quantity_negative", "1e9": "quantity_malformed", "2.5": "quantity_fraction", "many": "quantity_malformed",
		"99999999999999": "quantity_absurd"} {
		picker.Post("/counts", clamps.of(picker, wrong, nil)).Refused(422, code, "kinds[0].quantity")
	}
	h.Whole(t)
}

// TestReservedGoodsAreCountedAwayOncePlannedAnew counts away what two orders wait for: one press plans them from
// another bin, on the round that one of them is on, and reserved by hand for the other.
func TestReservedGoodsAreCountedAwayOncePlannedAnew(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	allowAll(h)
	near, far := counter{h.Bin(t, "A-01-1-A"), world.Clamp}, h.Bin(t, "B-03-1-A")
	h.Stock(t, world.Clamp, near.bin, 10)
	o := sellNow(lead, world.Clamp, "6")
	r, _ := roundFor(lead, picker, id(o, "id"))
	held := sellNow(lead, world.Clamp, "3")
	lead.Post(fmt.Sprintf("/sales-lines/%v/reservations", at(held, "lines", 0, "id")), object{"reservations": []object{
		{"location_id": near.bin, "quantity": "3"}}}).JSON()
	h.Stock(t, world.Clamp, far, 20)
	near.confirm(picker, "4")
	cp := fmt.Sprintf("/counts/%d", id(lead.Get("/counts/differing?site=1").JSONs()[0], "id"))
	lead.Post(cp+"/settle", object{"reason": "a box is gone"}).Refused(409, "count_reserved", "", o["number"].(string), held["number"].(string), "5 fewer")
	if got := h.Holds(t, near.bin, world.Clamp); got != "10" {
		t.Fatalf("refused, there are %s", got)
	}
	lead.Post(cp+"/settle", object{"reason": "a box is gone", "sure": []string{"count_reserved"}}).JSON()
	var reserved string
	if err := h.Owner.Get(&reserved, `
		SELECT string_agg(p.code || ' ' || o.number || ' ' || trim_scale(sum), ', ' ORDER BY p.code, o.id) FROM (
		    SELECT x.location_id, l.order_id, sum(x.quantity) FROM reservations x JOIN outbound_lines l ON l.id = x.line_id GROUP BY 1, 2) AS s
		  JOIN locations p ON p.id = s.location_id JOIN outbound_orders o ON o.id = s.order_id`); err != nil {
		t.Fatal(err)
	}
	want := fmt.Sprintf("A-01-1-A %s 4, B-03-1-A %[1]s 2, B-03-1-A %s 3", o["number"], held["number"])
	if reserved != want || h.Holds(t, near.bin, world.Clamp) != "4" {
		t.Errorf("reserved are %s, not %s; %s are there", reserved, want, h.Holds(t, near.bin, world.Clamp))
	}
	if round := picker.Get(fmt.Sprintf("/rounds/%v", r["id"])).JSON(); len(round["stops"].([]any)) != 2 || at(round, "stops", 1, "bin") != "B-03-1-A" {
		t.Errorf("the round goes to %v", round["stops"])
	}
	h.Whole(t)
}

// TestASheetIsCountedByItsTeams counts a house whole: two teams share its bins, what is on a sheet is counted there
// alone, what else lies in a bin is found, and a sheet that is closed takes no more.
func TestASheetIsCountedByItsTeams(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	allowAll(h)
	bins := []string{"A-01-1-A", "A-03-1-A", "B-02-1-A", "B-03-1-A"}
	for i, bin := range bins {
		h.Stock(t, world.Clamp, h.Bin(t, bin), int64(3+i))
	}
	wanted := object{"site_id": 1, "scope": "all", "teams": 2}
	f := lead.Post("/count-sheets/preview", wanted).JSON()
	if f["described"] != "everything" || len(f["teams"].([]any)) != 2 {
		t.Fatalf("it will be %v", f)
	}
	picker.Post("/count-sheets", wanted).Refused(403, "role", "")
	s := lead.Post("/count-sheets", wanted).JSON()
	sp := fmt.Sprintf("/count-sheets/%v", s["id"])
	lead.Post("/count-sheets", wanted).Refused(422, "sheet_empty", "", s["number"].(string))
	lead.Post("/count-sheets/preview", object{"site_id": 1, "scope": "lot", "item_id": world.Clamp, "lot": "nope", "teams": 1}).Refused(422, "lot_unknown", "lot")
	lead.Post("/count-sheets/preview", object{"site_id": 1, "scope": "zone", "zone": "Q", "teams": 1}).Refused(422, "zone_unknown", "zone")
	lead.Post("/count-sheets/preview", object{"site_id": 1, "scope": "bins", "teams": 1}).Refused(422, "field_missing", "bins")
	first := counter{h.Bin(t, bins[0]), world.Clamp}
	picker.Post("/counts", first.of(picker, "3", nil)).Refused(409, "on_sheet", "sheet", s["number"].(string))
	of := func(c counter, found string) object {
		return c.of(picker, found, object{"sheet": s["id"], "how": "hand"})
	}
	nothing := func(bin int32) world.Answer { return picker.Post(sp+"/nothing-else", object{"location_id": bin}) }
	nothing(first.bin).Refused(409, "sheet_over", "", "1 items")
	picker.Post("/counts", of(first, "3")).JSON()
	picker.Post("/counts", of(first, "3")).Refused(409, "count_over", "", "already")
	// A fluid lies there too, that the books have elsewhere or nowhere.
	if d := picker.Post("/counts", of(counter{first.bin, world.Heavy}, "2")).JSON(); d["verdict"] != "again" {
		t.Errorf("what else lies there: %v", d)
	}
	nothing(first.bin).JSON()
	nothing(first.bin).Refused(409, "count_over", "")
	for _, row := range picker.Get(sp).JSON()["rows"].([]any)[:] {
		if at(row, "state") == "open" && at(row, "item_id") != nil && at(row, "bin") != bins[3] {
			picker.Post("/counts", of(counter{int32(at(row, "location_id").(float64)), world.Clamp}, "4")).JSON()
		}
	}
	now := picker.Get(sp).JSON()
	if now["counted"].(float64) != 4 || len(now["by_team"].([]any)) != 2 || at(now, "areas", 0, "name") != "A" {
		t.Errorf("it is as far as %v, %v", now["counted"], now["areas"])
	}
	if pdf := lead.Get(sp + "/sheet.pdf?team=2"); pdf.Status != 200 || !strings.HasPrefix(string(pdf.Body), "%PDF") {
		t.Errorf("on paper it is %d", pdf.Status)
	}
	lead.Post(sp+"/close", object{}).JSON()
	lead.Post(sp+"/close", object{}).Refused(409, "sheet_over", "sheet", "closed by Some lead")
	picker.Post("/counts", of(counter{h.Bin(t, bins[3]), world.Clamp}, "6")).Refused(409, "sheet_over", "sheet", "was not written")
	// What was left is counted on its own, or on another sheet.
	last := counter{h.Bin(t, bins[3]), world.Clamp}
	again := lead.Post("/count-sheets", object{"site_id": 1, "scope": "bins", "bins": []string{bins[3]}, "teams": 4}).JSON()
	if again["teams"] != 1.0 || again["lines"] != 2.0 {
		t.Fatalf("a sheet of one bin: %v", again)
	}
	picker.Post("/counts", last.of(picker, "6", object{"sheet": again["id"]})).JSON()
	picker.Post(fmt.Sprintf("/count-sheets/%v/nothing-else", again["id"]), object{"location_id": last.bin}).JSON()
	if s := picker.Get(fmt.Sprintf("/count-sheets/%v", again["id"])).JSON(); s["state"] != "counted" {
		t.Errorf("all of it counted it is %v", s["state"])
	}
	h.Whole(t)
}

// TestCountsAndPicksAtOnce counts a bin over and over while it is picked from: whatever comes first, the books come out
// as the bin is, and every count says right.
func TestCountsAndPicksAtOnce(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	clamps := counter{h.Bin(t, "A-01-1-A"), world.Clamp}
	h.Stock(t, world.Clamp, clamps.bin, 60)
	var all sync.WaitGroup
	all.Go(func() {
		mover := world.SignOn(t, base, "picker")
		for range 20 {
			mover.Post("/transfers", object{"from_id": clamps.bin, "to": "B-03-1-A", "item_id": world.Clamp, "quantity": "1"}).JSON()
		}
	})
	wrong := 0
	for range 15 {
		entry := lead.Get(fmt.Sprintf("/counts/entry?location=%d&item=%d", clamps.bin, world.Clamp)).JSON()
		var there string
		if err := h.Owner.Get(&there, `
			SELECT trim_scale(coalesce(sum(delta), 0)) FROM move_ends WHERE location_id = $1 AND item_id = $2 AND move_id <= $3`, clamps.bin,
			world.Clamp, entry["since"]); err != nil {
			t.Fatal(err)
		}
		d := lead.Post("/counts", object{"location_id": clamps.bin, "item_id": world.Clamp, "since": entry["since"], "before": true,
			"kinds": []object{{"quantity": there}}}).JSON()
		if d["verdict"] != "right" {
			wrong++
		}
	}
	all.Wait()
	if wrong > 0 {
		t.Errorf("%d of 15 counts of what was there at their moment differ", wrong)
	}
	h.Whole(t)
}

// TestABinThatARoundEmptiedIsLookedInto picks a bin empty: the stop asks for a look, which counts the bin, right or
// wrong; once.
func TestABinThatARoundEmptiedIsLookedInto(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 4)
	h.Stock(t, world.Clamp, h.Bin(t, "B-03-1-A"), 9)
	emptied := func(found string, verdict int) {
		t.Helper()
		order := id(sellNow(lead, world.Clamp, "4"), "id")
		r, rp := roundFor(lead, picker, order)
		stop := at(r, "stops", 0).(object)
		if stop["empties"] != true || stop["ask_nought"] != false {
			t.Fatalf("before it is taken the stop says %v", stop)
		}
		picker.Post(rp+"/nought", object{"stop_id": stop["id"], "left": "0"}).Refused(409, "stop_done", "stop_id")
		sscc, _ := blank(lead, picker, rp, order)
		takeAll(picker, rp, sscc, r)
		r = picker.Get(rp).JSON()
		if at(r, "stops", 0, "ask_nought") != true {
			t.Fatalf("once it is taken the stop says %v", at(r, "stops", 0))
		}
		picker.Post(rp+"/nought", object{"stop_id": stop["id"], "left": "some"}).Refused(422, "quantity_malformed", "left")
		if r = picker.Post(rp+"/nought", object{"stop_id": stop["id"], "left": found}).JSON(); at(r, "stops", 0, "ask_nought") != false {
			t.Errorf("looked into, it asks again: %v", at(r, "stops", 0))
		}
		picker.Post(rp+"/nought", object{"stop_id": stop["id"], "left": found}).Refused(409, "stop_done", "stop_id")
		if waits := lead.Get("/counts/differing?site=1").JSONs(); len(waits) != verdict {
			t.Errorf("%s found there: %v wait", found, waits)
		}
	}
	emptied("0", 0)
	counts := lead.Get("/counts?site=1").JSON()["rows"].([]any)
	if len(counts) != 1 || at(counts, 0, "how") != "round" || at(counts, 0, "off") != "0" {
		t.Fatalf("the look is kept as %v", counts)
	}
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 4)
	emptied("2", 1)
	h.Owner.MustExec(`UPDATE sites SET nought_check = false`)
	h.Whole(t)
}
