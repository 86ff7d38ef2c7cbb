package command

import (
	"context"
	"database/sql"
	sqldriver "database/sql/driver"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"lanternrow/internal/people"
	"lanternrow/internal/platform/live"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
)

// A Tx is the transaction of one command, and who runs it. It begins with its first
// statement; see Early and Last for what does not begin it.
type Tx struct {
	conn     *sqlx.Conn
	runner   *Runner
	Person   people.Person
	Key      string
	Now      time.Time
	Backdate bool
	// Held notes what the transaction holds, for packages documents and ledger, which take
	// locks in one order.
	Held   Held
	topics []string
	begun  bool
	// placed says that it is known where the command acts.
	placed bool
	// failed is why the transaction could not begin.
	failed error
	last   []statement
}

// A statement goes along with the commit.
type statement struct {
	query   string
	args    []any
	explain func(error) error
}

// Held is what a transaction holds of the house's one order of locks.
type Held struct {
	// Rank is that of the last kind of thing that was taken; What are the things, and
	// whether each is held alone.
	Rank int
	What map[string]bool
}

// OutOfOrder notes that something was held after what comes behind it.
func (tx *Tx) OutOfOrder(what string) {
	tx.runner.disorder.Add(1)
	slog.Error("held out of order", "what", what, "held", tx.Held.What)
}

// At says that the command acts at these sites, and refuses whoever may not act at one of them. A command that says
// neither this nor Nowhere is not committed.
func (tx *Tx) At(ctx context.Context, sites ...int32) error {
	tx.placed = true
	return tx.Person.MayActAt(ctx, tx, sites...)
}

// Anywhere tells whether whoever acts may act at every site, so that nothing need be asked of where the command acts.
func (tx *Tx) Anywhere() bool {
	anywhere := !tx.Person.Restricted()
	tx.placed = tx.placed || anywhere
	return anywhere
}

// Nowhere says that the command acts at no site: at what is of all of them, or of whoever acts.
func (tx *Tx) Nowhere() { tx.placed = true }

// Part lets a part of a command, which may not say where it acts, be run by itself.
func Part[T any](fn func(context.Context, *Tx) (T, error)) func(context.Context, *Tx) (T, error) {
	return func(ctx context.Context, tx *Tx) (T, error) {
		tx.Nowhere()
		return fn(ctx, tx)
	}
}

// Notify notes what the command changes, to be told when it is committed.
func (tx *Tx) Notify(topics ...string) { tx.topics = append(tx.topics, topics...) }

// NotifySite is Notify for what changes at one site alone.
func (tx *Tx) NotifySite(site int32, topics ...string) {
	for _, t := range topics {
		tx.topics = append(tx.topics, live.At(t, site))
	}
}

// Early reads before the transaction begins, which spares a round trip where everything
// else goes along with the commit. It is for what a command reads first and does not
// hold: each statement sees what is committed, within a transaction and without.
func (tx *Tx) Early() sqlx.QueryerContext { return tx.conn }

// Last has a statement go along with the commit, in the order of the calls, which spares a
// round trip: for what a command does last and whose rows it does not ask for. Nothing
// else may be done after it. Its error passes through explain.
func (tx *Tx) Last(explain func(error) error, query string, args ...any) {
	tx.last = append(tx.last, statement{query, args, explain})
}

// begin begins the transaction, once. A connection that cannot do so is not used again, so
// that nothing is done outside of one.
func (tx *Tx) begin(ctx context.Context) error {
	if tx.begun || tx.failed != nil {
		return tx.failed
	}
	if _, err := tx.conn.ExecContext(ctx, `BEGIN`); err != nil {
		tx.failed = fmt.Errorf("beginning: %w", err)
		tx.discard()
		return tx.failed
	}
	tx.begun = true
	return nil
}

// discard ends the connection: whatever is asked of it from now on is refused.
func (tx *Tx) discard() {
	_ = tx.conn.Raw(func(any) error { return sqldriver.ErrBadConn })
	_ = tx.conn.Close()
}

// ExecContext runs a statement within the transaction.
func (tx *Tx) ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error) {
	if err := tx.begin(ctx); err != nil {
		return nil, err
	}
	return tx.conn.ExecContext(ctx, query, args...)
}

// QueryContext asks within the transaction, as QueryxContext, QueryRowxContext, GetContext
// and SelectContext do.
func (tx *Tx) QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error) {
	if err := tx.begin(ctx); err != nil {
		return nil, err
	}
	return tx.conn.QueryContext(ctx, query, args...)
}

// QueryxContext is QueryContext, with rows that know their columns' names.
func (tx *Tx) QueryxContext(ctx context.Context, query string, args ...any) (*sqlx.Rows, error) {
	if err := tx.begin(ctx); err != nil {
		return nil, err
	}
	return tx.conn.QueryxContext(ctx, query, args...)
}

// QueryRowxContext asks for one row.
func (tx *Tx) QueryRowxContext(ctx context.Context, query string, args ...any) *sqlx.Row {
	// Where the transaction cannot begin, the row carries that the connection is closed.
	_ = tx.begin(ctx)
	return tx.conn.QueryRowxContext(ctx, query, args...)
}

// GetContext reads one row into dest.
func (tx *Tx) GetContext(ctx context.Context, dest any, query string, args ...any) error {
	return sqlx.GetContext(ctx, tx, dest, query, args...)
}

// SelectContext reads rows into the slice that dest points to.
func (tx *Tx) SelectContext(ctx context.Context, dest any, query string, args ...any) error {
	return sqlx.SelectContext(ctx, tx, dest, query, args...)
}

// reserve takes the request's key before anything is done. It waits for whoever else is
// about to write it.
func (tx *Tx) reserve(ctx context.Context, q *request) error {
	result, err := tx.ExecContext(ctx, `
		INSERT INTO requests (person_id, key, fingerprint, answer) VALUES ($1, $2, $3, 'null')
		ON CONFLICT DO NOTHING`, q.person.ID, q.key, q.fingerprint)
	if err != nil {
		return fmt.Errorf("taking the request key: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return errTaken
	}
	return nil
}

// errUnplaced says that nobody looked at where a command acts: a mistake of ours.
var errUnplaced = errors.New("a command that says not where it acts")

// commitTime is how long a commit may take, whatever becomes of its request meanwhile.
const commitTime = 10 * time.Second

// settle sends what goes last, writes the answer down under its key and commits, all in
// one round trip. A twin of the request that runs at the same time waits here, and finds
// the key taken. Once a commit is on its way it is seen through, whatever becomes of its
// request.
func (tx *Tx) settle(ctx context.Context, q *request, answer any) error {
	if !tx.placed && !tx.idle(ctx) {
		return fmt.Errorf("%w: %s", errUnplaced, q.name)
	}
	batch, err := tx.ending(q, answer)
	if err != nil {
		return err
	}
	if err := ctx.Err(); err != nil || batch.Len() == 0 {
		return err
	}
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), commitTime)
	defer cancel()
	err = tx.conn.Raw(func(driver any) error { return driver.(*stdlib.Conn).Conn().SendBatch(ctx, batch).Close() })
	if uncertain(err) {
		return fmt.Errorf("%w: %w", errUnknown, err)
	}
	if err != nil {
		for _, s := range tx.last {
			err = s.explain(err)
		}
		return fmt.Errorf("committing: %w", err)
	}
	return nil
}

// idle tells whether nothing was written, as where all that was asked for is so already.
func (tx *Tx) idle(ctx context.Context) (idle bool) {
	if len(tx.last) > 0 || !tx.begun {
		return len(tx.last) == 0
	}
	err := tx.conn.GetContext(ctx, &idle, `SELECT pg_current_xact_id_if_assigned() IS NULL`)
	return err == nil && idle
}

// ending is what ends the transaction. Where none was begun it is one by itself: what is
// sent before a Sync is done whole or not at all (PostgreSQL, Extended Query).
func (tx *Tx) ending(q *request, answer any) (*pgx.Batch, error) {
	batch := &pgx.Batch{}
	for _, s := range tx.last {
		batch.Queue(s.query, s.args...)
	}
	if q.key != "" {
		text, err := json.Marshal(answer)
		if err != nil {
			return nil, fmt.Errorf("keeping the answer: %w", err)
		}
		if q.reserved {
			batch.Queue(`UPDATE requests SET answer = $3 WHERE person_id = $1 AND key = $2`, q.person.ID, q.key, text)
		} else {
			batch.Queue(`
				INSERT INTO requests (person_id, key, fingerprint, answer)
				VALUES ($1, $2, $3, $4)`, q.person.ID, q.key, q.fingerprint, text)
		}
	}
	if tx.begun {
		batch.Queue(`COMMIT`).Exec(func(tag pgconn.CommandTag) error {
			if tag.String() != "COMMIT" {
				return pgx.ErrTxCommitRollback
			}
			return nil
		})
	}
	return batch, nil
}

// uncertain tells whether a commit's error leaves open what became of it. What the server
// says of a statement means that nothing was written; that it goes away, or that the
// connection is gone, says nothing.
func uncertain(err error) bool {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		return pg.SeverityUnlocalized != "ERROR"
	}
	return err != nil && !errors.Is(err, pgx.ErrTxCommitRollback)
}

// rollback ends the transaction even when its request has been given up; a connection
// that cannot do so is not used again.
func (tx *Tx) rollback(ctx context.Context) {
	if !tx.begun {
		return
	}
	if _, err := tx.conn.ExecContext(context.WithoutCancel(ctx), `ROLLBACK`); err != nil {
		tx.discard()
	}
}
