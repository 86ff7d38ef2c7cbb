package pick

import (
	"context"
	"fmt"
	"slices"
	"time"

	"lanternrow/internal/core/forecast"
	"lanternrow/internal/outbound"
	"lanternrow/internal/platform/schedules"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

const (
	// stillAfter is how long after the last take nobody is counted on to go on with a round.
	stillAfter = 20 * time.Minute
	// usualTrolley is how many cartons a trolley takes where nothing is said.
	usualTrolley = 8
)

// Left is the picking that is left for groups of orders: of what is on rounds, and of what
// waits as rounds that walk least would be planned for one group after the other, each with
// the stock that those before it leave.
func Left(
	ctx context.Context, q sqlx.QueryerContext, site int32, groups [][]int64, now time.Time,
) (outbound.Left, error) {
	var out outbound.Left
	moving, err := readMoving(ctx, q, site, now)
	if err != nil {
		return out, err
	}
	out.Walkers = len(moving)
	if err := underWay(ctx, q, site, moving, now, &out); err != nil {
		return out, err
	}
	if out.PlannedAt, err = schedules.NextRun(ctx, q, site, planRounds); err != nil {
		return out, err
	}
	return out, toBePlanned(ctx, q, site, groups, now, &out)
}

// readMoving reads who is signed on and has picked at a site of late.
func readMoving(ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time) ([]int32, error) {
	var out []int32
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT DISTINCT r.picker_id FROM rounds r
		 WHERE r.site_id = $1 AND (r.done_at > $2 OR r.state = 'walking' AND greatest(r.started_at,
		           (SELECT max(entered_at) FROM postings WHERE document = r.number AND kind = 'pick')) > $2)
		   AND EXISTS (SELECT FROM sessions s WHERE s.person_id = r.picker_id AND s.expires_at > $3)
		 ORDER BY 1`, site, now.Add(-stillAfter), now)
	if err != nil {
		return nil, fmt.Errorf("reading who picks: %w", err)
	}
	return out, nil
}

// underWay adds the rounds that are released, with what is left of each.
func underWay(
	ctx context.Context, q sqlx.QueryerContext, site int32, moving []int32, now time.Time, out *outbound.Left,
) error {
	var rows []struct {
		ID      int64      `db:"id"`
		Number  string     `db:"number"`
		Picker  string     `db:"picker"`
		Person  *int32     `db:"picker_id"`
		Order   int64      `db:"order_id"`
		Minutes float64    `db:"minutes"`
		Cartons int        `db:"cartons"`
		Moved   *time.Time `db:"moved"`
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT r.id, r.number, coalesce(p.name, '') AS picker, r.picker_id, l.order_id,
		       (r.minutes * count(*) FILTER (WHERE s.state = 'open')
		         / greatest((SELECT count(*) FROM round_stops WHERE round_id = r.id), 1))::float8 AS minutes,
		       greatest(1, (SELECT count(*) FROM carton_work w WHERE w.round_id = r.id AND w.order_id = l.order_id
		         AND w.state = 'open')) AS cartons,
		       greatest(r.started_at, (SELECT max(entered_at) FROM postings WHERE document = r.number
		         AND kind = 'pick')) AS moved
		  FROM rounds r JOIN round_stops s ON s.round_id = r.id JOIN outbound_lines l ON l.id = s.line_id
		  LEFT JOIN people p ON p.id = r.picker_id
		 WHERE r.site_id = $1 AND r.state <> 'done' GROUP BY r.id, p.name, l.order_id ORDER BY r.id, l.order_id`, site)
	if err != nil {
		return fmt.Errorf("reading what is left of rounds: %w", err)
	}
	for i, x := range rows {
		if i == 0 || rows[i-1].ID != x.ID {
			walker := forecast.Nobody
			if x.Person != nil {
				walker = slices.Index(moving, *x.Person)
			}
			out.Rounds = append(out.Rounds, forecast.Round{Walker: walker})
			if x.Moved != nil && now.Sub(*x.Moved) >= stillAfter {
				out.Still = append(out.Still, outbound.Still{ID: x.ID, Number: x.Number, Picker: x.Picker,
					Minutes: int(now.Sub(*x.Moved).Minutes())})
			}
		}
		r := &out.Rounds[len(out.Rounds)-1]
		r.Parts = append(r.Parts, forecast.Part{Order: x.Order, Minutes: x.Minutes, Cartons: x.Cartons})
	}
	return nil
}

// toBePlanned adds the rounds that would be planned for what waits.
func toBePlanned(
	ctx context.Context, q sqlx.QueryerContext, site int32, groups [][]int64, now time.Time, out *outbound.Left,
) error {
	group := map[int64]int{}
	for i, orders := range groups {
		for _, id := range orders {
			group[id] = i
		}
	}
	lines, err := pickableLines(ctx, q, site)
	if err != nil {
		return err
	}
	lines = slices.DeleteFunc(lines, func(l openLine) bool { _, due := group[l.OrderID]; return !due })
	slices.SortStableFunc(lines, func(a, b openLine) int { return group[a.OrderID] - group[b.OrderID] })
	p, err := newPlanner(ctx, q, site, lines, nil)
	if err != nil {
		return err
	}
	trolley, err := readTrolley(ctx, q)
	if err != nil {
		return err
	}
	stops, _ := p.allocate(lines, bounds{}, now)
	out.Lacking = lacking(lines, stops)
	from := 0.0
	if out.PlannedAt != nil {
		from = max(0, out.PlannedAt.Sub(now).Minutes())
	}
	by := make([][]ProposedStop, len(groups))
	for _, s := range stops {
		by[group[s.OrderID]] = append(by[group[s.OrderID]], s)
	}
	for _, stops := range by {
		rounds, err := p.forecast(stops, trolley, from)
		if err != nil {
			return err
		}
		out.Rounds = append(out.Rounds, rounds...)
	}
	return nil
}

// lacking is what the stops leave open of each order.
func lacking(lines []openLine, stops []ProposedStop) map[int64]decimal.Decimal {
	out := map[int64]decimal.Decimal{}
	for _, l := range lines {
		out[l.OrderID] = out[l.OrderID].Add(l.Open)
	}
	for _, s := range stops {
		out[s.OrderID] = out[s.OrderID].Sub(s.Quantity)
	}
	return out
}

// forecast gathers stops into rounds and says what each takes. An order's share of what a
// round takes beside its set-up is by its stops.
func (p *planner) forecast(stops []ProposedStop, t trolley, from float64) ([]forecast.Round, error) {
	if len(stops) == 0 {
		return nil, nil
	}
	rounds, _, err := p.split(stops, WaveWish{Split: ByWalk, MaxCartons: usualTrolley}, t)
	if err != nil {
		return nil, err
	}
	var out []forecast.Round
	for _, r := range rounds {
		routed, err := p.route(r)
		if err != nil {
			return nil, err
		}
		setUp := routed.Time.SetUp.InexactFloat64()
		round := forecast.Round{Walker: forecast.Nobody, SetUp: setUp, From: from}
		each := (routed.Time.Minutes.InexactFloat64() - setUp) / float64(len(routed.Stops))
		for _, order := range byOrder(routed.Stops) {
			cartons, _ := p.needs(order, t)
			round.Parts = append(round.Parts, forecast.Part{Order: order[0].OrderID,
				Minutes: each * float64(len(order)), Cartons: cartons})
		}
		out = append(out, round)
	}
	return out, nil
}
