package orders

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

// ReserveFree reserves what an order can have now without taking what orders before it are
// promised, line by line in the order of withdrawal. The rest stays open.
func ReserveFree(ctx context.Context, tx *command.Tx, order int64) (Order, error) {
	if err := documents.Change(ctx, tx, documents.OutboundOrder, order, 0, "reserved what is free"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, order)
	if err != nil {
		return o, err
	}
	if o.State != states.OnHold && o.State != states.Released {
		return o, refusal.New(refusal.OrderNotOpen, "",
			"%s is %s. Stock is reserved for orders that are on hold or released.", o.Number, states.Label(o.State)).
			Of(refusal.Conflict)
	}
	reserved := decimal.Zero
	for _, l := range o.Lines {
		if l.ItemID == 0 || !l.Due.IsPositive() {
			continue
		}
		n, err := reserveFree(ctx, tx, l.ID)
		if err != nil {
			return o, err
		}
		reserved = reserved.Add(n)
	}
	if reserved.IsZero() {
		return o, refusal.New(refusal.NothingToTake, "",
			"Nothing that %s wants is free: it is reserved already, promised to others, or not there.", o.Number).
			Of(refusal.Conflict)
	}
	tx.NotifySite(o.SiteID, ledger.Topics(topics...)...)
	return readOrder(ctx, tx, order)
}

// promisedBefore is what open orders that come before the line's are promised of its item, and
// have not reserved.
func promisedBefore(ctx context.Context, q sqlx.QueryerContext, l lineFacts) (promised decimal.Decimal, err error) {
	err = sqlx.GetContext(ctx, q, &promised, `
		SELECT coalesce(sum(x.due - coalesce((SELECT sum(quantity) FROM reservations WHERE line_id = x.id), 0)), 0)
		  FROM outbound_lines x JOIN outbound_orders o ON o.id = x.order_id
		  JOIN outbound_orders mine ON mine.id = $3
		 WHERE x.item_id = $1 AND o.site_id = $2 AND o.state IN ('on_hold', 'released') AND x.due > 0
		   AND (o.wanted_on, o.id) < (mine.wanted_on, mine.id)`, l.ItemID, l.SiteID, l.OrderID)
	if err != nil {
		return promised, fmt.Errorf("reading what is promised before: %w", err)
	}
	return promised, nil
}

// reserveFree reserves what is free for a line, in base units. Its order is held.
func reserveFree(ctx context.Context, tx *command.Tx, line int64) (reserved decimal.Decimal, err error) {
	l, err := readLine(ctx, tx, line)
	if err != nil {
		return reserved, err
	}
	left := l.Due.Sub(l.Reserved)
	figures, err := ledger.FiguresOf(ctx, tx, l.ItemID, l.SiteID)
	if err != nil {
		return reserved, err
	}
	earlier, err := promisedBefore(ctx, tx, l)
	if err != nil {
		return reserved, err
	}
	left = decimal.Min(left, figures.Free.Add(figures.Promised).Sub(earlier))
	stock, err := holdings(ctx, tx, line, tx.Now)
	if err != nil {
		return reserved, err
	}
	for _, h := range stock {
		take := decimal.Min(left, h.Available)
		if h.TooOld || !take.IsPositive() {
			continue
		}
		held := ledger.Stock{Location: h.LocationID, Item: l.ItemID, Lot: h.LotID, Carton: h.CartonID}
		if _, err := ledger.Reserve(ctx, tx, held, line, take); err != nil {
			return reserved, err
		}
		left, reserved = left.Sub(take), reserved.Add(take)
	}
	return reserved, nil
}
