package invoicing

import (
	"context"
	"fmt"

	"lanternrow/internal/core/pricing"
	"lanternrow/internal/core/returning"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Returned is goods that a customer gets money for.
type Returned struct {
	// Order is the return.
	Order      int64
	Number     string
	SiteID     int32
	CustomerID int32
	// Mail tells whether the credit note is mailed, to Email of Customer.
	Mail            bool
	Customer, Email string
	// FeePct is kept of what was invoiced; Taxed tells whether its tax is given back.
	FeePct decimal.Decimal
	Taxed  bool
	Goods  []ReturnedGoods
}

// ReturnedGoods are goods of a line of a shipment.
type ReturnedGoods struct {
	Shipment, Line int64
	SKU            string
	Quantity       decimal.Decimal
}

// A ReturnPlan is what a customer gets for a return: what was not invoiced is not any more, and the rest is
// credited at the price that it was invoiced at.
type ReturnPlan struct {
	Lines  []ReturnPlanLine `json:"lines" nullable:"false"`
	Taxes  []pricing.Tax    `json:"taxes" nullable:"false"`
	Net    decimal.Decimal  `json:"net"`
	Total  decimal.Decimal  `json:"total"`
	Notes  []string         `json:"notes" nullable:"false"`
	Button string           `json:"button"`
}

// ReturnPlanLine is what becomes of goods of a line of a shipment.
type ReturnPlanLine struct {
	SKU      string          `json:"sku"`
	Shipment string          `json:"shipment"`
	Invoice  string          `json:"invoice" doc:"The invoice that it is credited against; empty for none"`
	GivenUp  decimal.Decimal `json:"given_up" doc:"How many are not invoiced any more"`
	Credited decimal.Decimal `json:"credited"`
	Price    decimal.Decimal `json:"price" doc:"What a unit is credited at, less the fee"`
	Amount   decimal.Decimal `json:"amount"`

	shipment, line int64
	taxPct         decimal.Decimal
}

// PlanReturn calculates what a customer gets.
func PlanReturn(ctx context.Context, q sqlx.QueryerContext, in Returned) (*ReturnPlan, error) {
	out := &ReturnPlan{Lines: []ReturnPlanLine{}, Notes: []string{}}
	var credited []returning.Line
	for _, g := range in.together() {
		l, invoiced, err := g.plan(ctx, q)
		if err != nil {
			return nil, err
		}
		out.Lines, credited = append(out.Lines, l), append(credited, invoiced)
		if l.GivenUp.IsPositive() {
			out.Notes = append(out.Notes, fmt.Sprintf("%s of %s on %s were not invoiced, and are not any more.", l.GivenUp, l.SKU,
				l.Shipment))
		}
	}
	s := returning.Settle(credited, in.FeePct, in.Taxed)
	for i := range out.Lines {
		l := &out.Lines[i]
		l.Price, l.Amount = s.Prices[i], s.Amounts[i]
		if l.taxPct = credited[i].TaxPct; !in.Taxed {
			l.taxPct = decimal.Zero
		}
	}
	out.Taxes, out.Net, out.Total = s.Taxes, s.Net, s.Total
	if in.Mail && out.Net.IsPositive() {
		if err := mailable(in.Customer, in.Email); err != nil {
			return nil, err
		}
	}
	out.Button = "Settle it, nothing is to be credited"
	if out.Net.IsPositive() {
		out.Button = "Credit " + out.Total.StringFixed(2)
	}
	return out, nil
}

// together are the goods with those of one line of one shipment as one.
func (in Returned) together() (out []ReturnedGoods) {
	for _, g := range in.Goods {
		at := -1
		for i, x := range out {
			if x.Shipment == g.Shipment && x.Line == g.Line {
				at = i
			}
		}
		if at < 0 {
			out = append(out, g)
			continue
		}
		out[at].Quantity = out[at].Quantity.Add(g.Quantity)
	}
	return out
}

// plan parts goods into what was not invoiced yet and what was, and at which price.
func (g ReturnedGoods) plan(ctx context.Context, q sqlx.QueryerContext) (l ReturnPlanLine, r returning.Line, err error) {
	l = ReturnPlanLine{SKU: g.SKU, shipment: g.Shipment, line: g.Line}
	var open decimal.Decimal
	if err = q.QueryRowxContext(ctx, `
		SELECT d.number, x.quantity - x.invoiced - x.given_up FROM shipment_lines x JOIN shipments d ON d.id = x.shipment_id
		 WHERE x.shipment_id = $1 AND x.line_id = $2`, g.Shipment, g.Line).Scan(&l.Shipment, &open); err != nil {
		return l, r, fmt.Errorf("reading what is invoiced: %w", err)
	}
	l.GivenUp = decimal.Min(open, g.Quantity)
	if l.Credited = g.Quantity.Sub(l.GivenUp); !l.Credited.IsPositive() {
		return l, r, nil
	}
	err = q.QueryRowxContext(ctx, `
		SELECT b.number, x.price, x.tax_pct FROM invoice_lines x JOIN invoices b ON b.id = x.invoice_id
		 WHERE x.shipment_id = $1 AND x.line_id = $2 AND b.credits IS NULL AND b.return_id IS NULL
		   AND NOT EXISTS (SELECT FROM invoices c WHERE c.credits = b.id) ORDER BY b.id DESC LIMIT 1`,
		g.Shipment, g.Line).Scan(&l.Invoice, &r.Price, &r.TaxPct)
	if err != nil {
		return l, r, fmt.Errorf("reading what was invoiced: %w", err)
	}
	r.Quantity = l.Credited
	return l, r, nil
}

// CreditReturn gives a customer the money for a return: a credit note where something was invoiced, mailed if it
// is wanted.
func CreditReturn(ctx context.Context, tx *command.Tx, in Returned) error {
	shipments := make([]int64, len(in.Goods))
	for i, g := range in.Goods {
		shipments[i] = g.Shipment
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.Shipment, shipments...)); err != nil {
		return err
	}
	plan, err := PlanReturn(ctx, tx, in)
	if err != nil {
		return err
	}
	for _, l := range plan.Lines {
		if _, err := tx.ExecContext(ctx, `
			UPDATE shipment_lines SET given_up = given_up + $3 WHERE shipment_id = $1 AND line_id = $2`, l.shipment, l.line,
			l.GivenUp); err != nil {
			return fmt.Errorf("giving an invoice up: %w", err)
		}
	}
	tx.NotifySite(in.SiteID, "invoicing", "orders", "dispatch")
	if !plan.Net.IsPositive() {
		return nil
	}
	return plan.write(ctx, tx, in)
}

// write writes the credit note.
func (p *ReturnPlan) write(ctx context.Context, tx *command.Tx, in Returned) error {
	var credit int64
	err := tx.GetContext(ctx, &credit, `
		INSERT INTO invoices (number, site_id, customer_id, invoiced_on, due_on, terms, total, made_by, made_at, return_id,
		  reason)
		VALUES ('CN-' || nextval('credit_numbers'), $1, $2, $3::timestamptz::date, $3::timestamptz::date, '', 0, $4, $3, $5,
		  $6) RETURNING id`, in.SiteID, in.CustomerID, tx.Now, tx.Person.ID, in.Order, "returned with "+in.Number)
	if err != nil {
		return fmt.Errorf("writing a credit note: %w", err)
	}
	for _, l := range p.Lines {
		if !l.Credited.IsPositive() {
			continue
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO invoice_lines (invoice_id, shipment_id, line_id, quantity, price, tax_pct)
			VALUES ($1, $2, $3, $4, $5, $6)`, credit, l.shipment, l.line, l.Credited, l.Price, l.taxPct); err != nil {
			return fmt.Errorf("writing a credit note's lines: %w", err)
		}
	}
	if _, err := sumUp(ctx, tx, credit); err != nil {
		return err
	}
	if !in.Mail {
		return nil
	}
	return Mail(ctx, tx, credit)
}
