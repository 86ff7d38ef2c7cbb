package receive

import (
	"context"
	"fmt"

	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
)

const orderColumns = `
	SELECT o.id, o.number, o.supplier_id, p.name AS supplier, o.site_id, to_char(o.expected_on, 'YYYY-MM-DD') AS expected_on,
	       o.state, o.note, o.version, (o.expected_on < current_date AND o.state IN ('placed', 'part in')) AS late,
	       (SELECT count(*) FROM purchase_lines WHERE order_id = o.id) AS line_count
	  FROM purchase_orders o JOIN parties p ON p.id = o.supplier_id `

func listOrders(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Order, error) {
	orders := []Order{}
	err := sqlx.SelectContext(ctx, q, &orders, orderColumns+`WHERE o.state <> 'all in' AND o.site_id = $1 ORDER BY o.expected_on, o.id LIMIT 300`, site)
	if err != nil {
		return nil, fmt.Errorf("listing purchase orders: %w", err)
	}
	return orders, nil
}

func readOrder(ctx context.Context, q sqlx.QueryerContext, id int64) (Order, error) {
	var o Order
	err := sqlx.GetContext(ctx, q, &o, orderColumns+`WHERE o.id = $1`, id)
	if err != nil {
		return o, documents.Found(err, "purchase order", fmt.Sprint(id))
	}
	o.Lines, err = readLines(ctx, q, id)
	return o, err
}

func readLines(ctx context.Context, q sqlx.QueryerContext, order int64) ([]OrderLine, error) {
	lines := []OrderLine{}
	err := sqlx.SelectContext(ctx, q, &lines, `
		SELECT l.id, l.line, l.item_id, i.sku, i.description, i.tracking, i.base_unit AS unit, i.whole, l.quantity, l.received, l.price
		  FROM purchase_lines l JOIN items i ON i.id = l.item_id WHERE l.order_id = $1 ORDER BY l.line`, order)
	if err != nil {
		return nil, fmt.Errorf("reading purchase lines: %w", err)
	}
	return lines, nil
}

const arrivalColumns = `
	SELECT a.id, a.number, a.order_id, o.number AS order_number, p.name AS supplier, a.site_id, a.dock_id, d.code AS dock, a.state,
	       a.opened_at, a.version,
	       (SELECT sum(quantity) FROM purchase_lines WHERE order_id = o.id) AS ordered,
	       (SELECT sum(received) FROM purchase_lines WHERE order_id = o.id) AS received
	  FROM arrivals a JOIN purchase_orders o ON o.id = a.order_id JOIN parties p ON p.id = o.supplier_id JOIN places d ON d.id = a.dock_id `

func listArrivals(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Arrival, error) {
	arrivals := []Arrival{}
	err := sqlx.SelectContext(ctx, q, &arrivals, arrivalColumns+`WHERE a.state = 'open' AND a.site_id = $1 ORDER BY a.id`, site)
	if err != nil {
		return nil, fmt.Errorf("listing arrivals: %w", err)
	}
	return arrivals, nil
}

func readArrival(ctx context.Context, q sqlx.QueryerContext, id int64) (Arrival, error) {
	var a Arrival
	err := sqlx.GetContext(ctx, q, &a, arrivalColumns+`WHERE a.id = $1`, id)
	if err != nil {
		return a, documents.Found(err, "arrival", fmt.Sprint(id))
	}
	a.Lines, err = readLines(ctx, q, a.OrderID)
	return a, err
}
