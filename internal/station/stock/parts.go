package stock

import (
	"context"
	"fmt"
	"slices"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Part is one thing that makes up a figure of an item at a site. The parts of a figure sum
// to it.
type Part struct {
	Figure   string          `db:"figure" json:"figure" enum:"on_hand,in_cartons,on_hold,reserved,promised,on_order"`
	Document string          `db:"document" json:"document" doc:"The order that it is for or comes on"`
	Location string          `db:"location" json:"location"`
	Words    string          `db:"words" json:"words" doc:"Its carton, its condition, or whose order it is"`
	Day      string          `db:"day" json:"day" doc:"When it is wanted or expected"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
}

// PartsOf reads what makes up the figures of an item at a site, each part by the rule by
// which ledger.Figures sums it.
func PartsOf(ctx context.Context, q sqlx.QueryerContext, item, site int32) ([]Part, error) {
	out := []Part{}
	err := sqlx.SelectContext(ctx, q, &out, `
		WITH here AS (
			SELECT p.code AS location, b.condition, b.quantity, w.carton_id, right(c.sscc, 5) AS carton,
			       coalesce(o.number, '') AS document, coalesce(to_char(o.wanted_on, 'YYYY-MM-DD'), '') AS day
			  FROM balances b JOIN locations p ON p.id = b.location_id
			  LEFT JOIN carton_work w ON w.carton_id = b.carton_id LEFT JOIN cartons c ON c.id = w.carton_id
			  LEFT JOIN outbound_orders o ON o.id = w.order_id
			 WHERE b.item_id = $1 AND p.site_id = $2 AND b.quantity > 0)
		SELECT 'on_hand' AS figure, '' AS document, location, '' AS words, '' AS day, sum(quantity) AS quantity
		  FROM here GROUP BY location
		UNION ALL
		SELECT 'in_cartons', document, location, '…' || carton, day, sum(quantity)
		  FROM here WHERE carton_id IS NOT NULL GROUP BY document, location, carton, day
		UNION ALL
		SELECT 'on_hold', '', location, replace(condition, '_', ' '), '', sum(quantity)
		  FROM here WHERE carton_id IS NULL AND condition <> 'good' GROUP BY location, condition
		UNION ALL
		SELECT 'reserved', o.number, p.code, o.recipient, to_char(o.wanted_on, 'YYYY-MM-DD'), sum(x.quantity)
		  FROM reservations x JOIN outbound_lines l ON l.id = x.line_id JOIN outbound o ON o.id = l.order_id
		  JOIN locations p ON p.id = x.location_id
		 WHERE x.item_id = $1 AND p.site_id = $2 GROUP BY o.number, p.code, o.recipient, o.wanted_on
		UNION ALL
		SELECT 'promised', o.number, '', o.recipient, to_char(o.wanted_on, 'YYYY-MM-DD'),
		       sum(l.due - coalesce((SELECT sum(quantity) FROM reservations WHERE line_id = l.id), 0))
		  FROM outbound_lines l JOIN outbound o ON o.id = l.order_id
		 WHERE l.item_id = $1 AND o.site_id = $2 AND o.state IN ('on_hold', 'released')
		   AND l.quantity - l.cancelled - l.picked - l.shipped > 0 GROUP BY o.number, o.recipient, o.wanted_on
		UNION ALL
		SELECT 'on_order', o.number, '', pa.name, to_char(o.expected_on, 'YYYY-MM-DD'), sum(l.quantity - l.received)
		  FROM inbound_lines l JOIN inbound_orders o ON o.id = l.order_id LEFT JOIN parties pa ON pa.id = o.party_id
		 WHERE l.item_id = $1 AND o.site_id = $2 AND o.state IN ('placed', 'partly_received') AND NOT l.closed
		 GROUP BY o.number, pa.name, o.expected_on
		 ORDER BY 1, 5, 2, 3`, item, site)
	if err != nil {
		return nil, fmt.Errorf("reading what makes up figures: %w", err)
	}
	return slices.DeleteFunc(out, func(p Part) bool { return p.Quantity.IsZero() }), nil
}
