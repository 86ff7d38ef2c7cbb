package putaway

import (
	"context"
	"encoding/json"
	"fmt"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/slotting"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// listWaiting lists what is loose and good on the docks of a site, or all that stands
// there.
func listWaiting(ctx context.Context, q sqlx.QueryerContext, site int32, all bool) ([]Waiting, error) {
	out := []Waiting{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT p.id AS location_id, p.code AS location, i.id AS item_id, i.sku, i.description, i.base_unit AS unit,
		       i.tracking, l.id AS lot_id, l.code AS lot, b.quantity, b.condition, coalesce(c.sscc, '') AS carton,
		       coalesce((SELECT po.entered_at FROM moves m JOIN postings po ON po.id = m.posting_id
		                   WHERE m.to_location = p.id AND m.item_id = i.id
		                     AND coalesce(m.lot_id, 0) = coalesce(b.lot_id, 0) ORDER BY m.id DESC LIMIT 1),
		                     now()) AS since
		  FROM (SELECT location_id, item_id, lot_id, carton_id, condition, sum(quantity) AS quantity FROM balances
		         WHERE $2 OR carton_id IS NULL AND condition = 'good' GROUP BY 1, 2, 3, 4, 5) AS b
		           LEFT JOIN cartons c ON c.id = b.carton_id
		  JOIN locations p ON p.id = b.location_id JOIN items i ON i.id = b.item_id LEFT JOIN lots l ON l.id = b.lot_id
		 WHERE p.site_id = $1 AND p.kind = 'dock' ORDER BY since, p.code, i.sku`, site, all)
	if err != nil {
		return nil, fmt.Errorf("listing goods on docks: %w", err)
	}
	return out, nil
}

// loose is how much of an item and lot lies at a location unpacked, and what the lot
// is called.
func loose(ctx context.Context, q sqlx.QueryerContext, g Goods) (have decimal.Decimal, lot string, err error) {
	var row struct {
		Have decimal.Decimal
		Lot  string
	}
	err = sqlx.GetContext(ctx, q, &row, `
		SELECT coalesce(sum(b.quantity), 0) AS have, coalesce((SELECT code FROM lots WHERE id = $3), '') AS lot
		  FROM balances b
		 WHERE b.location_id = $1 AND b.item_id = $2 AND coalesce(b.lot_id, 0) = coalesce($3, 0)
		   AND b.carton_id IS NULL AND b.condition = 'good' AND b.quantity > 0`, g.LocationID, g.ItemID, g.LotID)
	if err != nil {
		return have, "", fmt.Errorf("reading what lies at a location: %w", err)
	}
	return row.Have, row.Lot, nil
}

// load is goods on a trolley with what the rules ask of them.
type load struct {
	OnTrolley
	Units    []byte          `db:"units"`
	Arrival  string          `db:"arrival"`
	Tracking string          `db:"tracking"`
	Unit     string          `db:"unit"`
	Whole    bool            `db:"whole"`
	WeightKg decimal.Decimal `db:"weight_kg"`
	VolumeL  decimal.Decimal `db:"volume_l"`
	Handling string          `db:"handling"`
	Pace     float64         `db:"pace"`
	Home     string          `db:"home"`
}

// goodsOf is a quantity of an item as the rules of putaway see it. Without a home bin
// none is favoured.
func goodsOf(item catalog.Item, lot *string, quantity decimal.Decimal, home string) slotting.Goods {
	g := item.Goods("", quantity)
	g.HomeBin, g.Pace = home, item.Pace.InexactFloat64()
	if lot != nil {
		g.Lot = *lot
	}
	return g
}

func (l load) goods() slotting.Goods {
	g := slotting.Goods{Item: l.SKU, Quantity: l.Quantity, Whole: l.Whole, WeightKg: l.WeightKg, VolumeL: l.VolumeL,
		Handling: l.Handling, HomeBin: l.Home, Pace: l.Pace}
	if l.Lot != nil {
		g.Lot = *l.Lot
	}
	return g
}

func readLoads(ctx context.Context, q sqlx.QueryerContext, walk int64) ([]load, error) {
	var loads []load
	err := sqlx.SelectContext(ctx, q, &loads, `
		SELECT s.item_id, i.sku, i.description, s.lot_id, l.code AS lot, s.quantity, to_json(s.serials) AS units, s.arrival,
		       i.tracking, i.base_unit AS unit, i.whole, i.weight_kg, i.volume_l, i.handling, i.pace::float8 AS pace,
		       coalesce((SELECT p.code FROM item_sites x JOIN locations p ON p.id = x.home_id WHERE x.item_id = i.id
		       AND x.site_id = w.site_id), '') AS home
		  FROM put_away_loads s JOIN put_away_walks w ON w.id = s.walk_id JOIN items i ON i.id = s.item_id
		  LEFT JOIN lots l ON l.id = s.lot_id
		 WHERE s.walk_id = $1 ORDER BY i.sku, l.code`, walk)
	if err != nil {
		return nil, fmt.Errorf("reading a trolley: %w", err)
	}
	for i := range loads {
		if err := json.Unmarshal(loads[i].Units, &loads[i].Serials); err != nil {
			return nil, fmt.Errorf("reading the units on a trolley: %w", err)
		}
	}
	return loads, nil
}

func listWalks(ctx context.Context, q sqlx.QueryerContext, site int32) ([]WalkRow, error) {
	walks := []WalkRow{}
	err := sqlx.SelectContext(ctx, q, &walks, `
		SELECT w.id, w.number, w.person_id, p.name AS person, w.begun_at, count(l.*) AS lines,
		       coalesce(sum(l.quantity), 0) AS units
		  FROM put_away_walks w JOIN people p ON p.id = w.person_id LEFT JOIN put_away_loads l ON l.walk_id = w.id
		 WHERE w.site_id = $1 AND w.done_at IS NULL GROUP BY w.id, p.name ORDER BY w.id`, site)
	if err != nil {
		return nil, fmt.Errorf("listing walks: %w", err)
	}
	return walks, nil
}
