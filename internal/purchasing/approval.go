package purchasing

import (
	"context"
	"fmt"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
)

// toApprove tells whether the order comes to more than may be bought unasked, and no lead
// has approved it.
func (o Order) toApprove() bool {
	return o.ApproveAbove != nil && o.Value.GreaterThan(*o.ApproveAbove) && o.ApprovedBy == ""
}

// mayStand refuses an order that a lead has to approve and has not. A lead approves by
// placing it.
func (o Order) mayStand(p people.Person) error {
	if !o.toApprove() {
		return nil
	}
	if leads, err := p.MayLead(); err != nil || leads {
		return err
	}
	if !p.SeesMoney() {
		return refusal.New(refusal.ApprovalMissing, "", "%s comes to more than may be bought unasked: a lead has to approve it first.",
			o.Number).Of(refusal.Conflict)
	}
	return refusal.New(refusal.ApprovalMissing, "", "%s comes to %s, above %s: a lead has to approve it first.",
		o.Number, o.Value, o.ApproveAbove).Of(refusal.Conflict).With("value", o.Value).With("above", *o.ApproveAbove)
}

// approveAtOnce notes that the lead who sends or changes an order approves it by that.
func (o Order) approveAtOnce(ctx context.Context, tx *command.Tx) error {
	if !o.toApprove() {
		return nil
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE purchase_orders SET approved_by = $2, approved_at = $3 WHERE order_id = $1`,
		o.ID, tx.Person.ID, tx.Now); err != nil {
		return fmt.Errorf("approving an order: %w", err)
	}
	return nil
}

// Approve lets an order be placed that comes to more than may be bought unasked.
func Approve(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, version, "approved it"); err != nil {
		return Order{}, err
	}
	result, err := tx.ExecContext(ctx, `
		UPDATE purchase_orders p SET approved_by = $2, approved_at = $3
		  FROM inbound_orders o WHERE o.id = p.order_id AND o.id = $1 AND p.approved_by IS NULL
			    AND o.state <> 'closed'`, id, tx.Person.ID, tx.Now)
	if err != nil {
		return Order{}, fmt.Errorf("approving an order: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return Order{}, refusal.New(refusal.OrderApproved, "",
			"The order is approved already, or closed.").Of(refusal.Conflict)
	}
	o, err := readOrder(ctx, tx, id)
	tx.NotifySite(o.SiteID, topics...)
	return o, err
}
