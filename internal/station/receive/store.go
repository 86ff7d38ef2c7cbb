package receive

import (
	"context"
	"encoding/json"
	"fmt"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

const orderColumns = `
	SELECT o.id, o.number, o.supplier_id, p.name AS supplier, p.email, o.site_id, to_char(o.expected_on, 'YYYY-MM-DD') AS expected_on,
	       o.began_as, o.quote, to_char(o.quote_until, 'YYYY-MM-DD') AS quote_until, o.carrier, o.terms, o.freight, o.freight_by,
	       o.freight + coalesce((SELECT sum(round(quantity * price, 2)) FROM purchase_lines WHERE order_id = o.id), 0) AS value,
	       s.approve_above, coalesce(a.name, '') AS approved_by,
	       o.state, o.note, o.version, p.price_pct, (o.expected_on < current_date AND o.state IN ('placed', 'part in')) AS late,
	       (SELECT count(*) FROM purchase_lines WHERE order_id = o.id) AS line_count
	  FROM purchase_orders o JOIN parties p ON p.id = o.supplier_id JOIN sites s ON s.id = o.site_id LEFT JOIN people a ON a.id = o.approved_by `

// lists are the orders people live by: what each holds, beside the site.
var lists = map[string]string{
	"open":     `o.state IN ('draft', 'placed', 'part in')`,
	"asked":    `o.state = 'draft' AND o.began_as <> 'order'`,
	"approve":  `o.state = 'draft' AND o.approved_by IS NULL AND s.approve_above IS NOT NULL AND o.freight + (SELECT sum(round(quantity * price, 2)) FROM purchase_lines WHERE order_id = o.id) > s.approve_above`,
	"late":     `o.state IN ('placed', 'part in') AND o.expected_on < current_date`,
	"today":    `o.state IN ('placed', 'part in') AND o.expected_on = current_date`,
	"week":     `o.state IN ('placed', 'part in') AND o.expected_on BETWEEN current_date AND current_date + 6`,
	"part in":  `o.state = 'part in'`,
	"unbilled": `o.state <> 'draft' AND EXISTS (SELECT FROM purchase_lines l WHERE l.order_id = o.id AND l.received > l.billed)`,
	"waiting":  `EXISTS (SELECT FROM bookings b JOIN purchase_lines l ON l.id = b.line_id JOIN moves m ON m.id = b.move_id WHERE l.order_id = o.id AND m.to_condition = 'waiting' AND b.undone_at IS NULL AND b.released_at IS NULL)`,
	"all":      `true`,
}

// listOrders reads a page of a list: open ones by the day they are expected, all of
// them newest first.
func listOrders(ctx context.Context, q sqlx.QueryerContext, site int32, list string, f OrderFilter, after documents.Cursor, limit int) (page OrderPage, err error) {
	page.Orders = []Order{}
	compare, order := ">", "ASC"
	if list == "all" {
		compare, order = "<", "DESC"
	}
	err = sqlx.SelectContext(ctx, q, &page.Orders, orderColumns+fmt.Sprintf(`WHERE o.site_id = $1 AND %s AND ($2::date IS NULL OR (o.expected_on, o.id) %s ($2, $3)) AND ($4 = 0 OR o.supplier_id = $4)
		   AND ($5 = '' OR upper(o.number) = upper($5) OR EXISTS (SELECT FROM purchase_lines l JOIN items i ON i.id = l.item_id WHERE l.order_id = o.id AND upper(i.sku) LIKE upper($6) || '%%'))
		 ORDER BY o.expected_on %s, o.id %s LIMIT %d`,
		lists[list], compare, order, order, limit+1), site, after.Day, after.ID, f.Supplier, f.Text, catalog.LikeLiteral(f.Text))
	if err != nil {
		return page, fmt.Errorf("listing purchase orders: %w", err)
	}
	if len(page.Orders) > limit {
		page.Orders = page.Orders[:limit]
		last := page.Orders[limit-1]
		page.Next = documents.CursorAfter(last.ExpectedOn, last.ID)
	}
	return page, nil
}

// ordersTable is a whole list as a table.
func ordersTable(ctx context.Context, q sqlx.QueryerContext, site int32, list string, f OrderFilter) (exchange.Table, error) {
	t := exchange.Table{Header: []string{"number", "supplier", "expected_on", "state", "late", "lines", "value", "freight", "terms", "carrier", "began_as", "approved_by", "note"}}
	for after := (documents.Cursor{}); ; {
		page, err := listOrders(ctx, q, site, list, f, after, 200)
		if err != nil {
			return t, err
		}
		for _, o := range page.Orders {
			late := ""
			if o.Late {
				late = "late"
			}
			t.Rows = append(t.Rows, []string{o.Number, o.Supplier, o.ExpectedOn, o.State, late, fmt.Sprint(o.LineCount), o.Value.StringFixed(2), o.Freight.StringFixed(2), o.Terms, o.Carrier, o.BegunAs, o.ApprovedBy, o.Note})
		}
		if page.Next == "" {
			return t, nil
		}
		if after, err = documents.ReadCursor(page.Next); err != nil {
			return t, err
		}
	}
}

func readOrder(ctx context.Context, q sqlx.QueryerContext, id int64) (Order, error) {
	var o Order
	err := sqlx.GetContext(ctx, q, &o, orderColumns+`WHERE o.id = $1`, id)
	if err != nil {
		return o, documents.Found(err, "purchase order", fmt.Sprint(id))
	}
	if o.Lines, err = readLines(ctx, q, []int64{id}); err != nil {
		return o, err
	}
	o.Bills = []Bill{}
	err = sqlx.SelectContext(ctx, q, &o.Bills, `
		SELECT b.number, to_char(b.billed_on, 'YYYY-MM-DD') AS billed_on, pe.name AS person, (SELECT sum(quantity * price) FROM bill_lines WHERE bill_id = b.id) AS amount
		  FROM bills b JOIN people pe ON pe.id = b.entered_by WHERE b.order_id = $1 ORDER BY b.id`, id)
	if err != nil {
		return o, fmt.Errorf("reading bills: %w", err)
	}
	return o, nil
}

// readLines reads the lines of orders, order by order.
func readLines(ctx context.Context, q sqlx.QueryerContext, orders []int64) ([]OrderLine, error) {
	var rows []struct {
		OrderLine
		OrderFreight decimal.Decimal `db:"order_freight"`
		FreightBy    string          `db:"freight_by"`
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT l.id, l.order_id, o.number AS order_number, l.line, coalesce(l.item_id, 0) AS item_id, coalesce(i.sku, '') AS sku, coalesce(nullif(l.text, ''), i.description) AS description,
		       coalesce(i.tracking, 'none') AS tracking, coalesce(i.base_unit, '') AS unit, coalesce(i.whole, false) AS whole, coalesce(i.weight_kg, 0) AS weight_kg,
		       coalesce(l.pack_id, 0) AS pack_id, to_char(l.needed_on, 'YYYY-MM-DD') AS needed_on, l.covers,
		       coalesce((SELECT s.number FROM outbound_lines x JOIN outbound_orders s ON s.id = x.order_id WHERE x.id = l.covers), '') AS covers_order, l.quantity, l.received, l.price,
		       l.short_pct, l.over_pct, l.closed, l.cancelled, l.billed, o.freight AS order_freight, o.freight_by
		  FROM purchase_lines l JOIN purchase_orders o ON o.id = l.order_id LEFT JOIN items i ON i.id = l.item_id WHERE l.order_id = ANY($1) ORDER BY l.order_id, l.line`, orders)
	if err != nil {
		return nil, fmt.Errorf("reading purchase lines: %w", err)
	}
	lines := make([]OrderLine, len(rows))
	var items []int32
	for i, r := range rows {
		lines[i] = r.OrderLine
		items = append(items, r.ItemID)
	}
	packs, err := catalog.PacksOf(ctx, q, items)
	if err != nil {
		return nil, err
	}
	for from := 0; from < len(rows); {
		to := from
		var costed []receiving.Costed
		var at []int
		for ; to < len(rows) && rows[to].OrderID == rows[from].OrderID; to++ {
			l := &lines[to]
			l.Least, l.Most = l.Bounds(l.Quantity, l.unit())
			if l.Packs = packs[l.ItemID]; l.Packs == nil {
				l.Packs = []catalog.Pack{}
			}
			if l.Stock() {
				costed, at = append(costed, receiving.Costed{Quantity: l.Quantity, Price: l.Price, WeightKg: l.WeightKg}), append(at, to)
			}
		}
		for i, f := range receiving.SpreadFreight(rows[from].OrderFreight, rows[from].FreightBy, costed) {
			l := &lines[at[i]]
			l.Freight, l.Landed = f, l.Price.Add(f.Each)
		}
		from = to
	}
	return lines, nil
}

const arrivalColumns = `
	SELECT a.id, a.number, a.waits, a.supplier_id, p.place_id AS supplier_place, p.code AS supplier_code, p.name AS supplier, a.site_id, a.dock_id, d.code AS dock, a.state,
	       a.opened_at, a.version, x.order_numbers, x.ordered, x.received
	  FROM arrivals a JOIN parties p ON p.id = a.supplier_id JOIN places d ON d.id = a.dock_id
	  JOIN LATERAL (SELECT string_agg(DISTINCT o.number, ', ' ORDER BY o.number) AS order_numbers, sum(l.quantity) AS ordered, sum(l.received) AS received
	          FROM arrival_orders r JOIN purchase_orders o ON o.id = r.order_id JOIN purchase_lines l ON l.order_id = o.id AND l.item_id IS NOT NULL WHERE r.arrival_id = a.id) AS x ON true `

func listArrivals(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Arrival, error) {
	arrivals := []Arrival{}
	err := sqlx.SelectContext(ctx, q, &arrivals, arrivalColumns+`WHERE a.state = 'open' AND a.site_id = $1 ORDER BY a.id`, site)
	if err != nil {
		return nil, fmt.Errorf("listing arrivals: %w", err)
	}
	return arrivals, nil
}

func readArrival(ctx context.Context, q sqlx.QueryerContext, id int64) (Arrival, error) {
	a := Arrival{Orders: []ArrivalOrder{}, Bookings: []Booking{}}
	err := sqlx.GetContext(ctx, q, &a, arrivalColumns+`WHERE a.id = $1`, id)
	if err != nil {
		return a, documents.Found(err, "arrival", fmt.Sprint(id))
	}
	err = sqlx.SelectContext(ctx, q, &a.Orders, `SELECT o.id, o.number, o.state FROM arrival_orders r JOIN purchase_orders o ON o.id = r.order_id WHERE r.arrival_id = $1 ORDER BY o.id`, id)
	if err != nil {
		return a, fmt.Errorf("reading an arrival's orders: %w", err)
	}
	ids := make([]int64, len(a.Orders))
	for i, o := range a.Orders {
		ids[i] = o.ID
	}
	if a.Lines, err = readLines(ctx, q, ids); err != nil {
		return a, err
	}
	// What came at once, of one kind, is one booking however many units it has.
	err = sqlx.SelectContext(ctx, q, &a.Bookings, `
		SELECT min(b.move_id) AS move_id, b.line_id, po.document, po.entered_at AS at, pe.name AS person, i.id AS item_id, i.tracking, i.sku, m.lot_id, l.code AS lot,
		       sum(m.quantity) AS quantity, m.to_place AS place_id, m.to_carton AS carton_id, c.sscc AS carton,
		       CASE WHEN b.released_at IS NOT NULL THEN 'good' ELSE m.to_condition END AS condition, b.undone_at, b.reason,
		       json_agg(json_build_object('move', m.id, 'serial', s.code) ORDER BY m.id) AS units
		  FROM bookings b JOIN moves m ON m.id = b.move_id JOIN postings po ON po.id = m.posting_id JOIN people pe ON pe.id = po.person_id
		  JOIN items i ON i.id = m.item_id LEFT JOIN lots l ON l.id = m.lot_id LEFT JOIN serials s ON s.id = m.serial_id LEFT JOIN cartons c ON c.id = m.to_carton
		 WHERE b.arrival_id = $1 GROUP BY b.line_id, b.inspection_id, po.id, pe.name, i.id, m.lot_id, l.code, m.to_place, m.to_carton, c.sscc, m.to_condition, b.released_at, b.undone_at, b.reason
		 ORDER BY 1 DESC`, id)
	if err != nil {
		return a, fmt.Errorf("reading bookings: %w", err)
	}
	for i := range a.Bookings {
		b := &a.Bookings[i]
		if b.moves, b.Serials, err = units(b.Units); err != nil {
			return a, err
		}
	}
	return a, nil
}

// showArrival reads an arrival as its page shows it, with the orders that wait for it.
func showArrival(ctx context.Context, q sqlx.QueryerContext, id int64) (Arrival, error) {
	a, err := readArrival(ctx, q, id)
	if err != nil {
		return a, err
	}
	a.Wanted, err = listWanted(ctx, q, a)
	return a, err
}

// units reads moves and the serials of those that have one.
func units(raw []byte) (moves []int64, codes []string, err error) {
	var rows []struct {
		Move   int64   `json:"move"`
		Serial *string `json:"serial"`
	}
	if err := json.Unmarshal(raw, &rows); err != nil {
		return nil, nil, fmt.Errorf("reading units: %w", err)
	}
	codes = []string{}
	for _, r := range rows {
		moves = append(moves, r.Move)
		if r.Serial != nil {
			codes = append(codes, *r.Serial)
		}
	}
	return moves, codes, nil
}

// boughtFrom is an item with the supplier it was last bought from.
type boughtFrom struct {
	ItemID     int32  `db:"item_id"`
	SupplierID int32  `db:"supplier_id"`
	Supplier   string `db:"supplier"`
	receiving.Levels
}

// lastBought reads where the site's items that have a target were bought last, with how
// much of each it wants to have; supplier narrows it to one, 0 reads all.
func lastBought(ctx context.Context, q sqlx.QueryerContext, site, supplier int32) ([]boughtFrom, error) {
	var rows []boughtFrom
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT s.item_id, s.reorder_point, s.target, p.id AS supplier_id, p.name AS supplier
		  FROM item_sites s JOIN items i ON i.id = s.item_id
		  JOIN LATERAL (SELECT o.supplier_id FROM purchase_lines l JOIN purchase_orders o ON o.id = l.order_id WHERE l.item_id = s.item_id ORDER BY l.id DESC LIMIT 1) AS last ON true
		  JOIN parties p ON p.id = last.supplier_id
		 WHERE s.site_id = $1 AND s.target > 0 AND ($2 = 0 OR p.id = $2) ORDER BY p.name, i.sku`, site, supplier)
	if err != nil {
		return nil, fmt.Errorf("reading what was bought where: %w", err)
	}
	return rows, nil
}

const inspectionColumns = `
	SELECT x.id, x.site_id, x.state, x.passed, x.failed, x.reason, x.accept, trim_scale(i.inspect_aql)::text AS inspect_aql, coalesce(x.sample, g.quantity) AS sample,
	       a.number AS arrival, a.id AS arrival_id, a.dock_id, s.name AS supplier, g.at,
	       i.id AS item_id, i.sku, i.description, i.tracking, i.base_unit AS unit, i.whole, g.lot_id, l.code AS lot, g.quantity, g.place_id, g.units
	  FROM inspections x
	  JOIN LATERAL (SELECT b.arrival_id, min(m.item_id) AS item_id, min(m.lot_id) AS lot_id, min(m.to_place) AS place_id, sum(m.quantity) AS quantity, min(po.entered_at) AS at,
	                       json_agg(json_build_object('move', m.id, 'serial', u.code) ORDER BY m.id) AS units
	                  FROM bookings b JOIN moves m ON m.id = b.move_id JOIN postings po ON po.id = m.posting_id LEFT JOIN serials u ON u.id = m.serial_id
	                 WHERE b.inspection_id = x.id GROUP BY 1) AS g ON true
	  JOIN arrivals a ON a.id = g.arrival_id JOIN parties s ON s.id = a.supplier_id
	  JOIN items i ON i.id = g.item_id LEFT JOIN lots l ON l.id = g.lot_id `

func listInspections(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Inspection, error) {
	return inspections(ctx, q, `WHERE x.state = 'waiting' AND x.site_id = $1 ORDER BY x.id LIMIT 200`, site)
}

func readInspection(ctx context.Context, q sqlx.QueryerContext, id int64) (Inspection, error) {
	found, err := inspections(ctx, q, `WHERE x.id = $1`, id)
	if err == nil && len(found) == 0 {
		return Inspection{}, documents.Missing("inspection", fmt.Sprint(id))
	}
	if err != nil {
		return Inspection{}, err
	}
	return found[0], nil
}

func inspections(ctx context.Context, q sqlx.QueryerContext, where string, arg any) ([]Inspection, error) {
	out := []Inspection{}
	if err := sqlx.SelectContext(ctx, q, &out, inspectionColumns+where, arg); err != nil {
		return nil, fmt.Errorf("reading inspections: %w", err)
	}
	for i := range out {
		var err error
		if _, out[i].Serials, err = units(out[i].Units); err != nil {
			return nil, err
		}
	}
	return out, nil
}
