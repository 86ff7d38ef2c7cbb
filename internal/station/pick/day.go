package pick

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/carriers"
	"lanternrow/internal/outbound"
	"lanternrow/internal/pace"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Day is the picking of a day: what was picked by the hour, and the work that is left
// against the collections to come.
type Day struct {
	Today
	Hours       []pace.Hour           `json:"hours" doc:"The hours of the day at which stops are picked"`
	Left        []LeftAt              `json:"left" doc:"The work left from now on, if those who walk now go on"`
	Collections []carriers.Collection `json:"collections" doc:"Those of today that are to come, the first first"`
}

// LeftAt is the work that is left at a moment, in minutes of one person.
type LeftAt struct {
	At      time.Time       `json:"at"`
	Minutes decimal.Decimal `json:"minutes"`
}

// horizon is how far the work is followed.
const horizon = 12 * time.Hour

func readDay(ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time) (Day, error) {
	var day Day
	all, err := carriers.List(ctx, q, site, now)
	if err != nil {
		return day, err
	}
	if day.Today, err = todayOf(ctx, q, site, all, now); err != nil {
		return day, err
	}
	day.Left, day.Collections = day.left(now), carriers.Coming(all, now)
	day.Hours, err = pace.ByHour(ctx, q, site, `
		SELECT po.id, po.happened_at AS at FROM postings po JOIN rounds r ON r.number = po.document
		 WHERE po.kind = 'pick' AND r.site_id = $1 AND po.happened_at > now() - make_interval(days => $2)`)
	return day, err
}

// left follows the work from now on, each hour, until it is done.
func (t Today) left(now time.Time) []LeftAt {
	out := []LeftAt{{now, t.Minutes}}
	pace := float64(max(1, t.Walkers))
	for at := now.Truncate(time.Hour).Add(time.Hour); at.Sub(now) <= horizon && at.Before(t.EndsAt); at = at.Add(time.Hour) {
		done := decimal.NewFromFloat(at.Sub(now).Minutes() * pace).Round(1)
		out = append(out, LeftAt{at, t.Minutes.Sub(done)})
	}
	if t.Minutes.IsPositive() && t.EndsAt.Sub(now) <= horizon {
		out = append(out, LeftAt{t.EndsAt, decimal.Zero})
	}
	return out
}

// WorkLeft is the picking that is left of each order of a site, in minutes of one person,
// and how many walk now: of what waits for a round, a round of its own; of what is on one,
// its share of the stops that are left.
func WorkLeft(
	ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time,
) (work []outbound.Work, walkers int, err error) {
	open, err := readOpen(ctx, q, site, OpenFilter{}, now)
	if err != nil {
		return nil, 0, err
	}
	for _, o := range open.Orders {
		work = append(work, outbound.Work{OrderID: o.ID, Minutes: o.Minutes, Lacking: o.Units.Sub(o.CanGo)})
	}
	var rows []struct {
		outbound.Work
		PickerID *int32 `db:"picker_id"`
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT l.order_id, r.picker_id, round(r.minutes * count(*) FILTER (WHERE s.state = 'open')
		       / greatest((SELECT count(*) FROM round_stops WHERE round_id = r.id), 1), 1) AS minutes
		  FROM rounds r JOIN round_stops s ON s.round_id = r.id JOIN outbound_lines l ON l.id = s.line_id
		 WHERE r.site_id = $1 AND r.state <> 'done' GROUP BY r.id, l.order_id`, site); err != nil {
		return nil, 0, fmt.Errorf("reading what is left of rounds: %w", err)
	}
	walking := map[int32]bool{}
	for _, r := range rows {
		work = append(work, r.Work)
		if r.PickerID != nil {
			walking[*r.PickerID] = true
		}
	}
	return work, len(walking), nil
}
