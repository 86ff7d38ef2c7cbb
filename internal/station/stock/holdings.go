package stock

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Holding is one kind of goods in a location.
type Holding struct {
	ID          int64           `db:"id" json:"-"`
	LocationID  int32           `db:"location_id" json:"location_id"`
	Location    string          `db:"location" json:"location"`
	Kind        string          `db:"kind" json:"kind"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	LotID       *int64          `db:"lot_id" json:"lot_id"`
	Lot         *string         `db:"lot" json:"lot"`
	ExpiresOn   *string         `db:"expires_on" json:"expires_on"`
	CartonID    *int64          `db:"carton_id" json:"carton_id"`
	Carton      *string         `db:"carton" json:"carton"`
	Condition   string          `db:"condition" json:"condition"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	Reserved    decimal.Decimal `db:"reserved" json:"reserved"`
	// Serials are its units, where they are known one by one.
	Serials []string `db:"-" json:"serials"`
	Listed  []byte   `db:"serials" json:"-"`
	documents.Sorted
}

// held are holdings that keep a condition over balances, which it calls b, and their locations,
// p. A holding is known by what tells it from others, so that it keeps its place in a list while
// quantities change.
func held(where string) string {
	return `
		SELECT hashtextextended(concat_ws('/', p.id, i.id, l.id, '', c.id, b.condition), 0) AS id,
		       p.id AS location_id, p.code AS location, p.kind, i.id AS item_id, i.sku, i.description,
		       i.base_unit AS unit, l.id AS lot_id, l.code AS lot,
		       to_char(l.expires_on, 'YYYY-MM-DD') AS expires_on, c.id AS carton_id, c.sscc AS carton, b.condition,
		       sum(b.quantity) AS quantity, sum(b.reserved) AS reserved,
		       coalesce(json_agg(s.code ORDER BY s.code) FILTER (WHERE s.id IS NOT NULL), '[]') AS serials
		  FROM balances b JOIN locations p ON p.id = b.location_id JOIN items i ON i.id = b.item_id
		  LEFT JOIN lots l ON l.id = b.lot_id LEFT JOIN cartons c ON c.id = b.carton_id
		  LEFT JOIN serials s ON s.id = b.serial_id
		 WHERE b.quantity > 0 AND ` + where + ` GROUP BY p.id, i.id, l.id, c.id, b.condition`
}

// What holdings are asked for by, over the id of what they are of and the site.
var (
	ofLocation = holdingList("b.location_id = $1::bigint AND $2::int IS NOT NULL")
	ofItem     = holdingList("b.item_id = $1::bigint AND p.site_id = $2")
	ofLot      = holdingList("b.lot_id = $1 AND $2::int IS NOT NULL")
	ofCarton   = holdingList("(b.carton_id = $1 OR b.carton_id IN (SELECT carton_id FROM carton_work WHERE pallet_id = $1))" +
		" AND $2::int IS NOT NULL")
)

// byLocation puts bins before other locations, and in each the goods that expire first.
var byLocation = documents.SortKey{Type: "text",
	Expr: "concat_ws('|', o.kind <> 'bin', o.location, o.sku, coalesce(o.expires_on, '9'), o.lot)"}

func holdingList(where string) documents.List[Holding] {
	return documents.List[Holding]{
		Query: held(where),
		Keys: map[string]documents.SortKey{
			"location":    byLocation,
			"sku":         {Expr: "o.sku", Type: "text"},
			"description": {Expr: "lower(o.description)", Type: "text"},
			"tracked":     {Expr: "coalesce(o.lot, o.serials ->> 0, '')", Type: "text"},
			"expires":     {Expr: "coalesce(o.expires_on, '')", Type: "text"},
			"carton":      {Expr: "coalesce(o.carton, '')", Type: "text"},
			"condition":   {Expr: "o.condition", Type: "text"},
			"quantity":    {Expr: "o.quantity", Type: "numeric"},
			"reserved":    {Expr: "o.reserved", Type: "numeric"},
		},
		Summed: []string{"quantity", "reserved"},
		Finish: readSerialCodes,
		Header: []string{"location", "kind", "sku", "description", "lot", "expires_on", "carton", "condition", "quantity",
			"reserved", "unit", "serials"},
		Text: Holding.text,
	}
}

// listOf is the list of holdings of a kind of thing.
func listOf(of string) documents.List[Holding] {
	switch of {
	case "location":
		return ofLocation
	case "lot":
		return ofLot
	case "carton":
		return ofCarton
	}
	return ofItem
}

func (h Holding) text() []string {
	return []string{h.Location, h.Kind, h.SKU, h.Description, or(h.Lot), or(h.ExpiresOn), or(h.Carton), h.Condition,
		h.Quantity.String(), h.Reserved.String(), h.Unit, strings.Join(h.Serials, " ")}
}

func readSerialCodes(of []Holding) error {
	for i := range of {
		if err := json.Unmarshal(of[i].Listed, &of[i].Serials); err != nil {
			return fmt.Errorf("reading serials: %w", err)
		}
	}
	return nil
}

// mostHoldings is how many kinds of goods a page shows.
const mostHoldings = 500

func holdings(ctx context.Context, q sqlx.QueryerContext, where string, args ...any) ([]Holding, error) {
	out := []Holding{}
	err := sqlx.SelectContext(ctx, q, &out, held(where)+fmt.Sprintf(`
		 ORDER BY p.kind <> 'bin', p.code, i.sku, l.expires_on NULLS LAST, l.code LIMIT %d`, mostHoldings), args...)
	if err != nil {
		return nil, fmt.Errorf("reading stock: %w", err)
	}
	return out, readSerialCodes(out)
}

// stockTable is all that lies at a site, as a table.
func stockTable(ctx context.Context, q sqlx.QueryerContext, site int32) (exchange.Table, error) {
	return holdingList("p.site_id = $1").Table(ctx, q, "location", false, site)
}
