package ledger

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
)

// StoodAt is a query of what stood where at an instant ($1): location_id, item_id, lot_id, condition and quantity, over all
// cartons and units. It is what stands there now, less what came since and more what went, so that a recent instant costs
// little.
const StoodAt = `
	SELECT location_id, item_id, lot_id, condition, sum(quantity) AS quantity FROM (
		SELECT location_id, item_id, lot_id, condition, quantity FROM balances
		UNION ALL
		SELECT e.location_id, e.item_id, e.lot_id, e.condition, -e.delta
		  FROM postings t JOIN moves m ON m.posting_id = t.id JOIN move_ends e ON e.move_id = m.id WHERE t.entered_at > $1) AS t
	 GROUP BY 1, 2, 3, 4 HAVING sum(quantity) <> 0`

// FirstEntered is when the first move was entered; nil while nothing has moved.
func FirstEntered(ctx context.Context, q sqlx.QueryerContext) (first *time.Time, err error) {
	if err := sqlx.GetContext(ctx, q, &first, `
		SELECT min(entered_at) FROM (SELECT entered_at FROM postings ORDER BY id LIMIT 1) AS t`); err != nil {
		return nil, fmt.Errorf("reading the first move: %w", err)
	}
	return first, nil
}

// MayLookAt refuses an instant that has not come yet, or was before the first move.
func MayLookAt(ctx context.Context, q sqlx.QueryerContext, field string, at, now time.Time) error {
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
