package dispatch

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/deliveries"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// sendingOf is an order with all its packed cartons, or with those on a vehicle.
func sendingOf(order int64, load *int64, terms deliveries.Terms) deliveries.Sending {
	return deliveries.Sending{Order: order, Load: load, Terms: terms, Cartons: func(ctx context.Context, q sqlx.QueryerContext) ([]cartons.Carton, error) {
		if load == nil {
			return cartons.OfOrder(ctx, q, order, "packed")
		}
		loaded, err := cartons.OfOrder(ctx, q, order, "loaded")
		return slices.DeleteFunc(loaded, func(c cartons.Carton) bool { return c.LoadID == nil || *c.LoadID != *load }), err
	}}
}

// Send sends an order's packed cartons: the goods leave stock, and the delivery note
// exists.
func Send(ctx context.Context, tx *command.Tx, order int64, terms deliveries.Terms) (deliveries.Delivery, error) {
	return deliveries.Send(ctx, tx, sendingOf(order, nil, terms))
}

// SendMany sends several orders of one carrier in one step, or none when one refuses.
func SendMany(ctx context.Context, tx *command.Tx, orders []int64, terms deliveries.Terms) ([]deliveries.Delivery, error) {
	var carriers []string
	if err := tx.SelectContext(ctx, &carriers, `SELECT DISTINCT carrier FROM outbound_orders WHERE id = ANY($1) ORDER BY 1`, orders); err != nil {
		return nil, fmt.Errorf("reading carriers: %w", err)
	}
	if len(carriers) > 1 {
		return nil, refusal.New("other_carrier", "order_ids", "These go with %s. Send those of one carrier at a time.", strings.Join(carriers, " and ")).Of(refusal.Conflict)
	}
	slices.Sort(orders)
	orders = slices.Compact(orders)
	sendings := make([]deliveries.Sending, len(orders))
	for i, id := range orders {
		sendings[i] = sendingOf(id, nil, terms)
	}
	if err := deliveries.HoldAll(ctx, tx, sendings...); err != nil {
		return nil, err
	}
	out := []deliveries.Delivery{}
	for _, id := range orders {
		d, err := Send(ctx, tx, id, terms)
		if err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	return out, nil
}
