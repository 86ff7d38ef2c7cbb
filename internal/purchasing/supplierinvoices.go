package purchasing

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// EnterSupplierInvoice matches a supplier's invoice three ways, line by line, and keeps it when all
// its lines pass.
func EnterSupplierInvoice(ctx context.Context, tx *command.Tx, order int64, in NewSupplierInvoice) (Order, error) {
	day, err := documents.Day("invoiced_on", in.InvoicedOn)
	if err != nil {
		return Order{}, err
	}
	if err := in.askDay(day, tx.Now); err != nil {
		return Order{}, err
	}
	number := strings.TrimSpace(in.Number)
	if number == "" {
		return Order{}, refusal.New(refusal.InvoiceNumberMissing, "number",
			"Enter the supplier's number of the invoice, so that it is not paid twice.")
	}
	if len(in.Lines) == 0 {
		return Order{}, refusal.New(refusal.LinesMissing, "lines", "The invoice has no lines. Enter what it asks for.")
	}
	// Another invoice may be entered for the same order this moment.
	if err := documents.Change(ctx, tx, documents.InboundOrder, order, 0, "entered an invoice"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, order)
	if err != nil {
		return o, err
	}
	var before []string
	if err := tx.SelectContext(ctx, &before, `
		SELECT d.number FROM supplier_invoices b JOIN inbound_orders d ON d.id = b.order_id WHERE b.supplier_id = $1
		   AND upper(b.number) = upper($2) AND NOT b.taken_back AND b.takes_back IS NULL`, o.SupplierID, number); err != nil {
		return o, fmt.Errorf("looking for the invoice: %w", err)
	}
	if len(before) > 0 {
		return o, refusal.New(refusal.InvoiceKnown, "number", "Invoice %s of %s was entered before, for %s.", number,
			o.Supplier, before[0]).Of(refusal.Conflict)
	}
	var id int64
	err = tx.GetContext(ctx, &id, `
		INSERT INTO supplier_invoices (order_id, supplier_id, number, invoiced_on, entered_by, entered_at)
		VALUES ($1, $2, $3, $4, $5, $6) RETURNING id`,
		order, o.SupplierID, number, day, tx.Person.ID, tx.Now)
	if err != nil {
		return o, fmt.Errorf("writing an invoice: %w", err)
	}
	seen := map[int64]bool{}
	for i, l := range in.Lines {
		field := fmt.Sprintf("lines[%d]", i)
		if seen[l.LineID] {
			return o, refusal.New(refusal.LineTwice, field+".line_id",
				"A line stands twice on the invoice. Enter its whole quantity once.")
		}
		seen[l.LineID] = true
		if err := enterInvoiceLine(ctx, tx, field, id, o, l, in.Sure); err != nil {
			return o, err
		}
	}
	tx.NotifySite(o.SiteID, topics...)
	return readOrder(ctx, tx, order)
}

// TakeInvoiceBack takes a supplier's invoice back by a counter-entry over all of it: what it asked
// is not invoiced any more, and its number may be entered anew.
func TakeInvoiceBack(ctx context.Context, tx *command.Tx, order, invoice int64, reason string) (Order, error) {
	if err := documents.Change(ctx, tx, documents.InboundOrder, order, 0, "took an invoice back"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, order)
	if err != nil {
		return o, err
	}
	reason = strings.TrimSpace(reason)
	at := slices.IndexFunc(o.Invoices, func(b Invoice) bool { return b.ID == invoice })
	switch {
	case at < 0:
		return o, documents.Missing("invoice", fmt.Sprint(invoice))
	case o.Invoices[at].Counter || o.Invoices[at].TakenBack:
		return o, refusal.New(refusal.InvoiceCredited, "", "Invoice %s of %s was taken back already.",
			o.Invoices[at].Number, o.Supplier).Of(refusal.Conflict)
	case people.SaysTooLittle(reason):
		return o, refusal.New(refusal.ReasonShort, "reason",
			"%q says too little. Write in a few words why the invoice is taken back; it stays with it.", reason)
	}
	if _, err := tx.ExecContext(ctx, `
		WITH b AS (
			INSERT INTO supplier_invoices (order_id, supplier_id, number, invoiced_on, entered_by, entered_at, takes_back,
			  reason)
			SELECT order_id, supplier_id, number, $3::timestamptz::date, $2, $3, id, $4 FROM supplier_invoices WHERE id = $1
			RETURNING id),
		l AS (INSERT INTO supplier_invoice_lines (invoice_id, line_id, quantity, price)
			SELECT b.id, x.line_id, x.quantity, x.price FROM b, supplier_invoice_lines x WHERE x.invoice_id = $1
			RETURNING line_id, quantity),
		p AS (UPDATE purchase_lines SET invoiced = invoiced - l.quantity FROM l WHERE purchase_lines.line_id = l.line_id)
		UPDATE supplier_invoices SET taken_back = true WHERE id = $1`, invoice, tx.Person.ID, tx.Now, reason); err != nil {
		return o, fmt.Errorf("taking an invoice back: %w", err)
	}
	tx.NotifySite(o.SiteID, topics...)
	return readOrder(ctx, tx, order)
}

// farBack is after how many days an invoice is rarely entered.
const farBack = 180

// askDay asks about a day that is to come, or long past.
func (in NewSupplierInvoice) askDay(day, now time.Time) error {
	far := day.After(now) || now.Sub(day) > farBack*24*time.Hour
	return in.Sure.Ask(far, refusal.Question(refusal.DayFar, "invoiced_on",
		"%s is to come, or more than %d days ago. Read the invoice again, or say that it is dated so.", in.InvoicedOn, farBack))
}

func enterInvoiceLine(
	ctx context.Context, tx *command.Tx, field string, invoice int64, o Order, l NewSupplierInvoiceLine, sure refusal.Sure,
) error {
	line := lineByID(o.Lines, l.LineID)
	if line.ID == 0 {
		return refusal.New(refusal.LineUnknown, field+".line_id", "That line is not on %s.", o.Number)
	}
	quantity, err := measure.Parse(field+".quantity", l.Quantity, measure.Unit{Name: line.Unit, Whole: line.Whole})
	if err != nil {
		return err
	}
	price, err := measure.ParsePrice(field+".price", l.Price)
	if err != nil {
		return err
	}
	if err := sure.Ask(price.IsZero(), refusal.Question(refusal.PriceNought, field+".price",
		"The price of %s is 0. Enter what the invoice asks, or say that it is free of charge.", line.SKU)); err != nil {
		return err
	}
	// A non-stock line has come when it is invoiced.
	if !line.Stock() {
		line.SKU, line.Received = line.Description, line.Quantity
	}
	match := receiving.Match{SKU: line.SKU, Ordered: line.Quantity, Received: line.Received, Invoiced: line.Invoiced,
		Price:    line.Price,
		Quantity: quantity, InvoicePrice: price, PriceAllowance: o.PricePct}
	if err := match.CheckQuantity(field); err != nil {
		return err
	}
	reason := strings.TrimSpace(l.Reason)
	if err := people.Decide(ctx, field, reason, match.CheckPrice(field)); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO supplier_invoice_lines (invoice_id, line_id, quantity, price, reason)
		VALUES ($1, $2, $3, $4, $5)`, invoice, line.ID, quantity, price, reason); err != nil {
		return fmt.Errorf("writing an invoice's line: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE purchase_lines SET invoiced = invoiced + $2 WHERE line_id = $1`, line.ID, quantity); err != nil {
		return fmt.Errorf("counting what is invoiced: %w", err)
	}
	return nil
}

func init() { inbound.Attach(inbound.Purchase, commerce{}) }

// commerce is what purchasing has to say on the floor.
type commerce struct{}

// MayTakeBack keeps what a supplier has invoiced: it is sent back, not taken back.
func (commerce) MayTakeBack(
	ctx context.Context, q sqlx.QueryerContext, l inbound.Line, quantity decimal.Decimal,
) error {
	var invoiced decimal.Decimal
	if err := sqlx.GetContext(ctx, q, &invoiced, `
		SELECT invoiced FROM purchase_lines WHERE line_id = $1`, l.ID); err != nil {
		return fmt.Errorf("reading what is invoiced: %w", err)
	}
	if l.Received.Sub(quantity).LessThan(invoiced) {
		return refusal.New(refusal.Invoiced, "move_id",
			"%s of %s are invoiced on line %d. Only %s can be taken back, not %s.",
			invoiced, l.SKU, l.Number, l.Received.Sub(invoiced), quantity).Of(refusal.Conflict)
	}
	return nil
}
