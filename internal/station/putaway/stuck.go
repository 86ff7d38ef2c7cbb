package putaway

import (
	"context"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/slotting"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Stuck is goods on a dock that find no bin when all that waits is put away, each in
// its turn.
type Stuck struct {
	LocationID int32           `json:"location_id"`
	ItemID     int32           `json:"item_id"`
	LotID      *int64          `json:"lot_id"`
	Left       decimal.Decimal `json:"left"`
	Why        string          `json:"why"`
}

// listStuck plans all that waits on the docks together, and lists what is left over.
func listStuck(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Stuck, error) {
	out := []Stuck{}
	waiting, err := listWaiting(ctx, q, site, false)
	if err != nil || len(waiting) == 0 {
		return out, err
	}
	from, err := catalog.LocationByID(ctx, q, waiting[0].LocationID)
	if err != nil {
		return nil, err
	}
	bins, err := catalog.Bins(ctx, q, site, from, nil)
	if err != nil {
		return nil, err
	}
	shelves := make([]slotting.Bin, len(bins))
	for i, b := range bins {
		shelves[i] = b.Bin
	}
	ids := make([]int32, len(waiting))
	for i, w := range waiting {
		ids[i] = w.ItemID
	}
	items, err := catalog.ItemsByID(ctx, q, ids)
	if err != nil {
		return nil, err
	}
	plan := slotting.NewPlan(shelves)
	for _, w := range waiting {
		g := goodsOf(items[w.ItemID], w.Lot, w.Quantity, "")
		p, err := plan.Location(g)
		if err != nil {
			return nil, err
		}
		if p.Left.IsPositive() {
			out = append(out, Stuck{w.LocationID, w.ItemID, w.LotID, p.Left, slotting.Barred(g, plan.Bins())})
		}
	}
	return out, nil
}
