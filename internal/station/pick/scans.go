package pick

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/resolving"

	"github.com/jmoiron/sqlx"
)

// Checked says that what was scanned so far is right, and what is asked for next.
type Checked struct {
	Next string `json:"next" enum:"bin,item,lot,serial,each,carton,quantity"`
	// CartonID is set once a carton is scanned.
	CartonID int64 `json:"carton_id"`

	// lot is the lot that was scanned.
	lot scannedLot
}

// checkScans compares what was scanned at a stop with what it asks for. Which scans
// are asked for is set for each site.
func checkScans(ctx context.Context, q sqlx.QueryerContext, round int64, in Scans, now time.Time) (Checked, error) {
	r, err := readRound(ctx, q, round)
	if err != nil {
		return Checked{}, err
	}
	return r.checkScans(ctx, q, in, now)
}

// checkScans is checkScans of a round that is read already.
func (r Round) checkScans(ctx context.Context, q sqlx.QueryerContext, in Scans, now time.Time) (Checked, error) {
	stop, err := r.stop(in.StopID)
	if err != nil {
		return Checked{}, err
	}
	site, err := readSettings(ctx, q, r.SiteID)
	if err != nil {
		return Checked{}, err
	}
	if in.Bin == "" && site.ScanBin {
		return Checked{Next: "bin"}, nil
	}
	if err := stop.checkBin(in.Bin, false); err != nil {
		return Checked{}, err
	}
	if in.Item == "" && site.ScanItem {
		return Checked{Next: "item"}, nil
	}
	var lot scannedLot
	if in.Item != "" {
		if lot, err = checkItem(ctx, q, r.SiteID, stop, in.Item, now); err != nil {
			return Checked{}, err
		}
	}
	if in.Lot != "" {
		if lot, err = checkLot(ctx, q, r.SiteID, stop, in.Lot, now); err != nil {
			return Checked{}, err
		}
	}
	if stop.AskLot && lot.code == "" {
		return Checked{Next: "lot"}, nil
	}
	if err := stop.checkUnits(ctx, q, in.Serials); err != nil {
		return Checked{}, err
	}
	if stop.unitwise() && len(in.Serials) == 0 {
		return Checked{Next: "serial"}, nil
	}
	if r.EachUnit && stop.Whole && !stop.unitwise() && site.ScanItem {
		for i, scan := range in.Each {
			if _, err := checkItem(ctx, q, r.SiteID, stop, scan, now); err != nil {
				return Checked{}, refusal.At(err, fmt.Sprintf("each[%d]", i))
			}
		}
		if len(in.Each) == 0 {
			return Checked{Next: "each"}, nil
		}
	}
	if in.Carton == "" && site.ScanCarton {
		return Checked{Next: "carton"}, nil
	}
	carton, err := r.cartonFor(ctx, q, stop, in.Carton, now)
	return Checked{Next: "quantity", CartonID: carton, lot: lot}, err
}

// settings are what a site asks of its rounds.
type settings struct {
	ScanBin    bool `db:"scan_bin"`
	ScanItem   bool `db:"scan_item"`
	ScanCarton bool `db:"scan_carton"`
	OtherLot   bool `db:"other_lot"`
}

func readSettings(ctx context.Context, q sqlx.QueryerContext, site int32) (s settings, err error) {
	if err = sqlx.GetContext(ctx, q, &s, `
		SELECT scan_bin, scan_item, scan_carton, other_lot FROM sites WHERE id = $1`, site); err != nil {
		return s, fmt.Errorf("reading the site: %w", err)
	}
	return s, nil
}

// checkBin refuses another bin than the stop's, and none where one is needed.
func (s RoundStop) checkBin(scan string, needed bool) error {
	switch {
	case scan == "" && needed:
		return refusal.New(refusal.ScanMissing, "bin", "The bin is not scanned yet. Scan it before you take.")
	case scan != "" && !strings.EqualFold(strings.TrimSpace(scan), s.Bin):
		return refusal.New(refusal.WrongBin, "bin",
			"You scanned %s. This stop is at %s: go there and scan its label.", scan, s.Bin).Of(refusal.Conflict).With("expected", s.Bin)
	}
	return nil
}

func (r Round) stop(id int64) (RoundStop, error) {
	for _, s := range r.Stops {
		if s.ID == id {
			if s.State != states.StopOpen {
				return s, refusal.New(refusal.StopDone, "stop_id", "Stop %d at %s is done already.", s.Seq,
					s.Bin).Of(refusal.Conflict)
			}
			return s, nil
		}
	}
	return RoundStop{}, refusal.New(refusal.StopUnknown, "stop_id", "%s has no such stop.",
		r.Number).Of(refusal.Missing)
}

// checkItem compares an item's label with what the stop asks for, and returns the lot
// that it says, if any.
func checkItem(
	ctx context.Context, q sqlx.QueryerContext, site int32, stop RoundStop, scan string, now time.Time,
) (lot scannedLot, err error) {
	read, err := resolving.Read(ctx, q, site, scan, now)
	if err != nil {
		return lot, refusal.At(err, "item")
	}
	wanted := stop.SKU + ", " + stop.Description
	if read.Goods == nil {
		return lot, refusal.New(refusal.WrongItem, "item", "You scanned %s, which is no item. Here you take %s.", scan,
			wanted).Of(refusal.Conflict).With("expected", stop.SKU)
	}
	if read.Goods.Item.ID != stop.ItemID {
		return lot, refusal.New(refusal.WrongItem, "item", "You scanned %s, %s. Here you take %s.",
			read.Goods.Item.SKU, read.Goods.Item.Description, wanted).Of(refusal.Conflict).With("expected", stop.SKU)
	}
	lot = lotOn(*read.Goods)
	return lot, stop.sameLot("item", lot.code)
}

// cartonFor finds the carton scanned, or the stop's only open one when none needs to
// be, and refuses one of another order.
func (r Round) cartonFor(
	ctx context.Context, q sqlx.QueryerContext, stop RoundStop, scan string, now time.Time,
) (int64, error) {
	var mine []Carton
	for _, c := range r.Cartons {
		if c.State == states.CartonOpen && c.OrderID != nil && *c.OrderID == stop.OrderID {
			mine = append(mine, c)
		}
	}
	if len(mine) == 0 {
		return 0, refusal.New(refusal.CartonMissing, "carton",
			"%s has no open carton on this round. Scan a blank carton label to open one.", stop.Order).Of(refusal.Conflict)
	}
	if scan == "" {
		return mine[len(mine)-1].ID, nil
	}
	sscc, err := scannedSSCC(ctx, q, r.SiteID, scan, now)
	if err != nil {
		return 0, err
	}
	for _, c := range mine {
		if c.SSCC == sscc {
			return c.ID, nil
		}
	}
	for _, c := range r.Cartons {
		if c.SSCC == sscc {
			return 0, refusal.New(refusal.WrongCarton, "carton",
				"You scanned carton %s, for %s. These go into carton %s, for %s.", c.Letter, c.Order, mine[0].Letter, stop.Order).Of(refusal.Conflict).With("expected", mine[0].SSCC)
		}
	}
	return 0, refusal.New(refusal.WrongCarton, "carton",
		"Carton %s is not on this round. These go into carton %s, …%s.", sscc, mine[0].Letter, mine[0].SSCC[14:]).Of(refusal.Conflict).With("expected", mine[0].SSCC)
}

// scannedSSCC reads a carton label, raw or typed.
func scannedSSCC(ctx context.Context, q sqlx.QueryerContext, site int32, scan string, now time.Time) (string, error) {
	read, err := resolving.Read(ctx, q, site, scan, now)
	if err != nil {
		return "", refusal.At(err, "carton")
	}
	if c, scanned := read.Carton(); scanned {
		return c.Code, nil
	}
	return "", refusal.New(refusal.WrongCarton, "carton",
		"You scanned %s, which is no carton label here. Scan the label on the carton.", scan).Of(refusal.Conflict)
}
