package audit

import (
	"context"
	"encoding/json"
	"fmt"

	"lanternrow/internal/core/counting"

	"github.com/jmoiron/sqlx"
)

// mostLearnt is of how many of the latest counts rates of errors are learnt.
const mostLearnt = 5000

// readRates learns how often each kind of move errs from the counts of the site.
func readRates(ctx context.Context, q sqlx.QueryerContext, site int32) (counting.Rates, error) {
	past, err := readPast(ctx, q, site)
	if err != nil {
		return nil, err
	}
	return counting.Learn(past, counting.Common), nil
}

// readPast reads the latest counts of a site (0 for all), each with what moved since the one before.
func readPast(ctx context.Context, q sqlx.QueryerContext, site int32) ([]counting.Past, error) {
	var rows []struct {
		Wrong         bool
		Moved, Before json.RawMessage
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT off > 0 AS wrong, moved, coalesce(lag(moved) OVER (PARTITION BY location_id, item_id ORDER BY id), '{}') AS before
		  FROM (SELECT * FROM counts WHERE ($1 = 0 OR site_id = $1) AND state = 'settled' ORDER BY id DESC LIMIT $2) AS l`,
		site, mostLearnt)
	if err != nil {
		return nil, fmt.Errorf("reading past counts: %w", err)
	}
	past := make([]counting.Past, len(rows))
	for i, r := range rows {
		moves, err := movesSince(r.Moved, r.Before)
		if err != nil {
			return nil, err
		}
		past[i] = counting.Past{Moves: moves, Wrong: r.Wrong}
	}
	return past, nil
}
