// Package demand keeps what lines of sales orders have of stock (pins by hand, stops on
// rounds, goods in cartons), and how it is given up when an order wants less.
package demand

import (
	"context"
	"fmt"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Pin is exact stock that is tied to one order line.
type Pin struct {
	ID          int64           `db:"id" json:"id"`
	LineID      int64           `db:"line_id" json:"line_id"`
	OrderID     int64           `db:"order_id" json:"order_id"`
	Order       string          `db:"order_number" json:"order"`
	Customer    string          `db:"customer" json:"customer"`
	WantedOn    string          `db:"wanted_on" json:"wanted_on"`
	PlaceID     int32           `db:"place_id" json:"place_id"`
	Place       string          `db:"place" json:"place"`
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
	// Round is the round that it is for; empty for a pin by hand or by itself.
	RoundID *int64  `db:"round_id" json:"round_id"`
	Round   string  `db:"round" json:"round"`
	X       float64 `db:"x" json:"-"`
	Y       float64 `db:"y" json:"-"`
}

// Stock is what the pin ties.
func (p Pin) Stock() ledger.Stock {
	return ledger.Stock{Place: p.PlaceID, Item: p.ItemID, Lot: p.LotID, Serial: p.SerialID, Carton: p.CartonID}
}

const pinColumns = `
	SELECT x.id, x.line_id, o.id AS order_id, o.number AS order_number, o.recipient AS customer, to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on,
	       p.id AS place_id, p.code AS place, p.x, p.y, i.id AS item_id, i.sku, i.description, i.base_unit AS unit, x.lot_id, coalesce(l.code, '') AS lot,
	       coalesce(to_char(l.expires_on, 'YYYY-MM-DD'), '') AS expires, x.serial_id, coalesce(u.code, '') AS serial, x.carton_id, coalesce(b.sscc, '') AS carton, x.quantity,
	       r.id AS round_id, coalesce(r.number, '') AS round
	  FROM pins x JOIN outbound_lines s ON s.id = x.line_id JOIN outbound o ON o.id = s.order_id
	  JOIN places p ON p.id = x.place_id JOIN items i ON i.id = x.item_id LEFT JOIN lots l ON l.id = x.lot_id LEFT JOIN serials u ON u.id = x.serial_id
	  LEFT JOIN cartons b ON b.id = x.carton_id LEFT JOIN round_stops t ON t.pin_id = x.id LEFT JOIN rounds r ON r.id = t.round_id `

// TiedTo names the orders that an item in a place is pinned to, but for one line's;
// nothing when it is pinned to none.
func TiedTo(ctx context.Context, q sqlx.QueryerContext, place, item int32, but int64) (orders string, err error) {
	err = sqlx.GetContext(ctx, q, &orders, `SELECT coalesce(string_agg(DISTINCT o.number, ', '), '') FROM pins x JOIN outbound_lines s ON s.id = x.line_id JOIN outbound_orders o ON o.id = s.order_id
		WHERE x.place_id = $1 AND x.item_id = $2 AND x.line_id <> $3`, place, item, but)
	if err != nil {
		return "", fmt.Errorf("reading what pins a bin: %w", err)
	}
	return orders, nil
}

// PinsAt lists a site's pins by the day on which their order is wanted.
func PinsAt(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Pin, error) {
	return pins(ctx, q, `WHERE o.site_id = $1 ORDER BY o.wanted_on, o.id, x.id LIMIT 2000`, site)
}

// PinsOfOrder lists an order's pins.
func PinsOfOrder(ctx context.Context, q sqlx.QueryerContext, order int64) ([]Pin, error) {
	return pins(ctx, q, `WHERE o.id = $1 ORDER BY s.line, x.id`, order)
}

// ByHand lists the pins of lines that no round has yet.
func ByHand(ctx context.Context, q sqlx.QueryerContext, lines []int64) ([]Pin, error) {
	return pins(ctx, q, `WHERE x.line_id = ANY($1) AND t.id IS NULL ORDER BY x.id`, lines)
}

// PinByID reads a pin.
func PinByID(ctx context.Context, q sqlx.QueryerContext, id int64) (p Pin, known bool, err error) {
	found, err := pins(ctx, q, `WHERE x.id = $1`, id)
	if len(found) == 1 {
		return found[0], true, err
	}
	return p, false, err
}

func pins(ctx context.Context, q sqlx.QueryerContext, where string, args ...any) ([]Pin, error) {
	out := []Pin{}
	if err := sqlx.SelectContext(ctx, q, &out, pinColumns+where, args...); err != nil {
		return nil, fmt.Errorf("reading pins: %w", err)
	}
	return out, nil
}

// Loosen lets so much of a pin by hand loose.
func Loosen(ctx context.Context, tx *command.Tx, p Pin, amount decimal.Decimal) error {
	_, err := Retie(ctx, tx, &p.ID, p.Stock(), p.LineID, p.Quantity.Sub(amount))
	return err
}

// Retie lets a pin of a line loose, and ties only so much of its stock again. It returns
// the new pin; nil when nothing is kept.
func Retie(ctx context.Context, tx *command.Tx, pin *int64, stock ledger.Stock, line int64, keep decimal.Decimal) (*int64, error) {
	if pin != nil {
		if err := ledger.Unpin(ctx, tx, *pin); err != nil {
			return nil, err
		}
	}
	if !keep.IsPositive() {
		return nil, nil
	}
	id, err := ledger.Pin(ctx, tx, stock, line, keep)
	return &id, err
}
