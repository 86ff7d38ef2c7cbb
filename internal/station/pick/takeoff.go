package pick

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
)

// TakeOff takes stops off a round that is released or walked: what was not taken at them is open
// again for another round, and the rest of the round stands. With its last stop the round ends.
func TakeOff(ctx context.Context, tx *command.Tx, id int64, stops []int64) (Round, error) {
	r, err := holdUndone(ctx, tx, id, "took stops off it")
	if err != nil {
		return r, err
	}
	for i, stop := range stops {
		at := slices.IndexFunc(r.Stops, func(s RoundStop) bool { return s.ID == stop })
		if at < 0 {
			return r, documents.Missing("stop", fmt.Sprint(stop))
		}
		if s := r.Stops[at]; s.State != states.StopOpen {
			return r, refusal.New(refusal.StopDone, fmt.Sprintf("stop_ids[%d]", i),
				"Stop %d of %s, %s, was made already. Only what is still to be taken can be left.", s.Seq, r.Number,
				s.Bin).Of(refusal.Conflict)
		}
		// A stop that is named twice is taken off once.
		if slices.Contains(stops[:i], stop) {
			continue
		}
		if err := leaveStop(ctx, tx, r.Stops[at]); err != nil {
			return r, err
		}
	}
	if r, err = readRound(ctx, tx, id); err != nil {
		return r, err
	}
	if !slices.ContainsFunc(r.Stops, func(s RoundStop) bool { return s.State == states.StopOpen }) {
		return finish(ctx, tx, r, true)
	}
	tx.NotifySite(r.SiteID, ledger.Topics(topics...)...)
	return r, nil
}
