package pick

import (
	"context"
	"time"

	"lanternrow/internal/carriers"
	"lanternrow/internal/pace"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Day is the picking of a day: what was picked by the hour, and the work that is left of
// what is due by today, against the collections to come.
type Day struct {
	// Orders are due by today and wait for a round; Rounds are released and not done.
	Orders int `json:"orders"`
	Rounds int `json:"rounds"`
	// Minutes is the work that is left of both, Walkers how many are signed on and moving.
	Minutes decimal.Decimal `json:"minutes"`
	Walkers int             `json:"walkers"`
	// EndsAt is when it is picked if those who walk now do it, one at least.
	EndsAt      time.Time             `json:"ends_at"`
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
	open, err := OpenAt(ctx, q, site, OpenFilter{Until: now.UTC().Format(time.DateOnly)}, now)
	if err != nil {
		return day, err
	}
	rounds, err := listRounds(ctx, q, site)
	if err != nil {
		return day, err
	}
	moving, err := readMoving(ctx, q, site, now)
	if err != nil {
		return day, err
	}
	day.sum(open, rounds, len(moving), now)
	day.Left, day.Collections = day.left(now), carriers.Coming(all, now)
	day.Hours, err = pace.ByHour(ctx, q, site, `
		SELECT po.id, po.happened_at AS at FROM postings po JOIN rounds r ON r.number = po.document
		 WHERE po.kind = 'pick' AND r.site_id = $1 AND po.happened_at > now() - make_interval(days => $2)`)
	return day, err
}

// sum adds up the work that is left, and when it is done.
func (d *Day) sum(open Open, rounds []Round, walkers int, now time.Time) {
	d.Orders, d.Rounds, d.Walkers = len(open.Rows), len(rounds), walkers
	for _, o := range open.Rows {
		d.Minutes = d.Minutes.Add(o.Minutes)
	}
	for _, r := range rounds {
		left := decimal.NewFromInt(int64(r.StopCount - r.DoneCount)).Div(decimal.NewFromInt(int64(max(1, r.StopCount))))
		d.Minutes = d.Minutes.Add(r.Minutes.Mul(left))
	}
	d.Minutes = d.Minutes.Round(1)
	minutes := d.Minutes.InexactFloat64() / float64(max(1, walkers))
	d.EndsAt = now.Add(time.Duration(minutes * float64(time.Minute)))
}

// left follows the work from now on, each hour, until it is done.
func (d Day) left(now time.Time) []LeftAt {
	out := []LeftAt{{now, d.Minutes}}
	pace := float64(max(1, d.Walkers))
	for at := now.Truncate(time.Hour).Add(time.Hour); at.Sub(now) <= horizon && at.Before(d.EndsAt); at = at.Add(time.Hour) {
		done := decimal.NewFromFloat(at.Sub(now).Minutes() * pace).Round(1)
		out = append(out, LeftAt{at, d.Minutes.Sub(done)})
	}
	if d.Minutes.IsPositive() && d.EndsAt.Sub(now) <= horizon {
		out = append(out, LeftAt{d.EndsAt, decimal.Zero})
	}
	return out
}
