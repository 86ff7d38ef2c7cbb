package pick

import (
	"context"
	"fmt"
	"math"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// cut parts a round of too many lines or too much weight into stretches of its walk. Loose
// goods that are too heavy together are taken on several; a carton or unit is never parted.
func (p *planner) cut(stops []ProposedStop, in WaveWish) ([][]ProposedStop, error) {
	kg := 0.0
	for _, s := range stops {
		kg += p.weight(s)
	}
	if len(stops) <= in.MaxLines && (in.MaxKg == 0 || kg <= in.MaxKg) {
		return [][]ProposedStop{stops}, nil
	}
	routed, err := p.route(stops)
	if err != nil {
		return nil, err
	}
	var out [][]ProposedStop
	var round []ProposedStop
	room := in.MaxKg
	next := func() {
		if len(round) > 0 {
			out = append(out, round)
		}
		round, room = nil, in.MaxKg
	}
	for i := 0; i < len(routed.Stops); {
		if len(round) == in.MaxLines {
			next()
		}
		s := &routed.Stops[i]
		part, whole := p.within(*s, room, in.MaxKg, len(round) == 0)
		if part.Quantity.IsPositive() {
			round, room = append(round, part), room-p.weight(part)
			s.Quantity = s.Quantity.Sub(part.Quantity)
		}
		if whole {
			i++
		} else {
			next()
		}
	}
	next()
	return out, nil
}

func (p *planner) weight(s ProposedStop) float64 {
	return s.Quantity.InexactFloat64() * p.lines[s.LineID].WeightKg.InexactFloat64()
}

// within is the part of a stop that a round has room for, which is at least one unit of the
// first stop of a round; whole tells whether it is all of it. Without a most there is room.
func (p *planner) within(s ProposedStop, room, most float64, first bool) (part ProposedStop, whole bool) {
	const slack = 1e-9
	if most == 0 || p.weight(s) <= room+slack {
		return s, true
	}
	part = s
	l := p.lines[s.LineID]
	units := decimal.NewFromFloat(math.Floor(room/l.WeightKg.InexactFloat64() + slack))
	switch {
	case s.CartonID != nil || len(s.SerialIDs) > 0 || !l.Whole:
		if first {
			return s, true
		}
		part.Quantity = decimal.Zero
	case first && units.IsZero():
		part.Quantity = decimal.Min(decimal.NewFromInt(1), s.Quantity)
	default:
		part.Quantity = decimal.Min(units, s.Quantity)
	}
	return part, part.Quantity.Equal(s.Quantity)
}

// trolley is the largest carton there is.
type trolley struct{ Litres, Kg float64 }

func readTrolley(ctx context.Context, q sqlx.QueryerContext) (t trolley, err error) {
	err = sqlx.GetContext(ctx, q, &t, `
		SELECT coalesce(max(sides_cm[1] * sides_cm[2] * sides_cm[3] / 1000), 0)::float8 AS litres,
		       coalesce(max(max_kg), 0)::float8 AS kg FROM carton_sizes`)
	if err != nil {
		return t, fmt.Errorf("reading carton sizes: %w", err)
	}
	return t, nil
}

// needs is how many cartons an order fills at least, and what it weighs.
func (p *planner) needs(order []ProposedStop, t trolley) (cartons int, kg float64) {
	litres := 0.0
	for _, s := range order {
		n := s.Quantity.InexactFloat64()
		l := p.lines[s.LineID]
		litres, kg = litres+n*l.VolumeL.InexactFloat64(), kg+n*l.WeightKg.InexactFloat64()
	}
	cartons = 1
	if t.Litres > 0 {
		cartons = max(cartons, int(math.Ceil(litres/t.Litres)))
	}
	if t.Kg > 0 {
		cartons = max(cartons, int(math.Ceil(kg/t.Kg)))
	}
	return cartons, kg
}
