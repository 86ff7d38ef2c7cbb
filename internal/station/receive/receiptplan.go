package receive

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/sampling"
	"lanternrow/internal/core/states"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"
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
	// off is the carton in transit that all of it is taken out of, if one was named.
	off string
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
	// bin is where its goods go straight into; none where they stop at the dock.
	bin catalog.Location
	// comes is the condition that its goods come in, by the kind of its order.
	comes posting.Condition
	// found is the condition that they were found in, where the kind of its order asks for it.
	found inbound.Found
	// waits is true when its goods wait on the dock for the rest of their order.
	waits bool
}

// plannedLot is a lot as it was entered. A line without lots has one whose code is
// empty, with the serials of its units where they are known.
type plannedLot struct {
	field string
	code  string
	// supplier is what its supplier calls it.
	supplier string
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
		if l.comes != posting.Good {
			parts = append(parts, plannedPart{plannedLot: lot})
			continue
		}
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
	plan := &receiptPlan{arrival: arrival, off: in.Off, day: now.Truncate(24 * time.Hour)}
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
		if err := line.mayCome(ctx, q, field, arrival); err != nil {
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
	if in.Straight {
		if err := plan.goStraight(ctx, q, in.Lines); err != nil {
			return nil, err
		}
	}
	moves, err := plan.moves(ctx, q)
	if err != nil {
		return nil, err
	}
	if len(moves) == 0 {
		return nil, refusal.New(refusal.NothingMoves, "lines", "Nothing is entered. Enter what came, or scan it.")
	}
	if err := catalog.CheckLots(ctx, q, plan.lots()); err != nil {
		return nil, err
	}
	if plan.Plan, err = ledger.Describe(ctx, q, moves); err != nil {
		return nil, err
	}
	return plan, plan.tell(ctx, q, total)
}

// previewReceipt is a plan for whoever looks at it, with what would follow it.
func previewReceipt(
	ctx context.Context, q sqlx.QueryerContext, id int64, in NewReceipt, now time.Time,
) (*ledger.Plan, error) {
	p, err := planReceipt(ctx, q, id, in, now)
	if err != nil {
		return nil, err
	}
	follows, err := inbound.Foresee(ctx, q, p.receipts(p.MoveList()))
	if err != nil {
		return nil, err
	}
	p.Notes = append(p.Notes, follows...)
	return p.Plan, nil
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

// onTheWay is what the goods are taken out of: all that is on its way to the site, or the one carton
// that was named.
func (p *receiptPlan) onTheWay(ctx context.Context, q sqlx.QueryerContext) (inbound.OnTheWay, error) {
	from, err := inbound.ReadOnTheWay(ctx, q, p.arrival.SourceID, p.arrival.SiteID)
	if err != nil || p.off == "" {
		return from, err
	}
	if from = from.In(p.off); len(from) == 0 {
		return nil, refusal.New(refusal.WrongCarton, "off",
			"No carton %s is on its way here, or all of it came already. Scan its label again.", p.off).Of(refusal.Conflict)
	}
	return from, nil
}

// moves lists the moves of all lines, and notes which are whose.
func (p *receiptPlan) moves(ctx context.Context, q sqlx.QueryerContext) (moves []ledger.Move, err error) {
	var aside catalog.Location
	from, err := p.onTheWay(ctx, q)
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
			case l.comes != posting.Good:
				move.ToState = l.comes
			case l.waits:
				move.ToState = posting.Waiting
			case l.bin.ID != 0:
				move.To = l.bin.ID
			}
			if p.carton != nil && !part.inspect {
				move.ToBox = &p.carton.ID
			}
			moves = append(moves, part.moves(move, from)...)
		}
	}
	return moves, p.hold(ctx, q, moves)
}

// hold has goods that a recall holds come in as such.
func (p *receiptPlan) hold(ctx context.Context, q sqlx.QueryerContext, moves []ledger.Move) error {
	var items []int32
	for _, m := range moves {
		if m.LotCode != "" || m.SerialCode != "" {
			items = append(items, m.Item)
		}
	}
	if len(items) == 0 {
		return nil
	}
	holds, err := ledger.ReadHolds(ctx, q, items)
	for i := range moves {
		if to := moves[i].ToState; holds.Takes(moves[i]) && (to == "" || to == posting.Good || to == posting.Waiting) {
			moves[i].ToState = posting.Recalled
		}
	}
	return err
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
			ledger.Change{What: l.SKU + " on hand", Before: f.OnHand.String(),
				After: f.OnHand.Add(l.here).String()},
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
	p.Button = fmt.Sprintf("Receive %s %s", total, p.where())
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
	if l.comes != posting.Good {
		return decimal.Zero
	}
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
