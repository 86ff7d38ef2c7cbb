package application_test

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/invoicing"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/schedules"
	"lanternrow/internal/recall"
	"lanternrow/internal/reservation"
	"lanternrow/internal/shipping"
	"lanternrow/internal/station/audit"
	"lanternrow/internal/station/dispatch"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/station/pack"
	"lanternrow/internal/station/pick"
	"lanternrow/internal/station/putaway"
	"lanternrow/internal/station/stock"
	"lanternrow/internal/test/world"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// shop is a long random day of orders: taken, reserved, changed, picked in waves, returned to stock,
// packed, loaded, shipped and invoiced, in any order.
type shop struct {
	run
	// did counts what was done, by name.
	did map[string]int
	// told is all that was tried, in order, and whether it was done.
	told []string
}

// one picks an id that a query finds at random; 0 when there is none. The order in which
// the database happens to find them decides nothing.
func (d *shop) one(query string, args ...any) int64 {
	d.t.Helper()
	var ids []int64
	if err := d.App.Select(&ids, query, args...); err != nil {
		d.t.Fatal(err)
	}
	slices.Sort(ids)
	if len(ids) == 0 {
		return 0
	}
	return ids[d.r.IntN(len(ids))]
}

// do runs an action and counts it when it was not refused.
func do[T any](d *shop, name string, fn func(context.Context, *command.Tx) (T, error)) (T, bool) {
	d.t.Helper()
	out, ok := act(&d.run, fn)
	if ok {
		d.did[name]++
	}
	d.told = append(d.told, fmt.Sprint(name, " ", ok))
	return out, ok
}

// goods are the items of the shop: counted ones, and units by serial from arrival and on
// the way out.
var goods = []int32{world.Clamp, world.Heavy, world.Spot, world.Headset}

func (d *shop) sell() {
	in := orders.NewOrder{CustomerID: world.Customer, SiteID: world.Site, Terms: orders.Terms{WantedOn: soon},
		Release: d.r.IntN(4) > 0}
	if !in.Release && d.r.IntN(2) == 0 {
		in.QuoteUntil = soon
	}
	for _, item := range goods {
		if d.r.IntN(2) == 0 {
			in.Lines = append(in.Lines, orders.NewLine{ItemID: item, Quantity: fmt.Sprint(1 + d.r.IntN(5))})
		}
	}
	if d.r.IntN(3) == 0 {
		in.Lines = append(in.Lines, orders.NewLine{Text: "Freight", Quantity: "1", Price: "9.5"})
	}
	do(d, "sell", func(ctx context.Context, tx *command.Tx) (orders.Order, error) { return orders.Create(ctx, tx, in) })
}

// change wants another quantity of each line, leaves some out, or cancels the rest.
func (d *shop) change() {
	id := d.one(`SELECT id FROM outbound_orders WHERE state IN ('quote', 'on_hold', 'released')`)
	if id == 0 {
		return
	}
	do(d, "change", func(ctx context.Context, tx *command.Tx) (orders.Order, error) {
		o, err := orders.Read(ctx, tx, id)
		if err != nil {
			return o, err
		}
		if d.r.IntN(5) == 0 {
			return orders.CancelOpen(ctx, tx, id, o.Version)
		}
		in := orders.Amended{Version: o.Version, Terms: orders.Terms{WantedOn: o.WantedOn}}
		for _, l := range o.Lines {
			switch d.r.IntN(5) {
			case 0:
				in.Remove = append(in.Remove, l.ID)
			case 1:
				// It stays as it is.
			default:
				in.Lines = append(in.Lines, orders.NewLine{ID: l.ID, ItemID: l.ItemID, Text: l.Description,
					Quantity: fmt.Sprint(max(1, l.Shipped.IntPart()) + d.r.Int64N(6))})
			}
		}
		return orders.Amend(ctx, tx, id, in)
	})
	if id := d.one(`SELECT id FROM outbound_orders WHERE state = 'on_hold'`); id != 0 && d.r.IntN(2) == 0 {
		do(d, "released", func(ctx context.Context, tx *command.Tx) (orders.Order, error) {
			return orders.Release(ctx, tx, id, 0, orders.Lifting{})
		})
	}
}

// reservation reserves stock for a line by hand, or unreserves stock.
func (d *shop) reservation() {
	if reservation := d.one(`
		SELECT id FROM reservations p WHERE NOT EXISTS (SELECT FROM round_stops WHERE reservation_id = p.id)
		    OR id % 25 = 0`); reservation != 0 && d.r.IntN(3) > 0 {
		if d.r.IntN(2) == 0 {
			do(d, "change reservation", func(ctx context.Context, tx *command.Tx) (orders.Order, error) {
				return orders.ChangeReservation(ctx, tx, reservation, fmt.Sprint(1+d.r.IntN(4)))
			})
			return
		}
		do(d, "unreserve", func(ctx context.Context, tx *command.Tx) (orders.Order, error) {
			return orders.Unreserve(ctx, tx, reservation)
		})
		return
	}
	line := d.one(`
		SELECT l.id FROM outbound_lines l JOIN outbound_orders o ON o.id = l.order_id
		 WHERE l.due > 0 AND o.state IN ('on_hold', 'released')`)
	if line == 0 {
		return
	}
	location := d.one(`
		SELECT location_id FROM balances b JOIN locations p ON p.id = b.location_id WHERE p.kind IN ('bin', 'dock')
		   AND b.item_id = (SELECT item_id FROM outbound_lines WHERE id = $1)`, line)
	do(d, "reservation", func(ctx context.Context, tx *command.Tx) (orders.Order, error) {
		p := orders.NewReservation{LocationID: int32(location), Quantity: fmt.Sprint(1 + d.r.IntN(3))}
		if unit := d.one(`
			SELECT b.serial_id FROM balances b WHERE b.location_id = $1 AND b.serial_id IS NOT NULL
			   AND b.item_id = (SELECT item_id FROM outbound_lines WHERE id = $2)`,
			location, line); unit != 0 && d.r.IntN(2) == 0 {
			p.Quantity = "1"
			if err := tx.GetContext(ctx, &p.Serial, `SELECT code FROM serials WHERE id = $1`, unit); err != nil {
				return orders.Order{}, err
			}
		}
		return orders.ReserveLine(ctx, tx, line, []orders.NewReservation{p})
	})
}

// wave releases rounds for some of the orders.
func (d *shop) wave() {
	var ids []int64
	if err := d.App.Select(&ids, `SELECT id FROM outbound_orders WHERE state = 'released' ORDER BY id`); err != nil {
		d.t.Fatal(err)
	}
	d.r.Shuffle(len(ids), func(i, j int) { ids[i], ids[j] = ids[j], ids[i] })
	ids = ids[:min(len(ids), 1+d.r.IntN(4))]
	rounds, ok := do(d, "wave", func(ctx context.Context, tx *command.Tx) ([]pick.Round, error) {
		w, err := pick.PlanWave(ctx, tx, pick.WaveWish{Wish: pick.Wish{SiteID: world.Site, OrderIDs: ids},
			MaxCartons: 1 + d.r.IntN(3), Split: []string{"", pick.ByZone, pick.ByOrder}[d.r.IntN(3)]}, tx.Now)
		if err != nil {
			return nil, err
		}
		draft := pick.WaveDraft{SiteID: world.Site}
		for _, r := range w.Rounds {
			var stops pick.Stops
			for _, s := range r.Stops {
				stops.Stops = append(stops.Stops, pick.Stop{LineID: s.LineID, LocationID: s.LocationID,
					LotID: s.LotID, CartonID: s.CartonID, SerialIDs: s.SerialIDs, Quantity: s.Quantity.String()})
			}
			draft.Rounds = append(draft.Rounds, stops)
		}
		return pick.ReleaseWave(ctx, tx, draft)
	})
	if ok {
		d.open = append(d.open, rounds...)
	}
}

// walk makes a step of a round, reassigns it, or sets it down with what is left.
func (d *shop) walk() {
	id := d.one(`SELECT id FROM rounds WHERE state <> 'done'`)
	if id == 0 {
		return
	}
	r, ok := do(d, "start", func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		return pick.Start(ctx, tx,
			id)
	})
	if !ok {
		return
	}
	var stop *pick.RoundStop
	for i := range r.Stops {
		if r.Stops[i].State == states.StopOpen {
			stop = &r.Stops[i]
		}
	}
	if stop == nil || d.r.IntN(10) == 0 {
		if d.r.IntN(2) == 0 {
			var out []int64
			if err := d.App.Select(&out, `
				SELECT DISTINCT w.order_id FROM carton_work w JOIN carton_contents c ON c.carton_id = w.carton_id
				 WHERE w.round_id = $1 AND w.state = 'open' ORDER BY 1`, id); err != nil {
				d.t.Fatal(err)
			}
			if _, ok := do(d, "ship from the round", func(ctx context.Context, tx *command.Tx) ([]shipping.Shipment,
				error) {
				return pick.Ship(ctx, tx, id, pick.Departure{OrderIDs: out, LeaveRest: true})
			}); ok {
				return
			}
		}
		do(d, "bring to the bench", func(ctx context.Context, tx *command.Tx) (pick.Round,
			error) {
			return pick.Stage(ctx, tx, id, true)
		})
		return
	}
	left := stop.Quantity.Sub(stop.Picked).Sub(stop.Short)
	switch d.r.IntN(9) {
	case 0:
		do(d, "short", func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
			return pick.Short(ctx, tx, id, stop.ID, fmt.Sprint(d.r.Int64N(left.IntPart())))
		})
		return
	case 1:
		do(d, "reassign", func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
			return pick.Reassign(ctx,
				tx, id, 0)
		})
		return
	case 2:
		if d.r.IntN(3) == 0 {
			do(d, "take off", func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
				return pick.TakeOff(ctx, tx, id, []int64{stop.ID})
			})
			return
		}
		if order := d.one(`SELECT id FROM outbound_orders WHERE state = 'released'`); d.r.IntN(2) == 0 && order != 0 {
			do(d, "add", func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
				p, err := pick.Propose(ctx, tx, pick.Wish{SiteID: world.Site, OrderIDs: []int64{order}}, tx.Now)
				if err != nil {
					return pick.Round{}, err
				}
				return pick.Add(ctx, tx, id, p.Draft(world.Site).Stops)
			})
			return
		}
		if d.r.IntN(4) == 0 {
			do(d, "dissolve", func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
				return pick.Dissolve(ctx, tx, id)
			})
			return
		}
	}
	n := 1 + d.r.Int64N(left.IntPart())
	do(d, "pick", func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		scans := pick.Scans{StopID: stop.ID, Bin: stop.Bin, Item: stop.SKU, Quantity: fmt.Sprint(n)}
		for _, c := range r.Cartons {
			if c.State == "open" && c.Order == stop.Order {
				scans.Carton = c.SSCC
			}
		}
		if scans.Carton == "" {
			made, err := cartons.MakeLabels(ctx, tx, world.Site, 1, world.Prefix)
			if err != nil {
				return r, err
			}
			scans.Carton = made[0].SSCC
			if _, err := pick.OpenCarton(ctx, tx, id, scans.Carton, stop.OrderID); err != nil {
				return r, err
			}
		}
		if stop.ItemID == world.Spot {
			scans.Serials = stop.Serials[:n]
		}
		for range n {
			if stop.ItemID == world.Headset {
				scans.Serials = append(scans.Serials, d.serial())
			}
		}
		return pick.Pick(ctx, tx, id, scans)
	})
}

// bench returns goods to stock, closes cartons and opens them again.
func (d *shop) bench() {
	if task := d.one(`
		SELECT id FROM restocks WHERE done_at IS NULL AND carton_id IN (SELECT carton_id FROM balances)`); task != 0 {
		do(d, "returned to stock", func(ctx context.Context, tx *command.Tx) (putaway.Restock, error) {
			return putaway.PostRestock(ctx, tx, task, []string{"A-01-1-A", "A-02-1-A", "B-01-1-A"}[d.r.IntN(3)])
		})
	}
	if c := d.one(`SELECT carton_id FROM carton_work WHERE state = 'at_bench'`); c != 0 {
		do(d, "close", func(ctx context.Context, tx *command.Tx) (cartons.Carton, error) {
			return pack.Close(ctx, tx, c, pack.Closing{})
		})
	}
	if c := d.one(`SELECT carton_id FROM carton_work WHERE state = 'packed'`); c != 0 && d.r.IntN(4) == 0 {
		do(d, "open again", func(ctx context.Context, tx *command.Tx) (cartons.Carton,
			error) {
			return pack.OpenAgain(ctx, tx, c)
		})
	}
}

// leave ships packed cartons, by order or on a vehicle, and invoices what was shipped.
func (d *shop) leave() {
	if o := d.one(`SELECT order_id FROM carton_work WHERE state = 'packed'`); o != 0 && d.r.IntN(2) == 0 {
		do(d, "ship", func(ctx context.Context, tx *command.Tx) (shipping.Shipment, error) {
			terms := shipping.Terms{Rest: []string{shipping.StaysOpen, shipping.Cancels}[d.r.IntN(2)],
				Invoice: []string{"", invoicing.InvoicedOnShipping}[d.r.IntN(2)]}
			look, err := shipping.Preview(ctx, tx, shipping.Request{Order: o, Terms: terms,
				Cartons: func(ctx context.Context, q sqlx.QueryerContext) ([]cartons.Carton, error) {
					return cartons.OfOrder(ctx, q, o, "packed")
				}})
			if err != nil {
				return shipping.Shipment{}, err
			}
			shipped, err := dispatch.Ship(ctx, tx, o, terms)
			if err == nil {
				d.asShown(ctx, tx, look, shipped)
			}
			return shipped, err
		})
	} else if c := d.one(`SELECT carton_id FROM carton_work WHERE state = 'packed'`); c != 0 {
		do(d, "load", func(ctx context.Context, tx *command.Tx) (dispatch.Load, error) {
			box, err := cartons.ByID(ctx, tx, c)
			if err != nil {
				return dispatch.Load{}, err
			}
			l, err := dispatch.OpenLoad(ctx, tx, world.Site, box.Carrier, "")
			if err != nil {
				return l, err
			}
			return dispatch.LoadScan(ctx, tx, l.ID, box.SSCC)
		})
	}
	if l := d.one(`SELECT load_id FROM carton_work WHERE state = 'loaded'`); l != 0 {
		if d.r.IntN(3) == 0 {
			do(d, "unload", func(ctx context.Context, tx *command.Tx) (dispatch.Load, error) {
				return dispatch.TakeOff(ctx, tx, l, nil)
			})
		} else {
			do(d, "leave", func(ctx context.Context, tx *command.Tx) (dispatch.Load, error) {
				return dispatch.Leave(ctx, tx, l, shipping.Terms{})
			})
		}
	}
	var open []int64
	if err := d.App.Select(&open, `
		SELECT DISTINCT shipment_id FROM shipment_lines x JOIN shipments d ON d.id = x.shipment_id
		 WHERE invoiced < quantity AND d.state <> 'taken_back' ORDER BY 1`); err != nil {
		d.t.Fatal(err)
	}
	if len(open) > 0 && d.r.IntN(8) == 0 {
		do(d, "take back", func(ctx context.Context, tx *command.Tx) (shipping.Shipment, error) {
			return shipping.TakeBack(ctx, tx, open[d.r.IntN(len(open))], "it was the wrong order")
		})
		return
	}
	if len(open) > d.r.IntN(3) {
		if _, err := d.Owner.Exec(`UPDATE parties SET together = $1 WHERE kind = 'customer'`, d.r.IntN(2) == 0); err != nil {
			d.t.Fatal(err)
		}
		do(d, "invoice", func(ctx context.Context, tx *command.Tx) ([]invoicing.Invoice, error) {
			return invoicing.Make(ctx, tx, open, false)
		})
	}
}

// count counts an item in a bin, one to be counted first: as it is, or off by one, with what a
// lead says of it.
func (d *shop) count() {
	d.t.Helper()
	var at struct{ Location, Item int32 }
	// Location and item in one number, the item its last digit.
	query := `SELECT DISTINCT location_id * 10 + item_id FROM count_requests WHERE state = 'requested' ORDER BY 1`
	if d.r.IntN(3) == 0 {
		query = `
			SELECT DISTINCT b.location_id * 10 + b.item_id FROM balances b JOIN locations p ON p.id = b.location_id
			 WHERE p.kind = 'bin' ORDER BY 1`
	}
	both := d.one(query)
	if both == 0 {
		return
	}
	at.Location, at.Item = int32(both/10), int32(both%10)
	var book struct {
		Since    int64
		Quantity int64
		Serials  []byte
	}
	err := d.App.Get(&book, `
		SELECT (SELECT max(id) FROM moves WHERE item_id = $2 AND (from_location = $1 OR to_location = $1)) AS since,
		coalesce(sum(b.quantity), 0)::bigint AS quantity,
		coalesce(json_agg(s.code) FILTER (WHERE s.code IS NOT NULL), '[]') AS serials
		FROM balances b LEFT JOIN serials s ON s.id = b.serial_id WHERE b.location_id = $1 AND b.item_id = $2
		 AND b.quantity > 0`, at.Location, at.Item)
	if err != nil {
		d.t.Fatal(err)
	}
	found := audit.Counted{Quantity: fmt.Sprint(max(0, book.Quantity+d.r.Int64N(3)-1))}
	if at.Item == world.Spot {
		found.Quantity = ""
		if err := json.Unmarshal(book.Serials, &found.Serials); err != nil {
			d.t.Fatal(err)
		}
		if n := len(found.Serials); n > 0 && d.r.IntN(2) == 0 {
			found.Serials = found.Serials[:n-1]
		}
		if lost := d.text(`
			SELECT s.code FROM serials s WHERE NOT EXISTS (SELECT FROM balances WHERE serial_id = s.id)
			   AND (SELECT p.kind FROM moves m JOIN locations p ON p.id = m.to_location WHERE m.serial_id = s.id
			       ORDER BY m.id DESC LIMIT 1) = 'lost'`); lost != "" && d.r.IntN(2) == 0 {
			found.Serials = append(found.Serials, lost)
		}
	}
	// Another person counts again what differs by much.
	role := []string{"lead", "picker", "receiver"}[d.r.IntN(3)]
	_, err = world.ActAs(d.House, role, func(ctx context.Context, tx *command.Tx) (audit.Done, error) {
		return audit.Confirm(ctx, tx, audit.Count{LocationID: at.Location, ItemID: at.Item, Since: book.Since,
			Kinds: []audit.Counted{found}})
	})
	if err != nil && refusal.From(err) == nil {
		d.t.Fatal(err)
	}
	d.told = append(d.told, fmt.Sprint("count ", err == nil))
	if err == nil {
		d.did["count"]++
	}
	if back := d.one(`SELECT id FROM counts WHERE state = 'settled' AND off > 0`); back != 0 && d.r.IntN(8) == 0 {
		do(d, "take a count back", func(ctx context.Context, tx *command.Tx) (audit.Done, error) {
			return audit.TakeBack(ctx, tx, back, "somebody else had it")
		})
	}
	var differs []int64
	if err := d.App.Select(&differs, `SELECT id FROM counts WHERE state = 'counted'`); err != nil {
		d.t.Fatal(err)
	}
	for _, id := range differs {
		do(d, "decide on a count", func(ctx context.Context, tx *command.Tx) (audit.Done, error) {
			if d.r.IntN(4) == 0 {
				return audit.Again(ctx, tx, id)
			}
			return audit.Settle(ctx, tx, id, audit.Decision{Reason: "as it lies there",
				Sure: refusal.Sure{refusal.CountReserved}}, pick.Replan)
		})
	}
}

// text picks a word that a query finds; none when there is none.
func (d *shop) text(query string) (out string) {
	d.t.Helper()
	if err := d.App.Get(&out, query+" ORDER BY 1 LIMIT 1"); err != nil && !errors.Is(err, sql.ErrNoRows) {
		d.t.Fatal(err)
	}
	return out
}

// itself does what schedules do: releases orders, plans rounds, invoices.
func (d *shop) itself() {
	d.t.Helper()
	task := []schedules.Task{orders.Schedule(), pick.Schedule(), invoicing.Schedule()}[d.r.IntN(3)]
	do(d, task.Name, func(ctx context.Context, tx *command.Tx) (schedules.Work, error) {
		s := schedules.Settings{Days: 400, Ready: d.r.IntN(2) == 0, MaxCartons: 2}
		look, err := task.Preview(ctx, tx, world.Site, s, tx.Now)
		if err != nil {
			return look, err
		}
		did, err := task.Do(ctx, tx, world.Site, s)
		if err == nil && (len(look.Documents) == 0) != (len(did.Documents) == 0) {
			d.t.Errorf("%s would do %v, and did %v", task.Name, look, did)
		}
		return did, err
	})
}

// asShown holds what was shown of a sending against what became of it: what goes came from
// bins, all of it, and the invoice is over what was said.
func (d *shop) asShown(ctx context.Context, tx *command.Tx, look *shipping.Plan, shipped shipping.Shipment) {
	d.t.Helper()
	goes, came := map[int32]decimal.Decimal{}, map[int32]decimal.Decimal{}
	for _, c := range shipped.Cartons {
		for _, x := range c.Contents {
			goes[x.ItemID] = goes[x.ItemID].Add(x.Quantity)
		}
	}
	for _, o := range look.Origins {
		came[o.ItemID] = came[o.ItemID].Add(o.Quantity)
		if there := d.bin(ctx, tx, o.Bin, o.ItemID); !there.Equal(o.Left) {
			d.t.Errorf("%s of item %d are said to be left in %s, and %s are", o.Left, o.ItemID, o.Bin, there)
		}
	}
	if fmt.Sprint(goes) != fmt.Sprint(came) {
		d.t.Errorf("%s shipped %v, and was shown to come from %v", shipped.Number, goes, look.Origins)
	}
	var invoices []decimal.Decimal
	if err := tx.SelectContext(ctx, &invoices, `
		SELECT total FROM invoices b
		 WHERE EXISTS (SELECT FROM invoice_lines WHERE invoice_id = b.id AND shipment_id = $1)`, shipped.ID); err != nil {
		d.t.Fatal(err)
	}
	said := strings.Join(look.Notes, " ")
	if strings.Contains(said, "The invoice goes with it") != (len(invoices) == 1) || len(invoices) == 1 &&
		!strings.Contains(said, "over "+invoices[0].StringFixed(2)) {
		d.t.Errorf("%s was invoiced %v, and it was said: %s", shipped.Number, invoices, said)
	}
}

// bin is how much of an item lies in a bin.
func (d *shop) bin(ctx context.Context, tx *command.Tx, code string, item int32) (there decimal.Decimal) {
	d.t.Helper()
	err := tx.GetContext(ctx, &there, `
		SELECT coalesce(sum(b.quantity), 0) FROM balances b JOIN locations p ON p.id = b.location_id WHERE p.code = $1
		   AND b.item_id = $2`, code, item)
	if err != nil {
		d.t.Fatal(err)
	}
	return there
}

// stands holds what orders say against reservations, rounds, cartons, shipments and stock; each
// part of it is calculated another way than the application does.
func (d *shop) stands(step int) {
	d.t.Helper()
	d.follows(step)
	followsOne(d.t, d.House, step)
	for what, query := range map[string]string{
		"a line's stops and its planned quantity differ": `
			SELECT count(*) FROM outbound_lines l
			 WHERE planned <> coalesce((SELECT sum(quantity - picked - short) FROM round_stops WHERE line_id = l.id
			       AND state = 'open'), 0)
			- coalesce((SELECT sum(s.quantity - s.picked - s.short) FROM round_stops s
			JOIN rounds r ON r.id = s.round_id WHERE s.line_id = l.id AND s.state = 'open' AND r.state = 'done'), 0)`,
		"a stop and its reservation differ": `
			SELECT count(*) FROM round_stops s JOIN rounds r ON r.id = s.round_id
			 WHERE r.state <> 'done' AND s.state = 'open' AND s.quantity - s.picked - s.short <> coalesce((
			       SELECT sum(p.quantity) FROM stop_reservations x JOIN reservations p ON p.id = x.reservation_id
			        WHERE x.stop_id = s.id), 0)`,
		"more is reserved for a line than it wants": `
			SELECT count(*) FROM outbound_lines l
			 WHERE due < coalesce((SELECT sum(quantity) FROM reservations WHERE line_id = l.id), 0)`,
		"an order that is over has reservations": `
			SELECT count(*) FROM reservations p JOIN outbound_lines l ON l.id = p.line_id
			  JOIN outbound_orders o ON o.id = l.order_id WHERE o.state NOT IN ('on_hold', 'released')`,
		"cartons and lines differ": `
			SELECT count(*) FROM outbound_lines l WHERE item_id IS NOT NULL
			   AND picked + shipped <> coalesce((SELECT sum(quantity) FROM carton_contents WHERE line_id = l.id), 0)`,
		"a carton holds something else than it says": `
			SELECT count(*)
			  FROM (SELECT w.carton_id, i.id,
			       (SELECT coalesce(sum(quantity), 0) FROM balances WHERE carton_id = w.carton_id
			       AND item_id = i.id) AS there,
			(SELECT coalesce(sum(quantity), 0) FROM carton_contents WHERE carton_id = w.carton_id
			AND item_id = i.id) + (SELECT coalesce(sum(quantity), 0) FROM restocks WHERE carton_id = w.carton_id
			AND item_id = i.id AND done_at IS NULL) AS said
			FROM carton_work w, items i WHERE w.state <> 'shipped') AS t WHERE there <> said`,
		"a carton stands in two locations": `
			SELECT count(*)
			  FROM (SELECT carton_id FROM balances WHERE carton_id IS NOT NULL GROUP BY 1
			       HAVING count(DISTINCT location_id) > 1) AS t`,
		"a carton is not where its state says": `
			SELECT count(*) FROM carton_work w JOIN balances b ON b.carton_id = w.carton_id
			  JOIN locations p ON p.id = b.location_id WHERE p.kind <> CASE w.state WHEN 'open' THEN 'trolley'
			       WHEN 'at_bench' THEN 'bench' WHEN 'packed' THEN 'staging' WHEN 'loaded' THEN 'vehicle'
			       ELSE 'nowhere' END`,
		"shipments and lines differ": `
			SELECT count(*) FROM outbound_lines l
			 WHERE shipped <> coalesce((SELECT sum(x.quantity) FROM shipment_lines x JOIN shipments d
			       ON d.id = x.shipment_id WHERE x.line_id = l.id AND d.state <> 'taken_back'), 0)`,
		"invoices and shipments differ": `
			SELECT count(*) FROM shipment_lines d
			 WHERE invoiced <> coalesce((SELECT sum(x.quantity) FROM invoice_lines x
			       WHERE x.shipment_id = d.shipment_id AND x.line_id = d.line_id), 0)`,
		"an order that is shipped waits for goods": `
			SELECT count(*) FROM outbound_orders o
			 WHERE state IN ('shipped', 'cancelled') <> NOT EXISTS (SELECT FROM outbound_lines WHERE order_id = o.id
			       AND item_id IS NOT NULL AND shipped + cancelled < quantity)`,
		"an order that is cancelled shipped goods": `
			SELECT count(*) FROM outbound_orders o WHERE state = 'cancelled'
			   AND EXISTS (SELECT FROM shipments WHERE order_id = o.id)`,
		"goods came from nowhere or are lost": `
			SELECT count(*) FROM items i WHERE id IN (1, 4, 5, 6)
			   AND 60 + coalesce((SELECT sum(variance) FROM counts WHERE item_id = i.id AND state = 'settled'),
			       0) <> coalesce((SELECT sum(quantity) FROM balances WHERE item_id = i.id),
			       0) + coalesce((SELECT sum(shipped) FROM outbound_lines WHERE item_id = i.id), 0)`,
		"what is reserved and what reservations say differ": `
			SELECT count(*) FROM items i
			 WHERE coalesce((SELECT sum(reserved) FROM balances WHERE item_id = i.id),
			       0) <> coalesce((SELECT sum(quantity) FROM reservations WHERE item_id = i.id), 0)`,
	} {
		var n int
		if err := d.App.Get(&n, query); err != nil || n != 0 {
			d.t.Fatalf("step %d, after %v: %s, %d times (%v)", step, d.did, what, n, err)
		}
	}
	for _, item := range goods {
		var naive decimal.Decimal
		err := d.App.Get(&naive, `
			SELECT coalesce((SELECT sum(quantity) FROM balances WHERE item_id = $1 AND condition = 'good'
			       AND carton_id IS NULL), 0)
			     - coalesce((SELECT sum(l.quantity - l.cancelled - l.picked - l.shipped) FROM outbound_lines l
			     JOIN outbound_orders o ON o.id = l.order_id WHERE l.item_id = $1
			      AND o.state IN ('on_hold', 'released')), 0)`, item)
		if err != nil {
			d.t.Fatal(err)
		}
		f, err := ledger.FiguresOf(context.Background(), d.App, item, world.Site)
		if err != nil || !f.Free.Equal(naive) || f.Promised.IsNegative() {
			d.t.Fatalf("step %d: %s of item %d are free, %s promised; counted anew %s are free (%v)", step, f.Free,
				item, f.Promised, naive, err)
		}
		d.compareParts(step, item, f)
	}
}

// follows recalls one unit after another, and holds that each is accounted for wherever the day has left it.
func (d *shop) follows(step int) {
	d.t.Helper()
	var units []int64
	if err := d.App.Select(&units, `SELECT id FROM serials WHERE item_id = $1 ORDER BY id`, world.Spot); err != nil {
		d.t.Fatal(err)
	}
	unit := units[step%len(units)]
	trace, err := recall.Follow(context.Background(), d.App, recall.OfSerial, unit)
	if err != nil || !trace.Whole || len(trace.Goods) != 1 {
		d.t.Fatalf("step %d, after %v: unit %d is not accounted for: %+v (%v)", step, d.did, unit, trace.Goods, err)
	}
}

// compareParts holds the figures of an item against each other and against what each says
// that it is made of.
func (d *shop) compareParts(step int, item int32, f ledger.Figures) {
	if sum := decimal.Sum(f.Free, f.InCartons, f.OnHold, f.Reserved, f.Promised); !sum.Equal(f.OnHand) {
		d.t.Fatalf("step %d: %s of item %d are on hand, and its parts %+v sum to %s", step, f.OnHand, item, f, sum)
	}
	parts, err := stock.PartsOf(context.Background(), d.App, item, world.Site)
	if err != nil {
		d.t.Fatal(err)
	}
	sums := map[string]decimal.Decimal{}
	for _, p := range parts {
		sums[p.Figure] = sums[p.Figure].Add(p.Quantity)
	}
	for figure, want := range map[string]decimal.Decimal{"on_hand": f.OnHand, "in_cartons": f.InCartons, "on_hold": f.OnHold,
		"reserved": f.Reserved, "promised": f.Promised, "on_order": f.OnOrder} {
		if !sums[figure].Equal(want) {
			d.t.Fatalf("step %d, after %v: %s of item %d is %s, and made of %s: %+v", step, d.did, figure, item, want,
				sums[figure], parts)
		}
	}
}

// musts are the things that a day has not been lived without: it goes on until each was done.
var musts = []string{
	"sell", "change", "released", "reservation", "unreserve", "wave", "pick", "short", "reassign", "take off", "dissolve", "bring to the bench", "returned to stock", "close", "open again", "ship",
	"load", "unload", "leave", "invoice", "take back", "ship from the round", "count", "change reservation", "release-orders", "plan-rounds", "invoice-shipments",
}

// short names what was not done yet.
func (d *shop) short() (out []string) {
	for _, name := range musts {
		if d.did[name] == 0 {
			out = append(out, name)
		}
	}
	return out
}

// openShop fills the bins of a house for a day by this seed.
func openShop(t *testing.T, seed uint64) *shop {
	d := &shop{run: run{House: world.New(t), t: t, r: rand.New(rand.NewPCG(seed, 21))}, did: map[string]int{}}
	if _, err := d.Owner.Exec(`UPDATE locations SET max_units = NULL, mix_items = true, mix_lots = true`); err != nil {
		t.Fatal(err)
	}
	for i, bin := range []string{"A-01-1-A", "A-03-1-A", "B-02-1-A"} {
		for _, item := range []int32{world.Clamp, world.Heavy, world.Headset} {
			d.Stock(t, item, d.Bin(t, bin), 20)
		}
		var codes []string
		for n := range 20 {
			codes = append(codes, fmt.Sprintf("SP-%d-%02d", i, n))
		}
		d.StockUnits(t, world.Spot, d.Bin(t, bin), codes...)
	}
	return d
}

// step does one thing of the day.
func (d *shop) step() {
	switch n := d.r.IntN(23); {
	case n < 3:
		d.sell()
	case n < 5:
		d.change()
	case n < 9:
		d.reservation()
	case n < 10:
		d.wave()
	case n < 15:
		d.walk()
	case n < 18:
		d.bench()
	case n < 20:
		d.count()
	case n < 21:
		d.itself()
	default:
		d.leave()
	}
}

// TestALongDayOfOrdersHangsTogether does all that can be done with orders in random order,
// and after every step holds all papers against each other and against stock. The day goes
// on until everything was done once.
func TestALongDayOfOrdersHangsTogether(t *testing.T) {
	t.Parallel()
	d := openShop(t, 1805)
	for step := 0; step < 600 || len(d.short()) > 0; step++ {
		if step == 5000 {
			t.Fatalf("after %d steps nobody did %q (%v)", step, d.short(), d.did)
		}
		d.step()
		d.stands(step)
	}
	var all int
	if err := d.App.Get(&all, `SELECT count(*) FROM reservations`); err != nil {
		t.Fatal(err)
	}
	if page, err := reservation.Reservations.Page(context.Background(), d.App, "wanted", documents.Asked{Limit: all + 1},
		world.Site, ""); err != nil || len(page.Rows) != all {
		t.Errorf("%d of %d reservations are listed: %v", len(page.Rows), all, err)
	}
	d.Whole(t)
}

// TestASeedDecidesTheWholeDay lives one day twice at the same time, beside each other: no
// order of a map or a table, no clock and no race may tell them apart.
func TestASeedDecidesTheWholeDay(t *testing.T) {
	t.Parallel()
	days := [2]*shop{openShop(t, 1066), openShop(t, 1066)}
	var wg sync.WaitGroup
	for i, d := range days {
		wg.Go(func() {
			for step := range 250 {
				d.step()
				if i == 1 && step%50 == 0 {
					// The tables of one are laid out anew meanwhile.
					if _, err := d.Owner.Exec(`CLUSTER balances USING balances_item; CLUSTER reservations
						    USING reservations_line; CLUSTER round_stops USING round_stops_line`); err != nil {
						t.Error(err)
					}
				}
			}
		})
	}
	wg.Wait()
	for i := range min(len(days[0].told), len(days[1].told)) {
		if a, b := days[0].told[i], days[1].told[i]; a != b {
			t.Fatalf("the %d-th thing was %q in one and %q in the other", i, a, b)
		}
	}
}
