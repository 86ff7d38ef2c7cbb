package resolving_test

import (
	"context"
	"os"
	"testing"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/resolving"
	"lanternrow/internal/test/world"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

func TestWhatAScanMeans(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	h.Lot(t, world.Fluid, "VH-0933", 400)
	if _, err := h.Owner.Exec(`
		INSERT INTO cartons (sscc) VALUES ('095212340000004721');
		INSERT INTO carton_work (carton_id, site_id, state, printed_at, changed_at)
		VALUES (1, 1, 'blank', now(), now());
		INSERT INTO outbound_orders (number, kind, party_id, destination_id, site_id, wanted_on, state, changed_by,
		  changed_at, last_change, reference)
		  VALUES ('S-3309', 'sale', 2, (SELECT location_id FROM parties WHERE id = 2), 1, current_date, 'on_hold', 1,
		  now(), 'x', 'PO 77/A');
		INSERT INTO loads (number, site_id, carrier, opened_by, opened_at)
		VALUES ('L-81', 1, 'Northgate Vans', 1, now());
		INSERT INTO counts (number, site_id, location_id, item_id, found, expected, variance, off, cost, value, counted_by, counted_at, stands_at)
		VALUES ('C-61', 1, 8, 1, 3, 3, 0, 0, 1, 0, 1, now(), now());
		INSERT INTO shipments (number, order_id, site_id, shipped_by, shipped_at) VALUES ('D-501', 1, 1, 1, now());
		INSERT INTO invoices (number, site_id, customer_id, invoiced_on, due_on, total, made_by, made_at)
		VALUES ('I-9001', 1, 2, current_date, current_date, 0, 1, now());
		INSERT INTO schedules (number, site_id, task, rule, settings, state, changed_by, changed_at, last_change)
		VALUES ('T-11', 1, 'x', '{}', '{}', 'paused', 1, now(), 'x'),
		  ('T-12', 1, 'x', '{}', '{}', 'removed', 1, now(), 'x')`); err != nil {
		t.Fatal(err)
	}
	for scan, want := range map[string]struct {
		kind, code string
		quantity   string
		refused    refusal.Code
	}{
		"A-01-1-A":                      {kind: "bin", code: "A-01-1-A"},
		"b-03-1-a":                      {kind: "bin", code: "B-03-1-A"},
		"Dock 1":                        {kind: "bin", code: "Dock 1"},
		"hc-050":                        {kind: "item", code: "HC-050", quantity: "1"},
		"clamp hook":                    {kind: "item", code: "HC-050"},
		"9521234000020":                 {kind: "item", code: "HC-050", quantity: "12"},
		"]E09521234000013":              {kind: "item", code: "HC-050", quantity: "1"},
		"(01)09521234000020":            {kind: "item", code: "HC-050", quantity: "12"},
		"(01)09521234000020(30)3":       {kind: "item", code: "HC-050", quantity: "36"},
		"(01)09521234000037(10)VH-0933": {kind: "lot", code: "VH-0933", quantity: "1"},
		"]C10109521234000037" + "10NEW\x1d17280131": {kind: "item", code: "HZ-500", quantity: "1"},
		"VH-0933":                  {kind: "lot", code: "VH-0933"},
		"095212340000004721":       {kind: "carton", code: "095212340000004721"},
		"00095212340000004721":     {kind: "carton", code: "095212340000004721"},
		"]C100095212340000004721":  {kind: "carton", code: "095212340000004721"},
		"s-3309":                   {kind: "order", code: "S-3309"},
		"l-81":                     {kind: "load", code: "L-81"},
		"C-61":                     {kind: "count", code: "C-61"},
		"D-501":                    {kind: "shipment", code: "D-501"},
		"I-9001":                   {kind: "invoice", code: "I-9001"},
		"T-11":                     {kind: "schedule", code: "T-11"},
		"T-12":                     {},
		"Some pick":                {kind: "person", code: "picker"},
		"B-003":                    {kind: "person", code: "picker"},
		"me picker":                {kind: "person", code: "picker"},
		"lyrebird":                 {kind: "customer", code: "CUS"},
		"tackle":                   {kind: "supplier", code: "SUP"},
		"330":                      {kind: "order", code: "S-3309"},
		"po 77/a":                  {kind: "order", code: "S-3309"},
		"900":                      {kind: "invoice", code: "I-9001"},
		"4721":                     {kind: "carton", code: "095212340000004721"},
		"zz":                       {},
		"nothing at all like this": {},
		"%":                        {},
		"'; DROP TABLE items; --":  {},
		"":                         {},
		"9521234000037000":         {},
		"(01)09521234000038":       {refused: "check_digit"},
		"(01)09521234999997":       {refused: "gtin_unknown"},
		"9521234999997":            {refused: "gtin_unknown"},
		"]d2(":                     {refused: "gs1_unknown_identifier"},
		"(10)LOT-WITHOUT-ITEM":     {refused: "gs1_required"},
	} {
		r, err := resolving.Read(context.Background(), h.App, world.Site, scan, time.Now())
		if want.refused != "" {
			if f := refusal.From(err); f == nil || f.Code != want.refused {
				t.Errorf("%q: %v, want %s", scan, err, want.refused)
			}
			continue
		}
		switch {
		case err != nil:
			t.Errorf("%q: %v", scan, err)
		case want.kind == "" && len(r.Found) > 0:
			t.Errorf("%q means %+v, want nothing", scan, r.Found)
		case want.kind != "" && (len(r.Found) == 0 || r.Found[0].Kind != want.kind || r.Found[0].Code != want.code):
			t.Errorf("%q means %+v, want %s %s", scan, r.Found, want.kind, want.code)
		case want.quantity != "" && (r.Goods == nil || r.Goods.Quantity.String() != want.quantity):
			t.Errorf("%q is goods %+v, want %s", scan, r.Goods, want.quantity)
		}
	}
}

// TestALabelIsReadForThePartThatIsAsked reads labels of three makes, and what was typed, where
// a lot, a serial or an expiry of the fluid is asked for.
func TestALabelIsReadForThePartThatIsAsked(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	now := time.Date(2027, 2, 1, 9, 0, 0, 0, time.UTC)
	const fluid = "0109521234000037"
	for _, c := range []struct {
		part    resolving.Part
		text    string
		want    resolving.Parts
		refused refusal.Code
	}{
		{"lot", "]C1" + fluid + "17280131" + "10VH-1", resolving.Parts{Lot: "VH-1", Expires: "2028-01-31"}, ""},
		{"lot", fluid + "17280131" + "10VH-1", resolving.Parts{Lot: "VH-1", Expires: "2028-01-31"}, ""},
		{"expiry", "(01)09521234000037(17)280131", resolving.Parts{Expires: "2028-01-31"}, ""},
		{"serial", "(01)09521234000037(21)S9", resolving.Parts{Serial: "S9"}, ""},
		{"lot", "(10)VH-2", resolving.Parts{Lot: "VH-2"}, ""},
		{"lot", " VH-3 ", resolving.Parts{Lot: "VH-3"}, ""},
		{"expiry", "2028-06-30", resolving.Parts{Expires: "2028-06-30"}, ""},
		{"serial", "S-77", resolving.Parts{Serial: "S-77"}, ""},
		{"expiry", "June", resolving.Parts{}, refusal.DateMalformed},
		{"lot", "(01)09521234000037(21)S9", resolving.Parts{}, refusal.LabelWithout},
		{"lot", "(01)09521234000013(10)A", resolving.Parts{}, refusal.WrongItem},
		{"serial", "hz-500", resolving.Parts{}, refusal.OwnCode},
		{"lot", "9521234000037", resolving.Parts{}, refusal.OwnCode},
		{"lot", "]C1ZZZZ", resolving.Parts{}, refusal.GS1UnknownIdentifier},
	} {
		got, err := resolving.ReadPart(context.Background(), h.App, world.Fluid, c.part, c.text, now)
		r := refusal.From(err)
		if c.refused == "" && (err != nil || got != c.want) || c.refused != "" && (r == nil || r.Code != c.refused) {
			t.Errorf("the %s in %q: %+v %v, want %+v %s", c.part, c.text, got, err, c.want, c.refused)
		}
	}
}
