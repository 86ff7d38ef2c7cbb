package billing

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/deliveries"
	"lanternrow/internal/documents"
	"lanternrow/internal/outbound"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// How a customer is billed.
const (
	BilledLater     = "later"
	BilledAtOnce    = "sent"
	BilledAndMailed = "mailed"
)

func init() { deliveries.Attach(outbound.Sale, commerce{}) }

// commerce is what follows the shipment of a sale.
type commerce struct{}

// Plan refuses to ship part of what a customer wants whole, and says whether a bill follows
// at once and over how much.
func (commerce) Plan(ctx context.Context, q sqlx.QueryerContext, s deliveries.Sending, p *deliveries.Plan, open decimal.Decimal) error {
	c, err := customerOf(ctx, q, s.Order)
	if err != nil {
		return err
	}
	if open.IsPositive() && s.Rest != deliveries.Cancels && !c.InParts {
		return refusal.New("parts_unwanted", "order_id", "%s wants %s whole: %s units would stay open. Wait for the rest, or cancel it with this delivery.", c.Name, p.Of().Number, open).
			Of(refusal.Conflict).With("open", open)
	}
	how := c.billing(s.Terms)
	if how == BilledLater {
		return nil
	}
	if how == BilledAndMailed && c.Email == "" {
		return refusal.New("address_missing", "bill", "The bill cannot be mailed: there is no address of %s for mail. Write it into the catalog, or make the bill without mailing it.", c.Name)
	}
	total, err := value(ctx, q, p)
	if err != nil {
		return err
	}
	words := fmt.Sprintf("The bill goes with it, over %s", total.StringFixed(2))
	if how == BilledAndMailed {
		words += ", mailed to " + c.Email
	}
	p.Notes = append(p.Notes, words+".")
	return nil
}

// Shipped makes the bill that is wanted at once.
func (commerce) Shipped(ctx context.Context, tx *command.Tx, s deliveries.Sending, d deliveries.Delivery) error {
	if err := mayBill(tx.Person, s.Terms); err != nil {
		return err
	}
	c, err := customerOf(ctx, tx, s.Order)
	if err != nil {
		return err
	}
	how := c.billing(s.Terms)
	if how == BilledLater {
		return nil
	}
	_, err = Make(ctx, tx, []int64{d.ID}, how == BilledAndMailed)
	return err
}

// customer is how the customer of an order takes goods and bills.
type customer struct {
	Name, Email, Billed string
	InParts             bool `db:"in_parts"`
}

func customerOf(ctx context.Context, q sqlx.QueryerContext, order int64) (customer, error) {
	var c customer
	err := sqlx.GetContext(ctx, q, &c, `
		SELECT p.name, p.email, p.billed, p.in_parts
		  FROM sales_orders o JOIN parties p ON p.id = o.customer_id WHERE o.order_id = $1`, order)
	return c, documents.Found(err, "sales order", fmt.Sprint(order))
}

// billing is how a shipment is billed: as was asked, and as the customer is without.
func (c customer) billing(t deliveries.Terms) string {
	if t.Bill != "" {
		return t.Bill
	}
	return c.Billed
}

// value is what the goods of a plan cost, with the charges that go with the first shipment
// of their order, in money rounded to 0.01 a line.
func value(ctx context.Context, q sqlx.QueryerContext, p *deliveries.Plan) (decimal.Decimal, error) {
	quantities := map[int64]decimal.Decimal{}
	for _, c := range p.Cartons() {
		for _, x := range c.Contents {
			quantities[x.LineID] = quantities[x.LineID].Add(x.Quantity)
		}
	}
	var lines []struct {
		ID     int64
		Price  decimal.Decimal
		Charge decimal.Decimal
	}
	err := sqlx.SelectContext(ctx, q, &lines, `
		SELECT l.id, sl.price, CASE WHEN l.item_id IS NULL AND l.sent = 0 THEN l.quantity - l.cancelled ELSE 0 END AS charge
		  FROM outbound_lines l JOIN sales_lines sl ON sl.line_id = l.id WHERE l.order_id = $1`, p.Of().ID)
	if err != nil {
		return decimal.Zero, fmt.Errorf("reading prices: %w", err)
	}
	total := decimal.Zero
	for _, l := range lines {
		total = total.Add(quantities[l.ID].Add(l.Charge).Mul(l.Price).Round(2))
	}
	return total, nil
}

// mayBill refuses somebody who asks for a bill that the customer does not get by itself,
// and who makes no bills.
func mayBill(p people.Person, t deliveries.Terms) error {
	if t.Bill == "" || t.Bill == BilledLater {
		return nil
	}
	if slices.Contains(web.Office, p.Role) {
		return p.May(web.Office)
	}
	return refusal.New("bill_barred", "bill", "Your role, %s, makes no bills. Leave it to the customer's own setting, or ask a lead.", p.Role).Of(refusal.Forbidden)
}
