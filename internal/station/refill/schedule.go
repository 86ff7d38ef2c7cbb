package refill

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/schedules"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

// Schedule makes refills at set times.
func Schedule() schedules.Task {
	return schedules.Task{
		Name: "make-refills", Title: "Refill picking bins", Help: "Picking bins that are short by then, or will be once the " +
			"released orders are picked, are filled from reserve: the walks go to the floor.",
		Uses: []string{"days", "max_lines", "max_kg"}, Roles: web.Lead,
		Preview: func(ctx context.Context, q sqlx.QueryerContext, site int32, s schedules.Settings, now time.Time) (schedules.Work, error) {
			in, err := wishOf(ctx, q, site, s, now)
			if err != nil {
				return schedules.Work{}, err
			}
			plan, err := NewPlan(ctx, q, in, now)
			if err != nil || len(plan.Walks) == 0 {
				return schedules.Work{Words: "makes no refill: no picking bin is short of what reserve has"}, err
			}
			w := schedules.Work{Words: fmt.Sprintf("makes %s", measure.Count(len(plan.Walks), "refill"))}
			for _, walk := range plan.Walks {
				for _, f := range walk.Fetches {
					w.Documents = append(w.Documents, f.To)
				}
			}
			return w, nil
		},
		Do: func(ctx context.Context, tx *command.Tx, site int32, s schedules.Settings) (schedules.Work, error) {
			in, err := wishOf(ctx, tx, site, s, tx.Now)
			if err != nil {
				return schedules.Work{}, err
			}
			made, err := Make(ctx, tx, in)
			if r := refusal.From(err); r != nil && r.Code == refusal.NothingToTake {
				return schedules.Work{Words: "made no refill: no picking bin was short of what reserve has"}, nil
			}
			w := schedules.Work{Words: fmt.Sprintf("made %s", measure.Count(len(made), "refill"))}
			for _, r := range made {
				w.Documents = append(w.Documents, r.Number)
			}
			return w, err
		},
	}
}

func wishOf(ctx context.Context, q sqlx.QueryerContext, site int32, s schedules.Settings, now time.Time) (Wish, error) {
	until, err := s.Until(ctx, q, site, now)
	return Wish{SiteID: site, Until: until, MaxLines: min(s.MaxLines, 200), MaxKg: s.MaxKg}, err
}
