package orders

import (
	"context"

	"lanternrow/internal/availability"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

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
		n, err := reserveFree(ctx, tx, l.ID, o.WantedOn)
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

// reserveFree reserves what is free for a line of an order that is wanted on a day, in base
// units. The order is held.
func reserveFree(ctx context.Context, tx *command.Tx, line int64, wantedOn string) (reserved decimal.Decimal, err error) {
	l, err := readLine(ctx, tx, line)
	if err != nil {
		return reserved, err
	}
	left := l.Due.Sub(l.Reserved)
	figures, err := ledger.FiguresOf(ctx, tx, l.ItemID, l.SiteID)
	if err != nil {
		return reserved, err
	}
	promises, err := availability.Promises(ctx, tx, l.SiteID, []int32{l.ItemID}, []int64{l.OrderID})
	if err != nil {
		return reserved, err
	}
	free := figures.Free.Add(figures.Promised)
	for _, p := range promises[l.ItemID] {
		if p.Before(wantedOn, l.OrderID) {
			free = free.Sub(p.Quantity)
		}
	}
	left = decimal.Min(left, free)
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
