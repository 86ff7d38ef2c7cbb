package command_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/test/world"

	"github.com/jackc/pgx/v5/pgconn"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

// note is a command that leaves a trace: a lot by this code.
func note(code string) func(context.Context, *command.Tx) (string, error) {
	return func(ctx context.Context, tx *command.Tx) (string, error) {
		tx.Nowhere()
		_, err := tx.ExecContext(ctx, `INSERT INTO lots (item_id, code, arrived_on) VALUES (2, $1, current_date)`, code)
		return "noted " + code, err
	}
}

// lastNote leaves the same trace along with the commit.
func lastNote(code string) func(context.Context, *command.Tx) (string, error) {
	return func(_ context.Context, tx *command.Tx) (string, error) {
		tx.Nowhere()
		tx.Last(func(err error) error { return err },
			`INSERT INTO lots (item_id, code, arrived_on) VALUES (2, $1, current_date)`, code)
		return "noted " + code, nil
	}
}

func traces(t *testing.T, h *world.House) (n int) {
	t.Helper()
	if err := h.Owner.Get(&n, `SELECT count(*) FROM lots`); err != nil {
		t.Fatal(err)
	}
	return n
}

type touched struct{ atomic.Int32 }

func (t *touched) Notify(...string) { t.Add(1) }

func TestOfTwinsOneIsDoneAndAllAreAnsweredAlike(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	told := &touched{}
	h.Runner.Notify = told
	var wg sync.WaitGroup
	var ran atomic.Int32
	for range 12 {
		wg.Go(func() {
			answer, err := command.Do(world.As("lead"), h.Runner, "twin", "note", "same",
				func(ctx context.Context, tx *command.Tx) (string, error) {
					tx.Nowhere()
					ran.Add(1)
					tx.Notify("stock")
					// The number differs from try to try; the answer must not.
					var n int64
					if err := tx.GetContext(ctx, &n, `SELECT nextval('shipment_numbers')`); err != nil {
						return "", err
					}
					if _, err := note("L")(ctx, tx); err != nil {
						return "", err
					}
					return fmt.Sprint(n), nil
				})
			if err != nil {
				t.Error(err)
			}
			var kept string
			if err := h.Owner.Get(&kept, `
				SELECT answer #>> '{}' FROM requests WHERE key = 'twin'`); err != nil || kept != answer {
				t.Errorf("answered %s, and %s is kept (%v)", answer, kept, err)
			}
		})
	}
	wg.Wait()
	if traces(t, h) != 1 || told.Load() != 1 {
		t.Fatalf("of %d tries, %d left a trace and %d were told", ran.Load(), traces(t, h), told.Load())
	}
}

func TestAKeyStandsForOnePersonAndOneContent(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	do := func(role, key, name string, body any, code string) error {
		_, err := command.Do(world.As(role), h.Runner, key, name, body, note(code))
		return err
	}
	if err := errors.Join(do("lead", "k", "note", 1, "A"), do("picker", "k", "note", 1, "B")); err != nil {
		t.Fatal(err)
	}
	world.Refused(t, do("lead", "k", "note", 2, "C"), "key_reused", "Nothing was done")
	world.Refused(t, do("lead", "k", "other", 1, "D"), "key_reused")
	world.Refused(t, do("lead", string(make([]byte, 81)), "note", 1, "E"), "key_malformed", "81 characters")
	// Even when the second thing would be refused for a reason of its own.
	_, err := command.Do(world.As("lead"), h.Runner, "k", "note", 3, func(context.Context, *command.Tx) (string,
		error) {
		return "", refusal.New("own", "", "Refused for its own reason.")
	})
	world.Refused(t, err, "key_reused")
	if got := traces(t, h); got != 2 {
		t.Fatalf("%d traces", got)
	}
	if _, err := command.Do(context.Background(), h.Runner, "n", "note", 1, note("F")); refusal.From(err) == nil ||
		refusal.From(err).Code != "signed_out" {
		t.Fatalf("nobody was let in: %v", err)
	}
}

func TestWhatFailsLeavesNothingBehind(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	wrong := errors.New("wrong")
	for name, fn := range map[string]func(context.Context, *command.Tx) (string, error){
		"an error":  func(context.Context, *command.Tx) (string, error) { return "", wrong },
		"a refusal": func(context.Context, *command.Tx) (string, error) { return "", refusal.New("no", "", "No.") },
		"bad SQL": func(ctx context.Context, tx *command.Tx) (string, error) {
			tx.Nowhere()
			_, err := tx.ExecContext(ctx, `SELECT 1/0`)
			return "", err
		},
		"an ignored": func(ctx context.Context, tx *command.Tx) (string, error) {
			tx.Nowhere()
			_, _ = tx.ExecContext(ctx, `SELECT 1/0`)
			return "fine", nil
		},
		"no JSON": nil,
	} {
		t.Run(name, func(t *testing.T) {
			for _, key := range []string{"", "key " + name} {
				var err error
				if fn == nil {
					_, err = command.Do(world.As("lead"), h.Runner, "channel", "note", 1,
						func(ctx context.Context, tx *command.Tx) (chan int, error) {
							tx.Nowhere()
							_, err := note("X")(ctx, tx)
							return make(chan int), err
						})
				} else {
					_, err = command.Do(world.As("lead"), h.Runner, key, "note", 1,
						func(ctx context.Context, tx *command.Tx) (string, error) {
							tx.Nowhere()
							if _, err := note("X")(ctx, tx); err != nil {
								return "", err
							}
							return fn(ctx, tx)
						})
				}
				if err == nil {
					t.Error("it was said to be done")
				}
				if traces(t, h) != 0 {
					t.Fatal("a trace is left")
				}
			}
		})
	}
	func() {
		defer func() { _ = recover() }()
		_, _ = command.Do(world.As("lead"), h.Runner, "panic", "note", 1,
			func(ctx context.Context, tx *command.Tx) (string, error) {
				tx.Nowhere()
				_, _ = note("X")(ctx, tx)
				panic("lost my head")
			})
	}()
	ctx, cancel := context.WithCancel(world.As("lead"))
	_, err := command.Do(ctx, h.Runner, "gone", "note", 1, func(ctx context.Context, tx *command.Tx) (string, error) {
		tx.Nowhere()
		defer cancel()
		return note("X")(ctx, tx)
	})
	if err == nil {
		t.Error("a request that was given up is said to be done")
	}
	// No connection is left in a transaction, and every key is free again.
	var stuck int
	if err := h.Owner.Get(&stuck, `
		SELECT count(*) FROM pg_stat_activity WHERE datname = current_database()
			    AND state LIKE 'idle in transaction%'`); err != nil || stuck != 0 {
		t.Fatalf("%d connections are left in a transaction (%v)", stuck, err)
	}
	for i, key := range []string{"key an error", "key a refusal", "panic", "gone", "channel"} {
		if _, err := command.Do(world.As("lead"), h.Runner, key, "note", 2, note(fmt.Sprint(i))); err != nil {
			t.Errorf("key %q is not free: %v", key, err)
		}
	}
}

func TestADeadlockIsTriedAgainAndThenSaid(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	var wg sync.WaitGroup
	meet := make(chan bool, 2)
	// Two commands lock two people in opposite orders: one is told to try again.
	for i := range 2 {
		wg.Go(func() {
			first, second := 1+i, 2-i
			once := true
			_, err := command.Do(world.As("lead"), h.Runner, fmt.Sprint("lock", i), "lock", i,
				func(ctx context.Context, tx *command.Tx) (bool, error) {
					tx.Nowhere()
					if _, err := tx.ExecContext(ctx, `SELECT 1 FROM people
						    WHERE id = $1 FOR UPDATE`, first); err != nil {
						return false, err
					}
					if once {
						once = false
						meet <- true
						for deadline := time.Now().Add(time.Second); len(meet) < 2 && time.Now().Before(deadline); {
							time.Sleep(time.Millisecond)
						}
					}
					if _, err := tx.ExecContext(ctx, `SELECT 1 FROM people
						    WHERE id = $1 FOR UPDATE`, second); err != nil {
						return false, err
					}
					_, err := note(fmt.Sprint("D", i))(ctx, tx)
					return true, err
				})
			if err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	if got := traces(t, h); got != 2 {
		t.Fatalf("%d of 2 are done", got)
	}
	tries := 0
	_, err := command.Do(world.As("lead"), h.Runner, "never", "note", 1, func(context.Context, *command.Tx) (bool,
		error) {
		tries++
		return false, fmt.Errorf("wrapped: %w", &pgconn.PgError{Code: "40001"})
	})
	world.Refused(t, err, "busy", "try again")
	if tries < 3 {
		t.Errorf("given up after %d tries", tries)
	}
}

// A connection that breaks around COMMIT leaves open what became of the command: its key
// tells, on a fresh connection. Before this was so, the answer was 500 "Nothing was
// changed" beside a posting that stood.
func TestACommandWhoseCommitBreaksOffHappensOnce(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		cut  world.Cut
		runs int32
		note func(string) func(context.Context, *command.Tx) (string, error)
	}{
		"after the server committed":          {world.Answering, 1, note},
		"before the server saw the commit":    {world.Asking, 2, note},
		"after the server did it all at once": {world.Answering, 1, lastNote},
		"before the server saw any of it":     {world.Asking, 2, lastNote},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			h := world.New(t)
			proxy, db := world.Proxied(t, h.Database)
			h.Runner.DB = db
			// Statements are prepared by the first, so that the commit of the second is one message.
			if _, err := command.Do(world.As("lead"), h.Runner, "first", "note", 1, c.note("A")); err != nil {
				t.Fatal(err)
			}
			var ran atomic.Int32
			ask := func() (string, error) {
				return command.Do(world.As("lead"), h.Runner, "second", "note", 2,
					func(ctx context.Context, tx *command.Tx) (string, error) {
						tx.Nowhere()
						out, err := c.note("B")(ctx, tx)
						if ran.Add(1) == 1 {
							proxy.Arm(c.cut)
						}
						return out, err
					})
			}
			if answer, err := ask(); err != nil || answer != "noted B" || ran.Load() != c.runs {
				t.Fatalf("answered %q, %v after %d runs", answer, err, ran.Load())
			}
			if answer, err := ask(); err != nil || answer != "noted B" || traces(t, h) != 2 {
				t.Fatalf("asked again, answered %q, %v; %d traces", answer, err, traces(t, h))
			}
		})
	}
}

func TestWhenNobodyCanTellTheOutcomeItIsSaidAndTheKeyStaysGood(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	proxy, db := world.Proxied(t, h.Database)
	h.Runner.DB = db
	if _, err := command.Do(world.As("lead"), h.Runner, "first", "note", 1, note("A")); err != nil {
		t.Fatal(err)
	}
	cut := true
	ask := func() (string, error) {
		return command.Do(world.As("lead"), h.Runner, "second", "note", 2,
			func(ctx context.Context, tx *command.Tx) (string, error) {
				tx.Nowhere()
				out, err := note("B")(ctx, tx)
				if cut {
					proxy.Arm(world.Everything)
				}
				return out, err
			})
	}
	_, err := ask()
	world.Refused(t, err, "outcome_unknown", "not known", "happens once")
	cut = false
	proxy.Arm(world.Nothing)
	for range 3 {
		if answer, err := ask(); err != nil || answer != "noted B" {
			t.Fatalf("answered %q, %v", answer, err)
		}
	}
	if got := traces(t, h); got != 2 {
		t.Fatalf("%d traces", got)
	}
	// Away before anything was begun: that much is known.
	proxy.Arm(world.Everything)
	_, err = command.Do(world.As("lead"), h.Runner, "third", "note", 3, note("C"))
	world.Refused(t, err, "database_away", "Nothing was changed")
}
