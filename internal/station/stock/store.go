package stock

import (
	"context"
	"fmt"

	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
)

func holdings(ctx context.Context, q sqlx.QueryerContext, where string, args ...any) ([]Holding, error) {
	out := []Holding{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT p.id AS place_id, p.code AS place, p.kind, i.id AS item_id, i.sku, i.description, i.base_unit AS unit, l.id AS lot_id, l.code AS lot,
		       to_char(l.expires_on, 'YYYY-MM-DD') AS expires_on, c.id AS carton_id, c.sscc AS carton, b.condition, b.quantity, b.pinned
		  FROM balances b JOIN places p ON p.id = b.place_id JOIN items i ON i.id = b.item_id
		  LEFT JOIN lots l ON l.id = b.lot_id LEFT JOIN cartons c ON c.id = b.carton_id
		 WHERE b.quantity > 0 AND `+where+` ORDER BY p.kind <> 'bin', p.code, i.sku, l.expires_on NULLS LAST, l.code LIMIT 500`, args...)
	if err != nil {
		return nil, fmt.Errorf("reading stock: %w", err)
	}
	return out, nil
}

func readLot(ctx context.Context, q sqlx.QueryerContext, id int64) (LotPage, error) {
	var lot LotPage
	err := sqlx.GetContext(ctx, q, &lot, `
		SELECT l.id, l.code, i.id AS item_id, i.sku, i.description AS item, to_char(l.expires_on, 'YYYY-MM-DD') AS expires_on
		  FROM lots l JOIN items i ON i.id = l.item_id WHERE l.id = $1`, id)
	if err != nil {
		return lot, documents.Found(err, "lot", fmt.Sprint(id))
	}
	lot.Holdings, err = holdings(ctx, q, "b.lot_id = $1", id)
	return lot, err
}

func readFloor(ctx context.Context, q sqlx.QueryerContext, site int32) (FloorPlan, error) {
	plan := FloorPlan{Cross: []float64{}, Aisles: []FloorAisle{}, Bins: []FloorBin{}, Places: []FloorBin{}, Walks: []Walk{}}
	if err := sqlx.GetContext(ctx, q, &plan.Site, `SELECT name FROM sites WHERE id = $1`, site); err != nil {
		return plan, documents.Found(err, "site", fmt.Sprint(site))
	}
	if err := sqlx.SelectContext(ctx, q, &plan.Cross, `SELECT unnest(cross_aisles)::float8 FROM sites WHERE id = $1`, site); err != nil {
		return plan, fmt.Errorf("reading cross aisles: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &plan.Aisles, `SELECT code, x FROM aisles WHERE site_id = $1 ORDER BY x`, site); err != nil {
		return plan, fmt.Errorf("reading aisles: %w", err)
	}
	var all []FloorBin
	err := sqlx.SelectContext(ctx, q, &all, `
		SELECT p.id, p.code, p.kind, p.x, p.y, p.level, coalesce(s.units, 0) AS units,
		       least(1, coalesce(greatest(s.units / nullif(p.max_units, 0), s.kg / nullif(p.max_weight_kg, 0), s.litres / nullif(p.max_volume_l, 0)), 0))::float8 AS full_share,
		       EXISTS (SELECT FROM bin_doubts d WHERE d.place_id = p.id AND d.settled_at IS NULL) AS doubt
		  FROM places p LEFT JOIN (
			SELECT b.place_id, sum(b.quantity) AS units, sum(b.quantity * i.weight_kg) AS kg, sum(b.quantity * i.volume_l) AS litres
			  FROM balances b JOIN items i ON i.id = b.item_id WHERE b.quantity > 0 GROUP BY 1) AS s ON s.place_id = p.id
		 WHERE p.site_id = $1 ORDER BY p.code`, site)
	if err != nil {
		return plan, fmt.Errorf("reading the floor: %w", err)
	}
	for _, b := range all {
		if b.Kind == "bin" {
			plan.Bins = append(plan.Bins, b)
		} else {
			plan.Places = append(plan.Places, b)
		}
	}
	err = sqlx.SelectContext(ctx, q, &plan.Walks, `
		SELECT r.number AS round, r.id, coalesce(pe.name, '') AS person, r.state, r.path,
		       (SELECT count(*) FROM round_stops WHERE round_id = r.id) AS stops,
		       (SELECT count(*) FROM round_stops WHERE round_id = r.id AND done) AS done, p.x, p.y
		  FROM rounds r LEFT JOIN people pe ON pe.id = r.picker_id
		  LEFT JOIN places p ON p.id = (SELECT place_id FROM round_stops WHERE round_id = r.id AND NOT done ORDER BY seq LIMIT 1)
		 WHERE r.site_id = $1 AND r.state <> 'done' ORDER BY r.id`, site)
	if err != nil {
		return plan, fmt.Errorf("reading walks: %w", err)
	}
	return plan, nil
}
