package application_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/states"
	"lanternrow/internal/inbound"
	"lanternrow/internal/outbound"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/shipping"
	"lanternrow/internal/station/dispatch"
	"lanternrow/internal/station/pack"
	"lanternrow/internal/station/pick"
	"lanternrow/internal/station/putaway"
	"lanternrow/internal/station/receive"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

// TestTheFloorKnowsNoKinds ships a transfer from one site, receives it at the other, sells
// part of it there and takes that back from the customer: kinds of orders that no station
// has heard of, each through the stations as they are. Each unit's lot or serial stays with
// it all the way.
func TestTheFloorKnowsNoKinds(t *testing.T) {
	t.Parallel()
	k := newKinds(t)
	lot := k.h.Lot(t, world.Fluid, "HZ-77", 400)
	k.h.Stock(t, world.Clamp, k.h.Bin(t, "A-01-1-A"), 20)
	k.h.StockLot(t, world.Fluid, lot, k.h.Bin(t, "B-01-1-A"), 9)
	k.h.StockUnits(t, world.Spot, k.h.Bin(t, "A-02-1-A"), "S-1", "S-2", "S-3")

	shipped := k.ship(outbound.New{Kind: outbound.Transfer, SiteID: world.Site, ToSite: world.OtherSite,
		DestinationID: k.transit},
		ships{world.Clamp, "6", nil}, ships{world.Fluid, "4", nil}, ships{world.Spot, "2", []string{"S-1", "S-3"}})
	k.holds(k.transit, map[int32]string{world.Clamp: "6", world.Fluid: "4", world.Spot: "2"})
	if _, paper, err := shipping.Note(context.Background(), k.h.App, shipped.ID); err != nil || len(paper) == 0 {
		t.Errorf("a transfer's delivery note: %d bytes, %v", len(paper), err)
	}
	k.none(`SELECT count(*) FROM invoices`)
	k.none(`SELECT count(*) FROM outbound_orders WHERE state <> 'shipped'`)

	k.receive(inbound.New{Kind: inbound.Transfer, Number: "T-7", SiteID: world.OtherSite, FromSite: world.Site,
		SourceID: k.transit, State: states.Placed}, k.dock,
		came{world.Clamp, "6", "", nil}, came{world.Fluid, "4", "HZ-77", nil}, came{world.Spot, "2", "",
			[]string{"S-1", "S-3"}})
	k.holds(k.transit, map[int32]string{world.Clamp: "0", world.Fluid: "0", world.Spot: "0"})
	k.holds(k.dock, map[int32]string{world.Clamp: "6", world.Fluid: "4", world.Spot: "2"})
	k.putAway("Z-01-1-A", putaway.Goods{LocationID: k.dock, ItemID: world.Clamp, Quantity: "6"})
	k.putAway("Z-01-1-A", putaway.Goods{LocationID: k.dock, ItemID: world.Spot, Quantity: "2"})
	if got := k.where("S-3"); got != "Z-01-1-A" {
		t.Errorf("unit S-3 lies in %s", got)
	}

	// A replacement leaves for a customer, who sends it back: one of both kinds that has no
	// commercial side here.
	k.ship(outbound.New{Kind: outbound.Replacement, SiteID: world.Site, PartyID: world.Customer,
		DestinationID: world.CustomerLocation},
		ships{world.Clamp, "2", nil}, ships{world.Spot, "1", []string{"S-2"}})
	if got := k.where("S-2"); got != "" {
		t.Errorf("unit S-2 is in %s still", got)
	}
	k.receive(inbound.New{Kind: inbound.CustomerReturn, SiteID: world.Site, PartyID: world.Customer,
		SourceID: world.CustomerLocation, State: states.Placed}, k.h.Bin(t, "Returns corner"),
		came{world.Clamp, "2", "", nil}, came{world.Spot, "1", "", []string{"S-2"}})
	if got := k.where("S-2"); got != "Returns corner" {
		t.Errorf("unit S-2 stands at %s", got)
	}
	k.none(`SELECT count(*) FROM inbound_orders WHERE state <> 'received'`)
	k.none(`SELECT count(*) FROM arrivals WHERE state <> 'done'`)
	if n := k.h.Runner.Disorder(); n != 0 {
		t.Errorf("%d were held out of order", n)
	}
	k.h.Whole(t)
}

// TestOrdersOfTwoSourcesShareNoArrival: one lorry brings the goods of one source.
func TestOrdersOfTwoSourcesShareNoArrival(t *testing.T) {
	t.Parallel()
	k := newKinds(t)
	write := func(in inbound.New) int64 {
		in.SiteID, in.State, in.Change = world.Site, states.Placed, "wrote it"
		return k.arriving(in, came{world.Clamp, "1", "", nil})
	}
	from := write(inbound.New{Kind: inbound.Transfer, FromSite: world.OtherSite, SourceID: k.transit})
	back := write(inbound.New{Kind: inbound.CustomerReturn, PartyID: world.Customer, SourceID: world.CustomerLocation})
	_, err := world.Act(k.h, func(ctx context.Context, tx *command.Tx) (receive.Arrival, error) {
		return receive.OpenArrival(ctx, tx, receive.NewArrival{OrderIDs: []int64{from, back}, DockID: world.Dock})
	})
	world.Refused(t, err, "order_elsewhere", "Other House", "The Lyrebird Theatre")
}

// kinds is a house whose other site has a dock, and goods on their way between the two.
type kinds struct {
	t             *testing.T
	h             *world.House
	transit, dock int32
}

func newKinds(t *testing.T) kinds {
	k := kinds{t: t, h: world.New(t)}
	var gate int32
	for _, p := range []struct {
		id    *int32
		query string
	}{
		{&k.transit, `INSERT INTO locations (kind, code) VALUES ('transit', 'Between houses') RETURNING id`},
		{&gate, `INSERT INTO locations (site_id, kind, code, x, y) VALUES (2, 'staging', 'Gate', 10, 0) RETURNING id`},
		{&k.dock, `INSERT INTO locations (site_id, kind, code) VALUES (2, 'dock', 'Ramp') RETURNING id`},
	} {
		if err := k.h.Owner.Get(p.id, p.query); err != nil {
			t.Fatal(err)
		}
	}
	return k
}

// ships is what leaves on a line, with its units where they are known.
type ships struct {
	item     int32
	quantity string
	units    []string
}

// came is what comes on a line, with its lot or its units.
type came struct {
	item     int32
	quantity string
	lot      string
	units    []string
}

func made[T any](k kinds, fn func(context.Context, *command.Tx) (T, error)) T {
	k.t.Helper()
	return world.Must[T](k.t)(world.Act(k.h, fn))
}

// ship takes an order through a round, the bench and the gate.
func (k kinds) ship(in outbound.New, lines ...ships) shipping.Shipment {
	k.t.Helper()
	in.State, in.Change = states.Released, "release it"
	order := made(k, func(ctx context.Context, tx *command.Tx) (id int64, err error) {
		if id, err = outbound.Create(ctx, tx, in); err != nil {
			return 0, err
		}
		all := make([]outbound.NewLine, len(lines))
		for i, l := range lines {
			all[i] = outbound.NewLine{Item: l.item, Quantity: decimal.RequireFromString(l.quantity)}
		}
		_, err = outbound.AddLines(ctx, tx, id, all)
		return id, err
	})
	carton := k.pick(in.SiteID, order, lines)
	made(k, func(ctx context.Context, tx *command.Tx) (cartons.Carton, error) {
		return pack.Close(ctx, tx, carton.ID, pack.Closing{})
	})
	return made(k, func(ctx context.Context, tx *command.Tx) (shipping.Shipment, error) {
		return dispatch.Ship(ctx, tx, order, shipping.Terms{})
	})
}

// pick walks a round for an order into one carton and sets it down at the bench.
func (k kinds) pick(site int32, order int64, lines []ships) cartons.Carton {
	k.t.Helper()
	r := made(k, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		p, err := pick.Propose(ctx, tx, pick.Wish{SiteID: site, OrderIDs: []int64{order}}, tx.Now)
		if err != nil {
			return pick.Round{}, err
		}
		r, err := pick.Release(ctx, tx, p.Draft(site))
		if err != nil {
			return r, err
		}
		return pick.Start(ctx, tx, r.ID)
	})
	labels := made(k, func(ctx context.Context, tx *command.Tx) ([]cartons.Carton, error) {
		return cartons.MakeLabels(ctx, tx, site, 1, world.Prefix)
	})
	made(k, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		return pick.OpenCarton(ctx, tx, r.ID, labels[0].SSCC, order)
	})
	for _, s := range r.Stops {
		scans := pick.Scans{StopID: s.ID, Bin: s.Bin, Item: s.SKU, Carton: labels[0].SSCC,
			Quantity: s.Quantity.String()}
		if at := slices.IndexFunc(lines, func(l ships) bool { return l.item == s.ItemID }); at >= 0 {
			scans.Serials = lines[at].units
		}
		made(k, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
			return pick.Pick(ctx, tx, r.ID,
				scans)
		})
	}
	made(k, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		return pick.Stage(ctx, tx, r.ID, false)
	})
	return labels[0]
}

// arriving writes an order that is expected.
func (k kinds) arriving(in inbound.New, lines ...came) int64 {
	k.t.Helper()
	return made(k, func(ctx context.Context, tx *command.Tx) (id int64, err error) {
		if id, err = inbound.Create(ctx, tx, in); err != nil {
			return 0, err
		}
		all := make([]inbound.NewLine, len(lines))
		for i, l := range lines {
			all[i] = inbound.NewLine{Item: l.item, Quantity: decimal.RequireFromString(l.quantity)}
		}
		_, err = inbound.AddLines(ctx, tx, id, all)
		return id, err
	})
}

// receive takes an order in at a dock, first in part: that is taken back, and all of it
// comes then.
func (k kinds) receive(in inbound.New, dock int32, lines ...came) {
	k.t.Helper()
	in.Change = "wrote it"
	order := k.arriving(in, lines...)
	a := made(k, func(ctx context.Context, tx *command.Tx) (receive.Arrival, error) {
		return receive.OpenArrival(ctx, tx, receive.NewArrival{OrderIDs: []int64{order}, DockID: dock})
	})
	receiveGoods := func(quantity string, which ...int) {
		k.t.Helper()
		a = made(k, func(ctx context.Context, tx *command.Tx) (receive.Arrival, error) {
			body := receive.NewReceipt{Version: a.Version}
			for _, i := range which {
				l := receive.ReceiptLine{LineID: a.Lines[i].ID, Quantity: lines[i].quantity, Serials: lines[i].units}
				if a.Orders[0].AsksFound {
					l.Found = inbound.Used
				}
				if quantity != "" {
					l.Quantity = quantity
				}
				if lines[i].lot != "" {
					l.Lots = []receive.ReceiptLot{{Code: lines[i].lot, ExpiresOn: k.expiry(lines[i].lot),
						Quantity: l.Quantity}}
				}
				body.Lines = append(body.Lines, l)
			}
			return receive.PostReceipt(ctx, tx, world.Prefix, a.ID, body)
		})
	}
	receiveGoods("1", 0)
	a = made(k, func(ctx context.Context, tx *command.Tx) (receive.Arrival, error) {
		return receive.Undo(ctx, tx, a.ID, receive.UndoReceipt{Version: a.Version, MoveID: a.Receipts[0].MoveID,
			Reason: "counted on the wrong pallet"})
	})
	all := make([]int, len(lines))
	for i := range all {
		all[i] = i
	}
	receiveGoods("", all...)
}

func (k kinds) putAway(bin string, what putaway.Goods) {
	k.t.Helper()
	made(k, func(ctx context.Context, tx *command.Tx) (bool, error) {
		_, err := putaway.PostPutAway(ctx, tx,
			putaway.Spread{Goods: what, Locations: []putaway.SpreadPart{{Bin: bin, Quantity: what.Quantity}}})
		return err == nil, err
	})
}

func (k kinds) holds(location int32, want map[int32]string) {
	k.t.Helper()
	for item, quantity := range want {
		if got := k.h.Holds(k.t, location, item); got != quantity {
			k.t.Errorf("location %d holds %s of item %d, not %s", location, got, item, quantity)
		}
	}
}

// where is the location of a unit.
func (k kinds) where(serial string) string {
	k.t.Helper()
	var codes []string
	err := k.h.Owner.Select(&codes, `
		SELECT p.code FROM balances b JOIN locations p ON p.id = b.location_id JOIN serials s ON s.id = b.serial_id
		 WHERE s.code = $1 AND b.quantity > 0`, serial)
	if err != nil {
		k.t.Fatal(err)
	}
	return strings.Join(codes, ", ")
}

// expiry is the day that the label of a lot says.
func (k kinds) expiry(lot string) (day string) {
	k.t.Helper()
	if err := k.h.Owner.Get(&day, `
		SELECT to_char(expires_on, 'YYYY-MM-DD') FROM lots WHERE code = $1`, lot); err != nil {
		k.t.Fatal(err)
	}
	return day
}

func (k kinds) none(query string) {
	k.t.Helper()
	var n int
	if err := k.h.Owner.Get(&n, query); err != nil {
		k.t.Fatal(err)
	}
	if n != 0 {
		k.t.Errorf("%d: %s", n, query)
	}
}
