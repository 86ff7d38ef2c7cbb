package audit

import (
	"context"
	"fmt"

	"lanternrow/internal/core/counting"
	"lanternrow/internal/core/walking"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// settings are how a site counts, and how quickly.
type settings struct {
	A          decimal.Decimal `db:"class_a_pct"`
	B          decimal.Decimal `db:"class_b_pct"`
	CountsA    int             `db:"counts_a"`
	CountsB    int             `db:"counts_b"`
	CountsC    int             `db:"counts_c"`
	Minutes    int             `db:"count_minutes"`
	Still      int             `db:"still_days"`
	Busy       int             `db:"busy_moves"`
	AllowA     decimal.Decimal `db:"allow_a_pct"`
	AllowB     decimal.Decimal `db:"allow_b_pct"`
	AllowC     decimal.Decimal `db:"allow_c_pct"`
	AllowValue decimal.Decimal `db:"allow_value"`
	walking.Pace
}

func readSettings(ctx context.Context, q sqlx.QueryerContext, site int32) (s settings, err error) {
	if err := sqlx.GetContext(ctx, q, &s, `
		SELECT class_a_pct, class_b_pct, counts_a, counts_b, counts_c, count_minutes, still_days, busy_moves, allow_a_pct, allow_b_pct,
		       allow_c_pct, allow_value, pace_set_up, pace_walk, pace_stop, pace_line, pace_unit, pace_kilo
		  FROM sites WHERE id = $1`, site); err != nil {
		return s, documents.Found(err, "site", fmt.Sprint(site))
	}
	return s, nil
}

func (s settings) policy() counting.Policy {
	return counting.Policy{StillDays: s.Still, BusyMoves: s.Busy,
		PerYear: map[counting.Class]int{counting.A: s.CountsA, counting.B: s.CountsB, counting.C: s.CountsC}}
}

// allowance is by how much a count of an item of a class may differ.
func (s settings) allowance(c counting.Class) counting.Allowance {
	percent := map[counting.Class]decimal.Decimal{counting.A: s.AllowA, counting.B: s.AllowB, counting.C: s.AllowC}
	return counting.Allowance{Percent: percent[c], Value: s.AllowValue}
}
