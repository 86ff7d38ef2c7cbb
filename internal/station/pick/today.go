package pick

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/carriers"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Today says whether what is due by today is picked before the last collection.
type Today struct {
	// Orders are due by today and wait for a round; Rounds are released and not done.
	Orders int `json:"orders"`
	Rounds int `json:"rounds"`
	// Minutes is the work that is left of both, Walkers how many walk now.
	Minutes decimal.Decimal `json:"minutes"`
	Walkers int             `json:"walkers"`
	// EndsAt is when it is done if those who walk now do it, one at least.
	EndsAt time.Time `json:"ends_at"`
	// LastCollection is the last of today that a carrier of these orders makes.
	LastCollection *time.Time `json:"last_collection"`
	InTime         bool       `json:"in_time"`
}

func readToday(ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time) (Today, error) {
	all, err := carriers.List(ctx, q, site, now)
	if err != nil {
		return Today{}, err
	}
	return todayOf(ctx, q, site, all, now)
}

// todayOf is readToday with the site's carriers, as they were listed at now.
func todayOf(
	ctx context.Context, q sqlx.QueryerContext, site int32, all []carriers.Carrier, now time.Time,
) (Today, error) {
	var out Today
	open, err := readOpen(ctx, q, site, OpenFilter{Until: now.UTC().Format(time.DateOnly)}, now)
	if err != nil {
		return out, err
	}
	wanted := map[string]bool{}
	for _, o := range open.Orders {
		out.Orders++
		out.Minutes = out.Minutes.Add(o.Minutes)
		wanted[o.Carrier] = true
	}
	rounds, err := listRounds(ctx, q, site)
	if err != nil {
		return out, err
	}
	walkers := map[int32]bool{}
	for _, r := range rounds {
		out.Rounds++
		left := decimal.NewFromInt(int64(r.StopCount - r.DoneCount)).Div(decimal.NewFromInt(int64(max(1, r.StopCount))))
		out.Minutes = out.Minutes.Add(r.Minutes.Mul(left))
		if r.PickerID != nil {
			walkers[*r.PickerID] = true
		}
	}
	out.Walkers = len(walkers)
	out.Minutes = out.Minutes.Round(1)
	minutes := out.Minutes.InexactFloat64() / float64(max(1, out.Walkers))
	out.EndsAt = now.Add(time.Duration(minutes * float64(time.Minute)))
	var due []string
	if err := sqlx.SelectContext(ctx, q, &due, `
		SELECT DISTINCT carrier FROM outbound_orders WHERE site_id = $1 AND state = 'released'
		   AND wanted_on <= current_date`, site); err != nil {
		return out, fmt.Errorf("reading who carries today's orders: %w", err)
	}
	for _, name := range due {
		wanted[name] = true
	}
	for _, c := range all {
		if last := c.LastOn(now); wanted[c.Name] && last != nil &&
			(out.LastCollection == nil || last.After(*out.LastCollection)) {
			out.LastCollection = last
		}
	}
	out.InTime = out.LastCollection == nil || !out.EndsAt.After(*out.LastCollection)
	return out, nil
}
