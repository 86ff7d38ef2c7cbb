package application_test

import (
	"bufio"
	"context"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"lanternrow/internal/application"
	"lanternrow/internal/platform/config"
	"lanternrow/internal/test/world"
)

// three starts three servers on the database of a house, and tells where they are; end ends one.
func three(t *testing.T, h *world.House) (bases [3]string, end func(n int)) {
	t.Helper()
	var ends [3]context.CancelFunc
	for i := range bases {
		ctx, stop := context.WithCancel(context.Background())
		t.Cleanup(stop)
		s := application.New(ctx, h.Pools(t), h.ServeURL, config.Config{StandIns: true, CompanyPrefix: "9521234", Schedules: true})
		bases[i] = world.Serve(t, s.App)
		ends[i] = func() { stop(); _ = s.App.Shutdown() }
	}
	return bases, func(n int) { ends[n]() }
}

// on is the same device, as it talks to another server.
func on(c *world.Client, base string) *world.Client {
	twin := c.Twin()
	twin.Base, twin.Key, twin.Blunt = base, c.Key, true
	return twin
}

// hear waits until a listener is told of something.
func hear(t *testing.T, told <-chan string, word string) {
	t.Helper()
	for deadline := time.After(20 * time.Second); ; {
		select {
		case line := <-told:
			if strings.Contains(line, word) {
				return
			}
		case <-deadline:
			t.Fatalf("nobody was told of %q", word)
		}
	}
}

// TestThreeServersServeOneHouse works with three servers beside each other: whoever signed on at one is signed on at all, what
// one does another tells of, a request that all three get happens once, guesses at a password are counted together, and each
// schedule is done and each letter sent by exactly one, also when one of the servers ends in the midst.
func TestThreeServersServeOneHouse(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	bases, end := three(t, h)
	lead := world.SignOn(t, bases[0], "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 30)

	// A page that listens at the third is told of what is done at the first.
	told := make(chan string, 100)
	request, _ := http.NewRequestWithContext(t.Context(), http.MethodGet, bases[2]+"/api/v1/events", nil)
	stream, err := (&http.Client{Jar: lead.HTTP.Jar}).Do(request)
	if err != nil || stream.StatusCode != http.StatusOK {
		t.Fatalf("listening: %v %v", stream, err)
	}
	go func() {
		defer stream.Body.Close()
		for lines := bufio.NewScanner(stream.Body); lines.Scan(); {
			told <- lines.Text()
		}
	}()
	hear(t, told, "hello")

	// The same request at all three happens once, and is answered alike.
	var all sync.WaitGroup
	var answers [3]string
	for i, base := range bases {
		all.Go(func() {
			c := on(lead, base)
			answers[i] = string(pressing(func() world.Answer {
				c.Key = "once-for-all"
				return c.Post("/transfers", object{"from_id": h.Bin(t, "A-01-1-A"), "item_id": world.Clamp, "quantity": "4", "to": "B-03-1-A"})
			}).Body)
		})
	}
	all.Wait()
	if h.Holds(t, h.Bin(t, "B-03-1-A"), world.Clamp) != "4" || answers[0] != answers[1] || answers[1] != answers[2] {
		t.Errorf("moved are %s, answered was %q", h.Holds(t, h.Bin(t, "B-03-1-A"), world.Clamp), answers)
	}
	hear(t, told, "stock")
	// Eight guesses may be made, wherever they are made.
	codes := map[string]int{}
	for n := range 12 {
		c := &world.Client{T: t, Base: bases[n%3], HTTP: http.DefaultClient}
		codes[c.Post("/session", object{"login": "picker", "password": "guessed"}).Code()]++
	}
	if codes["wrong_secret"] != 8 || len(codes) != 2 {
		t.Errorf("the guesses were answered %v", codes)
	}

	// Letters by all three, and schedules that are due now; one server ends.
	h.Owner.MustExec(`
		UPDATE parties SET email = 'stage@example.org';
		INSERT INTO schedules (site_id, task, rule, settings, next_at, changed_by, changed_at, last_change)
		SELECT 1, 'release-orders', '{"at": ["07:30"]}', '{"days": 3}', now() - interval '1 minute', 1, now(), 'set it up' FROM generate_series(1, 12)`)
	for n := range 9 {
		c := on(lead, bases[n%3])
		o := c.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site, "wanted_on": soon,
			"lines": []object{{"item_id": world.Clamp, "quantity": "1"}}}).JSON()
		c.Post(fmt.Sprintf("/sales-orders/%d/mail", id(o, "id")), object{}).JSON()
	}
	end(0)
	var done struct{ Letters, Again, Runs, Twice int }
	for deadline := time.Now().Add(60 * time.Second); time.Now().Before(deadline); time.Sleep(100 * time.Millisecond) {
		if err := h.Owner.Get(&done, `
			SELECT (SELECT count(*) FROM outbox WHERE channel = 'mail' AND state = 'done') AS letters,
			       (SELECT count(*) FROM outbox WHERE channel = 'mail' AND attempts > 1) AS again, (SELECT count(*) FROM schedule_runs) AS runs,
			       (SELECT count(*) FROM (SELECT schedule_id FROM schedule_runs GROUP BY 1 HAVING count(*) > 1) AS t) AS twice`); err != nil {
			t.Fatal(err)
		}
		if done.Letters == 9 && done.Runs == 12 {
			break
		}
	}
	if done.Letters != 9 || done.Runs != 12 || done.Twice != 0 {
		t.Errorf("done was %+v", done)
	}
	h.Whole(t)
}
