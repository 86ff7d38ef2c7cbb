package outbound

import (
	"context"
	"fmt"

	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"
)

// Move moves an order from the state that it is in to another. It is the one writer of an
// order's state after it was made. The order is held; a step that there is not is an error.
func Move(ctx context.Context, tx *command.Tx, order int64, from, to states.Outbound) error {
	if from == to {
		return nil
	}
	return documents.Step(ctx, tx, states.OutboundOrders, []int64{order}, to, "")
}

// Settle lets an order's state follow from its lines: it is over when nothing of them is
// to be shipped any more. The order is held.
func Settle(ctx context.Context, tx *command.Tx, order int64) error {
	var o struct {
		State         states.Outbound
		Open, Shipped bool
	}
	err := tx.GetContext(ctx, &o, `
		SELECT state, EXISTS (SELECT FROM outbound_lines WHERE order_id = o.id AND item_id IS NOT NULL
		       AND shipped + cancelled < quantity) AS open,
		       EXISTS (SELECT FROM outbound_lines WHERE order_id = o.id AND shipped > 0) AS shipped
		  FROM outbound_orders o WHERE id = $1`, order)
	switch {
	case err != nil:
		return fmt.Errorf("reading an order's lines: %w", err)
	case o.Open && o.State == states.Shipped:
		// A shipment of it was taken back.
		return Move(ctx, tx, order, o.State, states.Released)
	case o.Open:
		return nil
	case o.Shipped:
		return Move(ctx, tx, order, o.State, states.Shipped)
	}
	return Move(ctx, tx, order, o.State, states.Cancelled)
}
