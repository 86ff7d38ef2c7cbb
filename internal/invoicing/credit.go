package invoicing

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// Credit takes an invoice back by a credit note over all of it; what it asked for is not
// invoiced any more, and may be invoiced anew. Nothing is deleted.
func Credit(ctx context.Context, tx *command.Tx, id int64, reason string) (Invoice, error) {
	b, err := readInvoice(ctx, tx, id)
	if err != nil {
		return b, err
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.Shipment, b.shipments()...)); err != nil {
		return b, err
	}
	// Somebody may have taken it back before the shipment was held.
	if b, err = readInvoice(ctx, tx, id); err != nil {
		return b, err
	}
	reason = strings.TrimSpace(reason)
	switch {
	case b.ReturnID != 0:
		return b, refusal.New(refusal.InvoiceCredited, "", "%s gives money for %s. It is not taken back.", b.Number,
			b.Return).Of(refusal.Conflict)
	case b.Credits != 0:
		return b, refusal.New(refusal.InvoiceCredited, "", "%s is a credit note already. Invoice %s anew instead.", b.Number,
			b.Shipment).Of(refusal.Conflict)
	case b.CreditedBy != 0:
		return b, refusal.New(refusal.InvoiceCredited, "", "%s was taken back by %s already.", b.Number,
			b.CreditedNumber).Of(refusal.Conflict)
	case people.SaysTooLittle(reason):
		return b, refusal.New(refusal.ReasonShort, "reason",
			"%q says too little. Write in a few words why the invoice is taken back; it stands on the credit note.", reason)
	}
	if err := b.nothingReturned(ctx, tx); err != nil {
		return b, err
	}
	var credit int64
	err = tx.GetContext(ctx, &credit, `
		INSERT INTO invoices (number, site_id, customer_id, invoiced_on, due_on, terms, total, made_by, made_at, credits,
		  reason)
		SELECT 'CN-' || nextval('credit_numbers'), site_id, customer_id, $2::timestamptz::date,
		       $2::timestamptz::date, '', 0, $3, $2, id, $4 FROM invoices WHERE id = $1 RETURNING id`,
		id, tx.Now, tx.Person.ID, reason)
	if err != nil {
		return b, fmt.Errorf("writing a credit note: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `
		WITH x AS (INSERT INTO invoice_lines (invoice_id, shipment_id, line_id, quantity, price, tax_pct)
		  SELECT $2, shipment_id, line_id, quantity, price, tax_pct FROM invoice_lines WHERE invoice_id = $1
		  RETURNING shipment_id, line_id, quantity)
		UPDATE shipment_lines s SET invoiced = s.invoiced - x.quantity FROM x
		 WHERE s.shipment_id = x.shipment_id AND s.line_id = x.line_id`, id, credit); err != nil {
		return b, fmt.Errorf("writing a credit note's lines: %w", err)
	}
	tx.NotifySite(b.SiteID, "invoicing", "orders", "dispatch")
	return sumUp(ctx, tx, credit)
}

// shipments are those that it asks for.
func (b Invoice) shipments() []int64 {
	out := make([]int64, len(b.Lines))
	for i, l := range b.Lines {
		out[i] = l.ShipmentID
	}
	return slices.Compact(out)
}

// nothingReturned refuses to take an invoice back of which something was credited for a return.
func (b Invoice) nothingReturned(ctx context.Context, q sqlx.QueryerContext) error {
	var notes []string
	err := sqlx.SelectContext(ctx, q, &notes, `
		SELECT DISTINCT c.number || ' for ' || n.number FROM invoice_lines x
		  JOIN invoice_lines y ON y.shipment_id = x.shipment_id AND y.line_id = x.line_id
		  JOIN invoices c ON c.id = y.invoice_id JOIN inbound_orders n ON n.id = c.return_id WHERE x.invoice_id = $1`, b.ID)
	if err != nil {
		return fmt.Errorf("reading what was credited: %w", err)
	}
	if len(notes) > 0 {
		return refusal.New(refusal.InvoiceCredited, "", "Part of %s was credited already: %s. Return the rest of it instead.",
			b.Number, strings.Join(notes, ", ")).Of(refusal.Conflict)
	}
	return nil
}
