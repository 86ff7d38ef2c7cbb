package receive

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// planVerdict plans what becomes of goods that were inspected: those that passed go to
// the dock they would have stood on, the others to the damaged corner.
func planVerdict(ctx context.Context, q sqlx.QueryerContext, id int64, in Verdict) (Inspection, *ledger.Plan, error) {
	x, err := readInspection(ctx, q, id)
	if err != nil {
		return x, nil, err
	}
	if x.State != "waiting" {
		return x, nil, refusal.New("inspection_over", "", "This was %s already: %s passed, %s failed.", x.State, x.Passed, x.Failed).Of(refusal.Conflict)
	}
	if x.Passed, err = measure.ParseOrZero("passed", in.Passed, measure.Unit{Name: x.Unit, Whole: x.Whole}); err != nil {
		return x, nil, err
	}
	x.Failed = x.Quantity.Sub(x.Passed)
	x.Reason = strings.TrimSpace(in.Reason)
	switch {
	case x.Failed.IsNegative():
		return x, nil, refusal.New("over_inspected", "passed", "%s of %s are to be inspected, not %s.", x.Quantity, x.SKU, x.Passed).With("most", x.Quantity)
	case x.Failed.IsPositive() && saysTooLittle(x.Reason):
		return x, nil, refusal.New("reason_missing", "reason", "%s of %s are not fine: write in a few words what is wrong with them; it stays in the trail.", x.Failed, x.SKU)
	}
	var moves []ledger.Move
	move := ledger.Move{Item: x.ItemID, Lot: x.LotID, From: x.PlaceID, FromState: ledger.Held}
	if x.Passed.IsPositive() {
		move.Quantity, move.To, move.ToState = x.Passed, x.DockID, ledger.Good
		moves = append(moves, move)
	}
	if x.Failed.IsPositive() {
		corner, err := catalog.OnePlace(ctx, q, x.SiteID, "damaged")
		if err != nil {
			return x, nil, err
		}
		move.Quantity, move.To, move.ToState = x.Failed, corner.ID, ledger.Damaged
		moves = append(moves, move)
	}
	plan, err := ledger.Describe(ctx, q, moves, nil)
	if err != nil {
		return x, nil, err
	}
	f, err := ledger.FiguresOf(ctx, q, x.ItemID, x.SiteID)
	if err != nil {
		return x, nil, err
	}
	plan.Changes = append(plan.Changes, ledger.Change{What: x.SKU + " free", Before: f.Free.String(), After: f.Free.Add(x.Passed).String()})
	plan.Button = fmt.Sprintf("Pass %s, fail %s", x.Passed, x.Failed)
	return x, plan, nil
}

// Decide carries the verdict of an inspection out.
func Decide(ctx context.Context, tx *command.Tx, id int64, in Verdict) (Inspection, error) {
	if _, err := tx.ExecContext(ctx, `SELECT 1 FROM inspections WHERE id = $1 FOR UPDATE`, id); err != nil {
		return Inspection{}, fmt.Errorf("holding an inspection: %w", err)
	}
	x, plan, err := planVerdict(ctx, tx, id, in)
	if err != nil {
		return x, err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: "inspect", Document: x.Arrival, Note: x.Reason}, plan.MoveList()); err != nil {
		return x, err
	}
	_, err = tx.ExecContext(ctx, `UPDATE inspections SET state = 'decided', passed = $2, failed = $3, reason = $4, decided_by = $5, decided_at = $6 WHERE id = $1`,
		id, x.Passed, x.Failed, x.Reason, tx.Person.ID, tx.Now)
	if err != nil {
		return x, fmt.Errorf("keeping a verdict: %w", err)
	}
	tx.Touch(ledger.Topics("receive", "putaway", "row")...)
	return readInspection(ctx, tx, id)
}
