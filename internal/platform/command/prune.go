package command

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"github.com/jmoiron/sqlx"
)

// How long an answer is kept for a request that is repeated, how many go at once, and how
// often it is looked after. A device keeps a step that it cannot send for days, not weeks.
const (
	answersKept = 30 * 24 * time.Hour
	pruneAtOnce = 1000
	pruneEvery  = time.Hour
)

// Prune deletes the answers of requests that nobody repeats any more, some at a time so
// that none waits for it, and returns how many those were.
func Prune(ctx context.Context, db sqlx.ExecerContext, now time.Time) (total int64, err error) {
	for {
		result, err := db.ExecContext(ctx, `
			DELETE FROM requests
			 WHERE ctid IN (SELECT ctid FROM requests WHERE at < $1 ORDER BY at LIMIT $2)`,
			now.Add(-answersKept), pruneAtOnce)
		if err != nil {
			return total, fmt.Errorf("pruning answers: %w", err)
		}
		n, err := result.RowsAffected()
		if total += n; err != nil || n < pruneAtOnce {
			return total, err
		}
	}
}

// KeepPruned prunes now and then until ctx ends. Any number of servers may do so.
func KeepPruned(ctx context.Context, db sqlx.ExecerContext) {
	for {
		if _, err := Prune(ctx, db, time.Now()); err != nil && ctx.Err() == nil {
			slog.Warn("answers are not pruned", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(pruneEvery):
		}
	}
}
