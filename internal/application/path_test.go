package application_test

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/application"
	"lanternrow/internal/platform/config"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/test/judge"
	"lanternrow/internal/test/world"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

type object = map[string]any

// serve serves a house of the test's own.
func serve(t *testing.T) (*world.House, string) {
	t.Helper()
	h := world.New(t)
	if within, _, _ := strings.Cut(t.Name(), "/"); inStorm[within] != nil {
		return h, inStorm[within](t, h)
	}
	return h, world.Serve(t, opened(t, h, h.Pools(t)).App)
}

// opened is the application over a house, until the test ends.
func opened(t *testing.T, h *world.House, pools *postgres.Pools) *web.Server {
	t.Helper()
	ctx, stop := context.WithCancel(context.Background())
	t.Cleanup(stop)
	return application.New(ctx, pools, h.ServeURL, config.Config{StandIns: true, CompanyPrefix: "9521234"})
}

// allowAll has every count pass, however much it differs: what differs waits for a lead at once, and for no other person.
func allowAll(h *world.House) {
	h.Owner.MustExec(`UPDATE sites SET allow_a_pct = 100, allow_b_pct = 100, allow_c_pct = 100`)
}

// eventually asks until what it reads is so: what is told outside is told after the answer.
func eventually(t *testing.T, read func() object, so func(object) bool) object {
	t.Helper()
	for deadline := time.Now().Add(30 * time.Second); ; time.Sleep(20 * time.Millisecond) {
		got := read()
		if so(got) {
			return got
		}
		if time.Now().After(deadline) {
			t.Fatalf("it stays %v", got)
		}
	}
}

// outbox reads a site's mail: what waits, the oldest first, and what does not, the newest first.
func outbox(c *world.Client) func() object {
	return func() object {
		return object{
			"waiting": c.Get("/outbox/letters?site=1").JSON()["rows"],
			"sent":    c.Get("/outbox/letters?site=1&state=over&down=true").JSON()["rows"],
		}
	}
}

// paperText reads what a paper says.
func paperText(t *testing.T, c *world.Client, path string) string {
	t.Helper()
	read := exec.Command("pdftotext", "-layout", "-", "-")
	read.Stdin = bytes.NewReader(c.Get(path).Body)
	text, err := read.Output()
	if err != nil {
		t.Fatalf("pdftotext (apt-get install poppler-utils): %v", err)
	}
	return string(text)
}

// empty tells whether a list of an answer has nothing in it.
func empty(list string) func(object) bool {
	return func(o object) bool { return len(o[list].([]any)) == 0 }
}

func at(v any, path ...any) any {
	for _, p := range path {
		switch p := p.(type) {
		case string:
			v = v.(object)[p]
		case int:
			v = v.([]any)[p]
		}
	}
	return v
}

func id(v any, path ...any) int64 { return int64(at(v, path...).(float64)) }

var soon = time.Now().AddDate(0, 0, 3).Format(time.DateOnly)

// buy sends an order for clamps and fluid and opens an arrival for it.
func buy(t *testing.T, c *world.Client, clamps, fluid string) (order, arrival object) {
	t.Helper()
	order = c.Post("/purchase-orders", object{"supplier_id": world.Supplier, "site_id": world.Site,
		"expected_on": soon, "send": true,
		"lines": []object{{"item_id": world.Clamp, "quantity": clamps},
			{"item_id": world.Fluid, "quantity": fluid}}}).JSON()
	arrival = c.Post("/arrivals", object{"order_ids": []int64{id(order, "id")}, "dock_id": world.Dock}).JSON()
	return order, arrival
}

// TestTheWholePath takes goods from the supplier to the customer, and looks at stock
// after each step.
func TestTheWholePath(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	po, arrival := buy(t, lead, "42", "10")
	clampLine, fluidLine := id(arrival, "lines", 0, "id"), id(arrival, "lines", 1, "id")
	path := fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id"))

	// A GS1 code fills item, lot, expiry and count.
	read := lead.Get("/scan?site=1&text=%5DC1010952123400003717281231" + "10LF1%1D30" + "5").JSON()
	if at(read, "goods", "item", "sku") != "HZ-500" || at(read, "goods", "lot") != "LF1" ||
		at(read, "goods", "quantity") != "5" || at(read, "goods", "expires") != "2028-12-31" {
		t.Fatalf("the scan was read as %v", read["goods"])
	}
	lead.Post(path+"/preview",
		object{"version": 1,
			"lines": []object{{"line_id": fluidLine,
				"quantity": "5"}}}).Refused(422, "lot_missing", "lines[0].lots", "which lot the 5")
	body := object{"version": 1, "lines": []object{{"line_id": clampLine, "quantity": "42"},
		{"line_id": fluidLine, "quantity": "5",
			"lots": []object{{"code": "LF1", "expires_on": "2028-12-31", "quantity": "5"}}}}}
	plan := lead.Post(path+"/preview", body).JSON()
	if at(plan, "button") != "Receive 47 at Dock 1" || at(plan, "moves", 0, "to_after") != "42" ||
		at(plan, "moves", 1, "lot") != "LF1" {
		t.Fatalf("the plan is %v", plan)
	}
	if h.Holds(t, world.Dock, world.Clamp) != "0" {
		t.Fatal("a preview moved stock")
	}
	lead.Post(path, body).JSON()
	lead.Post(path, body).Refused(409, "stale", "version", "Some lead received goods in")

	// Bins take 24 each: the 42 are spread.
	goods := object{"location_id": world.Dock, "item_id": world.Clamp, "quantity": "42"}
	proposal := lead.Post("/put-away/propose", goods).JSON()
	if at(proposal, "locations", 0, "bin") != "A-01-1-A" || at(proposal, "locations", 0, "quantity") != "24" ||
		at(proposal, "locations", 1, "quantity") != "18" {
		t.Fatalf("proposed %v", proposal["locations"])
	}
	goods["locations"] = []object{{"bin": "A-01-1-A", "quantity": "24"}, {"bin": "A-02-1-A", "quantity": "18"}}
	lead.Post("/put-away", goods).JSON()
	var lot int64
	if err := h.Owner.Get(&lot, `SELECT id FROM lots WHERE code = 'LF1'`); err != nil {
		t.Fatal(err)
	}
	lead.Post("/put-away", object{"location_id": world.Dock, "item_id": world.Fluid, "lot_id": lot, "quantity": "5",
		"locations": []object{{"bin": "b-01-1-a", "quantity": "5"}}}).JSON()
	// A line of the trail leads to what brought the goods: their arrival, and its order.
	trail := lead.Get(fmt.Sprintf("/lots/%d/trail?site=1", lot)).JSON()
	if at(trail, "lines", 0, "kind") != "put_away" || at(trail, "lines", 0, "document") != at(arrival, "number") ||
		at(trail, "lines", 0, "orders", 0) != at(po, "number") {
		t.Errorf("the way into the bin is told as %v", at(trail, "lines", 0))
	}

	// 32 wanted, the fullest bin holds 24: 24 and 8 on one list.
	order := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site,
		"wanted_on": soon, "lines": []object{{"item_id": world.Clamp, "quantity": "32"},
			{"item_id": world.Fluid, "quantity": "7"}}}).JSON()
	lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []int64{id(order, "id")}}).Refused(409,
		"order_not_released", "order_ids", "is on hold")
	lead.Post("/sales-orders/release", object{"orders": []object{{"id": id(order, "id"), "version": 1}}})
	outlook := entered(lead, soon, 0, world.Clamp, "2").JSON()
	if at(outlook, "lines", 0, "free") != "10" || at(outlook, "lines", 0, "free_after") != "8" {
		t.Fatalf("outlook %v", outlook)
	}
	p := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []int64{id(order, "id")}}).JSON()
	if len(p["stops"].([]any)) != 3 || at(p, "shortages", 0, "quantity") != "2" {
		t.Fatalf("planned %v", p)
	}
	stops := []object{}
	for _, s := range p["stops"].([]any) {
		stops = append(stops, object{"line_id": at(s, "line_id"), "location_id": at(s, "location_id"),
			"lot_id": at(s, "lot_id"), "quantity": at(s, "quantity")})
		if at(s, "lot_id") == nil {
			delete(stops[len(stops)-1], "lot_id")
		}
	}
	round := lead.Post("/rounds", object{"site_id": world.Site, "stops": stops}).JSON()
	lead.Post("/transfers", object{"from_id": h.Bin(t, "A-01-1-A"), "to": "A-03-1-A", "item_id": world.Clamp,
		"quantity": "1"}).Refused(409, "reserved", "", "S-33")

	// The round on the handheld, with every wrong scan there is.
	rp := fmt.Sprintf("/rounds/%d", id(round, "id"))
	picker.Post(rp+"/start", nil).JSON()
	labels := []object{}
	lead.Post("/cartons", object{"site_id": world.Site, "count": 2}).Into(&labels)
	picker.Post(rp+"/cartons", object{"scan": "A-01-1-A"}).Refused(409, "wrong_carton", "carton", "no carton label")
	round = picker.Post(rp+"/cartons", object{"scan": "]C100" + labels[0]["sscc"].(string)}).JSON()
	stop := round["stops"].([]any)[0].(object)
	scans := object{"stop_id": stop["id"], "bin": "B-04-1-A"}
	picker.Post(rp+"/check", scans).Refused(409, "wrong_bin", "bin", "You scanned B-04-1-A", "at "+stop["bin"].(string))
	scans["bin"], scans["item"] = stop["bin"], map[bool]string{true: "HC-050", false: "HZ-500"}[stop["sku"] != "HC-050"]
	picker.Post(rp+"/check", scans).Refused(409, "wrong_item", "item", "Here you take "+stop["sku"].(string))
	scans["item"], scans["carton"] = stop["sku"], labels[1]["sscc"]
	picker.Post(rp+"/check", scans).Refused(409, "wrong_carton", "carton", "carton A")
	picker.Post(rp+"/pick", object{"stop_id": stop["id"], "bin": stop["bin"],
		"quantity": stop["quantity"]}).Refused(422, "scan_missing", "item")
	for _, s := range round["stops"].([]any) {
		s := s.(object)
		take := object{"stop_id": s["id"], "bin": s["bin"], "item": s["sku"], "carton": labels[0]["sscc"],
			"quantity": "99"}
		picker.Post(rp+"/pick", take).Refused(409, "over_wanted", "quantity", "not 99")
		take["quantity"] = s["quantity"]
		picker.Key = fmt.Sprint("take-", s["id"])
		picker.Post(rp+"/pick", take).JSON()
		picker.Key = fmt.Sprint("take-", s["id"])
		picker.Post(rp+"/pick", take).JSON() // sent again: it happened once
	}
	if got := h.Holds(t, world.Trolley, world.Clamp); got != "32" {
		t.Fatalf("the trolley holds %s clamps", got)
	}
	picker.Post(rp+"/stage", object{}).JSON()
	picker.Post(fmt.Sprintf("/cartons/%d/pack", id(labels[0], "id")), object{"weight_kg": "-3"}).Refused(422,
		"quantity_negative", "weight_kg")
	picker.Post(fmt.Sprintf("/cartons/%d/pack", id(labels[0], "id")), object{"weight_kg": "40.5"}).JSON()
	send := picker.Post("/shipments/preview", object{"order_id": id(order, "id")}).JSON()
	if at(send, "notes", 0) != "2 units stay open on "+order["number"].(string)+"." {
		t.Fatalf("sending says %v", send["notes"])
	}
	shipment := picker.Post("/shipments", object{"order_id": id(order, "id")}).JSON()
	after := lead.Get(fmt.Sprintf("/sales-orders/%d", id(order, "id"))).JSON()
	if at(after, "state") != "released" || at(after, "lines", 0, "shipped") != "32" ||
		at(after, "lines", 1, "shipped") != "5" {
		t.Fatalf("the order shows %v", after)
	}
	if h.Holds(t, world.Gate, world.Clamp) != "0" || h.Holds(t, h.Bin(t, "A-01-1-A"), world.Clamp) == "24" {
		t.Fatal("what was shipped is still here")
	}
	papers(t, picker, shipment, labels[0])
	h.Whole(t)
}

// papers reads the printed papers: the label with another decoder, the note's words.
func papers(t *testing.T, c *world.Client, shipment, carton object) {
	t.Helper()
	dir := t.TempDir()
	for name, path := range map[string]string{"label": fmt.Sprintf("/cartons/%d/label.pdf", id(carton, "id")),
		"slip": fmt.Sprintf("/cartons/%d/slip.pdf", id(carton, "id")), "note": fmt.Sprintf("/shipments/%d/note.pdf",
			id(shipment, "id"))} {
		a := c.Get(path)
		if a.Status != http.StatusOK || !strings.HasPrefix(string(a.Body), "%PDF-") {
			t.Fatalf("%s: %d", path, a.Status)
		}
		if err := os.WriteFile(filepath.Join(dir, name+".pdf"), a.Body, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	if out, err := exec.Command("pdftoppm", "-r", "203", "-png", "-singlefile", filepath.Join(dir, "label.pdf"),
		filepath.Join(dir, "label")).CombinedOutput(); err != nil {
		t.Fatalf("pdftoppm (apt-get install poppler-utils): %v %s", err, out)
	}
	var read struct{ Identifier, Raw string }
	judge.NewNode(t, "read.mjs").Ask(t, object{"file": filepath.Join(dir, "label.png")}, &read)
	if read.Identifier != "]C1" || read.Raw != "00"+carton["sscc"].(string) {
		t.Fatalf("the label reads %+v, want SSCC %s", read, carton["sscc"])
	}
	for name, words := range map[string][]string{"note": {"Delivery note", "HC-050", "lot LF1", "Still to come",
		"The Lyrebird Theatre"}, "slip": {"Packing slip", carton["sscc"].(string), "32"}} {
		text, err := exec.Command("pdftotext", "-layout", filepath.Join(dir, name+".pdf"), "-").Output()
		if err != nil {
			t.Fatal(err)
		}
		for _, w := range words {
			if !strings.Contains(string(text), w) {
				t.Errorf("the %s does not say %q:\n%s", name, w, text)
			}
		}
	}
}

func TestAShortBinIsReplacedAndToBeCounted(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 10)
	h.Stock(t, world.Clamp, h.Bin(t, "B-03-1-A"), 7)
	round, order := release(t, lead, world.Clamp, "9")
	rp := fmt.Sprintf("/rounds/%d", id(round, "id"))
	stop := round["stops"].([]any)[0].(object)
	lead.Post(rp+"/start", nil).JSON()
	lead.Post(rp+"/short", object{"stop_id": stop["id"], "found": "9"}).Refused(422, "not_short", "found")
	round = lead.Post(rp+"/short", object{"stop_id": stop["id"], "found": "4"}).JSON()
	stops := round["stops"].([]any)
	if len(stops) != 2 || at(stops, 0, "short") != "5" || at(stops, 1, "bin") != "B-03-1-A" ||
		at(stops, 1, "quantity") != "5" {
		t.Fatalf("after the short: %v", stops)
	}
	lamps := []object{}
	lead.Get("/row?site=1").Into(&lamps)
	if lamps[9]["words"] != "1 to count" {
		t.Fatalf("audit shows %v", lamps[9])
	}
	lead.Post(rp+"/stage", object{}).Refused(409, "stops_left", "", "2 stops")
	lead.Post(rp+"/stage", object{"leave_rest": true}).JSON()
	line := lead.Get(fmt.Sprintf("/sales-orders/%d", order)).JSON()
	if at(line, "lines", 0, "planned") != "0" || at(line, "lines", 0, "picked") != "0" {
		t.Fatalf("the order line is left with %v", at(line, "lines", 0))
	}
	h.Whole(t)
}

// release takes an order for an item and releases a round for it.
func release(t *testing.T, lead *world.Client, item int32, quantity string) (round object, order int64) {
	t.Helper()
	o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
		"release": true, "lines": []object{{"item_id": item, "quantity": quantity}}}).JSON()
	p := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []int64{id(o, "id")}}).JSON()
	stops := []object{}
	for _, s := range p["stops"].([]any) {
		stop := object{"line_id": at(s, "line_id"), "location_id": at(s, "location_id"), "quantity": at(s, "quantity")}
		if lot := at(s, "lot_id"); lot != nil {
			stop["lot_id"] = lot
		}
		stops = append(stops, stop)
	}
	return lead.Post("/rounds", object{"site_id": world.Site, "stops": stops}).JSON(), id(o, "id")
}
