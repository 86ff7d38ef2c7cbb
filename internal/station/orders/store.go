package orders

import (
	"context"
	"fmt"

	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
)

const columns = `
	SELECT o.id, o.number, o.customer_id, p.name AS customer, o.site_id, to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on, o.reference, o.carrier,
	       o.state, (o.wanted_on < current_date AND o.state <> 'sent') AS late, o.version, l.quantity, l.planned, l.taken, l.sent
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

func readOrder(ctx context.Context, q sqlx.QueryerContext, id int64) (Order, error) {
	o := Order{Lines: []Line{}, Deliveries: []Delivery{}}
	if err := sqlx.GetContext(ctx, q, &o, columns+`WHERE o.id = $1`, id); err != nil {
		return o, documents.Found(err, "order", fmt.Sprint(id))
	}
	err := sqlx.SelectContext(ctx, q, &o.Lines, `
		SELECT l.id, l.line, l.item_id, i.sku, i.description, i.base_unit AS unit, l.quantity, l.planned, l.taken, l.sent
		  FROM sales_lines l JOIN items i ON i.id = l.item_id WHERE l.order_id = $1 ORDER BY l.line`, id)
	if err != nil {
		return o, fmt.Errorf("reading order lines: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &o.Deliveries, `SELECT id, number FROM deliveries WHERE order_id = $1 ORDER BY id`, id); err != nil {
		return o, fmt.Errorf("reading deliveries: %w", err)
	}
	return o, nil
}
