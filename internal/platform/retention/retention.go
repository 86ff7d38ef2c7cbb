// Package retention lets go of what need not be kept for good: answers to requests, failures to sign on, sent mail, printed
// labels and what schedules did. Moves and what they name are kept for ever.
package retention

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"github.com/jmoiron/sqlx"
)

// answersKept is how long an answer is kept for a request that is repeated: a device keeps a step that it cannot send for
// days, not weeks.
const answersKept = 30 * 24 * time.Hour

// How many rows go at once, and how often it is looked after.
const (
	atOnce = 1000
	every  = time.Hour
)

// A rule lets rows of before an instant ($1) go, so many at once ($2), and tells how many went.
type rule struct {
	what  string
	query string
	// kept is how long, where that is no setting.
	kept time.Duration
}

var rules = []rule{
	{"answers", `
		WITH gone AS (DELETE FROM requests WHERE ctid IN (SELECT ctid FROM requests WHERE at < $1 ORDER BY at LIMIT $2) RETURNING 1)
		SELECT count(*) FROM gone`, answersKept},
	{"failures to sign on", `SELECT access_forget($1, $2)`, 0},
	// What carriers answered is part of a shipment, and stays.
	{"sent messages", `
		WITH gone AS (DELETE FROM outbox WHERE id IN (
		    SELECT id FROM outbox WHERE state <> 'waiting' AND channel <> 'carrier' AND done_at < $1 ORDER BY done_at LIMIT $2) RETURNING 1)
		SELECT count(*) FROM gone`, 0},
	{"printed labels", `
		WITH gone AS (DELETE FROM print_jobs WHERE id IN (
		    SELECT id FROM print_jobs WHERE (printed >= copies OR discarded) AND asked_at < $1 ORDER BY asked_at LIMIT $2) RETURNING 1)
		SELECT count(*) FROM gone`, 0},
	{"what schedules did", `
		WITH gone AS (DELETE FROM schedule_runs WHERE id IN (SELECT id FROM schedule_runs WHERE ran_at < $1 ORDER BY ran_at LIMIT $2) RETURNING 1)
		SELECT count(*) FROM gone`, 0},
}

// Prune lets go of what is older than keep, some at a time so that nobody waits for it, and returns how many rows went of
// each.
func Prune(ctx context.Context, q sqlx.QueryerContext, now time.Time, keep time.Duration) (map[string]int64, error) {
	gone := map[string]int64{}
	for _, r := range rules {
		before := now.Add(-keep)
		if r.kept != 0 {
			before = now.Add(-r.kept)
		}
		for {
			var n int64
			if err := sqlx.GetContext(ctx, q, &n, r.query, before, atOnce); err != nil {
				return gone, fmt.Errorf("pruning %s: %w", r.what, err)
			}
			if gone[r.what] += n; n < atOnce {
				break
			}
		}
	}
	return gone, nil
}

// Run prunes now and then until ctx ends. Any number of servers may do so.
func Run(ctx context.Context, q sqlx.QueryerContext, keep time.Duration) {
	for {
		if _, err := Prune(ctx, q, time.Now(), keep); err != nil && ctx.Err() == nil {
			slog.Warn("what is old is not pruned", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(every):
		}
	}
}
