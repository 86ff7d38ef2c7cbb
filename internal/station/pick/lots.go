package pick

import (
	"context"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/gs1"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/resolving"

	"github.com/jmoiron/sqlx"
)

// A scannedLot is what a label says of a lot: its code, and when it expires, if it says so.
type scannedLot struct {
	code    string
	expires *time.Time
}

func (l scannedLot) of(item catalog.Item) catalog.Lot {
	return catalog.Lot{Field: "lot", Item: item, Code: l.code, Expires: l.expires}
}

// lotOn is the lot that a label of goods says.
func lotOn(g resolving.Goods) scannedLot {
	lot := scannedLot{code: g.Lot}
	if day, err := time.Parse(time.DateOnly, g.Expires); err == nil {
		lot.expires = &day
	}
	return lot
}

// checkLot compares a lot's label, or its code alone, with the stop's.
func checkLot(
	ctx context.Context, q sqlx.QueryerContext, site int32, stop RoundStop, scan string, now time.Time,
) (scannedLot, error) {
	lot, err := stop.readLot(ctx, q, site, scan, now)
	switch {
	case err != nil:
		return lot, err
	case stop.Tracking == receiving.LotOut:
		return lot, stop.checkNewLot(ctx, q, lot, now)
	}
	return lot, stop.sameLot("lot", lot.code)
}

// readLot reads a lot's label, and refuses one of other goods. What is no such label is the code
// itself.
func (s RoundStop) readLot(
	ctx context.Context, q sqlx.QueryerContext, site int32, scan string, now time.Time,
) (scannedLot, error) {
	read, err := resolving.Read(ctx, q, site, scan, now)
	if err != nil || read.Goods == nil || read.Goods.Lot == "" {
		return scannedLot{code: strings.TrimSpace(scan)}, nil
	}
	if g := read.Goods.Item; g.ID != s.ItemID {
		return scannedLot{}, refusal.New(refusal.WrongItem, "lot", "You scanned a lot of %s, %s. Here you take %s, %s.",
			g.SKU, g.Description, s.SKU, s.Description).Of(refusal.Conflict).With("expected", s.SKU)
	}
	return lotOn(*read.Goods), nil
}

func (s RoundStop) sameLot(field, code string) error {
	if code == "" || s.Lot == nil || code == *s.Lot {
		return nil
	}
	return refusal.New(refusal.WrongLot, field, "You scanned lot %s. Here you take lot %s of %s.", code, *s.Lot,
		s.SKU).Of(refusal.Conflict).With("expected", *s.Lot).With("scanned", code)
}

// checkNewLot refuses what no lot can be called, where it is taken down on the way out, and one
// that is known or said to expire too soon.
func (s RoundStop) checkNewLot(ctx context.Context, q sqlx.QueryerContext, lot scannedLot, now time.Time) error {
	item, err := catalog.ItemByID(ctx, q, s.ItemID)
	if err != nil {
		return err
	}
	if err := item.Codes().CheckTracked("lot", "lot", lot.code); err != nil {
		return err
	}
	// The GS1 General Specifications' AI (10): 1 to 20 characters of set 82.
	if err := gs1.CheckValue("10", lot.code, time.Time{}); err != nil {
		return refusal.New(refusal.LotMalformed, "lot", "%q is not a lot: %s. Scan the label again.", lot.code, err)
	}
	if err := catalog.CheckLots(ctx, q, []catalog.Lot{lot.of(item)}); err != nil {
		return err
	}
	return s.livesLong(lot, now)
}

// livesLong refuses a lot that expires sooner than the item may when it is shipped.
func (s RoundStop) livesLong(lot scannedLot, now time.Time) error {
	last := now.AddDate(0, 0, s.LifeOut).Truncate(24 * time.Hour)
	if lot.expires == nil || !lot.expires.Before(last) {
		return nil
	}
	return refusal.New(refusal.TooOld, "lot", "Lot %s of %s expires on %s; %d days must be left when it is shipped.",
		lot.code, s.SKU, lot.expires.Format(time.DateOnly), s.LifeOut).Of(refusal.Conflict)
}

// withLot is the stop with the lot that goes, where it is taken down on the way out. A lot that
// nobody knew yet is written.
func (s RoundStop) withLot(ctx context.Context, tx *command.Tx, lot scannedLot) (RoundStop, error) {
	if s.Tracking != receiving.LotOut {
		return s, nil
	}
	item, err := catalog.ItemByID(ctx, tx, s.ItemID)
	if err != nil {
		return s, err
	}
	ids, err := catalog.EnsureLots(ctx, tx, []catalog.Lot{lot.of(item)}, tx.Now)
	if err != nil {
		return s, err
	}
	s.LotID, s.Lot = &ids[0], &lot.code
	return s, nil
}
