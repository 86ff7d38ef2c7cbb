package stock

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/walking"
	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
)

// A PastFloor is the plan of a site as it was at an instant: what stood in its bins, who walked which round and where.
type PastFloor struct {
	FloorPlan
	At time.Time `json:"at"`
	// Steps are what was posted in the minutes before, the latest first.
	Steps []PastStep `json:"steps" nullable:"false"`
}

// A PastStep is something that was done on the floor.
type PastStep struct {
	At       time.Time `db:"at" json:"at"`
	Person   string    `db:"person" json:"person"`
	Kind     string    `db:"kind" json:"kind"`
	Document string    `db:"document" json:"document"`
	Units    int       `db:"units" json:"units" doc:"How many moves it has"`
}

// stoodFill is binFill at an instant ($1).
const stoodFill = `locations p LEFT JOIN (
			SELECT b.location_id, sum(b.quantity) AS units, sum(b.quantity * i.weight_kg) AS kg, sum(b.quantity * i.volume_l) AS litres
			  FROM (` + ledger.StoodAt + `) AS b JOIN items i ON i.id = b.item_id GROUP BY 1) AS s ON s.location_id = p.id`

// ReadPastFloor reads the plan of a site as it was.
func ReadPastFloor(ctx context.Context, q sqlx.QueryerContext, site int32, at time.Time) (out PastFloor, err error) {
	if err := ledger.MayLookAt(ctx, q, "at", at); err != nil {
		return out, err
	}
	out.At, out.Steps = at, []PastStep{}
	if out.FloorPlan, err = readPlan(ctx, q, site); err != nil {
		return out, err
	}
	var all []FloorBin
	if err := sqlx.SelectContext(ctx, q, &all, `
		SELECT p.id, p.code, p.kind, p.x, p.y, p.level, coalesce(s.units, 0) AS units, `+fullShare+` AS full_share,
		       EXISTS (SELECT FROM count_requests d WHERE d.location_id = p.id AND d.raised_at <= $1
		           AND (d.settled_at IS NULL OR d.settled_at > $1)) AS count_request
		  FROM `+stoodFill+` WHERE p.site_id = $2 ORDER BY p.code`, at, site); err != nil {
		return out, fmt.Errorf("reading the floor as it was: %w", err)
	}
	out.sort(all)
	if err := out.readWalks(ctx, q, site); err != nil {
		return out, err
	}
	if err := sqlx.SelectContext(ctx, q, &out.Steps, `
		SELECT t.entered_at AS at, e.name AS person, t.kind, t.document, count(*)::int AS units
		  FROM (SELECT * FROM postings WHERE entered_at > $1::timestamptz - interval '30 minutes' AND entered_at <= $1
		         ORDER BY entered_at DESC, id DESC LIMIT 400) AS t
		  JOIN people e ON e.id = t.person_id JOIN moves m ON m.posting_id = t.id
		 WHERE $2 IN (m.from_site, m.to_site)
		 GROUP BY t.id, t.entered_at, t.kind, t.document, e.id ORDER BY t.entered_at DESC, t.id DESC LIMIT 12`, at, site); err != nil {
		return out, fmt.Errorf("reading what was done: %w", err)
	}
	return out, nil
}

// pastWalk is a round that was walked, with the takes before and after an instant.
type pastWalk struct {
	Walk
	Started time.Time  `db:"started"`
	Ended   *time.Time `db:"ended"`
	TookAt  *time.Time `db:"took_at"`
	NextAt  *time.Time `db:"next_at"`
	NextX   *float64   `db:"next_x"`
	NextY   *float64   `db:"next_y"`
}

// readWalks reads who walked which round, and where they were: on their way from what they took last, or from the
// bench, to what they took next, or back to it.
func (p *PastFloor) readWalks(ctx context.Context, q sqlx.QueryerContext, site int32) error {
	bench, floor, err := catalog.BenchAndFloor(ctx, q, site)
	if err != nil {
		return err
	}
	var walks []pastWalk
	if err := sqlx.SelectContext(ctx, q, &walks, `
		SELECT r.number AS round, r.id, coalesce(e.name, '') AS person, 'walking' AS state, r.path, r.started_at AS started, r.done_at AS ended,
		       (SELECT count(*) FROM round_stops WHERE round_id = r.id) AS stops,
		       (SELECT count(*) FROM postings t WHERE t.document = r.number AND t.kind = 'pick' AND t.entered_at <= $1) AS done, p.x, p.y,
		       l.at AS took_at, n.at AS next_at, np.x AS next_x, np.y AS next_y
		  FROM rounds r LEFT JOIN people e ON e.id = r.picker_id LEFT JOIN LATERAL (
		       SELECT m.from_location, t.entered_at AS at FROM postings t JOIN moves m ON m.posting_id = t.id
		        WHERE t.document = r.number AND t.kind = 'pick' AND t.entered_at <= $1 ORDER BY m.id DESC LIMIT 1) AS l ON true
		  LEFT JOIN LATERAL (
		       SELECT m.from_location, t.entered_at AS at FROM postings t JOIN moves m ON m.posting_id = t.id
		        WHERE t.document = r.number AND t.kind = 'pick' AND t.entered_at > $1 ORDER BY m.id LIMIT 1) AS n ON true
		  LEFT JOIN locations p ON p.id = l.from_location LEFT JOIN locations np ON np.id = n.from_location
		 WHERE r.site_id = $2 AND r.started_at <= $1 AND (r.done_at IS NULL OR r.done_at > $1) ORDER BY r.id`, p.At, site); err != nil {
		return fmt.Errorf("reading who walked: %w", err)
	}
	p.Walks = []Walk{}
	for _, w := range walks {
		p.Walks = append(p.Walks, w.at(floor, bench.Point(), p.At))
	}
	return nil
}

// at is the walk with where its picker was.
func (w pastWalk) at(floor walking.Floor, bench walking.Point, at time.Time) Walk {
	from, left, to, there := bench, w.Started, bench, w.Ended
	if w.X != nil && w.Y != nil {
		from, left = walking.Point{X: *w.X, Y: *w.Y}, *w.TookAt
	}
	if w.NextX != nil && w.NextY != nil {
		to, there = walking.Point{X: *w.NextX, Y: *w.NextY}, w.NextAt
	}
	now := from
	if there != nil && there.After(left) {
		share := at.Sub(left).Seconds() / there.Sub(left).Seconds()
		now = floor.Along(floor.Reach(from), floor.Reach(to), share)
	}
	out := w.Walk
	out.X, out.Y = &now.X, &now.Y
	return out
}
