package application_test

import (
	"fmt"
	"sync"
	"testing"

	"lanternrow/internal/test/world"
)

// together has so many people try the same, each as a client of their own that asks no preview, and counts who
// succeeds.
func together(t *testing.T, base string, people int, try func(c *world.Client, who int) world.Answer) (done int, refusals map[string]int) {
	t.Helper()
	refusals = map[string]int{}
	clients := make([]*world.Client, people)
	for i := range clients {
		clients[i] = world.SignOn(t, base, "lead")
		clients[i].Blunt = true
	}
	var wg sync.WaitGroup
	var mutex sync.Mutex
	for i, c := range clients {
		wg.Go(func() {
			a := pressing(func() world.Answer { return try(c, i) })
			mutex.Lock()
			defer mutex.Unlock()
			if a.Status < 300 {
				done++
				return
			}
			refusals[a.Code()]++
		})
	}
	wg.Wait()
	return done, refusals
}

// TestSixClerksReturnTheSameGoods: of nine that went, two at a time may be announced four times, and not once more;
// what came is decided once, and paid for once, however many press at the same moment.
func TestSixClerksReturnTheSameGoods(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 12)
	d := soldOnce(lead, world.Clamp, "9", true)
	sold := lead.Get(fmt.Sprintf("/returnable?q=%s", d["number"])).JSONs()[0]
	kind := kindOf(lead, "Credit")
	done, refused := together(t, base, 6, func(c *world.Client, _ int) world.Answer {
		return c.Post("/returns", object{"site_id": world.Site, "kind_id": kind, "lines": []object{back(sold, "2")}})
	})
	if done != 4 || refused["over_returnable"] != 2 {
		t.Fatalf("%d were announced, and refused %v", done, refused)
	}
	rows := lead.Get("/returns?site=1").Rows()
	path := fmt.Sprintf("/returns/%d", id(rows[0], "id"))
	comeIn(lead, lead.Get(path).JSON(), "2").JSON()
	r := lead.Get(path).JSON()
	done, refused = together(t, base, 6, func(c *world.Client, _ int) world.Answer {
		return c.Post(path+"/decide", object{"version": r["version"], "line_id": at(r, "lines", 0, "id"), "fate": "stock", "quantity": "2"})
	})
	if done != 1 || refused["stale"] != 5 {
		t.Fatalf("%d decided, and refused %v", done, refused)
	}
	r = lead.Get(path).JSON()
	done, refused = together(t, base, 6, func(c *world.Client, _ int) world.Answer {
		return c.Post(path+"/settle", object{"version": r["version"]})
	})
	if done != 1 || refused["stale"] != 5 {
		t.Fatalf("%d settled, and refused %v", done, refused)
	}
	credits := 0
	for _, b := range lead.Get("/invoices?site=1").JSONs() {
		if b["return"] != "" {
			credits++
		}
	}
	if credits != 1 {
		t.Errorf("%d credit notes were made", credits)
	}
	h.Whole(t)
}

// TestSixPeopleSettleOneCase: one of them does, and the goods move once. Six who tell of the same missing unit make one
// case.
func TestSixPeopleSettleOneCase(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	otherSite(t, h)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 3)
	o := lead.Post("/transfer-orders", object{"from_site_id": world.Site, "to_site_id": world.OtherSite, "wanted_on": soon,
		"expected_on": day(9), "release": true, "lines": []object{{"item_id": world.Clamp, "quantity": "1"}}}).JSON()
	packAll(lead, picker, id(o, "id"))
	lead.Post("/shipments", object{"order_id": o["id"]}).JSON()
	line := at(lead.Get(fmt.Sprintf("/transfer-orders/%d", id(o, "id"))).JSON(), "expected", 0, "line_id")
	done, refused := together(t, base, 6, func(c *world.Client, _ int) world.Answer {
		return c.Post("/transfer-cases", object{"line_id": line, "kind": "less", "quantity": "1"})
	})
	if done != 1 || refused["over_in_transit"] != 5 {
		t.Fatalf("%d cases were opened, and refused %v", done, refused)
	}
	open := lead.Get("/transfer-cases?site=1").JSONs()[0]
	ways := []string{"received", "back", "lost"}
	done, refused = together(t, base, 6, func(c *world.Client, who int) world.Answer {
		return c.Post(fmt.Sprintf("/transfer-cases/%d/settle", id(open, "id")), object{"outcome": ways[who%3], "reason": "as I was told"})
	})
	if done != 1 || refused["case_settled"] != 5 {
		t.Fatalf("%d settled it, and refused %v", done, refused)
	}
	var moves int
	if err := h.Owner.Get(&moves, `
		SELECT count(*) FROM moves m JOIN postings p ON p.id = m.posting_id WHERE p.document = $1`, open["number"]); err != nil || moves != 1 {
		t.Errorf("it moved %d times, %v", moves, err)
	}
	h.Whole(t)
}

// TestARoundIsAddedToWhileItIsWalked has one person walk a round while two leads add the same order to it: it is added
// once, and nothing is taken twice.
func TestARoundIsAddedToWhileItIsWalked(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 12)
	h.Stock(t, world.Heavy, h.Bin(t, "B-03-1-A"), 6)
	first, more := sellNow(lead, world.Clamp, "6"), sellNow(lead, world.Heavy, "4")
	r, path := roundFor(lead, picker, id(first, "id"))
	sscc, _ := blank(lead, picker, path, id(first, "id"))
	plan := lead.Post(path+"/add/preview", object{"order_ids": []any{more["id"]}}).JSON()
	stop := at(plan, "stops", 0).(object)
	added := object{"stops": []object{{"line_id": stop["line_id"], "location_id": stop["location_id"], "quantity": "4"}}}
	taken := 0
	done, refused := together(t, base, 6, func(c *world.Client, who int) world.Answer {
		if who < 3 {
			return c.Post(path+"/add", added)
		}
		return c.Post(path+"/pick", object{"stop_id": at(r, "stops", 0, "id"), "bin": "A-01-1-A", "item": "HC-050", "carton": sscc,
			"quantity": "2"})
	})
	for _, s := range lead.Get(path).JSON()["stops"].([]any) {
		taken += decimalOf(at(s, "picked"))
	}
	if done != 4 || refused["over_wanted"]+refused["not_enough"] != 2 || taken != 6 {
		t.Errorf("%d were done with %d taken, and refused %v", done, taken, refused)
	}
	h.Whole(t)
}
