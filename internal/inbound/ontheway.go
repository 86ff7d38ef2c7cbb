package inbound

import (
	"context"
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
	Quantity decimal.Decimal
}

// ReadOnTheWay reads what is on its way from a source to a site, cartons in the order they
// were made. There is none from a source that keeps no stock, such as a supplier.
func ReadOnTheWay(ctx context.Context, q sqlx.QueryerContext, source, site int32) (OnTheWay, error) {
	var w OnTheWay
	err := sqlx.SelectContext(ctx, q, &w, `
		SELECT b.item_id, coalesce(l.code, '') AS lot, coalesce(s.code, '') AS serial, b.carton_id, b.quantity
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
