package pick

import (
	"context"
	"slices"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
)

// A Looker counts a bin by one look: so much of an item, of a lot where it has one, is left of what a round, its
// document, should have taken whole.
type Looker func(ctx context.Context, tx *command.Tx, document string, location, item int32, lot *int64, left string) error

// nought is what a look into a bin showed that a stop should have emptied.
type nought struct {
	StopID int64  `json:"stop_id"`
	Left   string `json:"left" maxLength:"40" doc:"How many are there after all; 0 where it is empty"`
}

// Nought takes down that whoever walks a round looked into a bin that should be empty now.
func Nought(ctx context.Context, tx *command.Tx, id int64, in nought, look Looker) (Round, error) {
	r, err := readStep(ctx, tx, id, "looked into a bin")
	if err != nil {
		return r, err
	}
	i := slices.IndexFunc(r.Stops, func(s RoundStop) bool { return s.ID == in.StopID })
	if i < 0 {
		return r, refusal.New(refusal.StopUnknown, "stop_id", "%s has no such stop.", r.Number).Of(refusal.Missing)
	}
	stop := r.Stops[i]
	if !stop.AskNought {
		return r, refusal.New(refusal.StopDone, "stop_id", "Nothing is to be looked for in %s: it is not empty by the books, or was looked into.",
			stop.Bin).Of(refusal.Conflict)
	}
	if err := look(ctx, tx, r.Number, stop.LocationID, stop.ItemID, stop.LotID, in.Left); err != nil {
		return r, err
	}
	tx.NotifySite(r.SiteID, topics...)
	return readRound(ctx, tx, id)
}
