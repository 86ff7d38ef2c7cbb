package demo

import (
	"context"
	"time"

	"lanternrow/internal/platform/command"
	"lanternrow/internal/shipping"
	"lanternrow/internal/station/dispatch"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/transfers"
)

// loft is the other site.
const loft = 2

// transfers sends goods to the loft: one transfer is under way, and one waits for its release.
func (s *story) transfers() {
	sent := s.transfer("for the winter hire", true, map[string]string{"LN-036": "4", "FL-090": "2"})
	order := orders.Order{ID: sent.ID}
	s.toBench(order, "picker")
	s.close(order, "")
	as(s, "picker", func(ctx context.Context, tx *command.Tx) (shipping.Shipment, error) {
		return dispatch.Ship(ctx, tx, sent.ID, shipping.Terms{})
	})
	s.transfer("a lens tube for each spot there", false, map[string]string{"LN-026": "2"})
}

// transfer writes a transfer to the loft.
func (s *story) transfer(reason string, release bool, lines map[string]string) transfers.Order {
	in := transfers.New{FromSiteID: site, ToSiteID: loft, WantedOn: s.clock.Format(time.DateOnly),
		ExpectedOn: s.clock.AddDate(0, 0, 2).Format(time.DateOnly), Reason: reason, Release: release}
	for _, g := range goods {
		if quantity, goes := lines[g.sku]; goes {
			in.Lines = append(in.Lines, transfers.NewLine{ItemID: s.item(g.sku), Quantity: quantity})
		}
	}
	return as(s, "office", func(ctx context.Context, tx *command.Tx) (transfers.Order, error) {
		return transfers.Create(ctx, tx, in)
	})
}
