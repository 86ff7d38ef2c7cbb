package application_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/invoicing"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/schedules"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/station/pick"
	"lanternrow/internal/test/world"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/shopspring/decimal"
)

// engineAt is the house's engine, at a time of its own.
func engineAt(h *world.House, at *time.Time) *schedules.Engine {
	runner := &command.Runner{DB: h.App, Now: func() time.Time { return *at }}
	return schedules.New(runner, orders.Schedule(), pick.Schedule(), invoicing.Schedule())
}

// TestADayGoesBySchedule releases orders in the morning, plans rounds for them every half hour
// and invoices what was shipped in the evening, each once, however many servers look at once.
func TestADayGoesBySchedule(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, office, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "office"), world.SignOn(t, base,
		"picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 10)
	day := time.Now().UTC().Truncate(24*time.Hour).AddDate(0, 0, 1)
	held := func(item int32, quantity string, wanted time.Time) object {
		return office.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site,
			"wanted_on": wanted.Format(time.DateOnly), "lines": []object{{"item_id": item,
				"quantity": quantity}}}).JSON()
	}
	soonest, short, later := held(world.Clamp, "4", day), held(world.Heavy, "1", day), held(world.Clamp, "2",
		day.AddDate(0, 0, 9))
	go1 := object{"site_id": world.Site, "task": "release-orders", "rule": object{"at": []string{"07:30"}},
		"settings": object{"days": 2, "ready": true}}
	rounds := object{"site_id": world.Site, "task": "plan-rounds", "rule": object{"every": 30, "first": "08:00",
		"last": "16:00"}, "settings": object{"days": 2, "max_cartons": 4}}
	invoices := object{"site_id": world.Site, "task": "invoice-shipments", "rule": object{"at": []string{"18:00"}},
		"settings": object{"mail": true}}

	look := office.Post("/schedules/preview", go1).JSON()
	if at(look, "when") != "at 07:30, every day" || len(look["next"].([]any)) != 3 || at(look, "stops") != "" ||
		!strings.Contains(at(look, "would", "words").(string), "releases 1 order") || at(look, "would", "documents",
		0) != soonest["number"] {
		t.Fatalf("it would %v", look)
	}
	picker.Post("/schedules", go1).Refused(403, "role", "")
	office.Post("/schedules", rounds).Refused(403, "task_barred", "task", "Plan rounds")
	office.Post("/schedules", object{"site_id": world.Site, "task": "release-orders",
		"rule": object{"at": []string{"7.30"}}, "settings": object{}}).Refused(422, "time_malformed", "at[0]", "Write it as 16:00")
	office.Post("/schedules", object{"site_id": world.Site, "task": "count", "rule": object{"at": []string{"07:30"}},
		"settings": object{}}).Refused(422, "task_unknown", "task")
	morning, waves, evening := office.Post("/schedules", go1).JSON(), lead.Post("/schedules",
		rounds).JSON(), office.Post("/schedules", invoices).JSON()
	if tasks := office.Get("/schedules/tasks").JSONs(); len(tasks) != 2 {
		t.Errorf("the office may set up %d tasks", len(tasks))
	}

	clock := day.Add(7*time.Hour + 45*time.Minute)
	engine := engineAt(h, &clock)
	due := func() {
		t.Helper()
		var all sync.WaitGroup
		for range 4 {
			all.Go(func() {
				if err := engine.Due(context.Background()); err != nil {
					t.Error(err)
				}
			})
		}
		all.Wait()
	}
	// Whatever was due today, before the day that is told, is out of the way.
	if _, err := h.Owner.Exec(`
		UPDATE schedules SET next_at = CASE task WHEN 'release-orders' THEN $1::timestamptz + interval '7.5 hours'
		  WHEN 'plan-rounds' THEN $1::timestamptz + interval '8 hours' ELSE $1::timestamptz +
		interval '18 hours' END`, day); err != nil {
		t.Fatal(err)
	}
	state := func(o object) any { return lead.Get(fmt.Sprintf("/sales-orders/%d", id(o, "id"))).JSON()["state"] }
	due()
	if state(soonest) != "released" || state(short) != "on_hold" || state(later) != "on_hold" {
		t.Fatalf("the orders are %v, %v and %v", state(soonest), state(short), state(later))
	}
	clock = day.Add(10*time.Hour + 10*time.Minute)
	due()
	due()
	open := lead.Get("/rounds?site=1").JSONs()
	if len(open) != 1 {
		t.Fatalf("%d rounds are released", len(open))
	}
	rp := fmt.Sprintf("/rounds/%d", id(open[0], "id"))
	r := picker.Post(rp+"/start", nil).JSON()
	sscc, carton := blank(lead, picker, rp, id(soonest, "id"))
	takeAll(picker, rp, sscc, r)
	picker.Post(rp+"/stage", object{}).JSON()
	picker.Post(fmt.Sprintf("/cartons/%d/pack", carton), object{}).JSON()
	picker.Post("/shipments", object{"order_id": soonest["id"]}).JSON()
	clock = day.Add(18*time.Hour + time.Minute)
	due()
	runs := func(s object) []any {
		return lead.Get(fmt.Sprintf("/schedules/%v/runs?down=true", s["id"])).JSON()["rows"].([]any)
	}
	if got := at(runs(morning), 0, "words"); got != "released 1 order, wanted by "+day.AddDate(0, 0,
		2).Format(time.DateOnly) || len(runs(morning)) != 1 {
		t.Errorf("in the morning it %v", runs(morning))
	}
	// Due at 8:00 and not looked at until 10:10, it ran once for all it missed, then found
	// nothing; it was due last at 16:00.
	if n := len(runs(waves)); n != 2 || at(runs(waves), 1, "documents", 0) != open[0]["number"] ||
		at(runs(waves), 0, "outcome") != "nothing" {
		t.Errorf("rounds were planned so: %v", runs(waves))
	}
	if got := at(runs(evening), 0, "words").(string); !strings.HasPrefix(got,
		"made 1 invoice over 75.00, 0 mailed; The Lyrebird Theatre has no address to mail I-") {
		t.Errorf("in the evening it %v", got)
	}
	if uninvoiced := lead.Get("/uninvoiced?site=1").Rows(); len(uninvoiced) != 0 {
		t.Errorf("not invoiced: %v", uninvoiced)
	}

	// By hand it runs besides its times; paused it does not run at all.
	again := office.Post(fmt.Sprintf("/schedules/%d/run", id(evening, "id")), nil).JSON()
	if at(again, "runs", 0, "outcome") != "nothing" || at(again, "runs", 0, "due_at") != nil {
		t.Errorf("by hand it %v", again["runs"])
	}
	mp := fmt.Sprintf("/schedules/%d", id(morning, "id"))
	office.Post(mp+"/state", object{"version": 9, "state": "paused"}).Refused(409, "stale", "version")
	paused := office.Post(mp+"/state", object{"version": morning["version"], "state": "paused"}).JSON()
	clock = day.AddDate(0, 0, 30)
	due()
	if state(later) != "on_hold" || paused["next_at"] != nil {
		t.Errorf("paused, it let an order go: %v", state(later))
	}

	// Somebody who may not do it any more has it stop, and says so; a lead takes it over.
	if _, err := h.Owner.Exec(`UPDATE people SET roles = '{viewer}' WHERE login = 'office'`); err != nil {
		t.Fatal(err)
	}
	lead.Post(mp+"/state", object{"version": paused["version"], "state": "on"}).JSON()
	if _, err := h.Owner.Exec(`
		UPDATE schedules SET changed_by = 4, next_at = $2 WHERE id = $1`, id(morning, "id"), clock); err != nil {
		t.Fatal(err)
	}
	due()
	for _, s := range lead.Get("/schedules?site=1").JSONs() {
		if s["id"] == morning["id"] && (s["state"] != "stopped" || !strings.Contains(s["stopped"].(string),
			"Some office is viewer") || at(s, "runs", 0, "outcome") != "stopped") {
			t.Errorf("it is %v: %v", s["state"], s["stopped"])
		}
	}
	if state(later) != "on_hold" {
		t.Errorf("it let an order go for a viewer")
	}
	now := lead.Post(mp+"/change", object{"version": 4, "site_id": world.Site, "task": "release-orders",
		"rule": object{"at": []string{"09:00"}, "days": []int{1, 2, 3, 4, 5}}, "settings": object{"days": 30}}).JSON()
	if now["state"] != "on" || now["acts_for"] != "Some lead" || now["when"] != "at 09:00, Monday to Friday" {
		t.Fatalf("it is %v for %v", now["state"], now["acts_for"])
	}
	lead.Post(mp+"/run", nil).JSON()
	if state(later) != "released" || state(short) != "released" {
		t.Errorf("by hand it left %v and %v", state(later), state(short))
	}
	lead.Post(mp+"/state", object{"version": now["version"], "state": "removed"}).JSON()
	lead.Post(mp+"/run", nil).Refused(404, "unknown", "")
	h.Whole(t)
}

// TestWhatIsPickedGoesStraightOut ships from the last pick on, with its invoice, where the
// site allows it; what can't go is brought to the bench at the bench.
func TestWhatIsPickedGoesStraightOut(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 9)
	lot := h.Lot(t, world.Fluid, "H-9", 400)
	h.StockLot(t, world.Fluid, lot, h.Bin(t, "B-01-1-A"), 5)
	whole := func(yes bool) {
		if _, err := h.Owner.Exec(`
			UPDATE parties SET in_parts = $1, invoiced = 'mailed', email = 'stage@example.org' WHERE id = $2`,
			!yes, world.Customer); err != nil {
			t.Fatal(err)
		}
	}
	whole(true)
	full, part := sellNow(lead, world.Clamp, "3", world.Fluid, "2"), sellNow(lead, world.Clamp, "5", world.Heavy, "1")
	r, rp := roundFor(lead, picker, id(full, "id"), id(part, "id"))
	a, _ := blank(lead, picker, rp, id(full, "id"))
	b, box := blank(lead, picker, rp, id(part, "id"))
	for _, s := range r["stops"].([]any) {
		s := s.(object)
		sscc := map[int64]string{id(full, "id"): a, id(part, "id"): b}[id(s, "order_id")]
		picker.Post(rp+"/pick", object{"stop_id": s["id"], "bin": s["bin"], "item": s["sku"], "lot": "H-9",
			"carton": sscc, "quantity": s["quantity"]})
		if s["sku"] != "HZ-500" {
			picker.Post(rp+"/pick", object{"stop_id": s["id"], "bin": s["bin"], "item": s["sku"], "carton": sscc,
				"quantity": s["quantity"]})
		}
	}
	send := object{"order_ids": []any{full["id"]}}
	picker.Post(rp+"/ship/preview", object{}).Refused(403, "bench_first", "", "goes over the bench")
	picker.Post(rp+"/ship", send).Refused(403, "bench_first", "")
	if _, err := h.Owner.Exec(`UPDATE sites SET straight = true WHERE id = 1`); err != nil {
		t.Fatal(err)
	}
	look := picker.Post(rp+"/ship/preview", object{}).JSON()
	if at(look, "orders", 0, "why") != "" || at(look, "orders", 0, "units") != "5" ||
		!strings.Contains(at(look, "orders", 1, "why").(string), "1 units would stay open") {
		t.Fatalf("of the orders: %v", look["orders"])
	}
	from := fmt.Sprint(look["origins"])
	for _, want := range []string{"bin:A-01-1-A", "left:1", "lot:H-9", "bin:B-01-1-A", "left:3"} {
		if !strings.Contains(from, want) {
			t.Errorf("what goes came from %s: no %s", from, want)
		}
	}
	if words := fmt.Sprint(look["notes"]); !strings.Contains(words,
		"The invoice goes with it, over 140.25, mailed to stage@example.org") {
		t.Errorf("it notes %s", words)
	}
	picker.Post(rp+"/ship", object{"order_ids": []any{full["id"]}, "invoice": "shipped"}).Refused(403,
		"invoice_barred", "invoice", "may make no invoices")
	picker.Post(rp+"/ship", object{"order_ids": []any{full["id"], part["id"]}}).Refused(409, "parts_unwanted",
		"order_id", "wants "+part["number"].(string)+" whole")
	if r := picker.Get(rp).JSON(); r["state"] != "walking" || h.Holds(t, world.Trolley, world.Clamp) != "8" {
		t.Fatalf("after a refusal the round is %v", r["state"])
	}
	shipped := picker.Post(rp+"/ship", send).JSONs()
	if len(shipped) != 1 || shipped[0]["order"] != full["number"] || shipped[0]["invoiced"] == "" {
		t.Fatalf("shipped %v", shipped)
	}
	picker.Post(rp+"/ship", send).Refused(409, "round_not_walking", "")
	if h.Holds(t, world.Bench, world.Clamp) != "5" || h.Holds(t, world.Trolley, world.Clamp) != "0" ||
		h.Holds(t, world.Bench, world.Fluid) != "0" {
		t.Errorf("the bench holds %s, the trolley %s", h.Holds(t, world.Bench, world.Clamp),
			h.Holds(t, world.Trolley, world.Clamp))
	}
	if got := lead.Get(fmt.Sprintf("/sales-orders/%d", id(full, "id"))).JSON(); got["state"] != "shipped" ||
		at(got, "lines", 0, "invoiced") != "3" {
		t.Errorf("the order is %v, %v invoiced", got["state"], at(got, "lines", 0, "invoiced"))
	}
	mailed := eventually(t, outbox(lead),
		func(o object) bool { return !empty("sent")(o) })
	if at(mailed, "sent", 0, "recipient") != "stage@example.org" {
		t.Errorf("mailed: %v", mailed["sent"])
	}

	// The rest goes by the bench, and a lead invoices it with the sending.
	whole(false)
	picker.Post(fmt.Sprintf("/cartons/%d/pack", box), object{}).JSON()
	lead.Post("/shipments/preview", object{"order_id": part["id"], "invoice": "shipped"}).JSON()
	d := lead.Post("/shipments", object{"order_id": part["id"], "invoice": "shipped"}).JSON()
	if !strings.HasPrefix(d["invoiced"].(string), "I-") {
		t.Errorf("invoiced with %v", d["invoiced"])
	}
	h.Whole(t)
}

// TestABinWithACountRequestIsCounted finds a bin short on a round: nobody is sent there again until it
// is counted, what is reserved can't be counted away, and what is missing is a lead's to
// accept.
func TestABinWithACountRequestIsCounted(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	bin := h.Bin(t, "A-01-1-A")
	h.Stock(t, world.Clamp, bin, 9)
	allowAll(h)
	o := sellNow(lead, world.Clamp, "6")
	r, rp := roundFor(lead, picker, id(o, "id"))
	picker.Post(rp+"/short", object{"stop_id": at(r, "stops", 0, "id"), "found": "2"}).JSON()
	asked := func() []object { return askedFor(picker) }
	due := asked()
	if len(due) != 1 || due[0]["bin"] != "A-01-1-A" || due[0]["round"] != r["number"] {
		t.Fatalf("to be counted: %v", due)
	}
	other := sellNow(lead, world.Clamp, "3")
	p := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []any{other["id"]}}).JSON()
	if len(p["stops"].([]any)) != 0 || at(p, "shortages", 0, "why") != "what is in A-01-1-A is to be counted first" {
		t.Fatalf("planned %v, short %v", p["stops"], p["shortages"])
	}

	sheet := picker.Get(fmt.Sprintf("/counts/entry?location=%d&item=%d", bin, world.Clamp)).JSON()
	if strings.Contains(fmt.Sprint(sheet), "quantity") || len(sheet["kinds"].([]any)) != 1 {
		t.Fatalf("the sheet says %v", sheet)
	}
	count := func(n string) object {
		return object{"location_id": bin, "item_id": world.Clamp, "since": sheet["since"], "kinds": []object{{"quantity": n}}}
	}
	// Whoever counts, a lead too, is told the same whatever is entered, but for the figure.
	for _, c := range []*world.Client{picker, lead} {
		said := map[string]bool{}
		for _, n := range []string{"0", "1", "5", "9", "700"} {
			look := c.Post("/counts/preview", count(n)).JSON()
			said[strings.ReplaceAll(fmt.Sprint(look), " "+n+" ", " N ")] = true
		}
		if len(said) != 1 {
			t.Errorf("the preview tells counts apart: %v", said)
		}
	}
	picker.Post("/counts", object{"location_id": bin, "item_id": world.Clamp, "since": sheet["since"],
		"kinds": []object{{"quantity": "5"}, {"quantity": "4"}}}).Refused(422, "kind_twice", "kinds[1]")
	picker.Post("/counts", object{"location_id": bin, "item_id": world.Clamp, "since": sheet["since"],
		"kinds": []object{{}}}).Refused(422, "quantity_missing", "kinds[0].quantity")
	differing := func() []object { return lead.Get("/counts/differing?site=1").JSONs() }
	confirm := func(n string) string {
		sheet = picker.Get(fmt.Sprintf("/counts/entry?location=%d&item=%d", bin, world.Clamp)).JSON()
		if d := picker.Post("/counts", count(n)).JSON(); d["verdict"] != "decide" || !strings.Contains(d["words"].(string), "a lead decides") {
			t.Fatalf("%s confirmed: %v", n, d)
		}
		return fmt.Sprintf("/counts/%d", id(differing()[0], "id"))
	}
	cp := confirm("1")
	// It waits: nothing moved, nobody counts it meanwhile, and only a lead sees by how much it differs.
	picker.Get("/counts/differing?site=1").Refused(403, "role", "")
	picker.Post(cp+"/settle", object{"reason": "two are bent"}).Refused(403, "role", "")
	picker.Post("/counts", count("5")).Refused(409, "count_waits", "", "counted by")
	if d := differing()[0]; h.Holds(t, bin, world.Clamp) != "9" || len(asked()) != 0 ||
		d["expected"] != "9" || d["variance"] != "-8" {
		t.Fatalf("it differs: %v", d)
	}
	// What is reserved cannot be counted away.
	lead.Post(cp+"/settle/preview", object{"reason": ""}).Refused(409, "count_reserved", "", "2 of HC-050", o["number"].(string))
	lead.Post(cp+"/settle", object{"reason": "they are gone"}).Refused(409, "count_reserved", "")
	lead.Post(cp+"/again", object{}).JSON()
	if len(asked()) != 1 || len(differing()) != 0 {
		t.Error("it is not counted again")
	}
	cp = confirm("5")
	if b := lead.Post(cp+"/settle/preview", object{"reason": ""}).JSON(); at(b, "button") != "Settle A-01-1-A: 5 of HC-050" ||
		at(b, "moves", 0, "quantity") != "4" || at(b, "warnings", 0) != "4 of HC-050 are missing in A-01-1-A, a value of -75.00." {
		t.Fatalf("it would %v", b)
	}
	// What came since the count is none of its business.
	h.Stock(t, world.Clamp, bin, 1)
	lead.Post(cp+"/settle", object{"reason": "x"}).Refused(422, "reason_short", "reason")
	lead.Post(cp+"/settle", object{"reason": "two are bent, two gone"}).JSON()
	lead.Post(cp+"/settle", object{"reason": "two are bent, two gone"}).Refused(409, "count_over", "")
	if h.Holds(t, bin, world.Clamp) != "6" || len(asked()) != 0 {
		t.Errorf("the bin holds %s", h.Holds(t, bin, world.Clamp))
	}
	if p = lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []any{other["id"]}}).JSON(); at(p,
		"units") != "3" {
		t.Errorf("after the count %v can be planned", at(p, "units"))
	}
	sheet = picker.Get(fmt.Sprintf("/counts/entry?location=%d&item=%d", bin, world.Clamp)).JSON()
	if b := picker.Post("/counts", count("6")).JSON(); b["verdict"] != "right" || !strings.Contains(b["words"].(string),
		"6 of HC-050 in A-01-1-A are confirmed") {
		t.Errorf("counted again: %v", b)
	}

	// Units by serial: one is missing, one that was thought lost turns up, one is elsewhere.
	units := h.Bin(t, "B-03-1-A")
	h.StockUnits(t, world.Spot, units, "U1", "U2")
	h.StockUnits(t, world.Spot, world.LostLocation, "U3")
	h.StockUnits(t, world.Spot, h.Bin(t, "B-04-1-A"), "U4")
	sheet = lead.Get(fmt.Sprintf("/counts/entry?location=%d&item=%d", units, world.Spot)).JSON()
	found := func(serials ...string) object {
		return object{"location_id": units, "item_id": world.Spot, "since": sheet["since"],
			"kinds": []object{{"serials": serials}}}
	}
	why := object{"reason": "swapped at the stage door"}
	for _, x := range []struct{ unit, refused, words string }{{"U4", "serial_elsewhere", "in B-04-1-A"}, {"U9", "serial_not_ours", "U9"}} {
		lead.Post("/counts", found("U1", x.unit)).Refused(409, x.refused, "kinds", x.words)
	}
	lead.Post("/counts", found("U1", "U3")).JSON()
	lead.Post(fmt.Sprintf("/counts/%d/settle", id(differing()[0], "id")), why).JSON()
	var there string
	if err := h.Owner.Get(&there, `
		SELECT string_agg(s.code, ' ' ORDER BY s.code) FROM balances b JOIN serials s ON s.id = b.serial_id
		 WHERE b.location_id = $1 AND b.quantity > 0`, units); err != nil || there != "U1 U3" {
		t.Errorf("the bin holds %s: %v", there, err)
	}
	h.Whole(t)
}

// A fault that passes on its own (a cut connection, a lock, a fault of ours) is tried again,
// each time after a longer pause; a refusal stops a schedule in its own words, with the
// numbers.
func TestAPassingFaultStopsNoScheduleAndARefusalSaysWhy(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	bin := h.Bin(t, "A-01-1-A")
	h.Stock(t, world.Clamp, bin, 3)
	clock := time.Now().UTC().Truncate(24 * time.Hour).Add(32 * time.Hour)
	take := func(ctx context.Context, tx *command.Tx) error {
		_, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Move},
			[]ledger.Move{{Item: world.Clamp, Quantity: decimal.NewFromInt(2), From: bin, To: world.Dock}})
		return err
	}
	script := []func(context.Context, *command.Tx) error{
		func(ctx context.Context, tx *command.Tx) error {
			var pid int
			if err := tx.GetContext(ctx, &pid, `SELECT pg_backend_pid()`); err != nil {
				return err
			}
			if _, err := h.Owner.Exec(`SELECT pg_terminate_backend($1)`, pid); err != nil {
				return err
			}
			_, err := tx.ExecContext(ctx, `SELECT 1`)
			return err
		},
		func(context.Context, *command.Tx) error { return &pgconn.PgError{Code: "55P03"} },
		func(context.Context, *command.Tx) error { return errors.New("a fault of ours") },
		take, take,
	}
	step := 0
	task := schedules.Task{Name: "tried", Title: "Tried", Roles: []people.Role{people.Lead},
		Do: func(ctx context.Context, tx *command.Tx, _ int32, _ schedules.Settings) (schedules.Work, error) {
			return schedules.Work{Documents: []string{"X"}}, script[step](ctx, tx)
		}}
	engine := schedules.New(&command.Runner{DB: h.App, Now: func() time.Time { return clock }}, task)
	if _, err := h.Owner.Exec(`
		INSERT INTO schedules (site_id, task, rule, settings, next_at, changed_by, changed_at, last_change)
		VALUES (1, 'tried', '{"every": 30, "first": "00:00", "last": "23:30"}', '{}', $1, 1, now(),
			'set it up')`, clock); err != nil {
		t.Fatal(err)
	}
	type standing struct {
		State, Stopped, Trouble string
		Failures                int
		Wait                    *float64
	}
	due := func(at int) standing {
		t.Helper()
		step = at
		if err := engine.Due(context.Background()); err != nil {
			t.Fatal(err)
		}
		var s standing
		if err := h.Owner.Get(&s, `
			SELECT state, stopped, trouble, failures, extract(epoch FROM retry_at - $1)::float8 AS wait
				    FROM schedules`, clock); err != nil {
			t.Fatal(err)
		}
		return s
	}
	for i, want := range []struct {
		pause float64
		says  string
	}{{10, "does not answer"}, {20, "Others are changing"}, {40, "went wrong inside"}} {
		s := due(i)
		if s.State != "on" || s.Failures != i+1 || s.Wait == nil || *s.Wait != want.pause ||
			!strings.Contains(s.Trouble, want.says) {
			t.Fatalf("after fault %d: %+v", i+1, s)
		}
		// Not before its pause is over.
		clock = clock.Add(time.Duration(want.pause-1) * time.Second)
		if again := due(3); again.Failures != i+1 || h.Holds(t, bin, world.Clamp) != "3" {
			t.Fatalf("tried before its pause was over: %+v", again)
		}
		clock = clock.Add(2 * time.Second)
	}
	if s := due(3); s.State != "on" || s.Failures != 0 || s.Wait != nil || s.Trouble != "" ||
		h.Holds(t, bin, world.Clamp) != "1" {
		t.Fatalf("once it passed: %+v", s)
	}
	clock = clock.Add(30 * time.Minute)
	if s := due(4); s.State != "stopped" || !strings.Contains(s.Stopped, "A-01-1-A holds 1 of HC-050, not 2") {
		t.Fatalf("refused: %+v", s)
	}
}

// TestAScheduleOfWhoLeftStops, with the reason, and nothing of it is done until somebody takes it over.
func TestAScheduleOfWhoLeftStops(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, office := world.SignOn(t, base, "lead"), world.SignOn(t, base, "office")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 10)
	held := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": day(1),
		"lines": []object{{"item_id": world.Clamp, "quantity": "2"}}}).JSON()
	wish := object{"site_id": world.Site, "task": "release-orders", "rule": object{"at": []string{"07:30"}},
		"settings": object{"days": 9, "ready": true}}
	s := office.Post("/schedules", wish).JSON()
	path := fmt.Sprintf("/schedules/%d", id(s, "id"))
	lead.Post(fmt.Sprintf("/people/%d/end", slices.Index(world.Logins, "office")+1), object{}).JSON()
	clock := time.Now().AddDate(0, 0, 2)
	engine := engineAt(h, &clock)
	now := func() object { return lead.Get("/schedules?site=1").JSONs()[0] }
	due := func() (schedule object, order any) {
		t.Helper()
		if err := engine.Due(context.Background()); err != nil {
			t.Fatal(err)
		}
		return now(), lead.Get(fmt.Sprintf("/sales-orders/%d", id(held, "id"))).JSON()["state"]
	}
	if s, state := due(); s["state"] != "stopped" || !strings.Contains(fmt.Sprint(s), "Some office, for whom this was done, left") ||
		state != "on_hold" {
		t.Fatalf("the schedule of who left is %v, and the order %v", s, state)
	}
	wish["version"] = now()["version"]
	s = lead.Post(path+"/change", wish).JSON()
	if s["state"] != "on" {
		lead.Post(path+"/state", object{"version": s["version"], "state": "on"}).JSON()
	}
	clock = clock.AddDate(0, 0, 2)
	if s, state := due(); s["state"] != "on" || state != "released" {
		t.Errorf("taken over it is %v, and the order %v", s, state)
	}
}
