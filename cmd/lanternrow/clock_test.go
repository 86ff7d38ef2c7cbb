package main

import (
	"os"
	"path/filepath"
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
	dir := enterable(t, 0o755)
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
	for name, value := range map[string]string{"LD_PRELOAD": libraries[0], "FAKETIME_TIMESTAMP_FILE": clock, "FAKETIME_NO_CACHE": "1",
		"FAKETIME_DONT_FAKE_MONOTONIC": "1"} {
		t.Setenv(name, value)
	}
	h, server := furnishedIn(t, dir, plenty)
	m := move(t, 6, 50, time.Minute, "http://"+h.address)
	offsets := []string{"+1h", "-1h", "+1.5d", "+0", "-10m", "+10m", "-1d", "+3s", "-3s", "+0"}
	for range world.Storm(1, 5) {
		for _, offset := range offsets {
			set(offset)
			time.Sleep(300 * time.Millisecond)
		}
	}
	m.end()
	h.kill(false)
	db := after(t, server)
	m.once(t, db)
	var back int
	if err := db.Get(&back, `
		SELECT count(*) FROM (SELECT entered_at < lag(entered_at) OVER (ORDER BY id) AS earlier FROM postings) AS p WHERE earlier`); err != nil {
		t.Fatal(err)
	}
	t.Logf("%d postings were entered before the one before", back)
	if back == 0 {
		t.Error("the clock was never set back: that was no storm")
	}
}
