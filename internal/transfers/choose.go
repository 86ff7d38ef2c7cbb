package transfers

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// chosenStock is goods that go with a line of a transfer and no others.
type chosenStock struct {
	ledger.Stock
	quantity decimal.Decimal
}

// free is stock of a lot or a unit that is reserved for nobody.
type free struct {
	Location int32           `db:"location_id"`
	Lot      *int64          `db:"lot_id"`
	Serial   *int64          `db:"serial_id"`
	Carton   *int64          `db:"carton_id"`
	Code     string          `db:"code"`
	Quantity decimal.Decimal `db:"quantity"`
}

// choose finds the lot or the units that a line names where the transfer leaves; nothing where it names none.
func (l NewLine) choose(
	ctx context.Context, q sqlx.QueryerContext, field string, from catalog.Site, item catalog.Item, quantity decimal.Decimal,
) ([]chosenStock, error) {
	if l.LotID == nil && len(l.Serials) == 0 {
		return nil, nil
	}
	if err := l.checkUnits(field, item, quantity); err != nil {
		return nil, err
	}
	var rows []free
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT b.location_id, b.lot_id, b.serial_id, b.carton_id, coalesce(u.code, '') AS code, b.quantity - b.reserved AS quantity
		  FROM balances b JOIN locations p ON p.id = b.location_id LEFT JOIN serials u ON u.id = b.serial_id
		 WHERE p.site_id = $1 AND p.kind IN ('bin', 'dock') AND b.item_id = $2 AND b.condition = 'good'
		   AND b.quantity > b.reserved AND ($3::bigint IS NULL OR b.lot_id = $3)
		   AND (cardinality($4::text[]) = 0 OR u.code = ANY($4))
		   AND NOT EXISTS (SELECT FROM carton_work w WHERE w.carton_id = b.carton_id)
		 ORDER BY p.kind, p.code, b.carton_id NULLS FIRST`, from.ID, item.ID, l.LotID, append([]string{}, l.Serials...))
	if err != nil {
		return nil, fmt.Errorf("reading what may go: %w", err)
	}
	for _, code := range l.Serials {
		if !slices.ContainsFunc(rows, func(r free) bool { return r.Code == code }) {
			return nil, refusal.New(refusal.SerialGone, field+".serials",
				"Serial %s of %s is not free at %s: it is elsewhere, or reserved for somebody. Choose another.", code, item.SKU, from.Name).
				Of(refusal.Conflict)
		}
	}
	out, left := []chosenStock{}, quantity
	for _, r := range rows {
		if part := decimal.Min(left, r.Quantity); part.IsPositive() {
			out = append(out, chosenStock{ledger.Stock{Location: r.Location, Item: item.ID, Lot: r.Lot, Serial: r.Serial, Carton: r.Carton}, part})
			left = left.Sub(part)
		}
	}
	if left.IsPositive() {
		return nil, refusal.New(refusal.NotEnough, field+".quantity",
			"%s of that lot of %s are free at %s, not %s. Take less of it, or leave the lot to the withdrawal rule.",
			quantity.Sub(left), item.SKU, from.Name, quantity).Of(refusal.Conflict).With("free", quantity.Sub(left))
	}
	return out, nil
}

// checkUnits refuses units of what is not known one by one, and others than as many as go.
func (l NewLine) checkUnits(field string, item catalog.Item, quantity decimal.Decimal) error {
	switch {
	case len(l.Serials) == 0:
		return nil
	case item.Tracking != receiving.Serial:
		return refusal.New(refusal.SerialUnwanted, field+".serials", "%s is not known unit by unit. Leave the serials out.", item.SKU)
	case !quantity.Equal(decimal.NewFromInt(int64(len(l.Serials)))):
		return refusal.New(refusal.SerialsTotal, field+".serials", "%d serials of %s are named, and %s go. Name one for each, or none.",
			len(l.Serials), item.SKU, quantity)
	}
	return receiving.CheckSerials(field+".serials", item.SKU, l.Serials)
}

// mayCover refuses to mean a line for another's that wants no such item at the other site.
func (w *written) mayCover(ctx context.Context, q sqlx.QueryerContext, field string, l NewLine) error {
	// What comes is received by item: it could not be told what of it is meant for whom.
	if slices.ContainsFunc(w.Lines, func(o NewLine) bool { return o.ItemID == l.ItemID && o.Covers != l.Covers }) {
		return refusal.New(refusal.LineTwice, field+".covers",
			"Some of an item is meant for an order, and some is not. Write a transfer of its own for each.")
	}
	if l.Covers == 0 {
		return nil
	}
	var fits bool
	err := sqlx.GetContext(ctx, q, &fits, `
		SELECT x.item_id = $2 AND o.site_id = $3 AND o.state IN ('on_hold', 'released')
		  FROM outbound_lines x JOIN outbound_orders o ON o.id = x.order_id WHERE x.id = $1`, l.Covers, l.ItemID, w.ToSiteID)
	no := refusal.New(refusal.LineUnknown, field+".covers",
		"No open order at the other site wants that item on such a line. Look at its shortages again.").Of(refusal.Conflict)
	if err == nil && !fits {
		return no
	}
	return documents.FoundOr(err, no)
}

// promise reserves what was chosen, and notes what the lines are meant for.
func (w written) promise(ctx context.Context, tx *command.Tx, ids []int64) error {
	for i, line := range ids {
		for _, c := range w.chosen[i] {
			if _, err := reservation.Reserve(ctx, tx, line, c.Stock, c.quantity); err != nil {
				return err
			}
		}
		if covers := w.Lines[i].Covers; covers != 0 {
			if _, err := tx.ExecContext(ctx, `INSERT INTO transfer_covers (line_id, covers) VALUES ($1, $2)`, line, covers); err != nil {
				return fmt.Errorf("noting what a transfer is meant for: %w", err)
			}
		}
	}
	return nil
}
