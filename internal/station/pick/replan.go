package pick

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/shopspring/decimal"
)

// Replan takes so many of these goods from the orders that they are reserved for, those of no round first and then
// those that were promised last, and plans them anew: from other bins, each in the round that it was on or reserved by
// hand again, as far as there is any. The orders are held by reservation.HoldFloor, and the bin is put down for
// counting, so that nothing is planned from it.
func Replan(ctx context.Context, tx *command.Tx, goods ledger.Stock, over decimal.Decimal) error {
	held, err := reservation.At(ctx, tx, goods)
	if err != nil {
		return err
	}
	for _, r := range held {
		cut := decimal.Min(over, r.Quantity)
		if !cut.IsPositive() {
			return nil
		}
		if r.RoundID == nil {
			err = replanByHand(ctx, tx, r, cut)
		} else {
			err = replanStop(ctx, tx, r, cut)
		}
		if err != nil {
			return err
		}
		over = over.Sub(cut)
	}
	return nil
}

// replanByHand reserves for a line elsewhere what it loses.
func replanByHand(ctx context.Context, tx *command.Tx, r reservation.Reservation, cut decimal.Decimal) error {
	if err := reservation.Unreserve(ctx, tx, r, cut); err != nil {
		return err
	}
	lines, err := linesByID(ctx, tx, []int64{r.LineID})
	if err != nil {
		return err
	}
	line, open := lines[r.LineID]
	if !open {
		return nil
	}
	line.Open = cut
	var site int32
	if err := tx.GetContext(ctx, &site, `SELECT site_id FROM locations WHERE id = $1`, r.LocationID); err != nil {
		return fmt.Errorf("reading a bin's site: %w", err)
	}
	p, err := newPlanner(ctx, tx, site, []openLine{line}, nil)
	if err != nil {
		return err
	}
	p.mine = nil
	stops, _ := p.allocate([]openLine{line}, bounds{}, tx.Now)
	for _, s := range stops {
		stock := ledger.Stock{Location: s.LocationID, Item: s.ItemID, Lot: s.LotID, Carton: s.CartonID}
		if _, err := reservation.Reserve(ctx, tx, r.LineID, stock, s.Quantity); err != nil {
			return err
		}
	}
	return nil
}

// replanStop shortens a stop, and has its round go elsewhere for the rest.
func replanStop(ctx context.Context, tx *command.Tx, r reservation.Reservation, cut decimal.Decimal) error {
	round, err := readRound(ctx, tx, *r.RoundID)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(round.Stops, func(s RoundStop) bool { return s.ReservationID != nil && *s.ReservationID == r.ID })
	if i < 0 {
		return refusal.New(refusal.Reserved, "", "%s of %s are reserved by the very unit for %s on %s. Say at its stop that it is not there.",
			r.Quantity, r.SKU, r.Order, r.Round).Of(refusal.Conflict)
	}
	stop := round.Stops[i]
	if err := stop.shorten(ctx, tx, stop.left().Sub(cut), cut); err != nil {
		return err
	}
	tx.NotifySite(round.SiteID, ledger.Topics(topics...)...)
	return replace(ctx, tx, round, stop, cut)
}
