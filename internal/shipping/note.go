package shipping

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"lanternrow/internal/core/states"
	"lanternrow/internal/papers"

	"github.com/jmoiron/sqlx"
)

// Note is a delivery note on paper.
func Note(ctx context.Context, q sqlx.QueryerContext, id int64) (string, []byte, error) {
	d, err := Read(ctx, q, id)
	if err != nil {
		return "", nil, err
	}
	var o struct {
		Reference, Address, Site string
		Open                     json.RawMessage
	}
	err = sqlx.GetContext(ctx, q, &o, `
		SELECT o.reference, o.address, s.name AS site,
		       (SELECT coalesce(json_agg(json_build_object('SKU', i.sku, 'Description', i.description, 'Unit',
		       i.base_unit, 'Quantity', (l.quantity - l.cancelled - l.shipped)::float8::text) ORDER BY l.line), '[]')
		          FROM outbound_lines l JOIN items i ON i.id = l.item_id WHERE l.order_id = o.id
		           AND l.shipped + l.cancelled < l.quantity) AS open
		  FROM outbound o JOIN sites s ON s.id = o.site_id WHERE o.id = $1`, d.OrderID)
	if err != nil {
		return "", nil, fmt.Errorf("reading an order: %w", err)
	}
	n := papers.Note{
		Title: "Delivery note", Number: d.Number, Order: "Order " +
			d.Order, Reference: o.Reference, Date: d.ShippedAt.UTC().Format(time.DateOnly),
		From: o.Site, To: d.Customer, Address: o.Address, Carrier: d.Carrier,
	}
	if err := json.Unmarshal(o.Open, &n.Open); err != nil {
		return "", nil, fmt.Errorf("reading what is open: %w", err)
	}
	for _, c := range d.Cartons {
		n.Groups = append(n.Groups, c.Group())
	}
	if d.State == states.ShipmentTakenBack {
		rows, err := shippedRows(ctx, q, id)
		if err != nil {
			return "", nil, err
		}
		n.Groups = append(n.Groups, papers.Group{Heading: "Taken back with " + d.TakenBack + ": " + d.Reason, Rows: rows})
	}
	pdf, err := n.Print()
	return d.Number, pdf, err
}
