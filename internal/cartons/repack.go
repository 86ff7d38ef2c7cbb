package cartons

import (
	"context"
	"fmt"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// PartMove takes so much of an item, lot and, where serial is not empty, unit from one carton
// into another where it stands, in base units.
func PartMove(
	ctx context.Context, q sqlx.QueryerContext, from, to int64, item int32, lot *int64, serial string,
	quantity decimal.Decimal,
) (ledger.Move, error) {
	all, err := standing(ctx, q, from)
	if err != nil {
		return ledger.Move{}, err
	}
	for _, s := range all {
		if s.Item != item || !ledger.Same(s.Lot, lot) || serial != "" && s.Code != serial || s.Quantity.LessThan(quantity) {
			continue
		}
		return ledger.Move{Item: item, Lot: lot, Serial: s.Serial, SerialCode: s.Code, Quantity: quantity,
			From: s.Location, FromBox: &from, To: s.Location, ToBox: &to}, nil
	}
	return ledger.Move{}, refusal.New(refusal.NotEnough, "quantity", "The carton does not hold %s of it in one piece.",
		quantity).Of(refusal.Conflict)
}

// MoveContent counts what a move took from one carton into another for an order line. What was
// scanned at the bench is scanned anew. The cartons are held.
func MoveContent(ctx context.Context, tx *command.Tx, from, to, line int64, m ledger.Move) error {
	key := ` WHERE carton_id = $1 AND line_id = $2 AND item_id = $3 AND lot_id IS NOT DISTINCT FROM $4
		   AND serial_id IS NOT DISTINCT FROM $5`
	for _, step := range []struct {
		statement string
		carton    int64
	}{
		{`DELETE FROM carton_contents` + key + ` AND quantity = $6`, from},
		{`UPDATE carton_contents SET quantity = quantity - $6, checked = 0` + key + ` AND quantity > $6`, from},
		{`INSERT INTO carton_contents (carton_id, line_id, item_id, lot_id, serial_id, quantity)
		  VALUES ($1, $2, $3, $4, $5, $6)
		  ON CONFLICT (carton_id, line_id, item_id, coalesce(lot_id, 0), coalesce(serial_id, 0)) DO UPDATE
		  SET quantity = carton_contents.quantity + EXCLUDED.quantity, checked = 0`, to},
	} {
		_, err := tx.ExecContext(ctx, step.statement, step.carton, line, m.Item, m.Lot, m.Serial, m.Quantity)
		if err != nil {
			return fmt.Errorf("moving a carton's contents: %w", err)
		}
	}
	return nil
}

// BlankIfEmpty lets a carton that is empty now, at the bench, be used anew. The carton is held.
func BlankIfEmpty(ctx context.Context, tx *command.Tx, carton int64) error {
	var empty []int64
	if err := tx.SelectContext(ctx, &empty, `
		SELECT carton_id FROM carton_work w
		 WHERE carton_id = $1 AND state = 'at_bench'
		   AND NOT EXISTS (SELECT FROM balances WHERE carton_id = w.carton_id)`, carton); err != nil {
		return fmt.Errorf("looking into a carton: %w", err)
	}
	return documents.Step(ctx, tx, states.Cartons, empty, states.CartonBlank,
		"order_id = NULL, round_id = NULL, letter = '', changed_at = $4", tx.Now)
}
