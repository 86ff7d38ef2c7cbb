package receive

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// planVerdict plans what becomes of goods that were inspected: those that passed go to
// the dock they would have stood on, the others to the damaged corner. By a sampling
// plan, a sample of which too many fail fails all the goods it was taken from.
func planVerdict(ctx context.Context, q sqlx.QueryerContext, id int64, in Verdict) (Inspection, *ledger.Plan, error) {
	x, err := readInspection(ctx, q, id)
	if err != nil {
		return x, nil, err
	}
	if x.State != states.InspectionWaiting {
		return x, nil, refusal.New(refusal.InspectionOver, "", "This was %s already: %s passed, %s failed.",
			states.Label(x.State), x.Passed, x.Failed).Of(refusal.Conflict)
	}
	fine, err := measure.ParseOrZero("passed", in.Passed, measure.Unit{Name: x.Unit, Whole: x.Whole})
	if err != nil {
		return x, nil, err
	}
	bad := x.Sample.Sub(fine)
	x.Reason = strings.TrimSpace(in.Reason)
	switch {
	case bad.IsNegative():
		return x, nil, refusal.New(refusal.OverInspected, "passed", "%s of %s are to be inspected, not %s.", x.Sample,
			x.SKU, fine).With("most", x.Sample)
	case bad.IsPositive() && people.SaysTooLittle(x.Reason):
		return x, nil, refusal.New(refusal.ReasonMissing, "reason",
			"%s of %s are not fine: write in a few words what is wrong with them; it stays in the trail.", bad, x.SKU)
	}
	rejected := x.Accept != nil && bad.GreaterThan(decimal.NewFromInt(int64(*x.Accept)))
	x.Failed = bad
	if rejected {
		x.Failed = x.Quantity
	}
	x.Passed = x.Quantity.Sub(x.Failed)
	passed, failed, err := x.sort(in.Serials, bad, rejected)
	if err != nil {
		return x, nil, err
	}
	moves, err := x.moves(ctx, q, passed, failed)
	if err != nil {
		return x, nil, err
	}
	plan, err := ledger.DescribeOnward(ctx, q, moves)
	if err != nil {
		return x, nil, err
	}
	f, err := ledger.FiguresOf(ctx, q, x.ItemID, x.SiteID)
	if err != nil {
		return x, nil, err
	}
	plan.Changes = append(plan.Changes, ledger.Change{What: x.SKU + " free", Before: f.Free.String(),
		After: f.Free.Add(x.Passed).String()})
	switch {
	case rejected:
		plan.Warnings = append(plan.Warnings,
			fmt.Sprintf("%s of the sample of %s fail, and at most %d may: all %s are refused.", bad, x.Sample,
				*x.Accept, x.Quantity))
	case x.Accept != nil:
		plan.Notes = append(plan.Notes,
			fmt.Sprintf("%s of the sample of %s fail, of at most %d: the delivery passes.", bad, x.Sample, *x.Accept))
	}
	plan.Button = fmt.Sprintf("Pass %s, fail %s", x.Passed, x.Failed)
	return x, plan, nil
}

// sort parts the units that are known by serial into those that pass and those that
// fail.
func (x Inspection) sort(bad []string, count decimal.Decimal, rejected bool) (passed, failed []string, err error) {
	if x.Tracking != receiving.Serial {
		if len(bad) > 0 {
			return nil, nil, refusal.New(refusal.SerialUnwanted, "serials",
				"%s is not known unit by unit here. Leave the serials out.", x.SKU)
		}
		return nil, nil, nil
	}
	if n := len(bad); int64(n) != count.IntPart() {
		return nil, nil, refusal.New(refusal.SerialsTotal, "serials",
			"%s of %s are not fine, and %d serials are named. Scan those that are not fine.", count, x.SKU, n)
	}
	if err := receiving.CheckSerials("serials", x.SKU, bad); err != nil {
		return nil, nil, err
	}
	for _, code := range bad {
		if !slices.Contains(x.Serials, code) {
			return nil, nil, refusal.New(refusal.SerialElsewhere, "serials",
				"Serial %s is not among those to be inspected here: %s.", code, receiving.SerialRanges(x.Serials)).Of(refusal.Conflict)
		}
	}
	for _, code := range x.Serials {
		if rejected || slices.Contains(bad, code) {
			failed = append(failed, code)
		} else {
			passed = append(passed, code)
		}
	}
	return passed, failed, nil
}

func (x Inspection) moves(
	ctx context.Context, q sqlx.QueryerContext, passed, failed []string,
) (moves []ledger.Move, err error) {
	for _, part := range []struct {
		quantity decimal.Decimal
		codes    []string
		state    posting.Condition
	}{{x.Passed, passed, posting.Good}, {x.Failed, failed, posting.Damaged}} {
		if !part.quantity.IsPositive() {
			continue
		}
		move := ledger.Move{Item: x.ItemID, Lot: x.LotID, Quantity: part.quantity, From: x.LocationID,
			FromState: posting.Held, To: x.DockID, ToState: part.state}
		if part.state == posting.Damaged {
			corner, err := catalog.OneLocation(ctx, q, x.SiteID, "damaged")
			if err != nil {
				return nil, err
			}
			move.To = corner.ID
		}
		each, err := serials.Spread(ctx, q, "serials", x.Tracking, x.SKU, move, part.codes)
		if err != nil {
			return nil, err
		}
		moves = append(moves, each...)
	}
	return moves, nil
}

// Decide carries the verdict of an inspection out.
func Decide(ctx context.Context, tx *command.Tx, id int64, in Verdict) (Inspection, error) {
	var covered []int64
	if err := tx.SelectContext(ctx, &covered, `
		SELECT DISTINCT s.order_id FROM receipts b JOIN inbound_lines l ON l.id = b.line_id
		JOIN outbound_lines s ON s.id = l.covers WHERE b.inspection_id = $1`, id); err != nil {
		return Inspection{}, fmt.Errorf("reading what is bought for whom: %w", err)
	}
	if err := documents.Hold(ctx, tx, documents.Share(documents.OutboundOrder, covered...),
		documents.Own(documents.Inspection, id)); err != nil {
		return Inspection{}, err
	}
	x, plan, err := planVerdict(ctx, tx, id, in)
	if err != nil {
		return x, err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Inspect, Document: x.Arrival, Note: x.Reason},
		plan.MoveList()); err != nil {
		return x, err
	}
	err = documents.Step(ctx, tx, states.Inspections, []int64{id}, states.InspectionDecided,
		"passed = $4, failed = $5, reason = $6, decided_by = $7, decided_at = $8", x.Passed, x.Failed, x.Reason, tx.Person.ID, tx.Now)
	if err != nil {
		return x, err
	}
	if err := x.reserveCovered(ctx, tx, plan.MoveList()); err != nil {
		return x, err
	}
	tx.NotifySite(x.SiteID, ledger.Topics("receive", "putaway", "row")...)
	return readInspection(ctx, tx, id)
}

// reserveCovered reserves what passed for the outbound line that it is meant for.
func (x Inspection) reserveCovered(ctx context.Context, tx *command.Tx, moves []ledger.Move) error {
	var covers []int64
	if err := tx.SelectContext(ctx, &covers, `
		SELECT DISTINCT l.covers FROM receipts b JOIN inbound_lines l ON l.id = b.line_id WHERE b.inspection_id = $1
		   AND l.covers IS NOT NULL`, x.ID); err != nil {
		return fmt.Errorf("reading what was bought for whom: %w", err)
	}
	if len(covers) == 0 {
		return nil
	}
	return inbound.ReserveMoved(ctx, tx, &covers[0], moves)
}
