package pick

import (
	"context"
	"fmt"
	"lanternrow/internal/people"
	"slices"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/resolving"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Reassign gives a round to another person, or to nobody yet: whoever starts it next goes
// on with it. Its cartons stay with it.
func Reassign(ctx context.Context, tx *command.Tx, id int64, person int32) (Round, error) {
	if err := documents.Change(ctx, tx, documents.Round, id, 0, "handed it on"); err != nil {
		return Round{}, err
	}
	r, err := readRound(ctx, tx, id)
	if err != nil {
		return r, err
	}
	if err := r.refuseDone(); err != nil {
		return r, err
	}
	if r.PickerID == nil || *r.PickerID != tx.Person.ID {
		leads, err := tx.Person.MayLead()
		if err != nil {
			return r, err
		}
		if !leads {
			return r, refusal.New(refusal.RoundNotYours, "",
				"%s is not yours to reassign. Ask whoever walks it, or the lead.", r.Number).Of(refusal.Forbidden)
		}
	}
	var to *int32
	if person != 0 {
		if err := r.mayWalk(ctx, tx, person); err != nil {
			return r, err
		}
		to = &person
	}
	if err := r.giveTo(ctx, tx, to); err != nil {
		return r, err
	}
	tx.NotifySite(r.SiteID, "pick", "row", "floor")
	return readRound(ctx, tx, id)
}

// mayWalk refuses to hand the round to somebody who walks none, or who works at another site.
func (r Round) mayWalk(ctx context.Context, q sqlx.QueryerContext, person int32) error {
	var p struct {
		Roles      people.Roles
		Name, Site string
		SiteID     int32 `db:"site_id"`
	}
	if err := sqlx.GetContext(ctx, q, &p, `
		SELECT p.roles, p.name, p.site_id, s.name AS site FROM people p JOIN sites s ON s.id = p.site_id WHERE p.id = $1`,
		person); err != nil {
		return documents.Found(err, "person", fmt.Sprint(person))
	}
	if !p.Roles.Has(people.Picker, people.Lead) {
		return refusal.New(refusal.PersonNoPicker, "person_id",
			"%s is %s and walks no rounds. Choose a picker or a lead.", p.Name, p.Roles)
	}
	if p.SiteID != r.SiteID {
		return refusal.New(refusal.PersonElsewhere, "person_id",
			"%s works at %s, and %s is walked at another site. Choose somebody who is there.", p.Name, p.Site, r.Number).
			Of(refusal.Conflict)
	}
	return nil
}

// giveTo has a person walk the round, or nobody for now.
func (r Round) giveTo(ctx context.Context, tx *command.Tx, person *int32) error {
	_, err := tx.ExecContext(ctx, `
		UPDATE rounds SET picker_id = $2, started_at = CASE WHEN $2::integer IS NULL THEN started_at
		  ELSE coalesce(started_at, $3) END
		 WHERE id = $1`, r.ID, person, tx.Now)
	if err != nil {
		return fmt.Errorf("giving a round to somebody: %w", err)
	}
	to := states.RoundWalking
	if person == nil {
		to = states.RoundReleased
	}
	if r.State == to {
		return nil
	}
	return documents.Step(ctx, tx, states.Rounds, []int64{r.ID}, to, "")
}

// SetEachUnit says whether each unit is scanned on a round from now on.
func SetEachUnit(ctx context.Context, tx *command.Tx, id int64, each bool) (Round, error) {
	if err := documents.Change(ctx, tx, documents.Round, id, 0, "changed how it is scanned"); err != nil {
		return Round{}, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE rounds SET each_unit = $2 WHERE id = $1`, id, each); err != nil {
		return Round{}, fmt.Errorf("changing a round: %w", err)
	}
	r, err := readRound(ctx, tx, id)
	tx.NotifySite(r.SiteID, "pick")
	return r, err
}

// PickWhole takes the whole carton or pallet that a stop is for in one scan: it goes to
// the order as it is, under its own number.
func PickWhole(ctx context.Context, tx *command.Tx, id int64, in whole) (Round, error) {
	r, err := readWalking(ctx, tx, id, "took a carton whole")
	if err != nil {
		return r, err
	}
	stop, err := r.stop(in.StopID)
	if err != nil {
		return r, err
	}
	site, err := readSettings(ctx, tx, r.SiteID)
	if err != nil {
		return r, err
	}
	if err := stop.checkBin(in.Bin, site.ScanBin); err != nil {
		return r, err
	}
	if !stop.WholeCarton {
		return r, refusal.New(refusal.NotWhole, "scan",
			"%s wants %s of %s, and what stands there is not just that. Take it unit by unit.", stop.Order, stop.Quantity, stop.SKU).Of(refusal.Conflict)
	}
	read, err := resolving.Read(ctx, tx, r.SiteID, in.Scan, tx.Now)
	if err != nil {
		return r, refusal.At(err, "scan")
	}
	if !slices.ContainsFunc(read.Found, func(f resolving.Found) bool {
		return f.Kind == "carton" &&
			f.Code == *stop.OffCarton
	}) {
		return r, refusal.New(refusal.WrongCarton, "scan", "You scanned %s. Here you take %s whole, …%s.", in.Scan,
			*stop.OffCarton, (*stop.OffCarton)[14:]).Of(refusal.Conflict).With("expected", *stop.OffCarton)
	}
	trolley, err := catalog.OneLocation(ctx, tx, r.SiteID, "trolley")
	if err != nil {
		return r, err
	}
	moves, err := cartons.Carton{ID: *stop.CartonID}.Moves(ctx, tx, trolley.ID)
	if err != nil {
		return r, err
	}
	for i := range moves {
		moves[i].Reservation = stop.reservationOf(moves[i].Serial)
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO carton_work (carton_id, site_id, order_id, round_id, letter, state, printed_at, changed_at)
		VALUES ($1, $2, $3, $4, $5, 'open', $6, $6)`,
		*stop.CartonID, r.SiteID, stop.OrderID, id, letter(len(r.Cartons)), tx.Now); err != nil {
		return r, fmt.Errorf("giving a carton to an order: %w", err)
	}
	if err := stop.post(ctx, tx, r, moves, stop.Quantity, *stop.CartonID,
		Scans{HappenedAt: in.HappenedAt}.happened(tx.Now)); err != nil {
		return r, err
	}
	tx.NotifySite(r.SiteID, ledger.Topics(append(topics, "putaway")...)...)
	return readRound(ctx, tx, id)
}

// OtherLot lets a stop take from another lot than planned, where the site allows it and
// the lot lives long enough. What was planned stays noted.
func OtherLot(ctx context.Context, tx *command.Tx, id int64, in otherLot) (Round, error) {
	r, err := readReplanning(ctx, tx, id, "took another lot")
	if err != nil {
		return r, err
	}
	stop, err := r.stop(in.StopID)
	if err != nil {
		return r, err
	}
	if len(stop.Units) > 0 {
		return r, refusal.New(refusal.LotUnwanted, "lot", "%s is promised these very units of %s. No other lot goes for them.",
			stop.Order, stop.SKU)
	}
	if stop.Lot == nil {
		return r, refusal.New(refusal.LotUnwanted, "lot", "No lot of %s is planned here. Take it as it lies there.",
			stop.SKU)
	}
	site, err := readSettings(ctx, tx, r.SiteID)
	if err != nil {
		return r, err
	}
	if !site.OtherLot {
		return r, refusal.New(refusal.OtherLotBarred, "lot",
			"Here the lot that is planned is taken: %s. If it is not there, say that there is not enough.", *stop.Lot).Of(refusal.Conflict)
	}
	said, err := stop.readLot(ctx, tx, r.SiteID, in.Lot, tx.Now)
	if err != nil {
		return r, err
	}
	lot, amount, err := stop.otherLot(ctx, tx, said.code)
	if err != nil {
		return r, err
	}
	if err := stop.replan(ctx, tx, id, lot, amount); err != nil {
		return r, err
	}
	tx.NotifySite(r.SiteID, ledger.Topics(topics...)...)
	return readRound(ctx, tx, id)
}

// otherLot finds the lot that is to be taken instead, and how much of the stop it can
// serve; one that is too old, or of which nothing is free, is refused.
func (s RoundStop) otherLot(
	ctx context.Context, tx *command.Tx, code string,
) (id int64, amount decimal.Decimal, err error) {
	var lot struct {
		ID        int64
		Expires   *time.Time
		Available decimal.Decimal
	}
	err = tx.GetContext(ctx, &lot, `
		SELECT l.id, l.expires_on AS expires,
		       coalesce((SELECT sum(quantity - reserved) FROM balances
		                  WHERE location_id = $3 AND lot_id = l.id AND carton_id IS NOT DISTINCT
		                  FROM $4 AND condition = 'good'), 0) AS available
		  FROM lots l WHERE l.item_id = $1 AND upper(l.code) = upper($2)`, s.ItemID, code, s.LocationID, s.CartonID)
	if err != nil {
		return 0, amount, documents.Found(err, "lot", code)
	}
	if err := s.livesLong(scannedLot{code, lot.Expires}, tx.Now); err != nil {
		return 0, amount, err
	}
	amount = decimal.Min(s.left(), lot.Available)
	if ledger.Same(&lot.ID, s.LotID) || !amount.IsPositive() {
		err := refusal.New(refusal.NotEnough, "lot",
			"%s holds %s of lot %s of %s that are reserved for nobody. Take lot %s, or say that there is not enough.",
			s.Bin, lot.Available, code, s.SKU, *s.Lot).Of(refusal.Conflict)
		return 0, amount, nameReservations(ctx, tx, err, s.LocationID, s.ItemID, s.LineID)
	}
	return lot.ID, amount, nil
}

// left is what is still to be taken at the stop.
func (s RoundStop) left() decimal.Decimal { return s.Quantity.Sub(s.Picked).Sub(s.Short) }

// replan has so much of a stop taken from another lot: at the stop itself when that is all
// of it, so that whoever stands there goes on with it, or else at one of its own behind it.
// What was planned stays noted.
func (s RoundStop) replan(ctx context.Context, tx *command.Tx, round, lot int64, amount decimal.Decimal) error {
	if err := s.keepReserved(ctx, tx, s.left().Sub(amount)); err != nil {
		return err
	}
	if s.Quantity.Equal(amount) {
		return s.changeLot(ctx, tx, lot)
	}
	if err := countOnLine(ctx, tx, s.LineID, amount.Neg(), decimal.Zero); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE round_stops SET quantity = quantity - $2 WHERE id = $1`, s.ID, amount); err != nil {
		return fmt.Errorf("changing a stop: %w", err)
	}
	seq := s.Seq + 1
	if err := makeRoom(ctx, tx, round, seq); err != nil {
		return err
	}
	next := ProposedStop{LineID: s.LineID, LocationID: s.LocationID, ItemID: s.ItemID, LotID: &lot,
		CartonID: s.CartonID, Quantity: amount}
	if err := addStops(ctx, tx, []position{{round, seq}}, []ProposedStop{next}); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE round_stops SET planned_lot = $3 WHERE round_id = $1 AND seq = $2`, round, seq, s.LotID); err != nil {
		return fmt.Errorf("noting the planned lot: %w", err)
	}
	return nil
}

// changeLot has all of a stop taken from another lot, which is reserved for it.
func (s RoundStop) changeLot(ctx context.Context, tx *command.Tx, lot int64) error {
	other := s.stock()
	other.Lot = &lot
	reserved, err := ledger.ReserveAll(ctx, tx, []ledger.Reservation{
		{Stock: other, Line: s.LineID, Quantity: s.Quantity},
	})
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE round_stops SET lot_id = $2, planned_lot = nullif(coalesce(planned_lot, lot_id), $2),
		       reservation_id = $3
		 WHERE id = $1`, s.ID, lot, reserved[0]); err != nil {
		return fmt.Errorf("changing a stop's lot: %w", err)
	}
	return nil
}
