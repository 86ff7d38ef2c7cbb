package receive

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
	"lanternrow/internal/documents"
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
	var supplier struct{ Kind, Carrier, Terms string }
	if err := tx.GetContext(ctx, &supplier, `SELECT kind, carrier, terms FROM parties WHERE id = $1`, in.SupplierID); err != nil || supplier.Kind != "supplier" {
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
	var id int64
	err := tx.GetContext(ctx, &id, `INSERT INTO purchase_orders (supplier_id, site_id, expected_on, began_as, quote, quote_until, state, note, changed_by, changed_at, last_change)
		VALUES ($1, $2, $3, $4, $5, $6, 'draft', $7, $8, $9, 'wrote it') RETURNING id`,
		in.SupplierID, in.SiteID, tx.Now, in.BegunAs, strings.TrimSpace(in.Quote), until, in.Note, tx.Person.ID, tx.Now)
	if err != nil {
		return Order{}, fmt.Errorf("writing a purchase order: %w", err)
	}
	documents.Made(tx, documents.PurchaseOrder, id)
	if err := in.OrderTerms.keep(ctx, tx, id); err != nil {
		return Order{}, err
	}
	for i, l := range in.Lines {
		if err := keepLine(ctx, tx, id, in.SiteID, i, l); err != nil {
			return Order{}, err
		}
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
	_, err = tx.ExecContext(ctx, `UPDATE purchase_orders SET expected_on = $2, carrier = $3, terms = $4, freight = $5, freight_by = $6 WHERE id = $1`, order, expected, t.Carrier, t.Terms, freight, by)
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
	quantity, err := packed(field, l.PackID, l.Quantity, item)
	if err != nil {
		return err
	}
	price := item.Cost
	if l.Price != "" {
		if price, err = measure.ParsePrice(field+".price", l.Price); err != nil {
			return err
		}
	}
	var kept int64
	if l.ID == 0 {
		err = tx.GetContext(ctx, &kept, `
			INSERT INTO purchase_lines (order_id, line, item_id, text, pack_id, needed_on, quantity, price, short_pct, over_pct, covers)
			VALUES ($1, (SELECT coalesce(max(line), 0) + 1 FROM purchase_lines WHERE order_id = $1), nullif($2, 0), $3, nullif($4, 0), $5, $6, $7, $8, $9, $10) RETURNING id`,
			order, item.ID, strings.TrimSpace(l.Text), l.PackID, needed, quantity, price, item.ShortPct, item.OverPct, l.covers)
		if err != nil {
			return fmt.Errorf("writing a purchase line: %w", err)
		}
		return nil
	}
	var was struct {
		Item             int32 `db:"item_id"`
		Received, Billed decimal.Decimal
		SKU              string
	}
	err = tx.GetContext(ctx, &was, `SELECT coalesce(l.item_id, 0) AS item_id, l.received, l.billed, coalesce(i.sku, l.text) AS sku FROM purchase_lines l LEFT JOIN items i ON i.id = l.item_id WHERE l.id = $1 AND l.order_id = $2`, l.ID, order)
	switch {
	case err != nil:
		return refusal.New("line_unknown", field+".id", "That line is not on this order.")
	case was.Item != item.ID:
		return refusal.New("line_item_stands", field+".item_id", "A line keeps its item. Remove line %d and write another.", i+1)
	case quantity.LessThan(decimal.Max(was.Received, was.Billed)):
		return refusal.New("below_received", field+".quantity", "%s of %s came already, and %s are billed: the line cannot be for %s.", was.Received, was.SKU, was.Billed, quantity).With("least", decimal.Max(was.Received, was.Billed))
	}
	_, err = tx.ExecContext(ctx, `UPDATE purchase_lines SET text = $2, pack_id = nullif($3, 0), needed_on = $4, quantity = $5, price = $6 WHERE id = $1`,
		l.ID, strings.TrimSpace(l.Text), l.PackID, needed, quantity, price)
	if err != nil {
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
func lineByID(lines []OrderLine, id int64) (line OrderLine) {
	if i := slices.IndexFunc(lines, func(l OrderLine) bool { return l.ID == id }); i >= 0 {
		line = lines[i]
	}
	return line
}

// packed turns a quantity of packs into base units. What is no stock counts as it is.
func packed(field string, pack int32, text string, item catalog.Item) (decimal.Decimal, error) {
	if item.ID == 0 {
		return measure.Parse(field+".quantity", text, measure.Unit{})
	}
	if pack == 0 {
		return measure.Parse(field+".quantity", text, item.Unit())
	}
	p, known := item.Pack(pack)
	if !known {
		return decimal.Zero, refusal.New("pack_unknown", field+".pack_id", "%s has no such pack.", item.SKU)
	}
	n, err := measure.Parse(field+".quantity", text, measure.Unit{Name: p.Name, Whole: true})
	if err != nil {
		return n, err
	}
	base := n.Mul(p.Holds)
	return base, measure.Check(field+".quantity", base, item.Unit())
}

// Amend changes an open order: its terms, and its lines as far as nothing came on them.
// What a lead approved is not approved any more when it comes to more.
func Amend(ctx context.Context, tx *command.Tx, id int64, in Amended) (Order, error) {
	if err := holdOrders(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := documents.Change(ctx, tx, documents.PurchaseOrder, id, in.Version, "changed it"); err != nil {
		return Order{}, err
	}
	before, err := readOrder(ctx, tx, id)
	if err != nil {
		return before, err
	}
	if before.State == "closed" || before.State == "all in" {
		return before, refusal.New("order_closed", "", "%s is %s. Its lines stay as they are; write what is to be kept into its note.", before.Number, before.State).Of(refusal.Conflict)
	}
	if err := in.OrderTerms.keep(ctx, tx, id); err != nil {
		return before, err
	}
	named := map[int64]bool{}
	for i, l := range in.Lines {
		if l.ID != 0 && named[l.ID] {
			return before, refusal.New("line_twice", fmt.Sprintf("lines[%d].id", i), "A line stands twice. Write its whole quantity once.")
		}
		named[l.ID] = true
		if err := keepLine(ctx, tx, id, before.SiteID, i, l); err != nil {
			return before, err
		}
	}
	for i, line := range in.Remove {
		field := fmt.Sprintf("remove[%d]", i)
		if named[line] {
			return before, refusal.New("line_twice", field, "A line is both changed and removed. Say one of them.")
		}
		if err := before.removeLine(ctx, tx, field, line); err != nil {
			return before, err
		}
	}
	after, err := readOrder(ctx, tx, id)
	if err != nil {
		return after, err
	}
	if len(after.Lines) == 0 {
		return before, refusal.New("lines_missing", "lines", "The order would have no lines. Close it instead.")
	}
	// Lines close and open by what came, which their new quantity may change.
	for _, l := range after.Lines {
		if !l.Received.IsPositive() {
			continue
		}
		s := receiving.Incoming{Ordered: l.Quantity, Already: l.Received, Allowance: l.Allowance, Unit: l.unit()}.Settle()
		if err := keepSettlement(ctx, tx, l.ID, s); err != nil {
			return after, err
		}
	}
	if after.Value.GreaterThan(before.Value) {
		if _, err := tx.ExecContext(ctx, `UPDATE purchase_orders SET approved_by = NULL, approved_at = NULL WHERE id = $1`, id); err != nil {
			return after, fmt.Errorf("taking an approval back: %w", err)
		}
		after.ApprovedBy = ""
	}
	if before.State != "draft" {
		if err := after.mayStand(tx.Person); err != nil {
			return after, err
		}
		if err := after.approveAtOnce(ctx, tx); err != nil {
			return after, err
		}
		if err := settle(ctx, tx, id); err != nil {
			return after, err
		}
	}
	tx.Touch(ledger.Topics(topics...)...)
	return readOrder(ctx, tx, id)
}

// removeLine takes a line off the order, as long as nothing ever came on it.
func (o Order) removeLine(ctx context.Context, tx *command.Tx, field string, id int64) error {
	l := lineByID(o.Lines, id)
	if l.ID == 0 {
		return refusal.New("line_unknown", field, "That line is not on this order.")
	}
	if l.Received.IsPositive() || l.Billed.IsPositive() || l.Closed {
		return refusal.New("line_stands", field, "Line %d (%s) cannot be removed: %s came on it, and %s are billed.", l.Line, l.SKU, l.Received, l.Billed).Of(refusal.Conflict)
	}
	var booked bool
	if err := tx.GetContext(ctx, &booked, `SELECT EXISTS (SELECT FROM bookings WHERE line_id = $1)`, l.ID); err != nil {
		return fmt.Errorf("reading bookings: %w", err)
	}
	if booked {
		return refusal.New("line_stands", field, "Line %d (%s) cannot be removed: what came on it was taken back, and the trail names it. Close the order instead.", l.Line, l.SKU).Of(refusal.Conflict)
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM purchase_lines WHERE id = $1`, l.ID); err != nil {
		return fmt.Errorf("removing a line: %w", err)
	}
	return nil
}

func (l OrderLine) unit() measure.Unit { return measure.Unit{Name: l.Unit, Whole: l.Whole} }

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
	if _, err := tx.ExecContext(ctx, `UPDATE purchase_orders SET approved_by = $2, approved_at = $3 WHERE id = $1`, o.ID, tx.Person.ID, tx.Now); err != nil {
		return fmt.Errorf("approving an order: %w", err)
	}
	return nil
}

// Approve lets an order be placed that comes to more than may be bought unasked.
func Approve(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := documents.Change(ctx, tx, documents.PurchaseOrder, id, version, "approved it"); err != nil {
		return Order{}, err
	}
	result, err := tx.ExecContext(ctx, `UPDATE purchase_orders SET approved_by = $2, approved_at = $3 WHERE id = $1 AND approved_by IS NULL AND state <> 'closed'`, id, tx.Person.ID, tx.Now)
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
	if err := documents.Change(ctx, tx, documents.PurchaseOrder, id, version, "placed it"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err != nil {
		return o, err
	}
	switch {
	case o.State != "draft":
		return o, refusal.New("order_placed", "", "The order is placed already.").Of(refusal.Conflict)
	case !slices.ContainsFunc(o.Lines, OrderLine.Stock):
		return o, refusal.New("lines_missing", "lines", "%s has no line that anything could arrive on. Add an item.", o.Number)
	case o.QuoteUntil != nil && *o.QuoteUntil < tx.Now.Format(time.DateOnly):
		return o, refusal.New("quote_over", "", "The prices of quote %s stood until %s. Ask %s for another, and write its prices.", o.Quote, *o.QuoteUntil, o.Supplier).Of(refusal.Conflict)
	}
	if err := o.mayStand(tx.Person); err != nil {
		return o, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE purchase_orders SET state = 'placed' WHERE id = $1`, id); err != nil {
		return o, fmt.Errorf("placing an order: %w", err)
	}
	if err := o.approveAtOnce(ctx, tx); err != nil {
		return o, err
	}
	tx.Touch(topics...)
	return readOrder(ctx, tx, id)
}

// settle lets the states of the order and its arrivals follow from the lines, and lets
// goods go that waited for the order to be complete.
func settle(ctx context.Context, tx *command.Tx, order int64) error {
	lines, err := readLines(ctx, tx, []int64{order})
	if err != nil {
		return err
	}
	var received []decimal.Decimal
	var closed []bool
	for _, l := range lines {
		if l.Stock() {
			received, closed = append(received, l.Received), append(closed, l.Closed)
		}
	}
	state := receiving.State(received, closed)
	if _, err := tx.ExecContext(ctx, `UPDATE purchase_orders SET state = $2 WHERE id = $1 AND state <> 'closed'`, order, state); err != nil {
		return fmt.Errorf("setting an order's state: %w", err)
	}
	if state != "all in" {
		return nil
	}
	if err := release(ctx, tx, order, "complete"); err != nil {
		return err
	}
	return closeArrivals(ctx, tx, order)
}

// closeArrivals closes the open arrivals of an order on which nothing more can come.
func closeArrivals(ctx context.Context, tx *command.Tx, order int64) error {
	_, err := tx.ExecContext(ctx, `
		UPDATE arrivals a SET state = 'done' WHERE a.state = 'open' AND EXISTS (SELECT FROM arrival_orders x WHERE x.arrival_id = a.id AND x.order_id = $1)
		   AND NOT EXISTS (SELECT FROM arrival_orders x JOIN purchase_orders o ON o.id = x.order_id WHERE x.arrival_id = a.id AND o.state IN ('draft', 'placed', 'part in'))`, order)
	if err != nil {
		return fmt.Errorf("closing arrivals: %w", err)
	}
	return nil
}

// CloseOrder closes an order for good. What is still missing on it is cancelled, what
// waited for it goes into stock; nothing but its note can be changed from then on.
func CloseOrder(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := holdOrders(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := documents.Change(ctx, tx, documents.PurchaseOrder, id, version, "closed it"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err != nil {
		return o, err
	}
	if o.State == "closed" {
		return o, refusal.New("order_closed", "", "%s is closed already.", o.Number).Of(refusal.Conflict)
	}
	for _, statement := range []string{
		`UPDATE purchase_lines SET closed = true, cancelled = CASE WHEN item_id IS NULL THEN 0 ELSE greatest(quantity - received, 0) END WHERE order_id = $1 AND NOT closed`,
		`UPDATE purchase_orders SET state = 'closed' WHERE id = $1`,
	} {
		if _, err := tx.ExecContext(ctx, statement, id); err != nil {
			return o, fmt.Errorf("closing an order: %w", err)
		}
	}
	if err := release(ctx, tx, id, "closed"); err != nil {
		return o, err
	}
	if err := closeArrivals(ctx, tx, id); err != nil {
		return o, err
	}
	tx.Touch(ledger.Topics(topics...)...)
	return readOrder(ctx, tx, id)
}

// Annotate writes the order's note, in any state.
func Annotate(ctx context.Context, tx *command.Tx, id int64, version int32, note string) (Order, error) {
	if err := documents.Change(ctx, tx, documents.PurchaseOrder, id, version, "wrote its note"); err != nil {
		return Order{}, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE purchase_orders SET note = $2 WHERE id = $1`, id, note); err != nil {
		return Order{}, fmt.Errorf("writing a note: %w", err)
	}
	tx.Touch(topics...)
	return readOrder(ctx, tx, id)
}

// suggest lists what is at its reorder point, with how much to buy of it in the packs
// that it comes in.
func suggest(ctx context.Context, q sqlx.QueryerContext, site, supplier int32) ([]Suggested, error) {
	bought, err := lastBought(ctx, q, site, supplier)
	if err != nil {
		return nil, err
	}
	figures, err := ledger.FiguresAt(ctx, q, site)
	if err != nil {
		return nil, err
	}
	out := []Suggested{}
	for _, b := range bought {
		f := figures[b.ItemID]
		if f.Free.Add(f.OnOrder).GreaterThan(b.ReorderPoint) {
			continue
		}
		item, err := catalog.ItemByID(ctx, q, b.ItemID)
		if err != nil {
			return nil, err
		}
		pack := catalog.Pack{Holds: decimal.NewFromInt(1)}
		if n := len(item.Packs); n > 0 {
			// The largest that it comes in.
			pack = item.Packs[n-1]
		}
		out = append(out, Suggested{catalog.ItemStock{Item: item, Figures: f, Levels: b.Levels}, b.SupplierID, b.Supplier, pack.ID, b.Suggest(f.Free, f.OnOrder, pack.Holds)})
	}
	return out, nil
}
