package recall

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/exchange/epcis"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// namespace is what ids of events are made in, so that an event has the same id whenever it is told.
var namespace = uuid.MustParse("5f6b5a0e-3c1e-4d0a-9c8e-1d7b6a2f4e10")

// told is a part of a posting as it is told to others: goods of one kind that go one way.
type told struct {
	Posting  int64             `db:"posting"`
	First    int64             `db:"first"`
	At       time.Time         `db:"at"`
	Kind     posting.Kind      `db:"kind"`
	Document string            `db:"document"`
	SKU      string            `db:"sku"`
	Unit     string            `db:"unit"`
	GTIN     string            `db:"gtin"`
	Lot      string            `db:"lot"`
	Serials  string            `db:"serials"`
	Quantity decimal.Decimal   `db:"quantity"`
	From     string            `db:"from_code"`
	FromSite string            `db:"from_site"`
	To       string            `db:"to_code"`
	ToSite   string            `db:"to_site"`
	ToReal   bool              `db:"to_real"`
	ToKind   string            `db:"to_kind"`
	Becomes  posting.Condition `db:"becomes"`
	OutOf    string            `db:"out_of"`
	Into     string            `db:"into"`
}

// toldQuery reads every move of the goods that are followed, those of one posting that go alike as one.
const toldQuery = `
	SELECT t.id AS posting, min(m.id) AS first, t.happened_at AS at, t.kind, t.document, i.sku, i.base_unit AS unit,
	       coalesce((SELECT lpad(gtin, 14, '0') FROM packs WHERE item_id = i.id AND gtin IS NOT NULL AND holds = 1 ORDER BY id LIMIT 1), '') AS gtin,
	       coalesce(l.code, '') AS lot, coalesce(string_agg(u.code, ' ' ORDER BY u.code), '') AS serials, sum(m.quantity) AS quantity,
	       f.code AS from_code, coalesce(fs.code, '') AS from_site, d.code AS to_code, coalesce(ds.code, '') AS to_site, d.real AS to_real,
	       d.kind AS to_kind, m.to_condition AS becomes, coalesce(fc.sscc, '') AS out_of, coalesce(dc.sscc, '') AS into` + moved + `
	  LEFT JOIN sites fs ON fs.id = f.site_id LEFT JOIN sites ds ON ds.id = d.site_id
	  LEFT JOIN cartons fc ON fc.id = m.from_carton LEFT JOIN cartons dc ON dc.id = m.to_carton
	 WHERE` + followed + `
	 GROUP BY t.id, i.id, l.id, f.id, fs.id, d.id, ds.id, m.to_condition, fc.id, dc.id ORDER BY first`

// events tells every move of the goods that a source is about, by EPCIS.
func events(ctx context.Context, q sqlx.QueryerContext, of Source, id int64, now time.Time) ([]byte, error) {
	s, err := readScope(ctx, q, of, id)
	if err != nil {
		return nil, err
	}
	if err := s.needsGoods(); err != nil {
		return nil, err
	}
	var rows []told
	if err := sqlx.SelectContext(ctx, q, &rows, toldQuery, s.lots, s.serials); err != nil {
		return nil, fmt.Errorf("reading the moves of goods: %w", err)
	}
	out := make([]epcis.Event, len(rows))
	for i, r := range rows {
		out[i] = r.event()
	}
	return epcis.Document(now, out)
}

// event is a part of a posting as an event: goods that go into a carton or out of one are put together with it or taken
// from it.
func (t told) event() epcis.Event {
	e := epcis.Event{ID: "urn:uuid:" + uuid.NewSHA1(namespace, fmt.Appendf(nil, "%d/%d", t.Posting, t.First)).String(), At: t.At,
		Action: epcis.Observe, Step: t.Kind.Step(), Disposition: t.disposition(), From: epcis.Place(t.FromSite, t.From), Document: t.Document,
		Goods: []epcis.Goods{{GTIN: t.GTIN, SKU: t.SKU, Lot: t.Lot, Serials: strings.Fields(t.Serials), Quantity: t.Quantity,
			Unit: epcis.Unit(t.Unit)}}}
	if t.ToReal {
		e.To = epcis.Place(t.ToSite, t.To)
	}
	switch {
	case t.Kind == posting.Dispose:
		e.Action = epcis.Delete
	case t.Into != "" && t.Into != t.OutOf:
		e.Action, e.Carton = epcis.Add, t.Into
	case t.OutOf != "" && t.Into == "":
		e.Action, e.Carton = epcis.Delete, t.OutOf
	}
	return e
}

// disposition is in what state goods are from then on.
func (t told) disposition() string {
	switch {
	case t.Kind == posting.Dispose:
		return "destroyed"
	case t.ToKind == "customer" || t.ToKind == "transit" || t.ToKind == "vehicle":
		return "in_transit"
	case t.ToKind == "lost":
		return "unknown"
	case t.ToKind == "supplier":
		return "returned"
	}
	return t.Becomes.Disposition()
}
