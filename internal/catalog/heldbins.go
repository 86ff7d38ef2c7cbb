package catalog

import (
	"context"
	"fmt"

	"lanternrow/internal/core/slotting"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// HeldBins reads bins, by id, for goods that come from a location of their site. Within a
// command their contents stay as they are until it is done.
func HeldBins(
	ctx context.Context, q sqlx.QueryerContext, from Location, ids []int32,
) (map[int32]slotting.Bin, error) {
	if tx, ok := q.(*command.Tx); ok {
		if err := ledger.LockBins(ctx, tx, ids); err != nil {
			return nil, err
		}
	}
	bins, err := Bins(ctx, q, *from.SiteID, from, ids)
	if err != nil {
		return nil, err
	}
	by := map[int32]slotting.Bin{}
	for _, b := range bins {
		by[b.ID] = b.Bin
	}
	return by, nil
}

// HomesOf reads the home bins of items at a site, by item; what has none is not in it.
func HomesOf(ctx context.Context, q sqlx.QueryerContext, site int32, items []int32) (map[int32]string, error) {
	var rows []struct {
		Item int32 `db:"item_id"`
		Code string
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT s.item_id, p.code FROM item_sites s JOIN locations p ON p.id = s.home_id
		 WHERE s.site_id = $1 AND s.item_id = ANY($2)`, site, items)
	if err != nil {
		return nil, fmt.Errorf("reading home bins: %w", err)
	}
	out := map[int32]string{}
	for _, r := range rows {
		out[r.Item] = r.Code
	}
	return out, nil
}
