package putaway

import (
	"context"
	"fmt"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/slotting"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// PutAwayPallet puts away a carton or pallet as one.
type PutAwayPallet struct {
	CartonID int64  `json:"carton_id"`
	Bin      string `json:"bin" maxLength:"60"`
}

// palletGoods are what stands on a pallet, in the terms of the rules.
func palletGoods(ctx context.Context, q sqlx.QueryerContext, p cartons.Pallet) ([]slotting.Goods, error) {
	var ids []int32
	for _, h := range p.Holds {
		ids = append(ids, h.ItemID)
	}
	items, err := catalog.ItemsByID(ctx, q, ids)
	if err != nil {
		return nil, err
	}
	homes, err := catalog.HomesOf(ctx, q, p.SiteID, ids)
	if err != nil {
		return nil, err
	}
	var goods []slotting.Goods
	for _, h := range p.Holds {
		if h.Condition != posting.Good {
			return nil, refusal.New(refusal.NotFreeYet, "carton_id",
				"%s of %s on %s are %s. They stay on the dock until that is settled.", h.Quantity, h.SKU, p.Words(), h.Condition).Of(refusal.Conflict)
		}
		goods = append(goods, goodsOf(items[h.ItemID], h.Lot, h.Quantity, homes[h.ItemID]))
	}
	return goods, nil
}

// ProposePallet ranks the bins that take a carton or pallet as one.
func ProposePallet(ctx context.Context, q sqlx.QueryerContext, id int64) ([]Offer, error) {
	p, err := cartons.PalletByID(ctx, q, id)
	if err != nil {
		return nil, err
	}
	goods, err := palletGoods(ctx, q, p)
	if err != nil {
		return nil, err
	}
	from, err := catalog.LocationByID(ctx, q, p.LocationID)
	if err != nil {
		return nil, err
	}
	bins, err := catalog.Bins(ctx, q, p.SiteID, from, nil)
	if err != nil {
		return nil, err
	}
	rules, by := make([]slotting.Bin, 0, len(bins)), map[string]slotting.Bin{}
	for _, b := range bins {
		if b.ID != from.ID {
			rules = append(rules, b.Bin)
			by[b.Code] = b.Bin
		}
	}
	out := []Offer{}
	for _, location := range slotting.ProposeTogether(goods, rules, others) {
		out = append(out, offer(by[location.Bin], location.Quantity, location.Takes, location.Why))
	}
	return out, nil
}

func planPallet(ctx context.Context, q sqlx.QueryerContext, in PutAwayPallet) (*ledger.Plan, error) {
	p, err := cartons.PalletByID(ctx, q, in.CartonID)
	if err != nil {
		return nil, err
	}
	goods, err := palletGoods(ctx, q, p)
	if err != nil {
		return nil, err
	}
	bin, err := catalog.LocationByCode(ctx, q, "bin", in.Bin, p.SiteID)
	if err != nil {
		return nil, err
	}
	switch {
	case bin.Kind != "bin":
		return nil, refusal.New(refusal.NotABin, "bin", "%s is a %s, not a storage bin. Choose a bin.", bin.Code,
			bin.Kind)
	case bin.ID == p.LocationID:
		return nil, refusal.New(refusal.SameLocation, "bin", "%s stands in %s already. Choose another bin.",
			p.Words(), bin.Code)
	}
	from, err := catalog.LocationByID(ctx, q, p.LocationID)
	if err != nil {
		return nil, err
	}
	by, err := catalog.HeldBins(ctx, q, from, []int32{bin.ID})
	if err != nil {
		return nil, err
	}
	if err := slotting.Together("bin", by[bin.ID], goods); err != nil {
		return nil, err
	}
	moves, err := cartons.Carton{ID: p.ID}.Moves(ctx, q, bin.ID)
	if err != nil {
		return nil, err
	}
	plan, err := ledger.DescribeCarrying(ctx, q, moves)
	if err != nil {
		return nil, err
	}
	total := decimal.Zero
	for _, g := range goods {
		total = total.Add(g.Quantity)
	}
	plan.Button = fmt.Sprintf("Put away %s with %s in %s", p.Words(), total, bin.Code)
	return plan, nil
}

// PostPallet puts away a carton or pallet with all that stands on it.
func PostPallet(ctx context.Context, tx *command.Tx, in PutAwayPallet) (*ledger.Plan, error) {
	p, err := cartons.PalletByID(ctx, tx, in.CartonID)
	if err != nil {
		return nil, err
	}
	if err := reservation.HoldReservedAt(ctx, tx, p.LocationID); err != nil {
		return nil, err
	}
	plan, err := planPallet(ctx, tx, in)
	if err != nil {
		return nil, err
	}
	if err := reservation.PostCarrying(ctx, tx, ledger.Head{Kind: posting.PutAway, Document: p.SSCC, Note: p.Words()},
		plan.MoveList()); err != nil {
		return nil, err
	}
	tx.NotifySite(p.SiteID, ledger.Topics("putaway", "row")...)
	return plan, nil
}
