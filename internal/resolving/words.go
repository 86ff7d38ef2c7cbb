package resolving

import (
	"context"
	"fmt"

	"lanternrow/internal/platform/database"

	"github.com/jmoiron/sqlx"
)

const (
	// most is how many meanings are listed.
	most = 12
	// shortest is from how many letters on parts of numbers and names are looked for.
	shortest = 3
)

// readNamed finds what is called by text whole, or begins with it.
func (r *Reading) readNamed(ctx context.Context, q sqlx.QueryerContext, site int32, text string) error {
	err := sqlx.SelectContext(ctx, q, &r.Found, `
		SELECT kind, id, code, label FROM (
			SELECT 'bin' AS kind, id::bigint, code, CASE kind WHEN 'bin' THEN 'bin' ELSE kind END AS label,
			       upper(code) = upper($1) AS exact FROM locations WHERE site_id = $2
			       AND upper(code) LIKE upper($3) || '%'
			UNION ALL SELECT 'lot', l.id, l.code, 'lot of ' || i.description, upper(l.code) = upper($1) FROM lots l
			JOIN items i ON i.id = l.item_id WHERE upper(l.code) LIKE upper($3) || '%'
			UNION ALL SELECT 'lot', l.id, l.code, 'lot ' || l.supplier_code || ' of its supplier, of ' || i.description,
			       upper(l.supplier_code) = upper($1) FROM lots l
			JOIN items i ON i.id = l.item_id WHERE l.supplier_code <> '' AND upper(l.supplier_code) LIKE upper($3) || '%'
			UNION ALL SELECT 'serial', s.id, s.code, 'serial of ' || i.description, upper(s.code) = upper($1)
			FROM serials s JOIN items i ON i.id = s.item_id WHERE upper(s.code) LIKE upper($3) || '%'
			UNION ALL SELECT CASE o.kind WHEN 'transfer' THEN o.kind WHEN 'sale' THEN 'order' ELSE 'customer_return' END,
			       coalesce((SELECT order_id FROM returns WHERE replacement_id = o.id AND o.kind <> 'sale'), (SELECT l.order_id FROM return_decisions d
			         JOIN inbound_lines l ON l.id = d.line_id WHERE d.outbound_id = o.id LIMIT 1), o.id), o.number,
			       o.recipient || ', ' || replace(o.state, '_', ' '), true
			FROM outbound o WHERE o.number = upper($1)
			UNION ALL SELECT o.kind, o.id, o.number, o.source || ', ' || replace(o.state, '_', ' '), true
			FROM inbound o WHERE o.number = upper($1) AND o.kind <> 'transfer'
			UNION ALL SELECT o.kind, d.order_id, o.number, 'from ' || s.name || ', ' || replace(o.state, '_', ' '), true
			FROM inbound_orders o JOIN shipments d ON d.id = o.shipment_id JOIN sites s ON s.id = o.from_site_id
			WHERE o.number = upper($1) AND NOT EXISTS (SELECT FROM outbound_orders WHERE number = o.number)
			UNION ALL SELECT 'arrival', a.id, a.number, 'arrival, ' || a.state, true FROM arrivals a
			WHERE a.number = upper($1)
			UNION ALL SELECT 'round', id, number, 'round, ' || state, true FROM rounds WHERE number = upper($1)
			UNION ALL SELECT 'walk', id, number, 'put away, ' || CASE WHEN done_at IS NULL THEN 'on its way'
			ELSE 'done' END, true FROM put_away_walks WHERE number = upper($1)
			UNION ALL SELECT 'refill', id, number, 'refill, ' || state, true FROM refills WHERE number = upper($1)
			UNION ALL SELECT 'recall', id, number, CASE WHEN drill THEN 'drill' ELSE 'recall' END || ' of ' || source, true
			FROM recalls WHERE number = upper($1)
			UNION ALL SELECT 'load', id, number, 'vehicle of ' || carrier || ', ' || state, true FROM loads
			WHERE number = upper($1)
			UNION ALL SELECT 'invoice', b.id, b.number, 'invoice to ' || p.name, true FROM invoices b
			JOIN parties p ON p.id = b.customer_id WHERE b.number = upper($1)
			-- A count is looked at in the trail of its bin.
			UNION ALL SELECT 'count', c.location_id, c.number, 'count of ' || i.sku || ' in ' || p.code, true
			FROM counts c JOIN locations p ON p.id = c.location_id JOIN items i ON i.id = c.item_id
			WHERE c.number = upper($1)
			UNION ALL SELECT 'schedule', id, number, 'done on schedule, ' || state, true FROM schedules
			WHERE number = upper($1) AND state <> 'removed'
			UNION ALL SELECT 'shipment', id, number, 'shipment, ' || carrier, true FROM shipments
			WHERE number = upper($1)
			UNION ALL SELECT 'person', id::bigint, login, name || ', ' || array_to_string(roles, ', '), login = lower($1) FROM people
			WHERE lower(name) LIKE lower($3) || '%' OR badge = upper($1)
		) AS t (kind, id, code, label, exact) ORDER BY exact DESC, code LIMIT $4`,
		text, site, database.LikeLiteral(text), most)
	if err != nil {
		return fmt.Errorf("finding %q: %w", text, err)
	}
	return nil
}

// readParts finds documents by a part of their number or of the other side's own number for
// them, and people, suppliers and customers by a part of their name: the latest first. It is
// for what is called nothing like it whole.
func (r *Reading) readParts(ctx context.Context, q sqlx.QueryerContext, site int32, text string) error {
	err := sqlx.SelectContext(ctx, q, &r.Found, `
		SELECT kind, id, code, label, outbound FROM (
			SELECT 'person' AS kind, id::bigint, login AS code, name || ', ' || array_to_string(roles, ', ') AS label, false AS outbound, 1 AS rank
			  FROM people WHERE name ILIKE '%' || $1 || '%'
			UNION ALL
			SELECT kind, id, code, name, false, 2 FROM parties
			 WHERE code ILIKE $1 || '%' OR name ILIKE '%' || $1 || '%'
			UNION ALL
			SELECT CASE kind WHEN 'transfer' THEN kind WHEN 'sale' THEN 'order' ELSE 'customer_return' END,
			       coalesce((SELECT order_id FROM returns WHERE replacement_id = outbound.id AND outbound.kind <> 'sale'), (SELECT l.order_id
			         FROM return_decisions d JOIN inbound_lines l ON l.id = d.line_id WHERE d.outbound_id = outbound.id LIMIT 1),
			       id), number, recipient || ', ' || replace(state, '_', ' ')
			       || CASE WHEN reference <> '' THEN ', their ' || reference ELSE '' END, false, 3
			  FROM outbound WHERE $2 IN (site_id, to_site_id) AND (number LIKE '%' || upper($1) || '%' OR reference ILIKE '%' || $1 || '%')
			UNION ALL
			SELECT kind, id, number, source || ', ' || replace(state, '_', ' '), false, 4
			  FROM inbound WHERE site_id = $2 AND kind <> 'transfer' AND number LIKE '%' || upper($1) || '%'
			UNION ALL
			SELECT o.kind, o.id, o.number, 'invoice ' || b.number || ' of ' || o.source, false, 5
			  FROM supplier_invoices b JOIN inbound o ON o.id = b.order_id WHERE b.number ILIKE '%' || $1 || '%'
			UNION ALL
			SELECT 'arrival', id, number, 'arrival, ' || state, false, 6
			  FROM arrivals WHERE number LIKE '%' || upper($1) || '%' OR upper(delivery_note) = upper($1)
			UNION ALL
			SELECT 'round', id, number, 'round, ' || state, false, 7
			  FROM rounds WHERE site_id = $2 AND number LIKE '%' || upper($1) || '%'
			UNION ALL
			SELECT 'shipment', id, number, 'shipment, ' || carrier || ' ' || tracking, false, 8
			  FROM shipments WHERE site_id = $2 AND (number LIKE '%' || upper($1) || '%' OR tracking ILIKE '%' || $1 || '%')
			UNION ALL
			SELECT 'invoice', b.id, b.number, 'invoice to ' || p.name, false, 9
			  FROM invoices b JOIN parties p ON p.id = b.customer_id WHERE b.number LIKE '%' || upper($1) || '%'
			UNION ALL
			SELECT 'load', id, number, 'vehicle of ' || carrier || ', ' || state, false, 10
			  FROM loads WHERE site_id = $2 AND number LIKE '%' || upper($1) || '%'
			UNION ALL
			SELECT 'carton', c.id, c.sscc, c.kind, coalesce(w.order_id IS NOT NULL OR w.state = 'blank', false), 11
			  FROM cartons c LEFT JOIN carton_work w ON w.carton_id = c.id
			 WHERE $1 ~ '^[0-9]{4,}$' AND c.sscc LIKE '%' || $1
		) AS t ORDER BY rank, id DESC LIMIT $3`, database.LikeLiteral(text), site, most)
	if err != nil {
		return fmt.Errorf("finding parts of %q: %w", text, err)
	}
	return nil
}
