package pick

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/core/walking"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/shopspring/decimal"
)

var topics = []string{"pick", "orders", "row"}

// Release releases a round: its stock is reserved for its orders.
func Release(ctx context.Context, tx *command.Tx, in Draft) (Round, error) {
	ids, err := release(ctx, tx, in.SiteID, [][]Stop{in.Stops}, nil, in.EachUnit)
	if err != nil {
		return Round{}, err
	}
	return readRound(ctx, tx, ids[0])
}

// release writes rounds and reservations what they take. What was reserved by hand to their lines is
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
			left.use(s)
		}
	}
	if err := addStops(ctx, tx, at, all); err != nil {
		return nil, err
	}
	if err := left.reserve(ctx, tx); err != nil {
		return nil, err
	}
	tx.Notify(ledger.Topics(topics...)...)
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

// use counts a stop's goods against the reservations that they were under.
func (l unreserved) use(s ProposedStop) {
	want := s.Quantity
	for i := range l {
		p := &l[i]
		if p.LineID == s.LineID && p.LocationID == s.LocationID && same(p.LotID, s.LotID) &&
			same(p.CartonID, s.CartonID) && same(p.SerialID, s.SerialID) {
			part := decimal.Min(want, p.Quantity)
			p.Quantity, want = p.Quantity.Sub(part), want.Sub(part)
		}
	}
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
	var orders []int64
	if err := tx.SelectContext(ctx, &orders, `
		SELECT DISTINCT order_id FROM outbound_lines WHERE id = ANY($1)`, lines); err != nil {
		return fmt.Errorf("reading the orders of lines: %w", err)
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.OutboundOrder, orders...)); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE outbound_orders SET version = version + 1, changed_by = $2, changed_at = $3,
		  last_change = 'put it on a round'
		WHERE id = ANY($1)`, orders, tx.Person.ID, tx.Now)
	if err != nil {
		return fmt.Errorf("noting that orders are on a round: %w", err)
	}
	return nil
}

// ordersOf are the orders that a round serves. They only ever become fewer.
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

// addStops reservations the stops' goods and writes them down, all in a few statements however
// many there are.
func addStops(ctx context.Context, tx *command.Tx, at []position, stops []ProposedStop) error {
	n := len(stops)
	wanted := make([]ledger.Reservation, n)
	rounds, seqs, lines, locations, items, quantities := make([]int64, n), make([]int, n), make([]int64,
		n), make([]int32, n), make([]int32, n), make([]string, n)
	lots, cartons, serials := make([]*int64, n), make([]*int64, n), make([]*int64, n)
	for i, s := range stops {
		wanted[i] = ledger.Reservation{Stock: ledger.Stock{Location: s.LocationID, Item: s.ItemID, Lot: s.LotID,
			Serial: s.SerialID, Carton: s.CartonID}, Line: s.LineID, Quantity: s.Quantity}
		rounds[i], seqs[i], lines[i], locations[i], items[i], quantities[i] = at[i].round, at[i].seq, s.LineID, s.LocationID, s.ItemID, s.Quantity.String()
		lots[i], cartons[i], serials[i] = s.LotID, s.CartonID, s.SerialID
	}
	reservations, err := ledger.ReserveAll(ctx, tx, wanted)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		WITH s AS (SELECT *
		  FROM unnest($1::bigint[], $2::int[], $3::bigint[], $4::int[], $5::int[], $6::bigint[], $7::bigint[],
		  $8::bigint[], $9::text[], $10::bigint[])
		               AS t(round_id, seq, line_id, location_id, item_id, lot_id, carton_id, serial_id, quantity,
		               reservation_id)),
		     l AS (UPDATE outbound_lines x SET planned = planned + t.q
		     FROM (SELECT line_id, sum(quantity::numeric) AS q FROM s GROUP BY 1) AS t WHERE x.id = t.line_id)
		INSERT INTO round_stops (round_id, seq, line_id, location_id, item_id, lot_id, carton_id, serial_id, quantity,
		  reservation_id)
		SELECT round_id, seq, line_id, location_id, item_id, lot_id, carton_id, serial_id, quantity::numeric,
		       reservation_id FROM s`,
		rounds, seqs, lines, locations, items, lots, cartons, serials, quantities, reservations)
	if err != nil {
		return fmt.Errorf("writing stops: %w", err)
	}
	return nil
}

// count moves an order line's planned and picked quantities.
func count(ctx context.Context, tx *command.Tx, line int64, planned, picked decimal.Decimal) error {
	if _, err := tx.ExecContext(ctx, `
		UPDATE outbound_lines SET planned = planned + $2, picked = picked +
		$3 WHERE id = $1`, line, planned, picked); err != nil {
		return fmt.Errorf("counting an order line: %w", err)
	}
	return nil
}

// Start makes the person who acts the one who walks the round.
func Start(ctx context.Context, tx *command.Tx, id int64) (Round, error) {
	if err := documents.Change(ctx, tx, documents.Round, id, 0, "started it"); err != nil {
		return Round{}, err
	}
	r, err := readRound(ctx, tx, id)
	if err != nil {
		return r, err
	}
	if r.State == states.RoundDone {
		return r, refusal.New(refusal.RoundDone, "", "%s is done already.", r.Number).Of(refusal.Conflict)
	}
	if r.State == states.RoundWalking && *r.PickerID != tx.Person.ID {
		leads, err := tx.Person.MayLead()
		if err != nil {
			return r, err
		}
		if !leads {
			return r, refusal.New(refusal.RoundTaken, "", "%s walks %s already. A lead can reassign it.", r.Picker,
				r.Number).Of(refusal.Conflict)
		}
	}
	if err := r.giveTo(ctx, tx, &tx.Person.ID); err != nil {
		return r, err
	}
	tx.Notify("pick", "row", "floor")
	return readRound(ctx, tx, id)
}

// readWalking reads a round for a step of it that takes goods, held until the step is done.
// Its orders are shared: others may pick for them, and nobody changes what they want.
func readWalking(ctx context.Context, tx *command.Tx, id int64, step string) (Round, error) {
	orders, err := ordersOf(ctx, tx, id)
	if err != nil {
		return Round{}, err
	}
	if err := documents.Hold(ctx, tx, documents.Share(documents.OutboundOrder, orders...)); err != nil {
		return Round{}, err
	}
	return readStep(ctx, tx, id, step)
}

// readReplanning reads a round for a step of it that changes what its orders have on the
// floor: they are held alone with all that is theirs. first is what is done before the round
// is read, once that is held.
func readReplanning(
	ctx context.Context, tx *command.Tx, id int64, step string,
	first ...func(context.Context, *command.Tx, int64) (Round, error),
) (Round, error) {
	orders, err := ordersOf(ctx, tx, id)
	if err != nil {
		return Round{}, err
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.OutboundOrder, orders...),
		documents.Own(documents.Round, id)); err != nil {
		return Round{}, err
	}
	if err := reservation.HoldFloor(ctx, tx, orders...); err != nil {
		return Round{}, err
	}
	for _, begin := range first {
		if r, err := begin(ctx, tx, id); err != nil {
			return r, err
		}
	}
	return readStep(ctx, tx, id, step)
}

func readStep(ctx context.Context, tx *command.Tx, id int64, step string) (Round, error) {
	if err := documents.Change(ctx, tx, documents.Round, id, 0, step); err != nil {
		return Round{}, err
	}
	r, err := readRound(ctx, tx, id)
	switch {
	case err != nil:
	case r.State != states.RoundWalking:
		return r, refusal.New(refusal.RoundNotWalking, "", "%s is %s. Start it before you take from bins.", r.Number,
			states.Label(r.State)).Of(refusal.Conflict)
	case *r.PickerID != tx.Person.ID:
		if leads, err := tx.Person.MayLead(); err != nil || leads {
			return r, err
		}
		return r, refusal.New(refusal.RoundReassigned, "",
			"%s walks %s now. Bring to the bench what you hold of it, and ask for another.", r.Picker, r.Number).Of(refusal.Conflict).With("picker", r.Picker)
	}
	return r, err
}

// OpenCarton gives a blank carton to an order of the round.
func OpenCarton(ctx context.Context, tx *command.Tx, id int64, scan string, order int64) (Round, error) {
	r, err := readWalking(ctx, tx, id, "opened a carton")
	if err != nil {
		return r, err
	}
	if order == 0 && len(r.Orders) == 1 {
		order = r.Orders[0].ID
	}
	served := false
	for _, o := range r.Orders {
		served = served || o.ID == order
	}
	if !served {
		return r, refusal.New(refusal.OrderMissing, "order_id",
			"%s serves %d orders. Say which one the carton is for.", r.Number, len(r.Orders))
	}
	sscc, err := scannedSSCC(ctx, tx, r.SiteID, scan, tx.Now)
	if err != nil {
		return r, err
	}
	if err := r.openCarton(ctx, tx, sscc, order); err != nil {
		return r, err
	}
	tx.Notify("pick")
	return readRound(ctx, tx, id)
}

// openCarton gives a blank label of the site to an order of the round.
func (r Round) openCarton(ctx context.Context, tx *command.Tx, sscc string, order int64) error {
	used := refusal.New(refusal.CartonUsed, "carton", "Carton %s is in use already. Take a blank label.",
		sscc).Of(refusal.Conflict)
	var carton int64
	err := tx.GetContext(ctx, &carton, `
		SELECT w.carton_id FROM carton_work w JOIN cartons c ON c.id = w.carton_id WHERE c.sscc = $1
			    AND w.site_id = $2`, sscc, r.SiteID)
	if err := documents.FoundOr(err, used); err != nil {
		return err
	}
	err = documents.Step(ctx, tx, states.Cartons, []int64{carton}, states.CartonOpen,
		"order_id = $4, round_id = $5, letter = $6, changed_at = $7", order, r.ID, letter(len(r.Cartons)), tx.Now)
	if step := (*states.StepError)(nil); errors.As(err, &step) {
		return used
	}
	return err
}

// letter names the n-th carton of a round: A to Z, then AA.
func letter(n int) string {
	if n < 26 {
		return string(rune('A' + n))
	}
	return letter(n/26-1) + letter(n%26)
}

// Take moves stock from the bin into the carton.
func Pick(ctx context.Context, tx *command.Tx, id int64, in Scans) (Round, error) {
	r, err := readWalking(ctx, tx, id, "took from a bin")
	if err != nil {
		return r, err
	}
	checked, err := r.checkScans(ctx, tx, in, tx.Now)
	if err != nil {
		return r, err
	}
	if checked.Next != "quantity" {
		return r, refusal.New(refusal.ScanMissing, checked.Next,
			"The %s is not scanned yet. Scan it before you take.", checked.Next)
	}
	stop, err := r.stop(in.StopID)
	if err != nil {
		return r, err
	}
	quantity, err := stop.quantity("quantity", in.Quantity)
	if err != nil {
		return r, err
	}
	if n := len(in.Each); n > 0 && !quantity.Equal(decimal.NewFromInt(int64(n))) {
		return r, refusal.New(refusal.EachTotal, "quantity",
			"%d units are scanned, not %s. Scan each, or enter what is scanned.", n, quantity).With("scanned", n)
	}
	if err := pickStop(ctx, tx, r, stop, quantity, in.Serials, checked.CartonID, in.happened(tx.Now)); err != nil {
		return r, err
	}
	tx.Notify(ledger.Topics(topics...)...)
	return readRound(ctx, tx, id)
}

// happened is when a scan was made on the floor: the zero time for now. A device's clock
// that is ahead is not believed.
func (s Scans) happened(now time.Time) time.Time {
	if s.HappenedAt == nil || s.HappenedAt.After(now) {
		return time.Time{}
	}
	return *s.HappenedAt
}

// take moves so much of a stop from its bin into a carton.
func pickStop(
	ctx context.Context, tx *command.Tx, r Round, stop RoundStop, quantity decimal.Decimal, codes []string,
	carton int64, happened time.Time,
) error {
	trolley, err := catalog.OneLocation(ctx, tx, r.SiteID, "trolley")
	if err != nil {
		return err
	}
	moves, err := stop.moves(ctx, tx, ledger.Move{Item: stop.ItemID, Lot: stop.LotID, Quantity: quantity,
		From: stop.LocationID, FromBox: stop.CartonID, To: trolley.ID, ToBox: &carton, Reservation: stop.ReservationID}, codes)
	if err != nil {
		return err
	}
	return stop.post(ctx, tx, r, moves, quantity, carton, happened)
}

// post makes the moves of a take, and counts it.
func (s RoundStop) post(
	ctx context.Context, tx *command.Tx, r Round, moves []ledger.Move, quantity decimal.Decimal, carton int64,
	happened time.Time,
) error {
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Pick, Document: r.Number, Note: s.note(),
		HappenedAt: happened}, moves); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE round_stops SET picked = picked + $2 WHERE id = $1`, s.ID, quantity); err != nil {
		return fmt.Errorf("counting a stop: %w", err)
	}
	for _, m := range moves {
		_, err := tx.ExecContext(ctx, `
			INSERT INTO carton_contents (carton_id, line_id, item_id, lot_id, serial_id, quantity)
			VALUES ($1, $2, $3, $4, $5, $6)
			ON CONFLICT (carton_id, line_id, item_id, coalesce(lot_id, 0), coalesce(serial_id, 0)) DO UPDATE
			SET quantity = carton_contents.quantity + EXCLUDED.quantity`,
			carton, s.LineID, s.ItemID, s.LotID, m.Serial, m.Quantity)
		if err != nil {
			return fmt.Errorf("noting a carton's contents: %w", err)
		}
	}
	return count(ctx, tx, s.LineID, quantity.Neg(), quantity)
}

// note says in the trail whom a take is for, and which lot it stands in for.
func (s RoundStop) note() string {
	if s.PlannedLot != nil && s.Lot != nil {
		return fmt.Sprintf("%s, lot %s instead of %s", s.Order, *s.Lot, *s.PlannedLot)
	}
	return s.Order
}

// stock is what the stop takes.
func (s RoundStop) stock() ledger.Stock {
	return ledger.Stock{Location: s.LocationID, Item: s.ItemID, Lot: s.LotID, Serial: s.SerialID, Carton: s.CartonID}
}

// quantity reads how many of a stop are meant: at most what is left of it.
func (s RoundStop) quantity(field, text string) (decimal.Decimal, error) {
	q, err := measure.ParseOrZero(field, text, measure.Unit{Name: s.Unit, Whole: s.Whole})
	if err != nil {
		return q, err
	}
	if left := s.Quantity.Sub(s.Picked).Sub(s.Short); q.GreaterThan(left) {
		return q, refusal.New(refusal.OverWanted, field, "%s wants %s of %s here, not %s. Put %s back.", s.Order,
			left, s.SKU, q, q.Sub(left)).Of(refusal.Conflict).With("wanted", left)
	}
	if q.IsZero() && field == "quantity" {
		return q, refusal.New(refusal.QuantityZero, field,
			"A take of 0 moves nothing. If the bin is empty, say that there is not enough here.")
	}
	return q, nil
}

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
	tx.Notify(ledger.Topics(append(topics, "audit")...)...)
	return readRound(ctx, tx, id)
}

// foundShort notes what a bin is short of, and puts the bin down for counting.
func (s RoundStop) foundShort(ctx context.Context, tx *command.Tx, r Round, here, short decimal.Decimal) error {
	if err := reserveFound(ctx, tx, s, here); err != nil {
		return err
	}
	if err := count(ctx, tx, s.LineID, short.Neg(), decimal.Zero); err != nil {
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

// Stage ends a round: its cartons go to the bench with what is in them.
func Stage(ctx context.Context, tx *command.Tx, id int64, leaveRest bool) (Round, error) {
	r, err := readReplanning(ctx, tx, id, "staged it")
	if err != nil {
		return r, err
	}
	if err := leave(ctx, tx, r, leaveRest); err != nil {
		return r, err
	}
	if err := end(ctx, tx, r); err != nil {
		return r, err
	}
	tx.Notify(ledger.Topics(append(topics, "pack")...)...)
	return readRound(ctx, tx, id)
}

// end sets a round's open cartons down at the bench, and is the end of it.
func end(ctx context.Context, tx *command.Tx, r Round) error {
	bench, err := catalog.OneLocation(ctx, tx, r.SiteID, "bench")
	if err != nil {
		return err
	}
	if err := setDownCartons(ctx, tx, r, bench.ID); err != nil {
		return err
	}
	return documents.Step(ctx, tx, states.Rounds, []int64{r.ID}, states.RoundDone, "done_at = $4", tx.Now)
}

// leave cancels stops that were not made, or refuses to.
func leave(ctx context.Context, tx *command.Tx, r Round, leaveRest bool) error {
	left := 0
	for _, s := range r.Stops {
		if s.State == states.StopOpen {
			left++
		}
	}
	if left > 0 && !leaveRest {
		return refusal.New(refusal.StopsLeft, "",
			"%s of %s are not made yet. Make them, or say that the rest is left.", measure.Count(left,
				"stop"), r.Number).Of(refusal.Conflict).With("left", left)
	}
	for _, s := range r.Stops {
		if s.State != states.StopOpen {
			continue
		}
		if err := reserveFound(ctx, tx, s, decimal.Zero); err != nil {
			return err
		}
		if err := count(ctx, tx, s.LineID, s.Quantity.Sub(s.Picked).Sub(s.Short).Neg(), decimal.Zero); err != nil {
			return err
		}
	}
	return nil
}

func setDownCartons(ctx context.Context, tx *command.Tx, r Round, bench int32) error {
	var open []int64
	for _, c := range r.Cartons {
		if c.State == states.CartonOpen {
			open = append(open, c.ID)
		}
	}
	moves, err := cartons.Moves(ctx, tx, bench, open...)
	if err != nil {
		return err
	}
	if len(moves) > 0 {
		if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Stage, Document: r.Number}, moves); err != nil {
			return err
		}
	}
	var full, empty []int64
	for _, id := range open {
		if slices.ContainsFunc(moves, func(m ledger.Move) bool { return m.FromBox != nil && *m.FromBox == id }) {
			full = append(full, id)
		} else {
			empty = append(empty, id)
		}
	}
	if err := documents.Step(ctx, tx, states.Cartons, full, states.CartonAtBench, "changed_at = $4",
		tx.Now); err != nil {
		return err
	}
	return documents.Step(ctx, tx, states.Cartons, empty, states.CartonBlank,
		"order_id = NULL, round_id = NULL, changed_at = $4", tx.Now)
}
