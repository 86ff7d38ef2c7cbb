// Package catalog knows what exists before goods move: sites and their locations,
// items and their packs, suppliers and customers.
package catalog

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/core/gs1"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/slotting"
	"lanternrow/internal/core/walking"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/database"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// An Item is something kept in stock. Weight and volume are those of a base unit.
type Item struct {
	ID          int32           `db:"id" json:"id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	BaseUnit    string          `db:"base_unit" json:"base_unit"`
	Whole       bool            `db:"whole" json:"whole"`
	Tracking    string          `db:"tracking" json:"tracking"`
	WeightKg    decimal.Decimal `db:"weight_kg" json:"weight_kg"`
	VolumeL     decimal.Decimal `db:"volume_l" json:"volume_l"`
	Handling    string          `db:"handling" json:"handling"`
	Pace        decimal.Decimal `db:"pace" json:"pace"`
	Cost        decimal.Decimal `db:"cost" json:"cost" money:"true"`
	// SalesPrice is what customers pay for a base unit; nil where it is entered each time.
	SalesPrice *decimal.Decimal `db:"sales_price" json:"sales_price" money:"true"`
	// What of a purchase line may come in short or over, in per cent.
	ShortPct decimal.Decimal `db:"short_pct" json:"short_pct"`
	OverPct  decimal.Decimal `db:"over_pct" json:"over_pct"`
	// InspectPct is the share of what comes in that is inspected, in per cent.
	InspectPct decimal.Decimal `db:"inspect_pct" json:"inspect_pct"`
	// InspectAQL is the acceptable quality limit of the sampling plan that an arrival is
	// judged by instead, in per cent; nil without.
	InspectAQL *decimal.Decimal `db:"inspect_aql" json:"inspect_aql"`
	// AskOut is true when the lot is scanned on the way out too; LotRule names lots of
	// the house's own.
	AskOut  bool   `db:"ask_out" json:"ask_out"`
	LotRule string `db:"lot_rule" json:"lot_rule"`
	// What it may be used for.
	Stocked bool `db:"stocked" json:"stocked"`
	Bought  bool `db:"bought" json:"bought"`
	Sold    bool `db:"sold" json:"sold"`
	// Days of life that must be left on arrival and on dispatch.
	LifeIn int `db:"life_in" json:"life_in"`
	// ShelfLife is how many days it keeps from when it is made; 0 is unknown.
	ShelfLife int    `db:"shelf_life" json:"shelf_life"`
	LifeOut   int    `db:"life_out" json:"life_out"`
	Packs     []Pack `db:"-" json:"packs"`
}

// Unit is the item's base unit.
func (i Item) Unit() measure.Unit { return measure.Unit{Name: i.BaseUnit, Whole: i.Whole} }

// Goods is a quantity of the item, of a lot where one is named, as the rules of bins see it; no bin is favoured.
func (i Item) Goods(lot string, quantity decimal.Decimal) slotting.Goods {
	return slotting.Goods{Item: i.SKU, Lot: lot, Quantity: quantity, Whole: i.Whole, WeightKg: i.WeightKg, VolumeL: i.VolumeL,
		Handling: i.Handling}
}

// Pack finds a pack of the item.
func (i Item) Pack(id int32) (p Pack, known bool) {
	if at := slices.IndexFunc(i.Packs, func(p Pack) bool { return p.ID == id }); at >= 0 {
		return i.Packs[at], true
	}
	return p, false
}

// A Pack holds so many base units and may have a GTIN of its own.
type Pack struct {
	ID     int32           `db:"id" json:"id"`
	ItemID int32           `db:"item_id" json:"-"`
	Name   string          `db:"name" json:"name"`
	Holds  decimal.Decimal `db:"holds" json:"holds"`
	GTIN   *string         `db:"gtin" json:"gtin"`
	// WeightKg is that of a full one; nil is unknown.
	WeightKg *decimal.Decimal `db:"weight_kg" json:"weight_kg"`
}

// Codes are what names the item itself: its SKU and the GTINs of its packs.
func (i Item) Codes() receiving.Codes {
	out := receiving.Codes{SKU: i.SKU}
	for _, p := range i.Packs {
		if p.GTIN != nil {
			out.GTINs = append(out.GTINs, *p.GTIN)
		}
	}
	return out
}

// A Location is anywhere goods can be.
type Location struct {
	ID       int32            `db:"id" json:"id"`
	SiteID   *int32           `db:"site_id" json:"site_id"`
	Kind     string           `db:"kind" json:"kind"`
	Code     string           `db:"code" json:"code"`
	Aisle    *string          `db:"aisle" json:"aisle"`
	Bay      *int             `db:"bay" json:"bay"`
	Level    *int             `db:"level" json:"level"`
	X        float64          `db:"x" json:"x"`
	Y        float64          `db:"y" json:"y"`
	MaxUnits *decimal.Decimal `db:"max_units" json:"max_units"`
}

const itemColumns = `id, sku, description, base_unit, whole, tracking, weight_kg, volume_l, handling, pace, cost,
	    sales_price, short_pct, over_pct, inspect_pct, inspect_aql, ask_out, lot_rule, stocked, bought, sold, life_in,
	    shelf_life, life_out`

// ItemByID reads an item with its packs.
func ItemByID(ctx context.Context, q sqlx.QueryerContext, id int32) (Item, error) {
	var item Item
	err := sqlx.GetContext(ctx, q, &item, `SELECT `+itemColumns+` FROM items WHERE id = $1`, id)
	if err != nil {
		return item, documents.Found(err, "item", fmt.Sprint(id))
	}
	items := []Item{item}
	if err := addPacks(ctx, q, items); err != nil {
		return item, err
	}
	return items[0], nil
}

func addPacks(ctx context.Context, q sqlx.QueryerContext, items []Item) error {
	ids := make([]int32, len(items))
	for i := range items {
		ids[i] = items[i].ID
	}
	packs, err := PacksOf(ctx, q, ids)
	for i := range items {
		if items[i].Packs = packs[items[i].ID]; items[i].Packs == nil {
			items[i].Packs = []Pack{}
		}
	}
	return err
}

// PacksOf reads the packs of items, the smallest first.
func PacksOf(ctx context.Context, q sqlx.QueryerContext, items []int32) (map[int32][]Pack, error) {
	var packs []Pack
	if err := sqlx.SelectContext(ctx, q, &packs, `
		SELECT id, item_id, name, holds, gtin, weight_kg FROM packs WHERE item_id = ANY($1) ORDER BY item_id, holds`,
		items); err != nil {
		return nil, fmt.Errorf("reading packs: %w", err)
	}
	out := map[int32][]Pack{}
	for _, p := range packs {
		out[p.ItemID] = append(out[p.ItemID], p)
	}
	return out, nil
}

// ItemsByID reads items with their packs.
func ItemsByID(ctx context.Context, q sqlx.QueryerContext, ids []int32) (map[int32]Item, error) {
	var items []Item
	if err := sqlx.SelectContext(ctx, q, &items, `SELECT `+itemColumns+` FROM items
		    WHERE id = ANY($1)`, ids); err != nil {
		return nil, fmt.Errorf("reading items: %w", err)
	}
	if err := addPacks(ctx, q, items); err != nil {
		return nil, err
	}
	out := make(map[int32]Item, len(items))
	for _, i := range items {
		out[i.ID] = i
	}
	return out, nil
}

// FindItems finds items by the opening of the SKU, by GTIN, plain or in a GS1 label, or by
// words of the description, the nearest first.
func FindItems(ctx context.Context, q sqlx.QueryerContext, text string, limit int) ([]Item, error) {
	text = strings.TrimSpace(text)
	items := []Item{}
	words := searchWords(text)
	err := sqlx.SelectContext(ctx, q, &items, `
		SELECT `+itemColumns+` FROM items
		 WHERE $1 = '' OR upper(sku) LIKE upper($2) || '%' OR ($3 <> '' AND find @@ to_tsquery('simple', $3))
		    OR id IN (SELECT item_id FROM packs WHERE gtin = $4)
		 ORDER BY upper(sku) = upper($1) DESC, upper(sku) LIKE upper($2) || '%' DESC, sku LIMIT $5`,
		text, database.LikeLiteral(text), words, gtinIn(text), limit)
	if err != nil {
		return nil, fmt.Errorf("finding items: %w", err)
	}
	return items, addPacks(ctx, q, items)
}

// gtinIn is the GTIN that text is or that a GS1 label carries; empty when there is none.
func gtinIn(text string) string {
	if gs1.Looks(text) {
		// What a label says beside its item, and whether that holds, is no matter here.
		label, _ := gs1.Parse("", text, time.Now())
		return label.Value("01", "02")
	}
	gtin, err := gs1.GTIN("", text)
	if err != nil {
		return ""
	}
	return gtin
}

// searchWords makes a text query in which every word is the opening of one.
func searchWords(text string) string {
	var words []string
	for _, w := range strings.FieldsFunc(text, func(r rune) bool {
		return strings.ContainsRune(" '&|!():*<>\\\"\x1d",
			r)
	}) {
		words = append(words, "'"+w+"':*")
	}
	return strings.Join(words, " & ")
}

// LocationByID reads a location.
func LocationByID(ctx context.Context, q sqlx.QueryerContext, id int32) (Location, error) {
	var p Location
	err := sqlx.GetContext(ctx, q, &p, `
		SELECT id, site_id, kind, code, aisle, bay, level, x, y, max_units FROM locations WHERE id = $1`, id)
	return p, documents.Found(err, "location", fmt.Sprint(id))
}

// LocationByCode reads a location of the site by its code, refusing it at field when it
// is unknown or belongs to another site.
func LocationByCode(ctx context.Context, q sqlx.QueryerContext, field, code string, site int32) (Location, error) {
	var found []struct {
		Location
		Site *string `db:"site"`
	}
	code = strings.TrimSpace(code)
	err := sqlx.SelectContext(ctx, q, &found, `
		SELECT p.id, p.site_id, p.kind, p.code, p.aisle, p.bay, p.level, p.x, p.y, p.max_units, s.name AS site
		  FROM locations p LEFT JOIN sites s ON s.id = p.site_id
		 WHERE upper(p.code) = upper($1) AND p.real ORDER BY (p.site_id = $2) DESC NULLS LAST LIMIT 1`, code, site)
	switch {
	case err != nil:
		return Location{}, fmt.Errorf("finding location %s: %w", code, err)
	case len(found) == 0:
		return Location{}, refusal.New(refusal.BinUnknown, field,
			"There is no bin %q. Scan the label again, or read it aloud: aisle, bay, level, side, such as C-04-2-B.", code)
	case found[0].SiteID == nil || *found[0].SiteID != site:
		where := "between sites"
		if found[0].Site != nil {
			where = "in " + *found[0].Site
		}
		return Location{}, refusal.New(refusal.BinElsewhere, field, "%s is %s, not at this site. Choose a bin here.",
			found[0].Code, where)
	}
	return found[0].Location, nil
}

// LocationOf is the location of a party, where goods come from or go to.
func LocationOf(ctx context.Context, q sqlx.QueryerContext, party int32) (int32, error) {
	var id int32
	err := sqlx.GetContext(ctx, q, &id, `SELECT location_id FROM parties WHERE id = $1`, party)
	return id, documents.Found(err, "party", fmt.Sprint(party))
}

// OneLocation is the site's first location of a kind, such as its bench.
func OneLocation(ctx context.Context, q sqlx.QueryerContext, site int32, kind string) (Location, error) {
	var p Location
	err := sqlx.GetContext(ctx, q, &p, `
		SELECT id, site_id, kind, code, aisle, bay, level, x, y, max_units FROM locations WHERE site_id = $1
		   AND kind = $2 ORDER BY code LIMIT 1`, site, kind)
	return p, documents.Found(err, kind, "of the site")
}

// LostAndFound is where goods are that nobody finds, and where those come from that are found.
func LostAndFound(ctx context.Context, q sqlx.QueryerContext) (id int32, err error) {
	if err := sqlx.GetContext(ctx, q, &id, `
		SELECT id FROM locations WHERE kind = 'lost' ORDER BY id LIMIT 1`); err != nil {
		return 0, fmt.Errorf("finding lost and found: %w", err)
	}
	return id, nil
}

// Scrapped is where scrapped goods are counted; EnsureScrapped makes it when it is first needed.
func Scrapped(ctx context.Context, q sqlx.QueryerContext) (id int32, err error) {
	err = sqlx.GetContext(ctx, q, &id, `SELECT id FROM locations WHERE kind = 'lost' AND code = 'Scrapped'`)
	return id, documents.Found(err, "location", "Scrapped")
}

// EnsureScrapped makes where scrapped goods are counted, where there is none yet.
func EnsureScrapped(ctx context.Context, tx sqlx.ExecerContext) error {
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO locations (kind, code) VALUES ('lost', 'Scrapped') ON CONFLICT DO NOTHING`); err != nil {
		return fmt.Errorf("making where scrap is counted: %w", err)
	}
	return nil
}

// AreaOf is, in SQL, the zone of a location p whose zone is z; outside of zones it is what it is: a dock, a bench.
const AreaOf = `coalesce(z.code, p.kind)`

// FloorOf reads the site's floor as aisles and cross aisles. Where no aisles were drawn, there is one wherever something
// stands, and where fewer than two cross aisles were, they run along both ends.
func FloorOf(ctx context.Context, q sqlx.QueryerContext, site int32) (walking.Floor, error) {
	var f walking.Floor
	if err := sqlx.SelectContext(ctx, q, &f.Aisles, `
		SELECT x::float8 FROM aisles WHERE site_id = $1
		UNION SELECT x::float8 FROM locations WHERE site_id = $1 AND fixed AND NOT EXISTS (SELECT FROM aisles WHERE site_id = $1)
		 ORDER BY 1`, site); err != nil {
		return f, fmt.Errorf("reading aisles: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &f.Cross, `
		SELECT unnest(CASE WHEN cardinality(s.cross_aisles) >= 2 THEN s.cross_aisles ELSE ARRAY[e.first, e.last] END)::float8
		  FROM sites s, LATERAL (SELECT coalesce(min(y), 0) - 1 AS first, coalesce(max(y), 0) + 1 AS last
		                           FROM locations WHERE site_id = s.id AND fixed) AS e
		 WHERE s.id = $1 ORDER BY 1`, site); err != nil {
		return f, fmt.Errorf("reading cross aisles: %w", err)
	}
	return f, nil
}

// BenchAndFloor are a site's bench, where walks begin and end, and its floor.
func BenchAndFloor(ctx context.Context, q sqlx.QueryerContext, site int32) (Location, walking.Floor, error) {
	bench, err := OneLocation(ctx, q, site, "bench")
	if err != nil {
		return bench, walking.Floor{}, err
	}
	floor, err := FloorOf(ctx, q, site)
	return bench, floor, err
}

// ZoneKnown tells whether a site has a zone of this code.
func ZoneKnown(ctx context.Context, q sqlx.QueryerContext, site int32, code string) (known bool, err error) {
	if err := sqlx.GetContext(ctx, q, &known, `
		SELECT EXISTS (SELECT FROM zones WHERE site_id = $1 AND code = $2)`, site, code); err != nil {
		return false, fmt.Errorf("finding a zone: %w", err)
	}
	return known, nil
}

// ClockOf is the clock on a site's wall; UTC where the site is not known.
func ClockOf(ctx context.Context, q sqlx.QueryerContext, site int32) (*time.Location, error) {
	var zone string
	if err := sqlx.GetContext(ctx, q, &zone, `
		SELECT coalesce((SELECT timezone FROM sites WHERE id = $1), 'UTC')`, site); err != nil {
		return nil, fmt.Errorf("reading the clock of a site: %w", err)
	}
	clock, err := time.LoadLocation(zone)
	if err != nil {
		return nil, fmt.Errorf("reading the clock of a site: %w", err)
	}
	return clock, nil
}
