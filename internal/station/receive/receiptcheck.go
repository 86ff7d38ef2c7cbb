package receive

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/people"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// itemsOf reads the items of the lines that something came on.
func itemsOf(
	ctx context.Context, q sqlx.QueryerContext, arrival Arrival, lines []ReceiptLine,
) (map[int32]catalog.Item, error) {
	ids := make([]int32, len(lines))
	for i, l := range lines {
		ids[i] = lineByID(arrival.Lines, l.LineID).ItemID
	}
	return catalog.ItemsByID(ctx, q, ids)
}

// checkLine holds one line of what came against the order and the item's rules.
func checkLine(
	ctx context.Context, field string, arrival Arrival, items map[int32]catalog.Item, l ReceiptLine, now time.Time,
) (plannedLine, error) {
	out := plannedLine{Line: lineByID(arrival.Lines, l.LineID), reason: strings.TrimSpace(l.Reason)}
	if out.ID == 0 || !out.Stock() {
		return out, refusal.New(refusal.LineUnknown, field+".line_id", "That line is not on %s.", arrival.Order)
	}
	if out.Closed {
		return out, refusal.New(refusal.LineClosed, field+".quantity",
			"%s: line %d is closed with %s of %s in. Set what is here aside, and have it ordered anew if it stays.", out.SKU, out.Number, out.Received, out.Quantity)
	}
	var err error
	item := items[out.ItemID]
	order := arrival.orderOf(out.OrderID)
	out.item, out.comes, out.found = item, order.Kind.Condition(), l.Found
	switch {
	case order.AsksFound && l.Found == "":
		return out, refusal.New(refusal.ConditionMissing, field+".found",
			"Say in what condition %s came: as new, opened, used, broken or incomplete. Receive what came otherwise on its own.", out.SKU)
	case !order.AsksFound && l.Found != "":
		return out, refusal.New(refusal.ConditionUnwanted, field+".found",
			"In what condition goods come is not said of %s. Leave it out for %s.", order.Number, out.SKU)
	}
	if out.here, err = item.Count(field, l.PackID, l.Quantity); err != nil {
		return out, err
	}
	if p, known := item.Pack(l.PackID); known && !p.Holds.Equal(decimal.NewFromInt(1)) {
		out.packs = fmt.Sprintf("%s × %s of %s are %s %s.", l.Quantity, p.Name, item.SKU, out.here, item.BaseUnit)
	}
	incoming := receiving.Incoming{Ordered: out.Quantity, Already: out.Received, Here: out.here,
		Allowance: out.Allowance, Unit: item.Unit(), Follows: l.Follows}
	out.after = incoming.Settle()
	check := receiving.Line{Field: field, Codes: item.Codes(), Tracking: item.Tracking, Unit: item.Unit(),
		LifeIn: item.LifeIn, Here: out.here, Serials: l.Serials}
	for j, lot := range l.Lots {
		at := fmt.Sprintf("%s.lots[%d]", field, j)
		in := receiving.LotIn{Code: lot.Code}
		if in.Quantity, err = item.Count(at, l.PackID, lot.Quantity); err != nil {
			return out, err
		}
		if lot.ExpiresOn != "" {
			day, err := documents.Day(at+".expires_on", lot.ExpiresOn)
			if err != nil {
				return out, err
			}
			in.Expires = &day
		}
		check.Lots = append(check.Lots, in)
		out.lots = append(out.lots, plannedLot{field: at, code: in.Code, supplier: strings.TrimSpace(lot.SupplierLot), expires: in.Expires,
			quantity: in.Quantity})
	}
	if len(out.lots) == 0 {
		out.lots = []plannedLot{{quantity: out.here, serials: l.Serials}}
	}
	today := now.Truncate(24 * time.Hour)
	if err := people.Decide(ctx, field, out.reason, out.after.Refuse(field+".quantity", item.SKU,
		incoming)); err != nil {
		return out, err
	}
	if err := check.Check(); err != nil || out.comes != posting.Good {
		return out, err
	}
	return out, people.Decide(ctx, field, out.reason, check.ShortLived(today))
}

// mayCome asks the order whether these goods can have come on the line.
func (l plannedLine) mayCome(ctx context.Context, q sqlx.QueryerContext, field string, a Arrival) error {
	goods := inbound.Arriving{Field: field, Quantity: l.here}
	for _, lot := range l.lots {
		if lot.code != "" {
			goods.Lots = append(goods.Lots, lot.code)
		}
		goods.Serials = append(goods.Serials, lot.serials...)
	}
	return a.orderOf(l.OrderID).MayReceive(ctx, q, l.Line, goods)
}

// orderOf is an order of the arrival.
func (a Arrival) orderOf(id int64) inbound.Order {
	for _, o := range a.Orders {
		if o.ID == id {
			return o
		}
	}
	return inbound.Order{}
}
