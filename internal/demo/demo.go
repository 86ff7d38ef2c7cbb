// Package demo loads Wick & Gantry, a made-up supplier to theatres, by the same
// actions that people use.
package demo

import (
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/labels"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/platform/schedules"
	"lanternrow/internal/purchasing"
	"lanternrow/internal/standin"
	"lanternrow/internal/standin/printer"
	"lanternrow/internal/station/receive"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// seed makes the same demo every time.
const seed = 1871

// Load fills an empty database with the demo that ends at now. One that holds
// anything is left as it is.
func Load(ctx context.Context, url, prefix string, now time.Time, say io.Writer) error {
	db, err := postgres.Open(ctx, url)
	if err != nil {
		return err
	}
	defer db.Close()
	var there bool
	if err := db.GetContext(ctx, &there, `SELECT EXISTS (SELECT FROM sites)`); err != nil || there {
		return err
	}
	fmt.Fprintln(say, "Loading the demo: six weeks at Wick & Gantry, made by the same actions that people use.")
	if err := setup(ctx, db, prefix); err != nil {
		return fmt.Errorf("setting up: %w", err)
	}
	s := &story{ctx: ctx, db: db, prefix: prefix, rand: rand.New(rand.NewPCG(seed, seed)),
		pace: rand.New(rand.NewPCG(seed, 1)), made: map[string]int{}, at: site, blank: map[int32][]cartons.Carton{}, end: now.UTC().Truncate(time.Minute), say: say}
	if err := s.tell(); err != nil {
		return err
	}
	for {
		n, err := ledger.Seal(ctx, db)
		if err != nil || n == 0 {
			return err
		}
	}
}

// site is Quay House.
const site = 1

// A story does what people do, at times gone by.
type story struct {
	ctx    context.Context
	db     *sqlx.DB
	prefix string
	rand   *rand.Rand
	// pace is what time passes between actions by: how many there are changes no story.
	pace  *rand.Rand
	clock time.Time
	end   time.Time
	say   io.Writer
	err   error
	// at is the site that the story is at.
	at    int32
	blank map[int32][]cartons.Carton
	// invoices makes invoices in the evening.
	invoices schedules.Schedule
	// owes are orders whose supplier's invoices are still to come, and invoiced is how many came.
	owes     []owed
	invoiced int
	// made counts the serials that units came with, by item.
	made map[string]int
}

// as runs one action as a person and lets a minute or two pass. After a failure
// nothing more is done.
func as[T any](s *story, login string, fn func(context.Context, *command.Tx) (T, error)) T {
	var zero T
	if s.err != nil {
		return zero
	}
	var p people.Person
	if s.err = s.db.GetContext(s.ctx, &p, `
		SELECT id, name, login, roles, site_id, sites FROM people WHERE login = $1`, login); s.err != nil {
		return zero
	}
	s.clock = s.clock.Add(time.Duration(20+s.pace.IntN(60)) * time.Second)
	if s.clock.After(s.end) {
		s.clock = s.end
	}
	runner := &command.Runner{DB: s.db, Now: func() time.Time { return s.clock }, Backdate: true}
	out, err := command.Do(people.With(s.ctx, p), runner, "", "demo", nil, command.Part(fn))
	if err == nil {
		// Who is told outside is told at once, by the clock of the story.
		err = standin.Outbox(runner, true).Work(s.ctx)
	}
	if err != nil {
		s.err = fmt.Errorf("%s, as %s: %w", s.clock.Format(time.DateTime), login, ledger.Explain(s.ctx, s.db, err))
	}
	return out
}

func (s *story) tell() error {
	today := s.end.Truncate(24 * time.Hour)
	s.weeks(today)
	for back := 7; back >= 1; back-- {
		s.day(today.AddDate(0, 0, -back), back)
		s.counts(4)
		if s.err != nil {
			return s.err
		}
		if back == 2 {
			s.drill()
		}
		fmt.Fprintf(s.say, "  %s told\n", today.AddDate(0, 0, -back).Format(time.DateOnly))
	}
	s.today()
	return s.err
}

// day is a whole working day: goods come in, are putAway, and yesterday's orders go.
func (s *story) day(day time.Time, back int) {
	s.clock = day.Add(8 * time.Hour)
	s.labels(24)
	for i := range suppliers {
		if back == 7 || (i+back)%3 == 0 {
			order := s.buy(int32(i+1), day, back == 7)
			s.arrive(order, 1, int32(i%2))
		}
	}
	s.printLabels()
	s.inspect()
	s.putAwayAll(1)
	if back == 7 {
		return
	}
	s.clock = day.Add(10 * time.Hour)
	if back == 6 {
		s.schedules()
	}
	var ids []int64
	for range 5 + s.rand.IntN(4) {
		ids = append(ids, s.sell(day.AddDate(0, 0, s.rand.IntN(2)), false).ID)
	}
	s.clock = day.Add(11 * time.Hour)
	s.due()
	s.clock = day.Add(11*time.Hour + 30*time.Minute)
	for i := 0; i < len(ids); i += 2 {
		s.fulfil(ids[i:min(i+2, len(ids))], []string{"picker", "picker2"}[i/2%2])
	}
	if back == 1 {
		s.pauseInvoices()
	}
	s.clock = day.Add(18 * time.Hour)
	s.due()
}

// today leaves work open at every station.
func (s *story) today() {
	s.clock = s.end.Add(-3 * time.Hour)
	s.labels(30)
	s.buy(1, s.end.AddDate(0, 0, -2), false)
	part := s.buy(3, s.end, false)
	s.arrive(part, 0.5, 0)
	s.arrive(s.buy(2, s.end, false), 1, 1)
	s.troubles()
	s.putAwayAll(0.4)
	var ids []int64
	for i := range 12 {
		wanted := s.end.AddDate(0, 0, i/4-1+i%2)
		ids = append(ids, s.sell(wanted, i < 10).ID)
	}
	s.fulfil(ids[0:2], "picker")
	first := s.plan(ids[2:4])
	s.walk(first, "picker2", len(first.Stops))
	s.stage(first.ID, "picker2")
	s.packCartons(1)
	second := s.plan(ids[4:6])
	s.walk(second, "picker", max(1, len(second.Stops)/2))
	s.short(second)
	s.plan(ids[6:8])
	// An arrival stands open, one order is late, one is a draft.
	s.openArrival("Dock 2", false, s.buy(4, s.end, false))
	s.buy(5, s.end.AddDate(0, 0, 3), false)
	s.inbound()
	s.outbound()
	s.transfers()
	s.returns()
	s.relays()
	s.refills()
	s.counting()
	s.dues()
}

// openArrival opens an arrival at a dock.
func (s *story) openArrival(dock string, waits bool, orders ...purchasing.Order) receive.Arrival {
	in := receive.NewArrival{DockID: s.location(dock), Waits: waits}
	for _, o := range orders {
		in.OrderIDs = append(in.OrderIDs, o.ID)
	}
	return as(s, "receiver", func(ctx context.Context, tx *command.Tx) (receive.Arrival, error) {
		return receive.OpenArrival(ctx, tx, in)
	})
}

// book books lines in on an arrival.
func (s *story) book(
	login string, a receive.Arrival, on *receive.CartonIn, lines ...receive.ReceiptLine,
) receive.Arrival {
	return as(s, login, func(ctx context.Context, tx *command.Tx) (receive.Arrival, error) {
		return receive.PostReceipt(ctx, tx, s.prefix, a.ID, receive.NewReceipt{Version: a.Version, Carton: on,
			Lines: lines})
	})
}

// troubles are what goes otherwise than the paper says: an arrival short within its
// allowance, too much accepted by the lead, a receipt taken back, an invoice that is
// matched in part, an order closed with something missing.
func (s *story) troubles() {
	order := s.buy(5, s.end.AddDate(0, 0, -1), true)
	if s.err != nil {
		return
	}
	off := order.Lines
	arrival := s.openArrival("Dock 2", false, order)
	book := func(login string, l purchasing.Line, quantity decimal.Decimal, reason string) {
		line := s.came(l, quantity)
		line.Reason = reason
		arrival = s.book(login, arrival, nil, line)
	}
	book("receiver", off[0], off[0].Least, "")
	book("lead", off[1], off[1].Most.Add(decimal.NewFromInt(6)), "Shipped in full cases; the supplier agreed by phone")
	book("receiver", off[2], decimal.NewFromInt(2), "")
	if s.err != nil {
		return
	}
	arrival = as(s, "receiver", func(ctx context.Context, tx *command.Tx) (receive.Arrival, error) {
		return receive.Undo(ctx, tx, arrival.ID, receive.UndoReceipt{Version: arrival.Version,
			MoveID: arrival.Receipts[0].MoveID, Reason: "Two were the driver's, for another house"})
	})
	as(s, "office", func(ctx context.Context, tx *command.Tx) (purchasing.Order, error) {
		return purchasing.EnterSupplierInvoice(ctx, tx, order.ID, purchasing.NewSupplierInvoice{
			InvoicePaper: purchasing.InvoicePaper{Number: "HAL-20418", InvoicedOn: s.clock.Format(time.DateOnly)},
			Lines: []purchasing.NewSupplierInvoiceLine{{LineID: off[0].ID, Quantity: off[0].Least.String(),
				Price: off[0].Price.String()}}})
	})
	gone := s.buy(4, s.end.AddDate(0, 0, -6), false)
	as(s, "lead", func(ctx context.Context, tx *command.Tx) (purchasing.Order, error) {
		o, err := purchasing.CloseOrder(ctx, tx, gone.ID, gone.Version)
		if err != nil {
			return o, err
		}
		return purchasing.Annotate(ctx, tx, o.ID, o.Version, "The supplier no longer makes it; bought elsewhere")
	})
}

func (s *story) labels(n int) {
	s.blank[s.at] = append(s.blank[s.at], as(s, "lead", func(ctx context.Context, tx *command.Tx) ([]cartons.Carton, error) {
		return cartons.MakeLabels(ctx, tx, s.at, n, s.prefix)
	})...)
}

// buy sends an order to a supplier for some of its items, or for all of them.
func (s *story) buy(supplier int32, expected time.Time, all bool) purchasing.Order {
	in := purchasing.NewOrder{SupplierID: supplier, SiteID: s.at, Send: true}
	in.ExpectedOn, in.Sure = expected.Format(time.DateOnly), refusal.Sure{refusal.DayPast}
	for i, g := range goods {
		if g.supplier != suppliers[supplier-1].code || !all && s.rand.IntN(3) > 0 || !s.goesHere(g) {
			continue
		}
		packs := 2 + s.rand.IntN(3)
		if all {
			packs = 4 + int(g.pace*8)
		}
		in.Lines = append(in.Lines, purchasing.NewLine{ItemID: int32(i + 1), Quantity: fmt.Sprint(packs * g.holds)})
	}
	if len(in.Lines) == 0 {
		return s.buy(supplier, expected, false)
	}
	return s.order("lead", in)
}

func (s *story) order(login string, in purchasing.NewOrder) purchasing.Order {
	return as(s, login, func(ctx context.Context, tx *command.Tx) (purchasing.Order, error) {
		return purchasing.CreateOrder(ctx, tx, in)
	})
}

// arrive receives a share of an order at a dock.
func (s *story) arrive(order purchasing.Order, share float64, dock int32) {
	arrival := s.openArrival(s.dock(dock), false, order)
	var lines []receive.ReceiptLine
	for i, l := range order.Lines {
		if share < 1 && i%2 == 1 {
			continue
		}
		lines = append(lines, s.came(l, l.Quantity))
	}
	s.book("receiver", arrival, nil, lines...)
}

// fromQuay are items that the small sites get from Quay House alone.
var fromQuay = []string{"TP-B50", "LN-036", "DX-050", "DX-015", "CL-BLK"}

// goesHere tells whether an item is bought and sold at the site that the story is at.
func (s *story) goesHere(g item) bool {
	return s.at == site || g.handling == "" && !slices.Contains(fromQuay, g.sku)
}

// dock is a dock of the site that the story is at.
func (s *story) dock(n int32) string {
	switch s.at {
	case loft:
		return "Loft dock"
	case yard:
		return "Yard dock"
	}
	return fmt.Sprintf("Dock %d", n+1)
}

// came is so many of a line's goods as they stand on the dock, with the lot or the
// serials that their labels say.
func (s *story) came(l purchasing.Line, quantity decimal.Decimal) receive.ReceiptLine {
	line := receive.ReceiptLine{LineID: l.ID, Quantity: quantity.String()}
	switch l.Tracking {
	case lot, expiry:
		in := receive.ReceiptLot{Code: fmt.Sprintf("%s-%02d%02d%c", l.SKU[:2], s.clock.Month(), s.clock.Day(),
			'A'+rune(s.rand.IntN(3))), Quantity: line.Quantity}
		if l.Tracking == expiry {
			in.ExpiresOn = s.end.AddDate(1, s.rand.IntN(6), int(l.ItemID)).Format(time.DateOnly)
		}
		line.Lots = []receive.ReceiptLot{in}
	case serial:
		for range quantity.IntPart() {
			line.Serials = append(line.Serials, s.serial(l.SKU))
		}
	}
	return line
}

// serial is the next unit's serial of an item.
func (s *story) serial(sku string) string {
	s.made[sku]++
	return fmt.Sprintf("%s-%05d", strings.ReplaceAll(sku, "-", ""), 20100+s.made[sku])
}

// inspect looks at what was set aside. Of every larger part one fails.
func (s *story) inspect() {
	var waiting []struct {
		ID       int64
		Quantity decimal.Decimal
		Sampled  bool
	}
	if s.err == nil {
		s.err = s.db.SelectContext(s.ctx, &waiting, `
			SELECT x.id,
			       coalesce(x.sample, (SELECT sum(m.quantity) FROM receipts b JOIN moves m ON m.id = b.move_id
			       WHERE b.inspection_id = x.id)) AS quantity, x.sample IS NOT NULL AS sampled
			FROM inspections x WHERE x.state = 'waiting' ORDER BY x.id`)
	}
	for _, w := range waiting {
		verdict := receive.Verdict{Passed: w.Quantity.String()}
		if !w.Sampled && w.Quantity.GreaterThan(decimal.NewFromInt(5)) {
			verdict = receive.Verdict{Passed: w.Quantity.Sub(decimal.NewFromInt(1)).String(),
				Reason: "A kinked strand at the eye"}
		}
		as(s, "receiver", func(ctx context.Context, tx *command.Tx) (receive.Inspection, error) {
			return receive.Decide(ctx, tx, w.ID, verdict)
		})
	}
}

// printLabels prints what waits, with a new roll whenever one ends.
func (s *story) printLabels() {
	if s.waitingLabels() == 0 {
		return
	}
	as(s, "receiver", func(ctx context.Context, tx *command.Tx) (labels.Queue, error) {
		return labels.Print(ctx, tx, s.at, nil)
	})
	roll := 200
	for s.waitingLabels() > 0 {
		as(s, "receiver", func(ctx context.Context, tx *command.Tx) (printer.Printer, error) {
			return printer.Tell(ctx, tx, s.at, &roll, nil)
		})
	}
}

func (s *story) waitingLabels() int {
	if s.err != nil {
		return 0
	}
	var queue labels.Queue
	queue, s.err = labels.Read(s.ctx, s.db, s.at)
	return len(queue.Waiting)
}

func (s *story) location(code string) int32 {
	var id int32
	if s.err == nil {
		s.err = s.db.GetContext(s.ctx, &id, `SELECT id FROM locations WHERE site_id = $1 AND code = $2`, s.at, code)
	}
	return id
}
