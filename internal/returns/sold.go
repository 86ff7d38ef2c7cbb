package returns

import (
	"context"
	"encoding/json"
	"fmt"

	"lanternrow/internal/core/returning"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Sold is goods as they went to a customer with a shipment: a lot of a line is one.
type Sold struct {
	ShipmentID  int64           `db:"shipment_id" json:"shipment_id"`
	Shipment    string          `db:"shipment" json:"shipment"`
	ShippedOn   string          `db:"shipped_on" json:"shipped_on"`
	DaysAgo     int             `db:"days_ago" json:"days_ago"`
	Order       string          `db:"order_number" json:"order"`
	CustomerID  int32           `db:"customer_id" json:"customer_id"`
	Customer    string          `db:"customer" json:"customer"`
	SourceID    int32           `db:"source_id" json:"-"`
	LineID      int64           `db:"line_id" json:"line_id"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	Whole       bool            `db:"whole" json:"-"`
	Tracking    string          `db:"tracking" json:"tracking"`
	LotID       *int64          `db:"lot_id" json:"lot_id"`
	Lot         string          `db:"lot" json:"lot"`
	Shipped     decimal.Decimal `db:"shipped" json:"shipped"`
	Returnable  decimal.Decimal `db:"-" json:"returnable" doc:"How many of them may still be returned"`
	// Serials are its units that may still be returned, where they are known.
	Serials []string `db:"-" json:"serials" nullable:"false"`
	// UnitCost is what a unit went out at.
	UnitCost decimal.Decimal `db:"unit_cost" json:"-"`
	Returns  []byte          `db:"returns" json:"-"`
	Units    []byte          `db:"units" json:"-"`
}

// soldQuery reads what went with shipments, with what of it is on returns already; which shipments is asked of d, their
// orders o and the customers p.
const soldQuery = `
	WITH went AS (
		SELECT w.shipment_id, c.line_id, c.item_id, c.lot_id, sum(c.quantity) AS shipped,
		       array_agg(c.serial_id) FILTER (WHERE c.serial_id IS NOT NULL) AS serials
		  FROM shipments d JOIN carton_work w ON w.shipment_id = d.id JOIN carton_contents c ON c.carton_id = w.carton_id
		 WHERE d.state <> 'taken_back' AND d.id = ANY($1) GROUP BY 1, 2, 3, 4)
	SELECT g.shipment_id, d.number AS shipment, to_char(d.shipped_at, 'YYYY-MM-DD') AS shipped_on,
	       greatest(0, $2::timestamptz::date - d.shipped_at::date) AS days_ago, o.number AS order_number,
	       so.customer_id, p.name AS customer, o.destination_id AS source_id, g.line_id, g.item_id, i.sku, i.description,
	       i.base_unit AS unit, i.whole, i.tracking, g.lot_id, coalesce(l.code, '') AS lot, g.shipped,
	       coalesce((SELECT round(sum(m.quantity * m.unit_cost) / sum(m.quantity), 4)
	                   FROM postings t JOIN moves m ON m.posting_id = t.id
	                  WHERE t.document = d.number AND t.document <> '' AND t.kind = 'ship' AND m.item_id = g.item_id
	                    AND m.lot_id IS NOT DISTINCT FROM g.lot_id), 0) AS unit_cost,
	       (SELECT json_agg(json_build_object('announced', n.quantity::text, 'received', n.received::text, 'kept', r.kept::text,
	          'over', n.closed))
	          FROM return_lines r JOIN inbound_lines n ON n.id = r.line_id
	         WHERE r.shipment_id = g.shipment_id AND r.sold_line_id = g.line_id
	           AND r.lot_id IS NOT DISTINCT FROM g.lot_id) AS returns,
	       (SELECT json_agg(u.code ORDER BY u.code) FROM serials u
	         WHERE u.id = ANY(g.serials) AND NOT EXISTS (
	               SELECT FROM return_units x JOIN return_lines r ON r.line_id = x.line_id
	                 JOIN inbound_lines n ON n.id = x.line_id
	                WHERE x.serial_id = u.id AND r.shipment_id = g.shipment_id
	                  AND (NOT n.closed OR r.kept > 0 OR i.tracking <> 'serial' AND n.received > 0))
	           AND (i.tracking <> 'serial' OR 'customer' = (
	               SELECT q.kind FROM moves m JOIN locations q ON q.id = m.to_location
	                WHERE m.serial_id = u.id ORDER BY m.id DESC LIMIT 1))) AS units
	  FROM went g JOIN shipments d ON d.id = g.shipment_id JOIN outbound_orders o ON o.id = d.order_id
	  JOIN sales_orders so ON so.order_id = o.id JOIN parties p ON p.id = so.customer_id
	  JOIN items i ON i.id = g.item_id LEFT JOIN lots l ON l.id = g.lot_id
	  JOIN outbound_lines s ON s.id = g.line_id ORDER BY d.id DESC, s.line, l.code`

// readSold reads what went with shipments.
func readSold(ctx context.Context, q sqlx.QueryerContext, shipments []int64, today any) ([]Sold, error) {
	out := []Sold{}
	if err := sqlx.SelectContext(ctx, q, &out, soldQuery, shipments, today); err != nil {
		return nil, fmt.Errorf("reading what was shipped: %w", err)
	}
	for i := range out {
		if err := out[i].unfold(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// unfold reads what the database listed of the returns and units.
func (s *Sold) unfold() error {
	sold := returning.Sold{Shipped: s.Shipped}
	if len(s.Returns) > 0 {
		if err := json.Unmarshal(s.Returns, &sold.Returns); err != nil {
			return fmt.Errorf("reading what was returned: %w", err)
		}
	}
	s.Returnable, s.Serials = sold.Returnable(), []string{}
	if len(s.Units) > 0 {
		if err := json.Unmarshal(s.Units, &s.Serials); err != nil {
			return fmt.Errorf("reading the units that were shipped: %w", err)
		}
	}
	return nil
}

// mostFound is how many shipments a search answers with.
const mostFound = 20

// Find searches what went to customers by whatever stands on a paper or a label: the number of a shipment, an order or
// an invoice, a serial, a lot, an item, or part of a customer's name; the latest first.
func Find(ctx context.Context, q sqlx.QueryerContext, words string, today any) ([]Sold, error) {
	var shipments []int64
	err := sqlx.SelectContext(ctx, q, &shipments, `
		SELECT d.id FROM shipments d JOIN outbound_orders o ON o.id = d.order_id
		  JOIN sales_orders so ON so.order_id = o.id JOIN parties p ON p.id = so.customer_id
		 WHERE d.state <> 'taken_back' AND (upper(d.number) = upper($1) OR upper(o.number) = upper($1)
		    OR upper(o.reference) = upper($1) OR p.name ILIKE '%' || $1 || '%'
		    OR EXISTS (SELECT FROM invoice_lines x JOIN invoices b ON b.id = x.invoice_id
		                WHERE x.shipment_id = d.id AND upper(b.number) = upper($1))
		    OR EXISTS (SELECT FROM carton_work w JOIN carton_contents c ON c.carton_id = w.carton_id
		                 JOIN items i ON i.id = c.item_id LEFT JOIN lots l ON l.id = c.lot_id
		                 LEFT JOIN serials u ON u.id = c.serial_id LEFT JOIN cartons b ON b.id = c.carton_id
		                WHERE w.shipment_id = d.id AND upper($1) IN (upper(u.code), upper(l.code), upper(i.sku), b.sscc)))
		 ORDER BY d.id DESC LIMIT $2`, words, mostFound)
	if err != nil {
		return nil, fmt.Errorf("finding what was shipped: %w", err)
	}
	return readSold(ctx, q, shipments, today)
}
