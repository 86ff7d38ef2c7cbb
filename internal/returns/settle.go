package returns

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/returning"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/invoicing"
	"lanternrow/internal/outbound"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// due are how many of each line the customer gets something for; ready tells whether all steps are made that it
// needs.
func (o Return) due() (of map[int64]decimal.Decimal, ready bool) {
	of = map[int64]decimal.Decimal{}
	total := decimal.Zero
	for _, l := range o.Lines {
		announced := l.Quantity
		if l.Closed {
			announced = l.Received.Add(l.Kept)
		}
		of[l.ID] = o.When.Of(returning.Progress{Announced: announced, Received: l.Received, Decided: l.Decided})
		total = total.Add(of[l.ID])
	}
	over := o.Inbound == states.Received || o.Inbound == states.Closed
	switch o.When {
	case returning.Announced:
		ready = o.Inbound != states.Draft
	case returning.Received:
		ready = over
	default:
		ready = over && o.Decided.Equal(o.Received)
	}
	return of, ready && total.IsPositive()
}

// give gives by itself what follows by itself: the same again. Money waits for somebody who looks at it. It
// returns the return as it is then.
func give(ctx context.Context, tx *command.Tx, id int64) (Return, error) {
	o, err := Read(ctx, tx, id)
	if err != nil || o.SettledAt != nil {
		return o, err
	}
	due, ready := o.due()
	if !ready || o.money() {
		return o, nil
	}
	if o.Gives == SameAgain {
		if err := o.sendAgain(ctx, tx, due); err != nil {
			return o, err
		}
	}
	return o.settled(ctx, tx)
}

// sendAgain makes an order over the same goods, released at once. No money moves.
func (o Return) sendAgain(ctx context.Context, tx *command.Tx, due map[int64]decimal.Decimal) error {
	where, err := o.sentTo(ctx, tx)
	if err != nil {
		return err
	}
	id, err := outbound.Create(ctx, tx, outbound.New{Kind: outbound.Replacement, SiteID: o.SiteID, PartyID: o.CustomerID,
		DestinationID: where.Destination, Carrier: where.Carrier, State: states.Released, Reference: o.Number,
		Change: "made it for " + o.Number})
	if err != nil {
		return err
	}
	var lines []outbound.NewLine
	for _, l := range o.Lines {
		if due[l.ID].IsPositive() {
			lines = append(lines, outbound.NewLine{Item: l.ItemID, Quantity: due[l.ID]})
		}
	}
	if _, err := outbound.AddLines(ctx, tx, id, lines); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE returns SET replacement_id = $2 WHERE order_id = $1`, o.ID, id); err != nil {
		return fmt.Errorf("noting a replacement: %w", err)
	}
	tx.NotifySite(o.SiteID, "orders", "pick", "row", "stock")
	return nil
}

// whereabouts are where a customer's goods went, and with whom.
type whereabouts struct {
	Destination int32 `db:"destination_id"`
	Carrier     string
}

// sentTo reads where the goods of the return went, or where the customer's goods go where that is not known.
func (o Return) sentTo(ctx context.Context, q sqlx.QueryerContext) (w whereabouts, err error) {
	if err = sqlx.GetContext(ctx, q, &w, `
		SELECT destination_id, carrier FROM (
			SELECT o.id, o.destination_id, o.carrier FROM return_lines r JOIN outbound_lines l ON l.id = r.sold_line_id
			  JOIN outbound_orders o ON o.id = l.order_id JOIN inbound_lines n ON n.id = r.line_id WHERE n.order_id = $1
			UNION ALL SELECT 0, location_id, carrier FROM parties WHERE id = $2) AS t
		 ORDER BY id DESC LIMIT 1`, o.ID, o.CustomerID); err != nil {
		return w, fmt.Errorf("reading where the goods went: %w", err)
	}
	return w, nil
}

// settled notes that the customer got what the return gives.
func (o Return) settled(ctx context.Context, tx *command.Tx) (Return, error) {
	if _, err := tx.ExecContext(ctx, `
		UPDATE returns SET settled_by = $2, settled_at = $3 WHERE order_id = $1`, o.ID, tx.Person.ID, tx.Now); err != nil {
		return o, fmt.Errorf("noting a settlement: %w", err)
	}
	return Read(ctx, tx, o.ID)
}

// Settling is how a return is settled in money.
type Settling struct {
	Version int32 `json:"version,omitempty"`
	Mail    bool  `json:"mail,omitempty" doc:"Mail the credit note"`
	// Against are the invoices that lines are credited against, where that is not the one that their goods came from.
	Against []Against `json:"against,omitempty" maxItems:"200"`
	// Instead is what the customer gets instead, of a kind that gives something else.
	Instead []invoicing.SaleLine `json:"instead,omitempty" maxItems:"200"`
}

// Against names the invoice that a line of a return is credited against.
type Against struct {
	LineID    int64 `json:"line_id"`
	InvoiceID int64 `json:"invoice_id"`
}

// credit is what a return gives in money, or why it does not yet.
func (o Return) credit(in Settling) (c invoicing.Returned, err error) {
	due, ready := o.due()
	switch {
	case o.SettledAt != nil:
		return c, refusal.New(refusal.ReturnSettled, "", "%s is settled already%s.", o.Number, o.with()).Of(refusal.Conflict)
	case !o.money():
		return c, refusal.New(refusal.ReturnOpen, "", "A return of the kind %s gives no money.", o.Kind).Of(refusal.Conflict)
	case !ready:
		return c, refusal.New(refusal.ReturnOpen, "",
			"%s is not ready to be settled: of %s expected, %s came and %s are decided. The kind %s gives money once all is %s.",
			o.Number, o.Expected, o.Received, o.Decided, o.Kind, o.When).Of(refusal.Conflict)
	case o.Gives != SomethingElse && len(in.Instead) > 0:
		return c, refusal.New(refusal.ReturnOpen, "instead", "A return of the kind %s gives nothing else. Leave the lines out.", o.Kind)
	case o.Gives == SomethingElse && len(in.Instead) == 0:
		return c, refusal.New(refusal.LinesMissing, "instead", "%s gives something else: add what %s gets instead.", o.Number, o.Customer)
	}
	c = invoicing.Returned{Order: o.ID, Number: o.Number, SiteID: o.SiteID, CustomerID: o.CustomerID, Customer: o.Customer,
		Email: o.Email, Mail: in.Mail, FeePct: o.FeePct, Taxed: o.Taxed, Instead: in.Instead}
	for _, l := range o.Lines {
		if due[l.ID].IsPositive() {
			c.Goods = append(c.Goods, invoicing.ReturnedGoods{Shipment: l.ShipmentID, Line: l.SoldLineID, Item: l.ItemID, SKU: l.SKU,
				Quantity: due[l.ID], Invoice: in.against(l.ID)})
		}
	}
	return c, nil
}

// against is the invoice that a line is credited against; 0 for the one that its goods came from.
func (in Settling) against(line int64) int64 {
	for _, a := range in.Against {
		if a.LineID == line {
			return a.InvoiceID
		}
	}
	return 0
}

func (o Return) with() string {
	if o.Credit != "" {
		return " with " + o.Credit
	}
	if o.Replacement != "" {
		return " with " + o.Replacement
	}
	return ""
}

// planSettling says what the customer would get in money, and instead.
func planSettling(
	ctx context.Context, q sqlx.QueryerContext, id int64, in Settling, now time.Time,
) (*invoicing.ReturnPlan, error) {
	o, err := Read(ctx, q, id)
	if err != nil {
		return nil, err
	}
	c, err := o.credit(in)
	if err != nil {
		return nil, err
	}
	return invoicing.PlanReturn(ctx, q, c, now)
}

// Settle gives the customer the money for a return: a credit note over what was invoiced, and no invoice over what
// was not; and what it gets instead, as an order that is released.
func Settle(ctx context.Context, tx *command.Tx, id int64, in Settling) (Return, error) {
	if err := holdCustomer(ctx, tx, id, in); err != nil {
		return Return{}, err
	}
	o, err := change(ctx, tx, id, in.Version, "settled it")
	if err != nil {
		return o, err
	}
	c, err := o.credit(in)
	if err != nil {
		return o, err
	}
	sold, err := invoicing.CreditReturn(ctx, tx, c)
	if err != nil {
		return o, err
	}
	if sold != 0 {
		if _, err := tx.ExecContext(ctx, `UPDATE returns SET replacement_id = $2 WHERE order_id = $1`, o.ID, sold); err != nil {
			return o, fmt.Errorf("noting what is given instead: %w", err)
		}
	}
	tx.NotifySite(o.SiteID, topics...)
	return o.settled(ctx, tx)
}

// holdCustomer holds the customer, for whom an order is taken, before the return is.
func holdCustomer(ctx context.Context, tx *command.Tx, id int64, in Settling) error {
	if len(in.Instead) == 0 {
		return nil
	}
	o, err := Read(ctx, tx, id)
	if err != nil {
		return err
	}
	return documents.Hold(ctx, tx, documents.Own(documents.Party, int64(o.CustomerID)))
}
