package connection_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"slices"
	"sync"
	"testing"
	"time"

	"lanternrow/internal/connection"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/test/world"

	"github.com/jackc/pgx/v5/pgconn"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

// device is a receiver that keeps what it is told, and fails as it is told to.
type device struct {
	mu   sync.Mutex
	told map[string][]string
	fail func(m connection.Message) error
}

func (d *device) Deliver(_ context.Context, m connection.Message) (json.RawMessage, error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.fail != nil {
		if err := d.fail(m); err != nil {
			return nil, err
		}
	}
	d.told[m.Receiver] = append(d.told[m.Receiver], m.Document)
	return json.RawMessage(`{"ok": true}`), nil
}

// at gives a house a clock, and a worker of the channel Host with this device behind it.
func at(h *world.House, clock *time.Time, d *device) *connection.Worker {
	h.Runner.Now = func() time.Time { return *clock }
	return &connection.Worker{Runner: h.Runner,
		Lines: map[connection.Channel]connection.Line{connection.Host: {Port: d}}}
}

func put(t *testing.T, h *world.House, receiver, document string) {
	t.Helper()
	if _, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (bool, error) {
		return true, connection.Put(ctx, tx, connection.Message{SiteID: world.Site, Channel: connection.Host,
			Receiver: receiver, Kind: "note", Document: document}, nil)
	}); err != nil {
		t.Fatal(err)
	}
}

// A command may run several times before it is committed. What speaks to the outside was
// once asked each time; now it is asked once, and not at all by one that is refused.
func TestARetriedCommandSpeaksOnceAndARefusedOneNever(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	clock := time.Now()
	d := &device{told: map[string][]string{}}
	w := at(h, &clock, d)
	tries := 0
	ask := func(end error) error {
		_, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (bool, error) {
			if err := connection.TellHost(ctx, tx, world.Site, "note", "once", nil); err != nil {
				return false, err
			}
			if tries++; tries < 4 {
				return false, &pgconn.PgError{Code: "40P01"}
			}
			return true, end
		})
		return err
	}
	if err := ask(nil); err != nil || tries != 4 {
		t.Fatalf("after %d tries: %v", tries, err)
	}
	if err := ask(errors.New("refused")); err == nil {
		t.Fatal("it was done")
	}
	if err := w.Work(context.Background()); err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(d.told); got != "map[site 1:[once]]" {
		t.Fatalf("told %s", got)
	}
}

// Eight workers share what waits, and each receiver is told in order, once.
func TestReceiversAreToldInOrderHoweverManyWork(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	clock := time.Now()
	d := &device{told: map[string][]string{}}
	w := at(h, &clock, d)
	var want []string
	for n := range 12 {
		want = append(want, fmt.Sprintf("D-%02d", n))
		put(t, h, "A", want[n])
		put(t, h, "B", want[n])
	}
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			if err := w.Work(context.Background()); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	// What was behind a message that another worker had in hand is due still.
	if err := w.Work(context.Background()); err != nil {
		t.Fatal(err)
	}
	for _, receiver := range []string{"A", "B"} {
		if !slices.Equal(d.told[receiver], want) {
			t.Errorf("%s was told %v", receiver, d.told[receiver])
		}
	}
}

// A receiver that does not take a message holds up what is behind it and nobody else; the
// pauses grow; a final no lets the next one go.
func TestWhatIsNotTakenWaitsLongerEachTime(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	clock := time.Now().Truncate(time.Second)
	var now error
	d := &device{told: map[string][]string{}, fail: func(m connection.Message) error {
		if m.Receiver == "A" {
			return now
		}
		return nil
	}}
	w := at(h, &clock, d)
	put(t, h, "A", "first")
	put(t, h, "A", "second")
	put(t, h, "B", "other")
	now = errors.New("no answer")
	for tries, pause := range []time.Duration{2 * time.Second, 4 * time.Second, 8 * time.Second} {
		if err := w.Work(context.Background()); err != nil {
			t.Fatal(err)
		}
		waiting, _, err := connection.List(context.Background(), h.App, world.Site, connection.Host)
		if err != nil || len(waiting) != 2 || waiting[0].Attempts != tries+1 || waiting[0].Said != "no answer" ||
			!waiting[0].NextAt.Equal(clock.Add(pause)) || waiting[1].Attempts != 0 {
			t.Fatalf("after %d tries: %+v, %v", tries+1, waiting, err)
		}
		clock = clock.Add(pause)
	}
	if fmt.Sprint(d.told) != "map[B:[other]]" {
		t.Fatalf("told %v", d.told)
	}
	now = &connection.Refusal{Said: "not from here"}
	if err := w.Work(context.Background()); err != nil {
		t.Fatal(err)
	}
	_, over, err := connection.List(context.Background(), h.App, world.Site, connection.Host)
	if err != nil || len(over) != 3 || over[1].State != connection.Refused || over[1].Said != "not from here" {
		t.Fatalf("refused: %+v, %v", over, err)
	}
	// A worker that was killed while it spoke lets go of the message after a while.
	put(t, h, "A", "third")
	if _, err := h.Owner.Exec(`
		UPDATE outbox SET claimed_until = $1 WHERE document = 'third'`, clock.Add(30*time.Second)); err != nil {
		t.Fatal(err)
	}
	now = nil
	for _, told := range []int{0, 1} {
		if err := w.Work(context.Background()); err != nil || len(d.told["A"]) != told {
			t.Fatalf("told %v, %v", d.told, err)
		}
		clock = clock.Add(time.Minute)
	}
	// A clock that was fast put a try off; once it is set right nothing waits for the time that it showed.
	put(t, h, "A", "fourth")
	now, clock = errors.New("no answer"), clock.Add(10*time.Hour)
	if err := w.Work(context.Background()); err != nil {
		t.Fatal(err)
	}
	now, clock = nil, clock.Add(-10*time.Hour)
	h.Owner.MustExec(`UPDATE outbox SET claimed_until = NULL`)
	if err := w.Work(context.Background()); err != nil || len(d.told["A"]) != 2 {
		t.Fatalf("told %v, %v", d.told, err)
	}
}
