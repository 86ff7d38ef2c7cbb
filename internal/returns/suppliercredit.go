package returns

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/invoicing"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// creditable lists the invoices that the goods of a return may be credited against.
func creditable(ctx context.Context, q sqlx.QueryerContext, id int64) ([]invoicing.Creditable, error) {
	o, err := Read(ctx, q, id)
	if err != nil {
		return nil, err
	}
	items := make([]int32, len(o.Lines))
	for i, l := range o.Lines {
		items[i] = l.ItemID
	}
	return invoicing.ListCreditable(ctx, q, o.CustomerID, items)
}

// SupplierCredit is a credit of a supplier for goods that went back to it, or is still expected.
type SupplierCredit struct {
	// ID is that of the decision by which the goods go back.
	ID         int64            `db:"id" json:"id"`
	ReturnID   int64            `db:"return_id" json:"return_id"`
	Return     string           `db:"return_number" json:"return"`
	Order      string           `db:"order_number" json:"order" doc:"The order that they go back with"`
	SupplierID int32            `db:"supplier_id" json:"-"`
	Supplier   string           `db:"supplier" json:"supplier"`
	SKU        string           `db:"sku" json:"sku"`
	Quantity   decimal.Decimal  `db:"quantity" json:"quantity"`
	Expected   decimal.Decimal  `db:"expected" json:"expected" doc:"What they cost"`
	Since      time.Time        `db:"since" json:"since"`
	Days       int              `db:"days" json:"days"`
	Number     string           `db:"credit_number" json:"number"`
	Credited   *decimal.Decimal `db:"credited" json:"credited"`
	By         string           `db:"credited_by" json:"by"`
	documents.Sorted
}

// supplierCredits are the credits of suppliers for what went back from a site; those that are expected, or all.
var supplierCredits = documents.List[SupplierCredit]{
	Query: `
		SELECT d.id, n.id AS return_id, n.number AS return_number, o.number AS order_number, p.id AS supplier_id,
		       p.name AS supplier, i.sku, d.quantity, d.value AS expected, d.decided_at AS since,
		       (current_date - d.decided_at::date)::int AS days, coalesce(d.credit_number, '') AS credit_number, d.credited,
		       coalesce(w.name, '') AS credited_by
		  FROM return_decisions d JOIN outbound_orders o ON o.id = d.outbound_id JOIN parties p ON p.id = o.party_id
		  JOIN inbound_lines l ON l.id = d.line_id JOIN inbound_orders n ON n.id = l.order_id JOIN items i ON i.id = l.item_id
		  LEFT JOIN people w ON w.id = d.credited_by
		 WHERE d.fate = 'supplier' AND ($1 = 0 OR n.site_id = $1) AND (NOT $2 OR d.credit_number IS NULL)`,
	Keys: map[string]documents.SortKey{
		"since":    {Expr: "o.since", Type: "timestamptz"},
		"supplier": {Expr: "lower(o.supplier)", Type: "text"},
		"item":     {Expr: "lower(o.sku)", Type: "text"},
		"expected": {Expr: "o.expected", Type: "numeric"},
	},
	Summed: []string{"expected", "credited"},
	Header: []string{"return", "order", "supplier", "sku", "quantity", "expected", "since", "credit", "credited"},
	Text: func(c SupplierCredit) []string {
		credited := ""
		if c.Credited != nil {
			credited = c.Credited.StringFixed(2)
		}
		return []string{c.Return, c.Order, c.Supplier, c.SKU, c.Quantity.String(), c.Expected.StringFixed(2),
			c.Since.UTC().Format(time.RFC3339), c.Number, credited}
	},
}

// NewSupplierCredit is a supplier's credit note as it came.
type NewSupplierCredit struct {
	Number string `json:"number" maxLength:"60" doc:"The supplier's own number of it"`
	Amount string `json:"amount" maxLength:"40" doc:"What it gives, before tax"`
	// Sure are the questions that are answered with yes.
	Sure refusal.Sure `json:"sure,omitempty"`
}

// NoteCredit notes what a supplier credited for goods that went back to it; another amount than they cost is asked
// about.
func NoteCredit(ctx context.Context, tx *command.Tx, id int64, in NewSupplierCredit) (SupplierCredit, error) {
	c, err := holdCredit(ctx, tx, id)
	if err != nil {
		return c, err
	}
	number := strings.TrimSpace(in.Number)
	amount, err := measure.ParsePrice("amount", in.Amount)
	switch {
	case c.Number != "":
		return c, refusal.New(refusal.CreditKnown, "", "%s credited these %s of %s with %s already.", c.Supplier, c.Quantity, c.SKU,
			c.Number).Of(refusal.Conflict)
	case number == "":
		return c, refusal.New(refusal.InvoiceNumberMissing, "number", "Enter the number of %s's credit note.", c.Supplier)
	case err != nil:
		return c, err
	}
	amount = amount.Round(2)
	if err := in.Sure.Ask(!amount.Equal(c.Expected), refusal.Question(refusal.CreditDiffers, "amount",
		"%s credits %s, and %s of %s cost %s. Ask %[1]s, or say that it is meant so.", c.Supplier, amount.StringFixed(2), c.Quantity,
		c.SKU, c.Expected.StringFixed(2))); err != nil {
		return c, err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE return_decisions SET credit_number = $2, credited = $3, credited_by = $4, credited_at = $5 WHERE id = $1`, id, number,
		amount, tx.Person.ID, tx.Now); err != nil {
		return c, fmt.Errorf("noting a supplier's credit: %w", err)
	}
	tx.Notify(topics...)
	return readCredit(ctx, tx, id)
}

// holdCredit holds the return of a decision, and reads what is credited for it.
func holdCredit(ctx context.Context, tx *command.Tx, id int64) (SupplierCredit, error) {
	c, err := readCredit(ctx, tx, id)
	if err != nil {
		return c, err
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.InboundOrder, c.ReturnID)); err != nil {
		return c, err
	}
	return readCredit(ctx, tx, id)
}

func readCredit(ctx context.Context, q sqlx.QueryerContext, id int64) (c SupplierCredit, err error) {
	err = sqlx.GetContext(ctx, q, &c, `SELECT * FROM (`+supplierCredits.Query+`) AS o WHERE o.id = $3`, 0, false, id)
	return c, documents.Found(err, "credit of a supplier", fmt.Sprint(id))
}
