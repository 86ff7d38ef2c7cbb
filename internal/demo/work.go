package demo

import (
	"context"
	"fmt"
	"slices"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/shipping"
	"lanternrow/internal/station/dispatch"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/station/pack"
	"lanternrow/internal/station/pick"
	"lanternrow/internal/station/putaway"

	"github.com/shopspring/decimal"
)

// putAwayAll puts away a share of what stands on the docks, as proposed.
func (s *story) putAwayAll(share float64) {
	var waiting []struct {
		Location int32           `db:"location_id"`
		Item     int32           `db:"item_id"`
		Lot      *int64          `db:"lot_id"`
		Quantity decimal.Decimal `db:"quantity"`
	}
	if s.err == nil {
		s.err = s.db.SelectContext(s.ctx, &waiting, `
			SELECT b.location_id, b.item_id, b.lot_id, sum(b.quantity) AS quantity FROM balances b
			  JOIN locations p ON p.id = b.location_id
			WHERE p.kind = 'dock' AND b.carton_id IS NULL AND b.condition = 'good' GROUP BY 1, 2, 3
			ORDER BY b.location_id, b.item_id, b.lot_id`)
	}
	for i, w := range waiting {
		if float64(i) >= share*float64(len(waiting)) {
			return
		}
		goods := putaway.Goods{LocationID: w.Location, ItemID: w.Item, LotID: w.Lot, Quantity: w.Quantity.String()}
		as(s, "receiver", func(ctx context.Context, tx *command.Tx) (*ledger.Plan, error) {
			p, err := putaway.Propose(ctx, tx, goods)
			if err != nil || len(p.Locations) == 0 {
				return nil, err
			}
			goods.Quantity = w.Quantity.Sub(p.Left).String()
			spread := putaway.Spread{Goods: goods}
			for _, o := range p.Locations {
				spread.Locations = append(spread.Locations,
					putaway.SpreadPart{Bin: o.Bin, Quantity: o.Quantity.String(), Serials: o.Serials})
			}
			return putaway.PostPutAway(ctx, tx, spread)
		})
	}
}

// sell takes an order for a few items, quick movers more often.
func (s *story) sell(wanted time.Time, release bool) orders.Order {
	in := orders.NewOrder{CustomerID: int32(len(suppliers) + 1 + s.rand.IntN(len(customers))), SiteID: s.at,
		Release: release,
		Terms: orders.Terms{WantedOn: wanted.Format(time.DateOnly),
			Reference: fmt.Sprintf("WO %d", 1000+s.rand.IntN(9000)), Sure: refusal.Sure{refusal.ReferenceUsed, refusal.DayPast}}}
	chosen := map[int]bool{}
	for want := 2 + s.rand.IntN(5); len(in.Lines) < want; {
		i := s.rand.IntN(len(goods))
		if chosen[i] || s.rand.Float64() > goods[i].pace+0.1 || !s.goesHere(goods[i]) {
			continue
		}
		chosen[i] = true
		quantity := 1 + s.rand.IntN(max(2, int(goods[i].pace*8)))
		in.Lines = append(in.Lines, orders.NewLine{ItemID: int32(i + 1), Quantity: fmt.Sprint(quantity)})
	}
	return as(s, "office", func(ctx context.Context, tx *command.Tx) (orders.Order, error) {
		return orders.Create(ctx,
			tx, in)
	})
}

// fulfil takes orders all the way out of the house.
func (s *story) fulfil(ids []int64, picker string) {
	round := s.plan(ids)
	if round.ID == 0 {
		return
	}
	s.walk(round, picker, len(round.Stops))
	s.stage(round.ID, picker)
	s.packCartons(0)
	for _, id := range ids {
		as(s, "picker", func(ctx context.Context, tx *command.Tx) (bool, error) {
			packed, err := cartons.OfOrder(ctx, tx, id, "packed")
			if err != nil || len(packed) == 0 {
				return false, err
			}
			_, err = dispatch.Ship(ctx, tx, id, shipping.Terms{})
			return true, err
		})
	}
}

// plan releases a round for the orders, with the stock proposed.
func (s *story) plan(ids []int64) pick.Round {
	return as(s, "lead", func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		p, err := pick.Propose(ctx, tx, pick.Wish{SiteID: s.at, OrderIDs: ids}, tx.Now)
		if err != nil || len(p.Stops) == 0 {
			return pick.Round{}, err
		}
		return pick.Release(ctx, tx, p.Draft(s.at))
	})
}

// walk makes the first stops of a round, scanning as a picker does.
func (s *story) walk(round pick.Round, picker string, stops int) {
	if s.err != nil {
		return
	}
	as(s, picker, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		return pick.Start(ctx, tx,
			round.ID)
	})
	labels := map[int64]string{}
	for _, o := range round.Orders {
		label := s.blank[s.at][0].SSCC
		s.blank[s.at] = s.blank[s.at][1:]
		labels[o.ID] = label
		as(s, picker, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
			return pick.OpenCarton(ctx, tx, round.ID, label, o.ID)
		})
	}
	for i := range stops {
		if s.err != nil {
			return
		}
		stop := round.Stops[i]
		scans := pick.Scans{StopID: stop.ID, Bin: stop.Bin, Item: stop.SKU, Carton: labels[stop.OrderID],
			Quantity: stop.Quantity.String()}
		switch {
		case stop.Tracking == serial:
			scans.Serials = stop.Serials[:stop.Quantity.IntPart()]
		case stop.Tracking == serialOut:
			for range stop.Quantity.IntPart() {
				scans.Serials = append(scans.Serials, s.serial(stop.SKU))
			}
		case stop.Tracking == lotOut:
			scans.Lot = fmt.Sprintf("%s-%03d", stop.SKU, stop.LineID%7)
		case stop.AskLot:
			scans.Lot = *stop.Lot
		}
		round = as(s, picker, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
			return pick.Pick(ctx, tx, round.ID, scans)
		})
	}
}

// short finds one too few at a stop of a round, where the least lies of what is counted.
func (s *story) short(round pick.Round) {
	if s.err != nil {
		return
	}
	counted := slices.DeleteFunc(slices.Clone(round.Stops[max(1, len(round.Stops)/2):]),
		func(x pick.RoundStop) bool { return x.Tracking == serial })
	if len(counted) == 0 {
		return
	}
	stop := slices.MinFunc(counted, func(a, b pick.RoundStop) int { return a.Here.Cmp(b.Here) })
	as(s, "picker", func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		return pick.Short(ctx, tx, round.ID, stop.ID, stop.Quantity.Sub(decimal.NewFromInt(1)).String())
	})
}

func (s *story) stage(round int64, picker string) {
	as(s, picker, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		return pick.Stage(ctx, tx, round, false)
	})
}

// packCartons closes the cartons at the bench, but for the last few.
func (s *story) packCartons(leave int) {
	var waiting []cartons.Carton
	if s.err == nil {
		waiting, s.err = cartons.InState(s.ctx, s.db, s.at, "at_bench")
	}
	for _, c := range waiting[:max(0, len(waiting)-leave)] {
		as(s, "picker", func(ctx context.Context, tx *command.Tx) (cartons.Carton, error) {
			return pack.Close(ctx, tx, c.ID, pack.Closing{})
		})
	}
}
