package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"syscall"
	"testing"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/test/world"
)

// TestMain lets the test program stand in for the real one.
func TestMain(m *testing.M) {
	if os.Getenv("LANTERNROW_TEST_AS_MAIN") != "" {
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
	h.server.Env = append(os.Environ(), "LANTERNROW_TEST_AS_MAIN=1", "LANTERNROW_RUN="+h.run, "LANTERNROW_ADDRESS="+h.address, "DATABASE_URL=")
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

// TestNothingIsLostOrDoubledWhenServerAndDatabaseAreKilled moves single units from
// many devices, each of which asks again under the same key until it is answered,
// while the server is killed, and then the server and the database.
func TestNothingIsLostOrDoubledWhenServerAndDatabaseAreKilled(t *testing.T) {
	dir, err := os.MkdirTemp("/tmp", "lanternrow-fault")
	if err != nil {
		t.Fatal(err)
	}
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	ctx := context.Background()
	h := &house{t: t, run: filepath.Join(dir, "run")}
	t.Cleanup(func() { _ = postgres.Stop(ctx, h.run); _ = os.RemoveAll(dir) })
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
	if _, err := owner.Exec(`UPDATE places SET max_units = NULL; SELECT ledger_post('{"kind":"book in","person":1}', '[{"item":1,"quantity":1000,"from_place":1,"to_place":8}]')`); err != nil {
		t.Fatal(err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	h.address = l.Addr().String()
	_ = l.Close()
	h.start()

	const devices, each = 6, 60
	var wg sync.WaitGroup
	for d := range devices {
		c := world.SignOn(t, "http://"+h.address, "lead")
		c.HTTP.Timeout = 3 * time.Second
		wg.Go(func() {
			for i := range each {
				if err := untilAnswered(c, fmt.Sprintf("%d-%d", d, i)); err != nil {
					t.Error(err)
					return
				}
			}
		})
	}
	time.Sleep(200 * time.Millisecond)
	h.kill(false)
	h.start()
	time.Sleep(200 * time.Millisecond)
	h.kill(true)
	h.start()
	wg.Wait()
	h.kill(false)

	_ = owner.Close()
	after, err := postgres.Open(ctx, server.URL(databaseName))
	if err != nil {
		t.Fatal(err)
	}
	defer after.Close()
	var moved, postings int
	if err := after.QueryRow(`SELECT (SELECT quantity FROM balances WHERE place_id = 9)::int, (SELECT count(*) FROM postings WHERE request_key <> '')`).Scan(&moved, &postings); err != nil {
		t.Fatal(err)
	}
	if moved != devices*each || postings != devices*each {
		t.Fatalf("%d asked for, %d units moved by %d postings", devices*each, moved, postings)
	}
	r, err := ledger.Verify(ctx, after)
	if err != nil || r.First != nil {
		t.Fatalf("after the storm: %+v, %v", r.First, err)
	}
}

// untilAnswered asks for one move until an answer comes.
func untilAnswered(c *world.Client, key string) error {
	text, err := json.Marshal(map[string]any{"from_id": 8, "to_id": 9, "item_id": 1, "quantity": "1"})
	if err != nil {
		return err
	}
	last := ""
	for deadline := time.Now().Add(time.Minute); time.Now().Before(deadline); time.Sleep(30 * time.Millisecond) {
		r, err := http.NewRequest(http.MethodPost, c.Base+"/api/v1/transfers", bytes.NewReader(text))
		if err != nil {
			return err
		}
		r.Header.Set("Content-Type", "application/json")
		r.Header.Set("X-CSRF-Token", c.CSRF)
		r.Header.Set("Idempotency-Key", key)
		answer, err := c.HTTP.Do(r)
		if err != nil {
			continue
		}
		last = answer.Status
		_ = answer.Body.Close()
		if answer.StatusCode == http.StatusOK {
			return nil
		}
	}
	return fmt.Errorf("%s was never answered; the last said %s", key, last)
}
