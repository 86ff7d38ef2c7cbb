package putaway

import (
	"context"
	"fmt"
	"sort"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/slotting"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// putAwayGoods is goods in the terms of the rules, with where they stand.
type putAwayGoods struct {
	slotting.Goods
	item catalog.Item
	from catalog.Location
	lot  *int64
}

func readGoods(ctx context.Context, q sqlx.QueryerContext, in Goods) (putAwayGoods, error) {
	var s putAwayGoods
	var err error
	if s.item, err = catalog.ItemByID(ctx, q, in.ItemID); err != nil {
		return s, err
	}
	if s.from, err = catalog.LocationByID(ctx, q, in.LocationID); err != nil {
		return s, err
	}
	if s.from.SiteID == nil {
		return s, refusal.New(refusal.LocationElsewhere, "location_id", "%s is not a location of a site.", s.from.Code)
	}
	s.lot = in.LotID
	quantity, err := measure.Parse("quantity", in.Quantity, s.item.Unit())
	if err != nil {
		return s, err
	}
	have, lot, err := loose(ctx, q, in)
	if err != nil {
		return s, err
	}
	if have.LessThan(quantity) {
		return s, refusal.New(refusal.NotEnough, "quantity",
			"%s holds %s of %s, not %s. Look again, or put away less.", s.from.Code, have, s.item.SKU, quantity).Of(refusal.Conflict).With("have", have)
	}
	if err := catalog.Allowed(ctx, q, "item_id", s.item, *s.from.SiteID); err != nil {
		return s, err
	}
	homes, err := catalog.HomesOf(ctx, q, *s.from.SiteID, []int32{in.ItemID})
	if err != nil {
		return s, err
	}
	s.Goods = goodsOf(s.item, &lot, quantity, homes[in.ItemID])
	return s, nil
}

// others is how many further bins are offered.
const others = 6

// Propose spreads goods over bins.
func Propose(ctx context.Context, q sqlx.QueryerContext, in Goods) (Proposal, error) {
	s, err := readGoods(ctx, q, in)
	if err != nil {
		return Proposal{}, err
	}
	bins, err := catalog.Bins(ctx, q, *s.from.SiteID, s.from, nil)
	if err != nil {
		return Proposal{}, err
	}
	rules := make([]slotting.Bin, 0, len(bins))
	by := map[string]slotting.Bin{}
	for _, b := range bins {
		if b.ID != s.from.ID {
			rules = append(rules, b.Bin)
			by[b.Code] = b.Bin
		}
	}
	p, err := slotting.Propose(s.Goods, rules)
	if err != nil {
		return Proposal{}, err
	}
	codes, err := s.units(ctx, q, in.Serials)
	if err != nil {
		return Proposal{}, err
	}
	out := Proposal{Locations: []Offer{}, Others: []Offer{}, Left: p.Left}
	used := map[string]bool{}
	for _, location := range p.Locations {
		used[location.Bin] = true
		o := offer(by[location.Bin], location.Quantity, location.Takes, location.Why)
		if n := int(location.Quantity.IntPart()); n <= len(codes) {
			o.Serials, codes = codes[:n:n], codes[n:]
		}
		out.Locations = append(out.Locations, o)
	}
	sort.SliceStable(rules, func(i, j int) bool { return rules[i].WalkM < rules[j].WalkM })
	for _, b := range rules {
		if len(out.Others) == others {
			break
		}
		if takes, _ := b.Capacity(s.Goods); takes.IsPositive() && !used[b.Code] {
			out.Others = append(out.Others,
				offer(b, decimal.Zero, takes, []string{fmt.Sprintf("%.0f m to walk", b.WalkM)}))
		}
	}
	return out, nil
}

func offer(b slotting.Bin, quantity, takes decimal.Decimal, why []string) Offer {
	o := Offer{Bin: b.Code, Quantity: quantity, Takes: takes, MaxUnits: b.MaxUnits, Why: why, Serials: []string{}}
	for _, h := range b.Holds {
		o.Holds = o.Holds.Add(h.Quantity)
	}
	return o
}

// units are the serials of the goods, in their order: those that were named, or else
// those that lie there.
func (s putAwayGoods) units(ctx context.Context, q sqlx.QueryerContext, named []string) ([]string, error) {
	if s.item.Tracking != receiving.Serial || len(named) > 0 {
		return named, nil
	}
	here, err := serials.At(ctx, q, ledger.Stock{Location: s.from.ID, Item: s.item.ID, Lot: s.lot}, posting.Good)
	return serials.Codes(here), err
}

func planPutAway(ctx context.Context, q sqlx.QueryerContext, in Spread) (*ledger.Plan, error) {
	s, err := readGoods(ctx, q, in.Goods)
	if err != nil {
		return nil, err
	}
	var ids []int32
	var locations []catalog.Location
	for i, part := range in.Locations {
		location, err := catalog.LocationByCode(ctx, q, fmt.Sprintf("locations[%d].bin", i), part.Bin, *s.from.SiteID)
		if err != nil {
			return nil, err
		}
		if location.Kind != "bin" {
			return nil, refusal.New(refusal.NotABin, fmt.Sprintf("locations[%d].bin", i),
				"%s is a %s, not a storage bin. Choose a bin.", location.Code, location.Kind)
		}
		ids, locations = append(ids, location.ID), append(locations, location)
	}
	by, err := catalog.HeldBins(ctx, q, s.from, ids)
	if err != nil {
		return nil, err
	}
	var lines []slotting.Line
	var moves []ledger.Move
	for i, part := range in.Locations {
		field := fmt.Sprintf("locations[%d].quantity", i)
		quantity, err := measure.Parse(field, part.Quantity, s.item.Unit())
		if err != nil {
			return nil, err
		}
		lines = append(lines, slotting.Line{Field: field, Bin: by[locations[i].ID], Quantity: quantity})
		move := ledger.Move{Item: s.item.ID, Lot: s.lot, Quantity: quantity, From: s.from.ID, To: locations[i].ID}
		codes := part.Serials
		if len(codes) == 0 && len(in.Locations) == 1 {
			codes = in.Serials
		}
		each, err := serials.Spread(ctx, q, fmt.Sprintf("locations[%d].serials", i), s.item.Tracking, s.item.SKU,
			move, codes)
		if err != nil {
			return nil, err
		}
		moves = append(moves, each...)
	}
	if err := named(moves, s.item.SKU); err != nil {
		return nil, err
	}
	if len(lines) == 0 {
		return nil, refusal.New(refusal.BinMissing, "locations",
			"%s has no bin to go to. Scan a bin, or take a proposed one.", s.item.SKU)
	}
	if err := slotting.Check(s.Goods, lines); err != nil {
		return nil, err
	}
	plan, err := ledger.DescribeCarrying(ctx, q, moves)
	if err != nil {
		return nil, err
	}
	where := locations[0].Code
	if len(locations) > 1 {
		where = fmt.Sprintf("%d bins", len(locations))
	}
	plan.Button, plan.Site = fmt.Sprintf("Put away %s in %s", s.Quantity, where), *s.from.SiteID
	return plan, nil
}

// named refuses a unit that is shipped to two bins.
func named(moves []ledger.Move, sku string) error {
	seen := map[string]bool{}
	for _, m := range moves {
		if m.SerialCode != "" && seen[m.SerialCode] {
			return refusal.New(refusal.SerialTwice, "locations",
				"Serial %s of %s is to go to two bins. Name each once.", m.SerialCode, sku)
		}
		seen[m.SerialCode] = true
	}
	return nil
}

// PostPutAway puts away goods into bins.
func PostPutAway(ctx context.Context, tx *command.Tx, in Spread) (*ledger.Plan, error) {
	if err := reservation.HoldReservedAt(ctx, tx, in.LocationID); err != nil {
		return nil, err
	}
	plan, err := planPutAway(ctx, tx, in)
	if err != nil {
		return nil, err
	}
	arrival, err := inbound.OriginOf(ctx, tx, in.LocationID, in.ItemID, in.LotID)
	if err != nil {
		return nil, err
	}
	if err := reservation.PostCarrying(ctx, tx, ledger.Head{Kind: posting.PutAway, Document: arrival, Note: in.Note},
		plan.MoveList()); err != nil {
		return nil, err
	}
	tx.NotifySite(plan.Site, ledger.Topics("putaway", "row")...)
	return plan, nil
}
