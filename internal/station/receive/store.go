package receive

import (
	"context"
	"fmt"

	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
)

const orderColumns = `
	SELECT o.id, o.number, o.supplier_id, p.name AS supplier, o.site_id, to_char(o.expected_on, 'YYYY-MM-DD') AS expected_on,
	       o.state, o.note, o.version, p.price_pct, (o.expected_on < current_date AND o.state IN ('placed', 'part in')) AS late,
	       (SELECT count(*) FROM purchase_lines WHERE order_id = o.id) AS line_count
	  FROM purchase_orders o JOIN parties p ON p.id = o.supplier_id `

// lists are the orders people live by: what each holds, beside the site.
var lists = map[string]string{
	"open":     `o.state IN ('draft', 'placed', 'part in')`,
	"late":     `o.state IN ('placed', 'part in') AND o.expected_on < current_date`,
	"today":    `o.state IN ('placed', 'part in') AND o.expected_on = current_date`,
	"week":     `o.state IN ('placed', 'part in') AND o.expected_on BETWEEN current_date AND current_date + 6`,
	"part in":  `o.state = 'part in'`,
	"unbilled": `o.state <> 'draft' AND EXISTS (SELECT FROM purchase_lines l WHERE l.order_id = o.id AND l.received > l.billed)`,
	"all":      `true`,
}

// listOrders reads a page of a list: open ones by the day they are expected, all of
// them newest first.
func listOrders(ctx context.Context, q sqlx.QueryerContext, site int32, list string, after documents.Cursor, limit int) (page OrderPage, err error) {
	page.Orders = []Order{}
	compare, order := ">", "ASC"
	if list == "all" {
		compare, order = "<", "DESC"
	}
	err = sqlx.SelectContext(ctx, q, &page.Orders, orderColumns+fmt.Sprintf(`WHERE o.site_id = $1 AND %s AND ($2::date IS NULL OR (o.expected_on, o.id) %s ($2, $3)) ORDER BY o.expected_on %s, o.id %s LIMIT %d`,
		lists[list], compare, order, order, limit+1), site, after.Day, after.ID)
	if err != nil {
		return page, fmt.Errorf("listing purchase orders: %w", err)
	}
	if len(page.Orders) > limit {
		page.Orders = page.Orders[:limit]
		last := page.Orders[limit-1]
		page.Next = documents.CursorAfter(last.ExpectedOn, last.ID)
	}
	return page, nil
}

func readOrder(ctx context.Context, q sqlx.QueryerContext, id int64) (Order, error) {
	var o Order
	err := sqlx.GetContext(ctx, q, &o, orderColumns+`WHERE o.id = $1`, id)
	if err != nil {
		return o, documents.Found(err, "purchase order", fmt.Sprint(id))
	}
	if o.Lines, err = readLines(ctx, q, id); err != nil {
		return o, err
	}
	o.Bills = []Bill{}
	err = sqlx.SelectContext(ctx, q, &o.Bills, `
		SELECT b.number, to_char(b.billed_on, 'YYYY-MM-DD') AS billed_on, pe.name AS person, (SELECT sum(quantity * price) FROM bill_lines WHERE bill_id = b.id) AS amount
		  FROM bills b JOIN people pe ON pe.id = b.entered_by WHERE b.order_id = $1 ORDER BY b.id`, id)
	if err != nil {
		return o, fmt.Errorf("reading bills: %w", err)
	}
	return o, nil
}

func readLines(ctx context.Context, q sqlx.QueryerContext, order int64) ([]OrderLine, error) {
	lines := []OrderLine{}
	err := sqlx.SelectContext(ctx, q, &lines, `
		SELECT l.id, l.line, l.item_id, i.sku, i.description, i.tracking, i.base_unit AS unit, i.whole, l.quantity, l.received, l.price,
		       l.short_pct, l.over_pct, l.closed, l.cancelled, l.billed
		  FROM purchase_lines l JOIN items i ON i.id = l.item_id WHERE l.order_id = $1 ORDER BY l.line`, order)
	if err != nil {
		return nil, fmt.Errorf("reading purchase lines: %w", err)
	}
	for i, l := range lines {
		lines[i].Least, lines[i].Most = l.Bounds(l.Quantity, measure.Unit{Name: l.Unit, Whole: l.Whole})
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
	if a.Lines, err = readLines(ctx, q, a.OrderID); err != nil {
		return a, err
	}
	a.Bookings = []Booking{}
	err = sqlx.SelectContext(ctx, q, &a.Bookings, `
		SELECT b.move_id, b.line_id, po.document, po.entered_at AS at, pe.name AS person, i.sku, m.lot_id, l.code AS lot, m.quantity, m.to_place AS place_id, m.to_condition AS condition, b.undone_at, b.reason
		  FROM bookings b JOIN moves m ON m.id = b.move_id JOIN postings po ON po.id = m.posting_id JOIN people pe ON pe.id = po.person_id
		  JOIN items i ON i.id = m.item_id LEFT JOIN lots l ON l.id = m.lot_id WHERE b.arrival_id = $1 ORDER BY b.move_id DESC`, id)
	if err != nil {
		return a, fmt.Errorf("reading bookings: %w", err)
	}
	return a, nil
}

// boughtFrom is an item with the supplier it was last bought from.
type boughtFrom struct {
	ItemID     int32  `db:"item_id"`
	SupplierID int32  `db:"supplier_id"`
	Supplier   string `db:"supplier"`
	receiving.Levels
}

// lastBought reads where the site's items that have a target were bought last, with how
// much of each it wants to have; supplier narrows it to one, 0 reads all.
func lastBought(ctx context.Context, q sqlx.QueryerContext, site, supplier int32) ([]boughtFrom, error) {
	var rows []boughtFrom
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT s.item_id, s.reorder_point, s.target, p.id AS supplier_id, p.name AS supplier
		  FROM item_sites s JOIN items i ON i.id = s.item_id
		  JOIN LATERAL (SELECT o.supplier_id FROM purchase_lines l JOIN purchase_orders o ON o.id = l.order_id WHERE l.item_id = s.item_id ORDER BY l.id DESC LIMIT 1) AS last ON true
		  JOIN parties p ON p.id = last.supplier_id
		 WHERE s.site_id = $1 AND s.target > 0 AND ($2 = 0 OR p.id = $2) ORDER BY p.name, i.sku`, site, supplier)
	if err != nil {
		return nil, fmt.Errorf("reading what was bought where: %w", err)
	}
	return rows, nil
}

const inspectionColumns = `
	SELECT x.id, x.site_id, x.state, x.passed, x.failed, x.reason, a.number AS arrival, a.id AS arrival_id, a.dock_id, s.name AS supplier, po.entered_at AS at,
	       i.id AS item_id, i.sku, i.description, i.base_unit AS unit, i.whole, m.lot_id, l.code AS lot, m.quantity, m.to_place AS place_id
	  FROM inspections x JOIN bookings b ON b.move_id = x.move_id JOIN moves m ON m.id = x.move_id JOIN postings po ON po.id = m.posting_id
	  JOIN arrivals a ON a.id = b.arrival_id JOIN purchase_orders o ON o.id = a.order_id JOIN parties s ON s.id = o.supplier_id
	  JOIN items i ON i.id = m.item_id LEFT JOIN lots l ON l.id = m.lot_id `

func listInspections(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Inspection, error) {
	out := []Inspection{}
	if err := sqlx.SelectContext(ctx, q, &out, inspectionColumns+`WHERE x.state = 'waiting' AND x.site_id = $1 ORDER BY x.id LIMIT 200`, site); err != nil {
		return nil, fmt.Errorf("listing inspections: %w", err)
	}
	return out, nil
}

func readInspection(ctx context.Context, q sqlx.QueryerContext, id int64) (x Inspection, err error) {
	err = sqlx.GetContext(ctx, q, &x, inspectionColumns+`WHERE x.id = $1`, id)
	return x, documents.Found(err, "inspection", fmt.Sprint(id))
}
