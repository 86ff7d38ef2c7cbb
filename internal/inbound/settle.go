package inbound

import (
	"context"
	"fmt"

	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

// Hold keeps inbound orders alone, with the arrivals that bring their goods; and shares the
// outbound orders that they are meant for, for which what comes is reserved.
func Hold(ctx context.Context, tx *command.Tx, orders ...int64) error {
	if err := documents.Hold(ctx, tx, documents.Own(documents.InboundOrder, orders...)); err != nil {
		return err
	}
	var covered, arrivals []int64
	if err := tx.SelectContext(ctx, &covered, `
		SELECT DISTINCT s.order_id FROM inbound_lines l JOIN outbound_lines s ON s.id = l.covers
		 WHERE l.order_id = ANY($1)`, orders); err != nil {
		return fmt.Errorf("reading what is bought for whom: %w", err)
	}
	if err := tx.SelectContext(ctx, &arrivals, `
		SELECT DISTINCT arrival_id FROM arrival_orders WHERE order_id = ANY($1)`, orders); err != nil {
		return fmt.Errorf("reading the arrivals of orders: %w", err)
	}
	return documents.Hold(ctx, tx, documents.Share(documents.OutboundOrder, covered...),
		documents.Own(documents.Arrival, arrivals...))
}

// Counted is what came on a line in all, and what becomes of the line by that.
type Counted struct {
	Line int64
	receiving.Settlement
}

// Count writes down what came on lines and whether more is expected on them. Their orders
// are held.
func Count(ctx context.Context, tx *command.Tx, counted ...Counted) error {
	if len(counted) == 0 {
		return nil
	}
	ids, closed := make([]int64, len(counted)), make([]bool, len(counted))
	received, cancelled := make([]string, len(counted)), make([]string, len(counted))
	for i, c := range counted {
		ids[i], received[i], closed[i], cancelled[i] = c.Line, c.Received.String(), c.Closes, c.Cancelled.String()
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE inbound_lines l SET received = x.received, closed = x.closed, cancelled = x.cancelled
		  FROM unnest($1::bigint[], $2::text[]::numeric[], $3::bool[], $4::text[]::numeric[]) AS x(id, received,
		    closed, cancelled)
		 WHERE l.id = x.id`, ids, received, closed, cancelled)
	if err != nil {
		return fmt.Errorf("counting what came: %w", err)
	}
	return nil
}

// Lessen has so much less expected on a line: it is settled that it does not come. With nothing left to come the line
// closes. Its order is held.
func Lessen(ctx context.Context, tx *command.Tx, l Line, quantity decimal.Decimal) error {
	if quantity.GreaterThanOrEqual(l.Quantity) {
		return Count(ctx, tx, Counted{Line: l.ID, Settlement: receiving.Settlement{Received: l.Received, Closes: true,
			Cancelled: l.Quantity}})
	}
	l.Quantity = l.Quantity.Sub(quantity)
	if _, err := tx.ExecContext(ctx, `UPDATE inbound_lines SET quantity = $2 WHERE id = $1`, l.ID, l.Quantity); err != nil {
		return fmt.Errorf("lessening what is expected: %w", err)
	}
	return Count(ctx, tx, Counted{Line: l.ID, Settlement: l.After(l.Received)})
}

// Settle lets the states of an order and its arrivals follow from its lines, and lets goods
// into stock that waited for the order to be complete. The order is held.
func Settle(ctx context.Context, tx *command.Tx, order int64) error {
	lines, err := Lines(ctx, tx, order)
	if err != nil {
		return err
	}
	var received []decimal.Decimal
	var closed []bool
	for _, l := range lines {
		if l.Stock() {
			received, closed = append(received, l.Received), append(closed, l.Closed)
		}
	}
	state := receiving.State(received, closed)
	if err := setState(ctx, tx, order, state); err != nil || state != states.Received {
		return err
	}
	if err := Release(ctx, tx, order, "complete"); err != nil {
		return err
	}
	return closeArrivals(ctx, tx, order)
}

// Place opens a draft for goods to come on it. The order is held.
func Place(ctx context.Context, tx *command.Tx, order int64) error {
	return setState(ctx, tx, order, states.Placed)
}

// Close closes an order for good: what is still missing on it is cancelled, what waited for
// it goes into stock, and its arrivals close on which nothing more can come. The order is
// held.
func Close(ctx context.Context, tx *command.Tx, order int64) error {
	_, err := tx.ExecContext(ctx, `
		UPDATE inbound_lines SET closed = true, cancelled = CASE WHEN item_id IS NULL THEN 0
		  ELSE greatest(quantity - received, 0) END
		 WHERE order_id = $1 AND NOT closed`, order)
	if err != nil {
		return fmt.Errorf("closing lines: %w", err)
	}
	if err := setState(ctx, tx, order, states.Closed); err != nil {
		return err
	}
	if err := Release(ctx, tx, order, "closed"); err != nil {
		return err
	}
	return closeArrivals(ctx, tx, order)
}

// setState is the one writer of an order's state after it was made; a closed order stays
// so. A step that there is not is an error.
func setState(ctx context.Context, tx *command.Tx, order int64, s states.Inbound) error {
	var from states.Inbound
	if err := tx.GetContext(ctx, &from, `SELECT state FROM inbound_orders WHERE id = $1`, order); err != nil {
		return fmt.Errorf("reading an order's state: %w", err)
	}
	if from == states.Closed || from == s {
		return nil
	}
	return documents.Step(ctx, tx, states.InboundOrders, []int64{order}, s, "")
}

// closeArrivals closes the open arrivals of an order on which nothing more can come.
func closeArrivals(ctx context.Context, tx *command.Tx, order int64) error {
	var over []int64
	err := tx.SelectContext(ctx, &over, `
		SELECT a.id
		  FROM arrivals a JOIN arrival_orders mine ON mine.arrival_id = a.id AND mine.order_id = $1
		 WHERE a.state = 'open'
		   AND NOT EXISTS (SELECT FROM arrival_orders x JOIN inbound_orders o ON o.id = x.order_id
		                    WHERE x.arrival_id = a.id AND o.state IN ('draft', 'placed', 'partly_received'))`, order)
	if err != nil {
		return fmt.Errorf("finding arrivals that are over: %w", err)
	}
	return documents.Step(ctx, tx, states.Arrivals, over, states.ArrivalDone, "")
}

// EndArrival closes an arrival on which no more comes; one that is closed stays so. The
// arrival is held.
func EndArrival(ctx context.Context, tx *command.Tx, arrival int64) error {
	return stepArrival(ctx, tx, arrival, states.ArrivalOpen, states.ArrivalDone)
}

// OpenArrival opens an arrival again: more may come on it. The arrival is held.
func OpenArrival(ctx context.Context, tx *command.Tx, arrival int64) error {
	return stepArrival(ctx, tx, arrival, states.ArrivalDone, states.ArrivalOpen)
}

// stepArrival moves an arrival where it is in the one state, and leaves it in the other.
func stepArrival(ctx context.Context, tx *command.Tx, arrival int64, from, to states.Arrival) error {
	var ids []int64
	if err := tx.SelectContext(ctx, &ids, `
		SELECT id FROM arrivals WHERE id = $1 AND state = $2`, arrival, from); err != nil {
		return fmt.Errorf("reading an arrival's state: %w", err)
	}
	return documents.Step(ctx, tx, states.Arrivals, ids, to, "")
}
