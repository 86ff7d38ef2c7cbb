package orders

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/availability"
	"lanternrow/internal/core/pricing"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/countrequests"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/invoicing"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/database"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// short is how many lines of an order want more than lies in bins reserved for nobody, and
// is not reserved for them. What is to be counted first does not count.
const short = `(SELECT count(*) FROM outbound_lines x WHERE x.order_id = o.id
	    AND x.due > coalesce((SELECT sum(quantity) FROM reservations WHERE line_id = x.id), 0)
	  + coalesce((SELECT sum(b.quantity - b.reserved) FROM balances b JOIN locations p ON p.id = b.location_id
	  WHERE b.item_id = x.item_id AND p.site_id = o.site_id AND p.kind = 'bin' AND b.condition = 'good'
	       AND NOT EXISTS (SELECT FROM count_requests d WHERE d.location_id = b.location_id AND d.item_id = b.item_id
	         AND ` + countrequests.Doubtful + `)), 0))`

// columns are what is read of an order, behind the word SELECT.
const columns = `
	o.id, o.number, so.customer_id, p.name AS customer, o.site_id,
	       to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on, o.reference, o.carrier, o.note,
	       to_char(so.quote_until, 'YYYY-MM-DD') AS quote_until, o.state, so.owing,
	       coalesce((SELECT name FROM people WHERE id = so.owing_by), '') AS owing_by, p.email, so.hold,
	       so.hold_note, coalesce((SELECT name FROM people WHERE id = so.held_by), '') AS held_by,
	       (o.wanted_on < current_date AND o.state IN ('on_hold', 'released')) AS late, o.version, l.quantity,
	       l.planned, l.picked, l.shipped, l.due, l.value, l.reserved,
	       k.blocked_by, CASE k.blocked_by WHEN 'carton_weight' THEN 'a carton''s weight differs'
	            WHEN 'restock' THEN 'goods to return to stock' WHEN 'bin_short' THEN 'a bin was short'
	            WHEN 'lines_short' THEN s.short_lines || ' of ' || l.items || ' lines short'
	            ELSE '' END AS blockers, s.short_lines
	  FROM outbound_orders o JOIN sales_orders so ON so.order_id = o.id JOIN parties p ON p.id = so.customer_id,
	       LATERAL (SELECT coalesce(sum(quantity) FILTER (WHERE item_id IS NOT NULL), 0) AS quantity,
	       coalesce(sum(planned), 0) AS planned, coalesce(sum(picked), 0) AS picked,
	                       coalesce(sum(shipped) FILTER (WHERE item_id IS NOT NULL), 0) AS shipped,
	                       coalesce(sum(due), 0) AS due, count(item_id) AS items,
	                       coalesce(round(sum((quantity - cancelled) * (SELECT price FROM sales_lines
	                       WHERE line_id = outbound_lines.id)), 2), 0) AS value,
	                       coalesce(sum((SELECT sum(quantity) FROM reservations WHERE line_id = outbound_lines.id)),
	                       0) AS reserved
	                  FROM outbound_lines WHERE order_id = o.id) AS l,
	       LATERAL (SELECT CASE WHEN o.state IN ('on_hold',
		'released') THEN ` + short + ` ELSE 0 END AS short_lines) AS s,
	       LATERAL (SELECT CASE WHEN o.state NOT IN ('on_hold', 'released') THEN ''
	            WHEN EXISTS (SELECT FROM carton_work w WHERE w.order_id = o.id AND w.variance_kg IS NOT NULL
	            AND w.state = 'at_bench') THEN 'carton_weight'
	            WHEN EXISTS (SELECT FROM restocks b JOIN outbound_lines x ON x.id = b.line_id WHERE x.order_id = o.id
	            AND b.done_at IS NULL) THEN 'restock'
	            WHEN EXISTS (SELECT FROM round_stops s JOIN outbound_lines x ON x.id = s.line_id
	            WHERE x.order_id = o.id AND s.short > 0 AND x.due > x.planned) THEN 'bin_short'
	            WHEN s.short_lines > 0 THEN 'lines_short' ELSE '' END AS blocked_by) AS k `

func listOrders(ctx context.Context, q sqlx.QueryerContext, site int32, state string) ([]Order, error) {
	if state == "" {
		state = "open"
	}
	page, err := pageOrders(ctx, q, site, Filter{State: state}, byWanted, whole)
	return page.Orders, err
}

// sortKeys are what orders can be sorted by.
var sortKeys = map[string]documents.SortKey{
	"number":    {Expr: "o.number", Type: "text"},
	"customer":  {Expr: "lower(p.name)", Type: "text"},
	"wanted":    {Expr: "o.wanted_on", Type: "date"},
	"state":     {Expr: "o.state", Type: "text"},
	"carrier":   {Expr: "lower(o.carrier)", Type: "text"},
	"reference": {Expr: "lower(o.reference)", Type: "text"},
	"units":     {Expr: "l.quantity", Type: "numeric"},
	"reserved":  {Expr: "l.reserved", Type: "numeric"},
	"cartons":   {Expr: "l.picked", Type: "numeric"},
	"shipped":   {Expr: "l.shipped", Type: "numeric"},
	"value":     {Expr: "l.value", Type: "numeric"},
}

// whole is the limit of a list that is read whole.
const whole = 1_000_000

// kept is what is left of orders by what keeps them, over two parameters from number n on.
func kept(n int) string {
	return fmt.Sprintf(" WHERE (NOT $%d OR blockers <> '' OR late) AND ($%d = '' OR blocked_by = $%d)", n, n+1, n+1)
}

// byWanted is how orders are sorted where nobody says: by the day on which they are wanted.
var byWanted = documents.Sorting{Key: sortKeys["wanted"]}

// narrowed are the orders of a site that a filter leaves, over parameters 1 to 7.
const narrowed = `
		 WHERE o.site_id = $1 AND ($2 = '' OR o.state = $2 OR $2 = 'open' AND o.state IN ('on_hold', 'released')
		     OR $2 = 'waiting' AND o.state = 'on_hold' AND so.hold = '')
		   AND ($3 = 0 OR so.customer_id = $3) AND ($4 = '' OR o.carrier = $4)
		   AND ($5 = '' OR o.number LIKE upper($5) || '%' OR p.name ILIKE '%' || $5 || '%'
		     OR o.reference ILIKE '%' || $5 || '%')
		   AND ($6::date IS NULL OR o.wanted_on >= $6) AND ($7::date IS NULL OR o.wanted_on <= $7)`

// args are the parameters of narrowed.
func (f Filter) args(site int32) ([]any, error) {
	out := []any{site, f.State, f.Customer, f.Carrier, database.LikeLiteral(f.Text)}
	for _, d := range []struct{ field, text string }{{"from", f.From}, {"until", f.Until}} {
		var day *time.Time
		if d.text != "" {
			read, err := documents.Day(d.field, d.text)
			if err != nil {
				return nil, err
			}
			day = &read
		}
		out = append(out, day)
	}
	return out, nil
}

// pageOrders reads a page of a list of orders, and with the first how many there are.
func pageOrders(
	ctx context.Context, q sqlx.QueryerContext, site int32, f Filter, by documents.Sorting, limit int,
) (Page, error) {
	out := Page{Orders: []Order{}}
	args, err := f.args(site)
	if err != nil {
		return out, err
	}
	var rows []struct {
		Order
		documents.Sorted
	}
	err = sqlx.SelectContext(ctx, q, &rows, `SELECT * FROM (SELECT `+by.Key.Expr+`::text AS sort_value, o.id AS sort_id, `+columns+
		narrowed+` AND `+by.Where(8)+` ORDER BY `+by.OrderBy()+`) AS t`+kept(10)+` LIMIT $12`,
		append(append(args, by.Args()...), f.Blocked, f.BlockedBy, limit+1)...)
	if err != nil {
		return out, fmt.Errorf("listing orders: %w", err)
	}
	rows, out.Next = documents.CutPage(rows, limit)
	for _, r := range rows {
		r.empty()
		out.Orders = append(out.Orders, r.Order)
	}
	if by.First() {
		listed := `SELECT quantity AS units, value FROM (SELECT ` + columns + narrowed +
			`) AS t` + kept(8)
		out.Totals, err = documents.ReadTotals(ctx, q, listed, append(args, f.Blocked, f.BlockedBy), "units", "value")
	}
	return out, err
}

func (o *Order) empty() {
	o.Lines, o.Shipments, o.Reservations, o.Invoices, o.Freed = []Line{}, []Shipment{}, []reservation.Reservation{}, []Shipment{}, []string{}
	o.Taxes = []pricing.Tax{}
}

// exportOrders is the whole list as a table.
func exportOrders(ctx context.Context, q sqlx.QueryerContext, site int32, f Filter) (exchange.Table, error) {
	t := exchange.Table{Money: []string{"value"}, Header: []string{"number", "state", "customer", "wanted_on", "carrier", "reference", "units",
		"due", "reserved", "in_cartons", "shipped", "value", "blockers"}}
	page, err := pageOrders(ctx, q, site, f, byWanted, 100_000)
	for _, o := range page.Orders {
		t.Rows = append(t.Rows, []string{o.Number, string(o.State), o.Customer, o.WantedOn, o.Carrier, o.Reference,
			o.Quantity.String(), o.Due.String(), o.Reserved.String(), o.Picked.String(), o.Shipped.String(), o.Value.String(), o.Blockers})
	}
	return t, err
}

// customer is whom an order is for, with what it owes.
type customer struct {
	Name, Carrier string
	Overdue       decimal.Decimal
	Limit         *decimal.Decimal `db:"credit_limit"`
	// Location is where goods are once they are with it.
	Location int32 `db:"location_id"`
	// Open is what its orders come to that are not all shipped.
	Open decimal.Decimal
}

func readCustomer(ctx context.Context, tx *command.Tx, id int32) (customer, error) {
	return readCustomerBut(ctx, tx, id, 0)
}

// readCustomerBut leaves one order out of what is open.
func readCustomerBut(ctx context.Context, tx *command.Tx, id int32, order int64) (c customer, err error) {
	// Its orders are counted one after another, so that two do not pass a limit together:
	// by a statement of its own, which sees what the one before has written.
	if err := documents.Hold(ctx, tx, documents.Own(documents.Party, int64(id))); err != nil {
		return c, err
	}
	err = tx.GetContext(ctx, &c, `
		SELECT p.name, p.carrier, p.location_id, p.overdue, p.credit_limit,
		       coalesce((SELECT sum((l.quantity - l.cancelled - l.shipped) * sl.price) FROM outbound_lines l
		       JOIN sales_lines sl ON sl.line_id = l.id
		                  JOIN outbound_orders o ON o.id = l.order_id JOIN sales_orders so ON so.order_id = o.id
		                 WHERE so.customer_id = p.id AND o.state IN ('on_hold', 'released') AND o.id <> $2),
		                    0) AS open
		  FROM parties p WHERE p.id = $1 AND p.kind = 'customer'`, id, order)
	return c, documents.FoundOr(err, refusal.New(refusal.CustomerUnknown, "customer_id",
		"Choose a customer for the order."))
}

// holdCustomer keeps the customer of an order to the transaction: it comes before the order
// itself, whose customer never changes.
func holdCustomer(ctx context.Context, tx *command.Tx, order int64) error {
	var customer int64
	if err := tx.GetContext(ctx, &customer, `
		SELECT customer_id FROM sales_orders WHERE order_id = $1`, order); err != nil {
		return documents.Found(err, "order", fmt.Sprint(order))
	}
	return documents.Hold(ctx, tx, documents.Own(documents.Party, customer))
}

// addDays tells of each open line on which day it can go. courses are those of items that
// were read before.
func (o *Order) addDays(
	ctx context.Context, q sqlx.QueryerContext, now time.Time, courses map[int32]availability.Course,
) error {
	// Lines of one item share what there is, the first of them first.
	before := map[int32]decimal.Decimal{}
	for i := range o.Lines {
		l := &o.Lines[i]
		before[l.ItemID] = before[l.ItemID].Add(l.Due.Sub(l.Planned).Sub(l.Reserved))
		if !l.Due.GreaterThan(l.Planned) || o.State == states.Quote {
			continue
		}
		c, known := courses[l.ItemID]
		if !known {
			var err error
			if c, err = availability.CourseOf(ctx, q, l.ItemID, o.SiteID, decimal.Zero, now); err != nil {
				return err
			}
			courses[l.ItemID] = c
		}
		day := c.ServedPart(o.Number, before[l.ItemID])
		l.CanGo = &day
	}
	return nil
}

// addTaxes adds up what the order comes to, by the tax rates of its lines.
func (o *Order) addTaxes(rates map[int64]decimal.Decimal) {
	amounts := make([]pricing.Taxable, len(o.Lines))
	for i, l := range o.Lines {
		amounts[i] = pricing.Taxable{Amount: l.Amount(), Pct: rates[l.ID]}
	}
	o.Taxes = pricing.Taxes(amounts)
	_, o.Total = pricing.Totals(o.Taxes)
}

// Amount is what the line comes to, without what was cancelled.
func (l Line) Amount() decimal.Decimal { return l.Price.Mul(l.Quantity.Sub(l.Cancelled)).Round(2) }

// Read reads an order.
func Read(ctx context.Context, q sqlx.QueryerContext, id int64) (Order, error) {
	return readOrder(ctx, q, id)
}

func readOrder(ctx context.Context, q sqlx.QueryerContext, id int64) (Order, error) {
	var o Order
	o.empty()
	if err := sqlx.GetContext(ctx, q, &o, `SELECT `+columns+`WHERE o.id = $1`, id); err != nil {
		return o, documents.Found(err, "order", fmt.Sprint(id))
	}
	err := sqlx.SelectContext(ctx, q, &o.Lines, `
		SELECT l.id, l.line, coalesce(l.item_id, 0) AS item_id, coalesce(i.sku, '') AS sku,
		       coalesce(nullif(l.text, ''), i.description) AS description, coalesce(i.base_unit, '') AS unit,
		       sl.price, sl.price_source, sl.price_why, l.quantity, l.planned, l.picked, l.shipped, l.cancelled,
		       l.due, coalesce((SELECT sum(quantity) FROM reservations WHERE line_id = l.id),
		       0) - l.planned AS reserved,
		       coalesce((SELECT sum(invoiced) FROM shipment_lines WHERE line_id = l.id), 0) AS invoiced,
		       coalesce((SELECT sum(greatest(c.quantity - c.received, 0)) FROM inbound_lines c
		       JOIN inbound_orders b ON b.id = c.order_id WHERE c.covers = l.id AND NOT c.closed
		        AND b.state IN ('draft', 'placed', 'partly_received')), 0) AS covered
		  FROM outbound_lines l JOIN sales_lines sl ON sl.line_id = l.id LEFT JOIN items i ON i.id = l.item_id
		 WHERE l.order_id = $1 ORDER BY l.line`, id)
	if err != nil {
		return o, fmt.Errorf("reading order lines: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &o.Shipments, `
		SELECT id, number FROM shipments WHERE order_id = $1 ORDER BY id`, id); err != nil {
		return o, fmt.Errorf("reading shipments: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &o.Invoices, `
		SELECT b.id, b.number FROM invoices b WHERE EXISTS (SELECT FROM invoice_lines l
		  JOIN shipments d ON d.id = l.shipment_id WHERE l.invoice_id = b.id AND d.order_id = $1)
		 ORDER BY b.id`, id); err != nil {
		return o, fmt.Errorf("reading invoices: %w", err)
	}
	if o.Reservations, err = reservation.OfOrder(ctx, q, id); err != nil {
		return o, err
	}
	rates, err := invoicing.TaxRates(ctx, q, id)
	o.addTaxes(rates)
	return o, err
}
