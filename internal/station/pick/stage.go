package pick

import (
	"context"
	"slices"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

// Stage ends a round: its cartons go to the bench with what is in them.
func Stage(ctx context.Context, tx *command.Tx, id int64, leaveRest bool) (Round, error) {
	r, err := readReplanning(ctx, tx, id, "staged it")
	if err != nil {
		return r, err
	}
	return finish(ctx, tx, r, leaveRest)
}

// Dissolve ends a round before it is walked to its end: what was not taken is open again on
// its orders, and what was goes to the bench in its cartons.
func Dissolve(ctx context.Context, tx *command.Tx, id int64) (Round, error) {
	r, err := holdUndone(ctx, tx, id, "dissolved it")
	if err != nil {
		return r, err
	}
	return finish(ctx, tx, r, true)
}

// holdUndone holds a round that is not done, and all that opening its stops again needs.
func holdUndone(ctx context.Context, tx *command.Tx, id int64, change string) (Round, error) {
	if err := holdReplanning(ctx, tx, id); err != nil {
		return Round{}, err
	}
	if err := documents.Change(ctx, tx, documents.Round, id, 0, change); err != nil {
		return Round{}, err
	}
	r, err := readRound(ctx, tx, id)
	if err != nil {
		return r, err
	}
	return r, r.refuseDone()
}

// finish ends a round, with what was not taken left or refused, and tells so.
func finish(ctx context.Context, tx *command.Tx, r Round, leaveRest bool) (Round, error) {
	if err := leave(ctx, tx, r, leaveRest); err != nil {
		return r, err
	}
	if err := end(ctx, tx, r); err != nil {
		return r, err
	}
	tx.NotifySite(r.SiteID, ledger.Topics(append(topics, "pack")...)...)
	return readRound(ctx, tx, r.ID)
}

// end sets a round's open cartons down at the bench, and is the end of it.
func end(ctx context.Context, tx *command.Tx, r Round) error {
	bench, err := catalog.OneLocation(ctx, tx, r.SiteID, "bench")
	if err != nil {
		return err
	}
	if err := setDownCartons(ctx, tx, r, bench.ID); err != nil {
		return err
	}
	return documents.Step(ctx, tx, states.Rounds, []int64{r.ID}, states.RoundDone, "done_at = $4", tx.Now)
}

// leave cancels stops that were not made, or refuses to.
func leave(ctx context.Context, tx *command.Tx, r Round, leaveRest bool) error {
	left := 0
	for _, s := range r.Stops {
		if s.State == states.StopOpen {
			left++
		}
	}
	if left > 0 && !leaveRest {
		return refusal.New(refusal.StopsLeft, "",
			"%s of %s are not made yet. Make them, or say that the rest is left.", measure.Count(left,
				"stop"), r.Number).Of(refusal.Conflict).With("left", left)
	}
	for _, s := range r.Stops {
		if s.State != states.StopOpen {
			continue
		}
		if err := leaveStop(ctx, tx, s); err != nil {
			return err
		}
	}
	return nil
}

// leaveStop opens what was not taken at a stop for another round.
func leaveStop(ctx context.Context, tx *command.Tx, s RoundStop) error {
	if err := reserveFound(ctx, tx, s, decimal.Zero); err != nil {
		return err
	}
	return countOnLine(ctx, tx, s.LineID, s.Quantity.Sub(s.Picked).Sub(s.Short).Neg(), decimal.Zero)
}

func setDownCartons(ctx context.Context, tx *command.Tx, r Round, bench int32) error {
	var open []int64
	for _, c := range r.Cartons {
		if c.State == states.CartonOpen {
			open = append(open, c.ID)
		}
	}
	moves, err := cartons.Moves(ctx, tx, bench, open...)
	if err != nil {
		return err
	}
	if len(moves) > 0 {
		if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Stage, Document: r.Number}, moves); err != nil {
			return err
		}
	}
	var full, empty []int64
	for _, id := range open {
		if slices.ContainsFunc(moves, func(m ledger.Move) bool { return m.FromBox != nil && *m.FromBox == id }) {
			full = append(full, id)
		} else {
			empty = append(empty, id)
		}
	}
	if err := documents.Step(ctx, tx, states.Cartons, full, states.CartonAtBench, "changed_at = $4",
		tx.Now); err != nil {
		return err
	}
	return documents.Step(ctx, tx, states.Cartons, empty, states.CartonBlank,
		"order_id = NULL, round_id = NULL, changed_at = $4", tx.Now)
}
