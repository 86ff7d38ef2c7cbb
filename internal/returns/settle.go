package returns

import (
	"context"
	"fmt"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/returning"
	"lanternrow/internal/core/states"
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
			announced = l.Received
		}
		of[l.ID] = o.kind.When.Of(returning.Progress{Announced: announced, Received: l.Received, Decided: l.Decided})
		total = total.Add(of[l.ID])
	}
	over := o.Inbound == states.Received || o.Inbound == states.Closed
	switch o.kind.When {
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
	if !ready || o.kind.Gives == Money {
		return o, nil
	}
	if o.kind.Gives == SameAgain {
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

// sentTo reads where the goods of the return went.
func (o Return) sentTo(ctx context.Context, q sqlx.QueryerContext) (w whereabouts, err error) {
	if err = sqlx.GetContext(ctx, q, &w, `
		SELECT o.destination_id, o.carrier FROM return_lines r JOIN outbound_lines l ON l.id = r.sold_line_id
		  JOIN outbound_orders o ON o.id = l.order_id JOIN inbound_lines n ON n.id = r.line_id
		 WHERE n.order_id = $1 ORDER BY o.id DESC LIMIT 1`, o.ID); err != nil {
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

// credit is what a return gives in money, or why it does not yet.
func (o Return) credit(mail bool) (c invoicing.Returned, err error) {
	k := o.kind
	due, ready := o.due()
	switch {
	case o.SettledAt != nil:
		return c, refusal.New(refusal.ReturnSettled, "", "%s is settled already%s.", o.Number, o.with()).Of(refusal.Conflict)
	case k.Gives != Money:
		return c, refusal.New(refusal.ReturnOpen, "", "A return of the kind %s gives no money.", k.Name).Of(refusal.Conflict)
	case !ready:
		return c, refusal.New(refusal.ReturnOpen, "",
			"%s is not ready to be settled: of %s expected, %s came and %s are decided. The kind %s gives money once all is %s.",
			o.Number, o.Expected, o.Received, o.Decided, k.Name, k.When).Of(refusal.Conflict)
	}
	c = invoicing.Returned{Order: o.ID, Number: o.Number, SiteID: o.SiteID, CustomerID: o.CustomerID, Customer: o.Customer,
		Email: o.Email, Mail: mail, FeePct: k.FeePct, Taxed: k.Taxed}
	for _, l := range o.Lines {
		if due[l.ID].IsPositive() {
			c.Goods = append(c.Goods, invoicing.ReturnedGoods{Shipment: l.ShipmentID, Line: l.SoldLineID, SKU: l.SKU,
				Quantity: due[l.ID]})
		}
	}
	return c, nil
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

// planSettling says what the customer would get in money.
func planSettling(ctx context.Context, q sqlx.QueryerContext, id int64, mail bool) (*invoicing.ReturnPlan, error) {
	o, err := Read(ctx, q, id)
	if err != nil {
		return nil, err
	}
	c, err := o.credit(mail)
	if err != nil {
		return nil, err
	}
	return invoicing.PlanReturn(ctx, q, c)
}

// Settle gives the customer the money for a return: a credit note over what was invoiced, and no invoice over what
// was not.
func Settle(ctx context.Context, tx *command.Tx, id int64, version int32, mail bool) (Return, error) {
	o, err := change(ctx, tx, id, version, "settled it")
	if err != nil {
		return o, err
	}
	c, err := o.credit(mail)
	if err != nil {
		return o, err
	}
	if err := invoicing.CreditReturn(ctx, tx, c); err != nil {
		return o, err
	}
	tx.NotifySite(o.SiteID, topics...)
	return o.settled(ctx, tx)
}
