// Package pace says how much of a kind of work is done by the hour of the day, beside what
// is usual.
package pace

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// An Hour is an hour of the day by a site's clock.
type Hour struct {
	Hour int `db:"hour" json:"hour"`
	// Today is how much was done; Usual is the mean of the days before, of those on which
	// any of it was done at all.
	Today int             `db:"today" json:"today"`
	Usual decimal.Decimal `db:"usual" json:"usual"`
}

// days is over how many days back the usual pace is taken.
const days = 14

// ByHour counts work at a site by the hour, from the first hour at which there was any to
// the last. The source is a query of what was done: a row for each piece, with when as at,
// of the site $1 and the last $2 days.
func ByHour(ctx context.Context, q sqlx.QueryerContext, site int32, source string) ([]Hour, error) {
	out := []Hour{}
	err := sqlx.SelectContext(ctx, q, &out, `
		WITH work AS (
			SELECT w.at AT TIME ZONE s.timezone AS at, (now() AT TIME ZONE s.timezone)::date AS today
			  FROM (`+source+`) AS w, sites s WHERE s.id = $1),
		worked AS (SELECT greatest(count(DISTINCT at::date), 1) AS days FROM work WHERE at::date < today)
		SELECT h.hour, count(*) FILTER (WHERE x.at::date = x.today) AS today,
		       round(count(*) FILTER (WHERE x.at::date < x.today)::numeric / (SELECT days FROM worked), 1) AS usual
		  FROM generate_series((SELECT min(extract(hour FROM at))::int FROM work),
		                       (SELECT max(extract(hour FROM at))::int FROM work)) AS h(hour)
		  LEFT JOIN work x ON extract(hour FROM x.at) = h.hour GROUP BY 1 ORDER BY 1`, site, days)
	if err != nil {
		return nil, fmt.Errorf("counting work by the hour: %w", err)
	}
	return out, nil
}
