package refill

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/slotting"
	"lanternrow/internal/core/states"
	"lanternrow/internal/countrequests"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"

	"github.com/shopspring/decimal"
)

// Doing is a step of a refill as it was made.
type Doing struct {
	LineID int64 `json:"line_id"`
	// Bin is where it was done, as it was scanned.
	Bin      string   `json:"bin" maxLength:"60"`
	Quantity string   `json:"quantity" maxLength:"40"`
	Serials  []string `json:"serials,omitempty" maxItems:"1000"`
	// NoMore says that no more than this is there to be fetched, or goes in.
	NoMore bool `json:"no_more,omitempty"`
}

// Begin gives a refill to whoever asks: somebody else's may be taken over, and what is on the trolley stays known.
func Begin(ctx context.Context, tx *command.Tx, id int64) (Refill, error) {
	r, err := change(ctx, tx, id, "walks it")
	if err != nil {
		return r, err
	}
	if r.State == states.RefillPlanned {
		if err := documents.Step(ctx, tx, states.Refills, []int64{id}, states.RefillWalking,
			"started_at = $4, person_id = $5", tx.Now, tx.Person.ID); err != nil {
			return r, err
		}
	} else if _, err := tx.ExecContext(ctx, `UPDATE refills SET person_id = $2 WHERE id = $1`, id, tx.Person.ID); err != nil {
		return r, fmt.Errorf("giving a refill to somebody: %w", err)
	}
	return told(ctx, tx, r)
}

// Cancel gives up a refill that nobody walks.
func Cancel(ctx context.Context, tx *command.Tx, id int64) (Refill, error) {
	r, err := change(ctx, tx, id, "cancelled it")
	if err != nil {
		return r, err
	}
	if r.State == states.RefillWalking {
		return r, refusal.New(refusal.WalkBegun, "", "%s is walked by %s, with goods on the trolley. End it there.", r.Number,
			r.Person).Of(refusal.Conflict)
	}
	if err := documents.Step(ctx, tx, states.Refills, []int64{id}, states.RefillCancelled, ""); err != nil {
		return r, err
	}
	return told(ctx, tx, r)
}

// FetchLine takes goods of a line from reserve onto the trolley.
func FetchLine(ctx context.Context, tx *command.Tx, id int64, in Doing) (Refill, error) {
	r, l, err := hold(ctx, tx, id, in, func(l Line) string { return l.From })
	if err != nil {
		return r, err
	}
	quantity, err := l.parse(in, l.ToFetch(), "are to be fetched")
	if err != nil {
		return r, err
	}
	if l.Whole && !quantity.IsZero() && !quantity.Equal(l.Quantity) {
		return r, refusal.New(refusal.NotEnough, "quantity", "%s of %s are to be fetched in their carton as it is, not %s. Take all of it, "+
			"or say that it is not there.", l.Quantity, l.SKU, quantity).Of(refusal.Conflict)
	}
	if quantity.IsPositive() {
		moves, err := l.fetching(ctx, tx, r.TrolleyID, quantity, in.Serials)
		if err != nil {
			return r, err
		}
		if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.RefillLoad, Document: r.Number}, moves); err != nil {
			return r, err
		}
		for _, m := range moves {
			if m.SerialCode != "" {
				l.Serials = append(l.Serials, m.SerialCode)
			}
		}
	}
	missed := decimal.Zero
	if in.NoMore {
		missed = l.ToFetch().Sub(quantity)
		if err := countAgain(ctx, tx, l, quantity, missed); err != nil {
			return r, err
		}
	}
	return l.put(ctx, tx, r, "fetched = fetched + $2, missed = missed + $3, serials = $4", quantity, missed, l.Serials)
}

// fetching are the moves of goods onto the trolley: a carton with all that is in it, or loose.
func (l Line) fetching(
	ctx context.Context, tx *command.Tx, trolley int32, quantity decimal.Decimal, codes []string,
) ([]ledger.Move, error) {
	if l.Whole {
		return l.wholeFrom(ctx, tx, l.FromID, trolley, quantity)
	}
	return serials.Spread(ctx, tx, "serials", l.Tracking, l.SKU, ledger.Move{Item: l.ItemID, Lot: l.LotID, Quantity: quantity,
		From: l.FromID, FromBox: l.CartonID, To: trolley}, codes)
}

// wholeFrom are the moves of the line's carton, which is where it was left and holds what it held.
func (l Line) wholeFrom(ctx context.Context, tx *command.Tx, from, to int32, quantity decimal.Decimal) ([]ledger.Move, error) {
	moves, err := cartons.Carton{ID: *l.CartonID}.Moves(ctx, tx, to)
	if err != nil {
		return nil, err
	}
	holds, there := decimal.Zero, true
	for _, m := range moves {
		holds, there = holds.Add(m.Quantity), there && m.From == from
	}
	if !there || !holds.Equal(quantity) {
		return nil, refusal.New(refusal.NotEnough, "quantity", "Carton …%s holds %s of %s by now, not %s, or stands elsewhere. Say that it is "+
			"not there; what is short is planned anew.", l.Carton[14:], holds, l.SKU, quantity).Of(refusal.Conflict).With("have", holds)
	}
	return moves, nil
}

// countAgain puts a place down for counting where fewer were found than it should hold.
func countAgain(ctx context.Context, tx *command.Tx, l Line, fetched, missed decimal.Decimal) error {
	if !missed.IsPositive() {
		return nil
	}
	var doubtful bool
	if err := tx.GetContext(ctx, &doubtful, `
		SELECT coalesce(sum(quantity), 0) > coalesce(sum(reserved), 0) FROM balances WHERE location_id = $1 AND item_id = $2`,
		l.FromID, l.ItemID); err != nil || !doubtful {
		return err
	}
	return countrequests.Raise(ctx, tx, countrequests.Request{Location: l.FromID, Item: l.ItemID, Why: countrequests.Short, Found: &fetched})
}

// BringLine puts goods of a line from the trolley into its picking bin.
func BringLine(ctx context.Context, tx *command.Tx, id int64, in Doing) (Refill, error) {
	r, l, err := hold(ctx, tx, id, in, func(l Line) string { return l.To })
	if err != nil {
		return r, err
	}
	quantity, err := l.parse(in, l.OnTrolley(), "are on the trolley")
	if err != nil {
		return r, err
	}
	if quantity.IsPositive() {
		if err := l.fits(ctx, tx, l.ToID, quantity); err != nil {
			return r, err
		}
	}
	units, err := l.unload(ctx, tx, r, posting.Refill, l.ToID, quantity, in.Serials)
	if err != nil {
		return r, err
	}
	refused := in.NoMore && quantity.LessThan(l.OnTrolley())
	return l.put(ctx, tx, r, "brought = brought + $2, refused = refused OR $3, serials = $4", quantity, refused, units)
}

// ReturnLine brings goods of a line that its bin did not take back to where they were fetched, or to another bin that
// can take them.
func ReturnLine(ctx context.Context, tx *command.Tx, id int64, in Doing) (Refill, error) {
	r, l, err := hold(ctx, tx, id, in, nil)
	if err != nil {
		return r, err
	}
	quantity, err := l.parse(in, l.OnTrolley(), "are on the trolley")
	if err != nil {
		return r, err
	}
	to, err := catalog.LocationByCode(ctx, tx, "bin", in.Bin, r.SiteID)
	if err != nil {
		return r, err
	}
	if to.Kind != "bin" && to.Kind != "dock" {
		return r, refusal.New(refusal.NotABin, "bin", "%s is a %s. Bring them to a bin, or to a dock.", to.Code, to.Kind)
	}
	if to.Kind == "bin" && quantity.IsPositive() {
		if err := l.fits(ctx, tx, to.ID, quantity); err != nil {
			return r, err
		}
	}
	units, err := l.unload(ctx, tx, r, posting.RefillReturn, to.ID, quantity, in.Serials)
	if err != nil {
		return r, err
	}
	return l.put(ctx, tx, r, "returned = returned + $2, refused = true, serials = $3", quantity, units)
}

// End brings all that is on the trolley back to where it was, or to a dock where that is full by now, and gives up what
// is not fetched yet.
func End(ctx context.Context, tx *command.Tx, id int64) (Refill, error) {
	r, err := change(ctx, tx, id, "ended it")
	if err != nil {
		return r, err
	}
	if r.State != states.RefillWalking {
		return r, notWalked(r)
	}
	for _, l := range r.Lines {
		to, err := l.backTo(ctx, tx, r)
		if err != nil {
			return r, err
		}
		if _, err := l.unload(ctx, tx, r, posting.RefillReturn, to, l.OnTrolley(), nil); err != nil {
			return r, err
		}
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE refill_moves SET missed = quantity - fetched, returned = fetched - brought, serials = '{}' WHERE refill_id = $1`,
		id); err != nil {
		return r, fmt.Errorf("ending a refill: %w", err)
	}
	if err := finish(ctx, tx, id); err != nil {
		return r, err
	}
	return told(ctx, tx, r)
}

// unload takes goods of the line off the trolley to a bin, and returns the units that stay on it.
func (l Line) unload(
	ctx context.Context, tx *command.Tx, r Refill, kind posting.Kind, to int32, quantity decimal.Decimal, codes []string,
) ([]string, error) {
	if !quantity.IsPositive() {
		return l.Serials, nil
	}
	var moves []ledger.Move
	var err error
	switch {
	case l.Whole:
		moves, err = l.wholeFrom(ctx, tx, r.TrolleyID, to, quantity)
	default:
		if codes, err = l.units(codes, quantity); err != nil {
			return nil, err
		}
		moves, err = serials.Spread(ctx, tx, "serials", l.Tracking, l.SKU, ledger.Move{Item: l.ItemID, Lot: l.LotID,
			Quantity: quantity, From: r.TrolleyID, To: to}, codes)
	}
	if err != nil {
		return nil, err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: kind, Document: r.Number}, moves); err != nil {
		return nil, err
	}
	return slices.DeleteFunc(slices.Clone(l.Serials), func(code string) bool {
		return slices.ContainsFunc(moves, func(m ledger.Move) bool { return m.SerialCode == code })
	}), nil
}

// units are those of the line that leave the trolley: all, or those that are named.
func (l Line) units(codes []string, quantity decimal.Decimal) ([]string, error) {
	if l.Tracking != receiving.Serial {
		return codes, nil
	}
	if len(codes) == 0 && quantity.Equal(l.OnTrolley()) {
		return l.Serials, nil
	}
	if len(codes) == 0 {
		return nil, refusal.New(refusal.SerialsMissing, "serials", "%s of %s are on the trolley, and %s go here: say which. Scan their serials.",
			l.OnTrolley(), l.SKU, quantity)
	}
	for _, code := range codes {
		if !slices.Contains(l.Serials, code) {
			return nil, refusal.New(refusal.SerialElsewhere, "serials", "Serial %s of %s is not on this trolley: %s are.", code, l.SKU,
				receiving.SerialRanges(l.Serials)).Of(refusal.Conflict)
		}
	}
	return codes, nil
}

// backTo is where what is on the trolley goes back to: where it was, or a dock where that takes it no more.
func (l Line) backTo(ctx context.Context, tx *command.Tx, r Refill) (int32, error) {
	if !l.OnTrolley().IsPositive() {
		return l.FromID, nil
	}
	err := l.fits(ctx, tx, l.FromID, l.OnTrolley())
	if full := refusal.From(err); full == nil || full.Code != refusal.BinFull {
		return l.FromID, err
	}
	dock, err := catalog.OneLocation(ctx, tx, r.SiteID, "dock")
	return dock.ID, err
}

// fits refuses more than a bin takes by now.
func (l Line) fits(ctx context.Context, tx *command.Tx, bin int32, quantity decimal.Decimal) error {
	from, err := catalog.LocationByID(ctx, tx, l.FromID)
	if err != nil {
		return err
	}
	bins, err := catalog.HeldBins(ctx, tx, from, []int32{bin})
	if err != nil {
		return err
	}
	item, err := catalog.ItemByID(ctx, tx, l.ItemID)
	if err != nil {
		return err
	}
	return slotting.Check(item.Goods(l.Lot, quantity), []slotting.Line{{Field: "quantity", Bin: bins[bin], Quantity: quantity}})
}

// parse reads how much is done of a line, at most so much.
func (l Line) parse(in Doing, most decimal.Decimal, words string) (decimal.Decimal, error) {
	quantity, err := measure.Parse("quantity", in.Quantity, measure.Unit{Name: l.Unit, Whole: !l.Measured})
	if r := refusal.From(err); r != nil && r.Code == refusal.QuantityZero && in.NoMore {
		// Nothing is there at all, or nothing goes in.
		return decimal.Zero, nil
	}
	if err != nil {
		return quantity, err
	}
	if quantity.GreaterThan(most) {
		return quantity, refusal.New(refusal.NotEnough, "quantity", "%s of %s %s, not %s.", most, l.SKU, words, quantity).
			Of(refusal.Conflict).With("have", most)
	}
	return quantity, nil
}

// hold keeps a refill to this transaction, and finds the line of a step; its bin must be the one that the line is for,
// where that is asked.
func hold(ctx context.Context, tx *command.Tx, id int64, in Doing, bin func(Line) string) (Refill, Line, error) {
	r, err := change(ctx, tx, id, "walked on")
	if err != nil {
		return r, Line{}, err
	}
	if r.State != states.RefillWalking {
		return r, Line{}, notWalked(r)
	}
	i := slices.IndexFunc(r.Lines, func(l Line) bool { return l.ID == in.LineID })
	if i < 0 {
		return r, Line{}, documents.Missing("line", fmt.Sprint(in.LineID))
	}
	l := r.Lines[i]
	if bin == nil {
		return r, l, nil
	}
	at, err := catalog.LocationByCode(ctx, tx, "bin", in.Bin, r.SiteID)
	if err != nil {
		return r, l, err
	}
	if at.Code != bin(l) {
		return r, l, refusal.New(refusal.WrongBin, "bin", "You scanned %s. %s of %s belong to %s.", at.Code, l.Quantity, l.SKU, bin(l)).
			Of(refusal.Conflict).With("bin", bin(l))
	}
	return r, l, nil
}

func notWalked(r Refill) error {
	if r.State == states.RefillPlanned {
		return refusal.New(refusal.WalkNotBegun, "", "Nobody walks %s yet. Begin it.", r.Number).Of(refusal.Conflict)
	}
	return refusal.New(refusal.WalkDone, "", "%s is %s: nothing is on its trolley any more.", r.Number, states.Label(r.State)).
		Of(refusal.Conflict)
}

// change holds a refill alone, and notes who does what with it.
func change(ctx context.Context, tx *command.Tx, id int64, what string) (Refill, error) {
	if err := documents.Change(ctx, tx, documents.Refill, id, 0, what); err != nil {
		return Refill{}, err
	}
	r, err := read(ctx, tx, id)
	if err == nil && (r.State == states.RefillDone || r.State == states.RefillCancelled) {
		return r, notWalked(r)
	}
	return r, err
}

// put writes what became of the line, and ends a refill of which nothing is left.
func (l Line) put(ctx context.Context, tx *command.Tx, r Refill, set string, args ...any) (Refill, error) {
	if _, err := tx.ExecContext(ctx, `UPDATE refill_moves SET `+set+` WHERE id = $1`, append([]any{l.ID}, args...)...); err != nil {
		return r, fmt.Errorf("writing a line of a refill: %w", err)
	}
	now, err := told(ctx, tx, r)
	if err != nil || len(now.Steps) > 0 {
		return now, err
	}
	if err := finish(ctx, tx, r.ID); err != nil {
		return now, err
	}
	return read(ctx, tx, r.ID)
}

func finish(ctx context.Context, tx *command.Tx, id int64) error {
	return documents.Step(ctx, tx, states.Refills, []int64{id}, states.RefillDone, "done_at = $4", tx.Now)
}

// told reads a refill anew, and tells the floor of it.
func told(ctx context.Context, tx *command.Tx, r Refill) (Refill, error) {
	tx.NotifySite(r.SiteID, ledger.Topics("refills", "transfers", "row")...)
	return read(ctx, tx, r.ID)
}
