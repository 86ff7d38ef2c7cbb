package putaway

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

func listWaiting(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Waiting, error) {
	out := []Waiting{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT p.id AS place_id, p.code AS place, i.id AS item_id, i.sku, i.description, i.base_unit AS unit, l.id AS lot_id, l.code AS lot, b.quantity,
		       coalesce((SELECT po.entered_at FROM moves m JOIN postings po ON po.id = m.posting_id
		                   WHERE m.to_place = p.id AND m.item_id = i.id AND coalesce(m.lot_id, 0) = coalesce(b.lot_id, 0) ORDER BY m.id DESC LIMIT 1), now()) AS since
		  FROM balances b JOIN places p ON p.id = b.place_id JOIN items i ON i.id = b.item_id LEFT JOIN lots l ON l.id = b.lot_id
		 WHERE p.site_id = $1 AND p.kind = 'dock' AND b.quantity > 0 AND b.carton_id IS NULL ORDER BY since, p.code, i.sku`, site)
	if err != nil {
		return nil, fmt.Errorf("listing goods on docks: %w", err)
	}
	return out, nil
}

// loose is how much of an item and lot lies at a place unpacked, and what the lot
// is called.
func loose(ctx context.Context, q sqlx.QueryerContext, g Goods) (have decimal.Decimal, lot string, err error) {
	var row struct {
		Have decimal.Decimal
		Lot  string
	}
	err = sqlx.GetContext(ctx, q, &row, `
		SELECT coalesce(sum(b.quantity), 0) AS have, coalesce((SELECT code FROM lots WHERE id = $3), '') AS lot FROM balances b
		 WHERE b.place_id = $1 AND b.item_id = $2 AND coalesce(b.lot_id, 0) = coalesce($3, 0) AND b.carton_id IS NULL AND b.quantity > 0`, g.PlaceID, g.ItemID, g.LotID)
	if err != nil {
		return have, "", fmt.Errorf("reading what lies at a place: %w", err)
	}
	return row.Have, row.Lot, nil
}

func homeBin(ctx context.Context, q sqlx.QueryerContext, item, site int32) (string, error) {
	var home string
	err := sqlx.GetContext(ctx, q, &home, `
		SELECT coalesce((SELECT p.code FROM item_sites s JOIN places p ON p.id = s.home_id WHERE s.item_id = $1 AND s.site_id = $2), '')`, item, site)
	if err != nil {
		return "", fmt.Errorf("reading a home bin: %w", err)
	}
	return home, nil
}
