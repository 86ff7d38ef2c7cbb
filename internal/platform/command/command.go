// Package command runs whatever changes something: in one transaction, once for
// each request key, again when the database asks for it.
package command

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync/atomic"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/database"

	"github.com/jmoiron/sqlx"
)

// A Notifier is told what a command changed, once it is committed.
type Notifier interface{ Notify(topics ...string) }

// A Runner runs commands.
type Runner struct {
	DB     *sqlx.DB
	Notify Notifier
	// Now is the clock; only the demo's is not the real one.
	Now func() time.Time
	// Backdate lets postings carry Now as their time of entry. The database
	// allows it to its owner only.
	Backdate bool

	retries  atomic.Int64
	disorder atomic.Int64
	board    board
}

// Disorder is how often something was held out of the one order since the runner was
// made: a mistake of ours that may end in a deadlock.
func (r *Runner) Disorder() int64 { return r.disorder.Load() }

// Retries is how often commands were tried again since the runner was made.
func (r *Runner) Retries() int64 { return r.retries.Load() }

// longestKey is how many characters a request key may have.
const longestKey = 80

// attempts is how often a command is tried when the database cannot serialize it or the
// connection to it breaks.
const attempts = 6

// errUnknown says that a commit was sent and its answer never came.
var errUnknown = errors.New("the outcome of a commit is not known")

// A request is one command that somebody asked for.
type request struct {
	person      people.Person
	name        string
	key         string
	fingerprint []byte
	// reserved is true once an outcome was not known: from then on each try takes the
	// key first, so that whatever may still be under way either has come through, and its
	// answer is found, or never will.
	reserved bool
}

// Do runs fn as the person who acts. name and body tell what is asked: with a key
// that was used before, the same asks for the earlier answer, and anything else is
// refused. Without a key it simply runs.
//
// fn may run several times and must change nothing but the database. When the connection
// breaks while a command commits, its key tells on a fresh connection whether it came
// through; where that cannot be found out, the refusal has the code outcome_unknown, and
// asking again with the same key is safe.
func Do[T any](
	ctx context.Context, r *Runner, key, name string, body any, fn func(context.Context, *Tx) (T, error),
) (T, error) {
	var zero T
	q, err := newRequest(ctx, key, name, body)
	if err != nil {
		return zero, err
	}
	defer r.board.take(asking{q.person.ID, key})
	unknown := false
	for try := 1; ; try++ {
		answer, topics, err := once(ctx, r, q, fn)
		if err == nil {
			if r.Notify != nil && len(topics) > 0 {
				r.Notify.Notify(topics...)
			}
			return answer, nil
		}
		if errors.Is(err, errUnknown) {
			unknown, q.reserved = true, true
		} else if !database.Conflicted(err) && !database.Lost(err) {
			// A lock that was not had in time is not waited for again: whoever asks decides.
			return zero, database.Unavailable(err)
		} else {
			r.retries.Add(1)
		}
		if unknown && key == "" || try == attempts || !pause(ctx, try) {
			return zero, givenUp(err, unknown)
		}
	}
}

func newRequest(ctx context.Context, key, name string, body any) (*request, error) {
	person, err := people.Acting(ctx)
	if err != nil {
		return nil, err
	}
	if len(key) > longestKey {
		return nil, refusal.New(refusal.KeyMalformed, "Idempotency-Key",
			"The request key has %d characters and may have at most %d.", len(key), longestKey)
	}
	fingerprint, err := fingerprintOf(name, body)
	return &request{person: person, name: name, key: key, fingerprint: fingerprint}, err
}

// pause waits before the next try, longer each time; it is false when ctx ends first.
func pause(ctx context.Context, try int) bool {
	wait := time.Duration(1<<try) * time.Duration(5+rand.IntN(10)) * time.Millisecond
	select {
	case <-ctx.Done():
		return false
	case <-time.After(wait):
		return true
	}
}

// givenUp is what is said of a command that was tried often enough.
func givenUp(err error, unknown bool) error {
	if unknown {
		return refusal.New(refusal.OutcomeUnknown, "",
			"It is not known whether this was done: the connection to the database broke off while it was written. "+
				"Press again without changing anything; it happens once.").Of(refusal.Unavailable)
	}
	return database.Unavailable(err)
}

func once[T any](
	ctx context.Context, r *Runner, q *request, fn func(context.Context, *Tx) (T, error),
) (answer T, topics []string, err error) {
	conn, err := database.Acquire(ctx, r.DB)
	if err != nil {
		return answer, nil, err
	}
	defer conn.Close()
	tx := &Tx{conn: conn, runner: r, Person: q.person, Key: q.key, Now: r.Now(), Backdate: r.Backdate}
	answer, err = attempt(ctx, tx, q, fn)
	if tx.failed != nil {
		return answer, nil, tx.failed
	}
	if err == nil || q.key == "" || errors.Is(err, errUnknown) || database.Lost(err) {
		return answer, tx.topics, err
	}
	// The same request may have been through before, or just now: then its answer is
	// ours, whatever became of this try. Looking only here spares every other request
	// the look.
	if found, answer, e := earlier[T](ctx, conn, q); found || e != nil {
		return answer, nil, e
	}
	return answer, nil, err
}

// Rehearse runs fn as Do does and takes all of it back, so that a preview refuses what pressing refuses and knows what
// it comes to. It is for commands that are too entangled to be planned; what fn holds is held until it is taken back.
func Rehearse[T any](ctx context.Context, r *Runner, fn func(context.Context, *Tx) (T, error)) (answer T, err error) {
	person, err := people.Acting(ctx)
	if err != nil {
		return answer, err
	}
	conn, err := database.Acquire(ctx, r.DB)
	if err != nil {
		return answer, err
	}
	defer conn.Close()
	tx := &Tx{conn: conn, runner: r, Person: person, Now: r.Now(), Backdate: r.Backdate}
	defer tx.rollback(ctx)
	answer, err = fn(ctx, tx)
	if tx.failed != nil {
		err = tx.failed
	}
	return answer, database.Unavailable(err)
}

// errTaken says that a request that takes its key first has been through before.
var errTaken = errors.New("the request key is taken")

// attempt runs fn and commits, or leaves no transaction behind.
func attempt[T any](
	ctx context.Context, tx *Tx, q *request, fn func(context.Context, *Tx) (T, error),
) (answer T, err error) {
	done := false
	defer func() {
		if !done {
			tx.rollback(ctx)
		}
	}()
	if q.reserved {
		if err := tx.reserve(ctx, q); err != nil {
			return answer, err
		}
	}
	if answer, err = fn(ctx, tx); err == nil {
		err = tx.settle(ctx, q, answer)
	}
	done = err == nil
	return answer, err
}

// earlier finds what the same request was answered before.
func earlier[T any](ctx context.Context, q sqlx.QueryerContext, r *request) (found bool, answer T, err error) {
	var row struct {
		Fingerprint []byte
		Answer      []byte
	}
	err = sqlx.GetContext(ctx, q, &row, `
		SELECT fingerprint, answer FROM requests WHERE person_id = $1 AND key = $2`, r.person.ID, r.key)
	if errors.Is(err, sql.ErrNoRows) {
		return false, answer, nil
	}
	if err != nil {
		return false, answer, fmt.Errorf("reading the earlier answer: %w", err)
	}
	if string(row.Fingerprint) != string(r.fingerprint) {
		return true, answer, refusal.New(refusal.KeyReused, "Idempotency-Key",
			"This request key was used before for something else. Nothing was done; reload the page and try again.").Of(refusal.Conflict)
	}
	return true, answer, json.Unmarshal(row.Answer, &answer)
}

func fingerprintOf(name string, body any) ([]byte, error) {
	text, err := json.Marshal(body)
	if err != nil {
		return nil, fmt.Errorf("reading the request: %w", err)
	}
	sum := sha256.Sum256(append([]byte(name+"\n"), text...))
	return sum[:], nil
}
