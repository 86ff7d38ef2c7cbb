package receiving

import (
	"testing"
	"time"

	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"

	"github.com/shopspring/decimal"
)

func TestWhatMayBeReceived(t *testing.T) {
	today := time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC)
	later, past := today.AddDate(1, 0, 0), today.AddDate(0, 0, -1)
	n := decimal.NewFromInt
	lot := func(code string, expires *time.Time, q int64) LotIn { return LotIn{code, expires, n(q)} }
	for name, c := range map[string]struct {
		tracking    string
		here        int64
		lots        []LotIn
		code, field string
	}{
		"all of it":           {None, 42, nil, "", ""},
		"a lot is missing":    {Lot, 5, nil, "lot_missing", "l.lots"},
		"a lot without code":  {Lot, 5, []LotIn{lot("", nil, 5)}, "lot_missing", "l.lots[0].code"},
		"a lot is not wanted": {None, 5, []LotIn{lot("A", nil, 5)}, "lot_unwanted", "l.lots"},
		"two lots":            {Lot, 5, []LotIn{lot("A", nil, 2), lot("B", nil, 3)}, "", ""},
		"lots fall short":     {Lot, 5, []LotIn{lot("A", nil, 2), lot("B", nil, 2)}, "lots_total", "l.lots"},
		"a lot twice":         {Lot, 5, []LotIn{lot("A", nil, 2), lot("A", nil, 3)}, "lot_twice", "l.lots[1].code"},
		"a lot of nothing": {Lot, 5, []LotIn{lot("A", nil, 5), lot("B", nil, 0)}, "quantity_zero",
			"l.lots[1].quantity"},
		"no expiry":                {LotExpiry, 5, []LotIn{lot("A", nil, 5)}, "expiry_missing", "l.lots[0].expires_on"},
		"expired":                  {LotExpiry, 5, []LotIn{lot("A", &past, 5)}, "lot_expired", "l.lots[0].expires_on"},
		"expiring today":           {LotExpiry, 5, []LotIn{lot("A", &today, 5)}, "", ""},
		"expiring later":           {LotExpiry, 5, []LotIn{lot("A", &later, 5)}, "", ""},
		"the item's SKU":           {Lot, 5, []LotIn{lot("ab-5", nil, 5)}, "own_code", "l.lots[0].code"},
		"the item's GTIN, wider":   {Lot, 5, []LotIn{lot("09521234000013", nil, 5)}, "own_code", "l.lots[0].code"},
		"another GTIN":             {Lot, 5, []LotIn{lot("9521234000020", nil, 5)}, "", ""},
		"a label in brackets":      {Lot, 5, []LotIn{lot("(01)09521234000013(10)A", nil, 5)}, "label_whole", "l.lots[0].code"},
		"a label with its symbol":  {Lot, 5, []LotIn{lot("]C110A", nil, 5)}, "label_whole", "l.lots[0].code"},
		"a bare label":             {Lot, 5, []LotIn{lot("010952123400001310A", nil, 5)}, "label_whole", "l.lots[0].code"},
		"digits that are no label": {Lot, 5, []LotIn{lot("010952123400001410A", nil, 5)}, "", ""},
		"a code of 21 letters": {Lot, 5, []LotIn{lot("ABCDEFGHIJKLMNOPQRSTU", nil, 5)}, "lot_malformed",
			"l.lots[0].code"},
	} {
		line := Line{Field: "l", Codes: Codes{SKU: "AB-5", GTINs: []string{"9521234000013"}}, Tracking: c.tracking, Unit: measure.Unit{Name: "each", Whole: true},
			Here: n(c.here), Lots: c.lots}
		err := line.Check()
		if err == nil {
			err = line.ShortLived(today)
		}
		r := refusal.From(err)
		if (err == nil) != (c.code == "") || r != nil && (string(r.Code) != c.code || r.Field != c.field) {
			t.Errorf("%s: %+v, want %q at %q", name, r, c.code, c.field)
		}
	}
}
