package application_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"lanternrow/internal/test/world"
)

// pressing asks, and asks again while others change the same, as whoever is told so does.
func pressing(ask func() world.Answer) (a world.Answer) {
	for range 50 {
		if a = ask(); a.Code() != "busy" {
			break
		}
	}
	return a
}

// atOnce sends one request of each of several devices at the same time, and counts what
// they were answered: how many got it, and how many were refused with each code.
func atOnce(devices []*world.Client, path string, body any) map[string]int {
	answers := make([]world.Answer, len(devices))
	var all sync.WaitGroup
	begin := make(chan struct{})
	for i, c := range devices {
		c.Blunt = true
		all.Go(func() {
			<-begin
			answers[i] = pressing(func() world.Answer { return c.Post(path, body) })
		})
	}
	close(begin)
	all.Wait()
	out := map[string]int{}
	for _, a := range answers {
		out[a.Code()]++
	}
	return out
}

// TestTheSameThingAskedAtOnceHappensOnce has six devices do the same thing at the same
// moment, each under a key of its own: one does it, the others are told why not, at every
// step of an order's way.
func TestTheSameThingAskedAtOnceHappensOnce(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	const n = 6
	devices := make([]*world.Client, n)
	for i := range devices {
		devices[i] = world.SignOn(t, base, "lead")
	}
	lead := devices[0]
	bin := h.Bin(t, "A-01-1-A")
	h.Stock(t, world.Clamp, bin, 20)
	once := func(what string, got map[string]int, refusals ...string) {
		t.Helper()
		others := 0
		for _, code := range refusals {
			others += got[code]
		}
		if got["ok"] != 1 || others != n-1 {
			t.Errorf("%s at once: %v", what, got)
		}
	}
	held := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"lines": []object{{"item_id": world.Clamp, "quantity": "5"}}}).JSON()
	once("released", atOnce(devices, "/sales-orders/release",
		object{"orders": []object{{"id": held["id"], "version": held["version"]}}}), "stale", "order_not_on_hold")
	line := at(lead.Get(fmt.Sprintf("/sales-orders/%d", id(held, "id"))).JSON(), "lines", 0, "id")
	once("reserved", atOnce(devices, fmt.Sprintf("/sales-lines/%v/reservations", line),
		object{"reservations": []object{{"location_id": bin, "quantity": "3"}}}), "over_wanted")
	stop := object{"line_id": line, "location_id": bin, "quantity": "5"}
	once("let a round go", atOnce(devices, "/rounds", object{"site_id": world.Site, "stops": []object{stop}}),
		"over_wanted")
	round := lead.Get("/rounds?site=1").JSONs()[0]
	rp := fmt.Sprintf("/rounds/%d", id(round, "id"))
	r := lead.Post(rp+"/start", nil).JSON()
	var labels []object
	lead.Post("/cartons", object{"site_id": world.Site, "count": 1}).Into(&labels)
	sscc, carton := labels[0]["sscc"], id(labels[0], "id")
	once("opened a carton", atOnce(devices, rp+"/cartons", object{"scan": sscc}), "carton_used")
	once("took", atOnce(devices, rp+"/pick", object{"stop_id": at(r, "stops", 0, "id"), "bin": "A-01-1-A",
		"item": "HC-050", "carton": sscc, "quantity": "5"}), "stop_done")
	once("bring to the bench", atOnce(devices, rp+"/stage", object{}), "round_not_walking")
	once("closed", atOnce(devices, fmt.Sprintf("/cartons/%d/pack", carton), object{}), "carton_state")
	load := lead.Post("/loads", object{"site_id": world.Site, "carrier": "Northgate Vans"}).JSON()
	lp := fmt.Sprintf("/loads/%d", id(load, "id"))
	once("loaded", atOnce(devices, lp+"/scan", object{"scan": sscc}), "carton_loaded")
	once("left", atOnce(devices, lp+"/leave", object{}), "load_left")
	shipped := at(lead.Get(fmt.Sprintf("/sales-orders/%d", id(held, "id"))).JSON(), "shipments", 0, "id")
	once("invoiced", atOnce(devices, "/invoices", object{"shipment_ids": []any{shipped}}), "nothing_uninvoiced")

	straight := sellNow(lead, world.Clamp, "1")
	packedFor(lead, straight)
	once("shipped", atOnce(devices, "/shipments", object{"order_id": straight["id"]}), "nothing_packed")

	// The last of a bin: a count, two orders' reservations and a move want it at once, and what is
	// there is had once.
	sheet := lead.Get(fmt.Sprintf("/counts/entry?location=%d&item=%d", bin, world.Clamp)).JSON()
	allowAll(h)
	once("counted", atOnce(devices, "/counts", object{"location_id": bin, "item_id": world.Clamp,
		"since": sheet["since"], "kinds": []object{{"quantity": "10"}}}), "count_waits")
	once("settled", atOnce(devices, fmt.Sprintf("/counts/%d/settle", id(lead.Get("/counts/differing?site=1").JSONs()[0], "id")),
		object{"reason": "five are bent"}), "count_over")
	var lines []any
	for range n {
		o := sellNow(lead, world.Clamp, "4")
		lines = append(lines, at(o, "lines", 0, "id"))
	}
	var all sync.WaitGroup
	var mu sync.Mutex
	reserved := map[string]int{}
	for i, l := range lines {
		all.Go(func() {
			code := pressing(func() world.Answer {
				return devices[i].Post(fmt.Sprintf("/sales-lines/%v/reservations", l),
					object{"reservations": []object{{"location_id": bin, "quantity": "4"}}})
			}).Code()
			mu.Lock()
			reserved[code]++
			mu.Unlock()
		})
	}
	all.Wait()
	if reserved["ok"] != 2 || reserved["reserved"] != n-2 {
		t.Errorf("of ten, four each were reserved for six orders: %v", reserved)
	}
	once("moved", atOnce(devices, "/transfers", object{"from_id": bin, "to_id": h.Bin(t, "A-03-1-A"),
		"item_id": world.Clamp, "quantity": "2"}), "reserved", "not_enough")
	if there := h.Holds(t, bin, world.Clamp); there != "8" {
		t.Errorf("the bin holds %s", there)
	}
	h.Whole(t)
}

// TestWhatIsDueIsDoneOnceThoughServersDie has servers look at what is due that are ended in
// the middle of it, at any moment, many times: what is due is done once, and whole.
func TestWhatIsDueIsDoneOnceThoughServersDie(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	office := world.SignOn(t, base, "office")
	const orders = 25
	for range orders {
		office.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
			"lines": []object{{"item_id": world.Clamp, "quantity": "1"}}}).JSON()
	}
	s := office.Post("/schedules", object{"site_id": world.Site, "task": "release-orders",
		"rule": object{"at": []string{"07:30"}}, "settings": object{"days": 365}}).JSON()
	now := time.Now().Add(48 * time.Hour)
	engine := engineAt(h, &now)
	r := rand.New(rand.NewPCG(4, 4))
	died := 0
	var runs int
	var last atomic.Value
	for try, begun := 0, time.Now(); runs == 0; try++ {
		ctx, end := context.WithTimeout(context.Background(), time.Duration(1+r.IntN(10+min(try, 400)*5))*time.Millisecond)
		var all sync.WaitGroup
		for range 3 {
			all.Go(func() {
				if err := engine.Due(ctx); err != nil {
					last.Store(fmt.Sprint(err))
				}
			})
		}
		all.Wait()
		if ctx.Err() != nil {
			died++
		}
		end()
		var gone int
		if err := h.Owner.QueryRow(`
			SELECT (SELECT count(*) FROM schedule_runs),
			       (SELECT count(*) FROM outbound_orders WHERE state = 'released')`).Scan(&runs, &gone); err != nil {
			t.Fatal(err)
		}
		if gone != orders*runs {
			t.Fatalf("%d runs are written down, and %d of %d orders are released", runs, gone, orders)
		}
		// A house that is full beside this one refuses at once: it is waited for by the clock.
		if time.Since(begun) > 3*time.Minute {
			t.Fatalf("it is never done in %d tries, the last: %v; %v", try, last.Load(),
				office.Get("/schedules?site=1").JSONs())
		}
		// One that fell just short of its end is a passing fault, tried again after a pause.
		now = now.Add(time.Minute)
	}
	if died < 3 {
		t.Errorf("only %d servers died: that shows little", died)
	}
	for range 3 {
		if err := engine.Due(context.Background()); err != nil {
			t.Fatal(err)
		}
	}
	list := office.Get("/schedules?site=1").JSONs()
	if len(list) != 1 || list[0]["state"] != "on" || len(list[0]["runs"].([]any)) != 1 ||
		at(list[0], "runs", 0, "words") == "" || list[0]["number"] != s["number"] {
		t.Fatalf("it is %v, and did %v", list[0]["state"], list[0]["runs"])
	}
}
