package inbound

import (
	"context"
	"encoding/json"
	"fmt"

	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// OnTheWay is what is on its way to a site from a source that keeps stock, as goods between
// two sites of ours do: in the cartons that were shipped to the site, and loose.
type OnTheWay []*onTheWay

type onTheWay struct {
	Item     int32  `db:"item_id"`
	Lot      string `db:"lot"`
	Serial   string `db:"serial"`
	Carton   *int64 `db:"carton_id"`
	SSCC     string `db:"sscc"`
	Quantity decimal.Decimal
}

// A Carton is a carton that is on its way, with what is in it.
type Carton struct {
	SSCC  string  `json:"sscc"`
	Goods []Goods `json:"goods"`
}

// Goods are goods of one kind in a carton that is on its way, in base units.
type Goods struct {
	ItemID    int32           `db:"item_id" json:"item_id"`
	SKU       string          `db:"sku" json:"sku"`
	Unit      string          `db:"unit" json:"unit"`
	Lot       string          `db:"lot" json:"lot"`
	ExpiresOn string          `db:"expires_on" json:"expires_on"`
	Serials   []string        `db:"-" json:"serials"`
	Quantity  decimal.Decimal `db:"quantity" json:"quantity"`
}

// Coming reads the cartons that are on their way to an arrival, with what is in each: of what was
// shipped for its orders and did not come yet.
func Coming(ctx context.Context, q sqlx.QueryerContext, arrival int64) ([]Carton, error) {
	var rows []struct {
		SSCC   string `db:"sscc"`
		Listed []byte `db:"serials"`
		Goods
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT c.sscc, i.id AS item_id, i.sku, i.base_unit AS unit, coalesce(l.code, '') AS lot,
		       coalesce(to_char(l.expires_on, 'YYYY-MM-DD'), '') AS expires_on, sum(b.quantity) AS quantity,
		       coalesce(json_agg(s.code ORDER BY s.code) FILTER (WHERE s.id IS NOT NULL), '[]') AS serials
		  FROM arrival_orders a JOIN inbound_orders n ON n.id = a.order_id
		  JOIN carton_work w ON w.shipment_id = n.shipment_id JOIN cartons c ON c.id = w.carton_id
		  JOIN balances b ON b.carton_id = c.id AND b.location_id = n.source_id
		  JOIN items i ON i.id = b.item_id LEFT JOIN lots l ON l.id = b.lot_id LEFT JOIN serials s ON s.id = b.serial_id
		 WHERE a.arrival_id = $1 GROUP BY c.id, i.id, l.id ORDER BY c.id, i.sku, l.code`, arrival)
	if err != nil {
		return nil, fmt.Errorf("reading cartons on their way: %w", err)
	}
	out := []Carton{}
	for _, r := range rows {
		if len(out) == 0 || out[len(out)-1].SSCC != r.SSCC {
			out = append(out, Carton{SSCC: r.SSCC})
		}
		last := &out[len(out)-1]
		if err := json.Unmarshal(r.Listed, &r.Serials); err != nil {
			return nil, fmt.Errorf("reading the units in a carton: %w", err)
		}
		last.Goods = append(last.Goods, r.Goods)
	}
	return out, nil
}

// ReadOnTheWay reads what is on its way from a source to a site, cartons in the order they
// were made. There is none from a source that keeps no stock, such as a supplier.
func ReadOnTheWay(ctx context.Context, q sqlx.QueryerContext, source, site int32) (OnTheWay, error) {
	var w OnTheWay
	err := sqlx.SelectContext(ctx, q, &w, `
		SELECT b.item_id, coalesce(l.code, '') AS lot, coalesce(s.code, '') AS serial, b.carton_id,
		       coalesce((SELECT sscc FROM cartons WHERE id = b.carton_id), '') AS sscc, b.quantity
		  FROM balances b JOIN locations p ON p.id = b.location_id
		  LEFT JOIN lots l ON l.id = b.lot_id LEFT JOIN serials s ON s.id = b.serial_id
		  LEFT JOIN carton_work w ON w.carton_id = b.carton_id LEFT JOIN outbound_orders o ON o.id = w.order_id
		 WHERE p.id = $1 AND p.real AND b.quantity > 0 AND b.condition = 'good'
		   AND (b.carton_id IS NULL OR o.to_site_id = $2)
		 ORDER BY b.carton_id NULLS FIRST, b.item_id, s.code`, source, site)
	if err != nil {
		return nil, fmt.Errorf("reading what is on its way: %w", err)
	}
	return w, nil
}

// In is what of it is in one carton alone.
func (w OnTheWay) In(sscc string) OnTheWay {
	var out OnTheWay
	for _, g := range w {
		if g.SSCC == sscc {
			out = append(out, g)
		}
	}
	return out
}

// Of is how much of it is of an item and a lot, or, where it is named, of one unit.
func (w OnTheWay) Of(item int32, lot, serial string) decimal.Decimal {
	sum := decimal.Zero
	for _, g := range w {
		if g.Item == item && g.Lot == lot && (serial == "" || g.Serial == serial) {
			sum = sum.Add(g.Quantity)
		}
	}
	return sum
}

// Spread takes the goods of a move out of the cartons that they are on their way in: one
// move for each of them, and one more for what is in none, which the ledger then refuses.
func (w OnTheWay) Spread(m ledger.Move) []ledger.Move {
	var out []ledger.Move
	left := m.Quantity
	for _, g := range w {
		if g.Item != m.Item || g.Lot != m.LotCode || g.Serial != "" && g.Serial != m.SerialCode {
			continue
		}
		part := m
		if part.Quantity = decimal.Min(left, g.Quantity); !part.Quantity.IsPositive() {
			continue
		}
		part.FromBox = g.Carton
		g.Quantity, left = g.Quantity.Sub(part.Quantity), left.Sub(part.Quantity)
		out = append(out, part)
	}
	if left.IsPositive() {
		m.Quantity = left
		out = append(out, m)
	}
	return out
}
