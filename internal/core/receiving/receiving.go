// Package receiving holds the rules for goods that come in: how much may come on a
// purchase line, what must be captured with it, and what a supplier may invoice for it.
package receiving

import (
	"fmt"
	"time"

	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"

	"github.com/shopspring/decimal"
)

// How an item is tracked: by lots, with their expiry, or unit by unit; lots and units from
// arrival on or only from the way out on.
const (
	None      = "none"
	Lot       = "lot"
	LotExpiry = "lot_expiry"
	LotOut    = "lot_out"
	Serial    = "serial"
	SerialOut = "serial_out"
)

// A Lot as it was read from the goods.
type LotIn struct {
	Code     string
	Expires  *time.Time
	Quantity decimal.Decimal
}

// A Line is one purchase line's part of what came.
type Line struct {
	// Field is the path of the line in the request.
	Field string
	Codes
	Tracking string
	Unit     measure.Unit
	// LifeIn is how many days an expiring lot must have left.
	LifeIn int
	// Here is what came now.
	Here    decimal.Decimal
	Lots    []LotIn
	Serials []string
}

// Check refuses lots that are missing or do not add up, and serials that are not one
// for each unit.
func (l Line) Check() error {
	if err := l.checkSerials(); err != nil {
		return err
	}
	if l.Tracking != Lot && l.Tracking != LotExpiry {
		if len(l.Lots) > 0 {
			return refusal.New(refusal.LotUnwanted, l.Field+".lots",
				"%s needs no lots when it comes in. Leave the lot out.", l.SKU)
		}
		return nil
	}
	if len(l.Lots) == 0 {
		return refusal.New(refusal.LotMissing, l.Field+".lots",
			"%s is kept by lots: say which lot the %s belong to before they are received.", l.SKU, l.Here)
	}
	sum := decimal.Zero
	seen := map[string]bool{}
	for i, lot := range l.Lots {
		if err := l.checkLot(fmt.Sprintf("%s.lots[%d]", l.Field, i), lot, seen); err != nil {
			return err
		}
		sum = sum.Add(lot.Quantity)
	}
	if !sum.Equal(l.Here) {
		return refusal.New(refusal.LotsTotal, l.Field+".lots",
			"%s: the lots add up to %s, and %s are here. They must be the same.", l.SKU, sum, l.Here).With("lots", sum)
	}
	return nil
}

// ShortLived is the refusal of lots that have expired by today or expire too soon after
// it, for somebody to decide on; nil when none does.
func (l Line) ShortLived(today time.Time) error {
	for i, lot := range l.Lots {
		if lot.Expires != nil && lot.Expires.Before(today) {
			return refusal.New(refusal.LotExpired, fmt.Sprintf("%s.lots[%d].expires_on", l.Field, i),
				"Lot %s of %s expired on %s. Set it aside, or have a lead accept it and say why.",
				lot.Code, l.SKU, lot.Expires.Format(time.DateOnly))
		}
		if lot.Expires == nil || l.LifeIn == 0 {
			continue
		}
		if days := int(lot.Expires.Sub(today).Hours() / 24); days < l.LifeIn {
			return refusal.New(refusal.ShortLived, fmt.Sprintf("%s.lots[%d].expires_on", l.Field, i),
				"Lot %s of %s has %d days left, and at least %d are asked for on arrival. Set it aside, or have a "+
					"lead accept it and say why.",
				lot.Code, l.SKU, days, l.LifeIn).With("days", days).With("least", l.LifeIn)
		}
	}
	return nil
}

func (l Line) checkLot(field string, lot LotIn, seen map[string]bool) error {
	switch {
	case lot.Code == "":
		return refusal.New(refusal.LotMissing, field+".code", "%s is kept by lots: the lot's code is missing.", l.SKU)
	case l.CheckTracked(field+".code", "lot", lot.Code) != nil:
		return l.CheckTracked(field+".code", "lot", lot.Code)
	case len(lot.Code) > 20:
		return refusal.New(refusal.LotMalformed, field+".code", "Lot %q has %d characters and may have at most 20.",
			lot.Code, len(lot.Code))
	case seen[lot.Code]:
		return refusal.New(refusal.LotTwice, field+".code", "Lot %s stands twice. Put its whole quantity on one row.",
			lot.Code)
	case l.Tracking == LotExpiry && lot.Expires == nil:
		return refusal.New(refusal.ExpiryMissing, field+".expires_on", "%s expires: the date on lot %s is missing.",
			l.SKU, lot.Code)
	}
	seen[lot.Code] = true
	if err := measure.Check(field+".quantity", lot.Quantity, l.Unit); err != nil {
		return err
	}
	if lot.Quantity.IsZero() {
		return refusal.New(refusal.QuantityZero, field+".quantity",
			"Lot %s has a quantity of 0. Leave it out, or enter what came.", lot.Code)
	}
	return nil
}

// State is the state of an inbound order that was placed, which follows from its lines.
func State(received []decimal.Decimal, closed []bool) states.Inbound {
	some, all := false, true
	for i := range received {
		some = some || received[i].IsPositive()
		all = all && closed[i]
	}
	switch {
	case all:
		return states.Received
	case some:
		return states.PartlyReceived
	}
	return states.Placed
}
