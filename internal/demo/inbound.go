package demo

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/purchasing"
	"lanternrow/internal/standin/mail"
	"lanternrow/internal/station/putaway"
	"lanternrow/internal/station/receive"

	"github.com/shopspring/decimal"
)

// wish is an order with a supplier for these items, each so many.
func (s *story) wish(supplier int32, days int, lines map[string]int) purchasing.NewOrder {
	in := purchasing.NewOrder{SupplierID: supplier, SiteID: site}
	in.ExpectedOn = s.end.AddDate(0, 0, days).Format(time.DateOnly)
	in.Sure = refusal.Sure{refusal.DayPast}
	for i, g := range stocked() {
		if n := lines[g.sku]; n > 0 {
			in.Lines = append(in.Lines, purchasing.NewLine{ItemID: int32(i + 1), Quantity: fmt.Sprint(n)})
		}
	}
	return in
}

// inbound leaves every kind of work at the docks: what is asked for and offered, what a
// lead has to approve, goods on pallets, goods that wait for the rest of their order,
// units with serials, and a delivery that is judged by a sample.
func (s *story) inbound() {
	asked := s.wish(4, 7, map[string]int{"BP-100": 4, "DT-005": 20})
	asked.BegunAs, asked.Note = "request", "The belt packs on loan to Moonrake do not come back before May"
	s.order("picker", asked)
	quote := s.wish(1, 21, map[string]int{"SP-300": 12, "LN-019": 12})
	quote.BegunAs, quote.Quote, quote.QuoteUntil = "quote", "BRO/Q 3381", s.end.AddDate(0, 0, 14).Format(time.DateOnly)
	s.order("office", quote)
	s.order("office", s.wish(4, 10, map[string]int{"DM-012": 6}))

	// Spotlights came with their serials; freight is spread over them by weight.
	spots := s.wish(1, 0, map[string]int{"SP-150": 8, "FR-200": 6})
	spots.Freight, spots.FreightBy, spots.Send = "84.50", "weight", true
	spots.Lines = append(spots.Lines, purchasing.NewLine{Text: "Return of empty crates", Quantity: "1", Price: "12"})
	lights := s.order("lead", spots)
	s.mail(lights, mail.Takes)
	arrival := s.openArrival("Dock 1", false, lights)
	if s.err != nil {
		return
	}
	s.book("receiver", arrival, nil, s.came(lights.Lines[0], lights.Lines[0].Quantity))

	// Two orders of one supplier on one lorry; what came waits for the rest.
	first, second := s.wish(5, 0, map[string]int{"TP-W50": 24, "TP-G24": 48}), s.wish(5, 1,
		map[string]int{"TL-CRD": 200})
	first.Send, second.Send = true, true
	tape, line := s.order("lead", first), s.order("lead", second)
	waiting := s.openArrival("Dock 2", true, tape, line)
	if s.err != nil {
		return
	}
	s.book("receiver", waiting, nil, s.came(tape.Lines[0], tape.Lines[0].Quantity))

	s.pallets()

	cells := s.wish(4, 0, map[string]int{"BT-0AA": 400})
	cells.Send = true
	batteries := s.order("lead", cells)
	if delivery := s.openArrival("Dock 2", false, batteries); s.err == nil {
		s.book("receiver", delivery, nil, s.came(batteries.Lines[0], batteries.Lines[0].Quantity))
	}
	// The host did not answer when the last order was mailed: it waits in the outbox.
	s.mail(batteries, mail.Silent)
}

// pallets brings stage weights on pallets: one is put away as it came, the other stands on
// the dock.
func (s *story) pallets() {
	if s.err != nil {
		return
	}
	heavy := s.wish(3, 0, map[string]int{"SW-130": 80, "RS-200": 20, "TR-300": 4})
	heavy.Send = true
	weights := s.order("lead", heavy)
	pallets := s.openArrival("Dock 1", false, weights)
	if s.err != nil {
		return
	}
	for _, l := range weights.Lines {
		if l.SKU == "SW-130" {
			for range 2 {
				pallets = s.book("receiver", pallets, &receive.CartonIn{Kind: "pallet"},
					s.came(l, decimal.NewFromInt(40)))
			}
		}
	}
	s.putAwayPallet()
	for _, l := range weights.Lines {
		if l.SKU == oversize.sku {
			pallets = s.book("receiver", pallets, nil, s.came(l, l.Quantity))
		}
	}
}

// mail sends an order's paper, to a host that takes it or does not answer.
func (s *story) mail(o purchasing.Order, does string) {
	as(s, "office", func(ctx context.Context, tx *command.Tx) (purchasing.Order, error) {
		if err := mail.Tell(ctx, tx, site, does); err != nil {
			return o, err
		}
		return purchasing.MailOrder(ctx, tx, o.ID)
	})
}

// putAwayPallet puts away the first pallet that stands on a dock where it fits best.
func (s *story) putAwayPallet() {
	as(s, "receiver", func(ctx context.Context, tx *command.Tx) (*ledger.Plan, error) {
		there, err := cartons.PalletsAt(ctx, tx, site, "dock")
		if err != nil || len(there) == 0 {
			return nil, err
		}
		bins, err := putaway.ProposePallet(ctx, tx, there[0].ID)
		if err != nil || len(bins) == 0 {
			return nil, err
		}
		return putaway.PostPallet(ctx, tx, putaway.PutAwayPallet{CartonID: there[0].ID, Bin: bins[0].Bin})
	})
}
