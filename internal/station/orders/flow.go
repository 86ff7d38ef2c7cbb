package orders

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/availability"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/pricing"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/outbound"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
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
	state, change := states.OnHold, "took it"
	switch {
	case in.QuoteUntil != "":
		state, change = states.Quote, "wrote the quote"
	case in.Release:
		state, change = states.Released, "took and released it"
	}
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
	if state == states.Quote {
		if err := quoteUntil(ctx, tx, id, in.QuoteUntil); err != nil {
			return Order{}, err
		}
	}
	for i, l := range in.Lines {
		if err := addLine(ctx, tx, id, in.CustomerID, in.SiteID, i, l); err != nil {
			return Order{}, err
		}
	}
	if err := hasStock(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if state != states.Quote {
		if err := owing(ctx, tx, id, customer, strings.TrimSpace(in.Reason)); err != nil {
			return Order{}, err
		}
	}
	tx.Notify(topics...)
	return readOrder(ctx, tx, id)
}

// keep writes the terms of an order.
func (t Terms) keep(ctx context.Context, tx *command.Tx, order int64) error {
	wanted, err := documents.Day("wanted_on", t.WantedOn)
	if err != nil {
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

func addLine(ctx context.Context, tx *command.Tx, order int64, customer, site int32, i int, l NewLine) error {
	field := fmt.Sprintf("lines[%d]", i)
	var item catalog.Item
	unit := measure.Unit{}
	text := strings.TrimSpace(l.Text)
	if l.ItemID != 0 {
		var err error
		item, err = catalog.ItemByID(ctx, tx, l.ItemID)
		unknown := refusal.New(refusal.ItemUnknown, field+".item_id",
			"Line %d has no item. Find one by SKU, GTIN or words.", i+1)
		if err := documents.FoundOr(err, unknown); err != nil {
			return err
		}
		if !item.Sold {
			return refusal.New(refusal.ItemNotSold, field+".item_id",
				"%s is not an item that is sold. Change that in the catalog first, or leave it out.", item.SKU)
		}
		if err := catalog.Allowed(ctx, tx, field+".item_id", item, site); err != nil {
			return err
		}
		unit = item.Unit()
	} else if text == "" {
		return refusal.New(refusal.ItemUnknown, field+".item_id",
			"Line %d has no item. Find one by SKU, GTIN or words, or write what it is, such as freight.", i+1)
	}
	quantity, err := measure.Parse(field+".quantity", l.Quantity, unit)
	if err != nil {
		return err
	}
	price, err := priceOf(ctx, tx, field+".price", customer, item.ID, l.Price)
	if err != nil {
		return err
	}
	line, err := outbound.AddLine(ctx, tx, order, item.ID, text, quantity)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO sales_lines (line_id, price, price_source, price_why) VALUES ($1, $2, $3, $4)`,
		line, price.Amount, price.Source, price.Why)
	if err != nil {
		return fmt.Errorf("writing an order line: %w", err)
	}
	return nil
}

// priceOf is what a base unit costs the customer: as it was entered, or by its terms. A
// charge costs what is entered.
func priceOf(
	ctx context.Context, tx *command.Tx, field string, customer, item int32, entered string,
) (p pricing.Price, err error) {
	p = pricing.Price{Source: pricing.Typed, Why: "as entered"}
	if entered != "" {
		if p.Amount, err = measure.ParsePrice(field, entered); err != nil {
			return p, err
		}
	}
	if item == 0 {
		return p, nil
	}
	terms, err := priceTerms(ctx, tx, customer, item)
	if err != nil {
		return p, err
	}
	if entered == "" {
		return terms.On(field, today(tx.Now))
	}
	return terms.Entered(p.Amount, today(tx.Now)), nil
}

// owing asks about a customer who owes money beyond its time, or would owe more than it
// may with this order. Whoever may say yes says why, and it is kept.
func owing(ctx context.Context, tx *command.Tx, order int64, c customer, reason string) error {
	var question error
	switch after := c.Open.Add(c.Overdue); {
	case c.Overdue.IsPositive():
		question = refusal.New(refusal.CustomerOwes, "reason",
			"%s owes %s beyond its time. A lead may take the order all the same, and says why.", c.Name, c.Overdue.StringFixed(2)).With("overdue", c.Overdue)
	case c.Limit != nil:
		var this decimal.Decimal
		if err := tx.GetContext(ctx, &this, `
			SELECT coalesce(sum((quantity - cancelled - shipped) * price), 0) FROM outbound_lines
			  JOIN sales_lines ON line_id = id WHERE order_id = $1`, order); err != nil {
			return fmt.Errorf("calculating an order's value: %w", err)
		}
		if after = after.Add(this); after.GreaterThan(*c.Limit) {
			question = refusal.New(refusal.CustomerOwes, "reason",
				"With this order %s comes to %s that is open, above its limit of %s. A lead may take the order "+
					"all the same, and says why.",
				c.Name, after.StringFixed(2), c.Limit.StringFixed(2)).With("open", after).With("limit", *c.Limit)
		}
	}
	if question == nil {
		return nil
	}
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

// Accept makes an order of a quote, held until somebody releases it. Prices that ran out
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
	tx.Notify(topics...)
	return readOrder(ctx, tx, id)
}

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
	if before.State == states.Quote && in.QuoteUntil != "" {
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
	named := map[int64]bool{}
	for i, l := range in.Lines {
		if l.ID == 0 {
			if err := addLine(ctx, tx, o.ID, o.CustomerID, o.SiteID, i, l); err != nil {
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
		words, err := o.Lines[at].change(ctx, tx, field, l)
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
	return released, nil
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

// change gives a line another quantity, price or text.
func (l Line) change(ctx context.Context, tx *command.Tx, field string, in NewLine) (words string, err error) {
	unit := measure.Unit{}
	if l.ItemID != 0 {
		item, err := catalog.ItemByID(ctx, tx, l.ItemID)
		if err != nil {
			return "", err
		}
		unit = item.Unit()
	}
	quantity, err := measure.Parse(field+".quantity", in.Quantity, unit)
	if err != nil {
		return "", err
	}
	price := pricing.Price{Amount: l.Price, Source: l.PriceSource, Why: l.PriceWhy}
	if in.Price != "" {
		amount, err := measure.ParsePrice(field+".price", in.Price)
		if err != nil {
			return "", err
		}
		if !amount.Equal(l.Price) {
			price = pricing.Price{Amount: amount, Source: pricing.Typed, Why: "as entered"}
		}
	}
	if l.Shipped.IsPositive() && !price.Amount.Equal(l.Price) {
		return "", refusal.New(refusal.PriceStands, field+".price",
			"%s of %s are shipped at %s: the price stands. Write what is to come at another price as a line of "+
				"its own.", l.Shipped, l.SKU, l.Price)
	}
	wanted := quantity.Sub(l.Shipped)
	if wanted.IsNegative() {
		return "", refusal.New(refusal.BelowShipped, field+".quantity",
			"%s of %s are shipped already: the line cannot be for %s.", l.Shipped, l.SKU, quantity).With("shipped", l.Shipped)
	}
	if l.ItemID != 0 {
		r, err := reservation.Reduce(ctx, tx, l.ID, wanted)
		if err != nil {
			return "", err
		}
		words = r.Words(l.SKU)
	}
	_, err = tx.ExecContext(ctx, `
		WITH s AS (UPDATE sales_lines SET price = $3, price_source = $5, price_why = $6 WHERE line_id = $1)
		UPDATE outbound_lines SET quantity = $2, cancelled = 0, text = CASE WHEN item_id IS NULL AND $4 <> '' THEN $4
		  ELSE text END WHERE id = $1`,
		l.ID, quantity, price.Amount, strings.TrimSpace(in.Text), price.Source, price.Why)
	if err != nil {
		return "", fmt.Errorf("changing an order line: %w", err)
	}
	return words, nil
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
	tx.Notify(ledger.Topics(append(topics, "pick", "pack", "putaway")...)...)
	o, err := readOrder(ctx, tx, id)
	for _, words := range released {
		if words != "" {
			o.Freed = append(o.Freed, words)
		}
	}
	return o, err
}

// Hold takes an order back from the floor, as long as nothing of it is on a round or in
// a carton.
func Hold(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := documents.Change(ctx, tx, documents.OutboundOrder, id, version, "held it"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err != nil {
		return o, err
	}
	switch {
	case o.State != states.Released:
		return o, refusal.New(refusal.OrderNotReleased, "",
			"%s is %s. Only an order that is released can be put on hold again.", o.Number, states.Label(o.State)).Of(refusal.Conflict)
	case o.Planned.Add(o.Picked).Add(o.Shipped).IsPositive():
		return o, refusal.New(refusal.OrderOnTheFloor, "",
			"%s is on the floor already: %s are on a round, %s in cartons, %s shipped. Bring its round to the "+
				"bench first.", o.Number, o.Planned, o.Picked, o.Shipped).Of(refusal.Conflict)
	}
	if err := outbound.Move(ctx, tx, id, o.State, states.OnHold); err != nil {
		return o, err
	}
	tx.Notify(append(topics, "pick")...)
	return readOrder(ctx, tx, id)
}

// Release releases an order on hold.
func Release(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := documents.Change(ctx, tx, documents.OutboundOrder, id, version, "release it"); err != nil {
		return Order{}, err
	}
	o, err := outbound.Read(ctx, tx, id)
	if err != nil {
		return Order{}, err
	}
	if o.State != states.OnHold {
		return Order{}, refusal.New(refusal.OrderNotOnHold, "",
			"The order is not on hold: it is a quote, was released before, or is over.").Of(refusal.Conflict)
	}
	if err := outbound.Move(ctx, tx, id, o.State, states.Released); err != nil {
		return Order{}, err
	}
	tx.Notify(append(topics, "pick")...)
	return readOrder(ctx, tx, id)
}

// outlook calculates what a line would do to free stock, and when more comes.
func outlook(
	ctx context.Context, q sqlx.QueryerContext, itemID, site, customer int32, text string, now time.Time,
) (Outlook, error) {
	item, err := catalog.ItemByID(ctx, q, itemID)
	if err != nil {
		return Outlook{}, err
	}
	wanted, err := measure.ParseOrZero("quantity", text, item.Unit())
	if err != nil {
		return Outlook{}, err
	}
	c, err := availability.CourseOf(ctx, q, itemID, site, wanted, now)
	if err != nil {
		return Outlook{}, err
	}
	out := Outlook{Wanted: wanted, Free: c.Free, FreeAfter: c.Free.Sub(wanted), Promise: c.Promise}
	terms, err := priceTerms(ctx, q, customer, itemID)
	if err != nil {
		return Outlook{}, err
	}
	// Without a price, one has to be entered.
	if p, err := terms.On("price", today(now)); err == nil {
		out.Price = &p
	}
	for _, l := range c.Lines {
		if !l.Out {
			out.NextOn, out.NextQuantity = &l.On, &l.Quantity
			break
		}
	}
	return out, nil
}
