package pick

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/states"
	"lanternrow/internal/core/walking"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

// walkStop is a stop of a round where it stands on the walk: one that is there, or one that is to be.
type walkStop struct {
	ID       int64
	Seq      int
	State    states.Stop
	Location int32 `db:"location_id"`
	Bin      string
	X, Y     float64
	Quantity decimal.Decimal
	WeightKg decimal.Decimal `db:"weight_kg"`
	// added is the place among those that are added, from 1 on; 0 for a stop that was there.
	added int
}

func (s walkStop) point() walking.Point { return walking.Point{X: s.X, Y: s.Y} }

// weave puts further stops into a round: each behind a stop's number where it costs the least extra walk; or,
// where nobody has begun it (behind is 0 and anew), all in the order of the shortest walk. It returns where those
// that are added stand, and notes what the whole walk comes to.
func (p *planner) weave(
	ctx context.Context, tx *command.Tx, round int64, behind int, anew bool, more []ProposedStop,
) ([]position, error) {
	walk, err := p.readWalk(ctx, tx, round)
	if err != nil {
		return nil, err
	}
	for i, s := range more {
		at := p.at[s.LocationID]
		stop := walkStop{Location: s.LocationID, Bin: s.Bin, X: at.X, Y: at.Y, Quantity: s.Quantity,
			WeightKg: p.lines[s.LineID].WeightKg, added: i + 1}
		walk = p.insert(walk, behind, stop)
	}
	if anew {
		if walk, err = p.shortest(walk); err != nil {
			return nil, err
		}
	}
	at := make([]position, len(more))
	for i, s := range walk {
		if s.added > 0 {
			at[s.added-1] = position{round, i + 1}
		}
	}
	if err := renumber(ctx, tx, round, walk); err != nil {
		return nil, err
	}
	return at, p.noteWalk(ctx, tx, round, walk)
}

func (p *planner) readWalk(ctx context.Context, tx *command.Tx, round int64) ([]walkStop, error) {
	var walk []walkStop
	err := tx.SelectContext(ctx, &walk, `
		SELECT s.id, s.seq, s.state, s.location_id, p.code AS bin, p.x, p.y, s.quantity, i.weight_kg
		  FROM round_stops s JOIN locations p ON p.id = s.location_id JOIN items i ON i.id = s.item_id
		 WHERE s.round_id = $1 ORDER BY s.seq`, round)
	if err != nil {
		return nil, fmt.Errorf("reading the walk of a round: %w", err)
	}
	for i := range walk {
		at := p.floor.Reach(walk[i].point())
		walk[i].X, walk[i].Y = at.X, at.Y
	}
	return walk, nil
}

// insert puts a stop behind the one of a number where it costs the least extra walk.
func (p *planner) insert(walk []walkStop, behind int, s walkStop) []walkStop {
	at, least := len(walk), -1.0
	for i := range len(walk) + 1 {
		before, next := p.bench.Point(), p.bench.Point()
		if i > 0 {
			before = walk[i-1].point()
			if walk[i-1].Seq < behind && walk[i-1].added == 0 {
				continue
			}
		} else if behind > 0 && len(walk) > 0 {
			continue
		}
		if i < len(walk) {
			next = walk[i].point()
		}
		extra := p.floor.Distance(before, s.point()) + p.floor.Distance(s.point(), next) - p.floor.Distance(before, next)
		if least < 0 || extra < least {
			at, least = i, extra
		}
	}
	return slices.Insert(walk, at, s)
}

// shortest puts all stops in the order of the shortest walk.
func (p *planner) shortest(walk []walkStop) ([]walkStop, error) {
	slices.SortStableFunc(walk, func(a, b walkStop) int { return cmp.Compare(a.Bin, b.Bin) })
	round, err := walking.Shortest(p.floor, p.bench.Point(), points(walk))
	if err != nil {
		return nil, err
	}
	out := make([]walkStop, len(walk))
	for i, k := range round.Order {
		out[i] = walk[k]
	}
	return out, nil
}

func points(walk []walkStop) []walking.Point {
	out := make([]walking.Point, len(walk))
	for i, s := range walk {
		out[i] = s.point()
	}
	return out
}

// renumber numbers the stops of a round as they are walked. Numbers are unique in a round, so it goes by way of
// numbers that nobody uses.
func renumber(ctx context.Context, tx *command.Tx, round int64, walk []walkStop) error {
	var ids, seqs []int64
	for i, s := range walk {
		if s.added == 0 {
			ids, seqs = append(ids, s.ID), append(seqs, int64(i+1))
		}
	}
	if _, err := tx.ExecContext(ctx, `UPDATE round_stops SET seq = -seq WHERE round_id = $1`, round); err != nil {
		return fmt.Errorf("making room for stops: %w", err)
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE round_stops s SET seq = n.seq FROM unnest($1::bigint[], $2::bigint[]) AS n(id, seq) WHERE s.id = n.id`,
		ids, seqs)
	if err != nil {
		return fmt.Errorf("numbering the stops of a round: %w", err)
	}
	return nil
}

// noteWalk writes down what the whole walk comes to.
func (p *planner) noteWalk(ctx context.Context, tx *command.Tx, round int64, walk []walkStop) error {
	start, all := p.bench.Point(), points(walk)
	byBin := slices.Clone(walk)
	slices.SortStableFunc(byBin, func(a, b walkStop) int { return cmp.Compare(a.Bin, b.Bin) })
	path, err := json.Marshal(p.floor.Path(start, all))
	if err != nil {
		return fmt.Errorf("writing a walk: %w", err)
	}
	metres := p.floor.Length(start, all)
	_, err = tx.ExecContext(ctx, `
		UPDATE rounds SET metres = $2, plain_metres = $3, minutes = $4, path = $5 WHERE id = $1`, round,
		catalog.Tenth(metres), catalog.Tenth(p.floor.Length(start, points(byBin))),
		p.pace.Estimate(workOf(walk, metres)).Minutes, string(path))
	if err != nil {
		return fmt.Errorf("noting the walk of a round: %w", err)
	}
	return nil
}

// workOf is what a walk asks of whoever walks it.
func workOf(walk []walkStop, metres float64) walking.Work {
	work := walking.Work{Metres: decimal.NewFromFloat(metres), Lines: len(walk)}
	for i, s := range walk {
		if i == 0 || walk[i-1].Location != s.Location {
			work.Stops++
		}
		work.Units = work.Units.Add(s.Quantity)
		work.WeightKg = work.WeightKg.Add(s.Quantity.Mul(s.WeightKg))
	}
	return work
}
