package orders

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/carriers"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/outbound"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

var topics = []string{"orders", "stock", "row"}

// Create takes an order, on hold or released at once, or writes a quote, which asks nothing of
// stock.
func Create(ctx context.Context, tx *command.Tx, in NewOrder) (Order, error) {
	customer, err := readCustomer(ctx, tx, in.CustomerID)
	if err != nil {
		return Order{}, err
	}
	state, change := in.begins()
	if in.Carrier == "" {
		in.Carrier = customer.Carrier
	}
	var id int64
	id, err = outbound.Create(ctx, tx, outbound.New{
		Kind: outbound.Sale, SiteID: in.SiteID, PartyID: in.CustomerID, DestinationID: customer.Location, State: state, Change: change})
	if err != nil {
		return Order{}, err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO sales_orders (order_id, customer_id) VALUES ($1, $2)`, id, in.CustomerID); err != nil {
		return Order{}, fmt.Errorf("writing a sales order: %w", err)
	}
	if err := in.Terms.keep(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := in.Terms.ask(ctx, tx, in.CustomerID, Order{ID: id}); err != nil {
		return Order{}, err
	}
	if state == states.Quote {
		if err := in.Terms.askUntil(in.QuoteUntil, today(tx.Now)); err != nil {
			return Order{}, err
		}
		if err := quoteUntil(ctx, tx, id, in.QuoteUntil); err != nil {
			return Order{}, err
		}
	}
	if err := in.writeLines(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := hasStock(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if in.Hold != nil {
		if err := in.Hold.keep(ctx, tx, id); err != nil {
			return Order{}, err
		}
	}
	// What is on hold until the money is settled is asked about when it is released.
	if state != states.Quote && !(in.Hold != nil && in.Hold.Hold.asksMoney()) {
		if err := owing(ctx, tx, id, customer, strings.TrimSpace(in.Reason)); err != nil {
			return Order{}, err
		}
	}
	tx.NotifySite(in.SiteID, topics...)
	return readOrder(ctx, tx, id)
}

// begins is the state that an order begins in, and how that is told.
func (in NewOrder) begins() (states.Outbound, string) {
	switch {
	case in.QuoteUntil != "":
		return states.Quote, "wrote the quote"
	case in.Hold != nil:
		return states.OnHold, "took it, on hold"
	case in.Release:
		return states.Released, "took and released it"
	}
	return states.OnHold, "took it"
}

// writeLines writes the lines of an order that is new.
func (in NewOrder) writeLines(ctx context.Context, tx *command.Tx, order int64) error {
	w, err := writingOf(ctx, tx, in.CustomerID, in.SiteID, in.Lines, tx.Now)
	if err != nil {
		return err
	}
	for i, l := range in.Lines {
		if err := w.add(i, l); err != nil {
			return err
		}
	}
	return w.write(ctx, tx, order)
}

// keep writes the terms of an order.
func (t Terms) keep(ctx context.Context, tx *command.Tx, order int64) error {
	wanted, err := documents.Day("wanted_on", t.WantedOn)
	if err != nil {
		return err
	}
	if err := carriers.RequireOn(ctx, tx, carriers.Outbound, order, t.Carrier); err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		UPDATE outbound_orders SET wanted_on = $2, reference = $3, carrier = $4, note = $5 WHERE id = $1`,
		order, wanted, t.Reference, t.Carrier, t.Note)
	if err != nil {
		return fmt.Errorf("writing an order's terms: %w", err)
	}
	return nil
}

// quoteUntil sets the last day on which a quote's prices stand.
func quoteUntil(ctx context.Context, tx *command.Tx, order int64, day string) error {
	until, err := documents.Day("quote_until", day)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE sales_orders SET quote_until = $2 WHERE order_id = $1`, order, until); err != nil {
		return fmt.Errorf("setting a quote's last day: %w", err)
	}
	return nil
}

// hasStock refuses an order that nothing would be shipped for.
func hasStock(ctx context.Context, tx *command.Tx, order int64) error {
	var n int
	if err := tx.GetContext(ctx, &n, `
		SELECT count(*) FROM outbound_lines WHERE order_id = $1 AND item_id IS NOT NULL`, order); err != nil {
		return fmt.Errorf("counting lines: %w", err)
	}
	if n == 0 {
		return refusal.New(refusal.LinesMissing, "lines",
			"The order has no line that goods are shipped for. Add what is wanted.")
	}
	return nil
}

// owing asks about a customer who owes money beyond its time, or would owe more than it
// may with this order. Whoever may say yes says why, and it is kept.
func owing(ctx context.Context, tx *command.Tx, order int64, c customer, reason string) error {
	code, said := refusal.CustomerOwes, []string{}
	after := c.Open.Add(c.Overdue)
	if c.Overdue.IsPositive() {
		said = append(said, fmt.Sprintf("%s owes %s beyond its time.", c.Name, c.Overdue.StringFixed(2)))
	}
	if c.Limit != nil {
		var this decimal.Decimal
		if err := tx.GetContext(ctx, &this, `
			SELECT coalesce(sum((quantity - cancelled - shipped) * price), 0) FROM outbound_lines
			  JOIN sales_lines ON line_id = id WHERE order_id = $1`, order); err != nil {
			return fmt.Errorf("calculating an order's value: %w", err)
		}
		if after = after.Add(this); after.GreaterThan(*c.Limit) {
			if len(said) == 0 {
				code = refusal.CreditLimit
			}
			said = append(said, fmt.Sprintf("With this order %s comes to %s that is open, above its limit of %s.", c.Name,
				after.StringFixed(2), c.Limit.StringFixed(2)))
		}
	}
	if len(said) == 0 {
		return nil
	}
	question := refusal.New(code, "reason", "%s A lead may take the order all the same, and says why; or put it on hold.",
		strings.Join(said, " ")).With("overdue", c.Overdue).With("open", after)
	if err := people.Decide(ctx, "order", reason, question); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE sales_orders SET owing = $2, owing_by = $3 WHERE order_id = $1`,
		order, reason, tx.Person.ID); err != nil {
		return fmt.Errorf("keeping why an order was taken: %w", err)
	}
	return nil
}

// Accept makes an order of a quote, on hold until somebody releases it. Prices that ran out
// are refused.
func Accept(ctx context.Context, tx *command.Tx, id int64, in Accepting) (Order, error) {
	if err := holdCustomer(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := documents.Change(ctx, tx, documents.OutboundOrder, id, in.Version, "made an order of it"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	switch {
	case err != nil:
		return o, err
	case o.State != states.Quote:
		return o, refusal.New(refusal.OrderNoQuote, "", "%s is %s, and no quote any more.", o.Number,
			states.Label(o.State)).Of(refusal.Conflict)
	case o.QuoteUntil != nil && *o.QuoteUntil < tx.Now.UTC().Format(time.DateOnly):
		return o, refusal.New(refusal.QuoteOver, "",
			"The prices of %s stood until %s. Change its last day first, if they still do.", o.Number, *o.QuoteUntil).Of(refusal.Conflict)
	}
	c, err := readCustomer(ctx, tx, o.CustomerID)
	if err != nil {
		return o, err
	}
	if err := owing(ctx, tx, id, c, strings.TrimSpace(in.Reason)); err != nil {
		return o, err
	}
	if err := outbound.Move(ctx, tx, id, o.State, states.OnHold); err != nil {
		return o, err
	}
	tx.NotifySite(o.SiteID, topics...)
	return readOrder(ctx, tx, id)
}

// Release releases an order on hold.
func Release(ctx context.Context, tx *command.Tx, id int64, version int32, l Lifting) (Order, error) {
	if err := documents.Change(ctx, tx, documents.OutboundOrder, id, version, "release it"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err != nil {
		return Order{}, err
	}
	if o.State != states.OnHold {
		return Order{}, refusal.New(refusal.OrderNotOnHold, "",
			"The order is not on hold: it is a quote, was released before, or is over.").Of(refusal.Conflict)
	}
	if err := l.lift(ctx, tx, o); err != nil {
		return Order{}, err
	}
	if err := outbound.Move(ctx, tx, id, o.State, states.Released); err != nil {
		return Order{}, err
	}
	tx.NotifySite(o.SiteID, append(topics, "pick")...)
	return readOrder(ctx, tx, id)
}
