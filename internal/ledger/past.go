package ledger

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
)

// StoodAt is a query of what stood where at an instant ($1): location_id, item_id, lot_id, condition and quantity, over
// all cartons and units. It costs no more moves than lie between the instant and the nearest snapshot, or now. With a
// location behind the instant the function tells what stood there alone.
const StoodAt = `SELECT * FROM ledger_stood($1)`

// snapshotEvery is after how many moves a snapshot is taken, and snapshotBehind of how long ago.
const (
	snapshotEvery  = 5_000
	snapshotBehind = 5 * time.Minute
)

// Snapshot keeps what stood where so long ago, once there are so many moves since that was last kept, and says whether
// it did.
func Snapshot(ctx context.Context, db *sqlx.DB, every int, behind time.Duration) (done bool, err error) {
	if err := db.GetContext(ctx, &done, `SELECT ledger_snapshot($1, make_interval(secs => $2))`, every, behind.Seconds()); err != nil {
		return false, fmt.Errorf("taking a snapshot: %w", err)
	}
	return done, nil
}

// FirstEntered is when the first move was entered; nil while nothing has moved.
func FirstEntered(ctx context.Context, q sqlx.QueryerContext) (first *time.Time, err error) {
	if err := sqlx.GetContext(ctx, q, &first, `
		SELECT min(entered_at) FROM (SELECT entered_at FROM postings ORDER BY id LIMIT 1) AS t`); err != nil {
		return nil, fmt.Errorf("reading the first move: %w", err)
	}
	return first, nil
}

// Now is the clock that moves are entered by, which never shows less than what is kept already of the past.
func Now(ctx context.Context, q sqlx.QueryerContext) (now time.Time, err error) {
	if err := sqlx.GetContext(ctx, q, &now, `SELECT ledger_now()`); err != nil {
		return now, fmt.Errorf("reading the ledger's clock: %w", err)
	}
	return now, nil
}

// OrNow is an instant that was asked for, or now by the ledger's clock where none was.
func OrNow(ctx context.Context, q sqlx.QueryerContext, at time.Time) (time.Time, error) {
	if at.IsZero() {
		return Now(ctx, q)
	}
	return at, nil
}

// MayLookAt refuses an instant that has not come yet, or was before the first move, by the clock that moves are entered by.
func MayLookAt(ctx context.Context, q sqlx.QueryerContext, field string, at time.Time) error {
	now, err := Now(ctx, q)
	if err != nil {
		return err
	}
	if at.After(now.Add(time.Minute)) {
		return refusal.New(refusal.DayFar, field, "%s has not come yet. Ask for now, or for what was.", at.UTC().Format(time.DateTime))
	}
	first, err := FirstEntered(ctx, q)
	if err != nil {
		return err
	}
	if first == nil || at.Before(*first) {
		began := "nothing has moved yet"
		if first != nil {
			began = "the first move was entered on " + first.UTC().Format(time.DateTime)
		}
		return refusal.New(refusal.DayPast, field, "%s is before any stock was here: %s.", at.UTC().Format(time.DateTime), began)
	}
	return nil
}
