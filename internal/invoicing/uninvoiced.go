package invoicing

import (
	"context"
	"fmt"
	"strconv"
	"time"

	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Uninvoiced is a shipment of which something is not invoiced.
type Uninvoiced struct {
	ID         int64           `db:"id" json:"-"`
	ShipmentID int64           `db:"shipment_id" json:"shipment_id"`
	Shipment   string          `db:"shipment" json:"shipment"`
	OrderID    int64           `db:"order_id" json:"order_id"`
	Order      string          `db:"order_number" json:"order"`
	CustomerID int32           `db:"customer_id" json:"customer_id"`
	Customer   string          `db:"customer" json:"customer"`
	ShippedAt  time.Time       `db:"shipped_at" json:"shipped_at"`
	Lines      int             `db:"lines" json:"lines"`
	Value      decimal.Decimal `db:"value" json:"value"`
	documents.Sorted
}

// uninvoiced are the shipments of a site of which something is not invoiced.
var uninvoiced = documents.List[Uninvoiced]{
	Query: `
		SELECT d.id, d.id AS shipment_id, d.number AS shipment, o.id AS order_id, o.number AS order_number,
		       so.customer_id, p.name AS customer, d.shipped_at,
		       count(*) AS lines, sum(round((x.quantity - x.invoiced - x.given_up) * sl.price, 2)) AS value
		  FROM shipment_lines x JOIN shipments d ON d.id = x.shipment_id JOIN sales_lines sl ON sl.line_id = x.line_id
		  JOIN outbound_orders o ON o.id = d.order_id JOIN sales_orders so ON so.order_id = o.id
		  JOIN parties p ON p.id = so.customer_id
		 WHERE x.invoiced + x.given_up < x.quantity AND d.site_id = $1 AND d.state <> 'taken_back' GROUP BY d.id, o.id, so.customer_id, p.id`,
	Keys: map[string]documents.SortKey{
		// Shipments are numbered as they are shipped.
		"shipment": {Expr: "o.id::numeric", Type: "numeric"},
		"shipped":  {Expr: "o.shipped_at", Type: "timestamptz"},
		"order":    {Expr: "o.order_number", Type: "text"},
		"customer": {Expr: "lower(o.customer)", Type: "text"},
		"lines":    {Expr: "o.lines", Type: "bigint"},
		"value":    {Expr: "o.value", Type: "numeric"},
	},
	Summed: []string{"value"},
	Header: []string{"shipment", "order", "customer", "shipped_at", "lines", "value"},
	Text: func(u Uninvoiced) []string {
		return []string{u.Shipment, u.Order, u.Customer, u.ShippedAt.UTC().Format(time.RFC3339), strconv.Itoa(u.Lines),
			u.Value.String()}
	},
}

// allUninvoiced reads what is shipped and not invoiced, the oldest first.
func allUninvoiced(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Uninvoiced, error) {
	out := []Uninvoiced{}
	if err := sqlx.SelectContext(ctx, q, &out, uninvoiced.Query+` ORDER BY d.id`, site); err != nil {
		return nil, fmt.Errorf("listing what is not invoiced: %w", err)
	}
	return out, nil
}
