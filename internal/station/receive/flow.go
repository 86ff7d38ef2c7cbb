package receive

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

var topics = []string{"receive", "row"}

// CreateOrder writes a purchase order, as a draft or placed at once.
func CreateOrder(ctx context.Context, tx *command.Tx, in NewOrder) (Order, error) {
	expected, err := documents.Day("expected_on", in.ExpectedOn)
	if err != nil {
		return Order{}, err
	}
	if len(in.Lines) == 0 {
		return Order{}, refusal.New("lines_missing", "lines", "The order has no lines. Add what is to be bought.")
	}
	var kind string
	if err := tx.GetContext(ctx, &kind, `SELECT kind FROM parties WHERE id = $1`, in.SupplierID); err != nil || kind != "supplier" {
		return Order{}, refusal.New("supplier_unknown", "supplier_id", "Choose a supplier for the order.")
	}
	state, change := "draft", "wrote it"
	if in.Place {
		state, change = "placed", "placed it"
	}
	var id int64
	err = tx.GetContext(ctx, &id, `INSERT INTO purchase_orders (supplier_id, site_id, expected_on, state, note, changed_by, changed_at, last_change)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8) RETURNING id`, in.SupplierID, in.SiteID, expected, state, in.Note, tx.Person.ID, tx.Now, change)
	if err != nil {
		return Order{}, fmt.Errorf("writing a purchase order: %w", err)
	}
	for i, l := range in.Lines {
		if err := createLine(ctx, tx, id, i, l); err != nil {
			return Order{}, err
		}
	}
	tx.Touch(topics...)
	return readOrder(ctx, tx, id)
}

func createLine(ctx context.Context, tx *command.Tx, order int64, i int, l NewLine) error {
	field := fmt.Sprintf("lines[%d]", i)
	item, err := catalog.ItemByID(ctx, tx, l.ItemID)
	if err != nil {
		return refusal.New("item_unknown", field+".item_id", "Line %d has no item. Find one by SKU, GTIN or words.", i+1)
	}
	quantity, err := packed(field, l, item)
	if err != nil {
		return err
	}
	price := item.Cost
	if l.Price != "" {
		if price, err = decimal.NewFromString(l.Price); err != nil || price.IsNegative() || price.GreaterThan(measure.Most) {
			return refusal.New("price_malformed", field+".price", "%q is not a price.", l.Price)
		}
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO purchase_lines (order_id, line, item_id, quantity, price) VALUES ($1, $2, $3, $4, $5)`,
		order, i+1, item.ID, quantity, price)
	if err != nil {
		return fmt.Errorf("writing a purchase line: %w", err)
	}
	return nil
}

// packed turns a quantity of packs into base units.
func packed(field string, l NewLine, item catalog.Item) (decimal.Decimal, error) {
	if l.PackID == 0 {
		return measure.Parse(field+".quantity", l.Quantity, item.Unit())
	}
	for _, p := range item.Packs {
		if p.ID == l.PackID {
			n, err := measure.Parse(field+".quantity", l.Quantity, measure.Unit{Name: p.Name, Whole: true})
			if err != nil {
				return n, err
			}
			base := n.Mul(p.Holds)
			return base, measure.Check(field+".quantity", base, item.Unit())
		}
	}
	return decimal.Zero, refusal.New("pack_unknown", field+".pack_id", "%s has no such pack.", item.SKU)
}

// PlaceOrder places a draft.
func PlaceOrder(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := documents.Change(ctx, tx, documents.PurchaseOrder, id, version, "placed it"); err != nil {
		return Order{}, err
	}
	result, err := tx.ExecContext(ctx, `UPDATE purchase_orders SET state = 'placed' WHERE id = $1 AND state = 'draft'`, id)
	if err != nil {
		return Order{}, fmt.Errorf("placing an order: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return Order{}, refusal.New("order_placed", "", "The order is placed already.").Of(refusal.Conflict)
	}
	tx.Touch(topics...)
	return readOrder(ctx, tx, id)
}

// OpenArrival opens an arrival for a placed order at a dock of its site.
func OpenArrival(ctx context.Context, tx *command.Tx, order int64, dock int32) (Arrival, error) {
	o, err := readOrder(ctx, tx, order)
	if err != nil {
		return Arrival{}, err
	}
	if o.State != "placed" && o.State != "part in" {
		return Arrival{}, refusal.New("order_not_open", "order_id", "%s is %s. An arrival needs an order that is placed and not all in.", o.Number, o.State).Of(refusal.Conflict)
	}
	place, err := catalog.PlaceByID(ctx, tx, dock)
	if err != nil || place.Kind != "dock" || *place.SiteID != o.SiteID {
		return Arrival{}, refusal.New("dock_unknown", "dock_id", "Choose a dock of the site that %s comes to.", o.Number)
	}
	var id int64
	err = tx.GetContext(ctx, &id, `INSERT INTO arrivals (order_id, site_id, dock_id, state, opened_at, changed_by, changed_at, last_change)
		VALUES ($1, $2, $3, 'open', $4, $5, $4, 'opened it') RETURNING id`, order, o.SiteID, dock, tx.Now, tx.Person.ID)
	if err != nil {
		return Arrival{}, fmt.Errorf("opening an arrival: %w", err)
	}
	tx.Touch(topics...)
	return readArrival(ctx, tx, id)
}

// bookInPlan is a plan and what its documents need.
type bookInPlan struct {
	*ledger.Plan
	arrival Arrival
	// lots and lines are of each move, in order.
	lots  []plannedLot
	lines []plannedLine
}

type plannedLot struct {
	field   string
	item    catalog.Item
	code    string
	expires *time.Time
}

type plannedLine struct {
	OrderLine
	here decimal.Decimal
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
	var supplier int32
	if err := sqlx.GetContext(ctx, q, &supplier, `SELECT p.place_id FROM purchase_orders o JOIN parties p ON p.id = o.supplier_id WHERE o.id = $1`, arrival.OrderID); err != nil {
		return nil, fmt.Errorf("reading the supplier: %w", err)
	}
	plan := &bookInPlan{arrival: arrival}
	var moves []ledger.Move
	codes := map[int]string{}
	seen := map[int64]bool{}
	total := decimal.Zero
	for i, l := range in.Lines {
		field := fmt.Sprintf("lines[%d]", i)
		line, item, checked, err := checkLine(ctx, q, field, arrival, l, now)
		if err != nil {
			return nil, err
		}
		if seen[l.LineID] {
			return nil, refusal.New("line_twice", field+".line_id", "Line %d stands twice. Put its whole quantity in one place.", line.Line)
		}
		seen[l.LineID] = true
		plan.lines = append(plan.lines, plannedLine{line, checked.Here})
		total = total.Add(checked.Here)
		price := line.Price
		move := ledger.Move{Item: line.ItemID, Quantity: checked.Here, From: supplier, To: arrival.DockID, Cost: &price}
		if len(checked.Lots) == 0 {
			moves, plan.lots = append(moves, move), append(plan.lots, plannedLot{})
		}
		for j, lot := range checked.Lots {
			codes[len(moves)] = lot.Code
			move.Quantity = lot.Quantity
			moves = append(moves, move)
			plan.lots = append(plan.lots, plannedLot{fmt.Sprintf("%s.lots[%d]", field, j), item, lot.Code, lot.Expires})
		}
	}
	if len(moves) == 0 {
		return nil, refusal.New("nothing_moves", "lines", "Nothing is entered. Enter what came, or scan it.")
	}
	if plan.Plan, err = ledger.Describe(ctx, q, moves, codes); err != nil {
		return nil, err
	}
	return plan, plan.tell(ctx, q, total)
}

func checkLine(ctx context.Context, q sqlx.QueryerContext, field string, arrival Arrival, l BookInLine, now time.Time) (OrderLine, catalog.Item, receiving.Line, error) {
	var line OrderLine
	for _, candidate := range arrival.Lines {
		if candidate.ID == l.LineID {
			line = candidate
		}
	}
	if line.ID == 0 {
		return line, catalog.Item{}, receiving.Line{}, refusal.New("line_unknown", field+".line_id", "That line is not on %s.", arrival.Order)
	}
	item, err := catalog.ItemByID(ctx, q, line.ItemID)
	if err != nil {
		return line, item, receiving.Line{}, err
	}
	here, err := measure.Parse(field+".quantity", l.Quantity, item.Unit())
	if err != nil {
		return line, item, receiving.Line{}, err
	}
	check := receiving.Line{Field: field, SKU: item.SKU, Tracking: item.Tracking, Unit: item.Unit(), Ordered: line.Quantity, Already: line.Received, Here: here}
	for j, lot := range l.Lots {
		at := fmt.Sprintf("%s.lots[%d]", field, j)
		in := receiving.LotIn{Code: lot.Code}
		if in.Quantity, err = measure.Parse(at+".quantity", lot.Quantity, item.Unit()); err != nil {
			return line, item, check, err
		}
		if lot.ExpiresOn != "" {
			day, err := documents.Day(at+".expires_on", lot.ExpiresOn)
			if err != nil {
				return line, item, check, err
			}
			in.Expires = &day
		}
		check.Lots = append(check.Lots, in)
	}
	return line, item, check, check.Check(now.Truncate(24 * time.Hour))
}

// tell adds what the booking changes and what is good to know.
func (p *bookInPlan) tell(ctx context.Context, q sqlx.QueryerContext, total decimal.Decimal) error {
	for _, l := range p.lines {
		f, err := ledger.FiguresOf(ctx, q, l.ItemID, p.arrival.SiteID)
		if err != nil {
			return err
		}
		after := l.Received.Add(l.here)
		closes := ""
		if after.Equal(l.Quantity) {
			closes = ", closes"
		}
		p.Changes = append(p.Changes,
			ledger.Change{What: l.SKU + " on hand", Before: f.Physical.String(), After: f.Physical.Add(l.here).String()},
			ledger.Change{What: l.SKU + " free", Before: f.Free.String(), After: f.Free.Add(l.here).String()},
			ledger.Change{What: fmt.Sprintf("%s line %d", p.arrival.Order, l.Line), Before: l.Received.String() + " of " + l.Quantity.String(), After: after.String() + " of " + l.Quantity.String() + closes})
		if f.Promised.IsPositive() && f.Free.IsNegative() {
			p.Notes = append(p.Notes, fmt.Sprintf("Waiting orders lack %s of %s: this covers %s.", f.Free.Neg(), l.SKU, decimal.Min(f.Free.Neg(), l.here)))
		}
	}
	p.Button = fmt.Sprintf("Book in %s at %s", total, p.arrival.Dock)
	return nil
}

// PostBookIn books in what came.
func PostBookIn(ctx context.Context, tx *command.Tx, id int64, in BookIn) (Arrival, error) {
	if err := documents.Change(ctx, tx, documents.Arrival, id, in.Version, "booked goods in"); err != nil {
		return Arrival{}, err
	}
	var order int64
	if err := tx.GetContext(ctx, &order, `SELECT order_id FROM arrivals WHERE id = $1`, id); err != nil {
		return Arrival{}, fmt.Errorf("reading an arrival: %w", err)
	}
	// Another arrival may be booked in against the same order this moment.
	if err := documents.Change(ctx, tx, documents.PurchaseOrder, order, 0, "booked goods in"); err != nil {
		return Arrival{}, err
	}
	plan, err := planBookIn(ctx, tx, id, in, tx.Now)
	if err != nil {
		return Arrival{}, err
	}
	moves := plan.MoveList()
	for i, lot := range plan.lots {
		if lot.code == "" {
			continue
		}
		lotID, err := catalog.EnsureLot(ctx, tx, lot.field, lot.item, lot.code, lot.expires, tx.Now)
		if err != nil {
			return Arrival{}, err
		}
		moves[i].Lot = &lotID
	}
	if err := ledger.Post(ctx, tx, ledger.Head{Kind: "book in", Document: plan.arrival.Number, Note: plan.arrival.Order}, moves); err != nil {
		return Arrival{}, err
	}
	for _, l := range plan.lines {
		if _, err := tx.ExecContext(ctx, `UPDATE purchase_lines SET received = received + $2 WHERE id = $1`, l.ID, l.here); err != nil {
			return Arrival{}, fmt.Errorf("counting what came: %w", err)
		}
	}
	tx.Touch(ledger.Topics("receive", "putaway", "row")...)
	return settle(ctx, tx, id, order)
}

// settle lets the states of the order and its arrival follow from the lines.
func settle(ctx context.Context, tx *command.Tx, id, order int64) (Arrival, error) {
	lines, err := readLines(ctx, tx, order)
	if err != nil {
		return Arrival{}, err
	}
	var ordered, received []decimal.Decimal
	for _, l := range lines {
		ordered, received = append(ordered, l.Quantity), append(received, l.Received)
	}
	state := receiving.State(ordered, received)
	if _, err := tx.ExecContext(ctx, `UPDATE purchase_orders SET state = $2 WHERE id = $1`, order, state); err != nil {
		return Arrival{}, fmt.Errorf("setting an order's state: %w", err)
	}
	if state == "all in" {
		if _, err := tx.ExecContext(ctx, `UPDATE arrivals SET state = 'done' WHERE order_id = $1`, order); err != nil {
			return Arrival{}, fmt.Errorf("closing arrivals: %w", err)
		}
	}
	return readArrival(ctx, tx, id)
}

// CloseArrival closes an arrival on which no more comes.
func CloseArrival(ctx context.Context, tx *command.Tx, id int64, version int32) (Arrival, error) {
	if err := documents.Change(ctx, tx, documents.Arrival, id, version, "closed it"); err != nil {
		return Arrival{}, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE arrivals SET state = 'done' WHERE id = $1`, id); err != nil {
		return Arrival{}, fmt.Errorf("closing an arrival: %w", err)
	}
	tx.Touch(topics...)
	return readArrival(ctx, tx, id)
}
