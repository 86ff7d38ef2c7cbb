package deliveries

import (
	"context"
	"fmt"

	"lanternrow/internal/carriers"
	"lanternrow/internal/cartons"
	"lanternrow/internal/connection"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/demand"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/outbound"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// What becomes of what is not sent.
const (
	StaysOpen = "open"
	Cancels   = "cancel"
)

// Terms say how goods are sent.
type Terms struct {
	Rest string `json:"rest,omitempty" enum:",open,cancel" doc:"Whether what is not sent stays open or is cancelled"`
	Bill string `json:"bill,omitempty" enum:",later,sent,mailed" doc:"Whether the bill is made later, with the sending, or mailed with it; as the customer is billed without"`
}

// A Sending is what of an order is sent, and how.
type Sending struct {
	Order int64
	// Cartons reads what goes: once the order is held, when it is sent.
	Cartons func(context.Context, sqlx.QueryerContext) ([]cartons.Carton, error)
	// Load is the vehicle that it leaves on, if any.
	Load *int64
	Terms
}

// A Plan is what a sending will do, and where its goods came from.
type Plan struct {
	ledger.Plan
	Origins []Origin `json:"origins"`

	of    outbound.Order
	boxes []cartons.Carton
	open  decimal.Decimal
	rate  *decimal.Decimal
}

// NewPlan is a plan of nothing yet.
func NewPlan() *Plan {
	return &Plan{Plan: ledger.Plan{Moves: []ledger.MoveView{}, Changes: []ledger.Change{}, Notes: []string{}, Warnings: []string{}}, Origins: []Origin{}}
}

// Add puts another sending to those of the plan.
func (p *Plan) Add(o *Plan) {
	p.Moves, p.Changes, p.Origins = append(p.Moves, o.Moves...), append(p.Changes, o.Changes...), append(p.Origins, o.Origins...)
	p.Notes, p.Warnings = append(p.Notes, o.Notes...), append(p.Warnings, o.Warnings...)
}

// Commerce is the commercial side of a kind of order: what it has to say of a shipment
// before it is made, and what follows it.
type Commerce interface {
	// Plan adds notes to what a shipment will do, or refuses it. open is what stays open
	// after it, in base units.
	Plan(ctx context.Context, q sqlx.QueryerContext, s Sending, p *Plan, open decimal.Decimal) error
	// Shipped does what follows a shipment, in its transaction.
	Shipped(ctx context.Context, tx *command.Tx, s Sending, d Delivery) error
}

// commerce is the commercial side of each kind that has one.
var commerce = map[outbound.Kind]Commerce{}

// Attach makes the commercial side of a kind known. It is called by the kind's own package
// when that is initialized; a kind without one is shipped all the same.
func Attach(k outbound.Kind, c Commerce) { commerce[k] = c }

// Preview plans a sending.
func Preview(ctx context.Context, q sqlx.QueryerContext, s Sending) (*Plan, error) {
	p := &Plan{}
	var err error
	if p.of, err = outbound.Read(ctx, q, s.Order); err != nil {
		return nil, err
	}
	if p.boxes, err = s.Cartons(ctx, q); err != nil {
		return nil, err
	}
	moves, total, err := p.moves(ctx, q)
	if err != nil {
		return nil, err
	}
	plan, err := ledger.Describe(ctx, q, moves)
	if err != nil {
		return nil, err
	}
	p.Plan = *plan
	if p.Origins, err = origins(ctx, q, p.boxes); err != nil {
		return nil, err
	}
	p.tell(total, s.Rest)
	if err := p.askRate(ctx, q); err != nil {
		return nil, err
	}
	if c := commerce[p.of.Kind]; c != nil {
		if err := c.Plan(ctx, q, s, p, p.open); err != nil {
			return nil, err
		}
	}
	p.Button = fmt.Sprintf("Send %s, %s units", measure.Count(len(p.boxes), "carton"), total)
	return p, nil
}

// moves take the plan's cartons to where the order goes, with how many units that is.
func (p *Plan) moves(ctx context.Context, q sqlx.QueryerContext) (moves []ledger.Move, total decimal.Decimal, err error) {
	if len(p.boxes) == 0 {
		return nil, total, refusal.New("nothing_packed", "order_id", "%s has no packed carton. Close its cartons at the bench first.", p.of.Number).Of(refusal.Conflict)
	}
	ids := make([]int64, len(p.boxes))
	for i, c := range p.boxes {
		if err := c.NothingToPutBack(); err != nil {
			return nil, total, err
		}
		ids[i] = c.ID
	}
	if moves, err = cartons.Moves(ctx, q, p.of.DestinationID, ids...); err != nil {
		return nil, total, err
	}
	for _, m := range moves {
		total = total.Add(m.Quantity)
	}
	return moves, total, nil
}

// tell notes what becomes of the order when so many units of it go.
func (p *Plan) tell(total decimal.Decimal, rest string) {
	o := p.of
	after := o.Shipped.Add(total)
	p.Changes = append(p.Changes, ledger.Change{What: o.Number + " sent",
		Before: o.Shipped.String() + " of " + o.Wanted.String(), After: after.String() + " of " + o.Wanted.String()})
	p.open = o.Wanted.Sub(after)
	switch {
	case !p.open.IsPositive():
	case rest == Cancels:
		p.Warnings = append(p.Warnings, fmt.Sprintf("%s units of %s are cancelled: what is on rounds or pinned for them is let loose, and what is in other cartons is put back.", p.open, o.Number))
	default:
		p.Notes = append(p.Notes, fmt.Sprintf("%s units stay open on %s.", p.open, o.Number))
	}
}

// askRate notes what the order's carrier asks, where it is known here.
func (p *Plan) askRate(ctx context.Context, q sqlx.QueryerContext) (err error) {
	if p.rate, err = carriers.Rate(ctx, q, p.of.Carrier, kilos(p.boxes)); err != nil {
		return err
	}
	if p.rate != nil {
		p.Notes = append(p.Notes, fmt.Sprintf("%s asks %s for it.", p.of.Carrier, p.rate.StringFixed(2)))
	}
	return nil
}

// Send sends: the goods leave stock, the delivery note exists, the carrier and the host
// are told, and the bill follows where it is wanted at once.
func Send(ctx context.Context, tx *command.Tx, s Sending) (Delivery, error) {
	if err := demand.HoldFloor(ctx, tx, s.Order); err != nil {
		return Delivery{}, err
	}
	if err := documents.Change(ctx, tx, documents.OutboundOrder, s.Order, 0, "sent goods"); err != nil {
		return Delivery{}, err
	}
	p, err := Preview(ctx, tx, s)
	if err != nil {
		return Delivery{}, err
	}
	var d Delivery
	err = tx.GetContext(ctx, &d, `INSERT INTO deliveries (order_id, site_id, carrier, load_id, rate, sent_by, sent_at) VALUES ($1, $2, $3, $4, $5, $6, $7) RETURNING id, number`,
		s.Order, p.of.SiteID, p.of.Carrier, s.Load, p.rate, tx.Person.ID, tx.Now)
	if err != nil {
		return d, fmt.Errorf("writing a delivery: %w", err)
	}
	documents.Made(tx, documents.Delivery, d.ID)
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Ship, Document: d.Number, Note: p.of.Number}, p.MoveList()); err != nil {
		return d, err
	}
	if err := countSent(ctx, tx, p.boxes, d.ID); err != nil {
		return d, err
	}
	if err := countCharges(ctx, tx, s.Order, d.ID); err != nil {
		return d, err
	}
	if s.Rest == Cancels && p.open.IsPositive() {
		if _, err := demand.CancelRest(ctx, tx, s.Order); err != nil {
			return d, err
		}
	}
	if err := outbound.Settle(ctx, tx, s.Order); err != nil {
		return d, err
	}
	if c := commerce[p.of.Kind]; c != nil {
		if err := c.Shipped(ctx, tx, s, d); err != nil {
			return d, err
		}
	}
	if d, err = Read(ctx, tx, d.ID); err != nil {
		return d, err
	}
	tx.Touch(ledger.Topics("dispatch", "orders", "billing", "row")...)
	if err := d.book(ctx, tx, p.rate != nil); err != nil {
		return d, err
	}
	return d, connection.TellHost(ctx, tx, p.of.SiteID, "shipment", d.Number, d.message(p))
}

// HoldAll keeps all that several sendings need before the first of them: the floor of their
// orders, and the stock in their cartons.
func HoldAll(ctx context.Context, tx *command.Tx, sendings ...Sending) error {
	orders := make([]int64, len(sendings))
	for i, s := range sendings {
		orders[i] = s.Order
	}
	if err := demand.HoldFloor(ctx, tx, orders...); err != nil {
		return err
	}
	var moves []ledger.Move
	for _, s := range sendings {
		p, err := Preview(ctx, tx, s)
		if err != nil {
			return err
		}
		moves = append(moves, p.MoveList()...)
	}
	return ledger.LockStock(ctx, tx, moves)
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
func (d Delivery) message(p *Plan) any {
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
	return map[string]any{"delivery": d.Number, "order": p.of.Number, "reference": p.of.Reference, "customer": p.of.Recipient, "carrier": d.Carrier, "tracking": d.Tracking, "cartons": boxes, "open": p.open}
}

// countSent counts cartons as sent. One that was not weighed goes by what was reckoned.
func countSent(ctx context.Context, tx *command.Tx, boxes []cartons.Carton, delivery int64) error {
	ids, reckoned := make([]int64, len(boxes)), make([]string, len(boxes))
	for i, c := range boxes {
		ids[i], reckoned[i] = c.ID, c.Reckoned.String()
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE carton_work w SET state = 'sent', delivery_id = $1, weight_kg = coalesce(w.weight_kg, x.kg), changed_at = $2
		  FROM unnest($3::bigint[], $4::text[]::numeric[]) AS x(id, kg) WHERE w.carton_id = x.id`, delivery, tx.Now, ids, reckoned)
	if err != nil {
		return fmt.Errorf("sending cartons: %w", err)
	}
	_, err = tx.ExecContext(ctx, `
		WITH c AS (SELECT line_id, sum(quantity) AS quantity FROM carton_contents WHERE carton_id = ANY($1) GROUP BY 1),
		     d AS (INSERT INTO delivery_lines (delivery_id, line_id, quantity) SELECT $2, line_id, quantity FROM c)
		UPDATE outbound_lines l SET taken = l.taken - c.quantity, sent = l.sent + c.quantity FROM c WHERE c.line_id = l.id`, ids, delivery)
	if err != nil {
		return fmt.Errorf("counting what was sent: %w", err)
	}
	return nil
}

// countCharges puts what is no stock, such as carriage, on the first delivery of its
// order.
func countCharges(ctx context.Context, tx *command.Tx, order, delivery int64) error {
	_, err := tx.ExecContext(ctx, `
		WITH c AS (UPDATE outbound_lines SET sent = quantity - cancelled WHERE order_id = $1 AND item_id IS NULL AND sent = 0 AND cancelled < quantity RETURNING id, sent)
		INSERT INTO delivery_lines (delivery_id, line_id, quantity) SELECT $2, id, sent FROM c`, order, delivery)
	if err != nil {
		return fmt.Errorf("counting charges: %w", err)
	}
	return nil
}

// Cartons are those that a plan ships, with what is in them.
func (p *Plan) Cartons() []cartons.Carton { return p.boxes }

// Of is the order that a plan ships for.
func (p *Plan) Of() outbound.Order { return p.of }
