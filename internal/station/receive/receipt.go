package receive

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/sampling"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/labels"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// receiptPlan is a plan and what its documents need.
type receiptPlan struct {
	*ledger.Plan
	arrival Arrival
	lines   []plannedLine
	// carton is what all of it stands on, nil when it stands on nothing.
	carton *cartons.Pallet
	// day is that on which it is planned.
	day time.Time
}

// plannedLine is a line with its settlement and its part of the plan's moves: those
// from first on, so many for each of parts.
type plannedLine struct {
	inbound.Line
	item   catalog.Item
	after  receiving.Settlement
	here   decimal.Decimal
	packs  string
	reason string
	first  int
	lots   []plannedLot
	parts  []plannedPart
	// waits is true when its goods wait on the dock for the rest of their order.
	waits bool
}

// plannedLot is a lot as it was entered. A line without lots has one whose code is
// empty, with the serials of its units where they are known.
type plannedLot struct {
	field    string
	code     string
	expires  *time.Time
	quantity decimal.Decimal
	serials  []string
}

// plannedPart is goods of a lot that go to one location: to the dock, or to be inspected.
type plannedPart struct {
	plannedLot
	inspect bool
	// plan is what they are judged by; without one each of them is looked at.
	plan *sampling.Plan
	// count is how many moves it makes.
	count int
}

// split takes a line's lots apart into what goes to the dock and what is set aside. By
// a sampling plan the whole lot waits for its sample.
func (l plannedLine) split() (parts []plannedPart, err error) {
	for _, lot := range l.lots {
		if l.item.InspectAQL != nil {
			plan, err := sampling.For(lot.quantity.IntPart(), *l.item.InspectAQL)
			if err != nil {
				return nil, err
			}
			parts = append(parts, plannedPart{plannedLot: lot, inspect: true, plan: &plan})
			continue
		}
		aside := receiving.Inspect(lot.quantity, l.item.InspectPct, l.item.Unit())
		here, set := lot, lot
		here.quantity, set.quantity = lot.quantity.Sub(aside), aside
		if len(lot.serials) > 0 {
			here.serials, set.serials = nil, nil
			chosen := map[int]bool{}
			for _, at := range sampling.Spread(len(lot.serials), int(aside.IntPart())) {
				chosen[at] = true
			}
			for i, code := range lot.serials {
				if chosen[i] {
					set.serials = append(set.serials, code)
				} else {
					here.serials = append(here.serials, code)
				}
			}
		}
		if here.quantity.IsPositive() {
			parts = append(parts, plannedPart{plannedLot: here})
		}
		if aside.IsPositive() {
			parts = append(parts, plannedPart{plannedLot: set, inspect: true})
		}
	}
	return parts, nil
}

// moves are the moves of a part: one, or one for each unit that is known, out of each
// carton that its goods are on their way in.
func (p *plannedPart) moves(m ledger.Move, from inbound.OnTheWay) (out []ledger.Move) {
	m.Quantity, m.LotCode = p.quantity, p.code
	if len(p.serials) == 0 {
		out = from.Spread(m)
	}
	for _, code := range p.serials {
		m.Quantity, m.SerialCode = decimal.NewFromInt(1), code
		out = append(out, from.Spread(m)...)
	}
	p.count = len(out)
	return out
}

// planReceipt checks what came against the orders and lists the moves.
func planReceipt(
	ctx context.Context, q sqlx.QueryerContext, id int64, in NewReceipt, now time.Time,
) (*receiptPlan, error) {
	arrival, err := readArrival(ctx, q, id)
	if err != nil {
		return nil, err
	}
	if arrival.State != states.ArrivalOpen {
		return nil, refusal.New(refusal.ArrivalDone, "", "%s is closed. Open another arrival for %s.", arrival.Number,
			arrival.Order).Of(refusal.Conflict)
	}
	plan := &receiptPlan{arrival: arrival, day: now.Truncate(24 * time.Hour)}
	if in.Carton != nil {
		if plan.carton, err = cartons.Arriving(ctx, q, arrival.DockID, in.Carton.SSCC, in.Carton.Kind); err != nil {
			return nil, err
		}
	}
	items, err := itemsOf(ctx, q, arrival, in.Lines)
	if err != nil {
		return nil, err
	}
	seen := map[int64]bool{}
	total := decimal.Zero
	for i, l := range in.Lines {
		field := fmt.Sprintf("lines[%d]", i)
		line, err := checkLine(ctx, field, arrival, items, l, now)
		if err != nil {
			return nil, err
		}
		if seen[l.LineID] {
			return nil, refusal.New(refusal.LineTwice, field+".line_id",
				"Line %d stands twice. Put its whole quantity on one line.", line.Number)
		}
		seen[l.LineID] = true
		plan.lines = append(plan.lines, line)
		total = total.Add(line.here)
	}
	plan.wait()
	moves, err := plan.moves(ctx, q)
	if err != nil {
		return nil, err
	}
	if len(moves) == 0 {
		return nil, refusal.New(refusal.NothingMoves, "lines", "Nothing is entered. Enter what came, or scan it.")
	}
	if plan.Plan, err = ledger.Describe(ctx, q, moves); err != nil {
		return nil, err
	}
	return plan, plan.tell(ctx, q, total)
}

// wait marks the lines whose goods wait for the rest of their order: on an arrival that
// waits, unless the order is complete with them.
func (p *receiptPlan) wait() {
	if !p.arrival.Waits {
		return
	}
	closes := map[int64]bool{}
	for _, l := range p.lines {
		closes[l.ID] = l.after.Closes
	}
	open := map[int64]bool{}
	for _, l := range p.arrival.Lines {
		open[l.OrderID] = open[l.OrderID] || l.Stock() && !l.Closed && !closes[l.ID]
	}
	for i := range p.lines {
		p.lines[i].waits = open[p.lines[i].OrderID]
	}
}

// moves lists the moves of all lines, and notes which are whose.
func (p *receiptPlan) moves(ctx context.Context, q sqlx.QueryerContext) (moves []ledger.Move, err error) {
	var aside catalog.Location
	from, err := inbound.ReadOnTheWay(ctx, q, p.arrival.SourceID, p.arrival.SiteID)
	if err != nil {
		return nil, err
	}
	for i := range p.lines {
		l := &p.lines[i]
		if l.parts, err = l.split(); err != nil {
			return nil, err
		}
		l.first = len(moves)
		for j := range l.parts {
			part := &l.parts[j]
			move := ledger.Move{Item: l.ItemID, From: p.arrival.SourceID, To: p.arrival.DockID, Cost: l.UnitCost}
			switch {
			case part.inspect:
				if aside.ID == 0 {
					if aside, err = catalog.OneLocation(ctx, q, p.arrival.SiteID, "quarantine"); err != nil {
						return nil, err
					}
				}
				move.To, move.ToState = aside.ID, posting.Held
			case l.waits:
				move.ToState = posting.Waiting
			}
			if p.carton != nil && !part.inspect {
				move.ToBox = &p.carton.ID
			}
			moves = append(moves, part.moves(move, from)...)
		}
	}
	return moves, nil
}

// itemsOf reads the items of the lines that something came on.
func itemsOf(
	ctx context.Context, q sqlx.QueryerContext, arrival Arrival, lines []ReceiptLine,
) (map[int32]catalog.Item, error) {
	ids := make([]int32, len(lines))
	for i, l := range lines {
		ids[i] = lineByID(arrival.Lines, l.LineID).ItemID
	}
	return catalog.ItemsByID(ctx, q, ids)
}

// checkLine holds one line of what came against the order and the item's rules.
func checkLine(
	ctx context.Context, field string, arrival Arrival, items map[int32]catalog.Item, l ReceiptLine, now time.Time,
) (plannedLine, error) {
	out := plannedLine{Line: lineByID(arrival.Lines, l.LineID), reason: strings.TrimSpace(l.Reason)}
	if out.ID == 0 || !out.Stock() {
		return out, refusal.New(refusal.LineUnknown, field+".line_id", "That line is not on %s.", arrival.Order)
	}
	if out.Closed {
		return out, refusal.New(refusal.LineClosed, field+".quantity",
			"%s: line %d is closed with %s of %s in. Set what is here aside, and have it ordered anew if it stays.", out.SKU, out.Number, out.Received, out.Quantity)
	}
	var err error
	item := items[out.ItemID]
	out.item = item
	if out.here, err = item.Count(field, l.PackID, l.Quantity); err != nil {
		return out, err
	}
	if p, known := item.Pack(l.PackID); known && !p.Holds.Equal(decimal.NewFromInt(1)) {
		out.packs = fmt.Sprintf("%s × %s of %s are %s %s.", l.Quantity, p.Name, item.SKU, out.here, item.BaseUnit)
	}
	incoming := receiving.Incoming{Ordered: out.Quantity, Already: out.Received, Here: out.here,
		Allowance: out.Allowance, Unit: item.Unit()}
	out.after = incoming.Settle()
	check := receiving.Line{Field: field, SKU: item.SKU, Tracking: item.Tracking, Unit: item.Unit(),
		LifeIn: item.LifeIn, Here: out.here, Serials: l.Serials}
	for j, lot := range l.Lots {
		at := fmt.Sprintf("%s.lots[%d]", field, j)
		in := receiving.LotIn{Code: lot.Code}
		if in.Quantity, err = item.Count(at, l.PackID, lot.Quantity); err != nil {
			return out, err
		}
		if lot.ExpiresOn != "" {
			day, err := documents.Day(at+".expires_on", lot.ExpiresOn)
			if err != nil {
				return out, err
			}
			in.Expires = &day
		}
		check.Lots = append(check.Lots, in)
		out.lots = append(out.lots, plannedLot{field: at, code: in.Code, expires: in.Expires, quantity: in.Quantity})
	}
	if len(out.lots) == 0 {
		out.lots = []plannedLot{{quantity: out.here, serials: l.Serials}}
	}
	today := now.Truncate(24 * time.Hour)
	if err := people.Decide(ctx, field, out.reason, out.after.Refuse(field+".quantity", item.SKU,
		incoming)); err != nil {
		return out, err
	}
	if err := check.Check(); err != nil {
		return out, err
	}
	return out, people.Decide(ctx, field, out.reason, check.ShortLived(today))
}

// tell adds what the receipt changes and what is good to know.
func (p *receiptPlan) tell(ctx context.Context, q sqlx.QueryerContext, total decimal.Decimal) error {
	items := make([]int32, len(p.lines))
	for i, l := range p.lines {
		items[i] = l.ItemID
	}
	figures, err := ledger.FiguresFor(ctx, q, items, p.arrival.SiteID)
	if err != nil {
		return err
	}
	for i, l := range p.lines {
		f := figures[l.ItemID]
		back, err := serials.Absent(ctx, q, fmt.Sprintf("lines[%d].serials", i), p.arrival.SourceID, l.ItemID, l.SKU,
			l.lots[0].serials)
		if err != nil {
			return err
		}
		for _, u := range back {
			p.Warnings = append(p.Warnings,
				fmt.Sprintf("Serial %s of %s was here before and is %s by our books. Make sure that it is this unit.",
					u.Code, l.SKU, u.Where()))
		}
		for _, lot := range l.lots {
			if most := p.day.AddDate(0, 0, l.item.ShelfLife); lot.expires != nil && l.item.ShelfLife > 0 &&
				lot.expires.After(most) {
				p.Warnings = append(p.Warnings,
					fmt.Sprintf("Lot %s of %s says it expires on %s, and what is made today keeps until %s (%d "+
						"days). Read the label again.",
						lot.code, l.SKU, lot.expires.Format(time.DateOnly), most.Format(time.DateOnly), l.item.ShelfLife))
			}
		}
		free := l.tellParts(p)
		p.Changes = append(p.Changes,
			ledger.Change{What: l.SKU + " on hand", Before: f.Physical.String(),
				After: f.Physical.Add(l.here).String()},
			ledger.Change{What: l.SKU + " free", Before: f.Free.String(), After: f.Free.Add(free).String()},
			ledger.Change{What: fmt.Sprintf("%s line %d", l.Order, l.Number), Before: l.Received.String() + " of " +
				l.Quantity.String(), After: l.settled()})
		if l.Covers != nil && free.IsPositive() {
			p.Notes = append(p.Notes,
				fmt.Sprintf("%s was bought for %s: what it still wants of these %s is reserved for it.", l.SKU,
					l.CoversOrder, free))
		} else if f.Free.IsNegative() {
			p.Notes = append(p.Notes, fmt.Sprintf("Waiting orders are %s of %s short: this covers %s.", f.Free.Neg(),
				l.SKU, decimal.Min(f.Free.Neg(), free)))
		}
		if l.reason != "" {
			p.Warnings = append(p.Warnings, fmt.Sprintf("%s is accepted all the same: %s. This stays in the trail.",
				l.SKU, l.reason))
		}
	}
	if p.carton != nil {
		p.Notes = append(p.Notes, "All of it stands on "+p.carton.Words()+", and is put away as one.")
	}
	p.Button = fmt.Sprintf("Receive %s at %s", total, p.arrival.Dock)
	return nil
}

// settled words what becomes of the line.
func (l plannedLine) settled() string {
	after := l.after.Received.String() + " of " + l.Quantity.String()
	switch {
	case l.after.Closes && l.after.Cancelled.IsPositive():
		return after + fmt.Sprintf(", closes; %s cancelled", l.after.Cancelled)
	case l.after.Closes:
		return after + ", closes"
	}
	return after + fmt.Sprintf(", %s open", l.after.Open)
}

// tellParts notes where the line's goods go, and returns how many of them are free.
func (l plannedLine) tellParts(p *receiptPlan) (free decimal.Decimal) {
	free = l.here
	for _, part := range l.parts {
		if !part.inspect {
			continue
		}
		free = free.Sub(part.quantity)
		what := l.SKU
		if part.code != "" {
			what += " lot " + part.code
		}
		switch {
		case part.plan != nil:
			p.Notes = append(p.Notes,
				fmt.Sprintf("%s: all %s wait in quarantine. A sample of %d is looked at, of which at most %d may "+
					"fail (plan %s, limit %s %%).",
					what, part.quantity, part.plan.Sample, part.plan.Accept, part.plan.Letter, l.item.InspectAQL))
		case len(part.serials) > 0:
			p.Notes = append(p.Notes, fmt.Sprintf("Set aside to be inspected (%s %%): %s serial %s.",
				l.item.InspectPct, l.SKU, receiving.SerialRanges(part.serials)))
		default:
			p.Notes = append(p.Notes, fmt.Sprintf("Set aside to be inspected (%s %%): %s of %s.", l.item.InspectPct,
				part.quantity, what))
		}
	}
	if l.packs != "" {
		p.Notes = append(p.Notes, l.packs)
	}
	if l.waits {
		p.Notes = append(p.Notes, fmt.Sprintf("%s of %s wait on the dock until %s is complete, and are not free.",
			free, l.SKU, l.Order))
		return decimal.Zero
	}
	return free
}

// PostReceipt receives what came. Cartons and pallets without a number get one under the
// company prefix.
func PostReceipt(ctx context.Context, tx *command.Tx, prefix string, id int64, in NewReceipt) (Arrival, error) {
	orders, err := hold(ctx, tx, id, in.Version, "received goods in")
	if err != nil {
		return Arrival{}, err
	}
	plan, err := planReceipt(ctx, tx, id, in, tx.Now)
	if err != nil {
		return Arrival{}, err
	}
	if plan.carton != nil {
		if err := plan.carton.Ensure(ctx, tx, prefix); err != nil {
			return Arrival{}, err
		}
	}
	moves := plan.MoveList()
	if err := ledger.LockStock(ctx, tx, moves); err != nil {
		return Arrival{}, err
	}
	if err := plan.post(ctx, tx, moves); err != nil {
		return Arrival{}, err
	}
	if err := plan.askLabels(ctx, tx); err != nil {
		return Arrival{}, err
	}
	tx.Notify(ledger.Topics("receive", "putaway", "row")...)
	for _, order := range orders {
		if err := inbound.Settle(ctx, tx, order); err != nil {
			return Arrival{}, err
		}
	}
	return showArrival(ctx, tx, id)
}

// post posts the moves and notes which line each was for. What a lead accepted stands in
// the trail with its reason, and so in a posting apart; the rest of an order is one posting.
func (p *receiptPlan) post(ctx context.Context, tx *command.Tx, all []ledger.Move) error {
	var notes []string
	by := map[string][]plannedLine{}
	counted := make([]inbound.Counted, len(p.lines))
	if err := p.identify(ctx, tx, all); err != nil {
		return err
	}
	for i, l := range p.lines {
		if by[l.note()] == nil {
			notes = append(notes, l.note())
		}
		by[l.note()] = append(by[l.note()], l)
		counted[i] = inbound.Counted{Line: l.ID, Settlement: l.after}
	}
	for _, note := range notes {
		if err := p.postLines(ctx, tx, note, by[note], all); err != nil {
			return err
		}
	}
	return inbound.Count(ctx, tx, counted...)
}

// of are the line's moves among all.
func (l plannedLine) of(all []ledger.Move) []ledger.Move {
	n := 0
	for _, part := range l.parts {
		n += part.count
	}
	return all[l.first : l.first+n]
}

// note is what the trail says of the line's receipt.
func (l plannedLine) note() string {
	if l.reason == "" {
		return l.Order
	}
	return l.Order + ", accepted: " + l.reason
}

// identify writes the lots and units of all lines' moves, as far as they are new, and gives
// the moves their ids.
func (p *receiptPlan) identify(ctx context.Context, tx *command.Tx, all []ledger.Move) error {
	var lots []catalog.Lot
	var units []serials.Key
	for _, l := range p.lines {
		for _, part := range l.parts {
			if part.code != "" {
				lots = append(lots, catalog.Lot{Field: part.field, Item: l.item, Code: part.code, Expires: part.expires})
			}
			for _, code := range part.serials {
				units = append(units, serials.Key{Item: l.ItemID, Code: code})
			}
		}
	}
	lotIDs, err := catalog.EnsureLots(ctx, tx, lots, tx.Now)
	if err != nil {
		return err
	}
	unitIDs, err := serials.EnsureAll(ctx, tx, units)
	if err != nil {
		return err
	}
	for _, l := range p.lines {
		moves := l.of(all)
		for _, part := range l.parts {
			mine := moves[:part.count]
			moves = moves[part.count:]
			var lot *int64
			if part.code != "" {
				lot, lotIDs = &lotIDs[0], lotIDs[1:]
			}
			for i := range mine {
				mine[i].Lot = lot
				if id, known := unitIDs[serials.Key{Item: l.ItemID, Code: mine[i].SerialCode}]; known {
					mine[i].Serial = &id
				}
			}
		}
	}
	return nil
}

// postLines posts the moves of some lines at once, notes them, and reservations what is meant for
// somebody.
func (p *receiptPlan) postLines(
	ctx context.Context, tx *command.Tx, note string, lines []plannedLine, all []ledger.Move,
) error {
	var moves []ledger.Move
	for _, l := range lines {
		moves = append(moves, l.of(all)...)
	}
	posted, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Receive, Document: p.arrival.Number, Note: note},
		moves)
	if err != nil {
		return err
	}
	var ids []int64
	if err := tx.SelectContext(ctx, &ids, `
		SELECT id FROM moves WHERE posting_id = $1 ORDER BY id`, posted); err != nil {
		return fmt.Errorf("reading a posting: %w", err)
	}
	if err := p.noteReceipts(ctx, tx, lines, ids); err != nil {
		return err
	}
	for _, l := range lines {
		if err := inbound.TieMoved(ctx, tx, l.Covers, l.of(all)); err != nil {
			return err
		}
	}
	return nil
}

// noteReceipts notes which line each of the moves was for, and what is inspected.
func (p *receiptPlan) noteReceipts(ctx context.Context, tx *command.Tx, lines []plannedLine, moves []int64) error {
	var parts []plannedPart
	for _, l := range lines {
		parts = append(parts, l.parts...)
	}
	asked, err := p.askInspections(ctx, tx, parts)
	if err != nil {
		return err
	}
	var of []int64
	var inspections []*int64
	for _, l := range lines {
		for _, part := range l.parts {
			var inspection *int64
			if part.inspect {
				inspection, asked = &asked[0], asked[1:]
			}
			for range part.count {
				of, inspections = append(of, l.ID), append(inspections, inspection)
			}
		}
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO receipts (move_id, arrival_id, line_id, inspection_id)
		SELECT x.move, $1, x.line, x.inspection
		  FROM unnest($2::bigint[], $3::bigint[], $4::bigint[]) AS x(move, line, inspection)`,
		p.arrival.ID, moves, of, inspections)
	if err != nil {
		return fmt.Errorf("noting receipts: %w", err)
	}
	return nil
}

// askInspections sets aside what of these parts is to be inspected, and returns the
// inspections in the order of those parts.
func (p *receiptPlan) askInspections(ctx context.Context, tx *command.Tx, parts []plannedPart) ([]int64, error) {
	var samples, accepts []*int64
	for _, part := range parts {
		if !part.inspect {
			continue
		}
		var sample, accept *int64
		if part.plan != nil {
			sample, accept = &part.plan.Sample, &part.plan.Accept
		}
		samples, accepts = append(samples, sample), append(accepts, accept)
	}
	if len(samples) == 0 {
		return nil, nil
	}
	var ids []int64
	err := tx.SelectContext(ctx, &ids, `
		WITH asked AS (
			INSERT INTO inspections (site_id, sample, accept)
			SELECT $1, sample, accept
			  FROM unnest($2::bigint[], $3::bigint[]) WITH ORDINALITY AS x(sample, accept, n) ORDER BY n
			RETURNING id)
		SELECT id FROM asked ORDER BY id`, p.arrival.SiteID, samples, accepts)
	if err != nil {
		return nil, fmt.Errorf("asking for inspections: %w", err)
	}
	return ids, nil
}

// askLabels puts the labels of what came into the printer's queue: of each item, lot
// and unit, and of the carton or pallet that all of it stands on.
func (p *receiptPlan) askLabels(ctx context.Context, tx *command.Tx) error {
	var goods []labels.Goods
	var contents []string
	for _, l := range p.lines {
		for _, lot := range l.lots {
			goods = append(goods, labels.Goods{Item: l.item, Quantity: lot.quantity, Lot: lot.code,
				Expires: lot.expires, Serials: lot.serials})
		}
		contents = append(contents, fmt.Sprintf("%s × %s", l.here, l.SKU))
	}
	if p.carton != nil && p.carton.New {
		goods = append(goods, labels.Goods{SSCC: p.carton.SSCC, Kind: p.carton.Kind, Contents: strings.Join(contents,
			", ")})
	}
	return labels.Ask(ctx, tx, p.arrival.SiteID, p.arrival.Number, goods)
}

// hold notes the change of an arrival and of its orders, against which another arrival
// may be received this moment.
func hold(ctx context.Context, tx *command.Tx, arrival int64, version int32, what string) (orders []int64, err error) {
	if err := tx.SelectContext(ctx, &orders, `
		SELECT order_id FROM arrival_orders WHERE arrival_id = $1 ORDER BY order_id`, arrival); err != nil {
		return nil, fmt.Errorf("reading an arrival: %w", err)
	}
	if err := inbound.Hold(ctx, tx, orders...); err != nil {
		return nil, err
	}
	if err := documents.Change(ctx, tx, documents.Arrival, arrival, version, what); err != nil {
		return nil, err
	}
	for _, order := range orders {
		if err := documents.Change(ctx, tx, documents.InboundOrder, order, 0, what); err != nil {
			return nil, err
		}
	}
	return orders, nil
}

// lineByID finds a line; there is none when its id is 0.
func lineByID(lines []inbound.Line, id int64) (line inbound.Line) {
	if i := slices.IndexFunc(lines, func(l inbound.Line) bool { return l.ID == id }); i >= 0 {
		line = lines[i]
	}
	return line
}

// makeLot names a lot of the house's own for goods that came without one, by the
// item's rule, with the date that its shelf life leads to. Each answer is another name.
func makeLot(ctx context.Context, tx *command.Tx, arrival int64, item int32) (made MadeLot, err error) {
	a, err := readArrival(ctx, tx, arrival)
	if err != nil {
		return made, err
	}
	i, err := catalog.ItemByID(ctx, tx, item)
	if err != nil {
		return made, err
	}
	if i.Tracking != receiving.Lot && i.Tracking != receiving.LotExpiry {
		return made, refusal.New(refusal.LotUnwanted, "item_id", "%s is not kept by lots.", i.SKU)
	}
	var n int64
	if err := tx.GetContext(ctx, &n, `SELECT nextval('made_lots')`); err != nil {
		return made, fmt.Errorf("numbering a lot: %w", err)
	}
	if i.Tracking == receiving.LotExpiry && i.ShelfLife > 0 {
		made.ExpiresOn = tx.Now.AddDate(0, 0, i.ShelfLife).Format(time.DateOnly)
	}
	made.Code, err = receiving.LotRule(i.LotRule).Make("item_id", a.SourceCode, tx.Now, n)
	return made, err
}
