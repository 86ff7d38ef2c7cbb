package application_test

import (
	"bufio"
	"net/http"
	"runtime"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"lanternrow/internal/test/world"
)

// TestManyListenSomeSlowlyAndSomeNeverRead has many pages listen for what changes, of which every third reads nothing and every
// third sleeps between lines: whoever reads is told, whoever works is not held up, and what the deaf leave behind is bounded.
func TestManyListenSomeSlowlyAndSomeNeverRead(t *testing.T) {
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	bin, far := h.Bin(t, "A-01-1-A"), h.Bin(t, "B-03-1-A")
	h.Stock(t, world.Clamp, bin, 20)
	listeners := world.Storm(90, 3000)
	client := &http.Client{Jar: lead.HTTP.Jar, Transport: &http.Transport{MaxConnsPerHost: 0}}
	var told atomic.Int64
	memory := func() uint64 {
		var m runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&m)
		return m.HeapInuse + m.StackInuse
	}
	before := memory()
	for n := range listeners {
		r, _ := http.NewRequestWithContext(t.Context(), http.MethodGet, base+"/api/v1/events", nil)
		stream, err := client.Do(r)
		if err != nil || stream.StatusCode != http.StatusOK {
			t.Fatalf("listener %d: %v %v", n, stream, err)
		}
		t.Cleanup(func() { _ = stream.Body.Close() })
		if n%3 == 0 {
			continue
		}
		go func() {
			for lines := bufio.NewScanner(stream.Body); lines.Scan(); {
				if strings.Contains(lines.Text(), "stock") {
					told.Add(1)
					return
				}
				if n%3 == 1 {
					time.Sleep(100 * time.Millisecond)
				}
			}
		}()
	}
	var slowest time.Duration
	for i := range 40 {
		from, to := bin, far
		if i%2 == 1 {
			from, to = far, bin
		}
		began := time.Now()
		lead.Post("/transfers", object{"from_id": from, "to_id": to, "item_id": world.Clamp, "quantity": "3"}).JSON()
		slowest = max(slowest, time.Since(began))
	}
	readers := int64(listeners - (listeners+2)/3)
	for deadline := time.Now().Add(60 * time.Second); told.Load() < readers && time.Now().Before(deadline); {
		time.Sleep(50 * time.Millisecond)
	}
	more := (memory() - before) >> 20
	t.Logf("%d listen, %d of %d readers were told, the slowest of 40 moves took %d ms, %d MB more in memory", listeners, told.Load(), readers,
		slowest.Milliseconds(), more)
	if told.Load() != readers || more > uint64(64+listeners/4) {
		t.Errorf("%d of %d readers were told; %d MB more are in memory", told.Load(), readers, more)
	}
}
