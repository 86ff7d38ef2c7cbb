package pick

import (
	"context"
	"errors"
	"fmt"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/shopspring/decimal"
)

var topics = []string{"pick", "orders", "row"}

// Start makes the person who acts the one who walks the round.
func Start(ctx context.Context, tx *command.Tx, id int64) (Round, error) {
	if err := documents.Change(ctx, tx, documents.Round, id, 0, "started it"); err != nil {
		return Round{}, err
	}
	r, err := readRound(ctx, tx, id)
	if err != nil {
		return r, err
	}
	if err := r.refuseDone(); err != nil {
		return r, err
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
	tx.NotifySite(r.SiteID, "pick", "row", "floor")
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
	if err := holdReplanning(ctx, tx, id); err != nil {
		return Round{}, err
	}
	for _, begin := range first {
		if r, err := begin(ctx, tx, id); err != nil {
			return r, err
		}
	}
	return readStep(ctx, tx, id, step)
}

// holdReplanning holds a round and the orders that it is for.
func holdReplanning(ctx context.Context, tx *command.Tx, id int64) error {
	orders, err := ordersOf(ctx, tx, id)
	if err != nil {
		return err
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.OutboundOrder, orders...),
		documents.Own(documents.Round, id)); err != nil {
		return err
	}
	return reservation.HoldFloor(ctx, tx, orders...)
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
	tx.NotifySite(r.SiteID, "pick")
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

// Pick moves stock from the bin into the carton, with what was scanned on the way. A scan of
// something else than the stop wants is refused, and nothing moves.
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
	if stop, err = stop.withLot(ctx, tx, checked.lot); err != nil {
		return r, err
	}
	if err := pickStop(ctx, tx, r, stop, quantity, in.Serials, checked.CartonID, in.happened(tx.Now)); err != nil {
		return r, err
	}
	tx.NotifySite(r.SiteID, ledger.Topics(topics...)...)
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
		From: stop.LocationID, FromBox: stop.CartonID, To: trolley.ID, ToBox: &carton}, codes)
	if err != nil {
		return err
	}
	for i := range moves {
		moves[i].Reservation = stop.reservationOf(moves[i].Serial)
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
	return countOnLine(ctx, tx, s.LineID, quantity.Neg(), quantity)
}

// note says in the trail whom a take is for, and which lot it stands in for.
func (s RoundStop) note() string {
	if s.PlannedLot != nil && s.Lot != nil {
		return fmt.Sprintf("%s, lot %s instead of %s", s.Order, *s.Lot, *s.PlannedLot)
	}
	return s.Order
}

// stock is what the stop takes, whichever unit.
func (s RoundStop) stock() ledger.Stock {
	return ledger.Stock{Location: s.LocationID, Item: s.ItemID, Lot: s.LotID, Carton: s.CartonID}
}

// reservationOf is what reserves a unit for the stop: its own where it is reserved by name, or else the stop's.
func (s RoundStop) reservationOf(serial *int64) *int64 {
	for _, u := range s.Units {
		if serial != nil && u.SerialID == *serial {
			return &u.ReservationID
		}
	}
	return s.ReservationID
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
