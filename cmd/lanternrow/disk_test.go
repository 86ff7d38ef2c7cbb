package main

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/test/world"
)

// smallDisk is a folder with a disk of its own of so many bytes, which takes the right to mount one.
func smallDisk(t *testing.T, bytes int) string {
	t.Helper()
	dir, err := os.MkdirTemp("/tmp", "lanternrow-disk")
	if err != nil {
		t.Fatal(err)
	}
	if err := syscall.Mount("tmpfs", dir, "tmpfs", 0, fmt.Sprintf("size=%d,mode=755", bytes)); err != nil {
		_ = os.Remove(dir)
		t.Skipf("no disk can be mounted here: %v", err)
	}
	t.Cleanup(func() {
		// The server that was on it ends a moment after it is told to.
		for range 100 {
			if syscall.Unmount(dir, 0) == nil {
				break
			}
			time.Sleep(100 * time.Millisecond)
		}
		_ = os.Remove(dir)
	})
	return dir
}

// fill writes until nothing fits any more.
func fill(t *testing.T, file string) {
	t.Helper()
	f, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	for _, piece := range [][]byte{make([]byte, 1<<20), make([]byte, 4<<10)} {
		for err = nil; err == nil; {
			_, err = f.Write(piece)
		}
		if !errors.Is(err, syscall.ENOSPC) {
			t.Fatal(err)
		}
	}
}

// TestAFullDiskLosesAndDoublesNothing has devices move units until the database has no room left for them. They are told so
// in words, the server says that nobody should be sent to it; and once there is room, and whoever looks after the house has
// started the database again where it gave up, all that was asked for is done, once.
func TestAFullDiskLosesAndDoublesNothing(t *testing.T) {
	dir := smallDisk(t, 700<<20)
	h, server := furnishedIn(t, dir, plenty)
	refusals.Clear()
	m := move(t, 6, 200, time.Minute, "http://"+h.address)
	time.Sleep(200 * time.Millisecond)
	filler := filepath.Join(dir, "filler")
	fill(t, filler)
	ready, err := http.Get("http://" + h.address + "/ready")
	if err != nil || ready.StatusCode != http.StatusServiceUnavailable {
		t.Errorf("with a full disk people may be sent here: %v, %v", ready, err)
	}
	time.Sleep(time.Duration(world.Storm(4, 20)) * time.Second)
	if err := os.Remove(filler); err != nil {
		t.Fatal(err)
	}
	if _, err := postgres.Start(context.Background(), h.run); err != nil {
		t.Fatal(err)
	}
	m.end()
	told := map[string]int{}
	refusals.Range(func(code, n any) bool { told[code.(string)] = int(n.(*atomic.Int64).Load()); return true })
	h.kill(false)
	m.once(t, after(t, server))
	t.Logf("refused were %v", told)
	if told["disk_full"]+told["database_away"]+told["outcome_unknown"] == 0 || told["internal"] > 0 {
		t.Errorf("with a full disk people were told %v", told)
	}
}
