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
		Wrong bool
		Kinds json.RawMessage
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT c.wrong, coalesce((SELECT json_object_agg(kind, n) FROM (
		           SELECT t.kind, count(*) AS n FROM (
		                SELECT posting_id FROM moves WHERE from_location = c.location_id AND item_id = c.item_id
		                UNION ALL SELECT posting_id FROM moves WHERE to_location = c.location_id AND item_id = c.item_id) AS m
		             JOIN postings t ON t.id = m.posting_id
		            WHERE t.entered_at <= c.counted_at AND (c.before IS NULL OR t.entered_at > c.before)
		              AND t.kind NOT IN ('count', 'hold', 'release') GROUP BY 1) AS k), '{}') AS kinds
		  FROM (SELECT location_id, item_id, counted_at, off > 0 AS wrong,
		               lag(counted_at) OVER (PARTITION BY location_id, item_id ORDER BY id) AS before
		          FROM (SELECT * FROM counts WHERE ($1 = 0 OR site_id = $1) AND state = 'settled' ORDER BY id DESC LIMIT $2) AS l) AS c`,
		site, mostLearnt)
	if err != nil {
		return nil, fmt.Errorf("reading past counts: %w", err)
	}
	past := make([]counting.Past, len(rows))
	for i, r := range rows {
		past[i] = counting.Past{Moves: map[string]int{}, Wrong: r.Wrong}
		if err := json.Unmarshal(r.Kinds, &past[i].Moves); err != nil {
			return nil, fmt.Errorf("reading a past count: %w", err)
		}
	}
	return past, nil
}
