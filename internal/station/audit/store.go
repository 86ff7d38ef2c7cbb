package audit

import (
	"context"
	"fmt"

	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

func listCountRequests(ctx context.Context, q sqlx.QueryerContext, site int32) ([]CountRequest, error) {
	out := []CountRequest{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT d.location_id, p.code AS bin, d.item_id, i.sku, i.description, coalesce(r.number, '') AS round,
		       e.name AS raised_by, d.raised_at, d.times
		  FROM (SELECT DISTINCT ON (location_id, item_id) location_id, item_id, round_id, raised_by, raised_at,
		    count(*) OVER (PARTITION BY location_id, item_id) AS times
		          FROM count_requests WHERE state = 'requested' ORDER BY location_id, item_id, id DESC) AS d
		  JOIN locations p ON p.id = d.location_id JOIN items i ON i.id = d.item_id
		  JOIN people e ON e.id = d.raised_by LEFT JOIN rounds r ON r.id = d.round_id
		 WHERE p.site_id = $1
		   -- What was counted and waits for a decision is not counted meanwhile.
		   AND NOT EXISTS (SELECT FROM counts c WHERE c.location_id = d.location_id AND c.item_id = d.item_id
		       AND c.state = 'counted')
		 ORDER BY p.code, i.sku`, site)
	if err != nil {
		return nil, fmt.Errorf("listing what is to be counted: %w", err)
	}
	return out, nil
}

// readSheet reads what is to be counted, and what should be there of it.
func readSheet(ctx context.Context, q sqlx.QueryerContext, location, item int32) (Sheet, []held, error) {
	s := Sheet{Kinds: []Kind{}}
	err := sqlx.GetContext(ctx, q, &s, `
		SELECT p.id AS location_id, p.code AS bin, p.site_id, i.id AS item_id, i.sku, i.description,
		       i.base_unit AS unit, i.whole, i.tracking, i.cost,
		       coalesce((SELECT max(id) FROM moves WHERE item_id = i.id
		       AND (from_location = p.id OR to_location = p.id)), 0) AS since
		  FROM locations p, items i WHERE p.id = $1 AND i.id = $2 AND p.kind = 'bin'`, location, item)
	if err != nil {
		return s, nil, documents.Found(err, "bin or item", fmt.Sprintf("%d, %d", location, item))
	}
	held, err := readHeld(ctx, q, location, item)
	for _, h := range held {
		s.Kinds = append(s.Kinds, h.Kind)
	}
	if len(s.Kinds) == 0 {
		s.Kinds = append(s.Kinds, Kind{})
	}
	return s, held, err
}

// held is what should be there of one kind.
type held struct {
	Kind
	Quantity decimal.Decimal `db:"quantity"`
	Reserved decimal.Decimal `db:"reserved"`
	Serials  *string         `db:"serials"`
	// Orders are those that it is reserved for.
	Orders string `db:"orders"`
}

// readHeld reads what should be of an item in a bin, kind by kind.
func readHeld(ctx context.Context, q sqlx.QueryerContext, location, item int32) ([]held, error) {
	var out []held
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT b.lot_id, coalesce(l.code, '') AS lot, b.carton_id, coalesce(c.sscc, '') AS carton,
		       sum(b.quantity) AS quantity, sum(b.reserved) AS reserved,
		       string_agg(s.code, ' ' ORDER BY s.code) AS serials,
		       coalesce((SELECT string_agg(DISTINCT o.number, ', ') FROM reservations n
		       JOIN outbound_lines x ON x.id = n.line_id JOIN outbound_orders o ON o.id = x.order_id
		                  WHERE n.location_id = b.location_id AND n.item_id = b.item_id AND n.lot_id IS NOT DISTINCT
		                  FROM b.lot_id AND n.carton_id IS NOT DISTINCT FROM b.carton_id), '') AS orders
		  FROM balances b LEFT JOIN lots l ON l.id = b.lot_id LEFT JOIN cartons c ON c.id = b.carton_id
		  LEFT JOIN serials s ON s.id = b.serial_id
		 WHERE b.location_id = $1 AND b.item_id = $2 AND b.quantity > 0 AND b.condition = 'good'
		 GROUP BY b.location_id, b.item_id, b.lot_id, l.code, b.carton_id, c.sscc ORDER BY l.code, c.sscc NULLS FIRST`,
		location, item)
	if err != nil {
		return nil, fmt.Errorf("reading what should be there: %w", err)
	}
	return out, nil
}
