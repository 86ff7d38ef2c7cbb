// Package invoicing asks customers to pay for what was delivered: invoices follow shipments,
// one by one or in bulk, and what is shipped and not invoiced is a list.
package invoicing

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/connection"
	"lanternrow/internal/core/pricing"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Invoice is what a customer is asked to pay for a shipment, or for several.
type Invoice struct {
	ID         int64  `db:"id" json:"id"`
	Number     string `db:"number" json:"number"`
	SiteID     int32  `db:"site_id" json:"site_id"`
	CustomerID int32  `db:"customer_id" json:"customer_id"`
	Customer   string `db:"customer" json:"customer"`
	Email      string `db:"email" json:"email"`
	// Shipment and Order are the numbers of those that it is for, one behind another.
	Shipment   string `db:"shipment" json:"shipment"`
	Order      string `db:"order_number" json:"order"`
	InvoicedOn string `db:"invoiced_on" json:"invoiced_on"`
	Terms      string `db:"terms" json:"terms"`
	DueOn      string `db:"due_on" json:"due_on"`
	// Net is before tax, Total with it; those of a credit are below nought.
	Net   decimal.Decimal `db:"net" json:"net"`
	Total decimal.Decimal `db:"total" json:"total"`
	Taxes []pricing.Tax   `db:"-" json:"taxes"`
	// Credits is the invoice that this one takes back, for Reason, and CreditedBy the one that
	// takes this one back; 0 and empty for none.
	Credits        int64  `db:"credits" json:"credits"`
	CreditsNumber  string `db:"credits_number" json:"credits_number"`
	CreditedBy     int64  `db:"credited_by" json:"credited_by"`
	CreditedNumber string `db:"credited_number" json:"credited_number"`
	Reason         string `db:"reason" json:"reason"`
	// ReturnID is the return that it gives money for; 0 and empty for none.
	ReturnID int64  `db:"return_id" json:"return_id"`
	Return   string `db:"return_number" json:"return"`
	MadeBy   string `db:"made_by" json:"made_by"`
	Lines    []Line `db:"-" json:"lines"`
	documents.Sorted
}

// Line is one line of an invoice.
type Line struct {
	LineID      int64           `db:"line_id" json:"line_id"`
	ShipmentID  int64           `db:"shipment_id" json:"shipment_id"`
	Shipment    string          `db:"shipment" json:"shipment"`
	Order       string          `db:"order_number" json:"order"`
	Reference   string          `db:"reference" json:"reference"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	Price       decimal.Decimal `db:"price" json:"price"`
	TaxPct      decimal.Decimal `db:"tax_pct" json:"tax_pct"`
	Amount      decimal.Decimal `db:"amount" json:"amount"`
}

const columns = `
	SELECT b.id, b.number, b.site_id, b.customer_id, p.name AS customer, p.email, s.shipment, s.order_number,
	       to_char(b.invoiced_on, 'YYYY-MM-DD') AS invoiced_on, b.terms, to_char(b.due_on, 'YYYY-MM-DD') AS due_on,
	       b.net, b.total, e.name AS made_by, coalesce(b.credits, 0) AS credits,
	       coalesce(x.number, '') AS credits_number, coalesce(y.id, 0) AS credited_by,
	       coalesce(y.number, '') AS credited_number, b.reason, coalesce(b.return_id, 0) AS return_id,
	       coalesce(n.number, '') AS return_number
	  FROM invoices b LEFT JOIN invoices x ON x.id = b.credits LEFT JOIN invoices y ON y.credits = b.id
	  LEFT JOIN inbound_orders n ON n.id = b.return_id
	  JOIN parties p ON p.id = b.customer_id JOIN people e ON e.id = b.made_by
	  JOIN LATERAL (SELECT coalesce(string_agg(DISTINCT d.number, ' '), '') AS shipment,
	      coalesce(string_agg(DISTINCT o.number, ' '), '') AS order_number
	    FROM invoice_lines l JOIN shipments d ON d.id = l.shipment_id JOIN outbound_orders o ON o.id = d.order_id
	    WHERE l.invoice_id = b.id) AS s ON true `

func listInvoices(ctx context.Context, q sqlx.QueryerContext, site int32, before int64) ([]Invoice, error) {
	out := []Invoice{}
	if err := sqlx.SelectContext(ctx, q, &out, columns+`
		WHERE b.site_id = $1 AND ($2::bigint = 0 OR b.id < $2) ORDER BY b.id DESC LIMIT 100`,
		site, before); err != nil {
		return nil, fmt.Errorf("listing invoices: %w", err)
	}
	for i := range out {
		out[i].Lines, out[i].Taxes = []Line{}, []pricing.Tax{}
	}
	return out, nil
}

func readInvoice(ctx context.Context, q sqlx.QueryerContext, id int64) (Invoice, error) {
	b := Invoice{Lines: []Line{}}
	if err := sqlx.GetContext(ctx, q, &b, columns+`WHERE b.id = $1`, id); err != nil {
		return b, documents.Found(err, "invoice", fmt.Sprint(id))
	}
	err := sqlx.SelectContext(ctx, q, &b.Lines, `
		SELECT x.line_id, x.shipment_id, d.number AS shipment, o.number AS order_number, o.reference,
		       coalesce(i.sku, '') AS sku, coalesce(nullif(l.text, ''), i.description) AS description,
		       coalesce(i.base_unit, '') AS unit, x.quantity, x.price, x.tax_pct,
		       round(x.quantity * x.price, 2) * CASE WHEN b.credits IS NULL AND b.return_id IS NULL THEN 1 ELSE -1 END AS amount
		  FROM invoice_lines x JOIN invoices b ON b.id = x.invoice_id JOIN outbound_lines l ON l.id = x.line_id
		  JOIN shipments d ON d.id = x.shipment_id JOIN outbound_orders o ON o.id = d.order_id
		  LEFT JOIN items i ON i.id = l.item_id
		 WHERE x.invoice_id = $1 ORDER BY d.id, l.line`, id)
	if err != nil {
		return b, fmt.Errorf("reading an invoice: %w", err)
	}
	b.Taxes = pricing.Taxes(taxables(b.Lines))
	return b, nil
}

// taxables are the amounts of lines with their rates.
func taxables(lines []Line) []pricing.Taxable {
	out := make([]pricing.Taxable, len(lines))
	for i, l := range lines {
		out[i] = pricing.Taxable{Amount: l.Amount, Pct: l.TaxPct}
	}
	return out
}

// A bill is what one invoice asks for: shipments of a customer from a site.
type bill struct {
	Site      int32  `db:"site_id"`
	Customer  int32  `db:"customer_id"`
	Name      string `db:"name"`
	Email     string `db:"email"`
	Terms     string `db:"terms"`
	Due       int    `db:"due_days"`
	Together  bool   `db:"together"`
	Shipment  int64  `db:"id"`
	Number    string `db:"number"`
	TakenBack string `db:"taken_back"`
	shipments []int64
	numbers   []string
}

// bills parts shipments into what goes on one invoice each: those of a customer that wants them
// together, and each other one by itself.
func bills(ctx context.Context, q sqlx.QueryerContext, shipments []int64) ([]bill, error) {
	var each []bill
	err := sqlx.SelectContext(ctx, q, &each, `
		SELECT d.id, d.number, coalesce(d.taken_back_number, '') AS taken_back, d.site_id, so.customer_id, p.name, p.email, p.terms,
		       p.due_days, p.together
		  FROM shipments d JOIN sales_orders so ON so.order_id = d.order_id JOIN parties p ON p.id = so.customer_id
		 WHERE d.id = ANY($1) ORDER BY d.id`, shipments)
	if err != nil {
		return nil, fmt.Errorf("reading shipments: %w", err)
	}
	type whose struct{ site, customer int32 }
	var out []bill
	at := map[whose]int{}
	for _, b := range each {
		if b.TakenBack != "" {
			return nil, refusal.New(refusal.ShipmentTakenBack, "shipment_ids", "%s was taken back with %s. It is not invoiced.",
				b.Number, b.TakenBack).Of(refusal.Conflict)
		}
		key := whose{b.Site, b.Customer}
		i, begun := at[key]
		if !begun || !b.Together {
			i, at[key] = len(out), len(out)
			out = append(out, b)
		}
		out[i].shipments, out[i].numbers = append(out[i].shipments, b.Shipment), append(out[i].numbers, b.Number)
	}
	if len(each) < len(shipments) {
		return nil, documents.Missing("shipment", fmt.Sprint(missing(shipments, each)))
	}
	return out, nil
}

// missing is the first of these shipments that is none of those that were read.
func missing(shipments []int64, each []bill) int64 {
	i := slices.IndexFunc(shipments, func(id int64) bool {
		return !slices.ContainsFunc(each, func(b bill) bool { return b.Shipment == id })
	})
	return shipments[i]
}

// Make makes invoices of shipments, or none when one refuses: one for each, or one for all of a
// customer that wants them together. With post they are mailed too.
func Make(ctx context.Context, tx *command.Tx, shipments []int64, post bool) ([]Invoice, error) {
	ids := slices.Compact(slices.Sorted(slices.Values(shipments)))
	if err := documents.Hold(ctx, tx, documents.Own(documents.Shipment, ids...)); err != nil {
		return nil, err
	}
	all, err := bills(ctx, tx, ids)
	if err != nil {
		return nil, err
	}
	return command.Each(tx, all, func(l bill) (Invoice, error) {
		b, err := l.write(ctx, tx)
		if err == nil && post {
			err = Mail(ctx, tx, b.ID)
		}
		tx.NotifySite(b.SiteID, "invoicing", "orders", "dispatch")
		return b, err
	})
}

// write writes an invoice over what of its shipments is not invoiced.
func (l bill) write(ctx context.Context, tx *command.Tx) (Invoice, error) {
	var id int64
	err := tx.GetContext(ctx, &id, `
		INSERT INTO invoices (site_id, customer_id, invoiced_on, due_on, terms, total, made_by, made_at)
		VALUES ($1, $2, $3::timestamptz::date, $3::timestamptz::date + $6::int, $4, 0, $5, $3) RETURNING id`,
		l.Site, l.Customer, tx.Now, l.Terms, tx.Person.ID, l.Due)
	if err != nil {
		return Invoice{}, fmt.Errorf("writing an invoice: %w", err)
	}
	var invoiced []int64
	err = tx.SelectContext(ctx, &invoiced, `
		WITH x AS (SELECT shipment_id, line_id, quantity - invoiced - given_up AS open FROM shipment_lines
		  WHERE shipment_id = ANY($1) AND invoiced + given_up < quantity),
		     u AS (UPDATE shipment_lines SET invoiced = quantity - given_up WHERE shipment_id = ANY($1)),
		     i AS (INSERT INTO invoice_lines (invoice_id, shipment_id, line_id, quantity, price, tax_pct)
		       SELECT $2, x.shipment_id, x.line_id, x.open, l.price, r.pct FROM x JOIN sales_lines l ON l.line_id = x.line_id
		         JOIN (`+rates+`) AS r ON r.line_id = x.line_id
		       RETURNING shipment_id)
		SELECT DISTINCT shipment_id FROM i`, l.shipments, id)
	if err != nil {
		return Invoice{}, fmt.Errorf("writing an invoice's lines: %w", err)
	}
	for i, shipment := range l.shipments {
		if !slices.Contains(invoiced, shipment) {
			return Invoice{}, refusal.New(refusal.NothingUninvoiced, "shipment_ids", "All of %s is invoiced already.",
				l.numbers[i]).Of(refusal.Conflict)
		}
	}
	return sumUp(ctx, tx, id)
}

// rates are the tax rates of all lines of orders: of an item its own; of a charge the highest
// of its order's goods, since it is part of delivering them (common practice, no source); none
// where the customer is not taxed.
const rates = `
	SELECT l.id AS line_id, CASE WHEN NOT p.taxed THEN 0 ELSE coalesce(i.tax_pct,
	         (SELECT max(g.tax_pct) FROM outbound_lines n JOIN items g ON g.id = n.item_id WHERE n.order_id = l.order_id),
	         0) END AS pct
	  FROM outbound_lines l JOIN sales_orders so ON so.order_id = l.order_id JOIN parties p ON p.id = so.customer_id
	  LEFT JOIN items i ON i.id = l.item_id`

// ItemRates are the tax rates of items for a customer, in per cent: nought where it is not taxed.
func ItemRates(ctx context.Context, q sqlx.QueryerContext, customer int32, items []int32) (map[int32]decimal.Decimal, error) {
	var rows []struct {
		ID  int32
		Pct decimal.Decimal
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT i.id, CASE WHEN p.taxed THEN coalesce(i.tax_pct, 0) ELSE 0 END AS pct
		  FROM items i, parties p WHERE p.id = $1 AND i.id = ANY($2)`, customer, items)
	if err != nil {
		return nil, fmt.Errorf("reading tax rates: %w", err)
	}
	out := map[int32]decimal.Decimal{}
	for _, r := range rows {
		out[r.ID] = r.Pct
	}
	return out, nil
}

// TaxRates are the tax rates of the lines of an order, in per cent.
func TaxRates(ctx context.Context, q sqlx.QueryerContext, order int64) (map[int64]decimal.Decimal, error) {
	var rows []struct {
		Line int64 `db:"line_id"`
		Pct  decimal.Decimal
	}
	if err := sqlx.SelectContext(ctx, q, &rows, rates+` WHERE l.order_id = $1`, order); err != nil {
		return nil, fmt.Errorf("reading tax rates: %w", err)
	}
	out := map[int64]decimal.Decimal{}
	for _, r := range rows {
		out[r.Line] = r.Pct
	}
	return out, nil
}

// sumUp writes what an invoice comes to.
func sumUp(ctx context.Context, tx *command.Tx, id int64) (Invoice, error) {
	b, err := readInvoice(ctx, tx, id)
	if err != nil {
		return b, err
	}
	b.Net, b.Total = pricing.Totals(b.Taxes)
	if _, err := tx.ExecContext(ctx, `
		UPDATE invoices SET net = $2, total = $3 WHERE id = $1`, id, b.Net, b.Total); err != nil {
		return b, fmt.Errorf("summing an invoice up: %w", err)
	}
	return b, nil
}

// credit tells whether it is a credit note: it takes an invoice back, or gives money for a return.
func (b Invoice) credit() bool { return b.Credits != 0 || b.ReturnID != 0 }

// paper is an invoice as its customer gets it.
func paper(ctx context.Context, q sqlx.QueryerContext, id int64) (Invoice, []byte, error) {
	b, err := readInvoice(ctx, q, id)
	if err != nil {
		return b, nil, err
	}
	var about struct{ Address, Site string }
	err = sqlx.GetContext(ctx, q, &about, `
		SELECT p.address, s.name AS site FROM invoices b JOIN parties p ON p.id = b.customer_id
		  JOIN sites s ON s.id = b.site_id WHERE b.id = $1`, id)
	if err != nil {
		return b, nil, fmt.Errorf("reading an invoice's addresses: %w", err)
	}
	title, reference := "Invoice", ""
	if b.credit() {
		title = "Credit note"
	}
	if len(b.Lines) > 0 {
		reference = b.Lines[0].Reference
	}
	pdf, err := papers.Note{Title: title, Number: b.Number, Order: "Order " + b.Order, Reference: reference,
		Date: b.InvoicedOn, From: about.Site, To: b.Customer, Address: about.Address, Groups: b.groups(),
		Foot: b.foot()}.Print()
	return b, pdf, err
}

// groups are its lines, shipment by shipment.
func (b Invoice) groups() []papers.Group {
	var out []papers.Group
	for i, l := range b.Lines {
		if i == 0 || l.ShipmentID != b.Lines[i-1].ShipmentID {
			heading := "Shipped with " + l.Shipment + " for order " + l.Order
			if b.Credits != 0 && i == 0 {
				heading = "Takes back " + b.CreditsNumber + ": " + b.Reason
			}
			if b.ReturnID != 0 {
				heading = "Returned with " + b.Return + ", shipped with " + l.Shipment + " for order " + l.Order
			}
			out = append(out, papers.Group{Heading: heading})
		}
		g := &out[len(out)-1]
		g.Rows = append(g.Rows, papers.Row{SKU: l.SKU, Description: l.Description, Quantity: l.Quantity.String(),
			Unit: l.Unit, Note: fmt.Sprintf("at %s: %s", l.Price, l.Amount.StringFixed(2))})
	}
	return out
}

// foot is what stands under the lines of an invoice: what they come to, and when it is due.
func (b Invoice) foot() []string {
	out := pricing.Words(b.Taxes)
	switch {
	case b.credit():
	case b.Terms != "":
		out = append(out, fmt.Sprintf("To be paid by %s (%s).", b.DueOn, b.Terms))
	default:
		out = append(out, "To be paid by "+b.DueOn+".")
	}
	return out
}

// Mail sends an invoice to its customer.
func Mail(ctx context.Context, tx *command.Tx, id int64) error {
	b, pdf, err := paper(ctx, tx, id)
	if err != nil {
		return err
	}
	subject, text := "Our invoice "+b.Number, fmt.Sprintf("Our invoice %s for what we shipped with %s is attached. "+
		"Total %s, to be paid by %s.", b.Number, b.Shipment, b.Total.StringFixed(2), b.DueOn)
	if b.Credits != 0 {
		subject, text = "Our credit note "+b.Number, fmt.Sprintf("Our credit note %s is attached. It takes our invoice "+
			"%s back: %s. Total %s.", b.Number, b.CreditsNumber, b.Reason, b.Total.StringFixed(2))
	}
	if b.ReturnID != 0 {
		subject, text = "Our credit note "+b.Number, fmt.Sprintf("Our credit note %s for what you returned with %s is "+
			"attached. Total %s.", b.Number, b.Return, b.Total.StringFixed(2))
	}
	return connection.Post(ctx, tx, b.SiteID, connection.Letter{Recipient: b.Email, Subject: subject,
		Document: b.Number, PaperName: b.Number, Paper: pdf, Text: fmt.Sprintf("To %s\n\n%s", b.Customer, text)})
}
