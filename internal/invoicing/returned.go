package invoicing

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/pricing"
	"lanternrow/internal/core/refusal"
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
	// Instead is what the customer gets instead of the money.
	Instead []SaleLine
}

// ReturnedGoods are goods of a line of a shipment.
type ReturnedGoods struct {
	// Shipment and Line are 0 where nobody knows what they were shipped with.
	Shipment, Line int64
	Item           int32
	SKU            string
	Quantity       decimal.Decimal
	// Invoice is the one that they are credited against; 0 for the one that they came from.
	Invoice int64
}

// A ReturnPlan is what a customer gets for a return: what was not invoiced is not any more, and the rest is
// credited at the price that it was invoiced at.
type ReturnPlan struct {
	Lines []ReturnPlanLine `json:"lines" nullable:"false"`
	Taxes []pricing.Tax    `json:"taxes" nullable:"false"`
	Net   decimal.Decimal  `json:"net"`
	Total decimal.Decimal  `json:"total"`
	// Instead is what the customer gets instead; nil for nothing. Difference is what it pays for that beyond the
	// credit, or gets where that is below nought.
	Instead    *SalePlan       `json:"instead"`
	Difference decimal.Decimal `json:"difference"`
	Notes      []string        `json:"notes" nullable:"false"`
	Button     string          `json:"button"`
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

	// shipment and line are those that are credited; own are those that the goods went with.
	shipment, line       int64
	ownShipment, ownLine int64
	taxPct               decimal.Decimal
}

// PlanReturn calculates what a customer gets.
func PlanReturn(ctx context.Context, q sqlx.QueryerContext, in Returned, now time.Time) (*ReturnPlan, error) {
	out := &ReturnPlan{Lines: []ReturnPlanLine{}, Notes: []string{}}
	var credited []returning.Line
	for _, g := range in.together() {
		l, invoiced, err := g.plan(ctx, q, in)
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
	return out, out.giveInstead(ctx, q, in, now)
}

// together are the goods with those of one line of one shipment as one.
func (in Returned) together() (out []ReturnedGoods) {
	for _, g := range in.Goods {
		at := -1
		for i, x := range out {
			if x.Shipment == g.Shipment && x.Line == g.Line && x.Item == g.Item && x.Invoice == g.Invoice {
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
func (g ReturnedGoods) plan(
	ctx context.Context, q sqlx.QueryerContext, in Returned,
) (l ReturnPlanLine, r returning.Line, err error) {
	l = ReturnPlanLine{SKU: g.SKU, shipment: g.Shipment, line: g.Line, ownShipment: g.Shipment, ownLine: g.Line}
	if g.Shipment != 0 {
		var open decimal.Decimal
		if err = q.QueryRowxContext(ctx, `
			SELECT d.number, x.quantity - x.invoiced - x.given_up FROM shipment_lines x JOIN shipments d ON d.id = x.shipment_id
			 WHERE x.shipment_id = $1 AND x.line_id = $2`, g.Shipment, g.Line).Scan(&l.Shipment, &open); err != nil {
			return l, r, fmt.Errorf("reading what is invoiced: %w", err)
		}
		l.GivenUp = decimal.Min(open, g.Quantity)
	}
	if l.Credited = g.Quantity.Sub(l.GivenUp); !l.Credited.IsPositive() {
		return l, r, nil
	}
	from, err := g.creditable(ctx, q, in)
	if err != nil {
		return l, r, err
	}
	if l.Credited.GreaterThan(from.Left) {
		return l, r, refusal.New(refusal.OverInvoiced, "against",
			"%s asked for %s of %s, of which %s may still be credited, not %s. Credit them against another invoice of %s.",
			from.Number, from.Quantity, g.SKU, from.Left, l.Credited, in.Customer).Of(refusal.Conflict).With("left", from.Left)
	}
	l.Invoice, l.shipment, l.line = from.Number, from.ShipmentID, from.LineID
	return l, returning.Line{Quantity: l.Credited, Price: from.Price, TaxPct: from.TaxPct}, nil
}

// A Creditable is goods on an invoice of which some may still be credited.
type Creditable struct {
	InvoiceID  int64           `db:"invoice_id" json:"invoice_id"`
	Number     string          `db:"number" json:"number"`
	InvoicedOn string          `db:"invoiced_on" json:"invoiced_on"`
	ItemID     int32           `db:"item_id" json:"item_id"`
	Quantity   decimal.Decimal `db:"quantity" json:"quantity" doc:"What was invoiced"`
	Left       decimal.Decimal `db:"remaining" json:"left" doc:"How much of it may still be credited"`
	Price      decimal.Decimal `db:"price" json:"price"`
	TaxPct     decimal.Decimal `db:"tax_pct" json:"tax_pct"`
	ShipmentID int64           `db:"shipment_id" json:"-"`
	LineID     int64           `db:"line_id" json:"-"`
}

// creditables reads lines of invoices that stand, less what was credited of them for returns.
const creditables = `
	SELECT b.id AS invoice_id, b.number, to_char(b.invoiced_on, 'YYYY-MM-DD') AS invoiced_on, l.item_id, x.quantity, x.price,
	       x.tax_pct, x.shipment_id, x.line_id,
	       x.quantity - coalesce((SELECT sum(y.quantity) FROM invoice_lines y JOIN invoices c ON c.id = y.invoice_id
	                               WHERE c.return_id IS NOT NULL AND y.shipment_id = x.shipment_id AND y.line_id = x.line_id), 0)
	         AS remaining
	  FROM invoice_lines x JOIN invoices b ON b.id = x.invoice_id JOIN outbound_lines l ON l.id = x.line_id
	 WHERE b.credits IS NULL AND b.return_id IS NULL AND NOT EXISTS (SELECT FROM invoices c WHERE c.credits = b.id) `

// creditable finds the invoice that goods are credited against: the one that was named, or the one that they came from.
func (g ReturnedGoods) creditable(ctx context.Context, q sqlx.QueryerContext, in Returned) (c Creditable, err error) {
	if g.Invoice == 0 && g.Shipment == 0 {
		return c, refusal.New(refusal.InvoiceMissing, "against",
			"What %s of %s were invoiced at is not known, since no paper is. Choose the invoice of %s that they are credited against.",
			g.Quantity, g.SKU, in.Customer)
	}
	if g.Invoice == 0 {
		err = sqlx.GetContext(ctx, q, &c, creditables+`AND x.shipment_id = $1 AND x.line_id = $2 ORDER BY b.id DESC LIMIT 1`,
			g.Shipment, g.Line)
		if err != nil {
			return c, fmt.Errorf("reading what was invoiced: %w", err)
		}
		return c, nil
	}
	err = sqlx.GetContext(ctx, q, &c, creditables+`AND b.id = $1 AND b.customer_id = $2 AND l.item_id = $3
		 ORDER BY remaining DESC LIMIT 1`, g.Invoice, in.CustomerID, g.Item)
	return c, documents.FoundOr(err, refusal.New(refusal.InvoiceMissing, "against",
		"That invoice asks %s for no %s, or was taken back. Choose another.", in.Customer, g.SKU).Of(refusal.Conflict))
}

// ListCreditable lists what of items a customer was invoiced and may still be credited, the latest first.
func ListCreditable(ctx context.Context, q sqlx.QueryerContext, customer int32, items []int32) ([]Creditable, error) {
	out := []Creditable{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT * FROM (`+creditables+`AND b.customer_id = $1 AND l.item_id = ANY($2)) AS t
		 WHERE remaining > 0 ORDER BY invoice_id DESC LIMIT 200`, customer, items)
	if err != nil {
		return nil, fmt.Errorf("listing what may be credited: %w", err)
	}
	return out, nil
}

// CreditReturn gives a customer the money for a return: a credit note where something was invoiced, mailed if it
// is wanted; and the order over what it gets instead, whose id is returned, 0 for none.
func CreditReturn(ctx context.Context, tx *command.Tx, in Returned) (sold int64, err error) {
	// What is sold comes first: its customer and orders are held before shipments are.
	if len(in.Instead) > 0 {
		if sold, err = in.sell(ctx, tx); err != nil {
			return 0, err
		}
	}
	shipments, err := in.shipments(ctx, tx)
	if err != nil {
		return 0, err
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.Shipment, shipments...)); err != nil {
		return 0, err
	}
	plan, err := PlanReturn(ctx, tx, in, tx.Now)
	if err != nil {
		return 0, err
	}
	return sold, plan.carryOut(ctx, tx, in)
}

// shipments are those whose invoices the return has to do with.
func (in Returned) shipments(ctx context.Context, q sqlx.QueryerContext) (ids []int64, err error) {
	var invoices []int64
	for _, g := range in.Goods {
		if g.Shipment != 0 {
			ids = append(ids, g.Shipment)
		}
		invoices = append(invoices, g.Invoice)
	}
	var others []int64
	if err := sqlx.SelectContext(ctx, q, &others, `SELECT DISTINCT shipment_id FROM invoice_lines WHERE invoice_id = ANY($1)`,
		invoices); err != nil {
		return nil, fmt.Errorf("reading the shipments of invoices: %w", err)
	}
	return append(ids, others...), nil
}

// carryOut gives up what was not invoiced, and writes the credit note.
func (p *ReturnPlan) carryOut(ctx context.Context, tx *command.Tx, in Returned) error {
	for _, l := range p.Lines {
		if _, err := tx.ExecContext(ctx, `
			UPDATE shipment_lines SET given_up = given_up + $3 WHERE shipment_id = $1 AND line_id = $2`, l.ownShipment, l.ownLine,
			l.GivenUp); err != nil {
			return fmt.Errorf("giving an invoice up: %w", err)
		}
	}
	tx.NotifySite(in.SiteID, "invoicing", "orders", "dispatch")
	if !p.Net.IsPositive() {
		return nil
	}
	return p.write(ctx, tx, in)
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
