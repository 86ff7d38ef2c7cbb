package receive

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/standin/printer"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// bookInPlan is a plan and what its documents need.
type bookInPlan struct {
	*ledger.Plan
	arrival Arrival
	lines   []plannedLine
}

// plannedLine is a line with its settlement and its part of the plan's moves: those
// from first on, one for each of parts.
type plannedLine struct {
	OrderLine
	item   catalog.Item
	after  receiving.Settlement
	here   decimal.Decimal
	reason string
	first  int
	lots   []plannedLot
	parts  []plannedPart
}

// plannedLot is a lot as it was entered. A line without lots has one whose code is
// empty.
type plannedLot struct {
	field    string
	code     string
	expires  *time.Time
	quantity decimal.Decimal
}

// plannedPart is one move of a line: of a lot, to the dock or to be inspected.
type plannedPart struct {
	plannedLot
	inspect bool
}

// split takes a line's lots apart into what goes to the dock and what is set aside.
func (l plannedLine) split() (parts []plannedPart) {
	for _, lot := range l.lots {
		aside := receiving.Inspect(lot.quantity, l.item.InspectPct, l.item.Unit())
		whole := lot.quantity
		if lot.quantity = whole.Sub(aside); lot.quantity.IsPositive() {
			parts = append(parts, plannedPart{lot, false})
		}
		if lot.quantity = aside; aside.IsPositive() {
			parts = append(parts, plannedPart{lot, true})
		}
	}
	return parts
}

// planBookIn checks what came against the order and lists the moves.
func planBookIn(ctx context.Context, q sqlx.QueryerContext, id int64, in BookIn, now time.Time) (*bookInPlan, error) {
	arrival, err := readArrival(ctx, q, id)
	if err != nil {
		return nil, err
	}
	if arrival.State != "open" {
		return nil, refusal.New("arrival_done", "", "%s is closed. Open another arrival for %s.", arrival.Number, arrival.Order).Of(refusal.Conflict)
	}
	supplier, err := supplierPlace(ctx, q, arrival.OrderID)
	if err != nil {
		return nil, err
	}
	plan := &bookInPlan{arrival: arrival}
	var moves []ledger.Move
	codes := map[int]string{}
	seen := map[int64]bool{}
	total := decimal.Zero
	for i, l := range in.Lines {
		field := fmt.Sprintf("lines[%d]", i)
		line, err := checkLine(ctx, q, field, arrival, l, now)
		if err != nil {
			return nil, err
		}
		if seen[l.LineID] {
			return nil, refusal.New("line_twice", field+".line_id", "Line %d stands twice. Put its whole quantity in one place.", line.Line)
		}
		seen[l.LineID] = true
		line.first, line.parts = len(moves), line.split()
		total = total.Add(line.here)
		price := line.Price
		for _, part := range line.parts {
			move := ledger.Move{Item: line.ItemID, Quantity: part.quantity, From: supplier, To: arrival.DockID, Cost: &price}
			if part.inspect {
				aside, err := catalog.OnePlace(ctx, q, arrival.SiteID, "quarantine")
				if err != nil {
					return nil, err
				}
				move.To, move.ToState = aside.ID, ledger.Held
			}
			if part.code != "" {
				codes[len(moves)] = part.code
			}
			moves = append(moves, move)
		}
		plan.lines = append(plan.lines, line)
	}
	if len(moves) == 0 {
		return nil, refusal.New("nothing_moves", "lines", "Nothing is entered. Enter what came, or scan it.")
	}
	if plan.Plan, err = ledger.Describe(ctx, q, moves, codes); err != nil {
		return nil, err
	}
	return plan, plan.tell(ctx, q, total)
}

func supplierPlace(ctx context.Context, q sqlx.QueryerContext, order int64) (place int32, err error) {
	err = sqlx.GetContext(ctx, q, &place, `SELECT p.place_id FROM purchase_orders o JOIN parties p ON p.id = o.supplier_id WHERE o.id = $1`, order)
	if err != nil {
		return 0, fmt.Errorf("reading the supplier: %w", err)
	}
	return place, nil
}

// checkLine holds one line of what came against the order and the item's rules.
func checkLine(ctx context.Context, q sqlx.QueryerContext, field string, arrival Arrival, l BookInLine, now time.Time) (plannedLine, error) {
	out := plannedLine{OrderLine: lineByID(arrival.Lines, l.LineID), reason: strings.TrimSpace(l.Reason)}
	if out.ID == 0 {
		return out, refusal.New("line_unknown", field+".line_id", "That line is not on %s.", arrival.Order)
	}
	if out.Closed {
		return out, refusal.New("line_closed", field+".quantity", "%s: line %d is closed with %s of %s in. Set what is here aside, and have it ordered anew if it stays.", out.SKU, out.Line, out.Received, out.Quantity)
	}
	item, err := catalog.ItemByID(ctx, q, out.ItemID)
	if err != nil {
		return out, err
	}
	out.item = item
	if out.here, err = measure.Parse(field+".quantity", l.Quantity, item.Unit()); err != nil {
		return out, err
	}
	incoming := receiving.Incoming{Ordered: out.Quantity, Already: out.Received, Here: out.here, Allowance: out.Allowance, Unit: item.Unit()}
	out.after = incoming.Settle()
	check := receiving.Line{Field: field, SKU: item.SKU, Tracking: item.Tracking, Unit: item.Unit(), LifeIn: item.LifeIn, Here: out.here}
	for j, lot := range l.Lots {
		at := fmt.Sprintf("%s.lots[%d]", field, j)
		in := receiving.LotIn{Code: lot.Code}
		if in.Quantity, err = measure.Parse(at+".quantity", lot.Quantity, item.Unit()); err != nil {
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
		out.lots = append(out.lots, plannedLot{at, in.Code, in.Expires, in.Quantity})
	}
	if len(out.lots) == 0 {
		out.lots = []plannedLot{{quantity: out.here}}
	}
	today := now.Truncate(24 * time.Hour)
	if err := decide(ctx, field, out.reason, out.after.Refuse(field+".quantity", item.SKU, incoming)); err != nil {
		return out, err
	}
	if err := check.Check(today); err != nil {
		return out, err
	}
	if err := decide(ctx, field, out.reason, check.ShortLived(today)); err != nil {
		return out, err
	}
	return out, nil
}

// decide lets a lead accept what would be refused, by saying why. Without a question
// there is nothing to decide.
func decide(ctx context.Context, field, reason string, question error) error {
	if question == nil || reason == "" {
		return question
	}
	person, err := people.Acting(ctx)
	if err != nil {
		return err
	}
	if person.Role != "lead" {
		return refusal.New("lead_decides", field+".reason", "Only a lead may accept this. %s", refusal.From(question).Sentence).Of(refusal.Forbidden)
	}
	if saysTooLittle(reason) {
		return refusal.New("reason_short", field+".reason", "%q says too little. Write in a few words why it is accepted; it stays in the trail.", reason)
	}
	return nil
}

// saysTooLittle tells whether a reason is no reason: it stays in the trail, and has to
// say something.
func saysTooLittle(reason string) bool { return len([]rune(reason)) < 4 }

// tell adds what the booking changes and what is good to know.
func (p *bookInPlan) tell(ctx context.Context, q sqlx.QueryerContext, total decimal.Decimal) error {
	for _, l := range p.lines {
		f, err := ledger.FiguresOf(ctx, q, l.ItemID, p.arrival.SiteID)
		if err != nil {
			return err
		}
		after := l.after.Received.String() + " of " + l.Quantity.String()
		switch {
		case l.after.Closes && l.after.Cancelled.IsPositive():
			after += fmt.Sprintf(", closes; %s cancelled", l.after.Cancelled)
		case l.after.Closes:
			after += ", closes"
		default:
			after += fmt.Sprintf(", %s open", l.after.Open)
		}
		aside := decimal.Zero
		for _, part := range l.parts {
			if part.inspect {
				aside = aside.Add(part.quantity)
			}
		}
		if aside.IsPositive() {
			p.Notes = append(p.Notes, fmt.Sprintf("%s of %s are set aside to be inspected (%s %%).", aside, l.SKU, l.item.InspectPct))
		}
		p.Changes = append(p.Changes,
			ledger.Change{What: l.SKU + " on hand", Before: f.Physical.String(), After: f.Physical.Add(l.here).String()},
			ledger.Change{What: l.SKU + " free", Before: f.Free.String(), After: f.Free.Add(l.here).Sub(aside).String()},
			ledger.Change{What: fmt.Sprintf("%s line %d", p.arrival.Order, l.Line), Before: l.Received.String() + " of " + l.Quantity.String(), After: after})
		if f.Free.IsNegative() {
			p.Notes = append(p.Notes, fmt.Sprintf("Waiting orders lack %s of %s: this covers %s.", f.Free.Neg(), l.SKU, decimal.Min(f.Free.Neg(), l.here)))
		}
		if l.reason != "" {
			p.Warnings = append(p.Warnings, fmt.Sprintf("%s is accepted all the same: %s. This stays in the trail.", l.SKU, l.reason))
		}
	}
	p.Button = fmt.Sprintf("Book in %s at %s", total, p.arrival.Dock)
	return nil
}

// PostBookIn books in what came.
func PostBookIn(ctx context.Context, tx *command.Tx, id int64, in BookIn) (Arrival, error) {
	order, err := hold(ctx, tx, id, in.Version, "booked goods in")
	if err != nil {
		return Arrival{}, err
	}
	plan, err := planBookIn(ctx, tx, id, in, tx.Now)
	if err != nil {
		return Arrival{}, err
	}
	moves := plan.MoveList()
	for _, l := range plan.lines {
		for j, part := range l.parts {
			if part.code == "" {
				continue
			}
			lotID, err := catalog.EnsureLot(ctx, tx, part.field, l.item, part.code, part.expires, tx.Now)
			if err != nil {
				return Arrival{}, err
			}
			moves[l.first+j].Lot = &lotID
		}
	}
	// What a lead accepted stands in the trail with its reason, and so apart.
	for _, l := range plan.lines {
		note := plan.arrival.Order
		if l.reason != "" {
			note += ", accepted: " + l.reason
		}
		posting, err := ledger.Post(ctx, tx, ledger.Head{Kind: "book in", Document: plan.arrival.Number, Note: note}, moves[l.first:l.first+len(l.parts)])
		if err != nil {
			return Arrival{}, err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO bookings (move_id, arrival_id, line_id) SELECT id, $2, $3 FROM moves WHERE posting_id = $1`, posting, id, l.ID); err != nil {
			return Arrival{}, fmt.Errorf("noting a booking: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO inspections (move_id, site_id) SELECT id, $2 FROM moves WHERE posting_id = $1 AND to_condition = 'held'`, posting, plan.arrival.SiteID); err != nil {
			return Arrival{}, fmt.Errorf("asking for an inspection: %w", err)
		}
		if err := keepSettlement(ctx, tx, l.ID, l.after); err != nil {
			return Arrival{}, err
		}
	}
	if err := plan.askLabels(ctx, tx); err != nil {
		return Arrival{}, err
	}
	tx.Touch(ledger.Topics("receive", "putaway", "row")...)
	if err := settle(ctx, tx, order); err != nil {
		return Arrival{}, err
	}
	return readArrival(ctx, tx, id)
}

// askLabels puts a label for each item and lot that came into the printer's queue.
func (p *bookInPlan) askLabels(ctx context.Context, tx *command.Tx) error {
	var goods []printer.Goods
	for _, l := range p.lines {
		for _, lot := range l.lots {
			goods = append(goods, printer.Goods{Item: l.item, Quantity: lot.quantity, Lot: lot.code, Expires: lot.expires})
		}
	}
	return printer.Ask(ctx, tx, p.arrival.SiteID, p.arrival.Number, goods)
}

// hold notes the change of an arrival and of its order, against which another arrival
// may be booked in this moment.
func hold(ctx context.Context, tx *command.Tx, arrival int64, version int32, what string) (order int64, err error) {
	if err := documents.Change(ctx, tx, documents.Arrival, arrival, version, what); err != nil {
		return 0, err
	}
	if err := tx.GetContext(ctx, &order, `SELECT order_id FROM arrivals WHERE id = $1`, arrival); err != nil {
		return 0, fmt.Errorf("reading an arrival: %w", err)
	}
	return order, documents.Change(ctx, tx, documents.PurchaseOrder, order, 0, what)
}

func keepSettlement(ctx context.Context, tx *command.Tx, line int64, s receiving.Settlement) error {
	_, err := tx.ExecContext(ctx, `UPDATE purchase_lines SET received = $2, closed = $3, cancelled = $4 WHERE id = $1`, line, s.Received, s.Closes, s.Cancelled)
	if err != nil {
		return fmt.Errorf("counting what came: %w", err)
	}
	return nil
}

// undoPlan takes one booking back.
type undoPlan struct {
	*ledger.Plan
	Booking
	settlement receiving.Settlement
}

// planUndo plans the move that takes a booking back, while the goods still stand
// where they were booked in.
func planUndo(ctx context.Context, q sqlx.QueryerContext, arrival, move int64) (*undoPlan, error) {
	a, err := readArrival(ctx, q, arrival)
	if err != nil {
		return nil, err
	}
	out := &undoPlan{}
	for _, b := range a.Bookings {
		if b.MoveID == move {
			out.Booking = b
		}
	}
	switch {
	case out.MoveID == 0:
		return nil, refusal.New("booking_unknown", "move_id", "That was not booked in on %s.", a.Number)
	case out.UndoneAt != nil:
		return nil, refusal.New("undone_already", "move_id", "This was taken back already: %s.", out.Reason).Of(refusal.Conflict)
	}
	line := lineByID(a.Lines, out.LineID)
	var state string
	if err := sqlx.GetContext(ctx, q, &state, `SELECT state FROM purchase_orders WHERE id = $1`, a.OrderID); err != nil {
		return nil, fmt.Errorf("reading an order: %w", err)
	}
	if state == "closed" {
		return nil, refusal.New("order_closed", "", "%s is closed. What came on it stays; move the goods, or send them back.", a.Order).Of(refusal.Conflict)
	}
	after := line.Received.Sub(out.Quantity)
	if after.LessThan(line.Billed) {
		return nil, refusal.New("billed", "move_id", "%s of %s are billed on line %d. Only %s can be taken back, not %s.", line.Billed, line.SKU, line.Line, line.Received.Sub(line.Billed), out.Quantity).Of(refusal.Conflict)
	}
	out.settlement = receiving.Incoming{Ordered: line.Quantity, Already: after, Allowance: line.Allowance, Unit: measure.Unit{Name: line.Unit, Whole: line.Whole}}.Settle()
	supplier, err := supplierPlace(ctx, q, a.OrderID)
	if err != nil {
		return nil, err
	}
	back := ledger.Move{Item: line.ItemID, Lot: out.LotID, Quantity: out.Quantity, From: out.PlaceID, FromState: out.Condition, To: supplier, Cost: &line.Price}
	if out.Plan, err = ledger.Describe(ctx, q, []ledger.Move{back}, nil); err != nil {
		return nil, err
	}
	if m := out.Plan.Moves[0]; m.FromAfter.IsNegative() {
		return nil, refusal.New("goods_gone", "move_id", "%s holds %s of %s, and %s were booked in. Bring them back there first, or count what is on the shelf.", m.From, m.FromBefore, line.SKU, out.Quantity).Of(refusal.Conflict)
	}
	out.Changes = append(out.Changes, ledger.Change{What: fmt.Sprintf("%s line %d", a.Order, line.Line),
		Before: line.Received.String() + " of " + line.Quantity.String(), After: after.String() + " of " + line.Quantity.String()})
	out.Button = fmt.Sprintf("Take %s of %s back", out.Quantity, line.SKU)
	return out, nil
}

// Undo takes a booking back by a counter-move. The trail shows both.
func Undo(ctx context.Context, tx *command.Tx, arrival int64, in UndoBooking) (Arrival, error) {
	reason := strings.TrimSpace(in.Reason)
	if saysTooLittle(reason) {
		return Arrival{}, refusal.New("reason_missing", "reason", "Write in a few words why this is taken back; it stays in the trail.")
	}
	order, err := hold(ctx, tx, arrival, in.Version, "took a booking back")
	if err != nil {
		return Arrival{}, err
	}
	plan, err := planUndo(ctx, tx, arrival, in.MoveID)
	if err != nil {
		return Arrival{}, err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: "take back", Document: plan.Document, Note: reason}, plan.MoveList()); err != nil {
		return Arrival{}, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE bookings SET undone_at = $2, undone_by = $3, reason = $4 WHERE move_id = $1`, in.MoveID, tx.Now, tx.Person.ID, reason); err != nil {
		return Arrival{}, fmt.Errorf("noting that a booking is undone: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `UPDATE inspections SET state = 'taken back' WHERE move_id = $1 AND state = 'waiting'`, in.MoveID); err != nil {
		return Arrival{}, fmt.Errorf("ending an inspection: %w", err)
	}
	if err := keepSettlement(ctx, tx, plan.LineID, plan.settlement); err != nil {
		return Arrival{}, err
	}
	if err := settle(ctx, tx, order); err != nil {
		return Arrival{}, err
	}
	// More may come on it again.
	if _, err := tx.ExecContext(ctx, `UPDATE arrivals SET state = 'open' WHERE id = $1`, arrival); err != nil {
		return Arrival{}, fmt.Errorf("opening an arrival again: %w", err)
	}
	tx.Touch(ledger.Topics("receive", "putaway", "row")...)
	return readArrival(ctx, tx, arrival)
}
