package stock

import (
	"context"
	"net/http"
	"time"

	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Stood is goods of one kind that stood in a location at an instant, over all cartons and units.
type Stood struct {
	ID          int64           `db:"id" json:"-"`
	LocationID  int32           `db:"location_id" json:"location_id"`
	Location    string          `db:"location" json:"location"`
	Kind        string          `db:"kind" json:"kind"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	LotID       *int64          `db:"lot_id" json:"lot_id"`
	Lot         string          `db:"lot" json:"lot"`
	ExpiresOn   *string         `db:"expires_on" json:"expires_on"`
	Condition   string          `db:"condition" json:"condition"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	OnRounds    decimal.Decimal `db:"on_rounds" json:"on_rounds" doc:"What rounds of then still had to pick of it; what else was reserved is not known"`
	documents.Sorted
}

// What stood is asked for by, over the id of what it is of, the site and the instant.
var (
	stoodAtSite     = stoodList(`SELECT * FROM ledger_stood($3)`, "$1::bigint IS NOT NULL AND p.site_id = $2")
	stoodInLocation = stoodList(`SELECT * FROM ledger_stood($3, $1::int)`, "$2::int IS NOT NULL")
	stoodOfItem     = stoodList(`SELECT * FROM ledger_stood($3)`, "h.item_id = $1::bigint AND p.site_id = $2")
	stoodOfLot      = stoodList(`SELECT * FROM ledger_stood($3)`, "h.lot_id = $1 AND $2::int IS NOT NULL")
)

// onRounds is what rounds that were released by an instant ($3), and not over, still had to pick then.
const onRounds = `
	SELECT w.location_id, w.item_id, w.lot_id, sum(greatest(0, w.quantity - k.picked)) AS quantity
	  FROM (SELECT r.number, s.location_id, s.item_id, s.lot_id, sum(s.quantity) AS quantity
	          FROM rounds r JOIN round_stops s ON s.round_id = r.id
	         WHERE r.released_at <= $3 AND (r.done_at IS NULL OR r.done_at > $3) GROUP BY 1, 2, 3, 4) AS w
	 CROSS JOIN LATERAL (
	       SELECT coalesce(sum(m.quantity), 0) AS picked FROM postings t JOIN moves m ON m.posting_id = t.id
	        WHERE t.document = w.number AND t.kind = 'pick' AND t.entered_at <= $3 AND m.from_location = w.location_id
	          AND m.item_id = w.item_id AND m.lot_id IS NOT DISTINCT FROM w.lot_id) AS k
	 GROUP BY 1, 2, 3`

func stoodList(stood, where string) documents.List[Stood] {
	return documents.List[Stood]{
		Query: `
			SELECT hashtextextended(concat_ws('/', p.id, i.id, l.id, '', h.condition), 0) AS id,
			       p.id AS location_id, p.code AS location, p.kind, i.id AS item_id, i.sku, i.description, i.base_unit AS unit,
			       l.id AS lot_id, coalesce(l.code, '') AS lot, to_char(l.expires_on, 'YYYY-MM-DD') AS expires_on, h.condition,
			       h.quantity, CASE WHEN h.condition = 'good' THEN coalesce(w.quantity, 0) ELSE 0 END AS on_rounds
			  FROM (` + stood + `) AS h JOIN locations p ON p.id = h.location_id JOIN items i ON i.id = h.item_id
			  LEFT JOIN lots l ON l.id = h.lot_id
			  LEFT JOIN (` + onRounds + `) AS w ON w.location_id = h.location_id AND w.item_id = h.item_id
			       AND w.lot_id IS NOT DISTINCT FROM h.lot_id
			 WHERE p.real AND ` + where,
		Keys: map[string]documents.SortKey{
			"location":    byLocation,
			"sku":         {Expr: "o.sku", Type: "text"},
			"description": {Expr: "lower(o.description)", Type: "text"},
			"lot":         {Expr: "o.lot", Type: "text"},
			"expires":     {Expr: "coalesce(o.expires_on, '')", Type: "text"},
			"condition":   {Expr: "o.condition", Type: "text"},
			"quantity":    {Expr: "o.quantity", Type: "numeric"},
			"on_rounds":   {Expr: "o.on_rounds", Type: "numeric"},
		},
		Summed: []string{"quantity", "on_rounds"},
		Header: []string{"location", "kind", "sku", "description", "lot", "expires_on", "condition", "quantity", "on_rounds", "unit"},
		Text: func(s Stood) []string {
			return []string{s.Location, s.Kind, s.SKU, s.Description, s.Lot, or(s.ExpiresOn), s.Condition, s.Quantity.String(),
				s.OnRounds.String(), s.Unit}
		},
	}
}

// stoodOf is the list of what stood of a kind of thing.
func stoodOf(of string) documents.List[Stood] {
	switch of {
	case "location":
		return stoodInLocation
	case "item":
		return stoodOfItem
	case "lot":
		return stoodOfLot
	}
	return stoodAtSite
}

// registerStood adds what lay where at an instant, page by page and as a file.
func registerStood(r *web.Router) {
	db := r.Reads
	type Whose struct {
		Of   string    `query:"of" enum:"site,location,item,lot" required:"true"`
		ID   int64     `query:"id" doc:"None for all of a site"`
		Site int32     `query:"site" doc:"Where an item lay, or all of it"`
		At   time.Time `query:"at" required:"true"`
		Sort string    `query:"sort" enum:"location,sku,description,lot,expires,condition,quantity,on_rounds" default:"location"`
	}
	web.Query(r, http.MethodGet, "/holdings/past", "list-past-holdings",
		"What lay in a location or at a site at an instant, or where an item or a lot lay", web.Everyone,
		func(ctx context.Context, in *struct {
			Whose
			documents.Asked
		}) (documents.Page[Stood], error) {
			if err := ledger.MayLookAt(ctx, db, "at", in.At); err != nil {
				return documents.Page[Stood]{}, err
			}
			return stoodOf(in.Of).Page(ctx, db, in.Sort, in.Asked, in.ID, in.Site, in.At)
		})
	web.Download(r, "/holdings/past/export", "export-past-holdings", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Whose
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			if err := ledger.MayLookAt(ctx, from, "at", in.At); err != nil {
				return web.File{}, err
			}
			return web.TableFile(ctx, "holdings", in.Format)(stoodOf(in.Of).Table(ctx, from, in.Sort, in.Down, in.ID, in.Site, in.At))
		})
}
