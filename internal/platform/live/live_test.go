package live_test

import (
	"context"
	"os"
	"strings"
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

// hear waits until one of the topics is told.
func hear(t *testing.T, c <-chan string, topic string) string {
	t.Helper()
	timeout := time.After(20 * time.Second)
	for {
		select {
		case told := <-c:
			if strings.Contains(told, topic) {
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
	here, there := live.NewHub(d.App, d.URL), live.NewHub(d.App, d.URL)
	atHome, endHome := here.Subscribe()
	abroad, endAbroad := there.Subscribe()
	defer endHome()
	go here.Run(ctx)
	go there.Run(ctx)
	hear(t, atHome, "everything")
	hear(t, abroad, "everything")
	// Many changes within a moment are told as one, each topic once.
	for range 100 {
		here.Touch("stock", "row")
		here.Touch("stock")
	}
	for _, c := range []<-chan string{atHome, abroad} {
		if told := hear(t, c, "stock"); told != "row,stock" {
			t.Errorf("told %q", told)
		}
	}
	endAbroad()
	here.Touch("later")
	hear(t, atHome, "later")
	select {
	case told := <-abroad:
		t.Errorf("told %q after it ended", told)
	default:
	}
}

func TestALostConnectionIsMadeAnewAndSaysLookAtEverything(t *testing.T) {
	t.Parallel()
	d := world.NewDatabase(t)
	ctx, stop := context.WithCancel(context.Background())
	defer stop()
	hub := live.NewHub(d.App, d.URL)
	c, end := hub.Subscribe()
	defer end()
	go hub.Run(ctx)
	hear(t, c, "everything")
	if _, err := d.Owner.Exec(`SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid() AND query LIKE 'LISTEN%'`); err != nil {
		t.Fatal(err)
	}
	hear(t, c, "everything")
	hub.Touch("orders")
	hear(t, c, "orders")
}

func TestAListenerThatFallsBehindIsToldToLookAtEverything(t *testing.T) {
	t.Parallel()
	d := world.NewDatabase(t)
	ctx, stop := context.WithCancel(context.Background())
	defer stop()
	hub := live.NewHub(d.App, d.URL)
	slow, endSlow := hub.Subscribe()
	quick, endQuick := hub.Subscribe()
	defer endSlow()
	defer endQuick()
	go hub.Run(ctx)
	hear(t, quick, "everything")
	hear(t, slow, "everything")
	for range 40 {
		if _, err := d.Owner.Exec(`SELECT pg_notify('lanternrow', 'stock')`); err != nil {
			t.Fatal(err)
		}
		hear(t, quick, "stock")
	}
	hear(t, slow, "everything")
	if len(slow) > 16 {
		t.Errorf("%d changes wait for a listener that does not listen", len(slow))
	}
}
