package demo

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/station/dispatch"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/station/pack"
)

// outbound leaves what today's orders need a decision or a hand for: quotes, orders that
// wait for a wave, one that is short of stock, one with a lot reserved for it, goods to return to stock, a
// carton whose weight differs, a vehicle half loaded, and shipments that are not invoiced.
func (s *story) outbound() {
	day := func(ahead int) string { return s.end.AddDate(0, 0, ahead).Format(time.DateOnly) }
	take := func(in orders.NewOrder) orders.Order {
		in.SiteID = site
		return as(s, "office", func(ctx context.Context, tx *command.Tx) (orders.Order,
			error) {
			return orders.Create(ctx, tx, in)
		})
	}
	line := func(sku string, quantity int) orders.NewLine {
		return orders.NewLine{ItemID: s.item(sku), Quantity: fmt.Sprint(quantity)}
	}
	for i, c := range []int{0, 6} {
		take(orders.NewOrder{CustomerID: s.customer(c), QuoteUntil: day(12 + i),
			Terms: orders.Terms{WantedOn: day(20), Reference: "spring tour"},
			Lines: []orders.NewLine{line("CB-050", 6), line("TB-200", 4), {Text: "Freight to the stage door",
				Quantity: "1", Price: "38"}}})
	}
	// A wave's worth of small orders.
	small := []string{"CB-010", "CB-025", "DX-015", "DX-050", "TP-W50", "TP-G24", "TP-Y24", "GL-106", "CF-185",
		"GB-A01", "SH-100", "DT-005"}
	for i := range 8 {
		take(orders.NewOrder{CustomerID: s.customer(i % len(customers)), Release: true,
			Terms: orders.Terms{WantedOn: day(1 + i%2), Reference: fmt.Sprintf("HSE %d", 310+i)},
			Lines: []orders.NewLine{line(small[i], 1+i%3), line(small[(i+5)%len(small)], 2)}})
	}
	take(orders.NewOrder{CustomerID: s.customer(2), Release: true, Terms: orders.Terms{WantedOn: day(2),
		Reference: "winter stock"},
		Lines: []orders.NewLine{line("FG-500", 160), line("TP-B50", 6)}})
	s.reserved(take(orders.NewOrder{CustomerID: s.customer(8), Terms: orders.Terms{WantedOn: day(4),
		Note: "The lot their rigger has certified"}, Lines: []orders.NewLine{line("SB-900", 6)}}))

	// Two are packed, one for each carrier; one more is picked, and then wants less.
	var packed []orders.Order
	for i, c := range []int{1, 2} {
		o := take(orders.NewOrder{CustomerID: s.customer(c), Release: true, Terms: orders.Terms{WantedOn: day(i), Sure: refusal.Sure{refusal.DayPast}},
			Lines: []orders.NewLine{line("DX-100", 2+i), line("TP-HAZ", 3)}})
		s.toBench(o, "picker2")
		packed = append(packed, o)
	}
	for _, o := range packed {
		s.close(o, "")
	}
	heavy := take(orders.NewOrder{CustomerID: s.customer(4), Release: true, Terms: orders.Terms{WantedOn: day(0)},
		Lines: []orders.NewLine{line("CB-100", 3), line("FT-025", 4)}})
	s.toBench(heavy, "picker2")
	s.close(heavy, "12.4")
	less := take(orders.NewOrder{CustomerID: s.customer(9), Release: true, Terms: orders.Terms{WantedOn: day(1)},
		Lines: []orders.NewLine{line("DX-050", 4), line("GL-216", 3)}})
	s.toBench(less, "picker2")
	less = s.reread(less)
	if s.err != nil {
		return
	}
	as(s, "office", func(ctx context.Context, tx *command.Tx) (orders.Order, error) {
		return orders.Amend(ctx, tx, less.ID, orders.Amended{Version: less.Version,
			Terms: orders.Terms{WantedOn: less.WantedOn, Carrier: less.Carrier},
			Lines: []orders.NewLine{{ID: less.Lines[0].ID, ItemID: less.Lines[0].ItemID, Quantity: "2"},
				{ID: less.Lines[1].ID, ItemID: less.Lines[1].ItemID, Quantity: "3"}}})
	})
	s.load(packed[0])
}

// item is the id of an item by its SKU; items were written in the order of the catalog.
func (s *story) item(sku string) int32 {
	for i, g := range goods {
		if g.sku == sku {
			return int32(i + 1)
		}
	}
	s.err = fmt.Errorf("there is no item %s", sku)
	return 0
}

func (s *story) customer(i int) int32 { return int32(len(suppliers) + 1 + i) }

// reserved reserves for the line of an order a lot that is not the first to go.
func (s *story) reserved(o orders.Order) {
	if s.err != nil {
		return
	}
	var lot struct {
		Location int32 `db:"location_id"`
		Lot      int64 `db:"lot_id"`
	}
	s.err = s.db.GetContext(s.ctx, &lot, `
		SELECT b.location_id, b.lot_id FROM balances b JOIN locations p ON p.id = b.location_id WHERE b.item_id = $1
		   AND p.kind = 'bin' AND b.quantity - b.reserved >= 6 ORDER BY b.lot_id DESC LIMIT 1`, o.Lines[0].ItemID)
	as(s, "office", func(ctx context.Context, tx *command.Tx) (orders.Order, error) {
		return orders.ReserveLine(ctx, tx, o.Lines[0].ID,
			[]orders.NewReservation{{LocationID: lot.Location, LotID: &lot.Lot, Quantity: "6"}})
	})
}

// toBench picks an order and sets it down.
func (s *story) toBench(o orders.Order, picker string) {
	round := s.plan([]int64{o.ID})
	if s.err != nil || round.ID == 0 {
		return
	}
	s.walk(round, picker, len(round.Stops))
	s.stage(round.ID, picker)
}

// close closes an order's carton at the bench, by what the scale says.
func (s *story) close(o orders.Order, weight string) {
	if s.err != nil {
		return
	}
	found, err := cartons.OfOrder(s.ctx, s.db, o.ID, "at_bench")
	if s.err = err; err != nil {
		return
	}
	for _, c := range found {
		as(s, "picker", func(ctx context.Context, tx *command.Tx) (cartons.Carton, error) {
			return pack.Close(ctx, tx, c.ID, pack.Closing{WeightKg: weight, Size: "M"})
		})
	}
}

func (s *story) reread(o orders.Order) orders.Order {
	return as(s, "office", func(ctx context.Context, tx *command.Tx) (orders.Order, error) {
		return orders.Read(ctx,
			tx, o.ID)
	})
}

// load begins to load a vehicle with an order's cartons.
func (s *story) load(o orders.Order) {
	l := as(s, "picker", func(ctx context.Context, tx *command.Tx) (dispatch.Load, error) {
		return dispatch.OpenLoad(ctx, tx, site, o.Carrier, "NV 12 KLE")
	})
	if s.err != nil {
		return
	}
	found, err := cartons.OfOrder(s.ctx, s.db, o.ID, "packed")
	if s.err = err; err != nil {
		return
	}
	for _, c := range found {
		as(s, "picker", func(ctx context.Context, tx *command.Tx) (dispatch.Load, error) {
			return dispatch.LoadScan(ctx, tx, l.ID, c.SSCC)
		})
	}
}
