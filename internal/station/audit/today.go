package audit

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/counting"
	"lanternrow/internal/core/walking"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Today is what is to be counted at a site today, in the order of one walk, cut to the minutes that there are.
type Today struct {
	Rows    []Due           `json:"rows" nullable:"false"`
	Minutes decimal.Decimal `json:"minutes" doc:"How long it takes, with the walk"`
	Budget  int             `json:"budget" doc:"How many minutes there are"`
	Metres  float64         `json:"metres"`
	// Left is how many more have a reason, and do not fit into the day.
	Left int `json:"left"`
}

// Due is an item in a bin that is to be counted, and why.
type Due struct {
	LocationID  int32             `db:"location_id" json:"location_id"`
	Bin         string            `db:"bin" json:"bin"`
	Zone        string            `db:"zone" json:"zone"`
	ItemID      int32             `db:"item_id" json:"item_id"`
	SKU         string            `db:"sku" json:"sku"`
	Description string            `db:"description" json:"description"`
	Class       counting.Class    `db:"-" json:"class" enum:"A,B,C"`
	Reasons     []counting.Reason `db:"-" json:"reasons" enum:"again,asked,complaint,differed,emptied,overdue,busy,still,likely" nullable:"false"`
	Chance      float64           `db:"-" json:"chance" doc:"How likely the books are wrong there, 0 to 1"`
	Moves       int               `db:"-" json:"moves" doc:"How many moves there were since it was counted"`
	CountedAt   *time.Time        `db:"counted_at" json:"counted_at"`
	DueOn       string            `db:"-" json:"due_on" doc:"When its class is due; empty for never"`
	Round       string            `db:"round" json:"round" doc:"The round that found too few"`
	RaisedBy    string            `db:"raised_by" json:"raised_by"`
	Barred      barred            `db:"barred" json:"barred" nullable:"false" doc:"Who has counted it already and may not count it again, by their ids"`

	X        float64         `db:"x" json:"-"`
	Y        float64         `db:"y" json:"-"`
	Quantity decimal.Decimal `db:"quantity" json:"-"`
	Recount  bool            `db:"recount" json:"-"`
	Asked    bool            `db:"asked" json:"-"`
	Complain bool            `db:"complaint" json:"-"`
	Differed bool            `db:"differed" json:"-"`
	Since    *time.Time      `db:"since" json:"-"`
	Moved    *time.Time      `db:"moved" json:"-"`
	// Kinds are how often it moved there by now, and Before until it was counted, by kind.
	Kinds  json.RawMessage `db:"kinds" json:"-"`
	Before json.RawMessage `db:"before" json:"-"`
	of     counting.Candidate
}

// candidatesQuery reads what lies, or lay in the last days, in the bins of a site ($1): when it was counted, what moved
// since, and what speaks for counting it. What was counted and waits for a decision is not counted meanwhile, and what
// is on a sheet is counted there.
const candidatesQuery = `
	WITH moved AS MATERIALIZED (
		SELECT m.location_id, m.item_id, m.kind, sum(m.moves) AS n, min(m.first_at) AS first, max(m.last_at) AS last
		  FROM moved m JOIN locations p ON p.id = m.location_id WHERE p.site_id = $1 AND p.fixed GROUP BY 1, 2, 3),
	     spans AS (
		SELECT location_id, item_id, min(first) AS first, max(last) AS last, jsonb_object_agg(kind, n) AS kinds FROM moved GROUP BY 1, 2),
	     lies AS (
		SELECT b.location_id, b.item_id, sum(b.quantity) AS quantity FROM balances b JOIN locations p ON p.id = b.location_id
		 WHERE p.site_id = $1 AND p.kind = 'bin' AND b.condition = 'good' GROUP BY 1, 2),
	     emptied AS (
		SELECT m.location_id, m.item_id, 0::numeric AS quantity FROM spans m JOIN locations p ON p.id = m.location_id
		 WHERE m.last > $2::timestamptz - interval '7 days' AND p.kind = 'bin'
		   AND NOT EXISTS (SELECT FROM balances b WHERE b.location_id = m.location_id AND b.item_id = m.item_id)),
	     asked AS (
		SELECT location_id, item_id FROM counts WHERE site_id = $1 AND state = 'recount'
		UNION SELECT d.location_id, d.item_id FROM count_requests d JOIN locations p ON p.id = d.location_id
		 WHERE d.state = 'requested' AND p.site_id = $1 AND p.fixed),
	     cells AS (
		SELECT * FROM lies UNION ALL SELECT * FROM emptied
		UNION ALL SELECT location_id, item_id, 0 FROM asked a WHERE NOT EXISTS (
		    SELECT FROM (SELECT * FROM lies UNION ALL SELECT * FROM emptied) AS l
		     WHERE l.location_id = a.location_id AND l.item_id = a.item_id)),
	     counted AS (
		SELECT DISTINCT ON (location_id, item_id) location_id, item_id, counted_at, off > 0 AS differed, moved
		  FROM counts WHERE site_id = $1 AND state = 'settled' ORDER BY location_id, item_id, id DESC)
	SELECT c.location_id, p.code AS bin, ` + catalog.AreaOf + ` AS zone, p.x, p.y, c.item_id, i.sku, i.description, c.quantity, d.counted_at,
	       coalesce(d.differed, false) AS differed, coalesce(q.asked, false) AS asked,
	       coalesce(q.complaint, false) AS complaint, w.id IS NOT NULL AS recount, ` + barredBy + ` AS barred, coalesce(r.number, '') AS round,
	       coalesce(e.name, '') AS raised_by, m.first AS since, m.last AS moved,
	       coalesce(m.kinds, '{}') AS kinds, coalesce(d.moved, '{}') AS before
	  FROM cells c JOIN locations p ON p.id = c.location_id JOIN items i ON i.id = c.item_id LEFT JOIN zones z ON z.id = p.zone_id
	  LEFT JOIN counted d USING (location_id, item_id)
	  LEFT JOIN spans m USING (location_id, item_id)
	  LEFT JOIN (SELECT location_id, item_id, bool_or(why <> 'complaint') AS asked, bool_or(why = 'complaint') AS complaint,
	                    max(round_id) AS round_id, (array_agg(raised_by ORDER BY id DESC))[1] AS raised_by
	               FROM count_requests WHERE state = 'requested' GROUP BY 1, 2) AS q USING (location_id, item_id)
	  LEFT JOIN rounds r ON r.id = q.round_id LEFT JOIN people e ON e.id = q.raised_by
	  LEFT JOIN counts w ON w.location_id = c.location_id AND w.item_id = c.item_id AND w.state = 'recount'
	 WHERE NOT EXISTS (SELECT FROM counts x WHERE x.location_id = c.location_id AND x.item_id = c.item_id AND x.state = 'counted')
	   AND NOT EXISTS (SELECT FROM count_sheet_lines x WHERE x.location_id = c.location_id AND x.item_id = c.item_id AND x.state = 'open')
	 ORDER BY p.code, i.sku`

// ReadToday reads what is to be counted at a site today.
func ReadToday(ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time) (Today, error) {
	out := Today{Rows: []Due{}}
	s, err := readSettings(ctx, q, site)
	if err != nil {
		return out, err
	}
	out.Budget = s.Minutes
	due, err := readDue(ctx, q, site, s, now)
	if err != nil || len(due) == 0 {
		return out, err
	}
	slices.SortStableFunc(due, func(a, b Due) int { return counting.Before(a.of, b.of, a.Reasons, b.Reasons) })
	return out, out.walk(ctx, q, site, s, due)
}

// readDue reads what has a reason to be counted.
func readDue(ctx context.Context, q sqlx.QueryerContext, site int32, s settings, now time.Time) (due []Due, err error) {
	var rows []Due
	if err := sqlx.SelectContext(ctx, q, &rows, candidatesQuery, site, now); err != nil {
		return nil, fmt.Errorf("reading what may be counted: %w", err)
	}
	rates, err := readRates(ctx, q, site)
	if err != nil {
		return nil, err
	}
	class, err := classesOf(ctx, q, site, s, now)
	if err != nil {
		return nil, err
	}
	policy := s.policy()
	for _, d := range rows {
		d.Class = class.of(d.ItemID)
		if err := d.weigh(policy, rates, now); err != nil {
			return nil, err
		}
		if len(d.Reasons) > 0 {
			due = append(due, d)
		}
	}
	return due, nil
}

// weigh finds how likely an error is, and why the item is to be counted there.
func (d *Due) weigh(p counting.Policy, rates counting.Rates, now time.Time) error {
	moves, err := movesSince(d.Kinds, d.Before)
	if err != nil {
		return err
	}
	for _, n := range moves {
		d.Moves += n
	}
	d.Chance = rates.Chance(moves)
	at := func(t *time.Time) (out time.Time) {
		if t != nil {
			out = *t
		}
		return out
	}
	d.of = counting.Candidate{Class: d.Class, Counted: at(d.CountedAt), Moved: at(d.Moved), Since: at(d.Since), Asked: d.Asked,
		Recount: d.Recount, Complaint: d.Complain, Moves: d.Moves, Differed: d.Differed, Empty: d.Quantity.IsZero(), Chance: d.Chance}
	if due := p.DueOn(d.of); due != nil {
		d.DueOn = due.Format(time.DateOnly)
	}
	d.Reasons = append([]counting.Reason{}, p.Reasons(d.of, now)...)
	return nil
}

// movesSince is how often something was moved by now, less how often it had been before, by kind.
func movesSince(now, before json.RawMessage) (moves map[string]int, err error) {
	var earlier map[string]int
	if err := errors.Join(json.Unmarshal(now, &moves), json.Unmarshal(before, &earlier)); err != nil {
		return nil, fmt.Errorf("reading what moved: %w", err)
	}
	for kind, n := range earlier {
		if moves[kind] -= n; moves[kind] <= 0 {
			delete(moves, kind)
		}
	}
	return moves, nil
}

// quickly is how many units are counted in the time that one is taken in (common practice, no source).
const quickly = 5

// countedAs is how many units are taken in the time that so many are counted in.
func countedAs(quantity decimal.Decimal) decimal.Decimal {
	return quantity.Div(decimal.NewFromInt(quickly))
}

// walk cuts what is due to the minutes that there are, and puts it into the order of the shortest walk.
func (t *Today) walk(ctx context.Context, q sqlx.QueryerContext, site int32, s settings, due []Due) error {
	bench, floor, err := catalog.BenchAndFloor(ctx, q, site)
	if err != nil {
		return err
	}
	points := make([]walking.Point, len(due))
	for i, d := range due {
		points[i] = floor.Reach(walking.Point{X: d.X, Y: d.Y})
	}
	start := floor.Nearest(bench.Point())
	takes := func(first int) (decimal.Decimal, error) {
		metres, err := walking.Metres(floor, start, points[:first])
		work := walking.Work{Metres: decimal.NewFromFloat(metres), Lines: first}
		bins := map[int32]bool{}
		for _, d := range due[:first] {
			bins[d.LocationID] = true
			work.Units = work.Units.Add(countedAs(d.Quantity))
		}
		work.Stops = len(bins)
		return s.Estimate(work).Minutes, err
	}
	n, err := counting.Fit(len(due), func(first int) (float64, error) {
		minutes, err := takes(first)
		return minutes.InexactFloat64(), err
	}, float64(s.Minutes))
	if err != nil {
		return err
	}
	round, err := walking.Shortest(floor, start, points[:n])
	if err != nil {
		return err
	}
	for _, i := range round.Order {
		t.Rows = append(t.Rows, due[i])
	}
	t.Left, t.Metres = len(due)-n, catalog.Tenth(round.Metres)
	if n > 0 {
		t.Minutes, err = takes(n)
	}
	return err
}
