package audit

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// blind is what whoever counts sees before the count is confirmed: what they wrote down.
func blind(ctx context.Context, q sqlx.QueryerContext, in Count) (*ledger.Plan, error) {
	c, err := compare(ctx, q, in)
	if err != nil {
		return nil, err
	}
	if err := waiting(ctx, q, in); err != nil {
		return nil, err
	}
	plan, err := ledger.Describe(ctx, q, nil)
	if err != nil {
		return nil, err
	}
	plan.Button = fmt.Sprintf("Confirm %s of %s in %s", c.found, c.sheet.SKU, c.sheet.Bin)
	return plan, nil
}

// Confirm writes a count down as it was made. One that agrees with the books is settled at
// once; one that differs waits for a lead.
func Confirm(ctx context.Context, tx *command.Tx, in Count) (Done, error) {
	if err := ledger.LockBins(ctx, tx, []int32{in.LocationID}); err != nil {
		return Done{}, err
	}
	c, err := compare(ctx, tx, in)
	if err != nil {
		return Done{}, err
	}
	if err := waiting(ctx, tx, in); err != nil {
		return Done{}, err
	}
	written, err := json.Marshal(in)
	if err != nil {
		return Done{}, fmt.Errorf("writing a count: %w", err)
	}
	state := states.CountAccepted
	if len(c.differences) > 0 {
		state = states.CountCounted
	}
	var made struct {
		ID     int64
		Number string
	}
	err = tx.GetContext(ctx, &made, `
		INSERT INTO counts (site_id, location_id, item_id, found, variance, value, counted_by, counted_at, state, written)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10) RETURNING id, number`,
		c.sheet.SiteID, in.LocationID, in.ItemID, c.found, c.variance, c.value, tx.Person.ID, tx.Now, state, written)
	if err != nil {
		return Done{}, fmt.Errorf("writing a count: %w", err)
	}
	done := Done{ID: made.ID,
		Words: fmt.Sprintf("%s: %s of %s in %s are confirmed.", made.Number, c.found, c.sheet.SKU, c.sheet.Bin)}
	tx.NotifySite(c.sheet.SiteID, "audit", "row")
	if state == states.CountCounted {
		done.Words, done.Differs = done.Words+" It differs from the books: a lead decides.", true
		return done, nil
	}
	return done, settled(ctx, tx, c)
}

// waiting refuses to count what was counted already and waits for a decision.
func waiting(ctx context.Context, q sqlx.QueryerContext, in Count) error {
	var before []struct{ Number, Name string }
	err := sqlx.SelectContext(ctx, q, &before, `
		SELECT c.number, p.name FROM counts c JOIN people p ON p.id = c.counted_by
		 WHERE c.location_id = $1 AND c.item_id = $2 AND c.state = 'counted'`, in.LocationID, in.ItemID)
	if err != nil {
		return fmt.Errorf("reading counts: %w", err)
	}
	if len(before) == 0 {
		return nil
	}
	return refusal.New(refusal.CountWaits, "",
		"It was counted by %s with %s, which waits for a lead. Have it settled, or counted again from there.",
		before[0].Name, before[0].Number).Of(refusal.Conflict)
}

// settled ends what asked for a count.
func settled(ctx context.Context, tx *command.Tx, c counted) error {
	if _, err := tx.ExecContext(ctx, `
		UPDATE count_requests SET settled_at = $3 WHERE location_id = $1 AND item_id = $2 AND state = 'requested'`,
		c.in.LocationID, c.in.ItemID, tx.Now); err != nil {
		return fmt.Errorf("settling a count request: %w", err)
	}
	tx.NotifySite(c.sheet.SiteID, ledger.Topics("audit", "pick", "orders", "row")...)
	return nil
}

// open reads a count that waits for a decision, and compares it anew.
func open(ctx context.Context, q sqlx.QueryerContext, id int64) (counted, string, error) {
	var row struct {
		Number, Sku string
		State       states.Count
		Written     []byte
	}
	if err := sqlx.GetContext(ctx, q, &row, `
		SELECT c.number, i.sku, c.state, c.written FROM counts c JOIN items i ON i.id = c.item_id WHERE c.id = $1`,
		id); err != nil {
		return counted{}, "", documents.Found(err, "count", fmt.Sprint(id))
	}
	if row.State != states.CountCounted {
		return counted{}, "", refusal.New(refusal.CountOver, "", "%s of %s is %s already.", row.Number, row.Sku,
			states.Label(row.State)).Of(refusal.Conflict)
	}
	var in Count
	if err := json.Unmarshal(row.Written, &in); err != nil {
		return counted{}, "", fmt.Errorf("reading %s: %w", row.Number, err)
	}
	c, err := compare(ctx, q, in)
	return c, row.Number, err
}

// planSettle shows what settling a count does.
func planSettle(ctx context.Context, q sqlx.QueryerContext, id int64) (*ledger.Plan, error) {
	c, _, err := open(ctx, q, id)
	if err != nil {
		return nil, err
	}
	return c.plan(ctx, q)
}

// Settle accepts a count that differs, and says why: what differs goes to lost and found, or
// comes from there, and the bin is to be counted no more.
func Settle(ctx context.Context, tx *command.Tx, id int64, reason string) (Done, error) {
	if reason = strings.TrimSpace(reason); people.SaysTooLittle(reason) {
		return Done{}, refusal.New(refusal.ReasonShort, "reason",
			"%q says too little. Write in a few words why the difference is accepted; it stays in the trail.", reason)
	}
	if err := lockBin(ctx, tx, id); err != nil {
		return Done{}, err
	}
	c, number, err := open(ctx, tx, id)
	if err != nil {
		return Done{}, err
	}
	plan, err := c.plan(ctx, tx)
	if err != nil {
		return Done{}, err
	}
	err = documents.Step(ctx, tx, states.Counts, []int64{id}, states.CountAccepted,
		"reason = $4, decided_by = $5, decided_at = $6, variance = $7, value = $8", reason, tx.Person.ID, tx.Now, c.variance, c.value)
	if err != nil {
		return Done{}, err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Count, Document: number, Note: reason},
		plan.MoveList()); err != nil {
		return Done{}, err
	}
	words := fmt.Sprintf("%s is settled: %s of %s are in %s.", number, c.found, c.sheet.SKU, c.sheet.Bin)
	return Done{ID: id, Words: words}, settled(ctx, tx, c)
}

// Again withdraws a count that differs, and has the bin counted again.
func Again(ctx context.Context, tx *command.Tx, id int64) (Done, error) {
	if err := lockBin(ctx, tx, id); err != nil {
		return Done{}, err
	}
	err := documents.Step(ctx, tx, states.Counts, []int64{id}, states.CountWithdrawn,
		"decided_by = $4, decided_at = $5", tx.Person.ID, tx.Now)
	if err != nil {
		return Done{}, err
	}
	var again struct {
		SiteID int32 `db:"site_id"`
		Number string
	}
	err = tx.GetContext(ctx, &again, `
		WITH again AS (
			INSERT INTO count_requests (location_id, item_id, expected, found, raised_by, raised_at)
			SELECT location_id, item_id, found - variance, found, $2, $3 FROM counts c WHERE id = $1
			   AND NOT EXISTS (SELECT FROM count_requests r WHERE r.location_id = c.location_id
			       AND r.item_id = c.item_id AND r.state = 'requested'))
		SELECT site_id, number FROM counts WHERE id = $1`, id, tx.Person.ID, tx.Now)
	if err != nil {
		return Done{}, fmt.Errorf("having a bin counted again: %w", err)
	}
	tx.NotifySite(again.SiteID, "audit", "pick", "row", "floor")
	return Done{ID: id, Words: again.Number + " is withdrawn. The bin is to be counted again."}, nil
}

// lockBin keeps the bin that was counted to the transaction.
func lockBin(ctx context.Context, tx *command.Tx, id int64) error {
	var bin int32
	if err := tx.GetContext(ctx, &bin, `SELECT location_id FROM counts WHERE id = $1`, id); err != nil {
		return documents.Found(err, "count", fmt.Sprint(id))
	}
	return ledger.LockBins(ctx, tx, []int32{bin})
}

// listDiffering reads the counts of a site that wait for a decision.
func listDiffering(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Differing, error) {
	out := []Differing{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT c.id, c.number, c.location_id, p.code AS bin, c.item_id, i.sku, i.description, i.base_unit AS unit, c.found,
		       c.found - c.variance AS expected, c.variance, c.value, e.name AS counted_by, c.counted_at
		  FROM counts c JOIN locations p ON p.id = c.location_id JOIN items i ON i.id = c.item_id
		  JOIN people e ON e.id = c.counted_by
		 WHERE c.site_id = $1 AND c.state = 'counted' ORDER BY c.id`, site)
	if err != nil {
		return nil, fmt.Errorf("listing counts that differ: %w", err)
	}
	return out, nil
}
