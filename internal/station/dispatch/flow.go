package dispatch

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/shipping"

	"github.com/jmoiron/sqlx"
)

// requestOf is an order with all its packed cartons, or with those on a vehicle.
func requestOf(order int64, load *int64, terms shipping.Terms) shipping.Request {
	return shipping.Request{Order: order, Load: load, Terms: terms, Cartons: func(ctx context.Context,
		q sqlx.QueryerContext) ([]cartons.Carton, error) {
		if load == nil {
			return cartons.OfOrder(ctx, q, order, "packed")
		}
		loaded, err := cartons.OfOrder(ctx, q, order, "loaded")
		return slices.DeleteFunc(loaded, func(c cartons.Carton) bool {
			return c.LoadID == nil ||
				*c.LoadID != *load
		}), err
	}}
}

// Ship ships an order's packed cartons: the goods leave stock, and the delivery note
// exists.
func Ship(ctx context.Context, tx *command.Tx, order int64, terms shipping.Terms) (shipping.Shipment, error) {
	return shipping.Ship(ctx, tx, requestOf(order, nil, terms))
}

// ShipMany ships several orders of one carrier in one step, or none when one refuses.
func ShipMany(ctx context.Context, tx *command.Tx, orders []int64, terms shipping.Terms) ([]shipping.Shipment, error) {
	if _, err := oneCarrier(ctx, tx, orders); err != nil {
		return nil, err
	}
	slices.Sort(orders)
	orders = slices.Compact(orders)
	requests := make([]shipping.Request, len(orders))
	for i, id := range orders {
		requests[i] = requestOf(id, nil, terms)
	}
	if err := shipping.HoldAll(ctx, tx, requests...); err != nil {
		return nil, err
	}
	return command.Each(tx, orders, func(id int64) (shipping.Shipment, error) { return Ship(ctx, tx, id, terms) })
}

// oneCarrier is the carrier of these orders, which must be one.
func oneCarrier(ctx context.Context, q sqlx.QueryerContext, orders []int64) (string, error) {
	var carriers []string
	if err := sqlx.SelectContext(ctx, q, &carriers, `
		SELECT DISTINCT carrier FROM outbound_orders WHERE id = ANY($1) ORDER BY 1`, orders); err != nil {
		return "", fmt.Errorf("reading carriers: %w", err)
	}
	if len(carriers) != 1 {
		return "", refusal.New(refusal.OtherCarrier, "order_ids",
			"These go with %s. Ship those of one carrier at a time.", strings.Join(carriers, " and ")).Of(refusal.Conflict)
	}
	return carriers[0], nil
}

// planMany shows what shipping several orders of one carrier does.
func planMany(
	ctx context.Context, q sqlx.QueryerContext, orders []int64, terms shipping.Terms,
) (*shipping.Plan, error) {
	carrier, err := oneCarrier(ctx, q, orders)
	if err != nil {
		return nil, err
	}
	plan := shipping.NewPlan()
	slices.Sort(orders)
	orders = slices.Compact(orders)
	for _, id := range orders {
		p, err := shipping.Preview(ctx, q, requestOf(id, nil, terms))
		if err != nil {
			return nil, err
		}
		plan.Add(p)
	}
	plan.Button = fmt.Sprintf("Ship %s with %s", measure.Count(len(orders), "order"), carrier)
	return plan, nil
}
