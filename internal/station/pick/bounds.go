package pick

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// bounds narrow where a round may take from.
type bounds struct {
	emptyFirst, zone, fromBin, toBin string
}

// bounds reads where a round may take from. A zone or bin that the site does not have is
// refused; a stretch may be named from either end.
func (w Wish) bounds(ctx context.Context, q sqlx.QueryerContext) (b bounds, err error) {
	if w.Zone != "" {
		known, err := catalog.ZoneKnown(ctx, q, w.SiteID, w.Zone)
		if err != nil {
			return b, err
		}
		if !known {
			return b, refusal.New(refusal.ZoneUnknown, "zone", "There is no zone %s at this site.", w.Zone)
		}
		b.zone = w.Zone
	}
	for _, bin := range []struct {
		field, code string
		to          *string
	}{{"from_bin", w.FromBin, &b.fromBin}, {"to_bin", w.ToBin, &b.toBin}, {"empty_first", w.EmptyFirst, &b.emptyFirst}} {
		if bin.code == "" {
			continue
		}
		location, err := catalog.LocationByCode(ctx, q, bin.field, bin.code, w.SiteID)
		if err != nil {
			return b, err
		}
		*bin.to = location.Code
	}
	if b.toBin != "" && b.toBin < b.fromBin {
		b.fromBin, b.toBin = b.toBin, b.fromBin
	}
	return b, nil
}

func (b bounds) take(s *shelf) bool {
	return (b.zone == "" || s.Zone == b.zone) && (b.fromBin == "" || s.Bin >= b.fromBin) &&
		(b.toBin == "" || s.Bin <= b.toBin)
}

// outside says what a line could have of these holdings if the bounds were wider, with what is
// reserved for it by name; empty where that is nothing.
func (b bounds) outside(held []*shelf) string {
	free, reserved := decimal.Zero, decimal.Zero
	var bins, own []string
	for _, s := range held {
		switch {
		case b.take(s) || !s.Available.IsPositive():
		case s.mine:
			reserved, own = reserved.Add(s.Available), add(own, s.Bin)
		default:
			free, bins = free.Add(s.Available), add(bins, s.Bin)
		}
	}
	var parts []string
	if reserved.IsPositive() {
		parts = append(parts, fmt.Sprintf("%s reserved for it lie in %s", reserved, some(own)))
	}
	if free.IsPositive() {
		parts = append(parts, fmt.Sprintf("%s free lie in %s", free, some(bins)))
	}
	if len(parts) == 0 {
		return ""
	}
	return strings.Join(parts, " and ") + ", outside what is planned from"
}

// add adds a code to a list that does not have it yet.
func add(codes []string, code string) []string {
	if slices.Contains(codes, code) {
		return codes
	}
	return append(codes, code)
}

// mostNamed is how many bins are named before the rest is counted.
const mostNamed = 4

// some names the first of these codes, and says how many more there are.
func some(codes []string) string {
	if len(codes) <= mostNamed {
		return strings.Join(codes, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(codes[:mostNamed], ", "), len(codes)-mostNamed)
}
