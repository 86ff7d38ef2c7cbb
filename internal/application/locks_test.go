package application_test

import (
	"context"
	"fmt"
	"sync"
	"testing"

	"lanternrow/internal/cartons"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/purchasing"
	"lanternrow/internal/shipping"
	"lanternrow/internal/station/dispatch"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/station/pack"
	"lanternrow/internal/station/pick"
	"lanternrow/internal/station/receive"
	"lanternrow/internal/test/world"
)

// step is one of two commands that run against each other, on the n-th pair of documents.
type step func(ctx context.Context, tx *command.Tx, n int) error

// TestCommandsThatMeetNeverWaitInARing runs pairs of commands that want the same documents
// against each other. Round and order were once held in one order here and in the other
// there, and so were arrival and purchase order: the database ended one of the two, and it
// was tried again. Held in one order, no pair needs a second try.
func TestCommandsThatMeetNeverWaitInARing(t *testing.T) {
	t.Parallel()
	const rounds = 12
	h := world.New(t)
	for _, code := range []string{"A-01-1-A", "A-02-1-A"} {
		if _, err := h.Owner.Exec(`UPDATE locations SET max_units = NULL WHERE code = $1`, code); err != nil {
			t.Fatal(err)
		}
		for _, item := range []int32{world.Clamp, world.Heavy} {
			h.Stock(t, item, h.Bin(t, code), 2000)
		}
	}
	w := &ring{h: h, t: t}
	for name, pair := range map[string][2]func() step{
		"a pick and a change of its order":           {w.pickStep, w.changeOrder},
		"a pick and the cancelling of the rest":      {w.pickStep, w.cancelOrder},
		"a short bin and a change of its order":      {w.shortStep, w.changeOrder},
		"the bench and the cancelling of the rest":   {w.stage, w.cancelOrder},
		"two picks of one order":                     {w.pickStep, w.pickStep},
		"a receipt and a change of its order":        {w.receipt, w.changePurchase},
		"a receipt and the closing of its order":     {w.receipt, w.closePurchase},
		"two receipts of the same items, turned":     {w.receipt, w.receiptTurned},
		"shipping by order and the cancelling of it": {w.ship, w.cancelOrder},
		"shipping many, in either order":             {w.shipMany, w.shipManyTurned},
		"closing a carton and a change of its order": {w.closeCarton, w.changeOrder},
	} {
		t.Run(name, func(t *testing.T) {
			w.t = t
			w.prepare(rounds)
			a, b := pair[0](), pair[1]()
			before := h.Runner.Retries()
			for n := range rounds {
				var meet sync.WaitGroup
				for _, s := range []step{a, b} {
					meet.Go(func() {
						// What is refused, since the other came first, is fine.
						act(&run{House: h, t: t}, func(ctx context.Context, tx *command.Tx) (bool,
							error) {
							return true, s(ctx, tx, n)
						})
					})
				}
				meet.Wait()
			}
			if again := h.Runner.Retries() - before; again != 0 {
				t.Errorf("%d were tried again", again)
			}
			if n := h.Runner.Disorder(); n != 0 {
				t.Errorf("%d were held out of order", n)
			}
		})
	}
	h.Whole(t)
}

// ring prepares documents for pairs, and makes the commands of each.
type ring struct {
	h *world.House
	t *testing.T

	sales    []orders.Order
	rounds   []pick.Round
	cartons  []cartons.Carton
	buys     []purchasing.Order
	arrivals [][2]receive.Arrival
}

func done[T any](w *ring, fn func(context.Context, *command.Tx) (T, error)) T {
	w.t.Helper()
	return world.Must[T](w.t)(world.Act(w.h, fn))
}

// prepare makes so many orders of two items, each on a round that is walked with a carton,
// and so many purchase orders with two arrivals each.
func (w *ring) prepare(n int) {
	w.t.Helper()
	w.sales, w.rounds, w.cartons, w.buys, w.arrivals = nil, nil, nil, nil, nil
	for range n {
		o := done(w, func(ctx context.Context, tx *command.Tx) (orders.Order, error) {
			return orders.Create(ctx, tx, orders.NewOrder{CustomerID: world.Customer, SiteID: world.Site,
				Release: true, Terms: orders.Terms{WantedOn: soon},
				Lines: []orders.NewLine{{ItemID: world.Clamp, Quantity: "6"}, {ItemID: world.Heavy, Quantity: "6"}}})
		})
		r := done(w, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
			p, err := pick.Propose(ctx, tx, pick.Wish{SiteID: world.Site, OrderIDs: []int64{o.ID}}, tx.Now)
			if err != nil {
				return pick.Round{}, err
			}
			r, err := pick.Release(ctx, tx, p.Draft(world.Site))
			if err != nil {
				return r, err
			}
			return pick.Start(ctx, tx, r.ID)
		})
		made := done(w, func(ctx context.Context, tx *command.Tx) ([]cartons.Carton, error) {
			return cartons.MakeLabels(ctx, tx, world.Site, 1, world.Prefix)
		})
		done(w, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
			if _, err := pick.OpenCarton(ctx, tx, r.ID, made[0].SSCC, o.ID); err != nil {
				return r, err
			}
			return pick.Pick(ctx, tx, r.ID, w.scans(r, made[0], "2"))
		})
		w.sales, w.rounds, w.cartons = append(w.sales, o), append(w.rounds, r), append(w.cartons, made[0])
		w.buy()
	}
}

func (w *ring) buy() {
	w.t.Helper()
	b := done(w, func(ctx context.Context, tx *command.Tx) (purchasing.Order, error) {
		return purchasing.CreateOrder(ctx, tx, purchasing.NewOrder{SupplierID: world.Supplier, SiteID: world.Site,
			Send: true, OrderTerms: purchasing.OrderTerms{ExpectedOn: soon},
			Lines: []purchasing.NewLine{{ItemID: world.Clamp, Quantity: "20"}, {ItemID: world.Heavy, Quantity: "20"}}})
	})
	var two [2]receive.Arrival
	for i := range two {
		two[i] = done(w, func(ctx context.Context, tx *command.Tx) (receive.Arrival, error) {
			return receive.OpenArrival(ctx, tx, receive.NewArrival{OrderIDs: []int64{b.ID}, DockID: world.Dock, Another: true})
		})
	}
	w.buys, w.arrivals = append(w.buys, b), append(w.arrivals, two)
}

func (w *ring) scans(r pick.Round, c cartons.Carton, quantity string) pick.Scans {
	s := r.Stops[0]
	return pick.Scans{StopID: s.ID, Bin: s.Bin, Item: s.SKU, Carton: c.SSCC, Quantity: quantity}
}

func (w *ring) pickStep() step {
	return func(ctx context.Context, tx *command.Tx, n int) error {
		_, err := pick.Pick(ctx, tx, w.rounds[n].ID, w.scans(w.rounds[n], w.cartons[n], "1"))
		return err
	}
}

func (w *ring) shortStep() step {
	return func(ctx context.Context, tx *command.Tx, n int) error {
		_, err := pick.Short(ctx, tx, w.rounds[n].ID, w.rounds[n].Stops[1].ID, "1")
		return err
	}
}

func (w *ring) stage() step {
	return func(ctx context.Context, tx *command.Tx, n int) error {
		_, err := pick.Stage(ctx, tx, w.rounds[n].ID, true)
		return err
	}
}

func (w *ring) changeOrder() step {
	return func(ctx context.Context, tx *command.Tx, n int) error {
		o := w.sales[n]
		_, err := orders.Amend(ctx, tx, o.ID, orders.Amended{Terms: orders.Terms{WantedOn: soon},
			Lines: []orders.NewLine{{ID: o.Lines[0].ID, ItemID: o.Lines[0].ItemID, Quantity: "2"},
				{ID: o.Lines[1].ID, ItemID: o.Lines[1].ItemID, Quantity: "1"}}})
		return err
	}
}

func (w *ring) cancelOrder() step {
	return func(ctx context.Context, tx *command.Tx, n int) error {
		_, err := orders.CancelOpen(ctx, tx, w.sales[n].ID, 0)
		return err
	}
}

// receive receives on the first or the second arrival of a purchase order, its lines in
// either order.
func (w *ring) receive(which int, turned bool) step {
	return func(ctx context.Context, tx *command.Tx, n int) error {
		lines := []receive.ReceiptLine{{LineID: w.buys[n].Lines[0].ID, Quantity: "2"},
			{LineID: w.buys[n].Lines[1].ID, Quantity: "2"}}
		if turned {
			lines[0], lines[1] = lines[1], lines[0]
		}
		_, err := receive.PostReceipt(ctx, tx, world.Prefix, w.arrivals[n][which].ID, receive.NewReceipt{Lines: lines})
		return err
	}
}

func (w *ring) receipt() step { return w.receive(0, false) }

// receiptTurned is of another order, whose lines of the same items come the other way
// round, to the same dock.
func (w *ring) receiptTurned() step {
	turned := w.receive(1, true)
	return func(ctx context.Context, tx *command.Tx, n int) error { return turned(ctx, tx, (n+1)%len(w.buys)) }
}

func (w *ring) changePurchase() step {
	return func(ctx context.Context, tx *command.Tx, n int) error {
		o := w.buys[n]
		_, err := purchasing.Amend(ctx, tx, o.ID,
			purchasing.Amended{OrderTerms: purchasing.OrderTerms{ExpectedOn: soon},
				Lines: []purchasing.NewLine{{ID: o.Lines[0].ID, ItemID: o.Lines[0].ItemID, Quantity: "2"},
					{ID: o.Lines[1].ID, ItemID: o.Lines[1].ItemID, Quantity: "2"}}})
		return err
	}
}

func (w *ring) closePurchase() step {
	return func(ctx context.Context, tx *command.Tx, n int) error {
		_, err := purchasing.CloseOrder(ctx, tx, w.buys[n].ID, 0)
		return err
	}
}

// packed brings every order's carton to the bench and closes it.
func (w *ring) packed(close bool) {
	w.t.Helper()
	for n := range w.rounds {
		done(w, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
			return pick.Stage(ctx, tx, w.rounds[n].ID, true)
		})
		if close {
			done(w, func(ctx context.Context, tx *command.Tx) (cartons.Carton, error) {
				return pack.Close(ctx, tx, w.cartons[n].ID, pack.Closing{})
			})
		}
	}
}

func (w *ring) ship() step {
	w.packed(true)
	return func(ctx context.Context, tx *command.Tx, n int) error {
		_, err := dispatch.Ship(ctx, tx, w.sales[n].ID, shipping.Terms{})
		return err
	}
}

// shipBoth ships two orders in one step, named in either order.
func (w *ring) shipBoth(turned bool) step {
	return func(ctx context.Context, tx *command.Tx, n int) error {
		ids := []int64{w.sales[n].ID, w.sales[(n+1)%len(w.sales)].ID}
		if turned {
			ids[0], ids[1] = ids[1], ids[0]
		}
		_, err := dispatch.ShipMany(ctx, tx, ids, shipping.Terms{})
		return err
	}
}

func (w *ring) shipMany() step       { w.packed(true); return w.shipBoth(false) }
func (w *ring) shipManyTurned() step { return w.shipBoth(true) }

func (w *ring) closeCarton() step {
	w.packed(false)
	return func(ctx context.Context, tx *command.Tx, n int) error {
		_, err := pack.Close(ctx, tx, w.cartons[n].ID, pack.Closing{})
		return err
	}
}

// TestTheDayHoldsNothingOutOfOrder lives part of a random day and asks whether anything was
// held after what comes behind it.
func TestTheDayHoldsNothingOutOfOrder(t *testing.T) {
	t.Parallel()
	d := openShop(t, 1871)
	for range 250 {
		d.step()
	}
	if n := d.Runner.Disorder(); n != 0 {
		t.Errorf("%d were held out of order (%s)", n, fmt.Sprint(d.did))
	}
}
