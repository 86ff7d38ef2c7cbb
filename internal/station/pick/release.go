package pick

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/shopspring/decimal"
)

// Release releases a round: its stock is reserved for its orders.
func Release(ctx context.Context, tx *command.Tx, in Draft) (Round, error) {
	ids, err := release(ctx, tx, in.SiteID, [][]Stop{in.Stops}, nil, in.EachUnit)
	if err != nil {
		return Round{}, err
	}
	return readRound(ctx, tx, ids[0])
}

// release writes rounds and reserves what they take. What was reserved by hand to their lines is
// used by them so far as they go there, and stays reserved beyond.
func release(
	ctx context.Context, tx *command.Tx, site int32, drafts [][]Stop, wave *int32, eachUnit *bool,
) ([]int64, error) {
	var lines []int64
	for _, stops := range drafts {
		for _, s := range stops {
			lines = append(lines, s.LineID)
		}
	}
	if err := lockOrders(ctx, tx, lines); err != nil {
		return nil, err
	}
	_, rounds, err := review(ctx, tx, site, drafts)
	if err != nil {
		return nil, err
	}
	left, err := unreserve(ctx, tx, lines)
	if err != nil {
		return nil, err
	}
	ids := make([]int64, len(rounds))
	var at []position
	var all []ProposedStop
	for n, p := range rounds {
		err = tx.GetContext(ctx, &ids[n], `
			INSERT INTO rounds (site_id, state, metres, plain_metres, minutes, each_unit, wave, path, released_at,
			  changed_by, changed_at, last_change)
			VALUES ($1, 'released', $2, $3, $4, coalesce($5, (SELECT each_unit FROM sites WHERE id = $1)), $6, $7, $8,
			  $9, $8, 'release it') RETURNING id`,
			site, p.Metres, p.PlainMetres, p.Time.Minutes, eachUnit, wave, string(p.Path), tx.Now, tx.Person.ID)
		if err != nil {
			return nil, fmt.Errorf("writing a round: %w", err)
		}
		documents.Made(tx, documents.Round, ids[n])
		for i, s := range p.Stops {
			at, all = append(at, position{ids[n], i + 1}), append(all, s)
		}
	}
	if err := left.use(ctx, tx, at, all); err != nil {
		return nil, err
	}
	tx.NotifySite(site, ledger.Topics(topics...)...)
	return ids, nil
}

// unreserved are reservations by hand that were unreserved for rounds, with what is left of each.
type unreserved []reservation.Reservation

// unreserve frees what is reserved by hand to these lines.
func unreserve(ctx context.Context, tx *command.Tx, lines []int64) (unreserved, error) {
	reservations, err := reservation.ByHand(ctx, tx, lines)
	if err != nil {
		return nil, err
	}
	for _, p := range reservations {
		if err := reservation.Unreserve(ctx, tx, p, p.Quantity); err != nil {
			return nil, err
		}
	}
	return reservations, nil
}

// use writes stops where they stand; what they leave of the reservations is reserved again.
func (l unreserved) use(ctx context.Context, tx *command.Tx, at []position, stops []ProposedStop) error {
	for _, s := range stops {
		l.spend(s)
	}
	if err := addStops(ctx, tx, at, stops); err != nil {
		return err
	}
	return l.reserve(ctx, tx)
}

// spend counts a stop's goods against the reservations that they were under.
func (l unreserved) spend(s ProposedStop) {
	want := s.Quantity
	for i := range l {
		p := &l[i]
		if p.LineID == s.LineID && p.LocationID == s.LocationID && ledger.Same(p.LotID, s.LotID) &&
			ledger.Same(p.CartonID, s.CartonID) && s.takes(p.SerialID) {
			part := decimal.Min(want, p.Quantity)
			p.Quantity, want = p.Quantity.Sub(part), want.Sub(part)
		}
	}
}

// takes tells whether the stop takes a unit that is reserved by name, or for no unit by name goods that are not.
func (s ProposedStop) takes(serial *int64) bool {
	if serial == nil {
		return len(s.SerialIDs) == 0
	}
	return slices.Contains(s.SerialIDs, *serial)
}

// reserve reserves again what no stop used, so far as its line still wants it.
func (l unreserved) reserve(ctx context.Context, tx *command.Tx) error {
	for _, p := range l {
		if !p.Quantity.IsPositive() {
			continue
		}
		if _, err := reservation.Reserve(ctx, tx, p.LineID, p.Stock(), p.Quantity); err != nil {
			return err
		}
	}
	return nil
}

// lockOrders holds the orders of lines, so that two leads cannot plan the same line
// twice.
func lockOrders(ctx context.Context, tx *command.Tx, lines []int64) error {
	orders, err := ordersOfLines(ctx, tx, lines)
	if err != nil {
		return err
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.OutboundOrder, orders...)); err != nil {
		return err
	}
	return noteOnRound(ctx, tx, orders)
}

// noteOnRound notes that orders, which are held, are on a round.
func noteOnRound(ctx context.Context, tx *command.Tx, orders []int64) error {
	_, err := tx.ExecContext(ctx, `
		UPDATE outbound_orders SET version = version + 1, changed_by = $2, changed_at = $3,
		  last_change = 'put it on a round'
		WHERE id = ANY($1)`, orders, tx.Person.ID, tx.Now)
	if err != nil {
		return fmt.Errorf("noting that orders are on a round: %w", err)
	}
	return nil
}

// ordersOf are the orders that a round serves. Others may be added until the round is held, whose stops then wait
// for it as theirs do.
func ordersOf(ctx context.Context, tx *command.Tx, round int64) (orders []int64, err error) {
	err = tx.SelectContext(ctx, &orders, `
		SELECT DISTINCT l.order_id FROM round_stops s JOIN outbound_lines l ON l.id = s.line_id WHERE s.round_id = $1`,
		round)
	if err != nil {
		return nil, fmt.Errorf("reading a round's orders: %w", err)
	}
	return orders, nil
}

// A position is where a stop stands on its round.
type position struct {
	round int64
	seq   int
}

// addStops reserves the stops' goods and writes them down, all in a few statements however
// many there are.
func addStops(ctx context.Context, tx *command.Tx, at []position, stops []ProposedStop) error {
	n := len(stops)
	rounds, seqs, lines, locations, items, quantities := make([]int64, n), make([]int, n), make([]int64,
		n), make([]int32, n), make([]int32, n), make([]string, n)
	lots, cartons, reservations := make([]*int64, n), make([]*int64, n), make([]*int64, n)
	var wanted []ledger.Reservation
	first := make([]int, n)
	for i, s := range stops {
		first[i] = len(wanted)
		wanted = append(wanted, s.reservations()...)
		rounds[i], seqs[i], lines[i], locations[i], items[i], quantities[i] = at[i].round, at[i].seq, s.LineID, s.LocationID, s.ItemID, s.Quantity.String()
		lots[i], cartons[i] = s.LotID, s.CartonID
	}
	made, err := ledger.ReserveAll(ctx, tx, wanted)
	if err != nil {
		return err
	}
	var units stopUnits
	for i, s := range stops {
		if len(s.SerialIDs) == 0 {
			reservations[i] = &made[first[i]]
		}
		for k, serial := range s.SerialIDs {
			units.add(at[i], serial, made[first[i]+k])
		}
	}
	_, err = tx.ExecContext(ctx, `
		WITH s AS (SELECT *
		  FROM unnest($1::bigint[], $2::int[], $3::bigint[], $4::int[], $5::int[], $6::bigint[], $7::bigint[],
		  $8::text[], $9::bigint[])
		               AS t(round_id, seq, line_id, location_id, item_id, lot_id, carton_id, quantity,
		               reservation_id)),
		     l AS (UPDATE outbound_lines x SET planned = planned + t.q
		     FROM (SELECT line_id, sum(quantity::numeric) AS q FROM s GROUP BY 1) AS t WHERE x.id = t.line_id)
		INSERT INTO round_stops (round_id, seq, line_id, location_id, item_id, lot_id, carton_id, quantity,
		  reservation_id)
		SELECT round_id, seq, line_id, location_id, item_id, lot_id, carton_id, quantity::numeric,
		       reservation_id FROM s`,
		rounds, seqs, lines, locations, items, lots, cartons, quantities, reservations)
	if err != nil {
		return fmt.Errorf("writing stops: %w", err)
	}
	return units.write(ctx, tx)
}

// reservations are what a stop reserves: all of it as one, or each of its units by name.
func (s ProposedStop) reservations() []ledger.Reservation {
	if len(s.SerialIDs) == 0 {
		return []ledger.Reservation{{Stock: s.stock(), Line: s.LineID, Quantity: s.Quantity}}
	}
	out := make([]ledger.Reservation, len(s.SerialIDs))
	for i := range s.SerialIDs {
		unit := s.stock()
		unit.Serial = &s.SerialIDs[i]
		out[i] = ledger.Reservation{Stock: unit, Line: s.LineID, Quantity: decimal.NewFromInt(1)}
	}
	return out
}

// stopUnits are units that stops take by name, with what reserves each.
type stopUnits struct {
	rounds, serials, reservations []int64
	seqs                          []int
}

func (u *stopUnits) add(at position, serial, reservation int64) {
	u.rounds, u.seqs = append(u.rounds, at.round), append(u.seqs, at.seq)
	u.serials, u.reservations = append(u.serials, serial), append(u.reservations, reservation)
}

// write writes them down; the stops that take them are there already.
func (u stopUnits) write(ctx context.Context, tx *command.Tx) error {
	if len(u.serials) == 0 {
		return nil
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO stop_units (stop_id, serial_id, round_id, reservation_id)
		SELECT s.id, u.serial_id, u.round_id, u.reservation_id
		  FROM unnest($1::bigint[], $2::int[], $3::bigint[], $4::bigint[]) AS u(round_id, seq, serial_id, reservation_id)
		  JOIN round_stops s ON s.round_id = u.round_id AND s.seq = u.seq`, u.rounds, u.seqs, u.serials, u.reservations)
	if err != nil {
		return fmt.Errorf("writing the units of stops: %w", err)
	}
	return nil
}

// countOnLine moves an order line's planned and picked quantities.
func countOnLine(ctx context.Context, tx *command.Tx, line int64, planned, picked decimal.Decimal) error {
	if _, err := tx.ExecContext(ctx, `
		UPDATE outbound_lines SET planned = planned + $2, picked = picked +
		$3 WHERE id = $1`, line, planned, picked); err != nil {
		return fmt.Errorf("counting an order line: %w", err)
	}
	return nil
}
