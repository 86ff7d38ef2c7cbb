package main

import (
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"lanternrow/internal/test/world"
)

// TestTheDatabasesClockSteps has devices move units while the clock of the database is set forward and back, by up to a day and
// a half, every few moments (libfaketime). All that was asked for is done, once, and the ledger is whole.
func TestTheDatabasesClockSteps(t *testing.T) {
	libraries, _ := filepath.Glob("/usr/lib/*/faketime/libfaketime.so.1")
	if len(libraries) == 0 {
		t.Fatal("libfaketime is not installed: run scripts/setup.sh test")
	}
	dir, err := os.MkdirTemp("/tmp", "lanternrow-clock")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	clock := filepath.Join(dir, "clock")
	set := func(offset string) {
		if err := os.WriteFile(clock+".new", []byte(offset+"\n"), 0o644); err != nil {
			t.Error(err)
		}
		if err := os.Rename(clock+".new", clock); err != nil {
			t.Error(err)
		}
	}
	set("+0")
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	for name, value := range map[string]string{"LD_PRELOAD": libraries[0], "FAKETIME_TIMESTAMP_FILE": clock, "FAKETIME_NO_CACHE": "1",
		"FAKETIME_DONT_FAKE_MONOTONIC": "1"} {
		t.Setenv(name, value)
	}
	h, server := furnishedIn(t, dir, `
		SELECT ledger_post('{"kind":"receive","person":1}',
		       '[{"item":1,"quantity":1000000,"from_location":1,"to_location":8}]')`)
	const devices, least = 6, 50
	var over atomic.Bool
	var asked atomic.Int64
	var wg sync.WaitGroup
	for d := range devices {
		c := world.SignOn(t, "http://"+h.address, "lead")
		wg.Go(func() {
			for i := 0; i < least || !over.Load(); i++ {
				asked.Add(1)
				if err := untilAnswered(c, fmt.Sprintf("%d-%d", d, i)); err != nil {
					t.Error(err)
					return
				}
			}
		})
	}
	offsets := []string{"+1h", "-1h", "+1.5d", "+0", "-10m", "+10m", "-1d", "+3s", "-3s", "+0"}
	for range world.Storm(1, 5) {
		for _, offset := range offsets {
			set(offset)
			time.Sleep(300 * time.Millisecond)
		}
	}
	over.Store(true)
	wg.Wait()
	h.kill(false)
	db := after(t, server)
	var moved, postings, back int
	if err := db.QueryRow(`
		SELECT (SELECT quantity FROM balances WHERE location_id = 9)::int,
		       (SELECT count(*) FROM postings WHERE request_key <> ''),
		       (SELECT count(*) FROM (SELECT entered_at < lag(entered_at) OVER (ORDER BY id) AS earlier FROM postings) AS p WHERE earlier)`).
		Scan(&moved, &postings, &back); err != nil {
		t.Fatal(err)
	}
	t.Logf("%d asked for, %d units moved by %d postings, of which %d were entered before the one before", asked.Load(), moved, postings, back)
	if moved != int(asked.Load()) || postings != moved {
		t.Errorf("%d asked for, %d units moved by %d postings", asked.Load(), moved, postings)
	}
	if back == 0 {
		t.Error("the clock was never set back: that was no storm")
	}
}
