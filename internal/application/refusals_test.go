package application_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"lanternrow/internal/application"
	"lanternrow/internal/platform/config"
	"lanternrow/internal/test/world"
)

func TestBadInputIsRefusedAtItsFieldAndChangesNothing(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	bin := h.Bin(t, "A-01-1-A")
	h.Stock(t, world.Clamp, bin, 20)
	h.Stock(t, world.Clamp, world.Dock, 60)
	_, arrival := buy(t, c, "42", "10")
	receiveGoods := fmt.Sprintf("/arrivals/%d/receive", id(arrival, "id"))
	in := func(line int, quantity string, lots ...object) object {
		l := object{"line_id": id(arrival, "lines", line, "id"), "quantity": quantity}
		if len(lots) > 0 {
			l["lots"] = lots
		}
		return object{"version": 1, "lines": []object{l}}
	}
	putAway := func(quantity string, locations ...object) object {
		return object{"location_id": world.Dock, "item_id": world.Clamp, "quantity": quantity, "locations": locations}
	}
	to := func(bin, quantity string) object { return object{"bin": bin, "quantity": quantity} }
	order := func(line object) object {
		return object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon, "lines": []object{line}}
	}
	var before string
	count := `
		SELECT (SELECT count(*) FROM moves) || '/' || (SELECT count(*) FROM inbound_orders) || '/' || (SELECT count(*)
		       FROM outbound_orders) || '/' || (SELECT count(*) FROM lots)`
	if err := h.Owner.Get(&before, count); err != nil {
		t.Fatal(err)
	}
	for name, x := range map[string]struct {
		path   string
		body   any
		status int
		code   string
		field  string
		words  string
	}{
		"more than ordered": {receiveGoods, in(0, "43"), 422, "over_allowance", "lines[0].quantity", "at most 42"},
		"an absurd size":    {receiveGoods, in(0, "99999999"), 422, "quantity_absurd", "lines[0].quantity", ""},
		"zero":              {receiveGoods, in(0, "0"), 422, "quantity_zero", "lines[0].quantity", ""},
		"below zero": {receiveGoods, in(0, "-4"), 422, "quantity_negative", "lines[0].quantity",
			"-4 is below zero"},
		"half a clamp": {receiveGoods, in(0, "2.5"), 422, "quantity_fraction", "lines[0].quantity",
			"whole units"},
		"no number":     {receiveGoods, in(0, "many"), 422, "quantity_malformed", "lines[0].quantity", `"many"`},
		"a lot missing": {receiveGoods, in(1, "4"), 422, "lot_missing", "lines[0].lots", ""},
		"an expired lot": {receiveGoods,
			in(1, "4", object{"code": "L", "quantity": "4",
				"expires_on": "2024-01-01"}), 422, "lot_expired", "lines[0].lots[0].expires_on", "Set it aside"},
		"a date that is none": {receiveGoods,
			in(1, "4", object{"code": "L", "quantity": "4",
				"expires_on": "2027-02-30"}), 422, "date_malformed", "lines[0].lots[0].expires_on", ""},
		"a line of another": {receiveGoods,
			object{"version": 1,
				"lines": []object{{"line_id": 999, "quantity": "1"}}}, 422, "line_unknown", "lines[0].line_id", ""},
		"a bin over-full": {"/put-away", putAway("25", to("A-02-1-A", "25")), 422, "bin_full",
			"locations[0].quantity", "can take 24 of HC-050, not 25"},
		"a bin half full": {"/put-away", putAway("5", to("A-01-1-A", "5")), 422, "bin_full",
			"locations[0].quantity", "can take 4"},
		"parts that fall short": {"/put-away", putAway("25", to("A-02-1-A", "24")), 422, "spread_total", "locations",
			"24 of 25"},
		"a bin nobody knows": {"/put-away", putAway("5", to("Q-99", "5")), 422, "bin_unknown", "locations[0].bin",
			"no bin"},
		"a bin of another site": {"/put-away", putAway("5", to("Z-01-1-A", "5")), 422, "bin_elsewhere",
			"locations[0].bin", "in Other House"},
		"a dock for a bin": {"/put-away", putAway("5", to("Dock 1", "5")), 422, "not_a_bin", "locations[0].bin",
			""},
		"more than there is": {"/put-away", putAway("61", to("A-02-1-A", "61")), 409, "not_enough", "quantity",
			"holds 60"},
		"the same location": {"/transfers", object{"from_id": bin, "to_id": bin, "item_id": 1, "quantity": "1"},
			422, "same_location", "to", ""},
		"more than lies there": {"/transfers", object{"from_id": bin, "to": "A-02-1-A", "item_id": 1,
			"quantity": "21"}, 409, "not_enough", "", "A-01-1-A holds 20"},
		"an order of nothing": {"/sales-orders", object{"customer_id": 2, "site_id": 1, "wanted_on": soon,
			"lines": []object{}}, 422, "lines_missing", "lines", ""},
		"an item nobody knows": {"/sales-orders", order(object{"item_id": 77, "quantity": "1"}), 422,
			"item_unknown", "lines[0].item_id", ""},
		"a supplier as customer": {"/sales-orders", object{"customer_id": 1, "site_id": 1, "wanted_on": soon,
			"lines": []object{{"item_id": 1, "quantity": "1"}}}, 422, "customer_unknown", "customer_id", ""},
		"a date in words": {"/sales-orders", object{"customer_id": 2, "site_id": 1, "wanted_on": "soon",
			"lines": []object{{"item_id": 1, "quantity": "1"}}}, 422, "date_malformed", "wanted_on", "2027-12-31"},
		"a pack of another": {"/purchase-orders", object{"supplier_id": 1, "site_id": 1, "expected_on": soon,
			"lines": []object{{"item_id": 1, "pack_id": 3,
				"quantity": "1"}}}, 422, "pack_unknown", "lines[0].pack_id", ""},
		"half a pack": {"/purchase-orders", object{"supplier_id": 1, "site_id": 1, "expected_on": soon,
			"lines": []object{{"item_id": 1, "pack_id": 2,
				"quantity": "0.5"}}}, 422, "quantity_fraction", "lines[0].quantity", ""},
		"an unknown field": {"/transfers", object{"from": 1, "quantity": "1"}, 422, "malformed", "from", ""},
		"no JSON":          {"/transfers", "{", 400, "malformed", "", ""},
		"too many labels": {"/cartons", object{"site_id": 1, "count": 5000}, 422, "label_count", "count",
			"1 to 100"},
	} {
		t.Run(name, func(t *testing.T) {
			a := *c
			a.T = t
			var words []string
			if x.words != "" {
				words = append(words, x.words)
			}
			if name == "an unknown field" || name == "no JSON" {
				if got := a.Post(x.path, x.body); got.Status != x.status || !strings.Contains(string(got.Body), `"code":"malformed"`) {
					t.Fatalf("answered %d: %s", got.Status, got.Body)
				}
				return
			}
			a.Post(x.path, x.body).Refused(x.status, x.code, x.field, words...)
		})
	}
	for scan, want := range map[string]string{"%2801%2909521234000036": "check_digit",
		"%2801%2909521234999997": "gtin_unknown", "%2801%29095212": "gs1_value", "%5Dd1123": "gs1_symbology"} {
		status := 422
		if want == "gtin_unknown" {
			status = 404
		}
		if got := c.Get("/scan?site=1&text=" + scan); got.Status != status || !strings.Contains(string(got.Body),
			want) {
			t.Errorf("scan %s answered %d: %s", scan, got.Status, got.Body)
		}
	}
	var after string
	if err := h.Owner.Get(&after, count); err != nil || after != before {
		t.Fatalf("refusals changed %s to %s (%v)", before, after, err)
	}
}

func TestWhoMayDoWhat(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
	viewer, picker := world.SignOn(t, base, "viewer"), world.SignOn(t, base, "picker")
	move := object{"from_id": h.Bin(t, "A-01-1-A"), "to": "A-02-1-A", "item_id": 1, "quantity": "1"}
	viewer.Post("/transfers", move).Refused(403, "role", "", "viewer", "lead")
	picker.Post("/pick/plan", object{"site_id": 1, "order_ids": []int{1}}).Refused(403, "role", "", "picker")
	if viewer.Get("/row?site=1").Status != 200 {
		t.Error("a viewer may not look")
	}
	picker.CSRF = "wrong"
	picker.Post("/transfers", move).Refused(403, "csrf", "")
	nobody := &world.Client{T: t, Base: base, HTTP: http.DefaultClient}
	nobody.Get("/row?site=1").Refused(401, "signed_out", "", "still there")
	nobody.Post("/transfers", move).Refused(401, "signed_out", "")
	lead := world.SignOn(t, base, "lead")
	if a := lead.Post("/session/end", nil); a.Status != 200 {
		t.Fatalf("signing off: %s", a.Body)
	}
	lead.Get("/row?site=1").Refused(401, "signed_out", "")
	if h.Holds(t, h.Bin(t, "A-02-1-A"), world.Clamp) != "0" {
		t.Error("somebody who may not moved stock")
	}
}

func TestSignOnIsSlowedAfterWrongAttempts(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	c := &world.Client{T: t, Base: base, HTTP: http.DefaultClient}
	wrong := object{"login": "lead", "password": "candle"}
	for range 8 {
		c.Post("/session", wrong).Refused(401, "wrong_secret", "login")
	}
	c.Post("/session", wrong).Refused(429, "too_many_attempts", "login", "8 wrong attempts")
	c.Post("/session", object{"login": "lead", "password": world.Password}).Refused(429, "too_many_attempts", "login")
	c.Post("/session", object{"login": "nobody", "password": "x"}).Refused(401, "wrong_secret", "login")
	var s object
	c.Post("/session/badge", object{"badge": "b-003", "pin": world.Password}).Into(&s)
	if at(s, "person", "login") != "picker" {
		t.Errorf("badge B-003 signs on %v", s["person"])
	}
}

func TestARepeatedKeyAnswersTheSameAndAnotherContentIsRefused(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
	move := object{"from_id": h.Bin(t, "A-01-1-A"), "to": "A-02-1-A", "item_id": 1, "quantity": "3"}
	c.Key = "k"
	first := c.Post("/transfers", move)
	c.Key = "k"
	second := c.Post("/transfers", move)
	if first.Status != 200 || string(first.Body) != string(second.Body) {
		t.Fatalf("answered %s, then %s", first.Body, second.Body)
	}
	move["quantity"] = "2"
	c.Key = "k"
	c.Post("/transfers", move).Refused(409, "key_reused", "Idempotency-Key")
	if got := h.Holds(t, h.Bin(t, "A-02-1-A"), world.Clamp); got != "3" {
		t.Fatalf("%s were moved", got)
	}
}

// TestTwoWhoWantTheLastRoom lets eight put away 10 each into a bin that takes 24, and
// eight leads plan the same line.
func TestTwoWhoWantTheLastRoom(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	h.Stock(t, world.Clamp, world.Dock, 80)
	var wg sync.WaitGroup
	answers := make([]world.Answer, 8)
	for i := range answers {
		c := world.SignOn(t, base, "lead")
		c.Blunt = true
		wg.Go(func() {
			answers[i] = pressing(func() world.Answer {
				return c.Post("/put-away", object{"location_id": world.Dock, "item_id": 1, "quantity": "10",
					"locations": []object{{"bin": "A-02-1-A", "quantity": "10"}}})
			})
		})
	}
	wg.Wait()
	putAway := 0
	for _, a := range answers {
		if a.Status == 200 {
			putAway++
		} else {
			a.Refused(422, "bin_full", "locations[0].quantity", "can take 4")
		}
	}
	if got := h.Holds(t, h.Bin(t, "A-02-1-A"), world.Clamp); putAway != 2 || got != "20" {
		t.Fatalf("%d put away, the bin holds %s of at most 24", putAway, got)
	}
	c := world.SignOn(t, base, "lead")
	o := c.Post("/sales-orders", object{"customer_id": 2, "site_id": 1, "wanted_on": soon, "release": true,
		"lines": []object{{"item_id": 1, "quantity": "6"}}}).JSON()
	stop := object{"line_id": id(o, "lines", 0, "id"), "location_id": h.Bin(t, "A-02-1-A"), "quantity": "6"}
	for i := range answers {
		c := world.SignOn(t, base, "lead")
		c.Blunt = true
		wg.Go(func() {
			answers[i] = pressing(func() world.Answer { return c.Post("/rounds", object{"site_id": 1, "stops": []object{stop}}) })
		})
	}
	wg.Wait()
	planned := 0
	for _, a := range answers {
		if a.Status == 200 {
			planned++
		} else {
			a.Refused(409, "over_wanted", "stops[0].quantity")
		}
	}
	if planned != 1 {
		t.Fatalf("the line was planned %d times", planned)
	}
	h.Whole(t)
}

func TestChangesReachOpenBrowsersLive(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	watcher, c := world.SignOn(t, base, "viewer"), world.SignOn(t, base, "lead")
	r, err := watcher.HTTP.Get(base + "/api/v1/events")
	if err != nil || r.Header.Get("Content-Type") != "text/event-stream" {
		t.Fatalf("%v %v", r, err)
	}
	defer r.Body.Close()
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
	told := make(chan string, 1)
	go func() {
		var all strings.Builder
		buffer := make([]byte, 4096)
		for {
			n, err := r.Body.Read(buffer)
			all.Write(buffer[:n])
			if strings.Contains(all.String(), "putaway") || err != nil {
				told <- all.String()
				return
			}
		}
	}()
	// The listener's own connection may take a moment after the start.
	for range 50 {
		c.Post("/transfers", object{"from_id": h.Bin(t, "A-01-1-A"), "to": "A-02-1-A", "item_id": 1, "quantity": "1"})
		select {
		case text := <-told:
			if !strings.Contains(text, "stock") {
				t.Fatalf("told %q", text)
			}
			return
		case <-time.After(300 * time.Millisecond):
		}
	}
	t.Fatal("the change was never told")
}

func root() string { return filepath.Join("..", "..") }

func TestTheDescriptionAndTheClientsTypesAreFresh(t *testing.T) {
	text, err := application.New(t.Context(), nil, "", config.Config{StandIns: true}).Describe()
	if err != nil {
		t.Fatal(err)
	}
	kept, err := os.ReadFile(filepath.Join(root(), "docs", "openapi.json"))
	if err != nil {
		t.Fatal(err)
	}
	var a, b any
	if json.Unmarshal(text, &a) != nil || json.Unmarshal(kept, &b) != nil {
		t.Fatal("the description is not JSON")
	}
	x, _ := json.Marshal(a)
	y, _ := json.Marshal(b)
	if string(x) != string(y) {
		t.Fatal("docs/openapi.json is stale: run make api")
	}
	made := filepath.Join(t.TempDir(), "schema.d.ts")
	out, err := exec.Command("node", filepath.Join(root(), "ui/node_modules/.bin/openapi-typescript"),
		filepath.Join(root(), "docs/openapi.json"), "-o", made).CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	fresh, _ := os.ReadFile(made)
	types, _ := os.ReadFile(filepath.Join(root(), "ui/src/api/schema.d.ts"))
	if string(fresh) != string(types) {
		t.Fatal("ui/src/api/schema.d.ts is stale: run make api")
	}
}

// TestAFileIsForWhomItsPageIs: what a list is closed to may not have it as a file either.
func TestAFileIsForWhomItsPageIs(t *testing.T) {
	text, err := application.New(t.Context(), nil, "", config.Config{}).Describe()
	var api struct {
		Paths map[string]map[string]struct{ Description string }
	}
	if err != nil || json.Unmarshal(text, &api) != nil {
		t.Fatal(err)
	}
	files := 0
	for path, file := range api.Paths {
		list, there := api.Paths[strings.TrimSuffix(path, "/export")]["get"]
		if !there || !strings.HasSuffix(path, "/export") {
			continue
		}
		if files++; file["get"].Description != list.Description {
			t.Errorf("%s %s Its list: %s", path, file["get"].Description, list.Description)
		}
	}
	if files < 30 {
		t.Errorf("only %d files have a list", files)
	}
}

// TestWhoImportsWhom proves that the core stands alone, that stations do not know
// each other, and that nobody but the ledger calls its functions.
func TestWhoImportsWhom(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}}: {{join .Imports " "}}`, "lanternrow/...").Output()
	if err != nil {
		t.Fatal(err)
	}
	for line := range strings.Lines(string(out)) {
		pkg, imports, _ := strings.Cut(strings.TrimSpace(line), ": ")
		for imported := range strings.FieldsSeq(imports) {
			ours := strings.HasPrefix(imported, "lanternrow/")
			if strings.HasPrefix(pkg, "lanternrow/internal/core/") {
				if ours && !strings.HasPrefix(imported, "lanternrow/internal/core/") || strings.HasPrefix(imported,
					"net") || imported == "database/sql" || imported == "os" {
					t.Errorf("%s imports %s: the core stands alone", pkg, imported)
				}
			}
			if strings.HasPrefix(pkg, "lanternrow/internal/station/") && strings.HasPrefix(imported,
				"lanternrow/internal/station/") {
				t.Errorf("%s imports %s: stations do not know each other", pkg, imported)
			}
		}
	}
	grep := exec.Command("grep", "-rlE", `ledger_(post|reserve|unreserve|seal|side)\(|(INSERT INTO|UPDATE|DELETE FROM) (balances|moves|postings|reservations|seals)\b`, "--include=*.go", "--exclude=*_test.go", filepath.Join(root(), "internal"))
	found, _ := grep.Output()
	for file := range strings.FieldsSeq(string(found)) {
		if !strings.Contains(file, "/ledger/") && !strings.Contains(file, "/bench/") {
			t.Errorf("%s goes round the ledger", file)
		}
	}
}
