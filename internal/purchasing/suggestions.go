package purchasing

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// boughtFrom is an item with the supplier it was last bought from.
type boughtFrom struct {
	ItemID     int32  `db:"item_id"`
	SupplierID int32  `db:"supplier_id"`
	Supplier   string `db:"supplier"`
	receiving.Levels
}

// lastBought reads where the site's items that have a target were bought last, with how
// much of each it wants to have; supplier narrows it to one, 0 reads all.
func lastBought(ctx context.Context, q sqlx.QueryerContext, site, supplier int32) ([]boughtFrom, error) {
	var rows []boughtFrom
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT s.item_id, s.reorder_point, s.target, p.id AS supplier_id, p.name AS supplier
		  FROM item_sites s JOIN items i ON i.id = s.item_id
		  JOIN LATERAL (SELECT o.supplier_id FROM inbound_lines l JOIN purchase_orders o ON o.order_id = l.order_id
		    WHERE l.item_id = s.item_id ORDER BY l.id DESC LIMIT 1) AS last ON true
		  JOIN parties p ON p.id = last.supplier_id
		 WHERE s.site_id = $1 AND s.target > 0 AND ($2 = 0 OR p.id = $2) ORDER BY p.name, i.sku`, site, supplier)
	if err != nil {
		return nil, fmt.Errorf("reading what was bought where: %w", err)
	}
	return rows, nil
}

// suggest lists what is at its reorder point, with how much to buy of it in the packs
// that it comes in.
func suggest(ctx context.Context, q sqlx.QueryerContext, site, supplier int32) ([]Suggested, error) {
	bought, err := lastBought(ctx, q, site, supplier)
	if err != nil {
		return nil, err
	}
	figures, err := ledger.FiguresAt(ctx, q, site)
	if err != nil {
		return nil, err
	}
	bought = slices.DeleteFunc(bought, func(b boughtFrom) bool {
		f := figures[b.ItemID]
		return !b.Reached(f.Free, f.OnOrder)
	})
	ids := make([]int32, len(bought))
	for i, b := range bought {
		ids[i] = b.ItemID
	}
	items, err := catalog.ItemsByID(ctx, q, ids)
	if err != nil {
		return nil, err
	}
	out := []Suggested{}
	for _, b := range bought {
		f, item := figures[b.ItemID], items[b.ItemID]
		pack := catalog.Pack{Holds: decimal.NewFromInt(1)}
		if n := len(item.Packs); n > 0 {
			// The largest that it comes in.
			pack = item.Packs[n-1]
		}
		out = append(out, Suggested{catalog.ItemStock{Item: item, Figures: f, Levels: b.Levels}, b.SupplierID,
			b.Supplier, pack.ID, b.Suggest(f.Free, f.OnOrder, pack.Holds)})
	}
	return out, nil
}
