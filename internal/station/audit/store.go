package audit

import (
	"context"
	"fmt"

	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

func listDoubts(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Doubt, error) {
	out := []Doubt{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT d.place_id, p.code AS bin, d.item_id, i.sku, i.description, coalesce(r.number, '') AS round, e.name AS raised_by, d.raised_at, d.times
		  FROM (SELECT DISTINCT ON (place_id, item_id) place_id, item_id, round_id, raised_by, raised_at, count(*) OVER (PARTITION BY place_id, item_id) AS times
		          FROM bin_doubts WHERE settled_at IS NULL ORDER BY place_id, item_id, id DESC) AS d
		  JOIN places p ON p.id = d.place_id JOIN items i ON i.id = d.item_id JOIN people e ON e.id = d.raised_by LEFT JOIN rounds r ON r.id = d.round_id
		 WHERE p.site_id = $1 ORDER BY p.code, i.sku`, site)
	if err != nil {
		return nil, fmt.Errorf("listing what is to be counted: %w", err)
	}
	return out, nil
}

// readSheet reads what is to be counted, and what should be there of it.
func readSheet(ctx context.Context, q sqlx.QueryerContext, place, item int32) (Sheet, []held, error) {
	s := Sheet{Kinds: []Kind{}}
	err := sqlx.GetContext(ctx, q, &s, `
		SELECT p.id AS place_id, p.code AS bin, p.site_id, i.id AS item_id, i.sku, i.description, i.base_unit AS unit, i.whole, i.tracking,
		       coalesce((SELECT max(id) FROM moves WHERE item_id = i.id AND (from_place = p.id OR to_place = p.id)), 0) AS since
		  FROM places p, items i WHERE p.id = $1 AND i.id = $2 AND p.kind = 'bin'`, place, item)
	if err != nil {
		return s, nil, documents.Found(err, "bin or item", fmt.Sprintf("%d, %d", place, item))
	}
	held, err := readHeld(ctx, q, place, item)
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
	Pinned   decimal.Decimal `db:"pinned"`
	Serials  *string         `db:"serials"`
	// Orders are those that it is pinned to.
	Orders string `db:"orders"`
}

// readHeld reads what should be of an item in a bin, kind by kind.
func readHeld(ctx context.Context, q sqlx.QueryerContext, place, item int32) ([]held, error) {
	var out []held
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT b.lot_id, coalesce(l.code, '') AS lot, b.carton_id, coalesce(c.sscc, '') AS carton, sum(b.quantity) AS quantity, sum(b.pinned) AS pinned, string_agg(s.code, ' ' ORDER BY s.code) AS serials,
		       coalesce((SELECT string_agg(DISTINCT o.number, ', ') FROM pins n JOIN outbound_lines x ON x.id = n.line_id JOIN outbound_orders o ON o.id = x.order_id
		                  WHERE n.place_id = b.place_id AND n.item_id = b.item_id AND n.lot_id IS NOT DISTINCT FROM b.lot_id AND n.carton_id IS NOT DISTINCT FROM b.carton_id), '') AS orders
		  FROM balances b LEFT JOIN lots l ON l.id = b.lot_id LEFT JOIN cartons c ON c.id = b.carton_id LEFT JOIN serials s ON s.id = b.serial_id
		 WHERE b.place_id = $1 AND b.item_id = $2 AND b.quantity > 0 AND b.condition = 'good' GROUP BY b.place_id, b.item_id, b.lot_id, l.code, b.carton_id, c.sscc ORDER BY l.code, c.sscc NULLS FIRST`, place, item)
	if err != nil {
		return nil, fmt.Errorf("reading what should be there: %w", err)
	}
	return out, nil
}
