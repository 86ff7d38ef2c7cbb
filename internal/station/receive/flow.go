package receive

import (
	"context"
	"fmt"
	"slices"

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
		if price, err = parsePrice(field+".price", l.Price); err != nil {
			return err
		}
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO purchase_lines (order_id, line, item_id, quantity, price, short_pct, over_pct) VALUES ($1, $2, $3, $4, $5, $6, $7)`,
		order, i+1, item.ID, quantity, price, item.ShortPct, item.OverPct)
	if err != nil {
		return fmt.Errorf("writing a purchase line: %w", err)
	}
	return nil
}

// parsePrice reads a price typed for field.
func parsePrice(field, text string) (decimal.Decimal, error) {
	price, err := decimal.NewFromString(text)
	if err != nil || price.IsNegative() || price.GreaterThan(measure.Most) {
		return price, refusal.New("price_malformed", field, "%q is not a price.", text)
	}
	return price, nil
}

// lineByID finds a line; there is none when its id is 0.
func lineByID(lines []OrderLine, id int64) (line OrderLine) {
	if i := slices.IndexFunc(lines, func(l OrderLine) bool { return l.ID == id }); i >= 0 {
		line = lines[i]
	}
	return line
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

// settle lets the states of the order and its arrivals follow from the lines.
func settle(ctx context.Context, tx *command.Tx, order int64) error {
	lines, err := readLines(ctx, tx, order)
	if err != nil {
		return err
	}
	var received []decimal.Decimal
	var closed []bool
	for _, l := range lines {
		received, closed = append(received, l.Received), append(closed, l.Closed)
	}
	state := receiving.State(received, closed)
	if _, err := tx.ExecContext(ctx, `UPDATE purchase_orders SET state = $2 WHERE id = $1 AND state <> 'closed'`, order, state); err != nil {
		return fmt.Errorf("setting an order's state: %w", err)
	}
	if state == "all in" {
		if _, err := tx.ExecContext(ctx, `UPDATE arrivals SET state = 'done' WHERE order_id = $1`, order); err != nil {
			return fmt.Errorf("closing arrivals: %w", err)
		}
	}
	return nil
}

// CloseOrder closes an order for good. What is still missing on it is cancelled;
// nothing but its note can be changed from then on.
func CloseOrder(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
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
		`UPDATE purchase_lines SET closed = true, cancelled = greatest(quantity - received, 0) WHERE order_id = $1 AND NOT closed`,
		`UPDATE arrivals SET state = 'done' WHERE order_id = $1`,
		`UPDATE purchase_orders SET state = 'closed' WHERE id = $1`,
	} {
		if _, err := tx.ExecContext(ctx, statement, id); err != nil {
			return o, fmt.Errorf("closing an order: %w", err)
		}
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
