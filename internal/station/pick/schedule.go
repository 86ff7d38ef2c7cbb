package pick

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

// planRounds is what the task is known by.
const planRounds = "plan-rounds"

// Schedule plans rounds for what waits at set times, and releases them.
func Schedule() schedules.Task {
	return schedules.Task{
		Name: planRounds, Title: "Plan rounds", Help: "What is released and wanted by then is planned into " +
			"rounds, and they go to the floor.",
		Uses: []string{"days", "carrier", "ready", "zone", "split", "max_cartons", "max_lines", "max_kg"}, Roles: web.Lead,
		Preview: func(ctx context.Context, q sqlx.QueryerContext, site int32, s schedules.Settings,
			now time.Time) (schedules.Work, error) {
			wave, err := waveOf(ctx, q, site, s, now)
			if err != nil || wave == nil {
				return schedules.Work{Words: "plans no round: nothing that waits can be taken"}, err
			}
			w := schedules.Work{Words: "plans " + wave.words()}
			for _, r := range wave.Rounds {
				w.Documents = append(w.Documents, r.Orders...)
			}
			return w, nil
		},
		Do: func(ctx context.Context, tx *command.Tx, site int32, s schedules.Settings) (schedules.Work, error) {
			wave, err := waveOf(ctx, tx, site, s, tx.Now)
			if err != nil || wave == nil {
				return schedules.Work{Words: "planned no round: nothing that waited could be taken"}, err
			}
			rounds, err := ReleaseWave(ctx, tx, wave.Draft(site))
			if err != nil {
				return schedules.Work{}, err
			}
			w := schedules.Work{Words: "planned " + wave.words()}
			for _, r := range rounds {
				w.Documents = append(w.Documents, r.Number)
			}
			return w, nil
		},
	}
}

// waveOf plans a wave for what waits; nil when nothing of it can be taken.
func waveOf(
	ctx context.Context, q sqlx.QueryerContext, site int32, s schedules.Settings, now time.Time,
) (*Wave, error) {
	until, err := s.Until(ctx, q, site, now)
	if err != nil {
		return nil, err
	}
	open, err := OpenAt(ctx, q, site, OpenFilter{Until: until, Carrier: s.Carrier, Zone: s.Zone, Ready: s.Ready}, now)
	if err != nil || len(open.Rows) == 0 {
		return nil, err
	}
	wish := WaveWish{Wish: Wish{SiteID: site, Zone: s.Zone}, Split: s.Split, MaxCartons: s.MaxCartons,
		MaxLines: s.MaxLines, MaxKg: s.MaxKg}
	for _, o := range open.Rows {
		wish.OrderIDs = append(wish.OrderIDs, o.ID)
	}
	wave, err := PlanWave(ctx, q, wish, now)
	if r := refusal.From(err); r != nil && r.Code == refusal.NothingToTake {
		return nil, nil
	}
	return wave, err
}

func (w *Wave) words() string {
	return fmt.Sprintf("%s for %s, %g m in %s minutes", measure.Count(len(w.Rounds), "round"),
		measure.Count(w.Orders, "order"), w.Metres, w.Minutes)
}
