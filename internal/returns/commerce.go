package returns

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/returning"
	"lanternrow/internal/inbound"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

func init() {
	inbound.Attach(inbound.CustomerReturn, commerce{})
	inbound.AddFollower(commerce{})
}

// commerce is what returns have to say on the floor.
type commerce struct{}

// MayReceive refuses another lot or unit than those that were announced.
func (commerce) MayReceive(ctx context.Context, q sqlx.QueryerContext, l inbound.Line, g inbound.Arriving) error {
	o, mine, err := own(ctx, q, l)
	if err != nil || mine.ID == 0 {
		return err
	}
	for _, lot := range g.Lots {
		if lot != mine.Lot && mine.Lot != "" {
			return refusal.New(refusal.WrongLot, g.Field+".lots",
				"Lot %s of %s is not on %s: %s got lot %s with %s. Set it aside, and announce it on a return of its own.", lot,
				l.SKU, o.Number, o.Customer, mine.Lot, mine.Shipment).Of(refusal.Conflict)
		}
	}
	for _, code := range g.Serials {
		if !slices.Contains(mine.Serials, code) {
			return refusal.New(refusal.WrongSerial, g.Field+".serials",
				"Serial %s of %s is not on %s. Set it aside, and announce it on a return of its own.", code, l.SKU, o.Number).
				Of(refusal.Conflict)
		}
	}
	return mine.mayBeMore(ctx, q, o, g)
}

// own is a return with the line of it that goods come on; no line of an order from a customer that no return was
// announced for.
func own(ctx context.Context, q sqlx.QueryerContext, l inbound.Line) (Return, Line, error) {
	o, err := Read(ctx, q, l.OrderID)
	if unannounced(err) {
		return o, Line{}, nil
	}
	i := slices.IndexFunc(o.Lines, func(x Line) bool { return x.ID == l.ID })
	if err != nil || i < 0 {
		return o, Line{}, err
	}
	return o, o.Lines[i], nil
}

func unannounced(err error) bool {
	r := refusal.From(err)
	return r != nil && r.Code == refusal.Unknown
}

// mayBeMore refuses more than went to the customer, whoever accepts it.
func (l Line) mayBeMore(ctx context.Context, q sqlx.QueryerContext, o Return, g inbound.Arriving) error {
	over := l.Received.Add(g.Quantity).Sub(l.Quantity)
	// How many went is not known of goods without a paper: a lead may accept more.
	if !over.IsPositive() || l.ShipmentID == 0 {
		return nil
	}
	sold, err := readSold(ctx, q, []int64{l.ShipmentID}, o.AnnouncedAt)
	if err != nil {
		return err
	}
	for _, s := range sold {
		if s.LineID == l.SoldLineID && s.Lot == l.Lot && over.GreaterThan(s.Returnable) {
			return refusal.New(refusal.OverReturnable, g.Field+".quantity",
				"%s of %s went with %s, and beside the %s on %s only %s may still be returned. Set the other %s aside.", s.Shipped,
				l.SKU, l.Shipment, l.Quantity, o.Number, s.Returnable, over.Sub(s.Returnable)).Of(refusal.Conflict)
		}
	}
	return nil
}

// MayTakeBack keeps what was decided on, and what was given for already.
func (commerce) MayTakeBack(
	ctx context.Context, q sqlx.QueryerContext, l inbound.Line, quantity decimal.Decimal,
) error {
	o, mine, err := own(ctx, q, l)
	if err != nil || mine.ID == 0 {
		return err
	}
	switch {
	case quantity.GreaterThan(mine.left()):
		return refusal.New(refusal.GoodsGone, "move_id", "%s of %s are decided on already. Only %s can be taken back.",
			mine.Decided, mine.SKU, mine.left()).Of(refusal.Conflict)
	case o.SettledAt != nil && o.When == returning.Received:
		return refusal.New(refusal.ReturnSettled, "move_id", "%s is settled over what came. It is not taken back.",
			o.Number).Of(refusal.Conflict)
	}
	return nil
}

// Foresee says whether goods wait for somebody to decide, or what they become by themselves. What a return gives stands
// on its own page.
func (commerce) Foresee(ctx context.Context, q sqlx.QueryerContext, came []inbound.Receipt) (out []string, err error) {
	by, err := habits(ctx, q, came)
	if err != nil {
		return nil, err
	}
	for _, r := range came {
		if r.Order.Kind != inbound.CustomerReturn {
			continue
		}
		becomes := "wait to be decided on, and are not free."
		if fate := by[r.Line.ID].Fate; fate.takes(r.Found) {
			becomes = "go " + ends[fate].words + " by themselves."
		}
		out = append(out, fmt.Sprintf("%s of %s %s", r.Quantity(), r.Line.SKU, becomes))
	}
	return out, nil
}

// Follow decides what the kind of a return decides by itself, and gives the customer what follows once the goods are
// here.
func (commerce) Follow(ctx context.Context, tx *command.Tx, came []inbound.Receipt) error {
	if err := decideByKind(ctx, tx, came); err != nil {
		return err
	}
	told := map[int64]bool{}
	for _, r := range came {
		if r.Order.Kind != inbound.CustomerReturn || told[r.Order.ID] {
			continue
		}
		told[r.Order.ID] = true
		tx.NotifySite(r.Order.SiteID, topics...)
		if _, err := give(ctx, tx, r.Order.ID); err != nil && !unannounced(err) {
			return err
		}
	}
	return nil
}
