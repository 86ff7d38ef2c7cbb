package application_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"
	"lanternrow/internal/test/world"
)

// One held lock and thirty requests that want it must not silence the house: all of its
// connections once waited for that lock, and nothing else was answered.
func TestAHeldLockSilencesNobodyElse(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 24)
	order := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": 1, "wanted_on": "2027-12-31",
		"release": false,
		"lines":   []object{{"item_id": world.Clamp, "quantity": "2"}}}).JSON()
	held, err := h.Owner.BeginTxx(context.Background(), nil)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := held.Exec(`SELECT FROM outbound_orders FOR UPDATE`); err != nil {
		t.Fatal(err)
	}
	var wg sync.WaitGroup
	var refused atomic.Int32
	for range 30 {
		wg.Go(func() {
			a := lead.Twin().Post("/sales-orders/release",
				object{"orders": []object{{"id": order["id"], "version": order["version"]}}})
			if code := a.Code(); code != "busy" && code != "house_busy" || a.Status != http.StatusServiceUnavailable {
				t.Errorf("answered %d %s", a.Status, code)
			}
			refused.Add(1)
		})
	}
	// While they wait, the house reads, and says that it is well.
	for range 20 {
		if got := lead.Get("/items?site=1&q=HC").Status; got != http.StatusOK {
			t.Errorf("reading answered %d", got)
		}
		if r, err := http.Get(base + "/api/v1/health"); err != nil || r.StatusCode != http.StatusOK {
			t.Errorf("health answered %v, %v", r, err)
		}
	}
	wg.Wait()
	if err := held.Rollback(); err != nil {
		t.Fatal(err)
	}
	if code := lead.Post("/sales-orders/release",
		object{"orders": []object{{"id": order["id"], "version": order["version"]}}}).Code(); code != "ok" {
		t.Fatalf("once the lock is gone: %s", code)
	}
}

// A body that unpacks to far more than it weighs, and a large one before anybody is signed
// on, are refused before they are read.
func TestBodiesAreBoundedBeforeTheyAreRead(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	send := func(body []byte, headers map[string]string) (int, string) {
		r, err := http.NewRequest(http.MethodPost, base+"/api/v1/session", bytes.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		r.Header.Set("Content-Type", "application/json")
		for k, v := range headers {
			r.Header.Set(k, v)
		}
		response, err := http.DefaultClient.Do(r)
		if err != nil {
			// The server may hang up on what it does not want to read.
			return http.StatusRequestEntityTooLarge, "body_large"
		}
		a := world.ReadAnswer(t, response)
		return a.Status, a.Code()
	}
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	if _, err := z.Write(bytes.Repeat([]byte(" "), 1<<20)); err != nil {
		t.Fatal(err)
	}
	_ = z.Close()
	for _, encoding := range []string{"gzip", "br", "deflate", "gzip, gzip"} {
		if status, code := send(packed.Bytes(),
			map[string]string{"Content-Encoding": encoding}); status != http.StatusUnsupportedMediaType ||
			code != "body_compressed" {
			t.Errorf("%s: %d %s", encoding, status, code)
		}
	}
	large := []byte(`{"login": "` + strings.Repeat("x", 100<<10) + `", "password": "x"}`)
	for name, headers := range map[string]map[string]string{"nobody": nil,
		"a made-up session": {"Cookie": "lanternrow_session=made-up"}} {
		if status, code := send(large, headers); status != http.StatusRequestEntityTooLarge || code != "body_large" {
			t.Errorf("%s: %d %s", name, status, code)
		}
	}
	// Who is signed on may send what an order of many lines takes.
	lead := world.SignOn(t, base, "lead")
	if a := lead.Post("/sales-orders", `{"note": "`+strings.Repeat("x", 100<<10)+`"}`); a.Status != http.StatusUnprocessableEntity {
		t.Errorf("signed on: %d %s", a.Status, a.Body)
	}
}

func codeOf(err error) refusal.Code {
	if r := refusal.From(err); r != nil {
		return r.Code
	}
	return refusal.Code(fmt.Sprint(err))
}

// A hundred guesses at once, or ten thousand, come to no more than may be made one after another: the count
// was once looked at before, and written after, each was compared.
func TestGuessesAtOnceAreCountedBeforeTheyAreCompared(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	service := people.NewService(h.App, time.Hour)
	var wg sync.WaitGroup
	var compared, stopped atomic.Int32
	guesses := world.Storm(100, 10_000)
	for i := range guesses {
		wg.Go(func() {
			_, err := service.SignOn(people.From(context.Background(), people.Origin{Address: fmt.Sprint("10.0.0.", i)}), "lead",
				fmt.Sprint("guess ", i))
			switch code := codeOf(err); code {
			case "wrong_secret":
				compared.Add(1)
			case "too_many_attempts":
				stopped.Add(1)
			default:
				t.Errorf("guess %d: %v", i, err)
			}
		})
	}
	wg.Wait()
	t.Logf("of %d guesses %d were compared and %d stopped", guesses, compared.Load(), stopped.Load())
	if compared.Load() != 8 || int(stopped.Load()) != guesses-8 {
		t.Fatalf("%d guesses were compared and %d stopped", compared.Load(), stopped.Load())
	}
	// One address that tries many names is stopped too, whoever they are.
	from := people.From(context.Background(), people.Origin{Address: "10.9.9.9"})
	for i := range 61 {
		_, err := service.SignOnBadge(from, fmt.Sprint("X-", i), "0000")
		if want := map[bool]string{false: "wrong_secret",
			true: "too_many_attempts"}[i == 60]; codeOf(err) != refusal.Code(want) {
			t.Fatalf("badge %d: %v", i, err)
		}
	}
	// Those who know their password are not counted, however many sign on from one address.
	for i := range 70 {
		if _, err := service.SignOn(people.From(context.Background(), people.Origin{Address: "10.7.7.7"}), "office",
			world.Password); err != nil {
			t.Fatalf("sign-on %d: %v", i, err)
		}
	}
}

// A badge and a PIN are good for the floor's work; what only a lead or the office may do
// asks for the password.
func TestABadgeIsGoodForTheFloorAlone(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	badge := world.SignOnBadge(t, base, "B-001")
	if code := badge.Post("/cartons", object{"site_id": 1, "count": 1}).Code(); code != "ok" {
		t.Errorf("carton labels by badge: %s", code)
	}
	order := object{"customer_id": world.Customer, "site_id": 1, "wanted_on": "2027-12-31",
		"lines": []object{{"item_id": world.Clamp, "quantity": "2"}}}
	badge.Post("/sales-orders", order).Refused(http.StatusForbidden, "password_needed", "", "signed on with a badge",
		"password")
	badge.Post("/session/password", object{"password": "candle"}).Refused(http.StatusForbidden, "wrong_secret",
		"password")
	badge.Post("/session/password", object{"password": world.Password}).JSON()
	if code := badge.Post("/sales-orders", order).Code(); code != "ok" {
		t.Errorf("with the password: %s", code)
	}
	picker := world.SignOnBadge(t, base, "B-003")
	picker.Post("/sales-orders", order).Refused(http.StatusForbidden, "role", "", "Your role, picker")
}
