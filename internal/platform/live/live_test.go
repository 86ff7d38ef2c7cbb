package live_test

import (
	"context"
	"fmt"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"lanternrow/internal/platform/live"
	"lanternrow/internal/test/world"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

// hear waits until the topic is told.
func hear(t *testing.T, l *live.Listener, topic string) string {
	t.Helper()
	timeout := time.After(20 * time.Second)
	for {
		select {
		case <-l.Changed():
			if told := l.Take(); strings.Contains(told, topic) {
				return told
			}
		case <-timeout:
			t.Fatalf("%q was never told", topic)
		}
	}
}

func TestChangesReachEveryProcessOnTheDatabase(t *testing.T) {
	t.Parallel()
	d := world.NewDatabase(t)
	ctx, stop := context.WithCancel(context.Background())
	defer stop()
	here, there := live.NewHub(d.App, d.ServeURL), live.NewHub(d.App, d.ServeURL)
	atHome, abroad := here.Subscribe(), there.Subscribe()
	defer atHome.Close()
	go here.Run(ctx)
	go there.Run(ctx)
	hear(t, atHome, live.Everything)
	hear(t, abroad, live.Everything)
	// Many changes within a moment are told as one, each topic once.
	for range 100 {
		here.Notify("stock", "row")
		here.Notify("stock")
	}
	for _, l := range []*live.Listener{atHome, abroad} {
		if told := hear(t, l, "stock"); told != "row,stock" {
			t.Errorf("told %q", told)
		}
	}
	abroad.Close()
	here.Notify("later")
	hear(t, atHome, "later")
	if told := abroad.Take(); told != "" {
		t.Errorf("told %q after it ended", told)
	}
}

func TestALostConnectionIsMadeAnewAndSaysLookAtEverything(t *testing.T) {
	t.Parallel()
	d := world.NewDatabase(t)
	ctx, stop := context.WithCancel(context.Background())
	defer stop()
	hub := live.NewHub(d.App, d.ServeURL)
	l := hub.Subscribe()
	defer l.Close()
	go hub.Run(ctx)
	hear(t, l, live.Everything)
	if _, err := d.Owner.Exec(`SELECT pg_terminate_backend(pid) FROM pg_stat_activity
		WHERE datname = current_database() AND pid <> pg_backend_pid() AND query LIKE 'LISTEN%'`); err != nil {
		t.Fatal(err)
	}
	hear(t, l, live.Everything)
	hub.Notify("orders")
	hear(t, l, "orders")
}

// Readers that race the hub, stop reading, or come and go must never make a command wait:
// an earlier hub emptied a full channel under its lock while its reader emptied it too, and
// then waited for good.
func TestNoListenerKeepsACommandWaiting(t *testing.T) {
	t.Parallel()
	d := world.NewDatabase(t)
	ctx, stop := context.WithCancel(context.Background())
	hub := live.NewHub(d.App, d.ServeURL)
	asleep := hub.Subscribe()
	defer asleep.Close()
	first := hub.Subscribe()
	go hub.Run(ctx)
	hear(t, first, live.Everything)
	var readers, writers sync.WaitGroup
	for range 8 {
		readers.Go(func() {
			for ctx.Err() == nil {
				l := hub.Subscribe()
				for range 20 {
					select {
					case <-l.Changed():
						l.Take()
					case <-ctx.Done():
					}
				}
				l.Close()
			}
		})
	}
	for n := range 4 {
		writers.Go(func() {
			for i := range 500 {
				hub.Notify(fmt.Sprint("topic ", n))
				if _, err := d.App.Exec(`SELECT pg_notify('lanternrow', $1)`, fmt.Sprint("n", i)); err != nil {
					t.Error(err)
					return
				}
			}
		})
	}
	writers.Wait()
	hub.Notify("last")
	hear(t, first, "last")
	stop()
	readers.Wait()
	if told := asleep.Take(); told != live.Everything {
		t.Errorf("who slept through it all is told %q", told)
	}
}
