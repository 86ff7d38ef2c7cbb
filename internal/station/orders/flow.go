package orders

import (
	"context"
	"fmt"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

var topics = []string{"orders", "stock", "row"}

// Create takes an order, held or let go at once.
func Create(ctx context.Context, tx *command.Tx, in NewOrder) (Order, error) {
	wanted, err := documents.Day("wanted_on", in.WantedOn)
	if err != nil {
		return Order{}, err
	}
	if len(in.Lines) == 0 {
		return Order{}, refusal.New("lines_missing", "lines", "The order has no lines. Add what is wanted.")
	}
	var customer struct{ Kind, Carrier string }
	if err := tx.GetContext(ctx, &customer, `SELECT kind, carrier FROM parties WHERE id = $1`, in.CustomerID); err != nil || customer.Kind != "customer" {
		return Order{}, refusal.New("customer_unknown", "customer_id", "Choose a customer for the order.")
	}
	state, change := "held", "took it"
	if in.LetGo {
		state, change = "let go", "took it and let it go"
	}
	var id int64
	err = tx.GetContext(ctx, &id, `INSERT INTO sales_orders (customer_id, site_id, wanted_on, reference, carrier, state, changed_by, changed_at, last_change)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9) RETURNING id`, in.CustomerID, in.SiteID, wanted, in.Reference, customer.Carrier, state, tx.Person.ID, tx.Now, change)
	if err != nil {
		return Order{}, fmt.Errorf("writing an order: %w", err)
	}
	for i, l := range in.Lines {
		field := fmt.Sprintf("lines[%d]", i)
		item, err := catalog.ItemByID(ctx, tx, l.ItemID)
		if err != nil {
			return Order{}, refusal.New("item_unknown", field+".item_id", "Line %d has no item. Find one by SKU, GTIN or words.", i+1)
		}
		if !item.Sold {
			return Order{}, refusal.New("item_not_sold", field+".item_id", "%s is not an item that is sold. Change that in the catalog first, or leave it out.", item.SKU)
		}
		if err := catalog.Allowed(ctx, tx, field+".item_id", item, in.SiteID); err != nil {
			return Order{}, err
		}
		quantity, err := measure.Parse(field+".quantity", l.Quantity, item.Unit())
		if err != nil {
			return Order{}, err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO sales_lines (order_id, line, item_id, quantity, price) VALUES ($1, $2, $3, $4, $5)`,
			id, i+1, item.ID, quantity, item.Cost); err != nil {
			return Order{}, fmt.Errorf("writing an order line: %w", err)
		}
	}
	tx.Touch(topics...)
	return readOrder(ctx, tx, id)
}

// LetGo lets a held order go to the floor.
func LetGo(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := documents.Change(ctx, tx, documents.SalesOrder, id, version, "let it go"); err != nil {
		return Order{}, err
	}
	result, err := tx.ExecContext(ctx, `UPDATE sales_orders SET state = 'let go' WHERE id = $1 AND state = 'held'`, id)
	if err != nil {
		return Order{}, fmt.Errorf("letting an order go: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return Order{}, refusal.New("order_not_held", "", "The order is not held: it was let go before, or is sent.").Of(refusal.Conflict)
	}
	tx.Touch(append(topics, "pick")...)
	return readOrder(ctx, tx, id)
}

// outlook reckons what a line would do to free stock, and when more comes.
func outlook(ctx context.Context, q sqlx.QueryerContext, itemID, site int32, text string) (Outlook, error) {
	item, err := catalog.ItemByID(ctx, q, itemID)
	if err != nil {
		return Outlook{}, err
	}
	wanted, err := measure.ParseOrZero("quantity", text, item.Unit())
	if err != nil {
		return Outlook{}, err
	}
	f, err := ledger.FiguresOf(ctx, q, itemID, site)
	if err != nil {
		return Outlook{}, err
	}
	out := Outlook{Wanted: wanted, Free: f.Free, FreeAfter: f.Free.Sub(wanted)}
	var next []struct {
		On       string
		Quantity decimal.Decimal
	}
	err = sqlx.SelectContext(ctx, q, &next, `
		SELECT to_char(o.expected_on, 'YYYY-MM-DD') AS "on", l.quantity - l.received AS quantity
		  FROM purchase_lines l JOIN purchase_orders o ON o.id = l.order_id
		 WHERE l.item_id = $1 AND o.site_id = $2 AND o.state IN ('placed', 'part in') AND NOT l.closed ORDER BY o.expected_on LIMIT 1`, itemID, site)
	if err != nil {
		return out, fmt.Errorf("reading what comes: %w", err)
	}
	if len(next) > 0 {
		out.NextOn, out.NextQuantity = &next[0].On, &next[0].Quantity
	}
	return out, nil
}
