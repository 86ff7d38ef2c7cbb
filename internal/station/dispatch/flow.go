package dispatch

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/demand"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/standin/carrier"
	"lanternrow/internal/standin/host"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// sendPlan is a plan and what its documents need.
type sendPlan struct {
	*ledger.Plan
	number, carrier, reference, customer string
	site                                 int32
	cartons                              []cartons.Carton
	open                                 decimal.Decimal
}

// What becomes of what is not sent.
const (
	StaysOpen = "open"
	Cancels   = "cancel"
)

// planSend plans a delivery of an order: all its packed cartons, or those on a vehicle.
func planSend(ctx context.Context, q sqlx.QueryerContext, order int64, load *int64, rest string) (*sendPlan, error) {
	var o struct {
		Number, Carrier, Reference, Customer string
		InParts                              bool            `db:"in_parts"`
		SiteID                               int32           `db:"site_id"`
		CustomerID                           int32           `db:"customer_id"`
		Wanted                               decimal.Decimal `db:"wanted"`
		Sent                                 decimal.Decimal `db:"sent"`
	}
	err := sqlx.GetContext(ctx, q, &o, `
		SELECT o.number, o.carrier, o.reference, p.name AS customer, p.in_parts, o.site_id, o.customer_id, (SELECT coalesce(sum(quantity - cancelled), 0) FROM sales_lines WHERE order_id = o.id AND item_id IS NOT NULL) AS wanted,
		       (SELECT coalesce(sum(sent), 0) FROM sales_lines WHERE order_id = o.id AND item_id IS NOT NULL) AS sent
		  FROM sales_orders o JOIN parties p ON p.id = o.customer_id WHERE o.id = $1`, order)
	if err != nil {
		return nil, documents.Found(err, "order", fmt.Sprint(order))
	}
	p := &sendPlan{number: o.Number, carrier: o.Carrier, reference: o.Reference, customer: o.Customer, site: o.SiteID}
	state := "packed"
	if load != nil {
		state = "loaded"
	}
	if p.cartons, err = cartons.OfOrder(ctx, q, order, state); err != nil {
		return nil, err
	}
	if load != nil {
		p.cartons = slices.DeleteFunc(p.cartons, func(c cartons.Carton) bool { return c.LoadID == nil || *c.LoadID != *load })
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
	p.open = o.Wanted.Sub(after)
	switch {
	case !p.open.IsPositive():
	case rest == Cancels:
		p.Warnings = append(p.Warnings, fmt.Sprintf("%s units of %s are cancelled: what is on rounds or pinned for them is let loose, and what is in other cartons is put back.", p.open, o.Number))
	case !o.InParts:
		return nil, refusal.New("parts_unwanted", "order_id", "%s wants %s whole: %s units would stay open. Wait for the rest, or cancel it with this delivery.", o.Customer, o.Number, p.open).Of(refusal.Conflict).With("open", p.open)
	default:
		p.Notes = append(p.Notes, fmt.Sprintf("%s units stay open on %s.", p.open, o.Number))
	}
	if rate, err := carrier.Rate(ctx, q, p.carrier, kilos(p.cartons)); err != nil {
		return nil, err
	} else if rate != nil {
		p.Notes = append(p.Notes, fmt.Sprintf("%s asks %s for it.", p.carrier, rate.StringFixed(2)))
	}
	p.Button = fmt.Sprintf("Send %s, %s units", measure.Count(len(p.cartons), "carton"), total)
	return p, nil
}

// Send sends an order's packed cartons: the goods leave stock, and the delivery
// note exists.
func Send(ctx context.Context, tx *command.Tx, order int64, rest string) (Delivery, error) {
	return send(ctx, tx, order, nil, rest)
}

func send(ctx context.Context, tx *command.Tx, order int64, load *int64, rest string) (Delivery, error) {
	if err := documents.Change(ctx, tx, documents.SalesOrder, order, 0, "sent goods"); err != nil {
		return Delivery{}, err
	}
	p, err := planSend(ctx, tx, order, load, rest)
	if err != nil {
		return Delivery{}, err
	}
	quote, err := carrier.Ask(ctx, tx, p.carrier, kilos(p.cartons))
	if err != nil {
		return Delivery{}, err
	}
	var d Delivery
	err = tx.GetContext(ctx, &d, `INSERT INTO deliveries (order_id, site_id, carrier, load_id, tracking, rate, carrier_said, sent_by, sent_at) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9) RETURNING id, number`,
		order, p.site, p.carrier, load, quote.Tracking, quote.Rate, quote.Said, tx.Person.ID, tx.Now)
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
	if rest == Cancels && p.open.IsPositive() {
		if _, err := demand.CancelRest(ctx, tx, order); err != nil {
			return d, err
		}
	}
	if err := demand.Settle(ctx, tx, order); err != nil {
		return d, err
	}
	if d, err = readDelivery(ctx, tx, d.ID); err != nil {
		return d, err
	}
	tx.Touch(ledger.Topics("dispatch", "orders", "billing", "row")...)
	return d, host.Tell(ctx, tx, p.site, "shipment", d.Number, d.message(p))
}

// kilos is what each carton weighs.
func kilos(of []cartons.Carton) []decimal.Decimal {
	out := make([]decimal.Decimal, len(of))
	for i, c := range of {
		if out[i] = c.Reckoned; c.WeightKg != nil {
			out[i] = *c.WeightKg
		}
	}
	return out
}

// message is what the host system is told of a delivery.
func (d Delivery) message(p *sendPlan) any {
	type line struct {
		SKU      string          `json:"sku"`
		Lot      *string         `json:"lot,omitempty"`
		Serials  []string        `json:"serials,omitempty"`
		Quantity decimal.Decimal `json:"quantity"`
	}
	type box struct {
		SSCC  string `json:"sscc"`
		Lines []line `json:"lines"`
	}
	boxes := make([]box, len(d.Cartons))
	for i, c := range d.Cartons {
		boxes[i].SSCC = c.SSCC
		for _, x := range c.Contents {
			boxes[i].Lines = append(boxes[i].Lines, line{x.SKU, x.Lot, x.Serials, x.Quantity})
		}
	}
	return map[string]any{"delivery": d.Number, "order": p.number, "reference": p.reference, "customer": p.customer, "carrier": d.Carrier, "tracking": d.Tracking, "cartons": boxes, "open": p.open}
}

// SendMany sends several orders of one carrier in one step, or none when one refuses.
func SendMany(ctx context.Context, tx *command.Tx, orders []int64, rest string) ([]Delivery, error) {
	var carriers []string
	if err := tx.SelectContext(ctx, &carriers, `SELECT DISTINCT carrier FROM sales_orders WHERE id = ANY($1) ORDER BY 1`, orders); err != nil {
		return nil, fmt.Errorf("reading carriers: %w", err)
	}
	if len(carriers) > 1 {
		return nil, refusal.New("other_carrier", "order_ids", "These go with %s. Send those of one carrier at a time.", strings.Join(carriers, " and ")).Of(refusal.Conflict)
	}
	slices.Sort(orders)
	out := []Delivery{}
	for _, id := range slices.Compact(orders) {
		d, err := Send(ctx, tx, id, rest)
		if err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	return out, nil
}

// AskAgain asks the carrier once more for the number of a delivery.
func AskAgain(ctx context.Context, tx *command.Tx, id int64) (Delivery, error) {
	d, err := readDelivery(ctx, tx, id)
	if err != nil || d.Tracking != "" {
		return d, err
	}
	q, err := carrier.Ask(ctx, tx, d.Carrier, kilos(d.Cartons))
	if err != nil {
		return d, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE deliveries SET tracking = $2, rate = $3, carrier_said = $4 WHERE id = $1 AND tracking = ''`, id, q.Tracking, q.Rate, q.Said); err != nil {
		return d, fmt.Errorf("keeping a tracking number: %w", err)
	}
	tx.Touch("dispatch")
	return readDelivery(ctx, tx, id)
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
