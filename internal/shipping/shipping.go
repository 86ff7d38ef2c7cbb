// Package shipping sends goods to customers: what leaves stock, the papers that go with
// it, and who is told.
package shipping

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Shipment is what was shipped of an order in one go.
type Shipment struct {
	ID        int64            `db:"id" json:"id"`
	Number    string           `db:"number" json:"number"`
	State     states.Shipment  `db:"state" json:"state" enum:"left,asked,carried,refused,taken_back"`
	OrderID   int64            `db:"order_id" json:"order_id"`
	Order     string           `db:"order_number" json:"order"`
	Customer  string           `db:"customer" json:"customer"`
	Carrier   string           `db:"carrier" json:"carrier"`
	ShippedAt time.Time        `db:"shipped_at" json:"shipped_at"`
	ShippedBy string           `db:"shipped_by" json:"shipped_by"`
	SiteID    int32            `db:"site_id" json:"site_id"`
	Tracking  string           `db:"tracking" json:"tracking" doc:"The carrier's number; empty while it gave none"`
	Rate      *decimal.Decimal `db:"rate" json:"rate" money:"true"`
	Said      string           `db:"carrier_said" json:"said" doc:"Why the carrier gave no number"`
	Load      string           `db:"load" json:"load" doc:"The vehicle that it left on"`
	Invoiced  string           `db:"invoiced" json:"invoiced" doc:"The invoice that follows it; empty while there is none"`
	// TakenBack is the number of the paper that took it back, by whom, when and for what reason; empty
	// for one that stands.
	TakenBack   string           `db:"taken_back_number" json:"taken_back"`
	TakenBackAt *time.Time       `db:"taken_back_at" json:"taken_back_at"`
	TakenBackBy string           `db:"taken_back_by" json:"taken_back_by"`
	Reason      string           `db:"taken_back_reason" json:"reason"`
	Cartons     []cartons.Carton `db:"-" json:"cartons"`
	documents.Sorted
}

const columns = `
	SELECT d.id, d.number, d.state, d.order_id, o.number AS order_number, o.recipient AS customer, d.carrier,
	       d.shipped_at, pe.name AS shipped_by, d.site_id, d.tracking, d.rate, d.carrier_said,
	       coalesce((SELECT number FROM loads WHERE id = d.load_id), '') AS load,
	       coalesce((SELECT string_agg(number, ', ' ORDER BY id) FROM invoices b
	         WHERE EXISTS (SELECT FROM invoice_lines l WHERE l.invoice_id = b.id AND l.shipment_id = d.id)
	           AND credits IS NULL AND NOT EXISTS (SELECT FROM invoices c WHERE c.credits = b.id)),
	       '') AS invoiced, coalesce(d.taken_back_number, '') AS taken_back_number, d.taken_back_at,
	       coalesce((SELECT name FROM people WHERE id = d.taken_back_by), '') AS taken_back_by, d.taken_back_reason
	  FROM shipments d JOIN outbound o ON o.id = d.order_id JOIN people pe ON pe.id = d.shipped_by `

// Latest lists the latest shipments of a site.
func Latest(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Shipment, error) {
	out := []Shipment{}
	if err := sqlx.SelectContext(ctx, q, &out, columns+`
		WHERE d.site_id = $1 ORDER BY d.id DESC LIMIT 30`, site); err != nil {
		return nil, fmt.Errorf("listing shipments: %w", err)
	}
	for i := range out {
		out[i].Cartons = []cartons.Carton{}
	}
	return out, nil
}

// Read reads a shipment with its cartons.
func Read(ctx context.Context, q sqlx.QueryerContext, id int64) (Shipment, error) {
	var d Shipment
	err := sqlx.GetContext(ctx, q, &d, columns+`WHERE d.id = $1`, id)
	if err != nil {
		return d, documents.Found(err, "shipment", fmt.Sprint(id))
	}
	d.Cartons, err = cartons.OfShipment(ctx, q, id)
	return d, err
}
