package receive

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/labels"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
)

// undoPlan takes one receipt back.
type undoPlan struct {
	*ledger.Plan
	Receipt
	settlement receiving.Settlement
}

// planUndo plans the move that takes a receipt back, while the goods still stand
// where they were received.
func planUndo(ctx context.Context, q sqlx.QueryerContext, arrival, move int64) (*undoPlan, error) {
	a, err := readArrival(ctx, q, arrival)
	if err != nil {
		return nil, err
	}
	out := &undoPlan{}
	for _, b := range a.Receipts {
		if b.MoveID == move {
			out.Receipt = b
		}
	}
	switch {
	case out.MoveID == 0:
		return nil, refusal.New(refusal.ReceiptUnknown, "move_id", "That was not received on %s.", a.Number)
	case out.UndoneAt != nil:
		return nil, refusal.New(refusal.UndoneAlready, "move_id", "This was taken back already: %s.",
			out.Reason).Of(refusal.Conflict)
	}
	line := lineByID(a.Lines, out.LineID)
	order := a.Orders[slices.IndexFunc(a.Orders, func(o inbound.Order) bool { return o.ID == line.OrderID })]
	if order.State == states.Closed {
		return nil, refusal.New(refusal.OrderClosed, "",
			"%s is closed. What came on it stays; move the goods, or send them back.", order.Number).Of(refusal.Conflict)
	}
	if err := order.MayTakeBack(ctx, q, line, out.Quantity); err != nil {
		return nil, err
	}
	after := line.Received.Sub(out.Quantity)
	out.settlement = line.After(after)
	back := ledger.Move{Item: line.ItemID, Lot: out.LotID, Quantity: out.Quantity, From: out.LocationID,
		FromBox: out.CartonID, FromState: out.Condition, To: a.SourceID, Cost: &out.UnitCost}
	moves, err := serials.Spread(ctx, q, "move_id", out.Tracking, line.SKU, back, out.Serials)
	if r := refusal.From(err); r != nil && r.Code == refusal.SerialElsewhere {
		return nil, refusal.New(refusal.GoodsGone, "move_id", "%s Bring it back there first.",
			r.Sentence).Of(refusal.Conflict)
	}
	if err != nil {
		return nil, err
	}
	out.Plan, err = ledger.Describe(ctx, q, moves)
	if short := (*ledger.Shortage)(nil); errors.As(err, &short) && short.Have.LessThan(out.Quantity) {
		where, err := catalog.LocationByID(ctx, q, out.LocationID)
		if err != nil {
			return nil, err
		}
		return nil, refusal.New(refusal.GoodsGone, "move_id",
			"%s holds %s of %s, and %s were received. Bring them back there first, or count what is on the shelf.",
			where.Code, short.Have, line.SKU, out.Quantity).Of(refusal.Conflict)
	}
	if err != nil {
		return nil, err
	}
	out.Changes = append(out.Changes, ledger.Change{What: fmt.Sprintf("%s line %d", line.Order, line.Number),
		Before: line.Received.String() + " of " + line.Quantity.String(), After: after.String() + " of " +
			line.Quantity.String()})
	out.Button = fmt.Sprintf("Take %s of %s back", out.Quantity, line.SKU)
	return out, nil
}

// Undo takes a receipt back by a counter-move. The trail shows both.
func Undo(ctx context.Context, tx *command.Tx, arrival int64, in UndoReceipt) (Arrival, error) {
	reason := strings.TrimSpace(in.Reason)
	if people.SaysTooLittle(reason) {
		return Arrival{}, refusal.New(refusal.ReasonMissing, "reason",
			"Write in a few words why this is taken back; it stays in the trail.")
	}
	orders, err := hold(ctx, tx, arrival, in.Version, "took a receipt back")
	if err != nil {
		return Arrival{}, err
	}
	plan, err := planUndo(ctx, tx, arrival, in.MoveID)
	if err != nil {
		return Arrival{}, err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.ReverseReceipt, Document: plan.Document,
		Note: reason}, plan.MoveList()); err != nil {
		return Arrival{}, err
	}
	// All moves of the receipt go together: its units came as one.
	if _, err := tx.ExecContext(ctx, `
		UPDATE receipts SET undone_at = $2, undone_by = $3, reason = $4 WHERE move_id = ANY($1)`,
		plan.moves, tx.Now, tx.Person.ID, reason); err != nil {
		return Arrival{}, fmt.Errorf("noting that a receipt is undone: %w", err)
	}
	if err := withdrawInspection(ctx, tx, in.MoveID); err != nil {
		return Arrival{}, err
	}
	if err := withdrawLabels(ctx, tx, arrival, plan.Receipt); err != nil {
		return Arrival{}, err
	}
	if err := inbound.Count(ctx, tx, inbound.Counted{Line: plan.LineID, Settlement: plan.settlement}); err != nil {
		return Arrival{}, err
	}
	for _, order := range orders {
		if err := inbound.Settle(ctx, tx, order); err != nil {
			return Arrival{}, err
		}
	}
	// More may come on it again.
	if err := inbound.OpenArrival(ctx, tx, arrival); err != nil {
		return Arrival{}, err
	}
	a, err := showArrival(ctx, tx, arrival)
	tx.NotifySite(a.SiteID, ledger.Topics("receive", "putaway", "row")...)
	return a, err
}

// withdrawInspection ends the inspection that a receipt waits for, if any.
func withdrawInspection(ctx context.Context, tx *command.Tx, move int64) error {
	var waiting []int64
	err := tx.SelectContext(ctx, &waiting, `
		SELECT i.id FROM receipts r JOIN inspections i ON i.id = r.inspection_id
		 WHERE r.move_id = $1 AND i.state = 'waiting'`, move)
	if err != nil {
		return fmt.Errorf("looking for an inspection: %w", err)
	}
	return documents.Step(ctx, tx, states.Inspections, waiting, states.InspectionWithdrawn, "")
}

// withdrawLabels takes the labels of goods that were taken back out of the printer's
// queue, unless others of the same kind came with them.
func withdrawLabels(ctx context.Context, tx *command.Tx, arrival int64, b Receipt) error {
	var left int
	err := tx.GetContext(ctx, &left, `
		SELECT count(*) FROM receipts b JOIN moves m ON m.id = b.move_id WHERE b.arrival_id = $1 AND b.line_id = $2
		   AND m.lot_id IS NOT DISTINCT FROM $3 AND b.undone_at IS NULL`, arrival, b.LineID, b.LotID)
	if err != nil {
		return fmt.Errorf("reading receipts: %w", err)
	}
	if left > 0 {
		return nil
	}
	return labels.Withdraw(ctx, tx, b.Document, b.SKU, b.Lot, b.Serials)
}
