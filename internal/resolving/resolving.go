// Package resolving tells what a scan or a few words could mean.
package resolving

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/gs1"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Found is one thing that a scan could mean.
type Found struct {
	Kind  string `db:"kind" json:"kind" enum:"bin,item,lot,serial,carton,order,purchase,arrival,transfer,customer_return,walk,refill,recall,round,shipment,load,invoice,count,schedule,person,supplier,customer"`
	ID    int64  `db:"id" json:"id"`
	Code  string `db:"code" json:"code"`
	Label string `db:"label" json:"label"`
	// Outbound is true for a carton that is made up for an order here.
	Outbound bool `db:"outbound" json:"outbound"`
}

// A Reading is what was read from a scan.
type Reading struct {
	Found []Found `json:"found"`
	// Goods is set when the scan names goods.
	Goods *Goods `json:"goods,omitempty"`
	// Elements are the parts of a GS1 code.
	Elements []gs1.Element `json:"elements"`
}

// Goods are what a scan says of goods: the item, how many base units, which lot.
type Goods struct {
	Item     catalog.Item    `json:"item"`
	Quantity decimal.Decimal `json:"quantity"`
	Pack     string          `json:"pack"`
	Lot      string          `json:"lot"`
	LotID    *int64          `json:"lot_id"`
	Serial   string          `json:"serial"`
	Expires  string          `json:"expires"`
}

// Carton is the carton or pallet that was scanned, if it was one.
func (r Reading) Carton() (c Found, scanned bool) {
	if i := slices.IndexFunc(r.Found, func(f Found) bool { return f.Kind == "carton" }); i >= 0 {
		return r.Found[i], true
	}
	return c, false
}

// Read finds what text could mean at the site. A GS1 code that is malformed is
// refused; words that mean nothing find nothing.
func Read(ctx context.Context, q sqlx.QueryerContext, site int32, text string, today time.Time) (Reading, error) {
	out := Reading{Found: []Found{}, Elements: []gs1.Element{}}
	text = strings.TrimSpace(text)
	if text == "" {
		return out, nil
	}
	if len(text) > 200 {
		return out, refusal.New(refusal.ScanLong, "text",
			"The scan has %d characters. No code we know is that long; scan again.", len(text))
	}
	if gs1.Looks(text) {
		m, err := gs1.Parse("text", text, today)
		if err != nil {
			return out, err
		}
		out.Elements = m.Elements
		return out, out.readMessage(ctx, q, m)
	}
	if err := out.readKey(ctx, q, text); err != nil || len(out.Found) > 0 {
		return out, err
	}
	return out, out.readWords(ctx, q, site, text)
}

func (r *Reading) readMessage(ctx context.Context, q sqlx.QueryerContext, m gs1.Message) error {
	if sscc := m.Value("00"); sscc != "" {
		return r.carton(ctx, q, sscc)
	}
	gtin := m.Value("01", "02")
	if gtin == "" {
		return nil
	}
	if err := r.goods(ctx, q, gtin); err != nil || r.Goods == nil {
		return err
	}
	if e := m.Find("30", "37"); e != nil && e.Number != nil {
		r.Goods.Quantity = r.Goods.Quantity.Mul(*e.Number)
	}
	r.Goods.Expires = expiryOn(m)
	if r.Goods.Serial = m.Value("21"); r.Goods.Serial != "" {
		if err := r.serial(ctx, q, r.Goods.Item, r.Goods.Serial); err != nil {
			return err
		}
	}
	r.Goods.Lot = m.Value("10")
	if r.Goods.Lot == "" {
		return nil
	}
	var lots []Found
	err := sqlx.SelectContext(ctx, q, &lots, `
		SELECT 'lot' AS kind, id, code, 'lot of ' || $3 AS label FROM lots WHERE item_id = $1 AND code = $2`,
		r.Goods.Item.ID, r.Goods.Lot, r.Goods.Item.Description)
	if err != nil {
		return fmt.Errorf("finding a lot: %w", err)
	}
	for _, l := range lots {
		r.Goods.LotID = &l.ID
	}
	r.Found = append(lots, r.Found...)
	return nil
}

// serial finds a unit of the item; one that was never heard of is no matter.
func (r *Reading) serial(ctx context.Context, q sqlx.QueryerContext, item catalog.Item, code string) error {
	units, err := serials.Find(ctx, q, item.ID, []string{code})
	if err != nil {
		return err
	}
	if u, known := units[code]; known {
		r.Found = append([]Found{{Kind: "serial", ID: u.ID, Code: u.Code, Label: item.SKU + ", " + u.Where()}},
			r.Found...)
	}
	return nil
}

// readKey reads plain digits that are a GTIN or an SSCC.
func (r *Reading) readKey(ctx context.Context, q sqlx.QueryerContext, text string) error {
	if sscc, err := gs1.SSCC("text", strings.TrimPrefix(text, "00")); err == nil &&
		(len(text) == 18 || len(text) == 20) {
		return r.carton(ctx, q, sscc)
	}
	if gtin, err := gs1.GTIN("text", text); err == nil {
		return r.goods(ctx, q, gtin)
	}
	return nil
}

func (r *Reading) carton(ctx context.Context, q sqlx.QueryerContext, sscc string) error {
	err := sqlx.SelectContext(ctx, q, &r.Found, `
		SELECT 'carton' AS kind, c.id, c.sscc AS code, coalesce(w.order_id IS NOT NULL OR w.state = 'blank', false) AS outbound,
		       c.kind || ', ' || coalesce(replace(w.state, '_', ' ') || coalesce(' for ' || o.number, ''),
		       'in ' || (SELECT p.code FROM balances b JOIN locations p ON p.id = b.location_id
		       WHERE b.carton_id = c.id LIMIT 1), 'empty') AS label
		  FROM cartons c LEFT JOIN carton_work w ON w.carton_id = c.id
		  LEFT JOIN outbound_orders o ON o.id = w.order_id WHERE c.sscc = $1`, sscc)
	if err != nil {
		return fmt.Errorf("finding a carton: %w", err)
	}
	return nil
}

func (r *Reading) goods(ctx context.Context, q sqlx.QueryerContext, gtin string) error {
	var packs []catalog.Pack
	var item int32
	if err := sqlx.SelectContext(ctx, q, &packs, `
		SELECT id, item_id, name, holds, gtin FROM packs WHERE gtin = $1`, gtin); err != nil {
		return fmt.Errorf("finding a GTIN: %w", err)
	}
	if len(packs) == 0 {
		return refusal.New(refusal.GTINUnknown, "text",
			"No item here has the GTIN %s. Check the label, or add the GTIN to its item.", gtin).Of(refusal.Missing)
	}
	item = packs[0].ItemID
	found, err := catalog.ItemByID(ctx, q, item)
	if err != nil {
		return err
	}
	r.Goods = &Goods{Item: found, Quantity: packs[0].Holds, Pack: packs[0].Name}
	r.Found = append(r.Found, Found{Kind: "item", ID: int64(item), Code: found.SKU, Label: found.Description})
	return nil
}

func (r *Reading) readWords(ctx context.Context, q sqlx.QueryerContext, site int32, text string) error {
	if err := r.readNamed(ctx, q, site, text); err != nil {
		return err
	}
	items, err := catalog.FindItems(ctx, q, text, most)
	if err != nil {
		return err
	}
	for _, i := range items {
		f := Found{Kind: "item", ID: int64(i.ID), Code: i.SKU, Label: i.Description}
		if strings.EqualFold(i.SKU, text) {
			r.Found = append([]Found{f}, r.Found...)
			r.Goods = &Goods{Item: i, Quantity: decimal.NewFromInt(1), Pack: i.BaseUnit}
		} else {
			r.Found = append(r.Found, f)
		}
	}
	if len(r.Found) > 0 || len([]rune(text)) < shortest {
		return nil
	}
	return r.readParts(ctx, q, site, text)
}
