package bench

import (
	"context"
	"fmt"
	"sync/atomic"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/states"
	"lanternrow/internal/outbound"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/purchasing"
	"lanternrow/internal/shipping"
	"lanternrow/internal/station/dispatch"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/station/pack"
	"lanternrow/internal/station/pick"
	"lanternrow/internal/station/receive"

	"github.com/jackc/pgx/v5"
	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// counter counts the statements that are sent to the database: each is a round trip.
type counter struct{ n atomic.Int64 }

// TraceQueryStart counts a statement.
func (c *counter) TraceQueryStart(ctx context.Context, _ *pgx.Conn, _ pgx.TraceQueryStartData) context.Context {
	c.n.Add(1)
	return ctx
}

// TraceQueryEnd has nothing to do.
func (*counter) TraceQueryEnd(context.Context, *pgx.Conn, pgx.TraceQueryEndData) {}

// TraceBatchStart counts statements that are sent together: they are one round trip.
func (c *counter) TraceBatchStart(ctx context.Context, _ *pgx.Conn, _ pgx.TraceBatchStartData) context.Context {
	c.n.Add(1)
	return ctx
}

// TraceBatchQuery has nothing to do.
func (*counter) TraceBatchQuery(context.Context, *pgx.Conn, pgx.TraceBatchQueryData) {}

// TraceBatchEnd has nothing to do.
func (*counter) TraceBatchEnd(context.Context, *pgx.Conn, pgx.TraceBatchEndData) {}

// traced is a house whose commands are counted.
type traced struct {
	ctx    context.Context
	runner *command.Runner
	count  counter
	err    error
}

const tripsPrefix = "9521234"

// trips counts the round trips of commands that are run all day.
func trips(ctx context.Context, server *postgres.Server) ([]Figure, error) {
	h, err := trace(ctx, server)
	if err != nil {
		return nil, err
	}
	defer h.runner.DB.Close()
	figures := []Figure{h.sale(50), h.amendment(50), h.purchase(50), h.receipt(50), h.release(), h.onePick(),
		h.shipment(20)}
	return figures, h.err
}

// trace makes a database in which commands are counted. The caller closes its runner's.
func trace(ctx context.Context, server *postgres.Server) (*traced, error) {
	if err := anew(ctx, server, "bench_trips"); err != nil {
		return nil, err
	}
	owner, err := postgres.Open(ctx, server.URL("bench_trips"))
	if err != nil {
		return nil, err
	}
	defer owner.Close()
	if err := furnishTrips(ctx, owner); err != nil {
		return nil, err
	}
	h := &traced{ctx: people.With(ctx, people.Person{ID: 1, Name: "Bench", Login: "bench", Roles: people.Roles{people.Lead},
		SiteID: 1})}
	db, err := postgres.OpenTraced(ctx, server.ServeURL("bench_trips"), &h.count)
	h.runner = &command.Runner{DB: db, Now: time.Now}
	return h, err
}

func furnishTrips(ctx context.Context, db *sqlx.DB) error {
	for _, statement := range []string{
		`INSERT INTO sites (code, name, cross_aisles) VALUES ('R', 'Trip House', '{0,50}')`,
		`INSERT INTO aisles VALUES (1, 'A', 4), (1, 'B', 8)`,
		`INSERT INTO locations (kind, code) VALUES ('supplier', 'SUP'), ('customer', 'CUS')`,
		`
			INSERT INTO locations (site_id, kind, code, x, y) VALUES (1, 'dock', 'Dock', 4, 50),
			  (1, 'bench', 'Bench', 6, 0), (1, 'trolley', 'Trolleys', 6, 0), (1, 'staging', 'Gate', 8, 0)`,
		`INSERT INTO locations (site_id, kind, code, aisle, bay, level, x, y)
			SELECT 1, 'bin', 'A-' || to_char(n, 'FM00'), 'A', n, 1, 4, n * 0.8 FROM generate_series(1, 60) AS n`,
		`
			INSERT INTO items (sku, description, weight_kg, volume_l) SELECT 'I-' || n, 'Item ' || n, 1, 2
			  FROM generate_series(1, 60) AS n`,
		`
			INSERT INTO parties (kind, code, name, location_id) VALUES ('supplier', 'SUP', 'Supplier', 1),
			  ('customer', 'CUS', 'Customer', 2)`,
		`INSERT INTO people (name, login, roles, password_hash, site_id) VALUES ('Bench', 'bench', '{lead}', '', 1)`,
		`
			SELECT ledger_post('{"kind":"receive","person":1}',
			       (SELECT jsonb_agg(jsonb_build_object('item', n, 'quantity', 1000, 'from_location', 1,
			'to_location', (SELECT min(id) - 1 FROM locations WHERE kind = 'bin') + n))
			FROM generate_series(1, 60) AS n))`,
		`ANALYZE`,
	} {
		if _, err := db.ExecContext(ctx, statement); err != nil {
			return fmt.Errorf("%.50s: %w", statement, err)
		}
	}
	return nil
}

// run runs a command, unless one failed before.
func run[T any](h *traced, fn func(context.Context, *command.Tx) (T, error)) (out T) {
	if h.err == nil {
		out, h.err = command.Do(h.ctx, h.runner, "", "bench", nil, command.Part(fn))
	}
	return out
}

// tripsOf runs a command under a key, as the interface does, and says how many round trips
// it took.
func tripsOf[T any](h *traced, name string, fn func(context.Context, *command.Tx) (T, error)) Figure {
	before := h.count.n.Load()
	if h.err == nil {
		_, h.err = command.Do(h.ctx, h.runner, name, "bench", nil, command.Part(fn))
	}
	return Figure{Name: "round trips of " + name, Value: float64(h.count.n.Load() - before), Unit: "statements"}
}

// sale takes an order of so many lines; amendment changes each of another's.
func (h *traced) sale(lines int32) Figure {
	return tripsOf(h, fmt.Sprintf("an order of %d lines", lines), saleOf(lines))
}

func (h *traced) amendment(lines int32) Figure {
	o := run(h, saleOf(lines))
	return tripsOf(h, fmt.Sprintf("an order of %d lines that is changed", lines),
		func(ctx context.Context, tx *command.Tx) (orders.Order, error) {
			in := orders.Amended{Version: o.Version, Terms: orders.Terms{WantedOn: tx.Now.Format(time.DateOnly)}}
			for _, l := range o.Lines {
				in.Lines = append(in.Lines, orders.NewLine{ID: l.ID, ItemID: l.ItemID, Quantity: "4"})
			}
			return orders.Amend(ctx, tx, o.ID, in)
		})
}

func saleOf(lines int32) func(context.Context, *command.Tx) (orders.Order, error) {
	return func(ctx context.Context, tx *command.Tx) (orders.Order, error) {
		in := orders.NewOrder{CustomerID: 2, SiteID: 1, Terms: orders.Terms{WantedOn: tx.Now.Format(time.DateOnly)}}
		for item := range lines {
			in.Lines = append(in.Lines, orders.NewLine{ItemID: item + 1, Quantity: "5", Price: "3"})
		}
		return orders.Create(ctx, tx, in)
	}
}

// purchase writes a purchase order of so many lines and sends it.
func (h *traced) purchase(lines int32) Figure {
	return tripsOf(h, fmt.Sprintf("a purchase order of %d lines", lines), purchaseOf(lines))
}

func purchaseOf(lines int32) func(context.Context, *command.Tx) (purchasing.Order, error) {
	return func(ctx context.Context, tx *command.Tx) (purchasing.Order, error) {
		in := purchasing.NewOrder{SupplierID: 1, SiteID: 1, Send: true,
			OrderTerms: purchasing.OrderTerms{ExpectedOn: tx.Now.Format(time.DateOnly)}}
		for item := range lines {
			in.Lines = append(in.Lines, purchasing.NewLine{ItemID: item + 1, Quantity: "5"})
		}
		return purchasing.CreateOrder(ctx, tx, in)
	}
}

func (h *traced) receipt(lines int32) Figure {
	o := run(h, purchaseOf(lines))
	a := run(h, func(ctx context.Context, tx *command.Tx) (receive.Arrival, error) {
		return receive.OpenArrival(ctx, tx, receive.NewArrival{OrderIDs: []int64{o.ID}, DockID: 3})
	})
	return tripsOf(h, fmt.Sprintf("a receipt of %d lines", lines),
		func(ctx context.Context, tx *command.Tx) (receive.Arrival, error) {
			body := receive.NewReceipt{Version: a.Version}
			for _, l := range a.Lines {
				body.Lines = append(body.Lines, receive.ReceiptLine{LineID: l.ID, Quantity: "5"})
			}
			return receive.PostReceipt(ctx, tx, tripsPrefix, a.ID, body)
		})
}

// order writes an order of so many items, each so many units.
func (h *traced) order(from, items int, quantity int64) int64 {
	return run(h, func(ctx context.Context, tx *command.Tx) (int64, error) {
		id, err := outbound.Create(ctx, tx, outbound.New{Kind: outbound.Replacement, SiteID: 1, PartyID: 2,
			DestinationID: 2, State: states.Released, Change: "release it"})
		if err != nil {
			return 0, err
		}
		lines := make([]outbound.NewLine, items)
		for i := range lines {
			lines[i] = outbound.NewLine{Item: int32(1 + (from+i)%60), Quantity: decimal.NewFromInt(quantity)}
		}
		_, err = outbound.AddLines(ctx, tx, id, lines)
		return id, err
	})
}

func (h *traced) release() Figure {
	wish := pick.WaveWish{Wish: pick.Wish{SiteID: 1}, MaxCartons: 8}
	for n := range 100 {
		wish.OrderIDs = append(wish.OrderIDs, h.order(7*n, 3, 2))
	}
	wave := run(h, func(ctx context.Context, tx *command.Tx) (*pick.Wave, error) {
		return pick.PlanWave(ctx, tx, wish, tx.Now)
	})
	return tripsOf(h, "a release of 100 orders", func(ctx context.Context, tx *command.Tx) ([]pick.Round, error) {
		return pick.ReleaseWave(ctx, tx, wave.Draft(1))
	})
}

// round is an order's round, begun, with so many carton labels.
func (h *traced) round(order int64, labels int) (pick.Round, []cartons.Carton) {
	r := run(h, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		p, err := pick.Propose(ctx, tx, pick.Wish{SiteID: 1, OrderIDs: []int64{order}}, tx.Now)
		if err != nil {
			return pick.Round{}, err
		}
		r, err := pick.Release(ctx, tx, p.Draft(1))
		if err != nil {
			return r, err
		}
		return pick.Start(ctx, tx, r.ID)
	})
	return r, run(h, func(ctx context.Context, tx *command.Tx) ([]cartons.Carton, error) {
		return cartons.MakeLabels(ctx, tx, 1, labels, tripsPrefix)
	})
}

// take picks one unit of the round's stop into a carton that is opened for it.
func (h *traced) take(
	r pick.Round, stop int, order int64, carton cartons.Carton,
) func(context.Context, *command.Tx) (pick.Round, error) {
	run(h, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		return pick.OpenCarton(ctx, tx, r.ID, carton.SSCC, order)
	})
	return func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		s := r.Stops[stop]
		return pick.Pick(ctx, tx, r.ID, pick.Scans{StopID: s.ID, Bin: s.Bin, Item: s.SKU, Carton: carton.SSCC,
			Quantity: "1"})
	}
}

func (h *traced) onePick() Figure {
	order := h.order(0, 10, 2)
	r, labels := h.round(order, 1)
	if h.err != nil {
		return Figure{}
	}
	return tripsOf(h, "one pick", h.take(r, 0, order, labels[0]))
}

func (h *traced) shipment(count int) Figure {
	order := h.order(0, 1, int64(count))
	r, labels := h.round(order, count)
	for _, c := range labels {
		run(h, h.take(r, 0, order, c))
	}
	run(h, func(ctx context.Context, tx *command.Tx) (pick.Round, error) {
		return pick.Stage(ctx, tx, r.ID, true)
	})
	for _, c := range labels {
		run(h, func(ctx context.Context, tx *command.Tx) (cartons.Carton, error) {
			return pack.Close(ctx, tx, c.ID, pack.Closing{})
		})
	}
	return tripsOf(h, fmt.Sprintf("a shipment of %d cartons", count),
		func(ctx context.Context, tx *command.Tx) (shipping.Shipment, error) {
			return dispatch.Ship(ctx, tx, order, shipping.Terms{})
		})
}
