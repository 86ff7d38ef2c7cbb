package stock

import (
	"context"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
)

// A Stay is how long a unit was with somebody: a supplier, a site of ours, on its way between two, a customer.
type Stay struct {
	// Where names the party or the site; what is on its way is in transit.
	Where string `json:"where"`
	Kind  string `json:"kind" enum:"supplier,site,transit,customer,lost"`
	// Since is when it came there, nil of where its first move began; Until when it left, nil while it is there.
	Since *time.Time `json:"since"`
	Until *time.Time `json:"until"`
	// Document is what brought it there.
	Document string `json:"document"`
}

// readJourney reads where a unit was, from its first move on: moves within a site are one stay.
func readJourney(ctx context.Context, q sqlx.QueryerContext, serial int64) ([]Stay, error) {
	var moves []struct {
		At       time.Time `db:"happened_at"`
		Document string
		From     string `db:"from_where"`
		FromKind string `db:"from_kind"`
		To       string `db:"to_where"`
		ToKind   string `db:"to_kind"`
	}
	err := sqlx.SelectContext(ctx, q, &moves, `
		SELECT t.happened_at, t.document, coalesce(fp.name, fs.name, f.code) AS from_where,
		       CASE WHEN fs.id IS NOT NULL THEN 'site' ELSE f.kind END AS from_kind,
		       coalesce(tp.name, ts.name, d.code) AS to_where, CASE WHEN ts.id IS NOT NULL THEN 'site' ELSE d.kind END AS to_kind
		  FROM moves m JOIN postings t ON t.id = m.posting_id
		  JOIN locations f ON f.id = m.from_location LEFT JOIN sites fs ON fs.id = f.site_id
		  LEFT JOIN parties fp ON fp.location_id = f.id
		  JOIN locations d ON d.id = m.to_location LEFT JOIN sites ts ON ts.id = d.site_id
		  LEFT JOIN parties tp ON tp.location_id = d.id
		 WHERE m.serial_id = $1 ORDER BY m.id`, serial)
	if err != nil {
		return nil, fmt.Errorf("reading where a unit was: %w", err)
	}
	out := []Stay{}
	for i, m := range moves {
		if i == 0 {
			out = append(out, Stay{Where: m.From, Kind: m.FromKind})
		}
		last := &out[len(out)-1]
		if last.Where == m.To && last.Kind == m.ToKind {
			continue
		}
		at := m.At
		last.Until = &at
		out = append(out, Stay{Where: m.To, Kind: m.ToKind, Since: &at, Document: m.Document})
	}
	return out, nil
}
