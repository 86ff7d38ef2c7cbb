package catalog

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// An Offer is how a supplier sells an item.
type Offer struct {
	ItemID     int32 `db:"item_id" json:"-"`
	SupplierID int32 `db:"supplier_id" json:"supplier_id"`
	// Code is what the supplier calls it; PackID the pack it is sold in, 0 for any.
	Code   string `db:"code" json:"code"`
	PackID int32  `db:"pack_id" json:"pack_id"`
	// Price is that of a base unit; nil where none was agreed. Minimum is the least that is
	// sold, in base units.
	Price    *decimal.Decimal `db:"price" json:"price" money:"true"`
	Minimum  decimal.Decimal  `db:"minimum" json:"minimum"`
	LeadDays int              `db:"lead_days" json:"lead_days"`
}

const offerColumns = `
	SELECT item_id, supplier_id, code, coalesce(pack_id, 0) AS pack_id, price, minimum, lead_days FROM supplier_items `

// OffersOf reads what a supplier offers of these items, by item.
func OffersOf(ctx context.Context, q sqlx.QueryerContext, supplier int32, items []int32) (map[int32]Offer, error) {
	offers, err := readOffers(ctx, q, `WHERE supplier_id = $1 AND item_id = ANY($2)`, supplier, items)
	out := make(map[int32]Offer, len(offers))
	for _, o := range offers {
		out[o.ItemID] = o
	}
	return out, err
}

// OffersFor reads all that is offered of these items, the cheapest first.
func OffersFor(ctx context.Context, q sqlx.QueryerContext, items []int32) ([]Offer, error) {
	return readOffers(ctx, q, `WHERE item_id = ANY($1) ORDER BY item_id, price NULLS LAST, supplier_id`, items)
}

func readOffers(ctx context.Context, q sqlx.QueryerContext, where string, args ...any) ([]Offer, error) {
	var out []Offer
	if err := sqlx.SelectContext(ctx, q, &out, offerColumns+where, args...); err != nil {
		return nil, fmt.Errorf("reading what suppliers offer: %w", err)
	}
	return out, nil
}
