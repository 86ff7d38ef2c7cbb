package audit

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/countrequests"
	"lanternrow/internal/platform/command"
)

// looked are the refusals that say that a bin is being counted anyway, so that one look more is none.
var looked = []refusal.Code{refusal.CountWaits, refusal.CountMine, refusal.OnSheet, refusal.MovedSince}

// Look counts a bin that a round (its number is the document) should have emptied of an item, by one look: so much of
// it, of a lot where its lots are told apart, is left. Units that are known one by one cannot be counted by a look: the
// bin is put down for counting.
func Look(ctx context.Context, tx *command.Tx, document string, location, item int32, lot *int64, left string) error {
	entry, _, err := readEntry(ctx, tx, location, item)
	if err != nil {
		return err
	}
	found, err := measure.ParseOrZero("left", left, measure.Unit{Name: entry.Unit, Whole: entry.Whole})
	if err != nil {
		return err
	}
	k := Counted{Quantity: left}
	switch {
	case found.IsPositive() && entry.Tracking == receiving.Serial:
		return countrequests.Raise(ctx, tx, countrequests.Request{Location: location, Item: item, Why: countrequests.Anew, Found: &found})
	case found.IsPositive() && entry.lots():
		k.LotID = lot
	case entry.Tracking == receiving.Serial:
		k.Quantity = ""
	}
	var since int64
	if err := tx.GetContext(ctx, &since, `
		SELECT coalesce(max(m.id), 0) FROM postings t JOIN moves m ON m.posting_id = t.id
		 WHERE t.document = $1 AND t.kind = 'pick' AND m.from_location = $2 AND m.item_id = $3`, document, location, item); err != nil {
		return fmt.Errorf("reading what a round took: %w", err)
	}
	_, err = Confirm(ctx, tx, Count{LocationID: location, ItemID: item, Since: since, Before: true, How: "round", Kinds: []Counted{k}})
	if r := refusal.From(err); r != nil && slices.Contains(looked, r.Code) {
		return nil
	}
	return err
}
