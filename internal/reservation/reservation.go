// Package reservation keeps what lines of sales orders have of stock (reservations by hand, stops on
// rounds, goods in cartons), and how it is given up when an order wants less.
package reservation

import (
	"context"
	"fmt"

	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Reservation is exact stock that is reserved for one order line.
type Reservation struct {
	ID          int64           `db:"id" json:"id"`
	LineID      int64           `db:"line_id" json:"line_id"`
	OrderID     int64           `db:"order_id" json:"order_id"`
	Order       string          `db:"order_number" json:"order"`
	Customer    string          `db:"customer" json:"customer"`
	WantedOn    string          `db:"wanted_on" json:"wanted_on"`
	LocationID  int32           `db:"location_id" json:"location_id"`
	Location    string          `db:"location" json:"location"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	LotID       *int64          `db:"lot_id" json:"lot_id"`
	Lot         string          `db:"lot" json:"lot"`
	Expires     string          `db:"expires" json:"expires"`
	SerialID    *int64          `db:"serial_id" json:"serial_id"`
	Serial      string          `db:"serial" json:"serial"`
	CartonID    *int64          `db:"carton_id" json:"carton_id"`
	Carton      string          `db:"carton" json:"carton"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	// Round is the round that it is for; empty for a reservation by hand or on its own.
	RoundID *int64  `db:"round_id" json:"round_id"`
	Round   string  `db:"round" json:"round"`
	Zone    string  `db:"zone" json:"-"`
	X       float64 `db:"x" json:"-"`
	Y       float64 `db:"y" json:"-"`
	documents.Sorted
}

// Stock is what the reservation reserves.
func (p Reservation) Stock() ledger.Stock {
	return ledger.Stock{Location: p.LocationID, Item: p.ItemID, Lot: p.LotID, Serial: p.SerialID, Carton: p.CartonID}
}

const reservationColumns = `
	SELECT x.id, x.line_id, o.id AS order_id, o.number AS order_number, o.recipient AS customer,
	       to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on,
	       p.id AS location_id, p.code AS location, coalesce((SELECT code FROM zones WHERE id = p.zone_id), '') AS zone,
	       p.x, p.y, i.id AS item_id, i.sku, i.description,
	       i.base_unit AS unit, x.lot_id, coalesce(l.code, '') AS lot,
	       coalesce(to_char(l.expires_on, 'YYYY-MM-DD'), '') AS expires, x.serial_id, coalesce(u.code, '') AS serial,
	       x.carton_id, coalesce(b.sscc, '') AS carton, x.quantity,
	       r.id AS round_id, coalesce(r.number, '') AS round
	  FROM reservations x JOIN outbound_lines s ON s.id = x.line_id JOIN outbound o ON o.id = s.order_id
	  JOIN locations p ON p.id = x.location_id JOIN items i ON i.id = x.item_id LEFT JOIN lots l ON l.id = x.lot_id
	  LEFT JOIN serials u ON u.id = x.serial_id
	  LEFT JOIN cartons b ON b.id = x.carton_id LEFT JOIN stop_reservations t ON t.reservation_id = x.id
	  LEFT JOIN rounds r ON r.id = t.round_id `

// ReservedFor names the orders that an item in a location is reserved for, but for one line's;
// nothing when it is reserved for none.
func ReservedFor(ctx context.Context, q sqlx.QueryerContext, location, item int32, but int64) (orders string, err error) {
	err = sqlx.GetContext(ctx, q, &orders, `
		SELECT coalesce(string_agg(DISTINCT o.number, ', '), '') FROM reservations x
		  JOIN outbound_lines s ON s.id = x.line_id JOIN outbound_orders o ON o.id = s.order_id
		WHERE x.location_id = $1 AND x.item_id = $2 AND x.line_id <> $3`, location, item, but)
	if err != nil {
		return "", fmt.Errorf("reading what is reserved in a bin: %w", err)
	}
	return orders, nil
}

// OfOrder lists an order's reservations.
func OfOrder(ctx context.Context, q sqlx.QueryerContext, order int64) ([]Reservation, error) {
	return reservations(ctx, q, `WHERE o.id = $1 ORDER BY s.line, x.id`, order)
}

// OfGoods lists the reservations of lots and units that no round has yet; those that name no unit are among them where
// one of these units stands there.
func OfGoods(ctx context.Context, q sqlx.QueryerContext, lots, units []int64) ([]Reservation, error) {
	return reservations(ctx, q, `
		WHERE t.stop_id IS NULL AND (x.lot_id = ANY($1) OR x.serial_id = ANY($2) OR x.serial_id IS NULL AND EXISTS (
		      SELECT FROM balances y WHERE y.serial_id = ANY($2) AND y.location_id = x.location_id AND y.item_id = x.item_id))
		 ORDER BY x.id`, lots, units)
}

// At lists the reservations of goods, whatever the unit: those of no round first, then those that were made last.
func At(ctx context.Context, q sqlx.QueryerContext, goods ledger.Stock) ([]Reservation, error) {
	return reservations(ctx, q, `
		WHERE x.location_id = $1 AND x.item_id = $2 AND x.lot_id IS NOT DISTINCT FROM $3 AND x.carton_id IS NOT DISTINCT FROM $4
		 ORDER BY t.stop_id IS NOT NULL, x.id DESC`, goods.Location, goods.Item, goods.Lot, goods.Carton)
}

// ByHand lists the reservations of lines that no round has yet.
func ByHand(ctx context.Context, q sqlx.QueryerContext, lines []int64) ([]Reservation, error) {
	return reservations(ctx, q, `WHERE x.line_id = ANY($1) AND t.stop_id IS NULL ORDER BY x.id`, lines)
}

// ByID reads a reservation.
func ByID(ctx context.Context, q sqlx.QueryerContext, id int64) (p Reservation, known bool, err error) {
	found, err := reservations(ctx, q, `WHERE x.id = $1`, id)
	if len(found) == 1 {
		return found[0], true, err
	}
	return p, false, err
}

func reservations(ctx context.Context, q sqlx.QueryerContext, where string, args ...any) ([]Reservation, error) {
	out := []Reservation{}
	if err := sqlx.SelectContext(ctx, q, &out, reservationColumns+where, args...); err != nil {
		return nil, fmt.Errorf("reading reservations: %w", err)
	}
	return out, nil
}

// Unreserve frees so much of a reservation, in base units. The order is held.
func Unreserve(ctx context.Context, tx *command.Tx, p Reservation, amount decimal.Decimal) error {
	_, err := Renew(ctx, tx, &p.ID, p.Stock(), p.LineID, p.Quantity.Sub(amount))
	return err
}

// Renew frees a reservation, if one is named, and reserves only so much of its stock again,
// in base units. It returns the new reservation; nil when nothing is kept. The line's order
// is held.
func Renew(
	ctx context.Context, tx *command.Tx, reservation *int64, stock ledger.Stock, line int64, keep decimal.Decimal,
) (*int64, error) {
	if reservation != nil {
		if err := ledger.Unreserve(ctx, tx, *reservation); err != nil {
			return nil, err
		}
	}
	if !keep.IsPositive() {
		return nil, nil
	}
	id, err := ledger.Reserve(ctx, tx, stock, line, keep)
	return &id, err
}
