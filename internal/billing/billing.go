// Package billing asks customers to pay for what was delivered: bills follow deliveries,
// one by one or in bulk, and what is shipped and not billed is a list.
package billing

import (
	"context"
	"fmt"
	"slices"
	"time"

	"lanternrow/internal/connection"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Unbilled is a delivery of which something is not billed.
type Unbilled struct {
	DeliveryID int64           `db:"delivery_id" json:"delivery_id"`
	Delivery   string          `db:"delivery" json:"delivery"`
	OrderID    int64           `db:"order_id" json:"order_id"`
	Order      string          `db:"order_number" json:"order"`
	CustomerID int32           `db:"customer_id" json:"customer_id"`
	Customer   string          `db:"customer" json:"customer"`
	SentAt     time.Time       `db:"sent_at" json:"sent_at"`
	Lines      int             `db:"lines" json:"lines"`
	Value      decimal.Decimal `db:"value" json:"value"`
}

// Bill is what a customer is asked to pay for a delivery.
type Bill struct {
	ID         int64           `db:"id" json:"id"`
	Number     string          `db:"number" json:"number"`
	SiteID     int32           `db:"site_id" json:"site_id"`
	CustomerID int32           `db:"customer_id" json:"customer_id"`
	Customer   string          `db:"customer" json:"customer"`
	Email      string          `db:"email" json:"email"`
	DeliveryID int64           `db:"delivery_id" json:"delivery_id"`
	Delivery   string          `db:"delivery" json:"delivery"`
	OrderID    int64           `db:"order_id" json:"order_id"`
	Order      string          `db:"order_number" json:"order"`
	BilledOn   string          `db:"billed_on" json:"billed_on"`
	Terms      string          `db:"terms" json:"terms"`
	Total      decimal.Decimal `db:"total" json:"total"`
	MadeBy     string          `db:"made_by" json:"made_by"`
	Lines      []Line          `db:"-" json:"lines"`
}

// Line is one line of a bill.
type Line struct {
	LineID      int64           `db:"line_id" json:"line_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	Price       decimal.Decimal `db:"price" json:"price"`
	Amount      decimal.Decimal `db:"amount" json:"amount"`
}

// listUnbilled lists what is shipped and not billed, the oldest first.
func listUnbilled(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Unbilled, error) {
	out := []Unbilled{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT d.id AS delivery_id, d.number AS delivery, o.id AS order_id, o.number AS order_number, so.customer_id, p.name AS customer, d.sent_at,
		       count(*) AS lines, sum(round((x.quantity - x.billed) * sl.price, 2)) AS value
		  FROM delivery_lines x JOIN deliveries d ON d.id = x.delivery_id JOIN sales_lines sl ON sl.line_id = x.line_id
		  JOIN outbound_orders o ON o.id = d.order_id JOIN sales_orders so ON so.order_id = o.id JOIN parties p ON p.id = so.customer_id
		 WHERE x.billed < x.quantity AND d.site_id = $1 GROUP BY d.id, o.id, so.customer_id, p.id ORDER BY d.id LIMIT 1000`, site)
	if err != nil {
		return nil, fmt.Errorf("listing what is not billed: %w", err)
	}
	return out, nil
}

const columns = `
	SELECT b.id, b.number, b.site_id, b.customer_id, p.name AS customer, p.email, b.delivery_id, d.number AS delivery, o.id AS order_id, o.number AS order_number,
	       to_char(b.billed_on, 'YYYY-MM-DD') AS billed_on, b.terms, b.total, e.name AS made_by
	  FROM sales_bills b JOIN parties p ON p.id = b.customer_id JOIN deliveries d ON d.id = b.delivery_id JOIN outbound_orders o ON o.id = d.order_id JOIN people e ON e.id = b.made_by `

func listBills(ctx context.Context, q sqlx.QueryerContext, site int32, before int64) ([]Bill, error) {
	out := []Bill{}
	if err := sqlx.SelectContext(ctx, q, &out, columns+`WHERE b.site_id = $1 AND ($2::bigint = 0 OR b.id < $2) ORDER BY b.id DESC LIMIT 100`, site, before); err != nil {
		return nil, fmt.Errorf("listing bills: %w", err)
	}
	for i := range out {
		out[i].Lines = []Line{}
	}
	return out, nil
}

func readBill(ctx context.Context, q sqlx.QueryerContext, id int64) (Bill, error) {
	b := Bill{Lines: []Line{}}
	if err := sqlx.GetContext(ctx, q, &b, columns+`WHERE b.id = $1`, id); err != nil {
		return b, documents.Found(err, "bill", fmt.Sprint(id))
	}
	err := sqlx.SelectContext(ctx, q, &b.Lines, `
		SELECT x.line_id, coalesce(i.sku, '') AS sku, coalesce(nullif(l.text, ''), i.description) AS description, coalesce(i.base_unit, '') AS unit, x.quantity, x.price, round(x.quantity * x.price, 2) AS amount
		  FROM sales_bill_lines x JOIN outbound_lines l ON l.id = x.line_id LEFT JOIN items i ON i.id = l.item_id WHERE x.bill_id = $1 ORDER BY l.line`, id)
	if err != nil {
		return b, fmt.Errorf("reading a bill: %w", err)
	}
	return b, nil
}

// Make bills deliveries, a bill for each, or none when one refuses. With post it is mailed
// too.
func Make(ctx context.Context, tx *command.Tx, deliveries []int64, post bool) ([]Bill, error) {
	ids := slices.Compact(slices.Sorted(slices.Values(deliveries)))
	if err := documents.Hold(ctx, tx, documents.Own(documents.Delivery, ids...)); err != nil {
		return nil, err
	}
	out := []Bill{}
	for _, d := range ids {
		b, err := bill(ctx, tx, d)
		if err != nil {
			return nil, err
		}
		if post {
			if err := Mail(ctx, tx, b.ID); err != nil {
				return nil, err
			}
		}
		out = append(out, b)
	}
	tx.Touch("billing", "orders", "dispatch")
	return out, nil
}

func bill(ctx context.Context, tx *command.Tx, delivery int64) (Bill, error) {
	var d struct {
		Number, Terms string
		Site          int32 `db:"site_id"`
		Customer      int32 `db:"customer_id"`
	}
	err := tx.GetContext(ctx, &d, `SELECT d.number, p.terms, d.site_id, so.customer_id FROM deliveries d
		JOIN sales_orders so ON so.order_id = d.order_id JOIN parties p ON p.id = so.customer_id WHERE d.id = $1`, delivery)
	if err != nil {
		return Bill{}, documents.Found(err, "delivery", fmt.Sprint(delivery))
	}
	var id int64
	err = tx.GetContext(ctx, &id, `INSERT INTO sales_bills (site_id, customer_id, delivery_id, billed_on, terms, total, made_by, made_at) VALUES ($1, $2, $3, $4::timestamptz::date, $5, 0, $6, $4) RETURNING id`,
		d.Site, d.Customer, delivery, tx.Now, d.Terms, tx.Person.ID)
	if err != nil {
		return Bill{}, fmt.Errorf("writing a bill: %w", err)
	}
	var total *decimal.Decimal
	err = tx.GetContext(ctx, &total, `
		WITH x AS (SELECT line_id, quantity - billed AS open FROM delivery_lines WHERE delivery_id = $1 AND billed < quantity),
		     u AS (UPDATE delivery_lines SET billed = quantity WHERE delivery_id = $1),
		     i AS (INSERT INTO sales_bill_lines (bill_id, line_id, quantity, price) SELECT $2, x.line_id, x.open, l.price FROM x JOIN sales_lines l ON l.line_id = x.line_id RETURNING round(quantity * price, 2) AS amount)
		SELECT sum(amount) FROM i`, delivery, id)
	if err != nil {
		return Bill{}, fmt.Errorf("writing a bill's lines: %w", err)
	}
	if total == nil {
		return Bill{}, refusal.New("nothing_unbilled", "delivery_ids", "All of %s is billed already.", d.Number).Of(refusal.Conflict)
	}
	if _, err := tx.ExecContext(ctx, `UPDATE sales_bills SET total = $2 WHERE id = $1`, id, total); err != nil {
		return Bill{}, fmt.Errorf("summing a bill up: %w", err)
	}
	return readBill(ctx, tx, id)
}

// paper is a bill as its customer gets it.
func paper(ctx context.Context, q sqlx.QueryerContext, id int64) (Bill, []byte, error) {
	b, err := readBill(ctx, q, id)
	if err != nil {
		return b, nil, err
	}
	var about struct{ Address, Site, Reference string }
	err = sqlx.GetContext(ctx, q, &about, `SELECT p.address, s.name AS site, o.reference FROM sales_bills b JOIN parties p ON p.id = b.customer_id JOIN sites s ON s.id = b.site_id
		JOIN deliveries d ON d.id = b.delivery_id JOIN outbound_orders o ON o.id = d.order_id WHERE b.id = $1`, id)
	if err != nil {
		return b, nil, fmt.Errorf("reading a bill's addresses: %w", err)
	}
	g := papers.Group{Heading: "Delivered with " + b.Delivery}
	for _, l := range b.Lines {
		g.Rows = append(g.Rows, papers.Row{SKU: l.SKU, Description: l.Description, Quantity: l.Quantity.String(), Unit: l.Unit, Note: fmt.Sprintf("at %s: %s", l.Price, l.Amount.StringFixed(2))})
	}
	foot := []string{"In all: " + b.Total.StringFixed(2)}
	if b.Terms != "" {
		foot = append(foot, "To be paid: "+b.Terms+".")
	}
	pdf, err := papers.Note{Title: "Bill", Number: b.Number, Order: "Order " + b.Order, Reference: about.Reference, Date: b.BilledOn, From: about.Site, To: b.Customer, Address: about.Address, Groups: []papers.Group{g}, Foot: foot}.Print()
	return b, pdf, err
}

// Mail sends a bill to its customer.
func Mail(ctx context.Context, tx *command.Tx, id int64) error {
	b, pdf, err := paper(ctx, tx, id)
	if err != nil {
		return err
	}
	return connection.Post(ctx, tx, b.SiteID, connection.Letter{Recipient: b.Email, Subject: "Our bill " + b.Number, Document: b.Number, PaperName: b.Number, Paper: pdf,
		Text: fmt.Sprintf("To %s\n\nOur bill %s for what we delivered with %s is attached. It comes to %s.", b.Customer, b.Number, b.Delivery, b.Total.StringFixed(2))})
}
