package ledger

import (
	"context"
	"time"

	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A HistoryLine is a move, with what it left at its two ends.
type HistoryLine struct {
	documents.Sorted
	ID          int64     `db:"id" json:"id"`
	At          time.Time `db:"entered_at" json:"at"`
	Person      string    `db:"person" json:"person"`
	Kind        string    `db:"kind" json:"kind"`
	ItemID      int32     `db:"item_id" json:"item_id"`
	SKU         string    `db:"sku" json:"sku"`
	Description string    `db:"description" json:"description"`
	Tracked     string    `db:"tracked" json:"tracked" doc:"Its lot or serial"`
	Carton      string    `db:"carton" json:"carton"`
	From        string    `db:"from_code" json:"from"`
	FromID      int32     `db:"from_location" json:"from_id"`
	To          string    `db:"to_code" json:"to"`
	ToID        int32     `db:"to_location" json:"to_id"`
	// FromCondition and ToCondition differ where goods are put on hold, released or judged.
	FromCondition string          `db:"from_condition" json:"from_condition"`
	ToCondition   string          `db:"to_condition" json:"to_condition"`
	Quantity      decimal.Decimal `db:"quantity" json:"quantity"`
	// Value is what the goods carried with them, to the cent.
	Value decimal.Decimal `db:"value" json:"value" money:"true" doc:"What the goods cost, in all"`
	// FromAfter and ToAfter are the item's quantity at the two locations after it; nil
	// outside, where nothing is counted.
	FromAfter *decimal.Decimal `db:"from_location_after" json:"from_after"`
	ToAfter   *decimal.Decimal `db:"to_location_after" json:"to_after"`
	Document  string           `db:"document" json:"document"`
	// Orders are as in a trail.
	Orders []string `db:"-" json:"orders,omitempty"`
	Note   string   `db:"note" json:"note"`
}

// A HistoryPage is a page of the moves of a site.
type HistoryPage struct {
	Lines []HistoryLine `json:"lines"`
	Next  string        `json:"next" doc:"Where the next page begins; empty at the end"`
	documents.Totals
}

// HistoryKeys are what history can be sorted by. Moves are entered in the order of their
// ids.
var HistoryKeys = map[string]documents.SortKey{
	"at":       {Expr: "o.id", Type: "bigint"},
	"person":   {Expr: "lower(o.person)", Type: "text"},
	"kind":     {Expr: "o.kind", Type: "text"},
	"sku":      {Expr: "o.sku", Type: "text"},
	"tracked":  {Expr: "o.tracked", Type: "text"},
	"from":     {Expr: "o.from_code", Type: "text"},
	"to":       {Expr: "o.to_code", Type: "text"},
	"quantity": {Expr: "o.quantity", Type: "numeric"},
	"document": {Expr: "o.document", Type: "text"},
	"note":     {Expr: "lower(o.note)", Type: "text"},
}

const historyColumns = `
	SELECT moves.id, po.entered_at, pe.name AS person, po.kind, moves.item_id, i.sku, i.description,
	       coalesce(l.code, s.code, '') AS tracked, coalesce(c.sscc, '') AS carton, f.code AS from_code,
	       moves.from_location, t.code AS to_code, moves.to_location, moves.from_condition, moves.to_condition,
	       moves.quantity, round(moves.quantity * moves.unit_cost, 2) AS value, moves.from_location_after, moves.to_location_after, po.document, po.note
	  FROM moves JOIN postings po ON po.id = moves.posting_id JOIN people pe ON pe.id = po.person_id
	  JOIN items i ON i.id = moves.item_id JOIN locations f ON f.id = moves.from_location
	  JOIN locations t ON t.id = moves.to_location LEFT JOIN lots l ON l.id = moves.lot_id
	  LEFT JOIN serials s ON s.id = moves.serial_id
	  LEFT JOIN cartons c ON c.id = coalesce(moves.to_carton, moves.from_carton)
	 WHERE (moves.from_site = $1 OR moves.to_site = $1) AND `

// History reads a page of the moves that began or ended at a site.
func History(
	ctx context.Context, q sqlx.QueryerContext, site int32, f Filter, by documents.Sorting, limit int,
) (HistoryPage, error) {
	where, args, err := f.where(site, []any{site})
	if err != nil {
		return HistoryPage{}, err
	}
	rows, next, totals, err := documents.ReadPage[HistoryLine](ctx, q, historyColumns+where, args, by, limit)
	return HistoryPage{rows, next, totals}, err
}
