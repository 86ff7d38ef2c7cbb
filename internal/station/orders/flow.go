package orders

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/supply"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

var topics = []string{"orders", "stock", "row"}

// Create takes an order, held or let go at once.
func Create(ctx context.Context, tx *command.Tx, in NewOrder) (Order, error) {
	wanted, err := documents.Day("wanted_on", in.WantedOn)
	if err != nil {
		return Order{}, err
	}
	if len(in.Lines) == 0 {
		return Order{}, refusal.New("lines_missing", "lines", "The order has no lines. Add what is wanted.")
	}
	customer, err := readCustomer(ctx, tx, in.CustomerID)
	if err != nil {
		return Order{}, err
	}
	state, change := "held", "took it"
	if in.LetGo {
		state, change = "let go", "took it and let it go"
	}
	var id int64
	err = tx.GetContext(ctx, &id, `INSERT INTO sales_orders (customer_id, site_id, wanted_on, reference, carrier, state, changed_by, changed_at, last_change)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9) RETURNING id`, in.CustomerID, in.SiteID, wanted, in.Reference, customer.Carrier, state, tx.Person.ID, tx.Now, change)
	if err != nil {
		return Order{}, fmt.Errorf("writing an order: %w", err)
	}
	for i, l := range in.Lines {
		field := fmt.Sprintf("lines[%d]", i)
		item, err := catalog.ItemByID(ctx, tx, l.ItemID)
		if err != nil {
			return Order{}, refusal.New("item_unknown", field+".item_id", "Line %d has no item. Find one by SKU, GTIN or words.", i+1)
		}
		if !item.Sold {
			return Order{}, refusal.New("item_not_sold", field+".item_id", "%s is not an item that is sold. Change that in the catalog first, or leave it out.", item.SKU)
		}
		if err := catalog.Allowed(ctx, tx, field+".item_id", item, in.SiteID); err != nil {
			return Order{}, err
		}
		quantity, err := measure.Parse(field+".quantity", l.Quantity, item.Unit())
		if err != nil {
			return Order{}, err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO sales_lines (order_id, line, item_id, quantity, price) VALUES ($1, $2, $3, $4, $5)`,
			id, i+1, item.ID, quantity, item.Cost); err != nil {
			return Order{}, fmt.Errorf("writing an order line: %w", err)
		}
	}
	if err := owing(ctx, tx, id, customer, strings.TrimSpace(in.Reason)); err != nil {
		return Order{}, err
	}
	tx.Touch(topics...)
	return readOrder(ctx, tx, id)
}

// owing asks about a customer who owes money beyond its time, or would owe more than it
// may with this order. Whoever may say yes says why, and it is kept.
func owing(ctx context.Context, tx *command.Tx, order int64, c customer, reason string) error {
	var question error
	switch after := c.Open.Add(c.Overdue); {
	case c.Overdue.IsPositive():
		question = refusal.New("customer_owes", "reason", "%s owes %s beyond its time. A lead may take the order all the same, and says why.", c.Name, c.Overdue.StringFixed(2)).With("overdue", c.Overdue)
	case c.Limit != nil:
		var this decimal.Decimal
		if err := tx.GetContext(ctx, &this, `SELECT coalesce(sum(quantity * price), 0) FROM sales_lines WHERE order_id = $1`, order); err != nil {
			return fmt.Errorf("reckoning an order's value: %w", err)
		}
		if after = after.Add(this); after.GreaterThan(*c.Limit) {
			question = refusal.New("customer_owes", "reason", "With this order %s comes to %s that is open, above its limit of %s. A lead may take the order all the same, and says why.",
				c.Name, after.StringFixed(2), c.Limit.StringFixed(2)).With("open", after).With("limit", *c.Limit)
		}
	}
	if question == nil {
		return nil
	}
	if err := people.Decide(ctx, "order", reason, question); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE sales_orders SET owing = $2, owing_by = $3 WHERE id = $1`, order, reason, tx.Person.ID); err != nil {
		return fmt.Errorf("keeping why an order was taken: %w", err)
	}
	return nil
}

// Hold takes an order back from the floor, as long as nothing of it is on a round or in
// a carton.
func Hold(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := documents.Change(ctx, tx, documents.SalesOrder, id, version, "held it"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err != nil {
		return o, err
	}
	switch {
	case o.State != "let go":
		return o, refusal.New("order_not_let_go", "", "%s is %s. Only an order that is let go can be held again.", o.Number, o.State).Of(refusal.Conflict)
	case o.Planned.Add(o.Taken).Add(o.Sent).IsPositive():
		return o, refusal.New("order_on_the_floor", "", "%s is on the floor already: %s are on a round, %s in cartons, %s sent. Set its round down first.", o.Number, o.Planned, o.Taken, o.Sent).Of(refusal.Conflict)
	}
	if _, err := tx.ExecContext(ctx, `UPDATE sales_orders SET state = 'held' WHERE id = $1`, id); err != nil {
		return o, fmt.Errorf("holding an order: %w", err)
	}
	tx.Touch(append(topics, "pick")...)
	return readOrder(ctx, tx, id)
}

// LetGo lets a held order go to the floor.
func LetGo(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := documents.Change(ctx, tx, documents.SalesOrder, id, version, "let it go"); err != nil {
		return Order{}, err
	}
	result, err := tx.ExecContext(ctx, `UPDATE sales_orders SET state = 'let go' WHERE id = $1 AND state = 'held'`, id)
	if err != nil {
		return Order{}, fmt.Errorf("letting an order go: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return Order{}, refusal.New("order_not_held", "", "The order is not held: it was let go before, or is sent.").Of(refusal.Conflict)
	}
	tx.Touch(append(topics, "pick")...)
	return readOrder(ctx, tx, id)
}

// outlook reckons what a line would do to free stock, and when more comes.
func outlook(ctx context.Context, q sqlx.QueryerContext, itemID, site int32, text string, now time.Time) (Outlook, error) {
	item, err := catalog.ItemByID(ctx, q, itemID)
	if err != nil {
		return Outlook{}, err
	}
	wanted, err := measure.ParseOrZero("quantity", text, item.Unit())
	if err != nil {
		return Outlook{}, err
	}
	c, err := supply.CourseOf(ctx, q, itemID, site, wanted, now)
	if err != nil {
		return Outlook{}, err
	}
	out := Outlook{Wanted: wanted, Free: c.Free, FreeAfter: c.Free.Sub(wanted), Promise: c.Promise}
	for _, l := range c.Lines {
		if !l.Out {
			out.NextOn, out.NextQuantity = &l.On, &l.Quantity
			break
		}
	}
	return out, nil
}
