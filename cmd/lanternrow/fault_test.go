package main

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/test/world"

	"github.com/jmoiron/sqlx"
)

// TestMain lets the test program stand in for the real one.
func TestMain(m *testing.M) {
	if os.Getenv("TEST_AS_MAIN") != "" {
		main()
		return
	}
	os.Exit(m.Run())
}

// house is the real program, serving its own database, that can be killed.
type house struct {
	t       *testing.T
	run     string
	address string
	server  *exec.Cmd
}

func (h *house) start() {
	h.server = exec.Command(os.Args[0], "serve")
	h.server.Env = append(os.Environ(), "TEST_AS_MAIN=1", "LANTERNROW_RUN="+h.run,
		"LANTERNROW_ADDRESS="+h.address, "DATABASE_URL=")
	h.await()
}

// await starts the program as it is to be run, and waits until it answers.
func (h *house) await() {
	if err := h.server.Start(); err != nil {
		h.t.Fatal(err)
	}
	for range 300 {
		if r, err := http.Get("http://" + h.address + "/api/v1/health"); err == nil {
			_ = r.Body.Close()
			if r.StatusCode == http.StatusOK {
				return
			}
		}
		time.Sleep(50 * time.Millisecond)
	}
	h.t.Fatal("the server does not come up")
}

// kill ends the server as a power cut would; with the database too, when asked.
func (h *house) kill(database bool) {
	_ = h.server.Process.Kill()
	_ = h.server.Wait()
	if !database {
		return
	}
	pid, err := os.ReadFile(filepath.Join(h.run, "postgres", "postmaster.pid"))
	if err != nil {
		h.t.Fatal(err)
	}
	var n int
	if _, err := fmt.Sscan(string(pid), &n); err != nil {
		h.t.Fatal(err)
	}
	// SIGQUIT is an immediate shutdown: no checkpoint, recovery at the next start.
	_ = syscall.Kill(n, syscall.SIGQUIT)
	time.Sleep(time.Second)
}

// furnished starts a house whose bins take any number, with these goods in it.
func furnished(t *testing.T, goods string) (*house, *postgres.Server) {
	t.Helper()
	return furnishedIn(t, enterable(t, 0o755), goods)
}

// enterable is a folder that the database's own user may enter, until the test ends.
func enterable(t *testing.T, mode os.FileMode) string {
	t.Helper()
	dir, err := os.MkdirTemp("/tmp", "lanternrow-test")
	if err != nil {
		t.Fatal(err)
	}
	if err := os.Chmod(dir, mode); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	return dir
}

// furnishedIn is furnished within a folder.
func furnishedIn(t *testing.T, dir, goods string) (*house, *postgres.Server) {
	t.Helper()
	ctx := context.Background()
	h := &house{t: t, run: filepath.Join(dir, "run")}
	t.Cleanup(func() { _ = postgres.Stop(ctx, h.run) })
	server, err := postgres.Start(ctx, h.run)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := server.Ensure(ctx, databaseName); err != nil {
		t.Fatal(err)
	}
	owner, err := postgres.Open(ctx, server.URL(databaseName))
	if err != nil {
		t.Fatal(err)
	}
	defer owner.Close()
	if err := world.Furnish(ctx, owner); err != nil {
		t.Fatal(err)
	}
	if _, err := owner.Exec(`UPDATE locations SET max_units = NULL; ` + goods); err != nil {
		t.Fatal(err)
	}
	h.address = freeAddress(t)
	h.start()
	return h, server
}

// after opens the database behind a storm and fails the test unless the ledger is whole.
func after(t *testing.T, server *postgres.Server) *sqlx.DB {
	t.Helper()
	db, err := postgres.Open(context.Background(), server.URL(databaseName))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	r, err := ledger.Verify(context.Background(), db)
	if err != nil || r.First != nil {
		t.Fatalf("after the storm: %+v, %v", r.First, err)
	}
	return db
}

// TestNothingIsLostOrDoubledWhenServerAndDatabaseAreKilled moves single units from
// many devices, each of which asks again under the same key until it is answered,
// while the server is killed, and then the server and the database.
func TestNothingIsLostOrDoubledWhenServerAndDatabaseAreKilled(t *testing.T) {
	h, server := furnished(t, plenty)
	kills := world.Storm(2, 50)
	interrupted.Store(0)
	m := move(t, 6, 60, 3*time.Second, "http://"+h.address)
	for n := range kills {
		time.Sleep(200 * time.Millisecond)
		h.kill(n%2 == 1)
		h.start()
	}
	m.end()
	memory := h.memory()
	h.kill(false)

	m.once(t, after(t, server))
	t.Logf("%d kills; %d requests met a dead server; %s of memory at most at the end", kills, interrupted.Load(), memory)
}

// memory is the most that the server had in memory.
func (h *house) memory() string {
	status, _ := os.ReadFile(fmt.Sprintf("/proc/%d/status", h.server.Process.Pid))
	_, behind, _ := strings.Cut(string(status), "VmHWM:")
	most, _, _ := strings.Cut(behind, "\n")
	return strings.TrimSpace(most)
}

// TestTwentyPickersWalkThroughAStorm has twenty devices walk a round each, unit by unit,
// with every step asked again under its key until it is answered, while the server is
// killed twice, once with its database: every unit is in its order's carton at the bench,
// once, and what the orders say is what the stock says.
func TestTwentyPickersWalkThroughAStorm(t *testing.T) {
	h, server := furnished(t, `
		SELECT ledger_post('{"kind":"receive","person":1}',
		       (SELECT jsonb_agg(jsonb_build_object('item', CASE WHEN n % 2 = 0 THEN 1 ELSE 4 END, 'quantity', 40,
		       'from_location', 1, 'to_location', 8 + n)) FROM generate_series(0, 7) AS n))`)
	const pickers, clamps, weights = 20, 6, 4
	lead := world.SignOn(t, "http://"+h.address, "lead")
	type object = map[string]any
	var rounds []int64
	for range pickers {
		o := lead.Post("/sales-orders", object{"customer_id": world.Customer, "site_id": world.Site,
			"wanted_on": time.Now().Format(time.DateOnly), "release": true,
			"lines": []object{{"item_id": world.Clamp, "quantity": fmt.Sprint(clamps)},
				{"item_id": world.Heavy, "quantity": fmt.Sprint(weights)}}}).JSON()
		p := lead.Post("/pick/plan", object{"site_id": world.Site, "order_ids": []any{o["id"]}}).JSON()
		var stops []object
		for _, s := range p["stops"].([]any) {
			s := s.(object)
			stops = append(stops, object{"line_id": s["line_id"], "location_id": s["location_id"],
				"quantity": s["quantity"]})
		}
		rounds = append(rounds,
			int64(lead.Post("/rounds", object{"site_id": world.Site, "stops": stops}).JSON()["id"].(float64)))
	}
	var labels []struct{ SSCC string }
	lead.Post("/cartons", object{"site_id": world.Site, "count": pickers}).Into(&labels)
	var wg sync.WaitGroup
	begin := make(chan struct{})
	for n, round := range rounds {
		c := world.SignOn(t, "http://"+h.address, "picker")
		c.HTTP.Timeout = 3 * time.Second
		wg.Go(func() {
			<-begin
			if err := walk(c, n, fmt.Sprintf("/rounds/%d", round), labels[n].SSCC); err != nil {
				t.Error(err)
			}
		})
	}
	interrupted.Store(0)
	close(begin)
	time.Sleep(100 * time.Millisecond)
	h.kill(false)
	h.start()
	time.Sleep(100 * time.Millisecond)
	h.kill(true)
	h.start()
	wg.Wait()
	h.kill(false)
	if n := interrupted.Load(); n < pickers {
		t.Fatalf("only %d requests met a dead server: that was no storm", n)
	}
	db := after(t, server)
	var wrong, bench, takes int
	err := db.QueryRow(`SELECT (SELECT count(*) FROM outbound_lines WHERE picked <> quantity OR planned <> 0)
		+ (SELECT count(*) FROM carton_contents c
		WHERE quantity <> (SELECT sum(quantity) FROM balances WHERE carton_id = c.carton_id
		AND item_id = c.item_id)) + (SELECT count(*) FROM reservations),
		(SELECT sum(quantity) FROM balances WHERE location_id = $1)::int,
		(SELECT count(*) FROM postings WHERE kind = 'pick')`, world.Bench).Scan(&wrong, &bench, &takes)
	if err != nil {
		t.Fatal(err)
	}
	if want := pickers * (clamps + weights); wrong != 0 || bench != want || takes != want {
		t.Fatalf("%d lines and cartons are wrong; %d of %d units stand at the bench, taken by %d postings", wrong,
			bench, want, takes)
	}
}

// walk makes a whole round, unit by unit.
func walk(c *world.Client, device int, path, sscc string) error {
	type object = map[string]any
	n := 0
	step := func(what string, body any) (object, error) {
		n++
		return untilDone(c, path+what, body, fmt.Sprintf("%d-%d", device, n))
	}
	if _, err := step("/start", nil); err != nil {
		return err
	}
	round, err := step("/cartons", object{"scan": sscc})
	if err != nil {
		return err
	}
	for _, s := range round["stops"].([]any) {
		s := s.(object)
		units := 0
		_, _ = fmt.Sscan(s["quantity"].(string), &units)
		for range units {
			if _, err := step("/pick", object{"stop_id": s["id"], "bin": s["bin"], "item": s["sku"], "carton": sscc,
				"quantity": "1"}); err != nil {
				return err
			}
		}
	}
	_, err = step("/stage", object{})
	return err
}
