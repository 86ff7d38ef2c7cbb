// Package database tells the faults of a database apart, and takes connections without
// waiting for ever.
package database

import (
	"context"
	"database/sql"
	sqldriver "database/sql/driver"
	"errors"
	"fmt"
	"io"
	"net"
	"strings"
	"time"

	"lanternrow/internal/core/refusal"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"
)

// Patience is how long a request waits for a connection when all of them are in use.
const Patience = 3 * time.Second

// errExhausted says that no connection came free within Patience.
var errExhausted = errors.New("all connections to the database are in use")

// Exhausted is the refusal of who waited too long for a connection.
func Exhausted() error { return Unavailable(errExhausted) }

// Acquire takes a connection of the pool. Its holder closes it. When none comes free
// within Patience, or the database is out of reach, it answers with a refusal of the kind
// Unavailable or with a fault that Lost knows.
func Acquire(ctx context.Context, db *sqlx.DB) (*sqlx.Conn, error) {
	wait, cancel := context.WithTimeout(ctx, Patience)
	defer cancel()
	conn, err := db.Connx(wait)
	switch {
	case err == nil:
		return conn, nil
	case ctx.Err() != nil:
		return nil, fmt.Errorf("waiting for a connection: %w", ctx.Err())
	case errors.Is(err, context.DeadlineExceeded):
		return nil, Exhausted()
	}
	return nil, fmt.Errorf("connecting: %w", err)
}

// Conflicted tells whether two transactions were in each other's way: a deadlock, a
// failure to serialize (PostgreSQL's Appendix A).
func Conflicted(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pg.Code == "40001" || pg.Code == "40P01")
}

// LockedOut tells whether a lock was not had in time.
func LockedOut(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == "55P03"
}

// Lost tells whether the connection broke, or the database could not be reached.
func Lost(err error) bool {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		// 08: connection exceptions; 57P01 to 57P03: the server stops, crashed or starts;
		// 25P03: it ended a transaction that stood idle; 53300: too many connections.
		return strings.HasPrefix(pg.Code, "08") || strings.HasPrefix(pg.Code, "57P0") || pg.Code == "25P03" ||
			pg.Code == "53300"
	}
	var connect *pgconn.ConnectError
	var network net.Error
	switch {
	case errors.Is(err, context.Canceled), errors.Is(err, context.DeadlineExceeded):
		return false
	case errors.As(err, &connect), errors.As(err, &network):
		return true
	}
	return errors.Is(err, sqldriver.ErrBadConn) || errors.Is(err, sql.ErrConnDone) || errors.Is(err, io.EOF) ||
		errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, net.ErrClosed) || err != nil && pgconn.SafeToRetry(err)
}

// Full tells whether there is no room left on the disk of the database.
func Full(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == "53100"
}

// overdue tells whether the server or the request's deadline ended a statement.
func overdue(err error) bool {
	var pg *pgconn.PgError
	return errors.Is(err, context.DeadlineExceeded) || errors.As(err, &pg) && pg.Code == "57014"
}

// Unavailable words a fault that passes on its own as a refusal that says when to ask
// again; any other error is returned as it is.
func Unavailable(err error) error {
	say := func(code refusal.Code, format string) error {
		return refusal.New(code, "", "%s", format).Of(refusal.Unavailable)
	}
	switch {
	case errors.Is(err, errExhausted):
		return say(refusal.HouseBusy,
			"Too much is going on this moment. Nothing was changed; try again in a few seconds.")
	case overdue(err):
		return say(refusal.TooSlow,
			"This took too long and was stopped. Nothing was changed; try again, or ask for less at once.")
	case Conflicted(err), LockedOut(err):
		return say(refusal.Busy, "Others are changing the same this moment. Nothing was done; try again.")
	case Full(err):
		return say(refusal.DiskFull, "There is no room left on the database's disk. Nothing was changed; tell whoever looks after "+
			"the house, and try again once there is room.")
	case Lost(err):
		return say(refusal.DatabaseAway, "The database does not answer. Nothing was changed; try again in a moment.")
	}
	return err
}

// LikeLiteral escapes text so that LIKE takes it as it stands.
func LikeLiteral(s string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(s)
}
