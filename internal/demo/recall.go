package demo

import (
	"context"
	"time"

	"lanternrow/internal/platform/command"
	"lanternrow/internal/recall"
)

// drill calls a lot back that customers have some of, holding nothing, and is through within the hour.
func (s *story) drill() {
	if s.err != nil {
		return
	}
	var lot int64
	if s.err = s.db.GetContext(s.ctx, &lot, `
		SELECT m.lot_id FROM moves m JOIN postings p ON p.id = m.posting_id
		 WHERE p.kind = 'ship' AND m.lot_id IS NOT NULL GROUP BY 1 ORDER BY sum(m.quantity) DESC, 1 LIMIT 1`); s.err != nil {
		return
	}
	r := as(s, "lead", func(ctx context.Context, tx *command.Tx) (recall.Recall, error) {
		return recall.Begin(ctx, tx, recall.Begun{Source: recall.OfLot, ID: lot, Drill: true, Reason: "the drill of this quarter"})
	})
	s.clock = s.clock.Add(17 * time.Minute)
	as(s, "lead", func(ctx context.Context, tx *command.Tx) (recall.Recall, error) { return recall.End(ctx, tx, r.ID) })
}
