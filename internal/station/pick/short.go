package pick

import (
	"context"
	"fmt"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/countrequests"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/shopspring/decimal"
)

// Short notes that a bin holds less than planned: what is short is planned from
// other bins where there is any, and the bin is put down for counting.
func Short(ctx context.Context, tx *command.Tx, id, stopID int64, found string) (Round, error) {
	r, err := readReplanning(ctx, tx, id, "found a bin short")
	if err != nil {
		return r, err
	}
	stop, err := r.stop(stopID)
	if err != nil {
		return r, err
	}
	here, err := stop.quantity("found", found)
	if err != nil {
		return r, err
	}
	if len(stop.Units) > 0 && here.IsPositive() {
		return r, refusal.New(refusal.SerialMissing, "found",
			"%s is promised these very units of %s: scan those that are here and take them, then say that of the rest "+
				"none is here.", stop.Order, stop.SKU).Of(refusal.Conflict)
	}
	left := stop.left()
	short := left.Sub(here)
	if short.IsZero() {
		return r, refusal.New(refusal.NotShort, "found", "%s are there, as planned. Take them.", here)
	}
	if err := stop.foundShort(ctx, tx, r, here, short); err != nil {
		return r, err
	}
	if err := replace(ctx, tx, r, stop, short); err != nil {
		return r, err
	}
	tx.NotifySite(r.SiteID, ledger.Topics(append(topics, "audit")...)...)
	return readRound(ctx, tx, id)
}

// foundShort notes what a bin is short of, and puts the bin down for counting.
func (s RoundStop) foundShort(ctx context.Context, tx *command.Tx, r Round, here, short decimal.Decimal) error {
	if err := s.shorten(ctx, tx, here, short); err != nil {
		return err
	}
	return countrequests.Raise(ctx, tx, countrequests.Request{Location: s.LocationID, Item: s.ItemID, Why: countrequests.Short, Found: &here,
		Round: &r.ID})
}

// shorten keeps reserved only what is here, and takes what is short off the stop and off its line.
func (s RoundStop) shorten(ctx context.Context, tx *command.Tx, here, short decimal.Decimal) error {
	if err := reserveFound(ctx, tx, s, here); err != nil {
		return err
	}
	return countOnLine(ctx, tx, s.LineID, short.Neg(), decimal.Zero)
}

// keepReserved keeps only so much of a stop's stock reserved; of units by name, none.
func (s RoundStop) keepReserved(ctx context.Context, tx *command.Tx, keep decimal.Decimal) error {
	if len(s.Units) > 0 {
		return s.unreserveUnits(ctx, tx)
	}
	reservation, err := reservation.Renew(ctx, tx, s.ReservationID, s.stock(), s.LineID, keep)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE round_stops SET reservation_id = $2 WHERE id = $1`, s.ID, reservation); err != nil {
		return fmt.Errorf("reserving a stop: %w", err)
	}
	return nil
}

// unreserveUnits gives up the units by name that were not taken yet.
func (s RoundStop) unreserveUnits(ctx context.Context, tx *command.Tx) error {
	for _, u := range s.Units {
		if err := ledger.Unreserve(ctx, tx, u.ReservationID); err != nil {
			return err
		}
	}
	return nil
}

// reserveFound keeps reserved only what was found, and notes that the rest is short.
func reserveFound(ctx context.Context, tx *command.Tx, stop RoundStop, here decimal.Decimal) error {
	if err := stop.keepReserved(ctx, tx, here); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE round_stops SET short = quantity - picked - $2 WHERE id = $1`, stop.ID, here); err != nil {
		return fmt.Errorf("shortening a stop: %w", err)
	}
	return nil
}

// replace plans what a bin was short of from other bins, each put into the rest of the
// round where it costs the least extra walk.
func replace(ctx context.Context, tx *command.Tx, r Round, stop RoundStop, short decimal.Decimal) error {
	lines, err := linesByID(ctx, tx, []int64{stop.LineID})
	if err != nil {
		return err
	}
	line := lines[stop.LineID]
	line.Open = short
	p, err := newPlanner(ctx, tx, r.SiteID, []openLine{line}, nil)
	if err != nil {
		return err
	}
	// What is reserved elsewhere for the line by hand stays so.
	p.mine = nil
	others, _ := p.allocate([]openLine{line}, bounds{}, tx.Now)
	if len(others) == 0 {
		return nil
	}
	at, err := p.weave(ctx, tx, r.ID, stop.Seq, false, others)
	if err != nil {
		return err
	}
	return addStops(ctx, tx, at, others)
}

// makeRoom moves the stops from a number on up by one: numbers are unique in a round, so
// by way of numbers that nobody uses.
func makeRoom(ctx context.Context, tx *command.Tx, round int64, seq int) error {
	for _, shift := range []string{"seq = -seq - 1 WHERE round_id = $1 AND seq >= $2",
		"seq = -seq WHERE round_id = $1 AND seq < 0 AND $2 > 0"} {
		if _, err := tx.ExecContext(ctx, `UPDATE round_stops SET `+shift, round, seq); err != nil {
			return fmt.Errorf("making room for a stop: %w", err)
		}
	}
	return nil
}
