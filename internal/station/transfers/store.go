package transfers

import (
	"context"
	"fmt"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/slotting"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// facts is all that a quick move needs to know, read in one round trip.
type facts struct {
	SKU      string `db:"sku"`
	Unit     string `db:"unit"`
	Tracking string `db:"tracking"`
	Whole    bool   `db:"whole"`
	Handling string `db:"handling"`
	Lot      string `db:"lot"`
	From     string `db:"from_code"`
	FromKind string `db:"from_kind"`
	ToID     int32  `db:"to_id"`
	To       string `db:"to_code"`
	ToKind   string `db:"to_kind"`
	SiteID   int32  `db:"site_id"`
	SameSite bool   `db:"same_site"`
	Bound    bool   `db:"bound"`
}

func readFacts(ctx context.Context, q sqlx.QueryerContext, in Transfer) (facts, error) {
	var f facts
	args := []any{in.ItemID, in.FromID}
	to, lot := "t.id = $3", "''"
	if in.ToID == 0 {
		to = "t.site_id = f.site_id AND upper(t.code) = upper($3)"
		args = append(args, in.To)
	} else {
		args = append(args, in.ToID)
	}
	if in.LotID != nil {
		lot = "coalesce((SELECT code FROM lots WHERE id = $4 AND item_id = i.id), '')"
		args = append(args, *in.LotID)
	}
	err := sqlx.GetContext(ctx, q, &f, `
		SELECT i.sku, i.base_unit AS unit, i.tracking, i.whole, i.handling,
		       `+lot+` AS lot,
		       f.code AS from_code, f.kind AS from_kind, t.id AS to_id, t.code AS to_code, t.kind AS to_kind,
		       coalesce(f.site_id, 0) AS site_id, coalesce(f.site_id = t.site_id, false) AS same_site,
		       (t.max_units IS NOT NULL OR t.max_weight_kg IS NOT NULL OR t.max_volume_l IS NOT NULL
		       OR NOT t.mix_items OR NOT t.mix_lots OR i.handling <> '') AS bound
		  FROM items i
		  JOIN locations f ON f.id = $2
		  JOIN locations t ON `+to+`
		 WHERE i.id = $1`, args...)
	if err != nil {
		return f, documents.Found(err, "item or location", fmt.Sprintf("%d, %d, %d%s", in.ItemID, in.FromID, in.ToID,
			in.To))
	}
	if !f.SameSite {
		return f, refusal.New(refusal.BinElsewhere, "to",
			"%s and %s are not at the same site. Goods go between sites by a transfer with papers.", f.From, f.To)
	}
	return f, nil
}

// binOf reads the destination with its contents, and what goes there.
func binOf(ctx context.Context, q sqlx.QueryerContext, in Transfer, f facts) (slotting.Bin, slotting.Goods, error) {
	var rows []struct {
		MaxUnits    *decimal.Decimal `db:"max_units"`
		MaxWeightKg *decimal.Decimal `db:"max_weight_kg"`
		MaxVolumeL  *decimal.Decimal `db:"max_volume_l"`
		MixItems    bool             `db:"mix_items"`
		MixLots     bool             `db:"mix_lots"`
		Accepted    bool             `db:"accepted"`
		GoodsKg     decimal.Decimal  `db:"goods_kg"`
		GoodsL      decimal.Decimal  `db:"goods_l"`
		SKU         *string          `db:"sku"`
		Lot         *string          `db:"lot"`
		Quantity    *decimal.Decimal `db:"quantity"`
		WeightKg    *decimal.Decimal `db:"weight_kg"`
		VolumeL     *decimal.Decimal `db:"volume_l"`
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT p.max_units, p.max_weight_kg, p.max_volume_l, p.mix_items, p.mix_lots,
		       coalesce(g.handling = ANY(z.accepts), false) AS accepted, g.weight_kg AS goods_kg, g.volume_l AS goods_l,
		       i.sku, coalesce(l.code, '') AS lot, b.quantity, i.weight_kg, i.volume_l
		  FROM locations p
		  JOIN items g ON g.id = $2
		  LEFT JOIN zones z ON z.id = p.zone_id
		  LEFT JOIN (balances b JOIN items i ON i.id = b.item_id LEFT JOIN lots l ON l.id = b.lot_id)
		    ON b.location_id = p.id AND b.quantity > 0
		 WHERE p.id = $1`, f.ToID, in.ItemID)
	if err != nil {
		return slotting.Bin{}, slotting.Goods{}, fmt.Errorf("reading a bin: %w", err)
	}
	b := slotting.Bin{Code: f.To}
	goods := slotting.Goods{Item: f.SKU, Lot: f.Lot, Whole: f.Whole, Handling: f.Handling}
	for _, r := range rows {
		b.MaxUnits, b.MaxWeightKg, b.MaxVolumeL, b.MixItems, b.MixLots = r.MaxUnits, r.MaxWeightKg, r.MaxVolumeL, r.MixItems, r.MixLots
		goods.WeightKg, goods.VolumeL = r.GoodsKg, r.GoodsL
		if r.Accepted {
			b.Accepts = []string{f.Handling}
		}
		if r.SKU != nil {
			b.Holds = append(b.Holds, slotting.Held{Item: *r.SKU, Lot: *r.Lot, Quantity: *r.Quantity,
				WeightKg: *r.WeightKg, VolumeL: *r.VolumeL})
		}
	}
	return b, goods, nil
}
