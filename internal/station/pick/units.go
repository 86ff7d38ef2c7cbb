package pick

import (
	"context"
	"slices"
	"strings"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// unitwise tells whether each unit of the stop is scanned by its serial.
func (s RoundStop) unitwise() bool {
	return s.Tracking == receiving.Serial || s.Tracking == receiving.SerialOut
}

// checkUnits refuses serials that cannot be taken at the stop: that are not there, where
// units are known all along, or that left already, where they are taken down now.
func (s RoundStop) checkUnits(ctx context.Context, q sqlx.QueryerContext, codes []string) error {
	if !s.unitwise() {
		if len(codes) > 0 {
			return refusal.New(refusal.SerialUnwanted, "serials", "%s needs no serials. Leave them out.", s.SKU)
		}
		return nil
	}
	if len(codes) == 0 {
		return nil
	}
	if err := receiving.CheckSerials("serials", s.SKU, codes); err != nil {
		return err
	}
	if err := s.checkNamed(codes); err != nil {
		return err
	}
	if s.Tracking == receiving.Serial {
		move := ledger.Move{Item: s.ItemID, Lot: s.LotID, Quantity: decimal.NewFromInt(int64(len(codes))),
			From: s.LocationID, FromBox: s.CartonID}
		_, err := serials.Spread(ctx, q, "serials", s.Tracking, s.SKU, move, codes)
		return err
	}
	item, err := catalog.ItemByID(ctx, q, s.ItemID)
	if err != nil {
		return err
	}
	for _, code := range codes {
		if err := item.Codes().CheckTracked("serials", "serial", code); err != nil {
			return err
		}
	}
	found, err := serials.Find(ctx, q, s.ItemID, codes)
	if err != nil {
		return err
	}
	for _, code := range codes {
		if u, known := found[code]; known && u.LocationID != 0 && (!u.Real || u.CartonID != nil) {
			return refusal.New(refusal.SerialGone, "serials",
				"Serial %s of %s is %s by our books. Scan the label again; if it says the same, set the unit "+
					"aside and ask the lead.", code, s.SKU, u.Where()).Of(refusal.Conflict).With("serial", code)
		}
	}
	return nil
}

// checkNamed refuses other units than those that are reserved for the order by name.
func (s RoundStop) checkNamed(codes []string) error {
	if len(s.Units) == 0 {
		return nil
	}
	var named []string
	for _, u := range s.Units {
		named = append(named, u.Serial)
	}
	for _, code := range codes {
		if !slices.Contains(named, code) {
			expected := strings.Join(named, ", ")
			return refusal.New(refusal.WrongSerial, "serials",
				"%s is promised the very %s %s of %s, not %s. Look for its label; if it is not here, say that there "+
					"is not enough.", s.Order, units(len(named)), expected, s.SKU, code).Of(refusal.Conflict).With("expected", expected)
		}
	}
	return nil
}

func units(n int) string {
	if n == 1 {
		return "unit"
	}
	return "units"
}

// moves are the moves of a take: one, or one for each unit that is scanned by its
// serial.
func (s RoundStop) moves(ctx context.Context, tx *command.Tx, move ledger.Move, codes []string) ([]ledger.Move, error) {
	if !s.unitwise() {
		return []ledger.Move{move}, nil
	}
	if !move.Quantity.Equal(decimal.NewFromInt(int64(len(codes)))) {
		return nil, refusal.New(refusal.SerialsTotal, "serials",
			"%d serials are scanned for %s of %s. Scan one for each.", len(codes), move.Quantity, s.SKU)
	}
	if s.Tracking == receiving.Serial {
		return serials.Spread(ctx, tx, "serials", s.Tracking, s.SKU, move, codes)
	}
	ids, err := serials.Ensure(ctx, tx, s.ItemID, codes)
	if err != nil {
		return nil, err
	}
	moves := make([]ledger.Move, len(codes))
	for i, code := range codes {
		id := ids[code]
		moves[i] = move
		moves[i].Quantity, moves[i].Serial, moves[i].SerialCode = decimal.NewFromInt(1), &id, code
	}
	return moves, nil
}
