package dispatch

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/demand"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// sendPlan is a plan and what its documents need.
type sendPlan struct {
	*ledger.Plan
	number, carrier string
	site            int32
	cartons         []cartons.Carton
}

func planSend(ctx context.Context, q sqlx.QueryerContext, order int64) (*sendPlan, error) {
	var o struct {
		Number, Carrier string
		SiteID          int32           `db:"site_id"`
		CustomerID      int32           `db:"customer_id"`
		Wanted          decimal.Decimal `db:"wanted"`
		Sent            decimal.Decimal `db:"sent"`
	}
	err := sqlx.GetContext(ctx, q, &o, `
		SELECT o.number, o.carrier, o.site_id, o.customer_id, (SELECT coalesce(sum(quantity - cancelled), 0) FROM sales_lines WHERE order_id = o.id AND item_id IS NOT NULL) AS wanted,
		       (SELECT coalesce(sum(sent), 0) FROM sales_lines WHERE order_id = o.id AND item_id IS NOT NULL) AS sent FROM sales_orders o WHERE o.id = $1`, order)
	if err != nil {
		return nil, documents.Found(err, "order", fmt.Sprint(order))
	}
	p := &sendPlan{number: o.Number, carrier: o.Carrier, site: o.SiteID}
	if p.cartons, err = cartons.OfOrder(ctx, q, order, "packed"); err != nil {
		return nil, err
	}
	if len(p.cartons) == 0 {
		return nil, refusal.New("nothing_packed", "order_id", "%s has no packed carton. Close its cartons at the bench first.", o.Number).Of(refusal.Conflict)
	}
	customer, err := catalog.Outside(ctx, q, o.CustomerID)
	if err != nil {
		return nil, err
	}
	var moves []ledger.Move
	total := decimal.Zero
	for _, c := range p.cartons {
		out, err := c.Moves(ctx, q, customer)
		if err != nil {
			return nil, err
		}
		for _, m := range out {
			total = total.Add(m.Quantity)
		}
		moves = append(moves, out...)
	}
	if p.Plan, err = ledger.Describe(ctx, q, moves); err != nil {
		return nil, err
	}
	after := o.Sent.Add(total)
	p.Changes = append(p.Changes, ledger.Change{What: o.Number + " sent", Before: o.Sent.String() + " of " + o.Wanted.String(), After: after.String() + " of " + o.Wanted.String()})
	if open := o.Wanted.Sub(after); open.IsPositive() {
		p.Notes = append(p.Notes, fmt.Sprintf("%s units stay open on %s.", open, o.Number))
	}
	p.Button = fmt.Sprintf("Send %d carton%s, %s units", len(p.cartons), map[bool]string{true: "", false: "s"}[len(p.cartons) == 1], total)
	return p, nil
}

// Send sends an order's packed cartons: the goods leave stock, and the delivery
// note exists.
func Send(ctx context.Context, tx *command.Tx, order int64) (Delivery, error) {
	if err := documents.Change(ctx, tx, documents.SalesOrder, order, 0, "sent goods"); err != nil {
		return Delivery{}, err
	}
	p, err := planSend(ctx, tx, order)
	if err != nil {
		return Delivery{}, err
	}
	var d Delivery
	err = tx.GetContext(ctx, &d, `INSERT INTO deliveries (order_id, site_id, carrier, sent_by, sent_at) VALUES ($1, $2, $3, $4, $5) RETURNING id, number`,
		order, p.site, p.carrier, tx.Person.ID, tx.Now)
	if err != nil {
		return d, fmt.Errorf("writing a delivery: %w", err)
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: "send", Document: d.Number, Note: p.number}, p.MoveList()); err != nil {
		return d, err
	}
	for _, c := range p.cartons {
		if err := countSent(ctx, tx, c, d.ID); err != nil {
			return d, err
		}
	}
	if err := countCharges(ctx, tx, order, d.ID); err != nil {
		return d, err
	}
	if err := demand.Settle(ctx, tx, order); err != nil {
		return d, err
	}
	tx.Touch(ledger.Topics("dispatch", "orders", "row")...)
	return readDelivery(ctx, tx, d.ID)
}

func countSent(ctx context.Context, tx *command.Tx, c cartons.Carton, delivery int64) error {
	if _, err := tx.ExecContext(ctx, `UPDATE carton_work SET state = 'sent', delivery_id = $2, changed_at = $3 WHERE carton_id = $1`, c.ID, delivery, tx.Now); err != nil {
		return fmt.Errorf("sending a carton: %w", err)
	}
	_, err := tx.ExecContext(ctx, `
		WITH c AS (SELECT line_id, sum(quantity) AS quantity FROM carton_contents WHERE carton_id = $1 GROUP BY 1),
		     d AS (INSERT INTO delivery_lines (delivery_id, line_id, quantity) SELECT $2, line_id, quantity FROM c
		           ON CONFLICT (delivery_id, line_id) DO UPDATE SET quantity = delivery_lines.quantity + EXCLUDED.quantity)
		UPDATE sales_lines l SET taken = l.taken - c.quantity, sent = l.sent + c.quantity FROM c WHERE c.line_id = l.id`, c.ID, delivery)
	if err != nil {
		return fmt.Errorf("counting what was sent: %w", err)
	}
	return nil
}

// countCharges puts what is no stock, such as carriage, on the first delivery of its
// order.
func countCharges(ctx context.Context, tx *command.Tx, order, delivery int64) error {
	_, err := tx.ExecContext(ctx, `
		WITH c AS (UPDATE sales_lines SET sent = quantity - cancelled WHERE order_id = $1 AND item_id IS NULL AND sent = 0 AND cancelled < quantity RETURNING id, sent)
		INSERT INTO delivery_lines (delivery_id, line_id, quantity) SELECT $2, id, sent FROM c`, order, delivery)
	if err != nil {
		return fmt.Errorf("counting charges: %w", err)
	}
	return nil
}

func note(ctx context.Context, q sqlx.QueryerContext, id int64) (string, []byte, error) {
	d, err := readDelivery(ctx, q, id)
	if err != nil {
		return "", nil, err
	}
	var o struct {
		Reference, Address, Site string
		Open                     json.RawMessage
	}
	err = sqlx.GetContext(ctx, q, &o, `
		SELECT o.reference, p.address, s.name AS site,
		       (SELECT coalesce(json_agg(json_build_object('SKU', i.sku, 'Description', i.description, 'Unit', i.base_unit, 'Quantity', (l.quantity - l.cancelled - l.sent)::float8::text) ORDER BY l.line), '[]')
		          FROM sales_lines l JOIN items i ON i.id = l.item_id WHERE l.order_id = o.id AND l.sent + l.cancelled < l.quantity) AS open
		  FROM sales_orders o JOIN parties p ON p.id = o.customer_id JOIN sites s ON s.id = o.site_id WHERE o.id = $1`, d.OrderID)
	if err != nil {
		return "", nil, fmt.Errorf("reading an order: %w", err)
	}
	n := papers.Note{
		Title: "Delivery note", Number: d.Number, Order: "Order " + d.Order, Reference: o.Reference, Date: d.SentAt.UTC().Format(time.DateOnly),
		From: o.Site, To: d.Customer, Address: o.Address, Carrier: d.Carrier,
	}
	if err := json.Unmarshal(o.Open, &n.Open); err != nil {
		return "", nil, fmt.Errorf("reading what is open: %w", err)
	}
	for _, c := range d.Cartons {
		n.Groups = append(n.Groups, c.Group())
	}
	pdf, err := n.Print()
	return d.Number, pdf, err
}
