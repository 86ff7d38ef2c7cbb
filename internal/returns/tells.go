package returns

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/exchange"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Share is how much came back of what was shipped, in base units.
type Share struct {
	Label    string          `db:"label" json:"label" doc:"An item, a lot, a customer or a reason"`
	Returned decimal.Decimal `db:"returned" json:"returned"`
	Shipped  decimal.Decimal `db:"shipped" json:"shipped" doc:"What was shipped of it in the same time; of a reason, all that was"`
	Pct      decimal.Decimal `db:"pct" json:"pct" doc:"Returned in per cent of shipped; 0 where nothing was shipped"`
}

// A Week is what came back and what was shipped in a week that began on a Monday.
type Week struct {
	Monday string `db:"monday" json:"monday"`
	Share
}

// Tells is what the returns of a time tell.
type Tells struct {
	Rows  []Share `json:"rows" nullable:"false"`
	Weeks []Week  `json:"weeks" nullable:"false"`
}

// went and came are what was shipped from a site ($1) since a day ($2), and what came back to it or is kept by a
// customer who was given for it, each told apart by a label; what has none is not told.
const (
	went = `
		SELECT d.shipped_at AS at, c.quantity, i.sku || ', ' || i.description AS item, p.name AS customer,
		       l.code || ', ' || i.sku AS lot, '' AS reason
		  FROM shipments d JOIN carton_work w ON w.shipment_id = d.id JOIN carton_contents c ON c.carton_id = w.carton_id
		  JOIN items i ON i.id = c.item_id LEFT JOIN lots l ON l.id = c.lot_id
		  JOIN sales_orders so ON so.order_id = d.order_id JOIN parties p ON p.id = so.customer_id
		 WHERE d.site_id = $1 AND d.shipped_at >= $2 AND d.state <> 'taken_back'`
	came = `
		SELECT t.happened_at AS at, m.quantity, i.sku || ', ' || i.description AS item, n.source AS customer,
		       l.code || ', ' || i.sku AS lot, e.name AS reason
		  FROM receipts b JOIN moves m ON m.id = b.move_id JOIN postings t ON t.id = m.posting_id
		  JOIN return_lines r ON r.line_id = b.line_id JOIN inbound_lines x ON x.id = b.line_id
		  JOIN inbound n ON n.id = x.order_id JOIN items i ON i.id = m.item_id LEFT JOIN lots l ON l.id = r.lot_id
		  JOIN return_reasons e ON e.id = r.reason_id
		 WHERE n.site_id = $1 AND t.happened_at >= $2 AND b.undone_at IS NULL
		 UNION ALL
		SELECT a.announced_at, r.kept, i.sku || ', ' || i.description, n.source, l.code || ', ' || i.sku, e.name
		  FROM return_lines r JOIN inbound_lines x ON x.id = r.line_id JOIN inbound n ON n.id = x.order_id
		  JOIN returns a ON a.order_id = n.id JOIN items i ON i.id = x.item_id LEFT JOIN lots l ON l.id = r.lot_id
		  JOIN return_reasons e ON e.id = r.reason_id
		 WHERE n.site_id = $1 AND a.announced_at >= $2 AND r.kept > 0`
)

// labels are the columns of went and came that returns are told by.
var labels = map[string]string{"item": "item", "lot": "lot", "customer": "customer", "reason": "reason"}

// tell sums up what came back since so many days, by item, lot, customer or reason: the most first.
func tell(ctx context.Context, q sqlx.QueryerContext, site int32, by string, days int, now time.Time) (Tells, error) {
	out := Tells{Rows: []Share{}, Weeks: []Week{}}
	since := now.AddDate(0, 0, -days)
	of := labels[by]
	shipped := fmt.Sprintf(`SELECT %s AS label, sum(quantity) AS shipped FROM went GROUP BY 1`, of)
	join := `s.label = c.label`
	if by == "reason" {
		shipped, join = `SELECT sum(quantity) AS shipped FROM went`, `true`
	}
	err := sqlx.SelectContext(ctx, q, &out.Rows, fmt.Sprintf(`
		WITH went AS (%s), came AS (%s), s AS (%s)
		SELECT c.label, c.returned, coalesce(s.shipped, 0) AS shipped,
		       CASE WHEN s.shipped > 0 THEN round(100 * c.returned / s.shipped, 1) ELSE 0 END AS pct
		  FROM (SELECT %s AS label, sum(quantity) AS returned FROM came GROUP BY 1) AS c LEFT JOIN s ON %s
		 WHERE c.label IS NOT NULL ORDER BY c.returned DESC, c.label LIMIT 200`, went, came, shipped, of, join), site, since)
	if err != nil {
		return out, fmt.Errorf("summing returns up: %w", err)
	}
	err = sqlx.SelectContext(ctx, q, &out.Weeks, fmt.Sprintf(`
		WITH went AS (%s), came AS (%s),
		     w AS (SELECT generate_series(date_trunc('week', $2::timestamptz), $3::timestamptz, interval '1 week') AS monday)
		SELECT to_char(monday, 'YYYY-MM-DD') AS monday, '' AS label, returned, shipped,
		       CASE WHEN shipped > 0 THEN round(100 * returned / shipped, 1) ELSE 0 END AS pct
		  FROM (SELECT monday, coalesce((SELECT sum(quantity) FROM came WHERE at >= monday AND at < monday + interval '1 week'),
		                 0) AS returned,
		               coalesce((SELECT sum(quantity) FROM went WHERE at >= monday AND at < monday + interval '1 week'),
		                 0) AS shipped FROM w) AS x ORDER BY monday`, went, came), site, since, now)
	if err != nil {
		return out, fmt.Errorf("summing returns up by week: %w", err)
	}
	return out, nil
}

// table is the same as a file.
func (t Tells) table() exchange.Table {
	out := exchange.Table{Header: []string{"what", "returned", "shipped", "per_cent"}}
	for _, r := range t.Rows {
		out.Rows = append(out.Rows, []string{r.Label, r.Returned.String(), r.Shipped.String(), r.Pct.String()})
	}
	return out
}
