package orders

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/supply"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

const columns = `
	SELECT o.id, o.number, o.customer_id, p.name AS customer, o.site_id, to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on, o.reference, o.carrier,
	       o.state, o.owing, coalesce((SELECT name FROM people WHERE id = o.owing_by), '') AS owing_by, p.email, (o.wanted_on < current_date AND o.state <> 'sent') AS late, o.version, l.quantity, l.planned, l.taken, l.sent
	  FROM sales_orders o JOIN parties p ON p.id = o.customer_id,
	       LATERAL (SELECT sum(quantity) AS quantity, sum(planned) AS planned, sum(taken) AS taken, sum(sent) AS sent FROM sales_lines WHERE order_id = o.id) AS l `

func listOrders(ctx context.Context, q sqlx.QueryerContext, site int32, state string) ([]Order, error) {
	out := []Order{}
	err := sqlx.SelectContext(ctx, q, &out, columns+`WHERE o.state <> 'sent' AND o.site_id = $1 AND ($2 = '' OR o.state = $2) ORDER BY o.wanted_on, o.id LIMIT 500`, site, state)
	if err != nil {
		return nil, fmt.Errorf("listing orders: %w", err)
	}
	return out, nil
}

// customer is whom an order is for, with what it owes.
type customer struct {
	Name, Kind, Carrier string
	Overdue             decimal.Decimal
	Limit               *decimal.Decimal `db:"credit_limit"`
	// Open is what its orders come to that are not all sent.
	Open decimal.Decimal
}

func readCustomer(ctx context.Context, tx *command.Tx, id int32) (c customer, err error) {
	// Its orders are counted one after another, so that two do not pass a limit together:
	// by a statement of its own, which sees what the one before has written.
	if _, err := tx.ExecContext(ctx, `SELECT 1 FROM parties WHERE id = $1 FOR UPDATE`, id); err != nil {
		return c, fmt.Errorf("holding a customer: %w", err)
	}
	err = tx.GetContext(ctx, &c, `
		SELECT p.name, p.kind, p.carrier, p.overdue, p.credit_limit,
		       coalesce((SELECT sum((l.quantity - l.sent) * l.price) FROM sales_lines l JOIN sales_orders o ON o.id = l.order_id WHERE o.customer_id = p.id AND o.state <> 'sent'), 0) AS open
		  FROM parties p WHERE p.id = $1`, id)
	if err != nil || c.Kind != "customer" {
		return c, refusal.New("customer_unknown", "customer_id", "Choose a customer for the order.")
	}
	return c, nil
}

// addDays tells of each open line on which day it can go.
func (o *Order) addDays(ctx context.Context, q sqlx.QueryerContext, now time.Time) error {
	for i := range o.Lines {
		l := &o.Lines[i]
		if !l.Quantity.GreaterThan(l.Planned.Add(l.Taken).Add(l.Sent)) {
			continue
		}
		c, err := supply.CourseOf(ctx, q, l.ItemID, o.SiteID, decimal.Zero, now)
		if err != nil {
			return err
		}
		day := c.Served(o.Number)
		l.CanGo = &day
	}
	return nil
}

func readOrder(ctx context.Context, q sqlx.QueryerContext, id int64) (Order, error) {
	o := Order{Lines: []Line{}, Deliveries: []Delivery{}}
	if err := sqlx.GetContext(ctx, q, &o, columns+`WHERE o.id = $1`, id); err != nil {
		return o, documents.Found(err, "order", fmt.Sprint(id))
	}
	err := sqlx.SelectContext(ctx, q, &o.Lines, `
		SELECT l.id, l.line, l.item_id, i.sku, i.description, i.base_unit AS unit, l.price, l.quantity, l.planned, l.taken, l.sent
		  FROM sales_lines l JOIN items i ON i.id = l.item_id WHERE l.order_id = $1 ORDER BY l.line`, id)
	if err != nil {
		return o, fmt.Errorf("reading order lines: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &o.Deliveries, `SELECT id, number FROM deliveries WHERE order_id = $1 ORDER BY id`, id); err != nil {
		return o, fmt.Errorf("reading deliveries: %w", err)
	}
	return o, nil
}
