package shipping

import (
	"context"
	"fmt"

	"lanternrow/internal/carriers"
	"lanternrow/internal/cartons"
	"lanternrow/internal/connection"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/outbound"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// What becomes of what is not shipped.
const (
	StaysOpen = "open"
	Cancels   = "cancel"
)

// Terms say how goods are shipped.
type Terms struct {
	Rest    string `json:"rest,omitempty" enum:",open,cancel" doc:"Whether what is not shipped stays open or is cancelled"`
	Invoice string `json:"invoice,omitempty" enum:",later,shipped,mailed" doc:"Whether the invoice is made later, with the shipment, or mailed with it; as the customer is invoiced without"`
}

// A Request is what of an order is shipped, and how.
type Request struct {
	Order int64
	// Cartons reads what goes: once the order is held, when it is shipped.
	Cartons func(context.Context, sqlx.QueryerContext) ([]cartons.Carton, error)
	// Load is the vehicle that it leaves on, if any.
	Load *int64
	Terms
}

// A Plan is what a shipment will do, and where its goods came from.
type Plan struct {
	ledger.Plan
	Origins []Origin `json:"origins"`
	// Open is what of the order does not go with it, in base units.
	Open decimal.Decimal `json:"open" doc:"What of the order does not go with it"`

	of    outbound.Order
	boxes []cartons.Carton
	rate  *decimal.Decimal
}

// NewPlan is a plan of nothing yet.
func NewPlan() *Plan {
	return &Plan{Plan: ledger.Plan{Moves: []ledger.MoveView{}, Changes: []ledger.Change{}, Notes: []string{},
		Warnings: []string{}}, Origins: []Origin{}}
}

// Add puts another shipment to those of the plan.
func (p *Plan) Add(o *Plan) {
	p.Moves, p.Changes = append(p.Moves, o.Moves...), append(p.Changes, o.Changes...)
	p.Origins, p.Open = append(p.Origins, o.Origins...), p.Open.Add(o.Open)
	p.Notes, p.Warnings = append(p.Notes, o.Notes...), append(p.Warnings, o.Warnings...)
}

// Commerce is the commercial side of a kind of order: what it has to say of a shipment
// before it is made, and what follows it.
type Commerce interface {
	// Plan adds notes to what a shipment will do, or refuses it.
	Plan(ctx context.Context, q sqlx.QueryerContext, s Request, p *Plan) error
	// Shipped does what follows a shipment, in its transaction.
	Shipped(ctx context.Context, tx *command.Tx, s Request, d Shipment) error
}

// A TakingBack is a commercial side that has something to say of a shipment's being taken back.
type TakingBack interface {
	// MayTakeBack refuses it.
	MayTakeBack(ctx context.Context, q sqlx.QueryerContext, d Shipment) error
	// HoldTakeBack holds what else it changes, ahead of the order.
	HoldTakeBack(ctx context.Context, tx *command.Tx, d Shipment) error
	// TakenBack does what follows it.
	TakenBack(ctx context.Context, tx *command.Tx, d Shipment) error
}

// takingBack is the commercial side of a shipment that has something to say of its being taken
// back; nil when there is none.
func (d Shipment) takingBack(ctx context.Context, q sqlx.QueryerContext) (TakingBack, error) {
	o, err := outbound.Read(ctx, q, d.OrderID)
	if err != nil {
		return nil, err
	}
	c, _ := commerce[o.Kind].(TakingBack)
	return c, nil
}

// commerce is the commercial side of each kind that has one.
var commerce = map[outbound.Kind]Commerce{}

// Attach makes the commercial side of a kind known. It is called by the kind's own package
// when that is initialized; a kind without one is shipped all the same.
func Attach(k outbound.Kind, c Commerce) { commerce[k] = c }

// Preview plans a shipment.
func Preview(ctx context.Context, q sqlx.QueryerContext, s Request) (*Plan, error) {
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
	plan, err := ledger.DescribeOnward(ctx, q, moves)
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
		if err := c.Plan(ctx, q, s, p); err != nil {
			return nil, err
		}
	}
	p.Button = fmt.Sprintf("Ship %s, %s units", measure.Count(len(p.boxes), "carton"), total)
	return p, nil
}

// moves take the plan's cartons to where the order goes, with how many units that is.
func (p *Plan) moves(
	ctx context.Context, q sqlx.QueryerContext,
) (moves []ledger.Move, total decimal.Decimal, err error) {
	if len(p.boxes) == 0 {
		return nil, total, refusal.New(refusal.NothingPacked, "order_id",
			"%s has no packed carton. Close its cartons at the bench first.", p.of.Number).Of(refusal.Conflict)
	}
	ids := make([]int64, len(p.boxes))
	for i, c := range p.boxes {
		if err := c.NothingToRestock(); err != nil {
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
	p.Changes = append(p.Changes, ledger.Change{What: o.Number + " shipped",
		Before: o.Shipped.String() + " of " + o.Wanted.String(), After: after.String() + " of " + o.Wanted.String()})
	p.Open = o.Wanted.Sub(after)
	switch {
	case !p.Open.IsPositive():
	case rest == Cancels:
		p.Warnings = append(p.Warnings,
			fmt.Sprintf("%s units of %s are cancelled: what is on rounds or reserved for them is unreserved, and "+
				"what is in other cartons is returned to stock.", p.Open, o.Number))
	default:
		p.Notes = append(p.Notes, fmt.Sprintf("%s units stay open on %s.", p.Open, o.Number))
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

// Ship ships: the goods leave stock, the delivery note exists, the carrier and the host
// are told, and the invoice follows where it is wanted at once. It holds what it needs;
// before several, HoldAll does.
func Ship(ctx context.Context, tx *command.Tx, s Request) (Shipment, error) {
	if err := reservation.HoldFloor(ctx, tx, s.Order); err != nil {
		return Shipment{}, err
	}
	if err := documents.Change(ctx, tx, documents.OutboundOrder, s.Order, 0, "shipped goods"); err != nil {
		return Shipment{}, err
	}
	p, err := Preview(ctx, tx, s)
	if err != nil {
		return Shipment{}, err
	}
	var d Shipment
	err = tx.GetContext(ctx, &d, `
		INSERT INTO shipments (order_id, site_id, carrier, load_id, rate, shipped_by, shipped_at)
		VALUES ($1, $2, $3, $4, $5, $6, $7) RETURNING id, number`,
		s.Order, p.of.SiteID, p.of.Carrier, s.Load, p.rate, tx.Person.ID, tx.Now)
	if err != nil {
		return d, fmt.Errorf("writing a shipment: %w", err)
	}
	documents.Made(tx, documents.Shipment, d.ID)
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Ship, Document: d.Number, Note: p.of.Number},
		p.MoveList()); err != nil {
		return d, err
	}
	if err := countShipped(ctx, tx, p.boxes, d.ID); err != nil {
		return d, err
	}
	if err := countCharges(ctx, tx, s.Order, d.ID); err != nil {
		return d, err
	}
	if s.Rest == Cancels && p.Open.IsPositive() {
		if _, err := reservation.CancelOpen(ctx, tx, s.Order); err != nil {
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
	tx.NotifySite(p.of.SiteID, ledger.Topics("dispatch", "orders", "invoicing", "row")...)
	if err := d.book(ctx, tx, p.rate != nil); err != nil {
		return d, err
	}
	return d, connection.TellHost(ctx, tx, p.of.SiteID, "shipment", d.Number, d.message(p))
}

// HoldAll keeps all that several requests need before the first of them: the floor of their
// orders, and the stock in their cartons.
func HoldAll(ctx context.Context, tx *command.Tx, requests ...Request) error {
	orders := make([]int64, len(requests))
	for i, s := range requests {
		orders[i] = s.Order
	}
	if err := reservation.HoldFloor(ctx, tx, orders...); err != nil {
		return err
	}
	var moves []ledger.Move
	for _, s := range requests {
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
		if out[i] = c.Expected; c.WeightKg != nil {
			out[i] = *c.WeightKg
		}
	}
	return out
}

// message is what the host system is told of a shipment.
func (d Shipment) message(p *Plan) any {
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
	return map[string]any{"shipment": d.Number, "order": p.of.Number, "reference": p.of.Reference,
		"customer": p.of.Recipient, "carrier": d.Carrier, "tracking": d.Tracking, "cartons": boxes, "open": p.Open}
}

// countShipped counts cartons as shipped. One that was not weighed goes by what was expected.
func countShipped(ctx context.Context, tx *command.Tx, boxes []cartons.Carton, shipment int64) error {
	ids, expected := make([]int64, len(boxes)), make([]string, len(boxes))
	for i, c := range boxes {
		ids[i], expected[i] = c.ID, c.Expected.String()
	}
	err := documents.Step(ctx, tx, states.Cartons, ids, states.CartonShipped, `
		shipment_id = $4, changed_at = $5,
		weight_kg = coalesce(weight_kg,
			($6::text[]::numeric[])[array_position($1, carton_id)])`, shipment, tx.Now, expected)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		WITH c AS (SELECT line_id, sum(quantity) AS quantity FROM carton_contents WHERE carton_id = ANY($1) GROUP BY 1),
		     d AS (INSERT INTO shipment_lines (shipment_id, line_id, quantity) SELECT $2, line_id, quantity FROM c)
		UPDATE outbound_lines l SET picked = l.picked - c.quantity, shipped = l.shipped + c.quantity FROM c
		 WHERE c.line_id = l.id`, ids, shipment)
	if err != nil {
		return fmt.Errorf("counting what was shipped: %w", err)
	}
	return nil
}

// countCharges puts a non-stock line, such as freight, on the first shipment of its
// order.
func countCharges(ctx context.Context, tx *command.Tx, order, shipment int64) error {
	_, err := tx.ExecContext(ctx, `
		WITH c AS (UPDATE outbound_lines SET shipped = quantity - cancelled WHERE order_id = $1 AND item_id IS NULL
		  AND shipped = 0 AND cancelled < quantity RETURNING id, shipped)
		INSERT INTO shipment_lines (shipment_id, line_id, quantity) SELECT $2, id, shipped FROM c`, order, shipment)
	if err != nil {
		return fmt.Errorf("counting charges: %w", err)
	}
	return nil
}

// Cartons are those that a plan ships, with what is in them.
func (p *Plan) Cartons() []cartons.Carton { return p.boxes }

// Of is the order that a plan ships for.
func (p *Plan) Of() outbound.Order { return p.of }
