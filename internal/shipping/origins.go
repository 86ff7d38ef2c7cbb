package shipping

import (
	"context"
	"fmt"

	"lanternrow/internal/cartons"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// An Origin is where goods that are shipped were taken from, and what is left there.
type Origin struct {
	ItemID   int32           `db:"item_id" json:"item_id"`
	SKU      string          `db:"sku" json:"sku"`
	LotID    *int64          `db:"lot_id" json:"lot_id"`
	Lot      string          `db:"lot" json:"lot"`
	Bin      string          `db:"bin" json:"bin"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
	Left     decimal.Decimal `db:"left" json:"left" doc:"What of that item and lot lies there still"`
}

// origins are where the goods in cartons were taken from. What was taken last is what was
// returned to stock, where anything was.
func origins(ctx context.Context, q sqlx.QueryerContext, in []cartons.Carton) ([]Origin, error) {
	ids := make([]int64, len(in))
	type goods struct {
		item int32
		lot  int64
	}
	held := map[goods]decimal.Decimal{}
	key := func(item int32, lot *int64) goods {
		if lot == nil {
			return goods{item, 0}
		}
		return goods{item, *lot}
	}
	for i, c := range in {
		ids[i] = c.ID
		for _, x := range c.Contents {
			k := key(x.ItemID, x.LotID)
			held[k] = held[k].Add(x.Quantity)
		}
	}
	var takes []Origin
	err := sqlx.SelectContext(ctx, q, &takes, `
		SELECT t.item_id, i.sku, t.lot_id, coalesce(l.code, '') AS lot, p.code AS bin, t.quantity,
		       coalesce((SELECT sum(b.quantity) FROM balances b WHERE b.location_id = t.from_location
		       AND b.item_id = t.item_id AND (b.lot_id IS NOT DISTINCT FROM t.lot_id OR i.tracking = 'lot_out')
		       AND b.quantity > 0), 0) AS left
		  FROM (SELECT m.item_id, m.lot_id, m.from_location, sum(m.quantity) AS quantity, min(m.id) AS first
		    FROM moves m JOIN postings o ON o.id = m.posting_id
		         WHERE m.to_carton = ANY($1) AND o.kind = 'pick' GROUP BY 1, 2, 3) AS t
		  JOIN items i ON i.id = t.item_id JOIN locations p ON p.id = t.from_location
		  LEFT JOIN lots l ON l.id = t.lot_id ORDER BY t.first`, ids)
	if err != nil {
		return nil, fmt.Errorf("reading where goods came from: %w", err)
	}
	out := []Origin{}
	for _, t := range takes {
		k := key(t.ItemID, t.LotID)
		if t.Quantity = decimal.Min(t.Quantity, held[k]); t.Quantity.IsPositive() {
			held[k] = held[k].Sub(t.Quantity)
			out = append(out, t)
		}
	}
	return out, nil
}
