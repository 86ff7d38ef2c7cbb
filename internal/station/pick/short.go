package pick

import (
	"context"
	"fmt"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/walking"
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
	left := stop.Quantity.Sub(stop.Picked).Sub(stop.Short)
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
	if err := reserveFound(ctx, tx, s, here); err != nil {
		return err
	}
	if err := countOnLine(ctx, tx, s.LineID, short.Neg(), decimal.Zero); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO count_requests (location_id, item_id, expected, found, round_id, raised_by, raised_at)
		VALUES ($1, $2, $3, $4, $5, $6, $7)`,
		s.LocationID, s.ItemID, s.Here, here, r.ID, tx.Person.ID, tx.Now); err != nil {
		return fmt.Errorf("putting a bin down for counting: %w", err)
	}
	return nil
}

// keepReserved keeps only so much of a stop's stock reserved.
func (s RoundStop) keepReserved(ctx context.Context, tx *command.Tx, keep decimal.Decimal) error {
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
	for _, s := range others {
		seq, err := cheapestPosition(ctx, tx, r.ID, stop.Seq, p.floor, p.bench.Point(), p.at[s.LocationID])
		if err != nil {
			return err
		}
		if err := addStops(ctx, tx, []position{{r.ID, seq}}, []ProposedStop{s}); err != nil {
			return err
		}
	}
	return nil
}

// cheapestPosition makes room for a further stop behind the one where somebody stands.
func cheapestPosition(
	ctx context.Context, tx *command.Tx, round int64, behind int, floor walking.Floor, bench, p walking.Point,
) (int, error) {
	var stops []struct {
		Seq  int
		X, Y float64
	}
	if err := tx.SelectContext(ctx, &stops, `
		SELECT s.seq, p.x, p.y FROM round_stops s JOIN locations p ON p.id = s.location_id WHERE s.round_id = $1
		   AND s.seq >= $2 ORDER BY s.seq`, round, behind); err != nil {
		return 0, fmt.Errorf("reading the rest of a round: %w", err)
	}
	seq, least := 0, -1.0
	for i, s := range stops {
		at, next := walking.Point{X: s.X, Y: s.Y}, bench
		if i+1 < len(stops) {
			next = walking.Point{X: stops[i+1].X, Y: stops[i+1].Y}
		}
		if extra := floor.Distance(at, p) + floor.Distance(p, next) - floor.Distance(at, next); least < 0 ||
			extra < least {
			seq, least = s.Seq+1, extra
		}
	}
	return seq, makeRoom(ctx, tx, round, seq)
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
