package purchasing

import (
	"cmp"
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
// its lines pass. It may ask for lines of several orders of the supplier. One that comes before its
// goods is asked about, and kept until it is matched.
func EnterSupplierInvoice(ctx context.Context, tx *command.Tx, order int64, in NewSupplierInvoice) (Order, error) {
	day, err := in.check(tx.Now)
	if err != nil {
		return Order{}, err
	}
	orders, err := holdInvoiced(ctx, tx, order, in.Lines, "entered an invoice")
	if err != nil {
		return Order{}, err
	}
	o := orders[0]
	if err := in.unknown(ctx, tx, o, ""); err != nil {
		return o, err
	}
	var id int64
	err = tx.GetContext(ctx, &id, `
		INSERT INTO supplier_invoices (order_id, supplier_id, number, invoiced_on, entered_by, entered_at)
		VALUES ($1, $2, $3, $4, $5, $6) RETURNING id`,
		order, o.SupplierID, in.Number, day, tx.Person.ID, tx.Now)
	if err != nil {
		return o, fmt.Errorf("writing an invoice: %w", err)
	}
	waits := false
	for i, l := range in.Lines {
		early, err := enterInvoiceLine(ctx, tx, fmt.Sprintf("lines[%d]", i), id, orders, l, in.Sure)
		if err != nil {
			return o, err
		}
		waits = waits || early
	}
	if err := countInvoice(ctx, tx, id, waits); err != nil {
		return o, err
	}
	return recost(ctx, tx, orders, "Invoice "+in.Number)
}

// check reads the day of an invoice, and refuses one without a number.
func (in *InvoicePaper) check(now time.Time) (time.Time, error) {
	day, err := documents.Day("invoiced_on", in.InvoicedOn)
	if err != nil {
		return day, err
	}
	if err := in.askDay(day, now); err != nil {
		return day, err
	}
	if in.Number = strings.TrimSpace(in.Number); in.Number == "" {
		return day, refusal.New(refusal.InvoiceNumberMissing, "number",
			"Enter the number that stands on the invoice, so that it is not paid twice.")
	}
	return day, nil
}

// check reads the day of an invoice, and refuses one without a number or lines.
func (in *NewSupplierInvoice) check(now time.Time) (time.Time, error) {
	day, err := in.InvoicePaper.check(now)
	if err != nil {
		return day, err
	}
	if len(in.Lines) == 0 {
		return day, refusal.New(refusal.LinesMissing, "lines", "The invoice has no lines. Enter what it asks for.")
	}
	seen := map[int64]bool{}
	for i, l := range in.Lines {
		if seen[l.LineID] {
			return day, refusal.New(refusal.LineTwice, fmt.Sprintf("lines[%d].line_id", i),
				"A line stands twice on the invoice. Enter its whole quantity once.")
		}
		seen[l.LineID] = true
	}
	return day, nil
}

// unknown refuses an invoice that was entered before: of the order's supplier, or of a carrier.
func (in *InvoicePaper) unknown(ctx context.Context, q sqlx.QueryerContext, o Order, carrier string) error {
	var before []string
	if err := sqlx.SelectContext(ctx, q, &before, `
		SELECT d.number FROM supplier_invoices b JOIN inbound_orders d ON d.id = b.order_id
		 WHERE ($3 <> '' OR b.supplier_id = $1) AND upper(b.number) = upper($2) AND upper(b.carrier) = upper($3)
		   AND NOT b.taken_back AND b.takes_back IS NULL`, o.SupplierID, in.Number, carrier); err != nil {
		return fmt.Errorf("looking for the invoice: %w", err)
	}
	if len(before) > 0 {
		return refusal.New(refusal.InvoiceKnown, "number", "Invoice %s of %s was entered before, for %s.", in.Number,
			cmp.Or(carrier, o.Supplier), before[0]).Of(refusal.Conflict)
	}
	return nil
}

// holdInvoiced holds an order and the others whose lines an invoice asks for, and reads them, that
// order first. All are of one supplier.
func holdInvoiced(
	ctx context.Context, tx *command.Tx, order int64, lines []NewSupplierInvoiceLine, what string,
) ([]Order, error) {
	ids := make([]int64, len(lines))
	for i, l := range lines {
		ids[i] = l.LineID
	}
	var others []int64
	if err := tx.SelectContext(ctx, &others, `
		SELECT DISTINCT order_id FROM inbound_lines l JOIN purchase_lines p ON p.line_id = l.id
		 WHERE l.id = ANY($1) AND order_id <> $2`, ids, order); err != nil {
		return nil, fmt.Errorf("reading an invoice's orders: %w", err)
	}
	// Another invoice may be entered for the same orders this moment.
	for _, id := range slices.Sorted(slices.Values(append([]int64{order}, others...))) {
		if err := documents.Change(ctx, tx, documents.InboundOrder, id, 0, what); err != nil {
			return nil, err
		}
	}
	var out []Order
	for _, id := range append([]int64{order}, others...) {
		o, err := readOrder(ctx, tx, id)
		if err != nil {
			return nil, err
		}
		if out = append(out, o); o.SupplierID != out[0].SupplierID || o.SiteID != out[0].SiteID {
			return nil, refusal.New(refusal.OrderElsewhere, "lines",
				"%s is of %s, and %s of %s. An invoice is of one supplier and for one site.", out[0].Number, out[0].Supplier,
				o.Number, o.Supplier).Of(refusal.Conflict)
		}
	}
	return out, nil
}

// countInvoice counts what an invoice asks as invoiced, or has it wait for its goods. Its orders
// are held.
func countInvoice(ctx context.Context, tx *command.Tx, invoice int64, waits bool) error {
	if _, err := tx.ExecContext(ctx, `
		UPDATE supplier_invoices SET waits = $2 WHERE id = $1`, invoice, waits); err != nil || waits {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE purchase_lines p SET invoiced = p.invoiced + x.quantity FROM supplier_invoice_lines x
		 WHERE x.invoice_id = $1 AND p.line_id = x.line_id`, invoice); err != nil {
		return fmt.Errorf("counting what is invoiced: %w", err)
	}
	return nil
}

// MatchInvoice matches an invoice that waited for its goods, once they are here.
func MatchInvoice(ctx context.Context, tx *command.Tx, order, invoice int64) (Order, error) {
	lines, err := linesOf(ctx, tx, invoice)
	if err != nil {
		return Order{}, err
	}
	orders, err := holdInvoiced(ctx, tx, order, lines, "matched an invoice")
	if err != nil {
		return Order{}, err
	}
	o := orders[0]
	at := slices.IndexFunc(o.Invoices, func(b Invoice) bool { return b.ID == invoice })
	switch {
	case at < 0:
		return o, documents.Missing("invoice", fmt.Sprint(invoice))
	case !o.Invoices[at].Waits:
		return o, refusal.New(refusal.InvoiceMatched, "", "Invoice %s waits for nothing.", o.Invoices[at].Number).Of(refusal.Conflict)
	}
	for _, l := range lines {
		_, line := lineOf(orders, l.LineID)
		quantity, err := decimal.NewFromString(l.Quantity)
		if err != nil {
			return o, fmt.Errorf("reading an invoice's line: %w", err)
		}
		if err := line.match(quantity, line.Price, o.PricePct).CheckQuantity(""); err != nil {
			return o, refusal.At(err, "")
		}
	}
	if err := countInvoice(ctx, tx, invoice, false); err != nil {
		return o, err
	}
	return recost(ctx, tx, orders, "Invoice "+o.Invoices[at].Number)
}

// linesOf reads what an invoice asks for.
func linesOf(ctx context.Context, q sqlx.QueryerContext, invoice int64) (lines []NewSupplierInvoiceLine, err error) {
	if err := sqlx.SelectContext(ctx, q, &lines, `
		SELECT line_id AS lineid, quantity::text AS quantity FROM supplier_invoice_lines WHERE invoice_id = $1
		 ORDER BY line_id`, invoice); err != nil {
		return nil, fmt.Errorf("reading an invoice: %w", err)
	}
	return lines, nil
}

// lineOf finds a line of several orders, and whose it is.
func lineOf(orders []Order, id int64) (Order, Line) {
	for _, o := range orders {
		if l := lineByID(o.Lines, id); l.ID != 0 {
			return o, l
		}
	}
	return Order{}, Line{}
}

// match holds what an invoice asks for the line against what was ordered and what came. A non-stock
// line has come when it is invoiced.
func (l Line) match(quantity, price, allowance decimal.Decimal) receiving.Match {
	if !l.Stock() {
		l.SKU, l.Received = l.Description, l.Quantity
	}
	return receiving.Match{SKU: l.SKU, Ordered: l.Quantity, Received: l.Received, Invoiced: l.Invoiced, Price: l.Price,
		Quantity: quantity, InvoicePrice: price, PriceAllowance: allowance}
}

// TakeInvoiceBack takes a supplier's invoice back by a counter-entry over all of it: what it asked
// is not invoiced any more, and its number may be entered anew.
func TakeInvoiceBack(ctx context.Context, tx *command.Tx, order, invoice int64, reason string) (Order, error) {
	lines, err := linesOf(ctx, tx, invoice)
	if err != nil {
		return Order{}, err
	}
	orders, err := holdInvoiced(ctx, tx, order, lines, "took an invoice back")
	if err != nil {
		return Order{}, err
	}
	o := orders[0]
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
			  reason, freight, carrier)
			SELECT order_id, supplier_id, number, $3::timestamptz::date, $2, $3, id, $4, freight, carrier
			  FROM supplier_invoices WHERE id = $1
			RETURNING id),
		l AS (INSERT INTO supplier_invoice_lines (invoice_id, line_id, quantity, price)
			SELECT b.id, x.line_id, x.quantity, x.price FROM b, supplier_invoice_lines x WHERE x.invoice_id = $1
			RETURNING line_id, quantity),
		p AS (UPDATE purchase_lines SET invoiced = invoiced - l.quantity FROM l, supplier_invoices x
			WHERE purchase_lines.line_id = l.line_id AND x.id = $1 AND NOT x.waits)
		UPDATE supplier_invoices SET taken_back = true WHERE id = $1`, invoice, tx.Person.ID, tx.Now, reason); err != nil {
		return o, fmt.Errorf("taking an invoice back: %w", err)
	}
	return recost(ctx, tx, orders, "Invoice "+o.Invoices[at].Number+" taken back: "+reason)
}

// farBack is after how many days an invoice is rarely entered.
const farBack = 180

// askDay asks about a day that is to come, or long past.
func (in InvoicePaper) askDay(day, now time.Time) error {
	far := day.After(now) || now.Sub(day) > farBack*24*time.Hour
	return in.Sure.Ask(far, refusal.Question(refusal.DayFar, "invoiced_on",
		"%s is to come, or more than %d days ago. Read the invoice again, or say that it is dated so.", in.InvoicedOn, farBack))
}

// enterInvoiceLine writes a line of an invoice, and tells whether its goods are still to come.
func enterInvoiceLine(
	ctx context.Context, tx *command.Tx, field string, invoice int64, orders []Order, l NewSupplierInvoiceLine,
	sure refusal.Sure,
) (early bool, err error) {
	o, line := lineOf(orders, l.LineID)
	if line.ID == 0 {
		return false, refusal.New(refusal.LineUnknown, field+".line_id", "That line is not on %s.", orders[0].Number)
	}
	quantity, err := measure.Parse(field+".quantity", l.Quantity, measure.Unit{Name: line.Unit, Whole: line.Whole})
	if err != nil {
		return false, err
	}
	price, err := measure.ParsePrice(field+".price", l.Price)
	if err != nil {
		return false, err
	}
	if err := sure.Ask(price.IsZero(), refusal.Question(refusal.PriceNought, field+".price",
		"The price of %s is 0. Enter what the invoice asks, or say that it is free of charge.", line.SKU)); err != nil {
		return false, err
	}
	match := line.match(quantity, price, o.PricePct)
	// A line that is closed expects nothing more.
	early = match.Early() && !line.Closed
	if err := sure.Ask(early, refusal.Question(refusal.GoodsToCome, field+".quantity",
		"%s: the invoice is for %s, and %s of %s ordered on %s came. Keep the invoice until its goods are here?", match.SKU,
		quantity, match.Received, match.Ordered, o.Number)); err != nil {
		return false, err
	}
	if !early {
		if err := match.CheckQuantity(field); err != nil {
			return false, err
		}
	}
	reason := strings.TrimSpace(l.Reason)
	if err := people.Decide(ctx, field, reason, match.CheckPrice(field)); err != nil {
		return false, err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO supplier_invoice_lines (invoice_id, line_id, quantity, price, reason)
		VALUES ($1, $2, $3, $4, $5)`, invoice, line.ID, quantity, price, reason); err != nil {
		return false, fmt.Errorf("writing an invoice's line: %w", err)
	}
	return early, nil
}

func init() { inbound.Attach(inbound.Purchase, commerce{}) }

// commerce is what purchasing has to say on the floor.
type commerce struct{}

// MayReceive takes all that fits an order.
func (commerce) MayReceive(context.Context, sqlx.QueryerContext, inbound.Line, inbound.Arriving) error {
	return nil
}

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
