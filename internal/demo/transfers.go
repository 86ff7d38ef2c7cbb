package demo

import (
	"context"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/shipping"
	"lanternrow/internal/station/dispatch"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/station/receive"
	"lanternrow/internal/transfers"
)

// loft is the other site.
const loft = 2

// transfers sends goods to the loft: one transfer is under way, and one waits for its release.
func (s *story) transfers() {
	s.send(s.transfer("for the winter hire", true, map[string]string{"LN-036": "4", "FL-090": "2"}))
	s.transfer("a lens tube for each spot there", false, map[string]string{"LN-026": "2"})
	s.differs(s.transfer("pattern holders for the school tour", true, map[string]string{"GB-A01": "3"}))
}

// send picks a transfer, packs and ships it.
func (s *story) send(t transfers.Order) {
	order := orders.Order{ID: t.ID}
	s.toBench(order, "picker")
	s.close(order, "")
	as(s, "picker", func(ctx context.Context, tx *command.Tx) (shipping.Shipment, error) {
		return dispatch.Ship(ctx, tx, t.ID, shipping.Terms{})
	})
}

// differs has all but one of a transfer come, and tells of that.
func (s *story) differs(t transfers.Order) {
	s.send(t)
	var half struct{ Order, Line, Dock int64 }
	if s.err == nil {
		s.err = s.db.GetContext(s.ctx, &half, `
			SELECT n.id AS "order", l.id AS line, (SELECT id FROM locations WHERE site_id = $2 AND kind = 'dock' LIMIT 1) AS dock
			  FROM inbound_orders n JOIN inbound_lines l ON l.order_id = n.id JOIN shipments d ON d.id = n.shipment_id
			 WHERE d.order_id = $1`, t.ID, loft)
	}
	a := as(s, "receiver", func(ctx context.Context, tx *command.Tx) (receive.Arrival, error) {
		return receive.OpenArrival(ctx, tx, receive.NewArrival{OrderIDs: []int64{half.Order}, DockID: int32(half.Dock)})
	})
	s.book("receiver", a, nil, receive.ReceiptLine{LineID: half.Line, Quantity: "2"})
	as(s, "receiver", func(ctx context.Context, tx *command.Tx) (transfers.Case, error) {
		return transfers.OpenCase(ctx, tx, transfers.NewCase{LineID: half.Line, Kind: transfers.Less, Quantity: "1",
			Note: "the carton was open"})
	})
}

// transfer writes a transfer to the loft.
func (s *story) transfer(reason string, release bool, lines map[string]string) transfers.Order {
	in := transfers.New{FromSiteID: site, ToSiteID: loft, WantedOn: s.clock.Format(time.DateOnly),
		ExpectedOn: s.clock.AddDate(0, 0, 2).Format(time.DateOnly), Reason: reason, Release: release,
		// The clock may pass midnight before it is written.
		Sure: refusal.Sure{refusal.DayPast}}
	for _, g := range goods {
		if quantity, goes := lines[g.sku]; goes {
			in.Lines = append(in.Lines, transfers.NewLine{ItemID: s.item(g.sku), Quantity: quantity})
		}
	}
	return as(s, "office", func(ctx context.Context, tx *command.Tx) (transfers.Order, error) {
		return transfers.Create(ctx, tx, in)
	})
}
