package invoicing

import (
	"context"
	"fmt"

	"lanternrow/internal/connection"
	"lanternrow/internal/core/pricing"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/outbound"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/shipping"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// How a customer is invoiced.
const (
	InvoicedLater      = "later"
	InvoicedOnShipping = "shipped"
	InvoicedAndMailed  = "mailed"
)

func init() { shipping.Attach(outbound.Sale, commerce{}) }

// commerce is what follows the shipment of a sale.
type commerce struct{}

// Plan refuses to ship part of what a customer wants whole, and says whether an invoice follows
// at once and over how much.
func (commerce) Plan(ctx context.Context, q sqlx.QueryerContext, s shipping.Request, p *shipping.Plan) error {
	if err := mayInvoice(ctx, s.Terms); err != nil {
		return err
	}
	c, err := customerOf(ctx, q, s.Order)
	if err != nil {
		return err
	}
	if p.Open.IsPositive() && s.Rest != shipping.Cancels && !c.InParts {
		return refusal.New(refusal.PartsUnwanted, "order_id",
			"%s wants %s whole: %s units would stay open. Wait for the rest, or cancel it with this shipment.", c.Name, p.Of().Number, p.Open).
			Of(refusal.Conflict).With("open", p.Open)
	}
	how := c.invoicing(s.Terms)
	if how == InvoicedLater {
		return nil
	}
	if how == InvoicedAndMailed {
		if err := mailable(c.Name, c.Email); err != nil {
			return refusal.At(err, "invoice")
		}
	}
	total, err := value(ctx, q, p)
	if err != nil {
		return err
	}
	words := fmt.Sprintf("The invoice goes with it, over %s", total.StringFixed(2))
	if how == InvoicedAndMailed {
		words += ", mailed to " + c.Email
	}
	p.Notes = append(p.Notes, words+".")
	return nil
}

// Shipped makes the invoice that is wanted at once.
func (commerce) Shipped(ctx context.Context, tx *command.Tx, s shipping.Request, d shipping.Shipment) error {
	c, err := customerOf(ctx, tx, s.Order)
	if err != nil {
		return err
	}
	how := c.invoicing(s.Terms)
	if how == InvoicedLater {
		return nil
	}
	_, err = Make(ctx, tx, []int64{d.ID}, how == InvoicedAndMailed)
	return err
}

// mailable refuses to mail an invoice to a customer who has no address that mail goes to.
func mailable(name, email string) error {
	if email == "" {
		return refusal.New(refusal.AddressMissing, "email",
			"The invoice cannot be mailed: there is no address of %s for mail. Write it into the catalog, or make "+
				"the invoice without mailing it.", name)
	}
	_, err := connection.Address(email)
	return err
}

// customer is how the customer of an order takes goods and invoices.
type customer struct {
	Name, Email, Invoiced string
	InParts               bool `db:"in_parts"`
}

func customerOf(ctx context.Context, q sqlx.QueryerContext, order int64) (customer, error) {
	var c customer
	err := sqlx.GetContext(ctx, q, &c, `
		SELECT p.name, p.email, p.invoiced, p.in_parts
		  FROM sales_orders o JOIN parties p ON p.id = o.customer_id WHERE o.order_id = $1`, order)
	return c, documents.Found(err, "sales order", fmt.Sprint(order))
}

// invoicing is how a shipment is invoiced: as was asked, and as the customer is without.
func (c customer) invoicing(t shipping.Terms) string {
	if t.Invoice != "" {
		return t.Invoice
	}
	return c.Invoiced
}

// value is what the goods of a plan come to with their taxes, and with the charges that go with
// the first shipment of their order, in money rounded to 0.01 a line.
func value(ctx context.Context, q sqlx.QueryerContext, p *shipping.Plan) (decimal.Decimal, error) {
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
		Pct    decimal.Decimal
	}
	err := sqlx.SelectContext(ctx, q, &lines, `
		SELECT l.id, sl.price, CASE WHEN l.item_id IS NULL AND l.shipped = 0 THEN l.quantity - l.cancelled
		       ELSE 0 END AS charge, r.pct
		  FROM outbound_lines l JOIN sales_lines sl ON sl.line_id = l.id JOIN (`+rates+`) AS r ON r.line_id = l.id
		 WHERE l.order_id = $1`, p.Of().ID)
	if err != nil {
		return decimal.Zero, fmt.Errorf("reading prices: %w", err)
	}
	amounts := make([]pricing.Taxable, len(lines))
	for i, l := range lines {
		amounts[i] = pricing.Taxable{Amount: quantities[l.ID].Add(l.Charge).Mul(l.Price).Round(2), Pct: l.Pct}
	}
	_, total := pricing.Totals(pricing.Taxes(amounts))
	return total, nil
}

// mayInvoice refuses somebody who asks for an invoice that the customer does not get anyway,
// and who makes no invoices.
func mayInvoice(ctx context.Context, t shipping.Terms) error {
	if t.Invoice == "" || t.Invoice == InvoicedLater {
		return nil
	}
	p, err := people.Acting(ctx)
	if err != nil {
		return err
	}
	if p.Roles.Has(web.Accounts...) {
		return p.May(web.Accounts)
	}
	return refusal.New(refusal.InvoiceBarred, "invoice",
		"%s may make no invoices. Leave it to the customer's own setting, or ask one of: %s.", p.RoleWords(), web.Accounts).Of(refusal.Forbidden)
}
