package returns

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/platform/command"
)

// leave leaves the goods of a return with the customer for good: none are expected from then on. The order is held.
func leave(ctx context.Context, tx *command.Tx, id int64) error {
	if _, err := tx.ExecContext(ctx, `
		UPDATE return_lines r SET kept = l.quantity FROM inbound_lines l WHERE l.id = r.line_id AND l.order_id = $1`,
		id); err != nil {
		return fmt.Errorf("leaving goods with a customer: %w", err)
	}
	return inbound.Close(ctx, tx, id)
}

// Approve lets the goods of a return come, or stay with the customer.
func Approve(ctx context.Context, tx *command.Tx, id int64, version int32) (Return, error) {
	o, err := change(ctx, tx, id, version, "approved it")
	if err != nil {
		return o, err
	}
	if o.State != states.ReturnAsked {
		return o, refusal.New(refusal.ReturnOver, "", "%s is %s: it waits for nobody to approve it.", o.Number,
			states.Label(o.State)).Of(refusal.Conflict)
	}
	if err := inbound.Place(ctx, tx, id); err != nil {
		return o, err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE returns SET approved_by = $2, approved_at = $3 WHERE order_id = $1`, id, tx.Person.ID, tx.Now); err != nil {
		return o, fmt.Errorf("noting who approved a return: %w", err)
	}
	if o.GoodsStay {
		if err := leave(ctx, tx, id); err != nil {
			return o, err
		}
	}
	tx.NotifySite(o.SiteID, topics...)
	return give(ctx, tx, id)
}

// Withdraw expects nothing more on a return: what did not come is with the customer for good.
func Withdraw(ctx context.Context, tx *command.Tx, id int64, version int32) (Return, error) {
	o, err := change(ctx, tx, id, version, "expects nothing more on it")
	if err != nil {
		return o, err
	}
	if !slices.Contains([]states.Return{states.ReturnAsked, states.ReturnAnnounced, states.ReturnPartlyReceived}, o.State) {
		return o, refusal.New(refusal.ReturnOver, "", "%s is %s: nothing more is expected on it.", o.Number,
			states.Label(o.State)).Of(refusal.Conflict)
	}
	if o.SettledAt != nil && o.Received.LessThan(o.Expected) {
		return o, refusal.New(refusal.ReturnSettled, "",
			"%s is settled over %s, and %s came. Ask the customer for the rest.", o.Number, o.Expected, o.Received).Of(refusal.Conflict)
	}
	if err := inbound.Close(ctx, tx, id); err != nil {
		return o, err
	}
	tx.NotifySite(o.SiteID, topics...)
	return give(ctx, tx, id)
}

// change holds a return for a change of it.
func change(ctx context.Context, tx *command.Tx, id int64, version int32, what string) (Return, error) {
	if err := inbound.Hold(ctx, tx, id); err != nil {
		return Return{}, err
	}
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, version, what); err != nil {
		return Return{}, err
	}
	return Read(ctx, tx, id)
}
