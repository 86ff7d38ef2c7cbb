package recall

import (
	"time"

	"lanternrow/internal/documents"

	"github.com/shopspring/decimal"
)

// Got is goods that a customer got with a shipment, as they stand in its cartons.
type Got struct {
	ID         int64           `db:"id" json:"-"`
	ShipmentID int64           `db:"shipment_id" json:"shipment_id"`
	Shipment   string          `db:"shipment" json:"shipment"`
	Order      string          `db:"order_number" json:"order"`
	At         time.Time       `db:"at" json:"at"`
	ItemID     int32           `db:"item_id" json:"item_id"`
	SKU        string          `db:"sku" json:"sku"`
	Item       string          `db:"item" json:"item"`
	Unit       string          `db:"unit" json:"unit"`
	LotID      int64           `db:"lot_id" json:"lot_id" doc:"0 for none"`
	Lot        string          `db:"lot" json:"lot"`
	SerialID   int64           `db:"serial_id" json:"serial_id" doc:"0 for none"`
	Serial     string          `db:"serial" json:"serial"`
	Carton     string          `db:"carton" json:"carton"`
	Quantity   decimal.Decimal `db:"quantity" json:"quantity"`
	documents.Sorted
}

// got is all that a customer got, with its lots and units.
var got = documents.List[Got]{
	Query: `
		SELECT row_number() OVER (ORDER BY d.id, c.carton_id, c.line_id, c.lot_id, c.serial_id) AS id,
		       d.id AS shipment_id, d.number AS shipment, o.number AS order_number, d.shipped_at AS at, i.id AS item_id, i.sku,
		       i.description AS item, i.base_unit AS unit, coalesce(l.id, 0) AS lot_id, coalesce(l.code, '') AS lot,
		       coalesce(u.id, 0) AS serial_id, coalesce(u.code, '') AS serial, b.sscc AS carton, c.quantity
		  FROM shipments d JOIN outbound_orders o ON o.id = d.order_id JOIN carton_work w ON w.shipment_id = d.id
		  JOIN carton_contents c ON c.carton_id = w.carton_id JOIN cartons b ON b.id = c.carton_id JOIN items i ON i.id = c.item_id
		  LEFT JOIN lots l ON l.id = c.lot_id LEFT JOIN serials u ON u.id = c.serial_id
		 WHERE o.party_id = $1 AND d.state <> 'taken_back'`,
	Keys: map[string]documents.SortKey{
		"at":       {Expr: "o.at", Type: "timestamptz"},
		"shipment": {Expr: "o.shipment_id::numeric", Type: "numeric"},
		"sku":      {Expr: "o.sku", Type: "text"},
		"lot":      {Expr: "o.lot", Type: "text"},
		"serial":   {Expr: "o.serial", Type: "text"},
		"quantity": {Expr: "o.quantity", Type: "numeric"},
	},
	Header: []string{"shipment", "order", "at", "sku", "item", "lot", "serial", "carton", "quantity", "unit"},
	Text: func(g Got) []string {
		return []string{g.Shipment, g.Order, g.At.UTC().Format(time.RFC3339), g.SKU, g.Item, g.Lot, g.Serial, g.Carton, g.Quantity.String(), g.Unit}
	},
}
