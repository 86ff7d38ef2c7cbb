package application_test

import (
	"context"
	"fmt"
	"maps"
	"math/rand/v2"
	"testing"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/purchasing"
	"lanternrow/internal/serials"
	"lanternrow/internal/shipping"
	"lanternrow/internal/station/dispatch"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/station/pack"
	"lanternrow/internal/station/pick"
	"lanternrow/internal/station/putaway"
	"lanternrow/internal/station/receive"
	"lanternrow/internal/station/transfers"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

// pile is a pile in the naive model: units of an item at a location.
type pile struct{ location, item int32 }

// model is the naive stock: numbers in a map, and no rules.
type model map[pile]int64

func (m model) move(item, from, to int32, n int64) {
	if from != world.SupplierLocation {
		m[pile{from, item}] -= n
	}
	if to != world.CustomerLocation {
		m[pile{to, item}] += n
	}
	maps.DeleteFunc(m, func(_ pile, n int64) bool { return n == 0 })
}

// run is a long random day: the house, the model beside it, and what is under way.
type run struct {
	// units counts the serials that were made, pallets those that were putAway.
	units, pallets int
	*world.House
	t       *testing.T
	r       *rand.Rand
	m       model
	open    []pick.Round
	refused int
}

// act runs an action; a refusal is counted and fine, anything else is not.
func act[T any](d *run, fn func(context.Context, *command.Tx) (T, error)) (T, bool) {
	d.t.Helper()
	out, err := world.Act(d.House, fn)
	if err != nil && refusal.From(err) == nil {
		d.t.Fatal(err)
	}
	if err != nil {
		d.refused++
	}
	return out, err == nil
}

func (d *run) arrive() {
	item := d.item()
	ordered, came := 1+d.r.Int64N(40), 1+d.r.Int64N(44)
	line := receive.ReceiptLine{Quantity: fmt.Sprint(came)}
	if item == world.Spot {
		for range came {
			line.Serials = append(line.Serials, d.serial())
		}
	}
	var on *receive.CartonIn
	if d.r.IntN(4) == 0 {
		on = &receive.CartonIn{Kind: "pallet"}
	}
	_, ok := act(d, func(ctx context.Context, tx *command.Tx) (bool, error) {
		o, err := purchasing.CreateOrder(ctx, tx, purchasing.NewOrder{SupplierID: world.Supplier, SiteID: world.Site,
			OrderTerms: purchasing.OrderTerms{ExpectedOn: soon}, Send: true, Lines: []purchasing.NewLine{{ItemID: item, Quantity: fmt.Sprint(ordered)}}})
		if err != nil {
			return false, err
		}
		a, err := receive.OpenArrival(ctx, tx, receive.NewArrival{OrderIDs: []int64{o.ID}, DockID: world.Dock, Another: true})
		if err != nil {
			return false, err
		}
		line.LineID = o.Lines[0].ID
		_, err = receive.PostReceipt(ctx, tx, world.Prefix, a.ID, receive.NewReceipt{Version: a.Version, Carton: on,
			Lines: []receive.ReceiptLine{line}})
		return true, err
	})
	if ok != (came <= ordered) {
		d.t.Fatalf("%d of %d ordered: received is %v", came, ordered, ok)
	}
	if ok {
		d.m.move(item, world.SupplierLocation, world.Dock, came)
	}
}

// item is any of the kinds of goods: counted, or known unit by unit all along or on the
// way out.
func (d *run) item() int32 {
	return []int32{world.Clamp, world.Heavy, world.Spot, world.Headset}[d.r.IntN(4)]
}

// serial is one that nobody has had.
func (d *run) serial() string {
	d.units++
	return fmt.Sprintf("U%05d", d.units)
}

// pallet puts away what stands on a dock on a pallet, as one.
func (d *run) pallet() {
	plan, ok := act(d, func(ctx context.Context, tx *command.Tx) (*ledger.Plan, error) {
		there, err := cartons.PalletsAt(ctx, tx, world.Site, "dock")
		if err != nil || len(there) == 0 {
			return nil, err
		}
		p := there[d.r.IntN(len(there))]
		bins, err := putaway.ProposePallet(ctx, tx, p.ID)
		if err != nil || len(bins) == 0 {
			return nil, err
		}
		return putaway.PostPallet(ctx, tx, putaway.PutAwayPallet{CartonID: p.ID, Bin: bins[d.r.IntN(len(bins))].Bin})
	})
	if ok && plan != nil {
		for _, m := range plan.MoveList() {
			d.m.move(m.Item, m.From, m.To, m.Quantity.IntPart())
		}
		d.pallets++
	}
}

func (d *run) putAway() {
	item := d.item()
	goods := putaway.Goods{LocationID: world.Dock, ItemID: item, Quantity: fmt.Sprint(1 + d.r.Int64N(30))}
	plan, ok := act(d, func(ctx context.Context, tx *command.Tx) (*ledger.Plan, error) {
		p, err := putaway.Propose(ctx, tx, goods)
		if err != nil {
			return nil, err
		}
		s := putaway.Spread{Goods: goods}
		for _, o := range p.Locations {
			s.Locations = append(s.Locations, putaway.SpreadPart{Bin: o.Bin, Quantity: o.Quantity.String(),
				Serials: o.Serials})
		}
		return putaway.PostPutAway(ctx, tx, s)
	})
	if ok {
		for _, m := range plan.MoveList() {
			d.m.move(item, m.From, m.To, m.Quantity.IntPart())
		}
	}
}

func (d *run) transfer(bins []int32) {
	n := 1 + d.r.IntN(12)
	t := transfers.Transfer{FromID: bins[d.r.IntN(len(bins))], ToID: bins[d.r.IntN(len(bins))], ItemID: d.item(),
		Quantity: fmt.Sprint(n)}
	if t.ItemID == world.Spot {
		here, err := serials.At(context.Background(), d.App, ledger.Stock{Location: t.FromID, Item: t.ItemID},
			posting.Good)
		if err != nil {
			d.t.Fatal(err)
		}
		d.r.Shuffle(len(here), func(i, j int) { here[i], here[j] = here[j], here[i] })
		t.Serials = serials.Codes(here)[:min(n, len(here))]
	}
	if _, ok := act(d, func(ctx context.Context, tx *command.Tx) (transfers.Done, error) {
		return transfers.Post(ctx,
			tx, t)
	}); ok {
		d.m.move(t.ItemID, t.FromID, t.ToID, decimal.RequireFromString(t.Quantity).IntPart())
	}
}

// plan takes an order and releases a round for what there is.
func (d *run) plan() {
	in := orders.NewOrder{CustomerID: world.Customer, SiteID: world.Site, Terms: orders.Terms{WantedOn: soon},
		Release: true, Lines: []orders.NewLine{
			{ItemID: world.Clamp, Quantity: fmt.Sprint(1 + d.r.IntN(20))}, {ItemID: world.Heavy,
				Quantity: fmt.Sprint(1 + d.r.IntN(20))},
			{ItemID: world.Spot, Quantity: fmt.Sprint(1 + d.r.IntN(8))}, {ItemID: world.Headset,
				Quantity: fmt.Sprint(1 + d.r.IntN(8))}}}
	round, ok := act(d, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		o, err := orders.Create(ctx, tx, in)
		if err != nil {
			return pick.Round{}, err
		}
		p, err := pick.Propose(ctx, tx, pick.Wish{SiteID: world.Site, OrderIDs: []int64{o.ID}}, tx.Now)
		if err != nil {
			return pick.Round{}, err
		}
		draft := pick.Draft{SiteID: world.Site}
		for _, s := range p.Stops {
			draft.Stops = append(draft.Stops, pick.Stop{LineID: s.LineID, LocationID: s.LocationID,
				CartonID: s.CartonID, Quantity: s.Quantity.String()})
		}
		r, err := pick.Release(ctx, tx, draft)
		if err != nil {
			return r, err
		}
		if _, err := pick.Start(ctx, tx, r.ID); err != nil {
			return r, err
		}
		label, err := cartons.MakeLabels(ctx, tx, world.Site, 1, "9521234")
		if err != nil {
			return r, err
		}
		return pick.OpenCarton(ctx, tx, r.ID, label[0].SSCC, 0)
	})
	if ok {
		d.open = append(d.open, round)
	}
}

// step makes one step of a round under way: a pick, a short, or the way out.
func (d *run) step() {
	if len(d.open) == 0 {
		return
	}
	i := d.r.IntN(len(d.open))
	r := d.open[i]
	var stop *pick.RoundStop
	for j := range r.Stops {
		if r.Stops[j].State == states.StopOpen {
			stop = &r.Stops[j]
			break
		}
	}
	if stop == nil || d.r.IntN(12) == 0 {
		d.open = append(d.open[:i], d.open[i+1:]...)
		d.wayOut(r)
		return
	}
	left := stop.Quantity.Sub(stop.Picked).Sub(stop.Short)
	if d.r.IntN(6) == 0 {
		if next, ok := act(d, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
			return pick.Short(ctx, tx, r.ID, stop.ID, fmt.Sprint(d.r.Int64N(left.IntPart())))
		}); ok {
			d.open[i] = next
		}
		return
	}
	n := 1 + d.r.Int64N(left.IntPart())
	now, ok := act(d, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		return pick.Start(ctx, tx,
			r.ID)
	})
	if !ok {
		d.t.Fatalf("%s cannot be started again", r.Number)
	}
	next, ok := act(d, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		scans := pick.Scans{StopID: stop.ID, Bin: stop.Bin, Item: stop.SKU, Carton: r.Cartons[0].SSCC,
			Quantity: fmt.Sprint(n)}
		for _, s := range now.Stops {
			// Any units of those that lie there, whomever they were counted for.
			if s.ID == stop.ID && stop.ItemID == world.Spot {
				d.r.Shuffle(len(s.Serials), func(i, j int) { s.Serials[i], s.Serials[j] = s.Serials[j], s.Serials[i] })
				scans.Serials = s.Serials[:n]
			}
		}
		if stop.ItemID == world.Headset {
			for range n {
				scans.Serials = append(scans.Serials, d.serial())
			}
		}
		return pick.Pick(ctx, tx, r.ID, scans)
	})
	if !ok {
		d.t.Fatalf("a reserved take of %d from %s was refused", n, stop.Bin)
	}
	d.m.move(stop.ItemID, stop.LocationID, world.Trolley, n)
	d.open[i] = next
}

// wayOut sets a round down, closes its carton and sends it.
func (d *run) wayOut(r pick.Round) {
	taken := map[int32]int64{}
	for _, s := range r.Stops {
		taken[s.ItemID] += s.Picked.IntPart()
	}
	all := func(from, to int32) {
		for item, n := range taken {
			if n > 0 {
				d.m.move(item, from, to, n)
			}
		}
	}
	act(d, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		return pick.Stage(ctx, tx, r.ID, true)
	})
	all(world.Trolley, world.Bench)
	if taken[world.Clamp]+taken[world.Heavy]+taken[world.Spot]+taken[world.Headset] == 0 {
		return
	}
	act(d, func(ctx context.Context, tx *command.Tx) (cartons.Carton, error) {
		return pack.Close(ctx, tx, r.Cartons[0].ID, pack.Closing{})
	})
	all(world.Bench, world.Gate)
	act(d, func(ctx context.Context, tx *command.Tx) (shipping.Shipment, error) {
		return dispatch.Ship(ctx, tx, r.Orders[0].ID, shipping.Terms{})
	})
	all(world.Gate, world.CustomerLocation)
}

// agree compares every pile with the database, and what orders say with each other.
func (d *run) agree(step int) {
	d.t.Helper()
	var rows []struct {
		Location int32           `db:"location_id"`
		Item     int32           `db:"item_id"`
		Quantity decimal.Decimal `db:"quantity"`
	}
	if err := d.App.Select(&rows, `
		SELECT location_id, item_id, sum(quantity) AS quantity FROM balances GROUP BY 1, 2`); err != nil {
		d.t.Fatal(err)
	}
	have := model{}
	for _, r := range rows {
		have[pile{r.Location, r.Item}] = r.Quantity.IntPart()
	}
	if !maps.Equal(have, d.m) {
		d.t.Fatalf("step %d: the database has\n%v\nand the model\n%v", step, have, d.m)
	}
	var odd int
	err := d.App.Get(&odd, `
		SELECT (SELECT count(*) FROM outbound_lines l
		       WHERE planned <> coalesce((SELECT sum(quantity) FROM reservations WHERE line_id = l.id), 0))
		     + (SELECT count(*) FROM outbound_lines l
		     WHERE picked + shipped <> coalesce((SELECT sum(quantity) FROM carton_contents WHERE line_id = l.id), 0))
		     + (SELECT count(*) FROM carton_work w WHERE state IN ('at_bench', 'packed')
		     AND NOT EXISTS (SELECT FROM balances WHERE carton_id = w.carton_id))`)
	if err != nil || odd != 0 {
		d.t.Fatalf("step %d: %d order lines or cartons disagree with the ledger (%v)", step, odd, err)
	}
}

// TestALongRandomDayAgreesWithANaiveModel runs all actions in random order and
// compares the whole stock after every one.
func TestALongRandomDayAgreesWithANaiveModel(t *testing.T) {
	t.Parallel()
	d := &run{House: world.New(t), t: t, r: rand.New(rand.NewPCG(1066, 9)), m: model{}}
	d.Runner.Now = func() time.Time { return time.Now() }
	var bins []int32
	for _, code := range []string{"A-01-1-A", "A-02-1-A", "A-03-1-A", "A-04-1-A", "B-01-1-A", "B-02-1-A", "B-03-1-A",
		"B-04-1-A"} {
		bins = append(bins, d.Bin(t, code))
	}
	var shipped, shorted int
	enough := func() bool {
		err := d.App.QueryRow(`
			SELECT (SELECT count(*) FROM shipments), (SELECT count(*) FROM count_requests)`).Scan(&shipped, &shorted)
		return err == nil && shipped >= 10 && shorted >= 5 && d.refused >= 30 && d.pallets >= 5
	}
	for step := 0; step < 500 || !enough(); step++ {
		if step == 5000 {
			t.Fatalf("after %d steps only %d shipped, %d short, %d refused, %d pallets", step, shipped, shorted,
				d.refused, d.pallets)
		}
		switch n := d.r.IntN(20); {
		case n < 3:
			d.arrive()
		case n < 6:
			d.putAway()
			d.pallet()
		case n < 9:
			d.transfer(bins)
		case n < 11:
			d.plan()
		default:
			d.step()
		}
		d.agree(step)
		followsOne(t, d.House, step)
	}
	d.Whole(t)
}
