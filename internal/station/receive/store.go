package receive

import (
	"context"
	"encoding/json"
	"fmt"

	"lanternrow/internal/catalog"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"

	"github.com/jmoiron/sqlx"
)

const arrivalColumns = `
	SELECT a.id, a.number, a.waits, a.party_id, a.from_site_id, a.source_id, coalesce(p.code, f.code) AS source_code,
	       coalesce(p.name, f.name) AS source, a.site_id, a.dock_id, d.code AS dock, a.state,
	       a.opened_at, a.delivery_note, a.version, x.order_numbers, x.ordered, x.received
	  FROM arrivals a LEFT JOIN parties p ON p.id = a.party_id LEFT JOIN sites f ON f.id = a.from_site_id
	  JOIN locations d ON d.id = a.dock_id
	  JOIN LATERAL (SELECT string_agg(DISTINCT o.number, ', ' ORDER BY o.number) AS order_numbers,
	    sum(l.quantity) AS ordered, sum(l.received) AS received
	          FROM arrival_orders r JOIN inbound_orders o ON o.id = r.order_id
	          JOIN inbound_lines l ON l.order_id = o.id AND l.item_id IS NOT NULL WHERE r.arrival_id = a.id) AS x
	            ON true `

// listArrivals reads the open arrivals of a site; with an order, those that it is on, while
// more may come of it.
func listArrivals(ctx context.Context, q sqlx.QueryerContext, site int32, order int64) ([]Arrival, error) {
	arrivals := []Arrival{}
	err := sqlx.SelectContext(ctx, q, &arrivals, arrivalColumns+`
		WHERE a.state = 'open' AND a.site_id = $1
		  AND ($2::bigint = 0 OR EXISTS (SELECT FROM arrival_orders n JOIN inbound_orders o ON o.id = n.order_id
		      WHERE n.arrival_id = a.id AND o.id = $2::bigint AND o.state IN ('placed', 'partly_received')))
		ORDER BY a.id`, site, order)
	if err != nil {
		return nil, fmt.Errorf("listing arrivals: %w", err)
	}
	return arrivals, nil
}

func readArrival(ctx context.Context, q sqlx.QueryerContext, id int64) (Arrival, error) {
	a := Arrival{Receipts: []Receipt{}}
	err := sqlx.GetContext(ctx, q, &a, arrivalColumns+`WHERE a.id = $1`, id)
	if err != nil {
		return a, documents.Found(err, "arrival", fmt.Sprint(id))
	}
	if a.Orders, err = inbound.Of(ctx, q, id); err != nil {
		return a, err
	}
	ids := make([]int64, len(a.Orders))
	for i, o := range a.Orders {
		ids[i] = o.ID
	}
	if a.Lines, err = inbound.Lines(ctx, q, ids...); err != nil {
		return a, err
	}
	// What came at once, of one kind, is one receipt however many units it has.
	err = sqlx.SelectContext(ctx, q, &a.Receipts, `
		SELECT min(b.move_id) AS move_id, b.line_id, po.document, po.entered_at AS at, pe.name AS person,
		       i.id AS item_id, i.tracking, i.sku, m.lot_id, l.code AS lot,
		       sum(m.quantity) AS quantity, round(min(m.unit_cost) + sum(coalesce(k.amount, 0)) / sum(m.quantity), 6) AS unit_cost,
		       m.to_location AS location_id,
		       m.to_carton AS carton_id, c.sscc AS carton,
		       CASE WHEN b.released_at IS NOT NULL THEN 'good' ELSE m.to_condition END AS condition, b.undone_at,
		       b.reason, b.found,
		       json_agg(json_build_object('move', m.id, 'serial', s.code) ORDER BY m.id) AS units
		  FROM receipts b JOIN moves m ON m.id = b.move_id JOIN postings po ON po.id = m.posting_id
		  JOIN people pe ON pe.id = po.person_id
		  JOIN items i ON i.id = m.item_id LEFT JOIN lots l ON l.id = m.lot_id
		  LEFT JOIN serials s ON s.id = m.serial_id LEFT JOIN cartons c ON c.id = m.to_carton
		  LEFT JOIN LATERAL (SELECT sum(amount) AS amount FROM recost_moves WHERE move_id = m.id) AS k ON true
		 WHERE b.arrival_id = $1 GROUP BY b.line_id, b.inspection_id, po.id, pe.name, i.id, m.lot_id, l.code,
		   m.to_location, m.to_carton, c.sscc, m.to_condition, b.released_at, b.undone_at, b.reason,
		   b.found ORDER BY 1 DESC`, id)
	if err != nil {
		return a, fmt.Errorf("reading receipts: %w", err)
	}
	for i := range a.Receipts {
		b := &a.Receipts[i]
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
	if a.Wanted, err = listWanted(ctx, q, a); err != nil {
		return a, err
	}
	items := make([]int32, len(a.Lines))
	for i, l := range a.Lines {
		items[i] = l.ItemID
	}
	a.Homes, err = catalog.HomesOf(ctx, q, a.SiteID, items)
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

const inspectionColumns = `
	SELECT x.id, x.site_id, x.state, x.passed, x.failed, x.reason, x.accept,
	       trim_scale(i.inspect_aql)::text AS inspect_aql, coalesce(x.sample, g.quantity) AS sample,
	       a.number AS arrival, a.id AS arrival_id, a.dock_id, coalesce(s.name, f.name) AS source, g.at,
	       i.id AS item_id, i.sku, i.description, i.tracking, i.base_unit AS unit, i.whole, g.lot_id, l.code AS lot,
	       g.quantity, g.location_id, g.units
	  FROM inspections x
	  JOIN LATERAL (SELECT b.arrival_id, min(m.item_id) AS item_id, min(m.lot_id) AS lot_id,
	    min(m.to_location) AS location_id, sum(m.quantity) AS quantity, min(po.entered_at) AS at,
	                       json_agg(json_build_object('move', m.id, 'serial', u.code) ORDER BY m.id) AS units
	                  FROM receipts b JOIN moves m ON m.id = b.move_id JOIN postings po ON po.id = m.posting_id
	                  LEFT JOIN serials u ON u.id = m.serial_id
	                 WHERE b.inspection_id = x.id GROUP BY 1) AS g ON true
	  JOIN arrivals a ON a.id = g.arrival_id LEFT JOIN parties s ON s.id = a.party_id
	  LEFT JOIN sites f ON f.id = a.from_site_id
	  JOIN items i ON i.id = g.item_id LEFT JOIN lots l ON l.id = g.lot_id `

func listInspections(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Inspection, error) {
	return inspections(ctx, q, `WHERE x.state = 'waiting' AND x.site_id = $1 ORDER BY x.id`, site)
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
