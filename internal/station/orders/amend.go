package orders

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/outbound"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"
)

// Amend changes an open order, whatever of it is on the floor. What it wants less is
// given up: reservations are unreserved, stops taken off rounds, and what lies in cartons is put
// down to be returned to stock.
func Amend(ctx context.Context, tx *command.Tx, id int64, in Amended) (Order, error) {
	if err := holdCustomer(ctx, tx, id); err != nil {
		return Order{}, err
	}
	before, err := holdOpen(ctx, tx, id, in.Version, "changed it")
	if err != nil {
		return before, err
	}
	if err := in.Terms.keep(ctx, tx, id); err != nil {
		return before, err
	}
	if err := in.Terms.ask(ctx, tx, before.CustomerID, before); err != nil {
		return before, err
	}
	if before.State == states.Quote && in.QuoteUntil != "" {
		if err := in.Terms.askUntil(in.QuoteUntil, today(tx.Now)); err != nil {
			return before, err
		}
		if err := quoteUntil(ctx, tx, id, in.QuoteUntil); err != nil {
			return before, err
		}
	}
	released, err := before.amendLines(ctx, tx, in)
	if err != nil {
		return before, err
	}
	if err := hasStock(ctx, tx, id); err != nil {
		return before, err
	}
	if err := before.askCredit(ctx, tx, strings.TrimSpace(in.Reason)); err != nil {
		return before, err
	}
	return finish(ctx, tx, id, released)
}

// amendLines changes, adds and removes lines, and says what they gave up on the floor;
// those that are not named stay.
func (o Order) amendLines(ctx context.Context, tx *command.Tx, in Amended) (released []string, err error) {
	w, err := writingOf(ctx, tx, o.CustomerID, o.SiteID, in.Lines, tx.Now)
	if err != nil {
		return nil, err
	}
	named := map[int64]bool{}
	for i, l := range in.Lines {
		if l.ID == 0 {
			if err := w.add(i, l); err != nil {
				return nil, err
			}
			continue
		}
		field := fmt.Sprintf("lines[%d]", i)
		at := slices.IndexFunc(o.Lines, func(b Line) bool { return b.ID == l.ID })
		switch {
		case at < 0:
			return nil, refusal.New(refusal.LineUnknown, field+".id", "That line is not on %s.", o.Number)
		case named[l.ID]:
			return nil, refusal.New(refusal.LineTwice, field+".id",
				"Line %d stands twice. Write its whole quantity once.", o.Lines[at].Line)
		case l.ItemID != o.Lines[at].ItemID:
			return nil, refusal.New(refusal.LineItemStands, field+".item_id",
				"A line keeps its item. Remove line %d and write another.", o.Lines[at].Line)
		}
		named[l.ID] = true
		words, err := w.change(ctx, tx, field, o.Lines[at], l)
		if err != nil {
			return nil, err
		}
		released = append(released, words)
	}
	for i, line := range in.Remove {
		field := fmt.Sprintf("remove[%d]", i)
		switch {
		case !slices.ContainsFunc(o.Lines, func(b Line) bool { return b.ID == line }):
			return nil, refusal.New(refusal.LineUnknown, field, "That line is not on %s.", o.Number)
		case named[line]:
			return nil, refusal.New(refusal.LineTwice, field, "A line is both changed and removed. Say one of them.")
		}
		words, err := reservation.CancelLine(ctx, tx, line)
		if err != nil {
			return nil, err
		}
		released = append(released, words)
	}
	return released, w.write(ctx, tx, o.ID)
}

// askCredit asks again whether the customer may owe more, when a changed order comes to
// more than before: what was accepted once needs no new answer while it wants no more.
func (o Order) askCredit(ctx context.Context, tx *command.Tx, reason string) error {
	if o.State == states.Quote {
		return nil
	}
	c, err := readCustomerBut(ctx, tx, o.CustomerID, o.ID)
	if err != nil {
		return err
	}
	after, err := readOrder(ctx, tx, o.ID)
	if err != nil || !after.Value.GreaterThan(o.Value) {
		return err
	}
	return owing(ctx, tx, o.ID, c, reason)
}

// holdOpen notes the change of an order that is not over yet, and keeps its rounds.
func holdOpen(ctx context.Context, tx *command.Tx, id int64, version int32, what string) (Order, error) {
	if err := documents.Change(ctx, tx, documents.OutboundOrder, id, version, what); err != nil {
		return Order{}, err
	}
	if err := reservation.HoldFloor(ctx, tx, id); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err == nil && (o.State == states.Shipped || o.State == states.Cancelled) {
		return o, refusal.New(refusal.OrderOver, "", "%s is %s. Its lines stay as they are; take another order.",
			o.Number, states.Label(o.State)).Of(refusal.Conflict)
	}
	return o, err
}

// CancelOpen cancels what of an order is not shipped.
func CancelOpen(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	o, err := holdOpen(ctx, tx, id, version, "cancelled the rest")
	if err != nil {
		return o, err
	}
	released, err := reservation.CancelOpen(ctx, tx, id)
	if err != nil {
		return o, err
	}
	return finish(ctx, tx, id, released)
}

// finish lets the order's state follow from its lines, and answers with what was freed.
func finish(ctx context.Context, tx *command.Tx, id int64, released []string) (Order, error) {
	if err := outbound.Settle(ctx, tx, id); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	tx.NotifySite(o.SiteID, ledger.Topics(append(topics, "pick", "pack", "putaway")...)...)
	for _, words := range released {
		if words != "" {
			o.Freed = append(o.Freed, words)
		}
	}
	return o, err
}
