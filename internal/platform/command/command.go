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
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"

	"github.com/jackc/pgx/v5/pgconn"
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
	*sqlx.Tx
	Person   people.Person
	Key      string
	Now      time.Time
	Backdate bool
	topics   []string
}

// Touch notes what the command changes, to be told when it is committed.
func (tx *Tx) Touch(topics ...string) { tx.topics = append(tx.topics, topics...) }

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
	raw, err := r.DB.BeginTxx(ctx, nil)
	if err != nil {
		return answer, nil, fmt.Errorf("beginning: %w", err)
	}
	defer func() { _ = raw.Rollback() }()
	if key != "" {
		fresh, err := claim(ctx, raw, person.ID, key, fingerprint)
		if err != nil {
			return answer, nil, err
		}
		if !fresh {
			answer, err = earlier[T](ctx, raw, person.ID, key, fingerprint)
			return answer, nil, err
		}
	}
	tx := &Tx{Tx: raw, Person: person, Key: key, Now: r.Now(), Backdate: r.Backdate}
	if answer, err = fn(ctx, tx); err != nil {
		return answer, nil, err
	}
	if key != "" {
		text, err := json.Marshal(answer)
		if err != nil {
			return answer, nil, fmt.Errorf("keeping the answer: %w", err)
		}
		if _, err := raw.ExecContext(ctx, `UPDATE requests SET answer = $3 WHERE person_id = $1 AND key = $2`, person.ID, key, text); err != nil {
			return answer, nil, fmt.Errorf("keeping the answer: %w", err)
		}
	}
	if err := raw.Commit(); err != nil {
		return answer, nil, fmt.Errorf("committing: %w", err)
	}
	return answer, tx.topics, nil
}

// claim takes the key. A second request with it waits here until the first is
// through, and then finds it taken.
func claim(ctx context.Context, tx *sqlx.Tx, person int32, key string, fingerprint []byte) (bool, error) {
	if len(key) > 80 {
		return false, refusal.New("key_malformed", "Idempotency-Key", "The request key has %d characters and may have at most 80.", len(key))
	}
	result, err := tx.ExecContext(ctx, `INSERT INTO requests (person_id, key, fingerprint) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`, person, key, fingerprint)
	if err != nil {
		return false, fmt.Errorf("claiming the request key: %w", err)
	}
	n, err := result.RowsAffected()
	return n == 1, err
}

func earlier[T any](ctx context.Context, tx *sqlx.Tx, person int32, key string, fingerprint []byte) (answer T, err error) {
	var row struct {
		Fingerprint []byte
		Answer      []byte
	}
	err = tx.GetContext(ctx, &row, `SELECT fingerprint, answer FROM requests WHERE person_id = $1 AND key = $2`, person, key)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return answer, fmt.Errorf("reading the earlier answer: %w", err)
	}
	if string(row.Fingerprint) != string(fingerprint) {
		return answer, refusal.New("key_reused", "Idempotency-Key",
			"This request key was used before for something else. Nothing was done; reload the page and try again.").Of(refusal.Conflict)
	}
	return answer, json.Unmarshal(row.Answer, &answer)
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
