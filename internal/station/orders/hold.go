package orders

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/outbound"
	"lanternrow/internal/platform/command"
)

// A HoldReason is why somebody put an order on hold. An order without one only waits for
// its release, which a schedule or a bulk step may make; with one it stays until somebody
// releases that very order.
type HoldReason string

// The reasons there are.
const (
	HoldByHand  HoldReason = "hand"
	HoldCredit  HoldReason = "credit"
	HoldPayment HoldReason = "payment"
	HoldAddress HoldReason = "address"
	HoldStock   HoldReason = "stock"
)

// asksMoney tells whether the hold is one until the customer's money is settled.
func (r HoldReason) asksMoney() bool { return r == HoldCredit || r == HoldPayment }

// OnHold is a hold as it is entered.
type OnHold struct {
	Hold HoldReason `json:"reason" enum:"hand,credit,payment,address,stock"`
	Note string     `json:"note,omitempty" maxLength:"200"`
}

// Hold puts an order on hold, as long as nothing of it is on a round or in a carton; one
// that waits for its release is given the reason.
func Hold(ctx context.Context, tx *command.Tx, id int64, version int32, h OnHold) (Order, error) {
	if err := documents.Change(ctx, tx, documents.OutboundOrder, id, version, "put it on hold"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err != nil {
		return o, err
	}
	switch {
	case o.State != states.Released && o.State != states.OnHold:
		return o, refusal.New(refusal.OrderNotReleased, "",
			"%s is %s. Only an order that is released, or waits for it, can be put on hold.", o.Number, states.Label(o.State)).Of(refusal.Conflict)
	case o.Planned.Add(o.Picked).Add(o.Shipped).IsPositive():
		return o, refusal.New(refusal.OrderOnTheFloor, "",
			"%s is on the floor already: %s are on a round, %s in cartons, %s shipped. Dissolve its round, or bring it "+
				"to the bench first.", o.Number, o.Planned, o.Picked, o.Shipped).Of(refusal.Conflict)
	}
	if o.State == states.Released {
		if err := outbound.Move(ctx, tx, id, o.State, states.OnHold); err != nil {
			return o, err
		}
	}
	if err := h.keep(ctx, tx, id); err != nil {
		return o, err
	}
	tx.NotifySite(o.SiteID, append(topics, "pick")...)
	return readOrder(ctx, tx, id)
}

// keep notes why an order is on hold, and who says so.
func (h OnHold) keep(ctx context.Context, tx *command.Tx, order int64) error {
	_, err := tx.ExecContext(ctx, `
		UPDATE sales_orders SET hold = $2, hold_note = $3, held_by = $4, held_at = $5 WHERE order_id = $1`,
		order, h.Hold, strings.TrimSpace(h.Note), tx.Person.ID, tx.Now)
	if err != nil {
		return fmt.Errorf("noting why an order is on hold: %w", err)
	}
	return nil
}

// Lifting is how an order on hold is released: that very one, or with others.
type Lifting struct {
	// Alone is true for one that somebody looked at: what is said of its hold is settled.
	Alone bool
	// Reason is why a lead releases it though its customer's money is not settled.
	Reason string
}

// lift ends the hold of an order that is about to be released. Its customer is held.
func (l Lifting) lift(ctx context.Context, tx *command.Tx, o Order) error {
	if o.Hold == "" {
		return nil
	}
	if !l.Alone {
		return refusal.New(refusal.OrderHeld, "", "%s put %s on hold: %s. Release it by itself.", o.HeldBy, o.Number,
			strings.TrimSuffix(fmt.Sprintf("%s, %s", o.Hold, o.HoldNote), ", ")).Of(refusal.Conflict)
	}
	if o.Hold.asksMoney() && o.Owing == "" {
		c, err := readCustomer(ctx, tx, o.CustomerID)
		if err != nil {
			return err
		}
		if err := owing(ctx, tx, o.ID, c, strings.TrimSpace(l.Reason)); err != nil {
			return err
		}
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE sales_orders SET hold = '', hold_note = '', held_by = NULL, held_at = NULL WHERE order_id = $1`, o.ID)
	if err != nil {
		return fmt.Errorf("ending the hold of an order: %w", err)
	}
	return nil
}

// releaseMarked releases orders, all of them or none: one alone whatever its hold, several
// only where nobody put any of them on hold.
func releaseMarked(ctx context.Context, tx *command.Tx, marked []Marked, l Lifting) ([]Order, error) {
	l.Alone = l.Alone && len(marked) == 1
	if l.Alone {
		if err := holdCustomer(ctx, tx, marked[0].ID); err != nil {
			return nil, err
		}
	}
	return each(ctx, tx, marked, func(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
		return Release(ctx, tx, id, version, l)
	})
}
