package receive

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/slotting"

	"github.com/jmoiron/sqlx"
)

// goStraight gives each line the bin that its goods go into at once: the one that was said, or
// the item's home bin. A line without either is refused by name, and so is a bin that cannot
// take it beside what the lines before it bring. What waits for its order stays at the dock.
func (p *receiptPlan) goStraight(ctx context.Context, q sqlx.QueryerContext, lines []ReceiptLine) error {
	if p.carton != nil {
		return refusal.New(refusal.BinMissing, "straight",
			"All of it stands on %s, which is put away as one. Receive it at the dock, or leave the load unit out.",
			p.carton.Words())
	}
	items := make([]int32, len(p.lines))
	for i, l := range p.lines {
		items[i] = l.ItemID
	}
	homes, err := catalog.HomesOf(ctx, q, p.arrival.SiteID, items)
	if err != nil {
		return err
	}
	var ids []int32
	for i := range p.lines {
		l := &p.lines[i]
		if l.waits || l.item.InspectAQL != nil {
			// It stays at the dock, or goes to quarantine until its sample is judged.
			continue
		}
		if l.bin, err = p.binFor(ctx, q, fmt.Sprintf("lines[%d].bin", i), *l, lines[i].Bin, homes[l.ItemID]); err != nil {
			return err
		}
		ids = append(ids, l.bin.ID)
	}
	return p.fitsStraight(ctx, q, ids)
}

func (p *receiptPlan) binFor(
	ctx context.Context, q sqlx.QueryerContext, field string, l plannedLine, said, home string,
) (bin catalog.Location, err error) {
	if said == "" {
		said = home
	}
	if said == "" {
		return bin, refusal.New(refusal.BinMissing, field,
			"%s has no home bin. Scan or enter a bin for it, or receive at the dock, on the way to put away.", l.SKU)
	}
	if bin, err = catalog.LocationByCode(ctx, q, field, said, p.arrival.SiteID); err != nil {
		return bin, err
	}
	if bin.Kind != "bin" {
		return bin, refusal.New(refusal.NotABin, field, "%s is a %s, not a storage bin. Choose a bin.", bin.Code, bin.Kind)
	}
	return bin, nil
}

// fitsStraight refuses bins that cannot take what the lines bring, one line after another.
func (p *receiptPlan) fitsStraight(ctx context.Context, q sqlx.QueryerContext, ids []int32) error {
	dock, err := catalog.LocationByID(ctx, q, p.arrival.DockID)
	if err != nil {
		return err
	}
	bins, err := catalog.HeldBins(ctx, q, dock, ids)
	if err != nil {
		return err
	}
	for i, l := range p.lines {
		if l.bin.ID == 0 {
			continue
		}
		for _, lot := range l.lots {
			goods := l.item.Goods(lot.code, lot.quantity)
			line := slotting.Line{Field: fmt.Sprintf("lines[%d].bin", i), Bin: bins[l.bin.ID], Quantity: lot.quantity}
			if err := slotting.Check(goods, []slotting.Line{line}); err != nil {
				return err
			}
			bins[l.bin.ID] = bins[l.bin.ID].With(goods, lot.quantity)
		}
	}
	return nil
}

// where says where the goods are received.
func (p *receiptPlan) where() string {
	var codes []string
	for _, l := range p.lines {
		if l.bin.ID != 0 {
			codes = append(codes, l.bin.Code)
		}
	}
	slices.Sort(codes)
	codes = slices.Compact(codes)
	switch len(codes) {
	case 0:
		return "at " + p.arrival.Dock
	case 1:
		return "into " + codes[0]
	}
	return fmt.Sprintf("into %d bins", len(codes))
}
