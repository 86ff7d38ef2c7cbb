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
func sendingOf(ctx context.Context, q sqlx.QueryerContext, order int64, load *int64, terms deliveries.Terms) (deliveries.Sending, error) {
	s := deliveries.Sending{Order: order, Load: load, Terms: terms}
	state := "packed"
	if load != nil {
		state = "loaded"
	}
	var err error
	if s.Cartons, err = cartons.OfOrder(ctx, q, order, state); err != nil {
		return s, err
	}
	if load != nil {
		s.Cartons = slices.DeleteFunc(s.Cartons, func(c cartons.Carton) bool { return c.LoadID == nil || *c.LoadID != *load })
	}
	return s, nil
}

func planSend(ctx context.Context, q sqlx.QueryerContext, order int64, load *int64, terms deliveries.Terms) (*deliveries.Plan, error) {
	s, err := sendingOf(ctx, q, order, load, terms)
	if err != nil {
		return nil, err
	}
	return deliveries.Look(ctx, q, s)
}

// Send sends an order's packed cartons: the goods leave stock, and the delivery note
// exists.
func Send(ctx context.Context, tx *command.Tx, order int64, terms deliveries.Terms) (deliveries.Delivery, error) {
	return send(ctx, tx, order, nil, terms)
}

func send(ctx context.Context, tx *command.Tx, order int64, load *int64, terms deliveries.Terms) (deliveries.Delivery, error) {
	if err := deliveries.MayBill(tx.Person.Role, terms); err != nil {
		return deliveries.Delivery{}, err
	}
	s, err := sendingOf(ctx, tx, order, load, terms)
	if err != nil {
		return deliveries.Delivery{}, err
	}
	return deliveries.Send(ctx, tx, s)
}

// SendMany sends several orders of one carrier in one step, or none when one refuses.
func SendMany(ctx context.Context, tx *command.Tx, orders []int64, terms deliveries.Terms) ([]deliveries.Delivery, error) {
	var carriers []string
	if err := tx.SelectContext(ctx, &carriers, `SELECT DISTINCT carrier FROM sales_orders WHERE id = ANY($1) ORDER BY 1`, orders); err != nil {
		return nil, fmt.Errorf("reading carriers: %w", err)
	}
	if len(carriers) > 1 {
		return nil, refusal.New("other_carrier", "order_ids", "These go with %s. Send those of one carrier at a time.", strings.Join(carriers, " and ")).Of(refusal.Conflict)
	}
	slices.Sort(orders)
	out := []deliveries.Delivery{}
	for _, id := range slices.Compact(orders) {
		d, err := Send(ctx, tx, id, terms)
		if err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	return out, nil
}
