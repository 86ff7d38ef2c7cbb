package inbound

import (
	"context"
	"fmt"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Waiting is goods of one receipt that wait on the dock for the rest of their order.
type Waiting struct {
	MoveID   int64           `db:"move_id"`
	Order    string          `db:"order_number"`
	SiteID   int32           `db:"site_id"`
	Item     int32           `db:"item_id"`
	Lot      *int64          `db:"lot_id"`
	Serial   *int64          `db:"serial_id"`
	Carton   *int64          `db:"to_carton"`
	Location int32           `db:"to_location"`
	Covers   *int64          `db:"covers"`
	Quantity decimal.Decimal `db:"quantity"`
}

func (w Waiting) stock() ledger.Stock {
	return ledger.Stock{Location: w.Location, Item: w.Item, Lot: w.Lot, Serial: w.Serial, Carton: w.Carton}
}

// WaitingFor reads the goods that wait for the rest of an order.
func WaitingFor(ctx context.Context, q sqlx.QueryerContext, order int64) ([]Waiting, error) {
	var out []Waiting
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT l.covers, b.move_id, o.number AS order_number, o.site_id, m.item_id, m.lot_id, m.serial_id, m.to_carton,
		       m.to_location, m.quantity
		  FROM receipts b JOIN inbound_lines l ON l.id = b.line_id JOIN inbound_orders o ON o.id = l.order_id
		  JOIN moves m ON m.id = b.move_id
		 WHERE l.order_id = $1 AND m.to_condition = 'waiting' AND b.undone_at IS NULL AND b.released_at IS NULL
		 ORDER BY b.move_id`, order)
	if err != nil {
		return nil, fmt.Errorf("reading what waits for an order: %w", err)
	}
	return out, nil
}

// Release lets the goods of an order go that waited on the dock for it: they are free from
// then on, or reserved for the line that they are meant for. The order is held by Hold.
func Release(ctx context.Context, tx *command.Tx, order int64, why string) error {
	waiting, err := WaitingFor(ctx, tx, order)
	if err != nil || len(waiting) == 0 {
		return err
	}
	moves := make([]ledger.Move, len(waiting))
	ids := make([]int64, len(waiting))
	for i, w := range waiting {
		moves[i] = ledger.Move{Item: w.Item, Lot: w.Lot, Serial: w.Serial, Quantity: w.Quantity,
			From: w.Location, FromBox: w.Carton, FromState: posting.Waiting, To: w.Location, ToBox: w.Carton, ToState: posting.Good}
		ids[i] = w.MoveID
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Release, Document: waiting[0].Order, Note: why},
		moves); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE receipts SET released_at = $2 WHERE move_id = ANY($1)`, ids, tx.Now); err != nil {
		return fmt.Errorf("noting a release: %w", err)
	}
	for _, w := range waiting {
		if err := reserveCovered(ctx, tx, w.Covers, w.stock(), w.Quantity); err != nil {
			return err
		}
	}
	tx.NotifySite(waiting[0].SiteID, ledger.Topics("receive", "putaway", "row")...)
	return nil
}

// ReserveMoved reserves what moves left in good condition for the outbound line that their inbound
// line covers, if any.
func ReserveMoved(ctx context.Context, tx *command.Tx, covers *int64, moves []ledger.Move) error {
	for _, m := range moves {
		if m.ToState != "" && m.ToState != posting.Good {
			continue
		}
		stock := ledger.Stock{Location: m.To, Item: m.Item, Lot: m.Lot, Serial: m.Serial, Carton: m.ToBox}
		if err := reserveCovered(ctx, tx, covers, stock, m.Quantity); err != nil {
			return err
		}
	}
	return nil
}

// reserveCovered reserves goods for the outbound line that their inbound line covers, if any.
func reserveCovered(
	ctx context.Context, tx *command.Tx, covers *int64, stock ledger.Stock, quantity decimal.Decimal,
) error {
	if covers == nil {
		return nil
	}
	_, err := reservation.Reserve(ctx, tx, *covers, stock, quantity)
	return err
}
