package purchasing

import (
	"context"
	"fmt"

	"lanternrow/internal/core/receiving"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/inbound"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/database"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// orderColumns are what is read of an order, behind the word SELECT.
const orderColumns = `
	o.id, o.number, po.supplier_id, p.name AS supplier, p.email, o.site_id,
	       to_char(o.expected_on, 'YYYY-MM-DD') AS expected_on,
	       po.began_as, po.quote, to_char(po.quote_until, 'YYYY-MM-DD') AS quote_until, o.carrier, po.terms,
	       po.freight, po.freight_by,
	       po.freight + v.goods AS value,
	       s.approve_above, coalesce(a.name, '') AS approved_by,
	       o.state, o.note, o.version, p.price_pct,
	       (o.expected_on < current_date AND o.state IN ('placed', 'partly_received')) AS late,
	       v.line_count
	  FROM inbound_orders o JOIN purchase_orders po ON po.order_id = o.id JOIN parties p ON p.id = po.supplier_id
	  JOIN sites s ON s.id = o.site_id LEFT JOIN people a ON a.id = po.approved_by
	  CROSS JOIN LATERAL (SELECT count(*) AS line_count, coalesce(sum(round(l.quantity * x.price, 2)), 0) AS goods
	                        FROM inbound_lines l JOIN purchase_lines x ON x.line_id = l.id
	                       WHERE l.order_id = o.id) AS v `

// freightOf is what an order's freight costs: what was asked for it so far, or else what was agreed.
const freightOf = `coalesce((SELECT sum(freight) FROM supplier_invoices i
		         WHERE i.order_id = o.order_id AND i.takes_back IS NULL AND NOT i.taken_back), o.freight)`

// lists are the orders people live by: what each holds, beside the site.
var lists = map[string]string{
	"open":  `o.state IN ('draft', 'placed', 'partly_received')`,
	"asked": `o.state = 'draft' AND po.began_as <> 'order'`,
	"approve": `o.state = 'draft' AND po.approved_by IS NULL AND s.approve_above IS NOT NULL
		    AND po.freight + v.goods > s.approve_above`,
	"late":  `o.state IN ('placed', 'partly_received') AND o.expected_on < current_date`,
	"today": `o.state IN ('placed', 'partly_received') AND o.expected_on = current_date`,
	"week": `o.state IN ('placed', 'partly_received') AND o.expected_on BETWEEN current_date
		    AND current_date + 6`,
	"partly_received": `o.state = 'partly_received'`,
	"uninvoiced": `o.state <> 'draft'
		    AND EXISTS (SELECT FROM inbound_lines l JOIN purchase_lines x ON x.line_id = l.id WHERE l.order_id = o.id
		    AND l.received > x.invoiced)`,
	"waiting": `EXISTS (SELECT FROM receipts b JOIN inbound_lines l ON l.id = b.line_id JOIN moves m ON m.id = b.move_id
	              WHERE l.order_id = o.id AND m.to_condition = 'waiting' AND b.undone_at IS NULL
	                AND b.released_at IS NULL)`,
	"all": `true`,
}

// sortKeys are what orders can be sorted by.
var sortKeys = map[string]documents.SortKey{
	"number":   {Expr: "o.number", Type: "text"},
	"supplier": {Expr: "lower(p.name)", Type: "text"},
	"expected": {Expr: "o.expected_on", Type: "date"},
	"state":    {Expr: "o.state", Type: "text"},
	"lines":    {Expr: "v.line_count", Type: "numeric"},
	"value":    {Expr: "(po.freight + v.goods)", Type: "numeric"},
	"freight":  {Expr: "po.freight", Type: "numeric"},
	"carrier":  {Expr: "lower(o.carrier)", Type: "text"},
	"terms":    {Expr: "lower(po.terms)", Type: "text"},
	"approved": {Expr: "lower(coalesce(a.name, ''))", Type: "text"},
}

// sorting reads how a list is sorted: open ones by the day they are expected, all of them
// newest first, unless somebody says otherwise.
func sorting(list, by string, down bool, after string) (documents.Sorting, error) {
	if by == "" {
		by, down = "expected", list == "all"
	}
	return documents.SortBy(sortKeys, by, down, after)
}

// narrowed are the orders of a list that a filter leaves, over parameters 1 to 4.
func narrowed(list string) string {
	return `
		 WHERE o.site_id = $1 AND ` + lists[list] + ` AND ($2 = 0 OR po.supplier_id = $2)
		   AND ($3 = '' OR upper(o.number) = upper($3)
		     OR EXISTS (SELECT FROM inbound_lines l JOIN items i ON i.id = l.item_id WHERE l.order_id = o.id
		     AND upper(i.sku) LIKE upper($4) || '%'))`
}

// listOrders reads a page of a list, and with the first how many orders the list has.
func listOrders(
	ctx context.Context, q sqlx.QueryerContext, site int32, list string, f OrderFilter, by documents.Sorting, limit int,
) (page OrderPage, err error) {
	page.Orders = []Order{}
	var rows []struct {
		Order
		documents.Sorted
	}
	args := []any{site, f.Supplier, f.Text, database.LikeLiteral(f.Text)}
	err = sqlx.SelectContext(ctx, q, &rows, `SELECT `+by.Key.Expr+`::text AS sort_value, o.id AS sort_id, `+orderColumns+narrowed(list)+
		` AND `+by.Where(5)+` ORDER BY `+by.OrderBy()+fmt.Sprintf(` LIMIT %d`, limit+1), append(args, by.Args()...)...)
	if err != nil {
		return page, fmt.Errorf("listing purchase orders: %w", err)
	}
	rows, page.Next = documents.CutPage(rows, limit)
	for _, r := range rows {
		page.Orders = append(page.Orders, r.Order)
	}
	if by.First() {
		page.Totals, err = documents.ReadTotals(ctx, q, `SELECT `+orderColumns+narrowed(list), args, "value", "freight")
	}
	return page, err
}

// ordersTable is a whole list as a table.
func ordersTable(
	ctx context.Context, q sqlx.QueryerContext, site int32, list string, f OrderFilter,
) (exchange.Table, error) {
	t := exchange.Table{Money: []string{"value", "freight"}, Header: []string{"number", "supplier", "expected_on", "state", "late", "lines", "value",
		"freight", "terms", "carrier", "began_as", "approved_by", "note"}}
	for after := ""; ; {
		by, err := sorting(list, "", false, after)
		if err != nil {
			return t, err
		}
		page, err := listOrders(ctx, q, site, list, f, by, 200)
		if err != nil {
			return t, err
		}
		for _, o := range page.Orders {
			late := ""
			if o.Late {
				late = "late"
			}
			t.Rows = append(t.Rows, []string{o.Number, o.Supplier, o.ExpectedOn, string(o.State), late,
				fmt.Sprint(o.LineCount), o.Value.StringFixed(2), o.Freight.StringFixed(2), o.Terms, o.Carrier, o.BegunAs, o.ApprovedBy, o.Note})
		}
		if page.Next == "" {
			return t, nil
		}
		after = page.Next
	}
}

func readOrder(ctx context.Context, q sqlx.QueryerContext, id int64) (Order, error) {
	var o Order
	err := sqlx.GetContext(ctx, q, &o, `SELECT `+orderColumns+`WHERE o.id = $1`, id)
	if err != nil {
		return o, documents.Found(err, "purchase order", fmt.Sprint(id))
	}
	o.ToApprove = o.toApprove()
	if o.Lines, err = readLines(ctx, q, id); err != nil {
		return o, err
	}
	o.Invoices = []Invoice{}
	err = sqlx.SelectContext(ctx, q, &o.Invoices, `
		SELECT b.id, b.number, to_char(b.invoiced_on, 'YYYY-MM-DD') AS invoiced_on, pe.name AS person,
		       coalesce(b.freight, (SELECT sum(quantity * price) FROM supplier_invoice_lines WHERE invoice_id = b.id))
		         * CASE WHEN b.takes_back IS NULL THEN 1 ELSE -1 END AS amount, b.carrier,
		       b.takes_back IS NOT NULL AS counter, b.taken_back, b.waits AND NOT b.taken_back AS waits, b.reason,
		       coalesce((SELECT string_agg(DISTINCT d.number, ', ') FROM supplier_invoice_lines x
		          JOIN inbound_lines l ON l.id = x.line_id JOIN inbound_orders d ON d.id = l.order_id
		         WHERE x.invoice_id = b.id), '') AS orders
		  FROM supplier_invoices b JOIN people pe ON pe.id = b.entered_by
		 WHERE b.order_id = $1 AND b.freight IS NOT NULL OR EXISTS (SELECT FROM supplier_invoice_lines x JOIN inbound_lines l ON l.id = x.line_id
		    WHERE x.invoice_id = b.id AND l.order_id = $1) ORDER BY b.id`, id)
	if err != nil {
		return o, fmt.Errorf("reading invoices: %w", err)
	}
	return o, nil
}

// readLines reads the lines of an order with what they cost.
func readLines(ctx context.Context, q sqlx.QueryerContext, order int64) ([]Line, error) {
	plain, err := inbound.Lines(ctx, q, order)
	if err != nil {
		return nil, err
	}
	var costs []struct {
		LineID       int64   `db:"line_id"`
		NeededOn     *string `db:"needed_on"`
		Price        decimal.Decimal
		Invoiced     decimal.Decimal
		OrderFreight decimal.Decimal `db:"freight"`
		FreightBy    string          `db:"freight_by"`
	}
	err = sqlx.SelectContext(ctx, q, &costs, `
		SELECT x.line_id, to_char(x.needed_on, 'YYYY-MM-DD') AS needed_on, x.price, x.invoiced, `+freightOf+` AS freight,
		       o.freight_by
		  FROM inbound_lines l JOIN purchase_lines x ON x.line_id = l.id
		  JOIN purchase_orders o ON o.order_id = l.order_id
		 WHERE l.order_id = $1 ORDER BY l.line`, order)
	if err != nil {
		return nil, fmt.Errorf("reading purchase lines: %w", err)
	}
	lines := make([]Line, len(plain))
	var costed []receiving.Costed
	var at []int
	for i, l := range plain {
		c := costs[i]
		lines[i] = Line{Line: l, NeededOn: c.NeededOn, Price: c.Price, Invoiced: c.Invoiced}
		if l.Stock() {
			costed, at = append(costed, receiving.Costed{Quantity: l.Quantity, Price: c.Price,
				WeightKg: l.WeightKg}), append(at, i)
		}
	}
	if len(costs) == 0 {
		return lines, nil
	}
	for i, f := range receiving.SpreadFreight(costs[0].OrderFreight, costs[0].FreightBy, costed) {
		l := &lines[at[i]]
		l.Freight, l.Landed = f, l.Price.Add(f.Each)
	}
	return lines, nil
}

// keepLanded writes down what each line's goods cost as they come: their price with what
// they bear of the freight. It follows every change of prices, quantities or freight.
func (o Order) keepLanded(ctx context.Context, tx *command.Tx) error {
	var ids []int64
	var landed []string
	for _, l := range o.Lines {
		if l.Stock() {
			ids, landed = append(ids, l.ID), append(landed, l.Landed.String())
		}
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE inbound_lines l SET unit_cost = x.landed
		  FROM unnest($1::bigint[], $2::text[]::numeric[]) AS x(id, landed) WHERE l.id = x.id`, ids, landed)
	if err != nil {
		return fmt.Errorf("writing what lines cost: %w", err)
	}
	return nil
}
