// Package command runs whatever changes something: in one transaction, once for
// each request key, again when the database asks for it.
package command

import (
	"context"
	"crypto/sha256"
	"database/sql"
	sqldriver "database/sql/driver"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
)

// A Toucher is told what a command changed, once it is committed.
type Toucher interface{ Touch(topics ...string) }

// A Runner runs commands.
type Runner struct {
	DB    *sqlx.DB
	Touch Toucher
	// Now is the clock; only the demo's is not the real one.
	Now func() time.Time
	// Backdate lets postings carry Now as their time of entry. The database
	// allows it to its owner only.
	Backdate bool
}

// A Tx is the transaction of one command, and who runs it.
type Tx struct {
	*sqlx.Conn
	Person   people.Person
	Key      string
	Now      time.Time
	Backdate bool
	topics   []string
}

// Touch notes what the command changes, to be told when it is committed.
func (tx *Tx) Touch(topics ...string) { tx.topics = append(tx.topics, topics...) }

// longestKey is how many characters a request key may have.
const longestKey = 80

// attempts is how often a command is tried when the database cannot serialize it.
const attempts = 6

// Do runs fn as the person who acts. name and body tell what is asked: with a key
// that was used before, the same asks for the earlier answer, and anything else is
// refused. Without a key it simply runs.
func Do[T any](ctx context.Context, r *Runner, key, name string, body any, fn func(context.Context, *Tx) (T, error)) (T, error) {
	var zero T
	person, err := people.Acting(ctx)
	if err != nil {
		return zero, err
	}
	if len(key) > longestKey {
		return zero, refusal.New("key_malformed", "Idempotency-Key", "The request key has %d characters and may have at most %d.", len(key), longestKey)
	}
	fingerprint, err := fingerprintOf(name, body)
	if err != nil {
		return zero, err
	}
	for try := 1; ; try++ {
		answer, topics, err := once(ctx, r, person, key, fingerprint, fn)
		if err == nil {
			if r.Touch != nil && len(topics) > 0 {
				r.Touch.Touch(topics...)
			}
			return answer, nil
		}
		if !again(err) {
			return zero, err
		}
		if try == attempts {
			return zero, refusal.New("busy", "", "Others are changing the same stock this moment. Nothing was done; try again.").Of(refusal.Conflict)
		}
		time.Sleep(time.Duration(try) * time.Duration(5+rand.IntN(20)) * time.Millisecond)
	}
}

func once[T any](ctx context.Context, r *Runner, person people.Person, key string, fingerprint []byte, fn func(context.Context, *Tx) (T, error)) (answer T, topics []string, err error) {
	conn, err := r.DB.Connx(ctx)
	if err != nil {
		return answer, nil, fmt.Errorf("connecting: %w", err)
	}
	defer conn.Close()
	if _, err := conn.ExecContext(ctx, `BEGIN`); err != nil {
		return answer, nil, fmt.Errorf("beginning: %w", err)
	}
	tx := &Tx{Conn: conn, Person: person, Key: key, Now: r.Now(), Backdate: r.Backdate}
	if answer, err = attempt(ctx, tx, fingerprint, fn); err == nil || key == "" {
		return answer, tx.topics, err
	}
	// The same request may have been through before, or just now: then its answer is
	// ours, whatever became of this try. Looking only here spares every other request
	// the look.
	if found, answer, e := earlier[T](ctx, conn, person.ID, key, fingerprint); found || e != nil {
		return answer, nil, e
	}
	return answer, nil, err
}

// attempt runs fn and commits, or leaves no transaction behind.
func attempt[T any](ctx context.Context, tx *Tx, fingerprint []byte, fn func(context.Context, *Tx) (T, error)) (answer T, err error) {
	done := false
	defer func() {
		if !done {
			tx.rollback(ctx)
		}
	}()
	if answer, err = fn(ctx, tx); err == nil {
		err = tx.settle(ctx, fingerprint, answer)
	}
	done = err == nil
	return answer, err
}

// settle writes the answer down under its key and commits, both in one round trip. A
// twin of the request that runs at the same time waits here, and finds the key taken.
func (tx *Tx) settle(ctx context.Context, fingerprint []byte, answer any) error {
	var batch pgx.Batch
	if tx.Key != "" {
		text, err := json.Marshal(answer)
		if err != nil {
			return fmt.Errorf("keeping the answer: %w", err)
		}
		batch.Queue(`INSERT INTO requests (person_id, key, fingerprint, answer) VALUES ($1, $2, $3, $4)`, tx.Person.ID, tx.Key, fingerprint, text)
	}
	batch.Queue(`COMMIT`).Exec(func(tag pgconn.CommandTag) error {
		if tag.String() != "COMMIT" {
			return pgx.ErrTxCommitRollback
		}
		return nil
	})
	err := tx.Raw(func(driver any) error { return driver.(*stdlib.Conn).Conn().SendBatch(ctx, &batch).Close() })
	if err != nil {
		return fmt.Errorf("committing: %w", err)
	}
	return nil
}

// rollback ends the transaction even when its request has been given up; a connection
// that cannot do so is not used again.
func (tx *Tx) rollback(ctx context.Context) {
	if _, err := tx.ExecContext(context.WithoutCancel(ctx), `ROLLBACK`); err != nil {
		_ = tx.Raw(func(any) error { return sqldriver.ErrBadConn })
	}
}

// earlier finds what the same request was answered before.
func earlier[T any](ctx context.Context, q sqlx.QueryerContext, person int32, key string, fingerprint []byte) (found bool, answer T, err error) {
	var row struct {
		Fingerprint []byte
		Answer      []byte
	}
	err = sqlx.GetContext(ctx, q, &row, `SELECT fingerprint, answer FROM requests WHERE person_id = $1 AND key = $2`, person, key)
	if errors.Is(err, sql.ErrNoRows) {
		return false, answer, nil
	}
	if err != nil {
		return false, answer, fmt.Errorf("reading the earlier answer: %w", err)
	}
	if string(row.Fingerprint) != string(fingerprint) {
		return true, answer, refusal.New("key_reused", "Idempotency-Key",
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

// again tells whether the database asks for another try: a deadlock or a failure to
// serialize.
func again(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pg.Code == "40001" || pg.Code == "40P01")
}
