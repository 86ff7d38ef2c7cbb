package receive

import (
	"context"
	"fmt"

	"lanternrow/internal/pace"

	"github.com/jmoiron/sqlx"
)

// Day is what the docks see: what stands at each, what is expected, and how fast it is
// received.
type Day struct {
	Docks    []Dock      `json:"docks"`
	Expected []Expected  `json:"expected" doc:"What is late, then today and the next seven days"`
	Hours    []pace.Hour `json:"hours" doc:"The hours of the day at which lines are received"`
}

// Dock is a dock, with what stands there.
type Dock struct {
	ID       int32  `db:"id" json:"id"`
	Code     string `db:"code" json:"code"`
	Arrivals int    `db:"arrivals" json:"arrivals" doc:"Arrivals that are open there"`
	// Items is how many kinds of goods wait there to be put away.
	Items int `db:"items" json:"items"`
	// First is the arrival that is open the longest there, and whose it is.
	First  string `db:"first" json:"first"`
	Source string `db:"source" json:"source"`
}

// Expected is what inbound orders bring on a day.
type Expected struct {
	// Day is empty for all that is late.
	Day    string `db:"day" json:"day"`
	Orders int    `db:"orders" json:"orders"`
	Lines  int    `db:"lines" json:"lines"`
	// Sources are those who send it.
	Sources string `db:"sources" json:"sources"`
}

func readDay(ctx context.Context, q sqlx.QueryerContext, site int32) (Day, error) {
	day := Day{Docks: []Dock{}, Expected: []Expected{}}
	if err := sqlx.SelectContext(ctx, q, &day.Docks, `
		SELECT d.id, d.code, coalesce(a.arrivals, 0) AS arrivals, coalesce(a.first, '') AS first,
		       coalesce(a.source, '') AS source,
		       (SELECT count(DISTINCT (item_id, lot_id)) FROM balances WHERE location_id = d.id AND quantity > 0) AS items
		  FROM locations d LEFT JOIN LATERAL (
			SELECT count(*) OVER () AS arrivals, a.number AS first, coalesce(p.name, f.name) AS source
			  FROM arrivals a LEFT JOIN parties p ON p.id = a.party_id LEFT JOIN sites f ON f.id = a.from_site_id
			 WHERE a.dock_id = d.id AND a.state = 'open' ORDER BY a.opened_at LIMIT 1) AS a ON true
		 WHERE d.site_id = $1 AND d.kind = 'dock' ORDER BY d.code`, site); err != nil {
		return day, fmt.Errorf("reading docks: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &day.Expected, `
		WITH open AS (
			SELECT o.id, o.expected_on, coalesce(p.name, f.name) AS source,
			       (SELECT count(*) FROM inbound_lines l WHERE l.order_id = o.id AND l.item_id IS NOT NULL
			           AND NOT l.closed AND l.received < l.quantity - l.cancelled) AS lines
			  FROM inbound_orders o LEFT JOIN parties p ON p.id = o.party_id LEFT JOIN sites f ON f.id = o.from_site_id
			 WHERE o.site_id = $1 AND o.state IN ('placed', 'partly_received')),
		days AS (
			SELECT NULL::date AS on_day UNION ALL
			SELECT (current_date + n)::date FROM generate_series(0, 7) AS n)
		SELECT coalesce(to_char(d.on_day, 'YYYY-MM-DD'), '') AS day, count(o.id) AS orders,
		       coalesce(sum(o.lines), 0) AS lines, coalesce(string_agg(DISTINCT o.source, ', '), '') AS sources
		  FROM days d LEFT JOIN open o ON CASE WHEN d.on_day IS NULL THEN o.expected_on < current_date
		       ELSE o.expected_on = d.on_day END
		 GROUP BY d.on_day ORDER BY d.on_day NULLS FIRST`, site); err != nil {
		return day, fmt.Errorf("reading what is expected: %w", err)
	}
	hours, err := pace.ByHour(ctx, q, site, `
		SELECT DISTINCT b.line_id, po.id, po.entered_at AS at
		  FROM receipts b JOIN moves m ON m.id = b.move_id JOIN postings po ON po.id = m.posting_id
		  JOIN locations p ON p.id = m.to_location
		 WHERE p.site_id = $1 AND po.entered_at > now() - make_interval(days => $2)`)
	day.Hours = hours
	return day, err
}
