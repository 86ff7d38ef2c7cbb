package application_test

import (
	"fmt"
	"testing"

	"lanternrow/internal/test/world"
)

// TestWhatIsCountedToday puts on the list of the day what somebody asked for, what was emptied and what is due by its
// class, in the order of one walk and no longer than there are minutes; what is counted leaves it.
func TestWhatIsCountedToday(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	first, far := h.Bin(t, "A-01-1-A"), h.Bin(t, "B-03-1-A")
	h.Stock(t, world.Clamp, first, 4)
	h.Stock(t, world.Clamp, far, 9)
	today := func() object { return lead.Get("/counts/today?site=1").JSON() }
	if rows := today()["rows"].([]any); len(rows) != 0 {
		t.Fatalf("with nothing due, to be counted are %v", rows)
	}
	soldOnce(lead, world.Clamp, "4", false)
	why := map[string]string{}
	for _, r := range today()["rows"].([]any) {
		why[at(r, "bin").(string)] = fmt.Sprint(at(r, "reasons"))
	}
	if why["A-01-1-A"] != "[emptied]" {
		t.Fatalf("a bin that a round emptied is counted for %v", why)
	}
	if classes := lead.Get("/counts/classes?site=1").JSONs(); classes[0]["sku"] != "HC-050" || classes[0]["class"] != "A" ||
		classes[0]["share"] != "100" {
		t.Errorf("the first of the ranking is %v", classes[0])
	}
	// A year passes: all is due by its class.
	h.Owner.MustExec(`ALTER TABLE postings DISABLE TRIGGER USER`)
	h.Owner.MustExec(`UPDATE postings SET entered_at = entered_at - interval '40 days'`)
	h.Owner.MustExec(`ALTER TABLE postings ENABLE TRIGGER USER`)
	now := today()
	if rows := now["rows"].([]any); len(rows) != 1 || at(rows, 0, "bin") != "B-03-1-A" || fmt.Sprint(at(rows, 0, "reasons")) != "[overdue]" ||
		now["left"] != 0.0 {
		t.Fatalf("after 40 days to be counted are %v", now)
	}
	h.Owner.MustExec(`UPDATE sites SET count_minutes = 0 WHERE id = 1`)
	if now = today(); len(now["rows"].([]any)) != 0 || now["left"] != 1.0 {
		t.Errorf("with no minutes to be counted are %v, and left %v", now["rows"], now["left"])
	}
	h.Owner.MustExec(`UPDATE sites SET count_minutes = 45 WHERE id = 1`)
	sheet := lead.Get(fmt.Sprintf("/counts/entry?location=%d&item=%d", far, world.Clamp)).JSON()
	picker.Post("/counts", object{"location_id": far, "item_id": world.Clamp, "since": sheet["since"],
		"kinds": []object{{"quantity": "9"}}}).JSON()
	if now = today(); len(now["rows"].([]any)) != 0 {
		t.Errorf("counted, to be counted is still %v", now["rows"])
	}
}
