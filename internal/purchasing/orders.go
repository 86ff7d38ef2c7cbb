package purchasing

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

var topics = []string{"receive", "row"}

// CreateOrder writes a purchase order, as a draft or placed at once. A draft may be
// somebody's request or a supplier's quote.
func CreateOrder(ctx context.Context, tx *command.Tx, in NewOrder) (Order, error) {
	if len(in.Lines) == 0 {
		return Order{}, refusal.New("lines_missing", "lines", "The order has no lines. Add what is to be bought.")
	}
	var supplier struct {
		Kind, Carrier, Terms string
		Place                int32 `db:"place_id"`
	}
	if err := tx.GetContext(ctx, &supplier, `SELECT kind, carrier, terms, place_id FROM parties WHERE id = $1`, in.SupplierID); err != nil || supplier.Kind != "supplier" {
		return Order{}, refusal.New("supplier_unknown", "supplier_id", "Choose a supplier for the order.")
	}
	if in.Carrier == "" {
		in.Carrier = supplier.Carrier
	}
	if in.Terms == "" {
		in.Terms = supplier.Terms
	}
	if in.BegunAs == "" {
		in.BegunAs = "order"
	}
	var until *time.Time
	if in.QuoteUntil != "" {
		day, err := documents.Day("quote_until", in.QuoteUntil)
		if err != nil {
			return Order{}, err
		}
		until = &day
	}
	id, err := inbound.Create(ctx, tx, inbound.New{Kind: inbound.Purchase, SiteID: in.SiteID, PartyID: in.SupplierID, SourceID: supplier.Place,
		State: states.Draft, Note: in.Note, Change: "wrote it"})
	if err != nil {
		return Order{}, err
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO purchase_orders (order_id, supplier_id, began_as, quote, quote_until) VALUES ($1, $2, $3, $4, $5)`,
		id, in.SupplierID, in.BegunAs, strings.TrimSpace(in.Quote), until)
	if err != nil {
		return Order{}, fmt.Errorf("writing a purchase order: %w", err)
	}
	if err := in.OrderTerms.keep(ctx, tx, id); err != nil {
		return Order{}, err
	}
	for i, l := range in.Lines {
		if err := keepLine(ctx, tx, id, in.SiteID, i, l); err != nil {
			return Order{}, err
		}
	}
	if err := keepLanded(ctx, tx, id); err != nil {
		return Order{}, err
	}
	tx.Touch(topics...)
	if in.Place {
		return PlaceOrder(ctx, tx, id, 0)
	}
	return readOrder(ctx, tx, id)
}

// keep writes the terms of an order.
func (t OrderTerms) keep(ctx context.Context, tx *command.Tx, order int64) error {
	expected, err := documents.Day("expected_on", t.ExpectedOn)
	if err != nil {
		return err
	}
	freight := decimal.Zero
	if t.Freight != "" {
		if freight, err = measure.ParsePrice("freight", t.Freight); err != nil {
			return err
		}
		if !freight.Equal(freight.Truncate(2)) {
			return refusal.New("price_malformed", "freight", "%s has more than two decimals. Carriage is in whole hundredths.", freight)
		}
	}
	by := t.FreightBy
	if by == "" {
		by = "value"
	}
	_, err = tx.ExecContext(ctx, `
		WITH o AS (UPDATE inbound_orders SET expected_on = $2, carrier = $3 WHERE id = $1)
		UPDATE purchase_orders SET terms = $4, freight = $5, freight_by = $6 WHERE order_id = $1`, order, expected, t.Carrier, t.Terms, freight, by)
	if err != nil {
		return fmt.Errorf("writing an order's terms: %w", err)
	}
	return nil
}

// keepLine writes a line, a new one or one that is changed. A line on which goods came
// stays with its item and keeps at least what came.
func keepLine(ctx context.Context, tx *command.Tx, order int64, site int32, i int, l NewLine) error {
	field := fmt.Sprintf("lines[%d]", i)
	var needed *time.Time
	if l.NeededOn != "" {
		day, err := documents.Day(field+".needed_on", l.NeededOn)
		if err != nil {
			return err
		}
		needed = &day
	}
	var item catalog.Item
	if l.ItemID != 0 {
		var err error
		if item, err = catalog.ItemByID(ctx, tx, l.ItemID); err != nil {
			return refusal.New("item_unknown", field+".item_id", "Line %d has no item. Find one by SKU, GTIN or words.", i+1)
		}
		if err := mayBuy(ctx, tx, field, item, site); err != nil {
			return err
		}
	} else if strings.TrimSpace(l.Text) == "" {
		return refusal.New("item_unknown", field+".item_id", "Line %d has no item. Find one by SKU, GTIN or words, or write what it is, such as carriage.", i+1)
	}
	quantity, err := item.Count(field, l.PackID, l.Quantity)
	if err != nil {
		return err
	}
	price := item.Cost
	if l.Price != "" {
		if price, err = measure.ParsePrice(field+".price", l.Price); err != nil {
			return err
		}
	}
	if l.ID == 0 {
		return addLine(ctx, tx, order, item, l, quantity, price, needed)
	}
	return changeLine(ctx, tx, order, i, item, l, quantity, price, needed)
}

func addLine(ctx context.Context, tx *command.Tx, order int64, item catalog.Item, l NewLine, quantity, price decimal.Decimal, needed *time.Time) error {
	id, err := inbound.AddLine(ctx, tx, order, inbound.NewLine{Item: item.ID, Text: l.Text, Pack: l.PackID, Quantity: quantity,
		Allowance: receiving.Allowance{Short: item.ShortPct, Over: item.OverPct}, Covers: l.covers})
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO purchase_lines (line_id, needed_on, price) VALUES ($1, $2, $3)`, id, needed, price); err != nil {
		return fmt.Errorf("writing a purchase line: %w", err)
	}
	return nil
}

func changeLine(ctx context.Context, tx *command.Tx, order int64, i int, item catalog.Item, l NewLine, quantity, price decimal.Decimal, needed *time.Time) error {
	field := fmt.Sprintf("lines[%d]", i)
	var was struct {
		Item             int32 `db:"item_id"`
		Received, Billed decimal.Decimal
		SKU              string
	}
	err := tx.GetContext(ctx, &was, `
		SELECT coalesce(l.item_id, 0) AS item_id, l.received, x.billed, coalesce(i.sku, l.text) AS sku
		  FROM inbound_lines l JOIN purchase_lines x ON x.line_id = l.id LEFT JOIN items i ON i.id = l.item_id
		 WHERE l.id = $1 AND l.order_id = $2`, l.ID, order)
	least := decimal.Max(was.Received, was.Billed)
	switch {
	case err != nil:
		return refusal.New("line_unknown", field+".id", "That line is not on this order.")
	case was.Item != item.ID:
		return refusal.New("line_item_stands", field+".item_id", "A line keeps its item. Remove line %d and write another.", i+1)
	case quantity.LessThan(least):
		return refusal.New("below_received", field+".quantity", "%s of %s came already, and %s are billed: the line cannot be for %s.",
			was.Received, was.SKU, was.Billed, quantity).With("least", least)
	}
	if err := inbound.ChangeLine(ctx, tx, l.ID, l.Text, l.PackID, quantity); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE purchase_lines SET needed_on = $2, price = $3 WHERE line_id = $1`, l.ID, needed, price); err != nil {
		return fmt.Errorf("changing a purchase line: %w", err)
	}
	return nil
}

// mayBuy refuses an item that is not bought, or not kept at the site.
func mayBuy(ctx context.Context, q sqlx.QueryerContext, field string, item catalog.Item, site int32) error {
	if !item.Bought {
		return refusal.New("item_not_bought", field+".item_id", "%s is not an item that is bought. Change that in the catalog first, or leave it out.", item.SKU)
	}
	return catalog.Allowed(ctx, q, field+".item_id", item, site)
}

// lineByID finds a line; there is none when its id is 0.
func lineByID(lines []Line, id int64) (line Line) {
	if i := slices.IndexFunc(lines, func(l Line) bool { return l.ID == id }); i >= 0 {
		line = lines[i]
	}
	return line
}

// Amend changes an open order: its terms, and its lines as far as nothing came on them.
// What a lead approved is not approved any more when it comes to more.
func Amend(ctx context.Context, tx *command.Tx, id int64, in Amended) (Order, error) {
	if err := inbound.Hold(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, in.Version, "changed it"); err != nil {
		return Order{}, err
	}
	before, err := readOrder(ctx, tx, id)
	if err != nil {
		return before, err
	}
	if before.State == states.Closed || before.State == states.AllIn {
		return before, refusal.New("order_closed", "", "%s is %s. Its lines stay as they are; write what is to be kept into its note.", before.Number, before.State).Of(refusal.Conflict)
	}
	if err := in.OrderTerms.keep(ctx, tx, id); err != nil {
		return before, err
	}
	if err := before.amendLines(ctx, tx, in); err != nil {
		return before, err
	}
	if err := keepLanded(ctx, tx, id); err != nil {
		return before, err
	}
	after, err := readOrder(ctx, tx, id)
	if err != nil {
		return after, err
	}
	if err := after.settle(ctx, tx, before); err != nil {
		return after, err
	}
	tx.Touch(ledger.Topics(topics...)...)
	return readOrder(ctx, tx, id)
}

// amendLines changes, adds and removes lines; those that are not named stay.
func (o Order) amendLines(ctx context.Context, tx *command.Tx, in Amended) error {
	named := map[int64]bool{}
	for i, l := range in.Lines {
		if l.ID != 0 && named[l.ID] {
			return refusal.New("line_twice", fmt.Sprintf("lines[%d].id", i), "A line stands twice. Write its whole quantity once.")
		}
		named[l.ID] = true
		if err := keepLine(ctx, tx, o.ID, o.SiteID, i, l); err != nil {
			return err
		}
	}
	for i, line := range in.Remove {
		field := fmt.Sprintf("remove[%d]", i)
		if named[line] {
			return refusal.New("line_twice", field, "A line is both changed and removed. Say one of them.")
		}
		if err := o.removeLine(ctx, tx, field, line); err != nil {
			return err
		}
	}
	return nil
}

// settle lets lines, approval and state follow from how the order was changed.
func (o Order) settle(ctx context.Context, tx *command.Tx, before Order) error {
	if len(o.Lines) == 0 {
		return refusal.New("lines_missing", "lines", "The order would have no lines. Close it instead.")
	}
	// Lines close and open by what came, which their new quantity may change.
	var counted []inbound.Counted
	for _, l := range o.Lines {
		if l.Received.IsPositive() {
			counted = append(counted, inbound.Counted{Line: l.ID, Settlement: l.After(l.Received)})
		}
	}
	if err := inbound.Count(ctx, tx, counted...); err != nil {
		return err
	}
	if o.Value.GreaterThan(before.Value) {
		if _, err := tx.ExecContext(ctx, `UPDATE purchase_orders SET approved_by = NULL, approved_at = NULL WHERE order_id = $1`, o.ID); err != nil {
			return fmt.Errorf("taking an approval back: %w", err)
		}
		o.ApprovedBy = ""
	}
	if before.State == states.Draft {
		return nil
	}
	if err := o.mayStand(tx.Person); err != nil {
		return err
	}
	if err := o.approveAtOnce(ctx, tx); err != nil {
		return err
	}
	return inbound.Settle(ctx, tx, o.ID)
}

// removeLine takes a line off the order, as long as nothing ever came on it.
func (o Order) removeLine(ctx context.Context, tx *command.Tx, field string, id int64) error {
	l := lineByID(o.Lines, id)
	if l.ID == 0 {
		return refusal.New("line_unknown", field, "That line is not on this order.")
	}
	if l.Received.IsPositive() || l.Billed.IsPositive() || l.Closed {
		return refusal.New("line_stands", field, "Line %d (%s) cannot be removed: %s came on it, and %s are billed.", l.Number, l.SKU, l.Received, l.Billed).Of(refusal.Conflict)
	}
	var booked bool
	if err := tx.GetContext(ctx, &booked, `SELECT EXISTS (SELECT FROM bookings WHERE line_id = $1)`, l.ID); err != nil {
		return fmt.Errorf("reading bookings: %w", err)
	}
	if booked {
		return refusal.New("line_stands", field, "Line %d (%s) cannot be removed: what came on it was taken back, and the trail names it. Close the order instead.", l.Number, l.SKU).Of(refusal.Conflict)
	}
	return inbound.RemoveLine(ctx, tx, l.ID)
}

// toApprove tells whether the order comes to more than may be bought unasked, and no lead
// has approved it.
func (o Order) toApprove() bool {
	return o.ApproveAbove != nil && o.Value.GreaterThan(*o.ApproveAbove) && o.ApprovedBy == ""
}

// mayStand refuses an order that a lead has to approve and has not. A lead approves by
// placing it.
func (o Order) mayStand(p people.Person) error {
	if !o.toApprove() {
		return nil
	}
	if leads, err := p.MayLead(); err != nil || leads {
		return err
	}
	return refusal.New("approval_missing", "", "%s comes to %s, above %s: a lead has to approve it first.", o.Number, o.Value, o.ApproveAbove).Of(refusal.Conflict).With("value", o.Value).With("above", *o.ApproveAbove)
}

// approveAtOnce notes that the lead who places or changes an order approves it by that.
func (o Order) approveAtOnce(ctx context.Context, tx *command.Tx) error {
	if !o.toApprove() {
		return nil
	}
	if _, err := tx.ExecContext(ctx, `UPDATE purchase_orders SET approved_by = $2, approved_at = $3 WHERE order_id = $1`, o.ID, tx.Person.ID, tx.Now); err != nil {
		return fmt.Errorf("approving an order: %w", err)
	}
	return nil
}

// Approve lets an order be placed that comes to more than may be bought unasked.
func Approve(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, version, "approved it"); err != nil {
		return Order{}, err
	}
	result, err := tx.ExecContext(ctx, `
		UPDATE purchase_orders p SET approved_by = $2, approved_at = $3
		  FROM inbound_orders o WHERE o.id = p.order_id AND o.id = $1 AND p.approved_by IS NULL AND o.state <> 'closed'`, id, tx.Person.ID, tx.Now)
	if err != nil {
		return Order{}, fmt.Errorf("approving an order: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return Order{}, refusal.New("order_approved", "", "The order is approved already, or closed.").Of(refusal.Conflict)
	}
	tx.Touch(topics...)
	return readOrder(ctx, tx, id)
}

// PlaceOrder places a draft with its supplier. A quote whose prices have run out, and
// what a lead has not approved, is refused.
func PlaceOrder(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, version, "placed it"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err != nil {
		return o, err
	}
	switch {
	case o.State != states.Draft:
		return o, refusal.New("order_placed", "", "The order is placed already.").Of(refusal.Conflict)
	case !slices.ContainsFunc(o.Lines, func(l Line) bool { return l.Stock() }):
		return o, refusal.New("lines_missing", "lines", "%s has no line that anything could arrive on. Add an item.", o.Number)
	case o.QuoteUntil != nil && *o.QuoteUntil < tx.Now.Format(time.DateOnly):
		return o, refusal.New("quote_over", "", "The prices of quote %s stood until %s. Ask %s for another, and write its prices.", o.Quote, *o.QuoteUntil, o.Supplier).Of(refusal.Conflict)
	}
	if err := o.mayStand(tx.Person); err != nil {
		return o, err
	}
	if err := inbound.Place(ctx, tx, id); err != nil {
		return o, err
	}
	if err := o.approveAtOnce(ctx, tx); err != nil {
		return o, err
	}
	tx.Touch(topics...)
	return readOrder(ctx, tx, id)
}

// CloseOrder closes an order for good. What is still missing on it is cancelled, what
// waited for it goes into stock; nothing but its note can be changed from then on.
func CloseOrder(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := inbound.Hold(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, version, "closed it"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err != nil {
		return o, err
	}
	if o.State == states.Closed {
		return o, refusal.New("order_closed", "", "%s is closed already.", o.Number).Of(refusal.Conflict)
	}
	if err := inbound.Close(ctx, tx, id); err != nil {
		return o, err
	}
	tx.Touch(ledger.Topics(topics...)...)
	return readOrder(ctx, tx, id)
}

// Annotate writes the order's note, in any state.
func Annotate(ctx context.Context, tx *command.Tx, id int64, version int32, note string) (Order, error) {
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, version, "wrote its note"); err != nil {
		return Order{}, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE inbound_orders SET note = $2 WHERE id = $1`, id, note); err != nil {
		return Order{}, fmt.Errorf("writing a note: %w", err)
	}
	tx.Touch(topics...)
	return readOrder(ctx, tx, id)
}

// ReleaseOrder lets goods go into stock that wait for the rest of their order, without
// the rest.
func ReleaseOrder(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := inbound.Hold(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, version, "let waiting goods go"); err != nil {
		return Order{}, err
	}
	waiting, err := inbound.WaitingFor(ctx, tx, id)
	if err != nil {
		return Order{}, err
	}
	if len(waiting) == 0 {
		return Order{}, refusal.New("nothing_waits", "", "Nothing waits for the rest of this order.").Of(refusal.Conflict)
	}
	if err := inbound.Release(ctx, tx, id, "let go without the rest"); err != nil {
		return Order{}, err
	}
	return readOrder(ctx, tx, id)
}
