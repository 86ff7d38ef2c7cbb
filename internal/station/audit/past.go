package audit

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// PastCount is a count as it was made, against what should have been there then.
type PastCount struct {
	ID           int64           `db:"id" json:"id"`
	Number       string          `db:"number" json:"number"`
	State        states.Count    `db:"state" json:"state" enum:"counted,recount,repeated,settled,withdrawn,taken_back"`
	LocationID   int32           `db:"location_id" json:"location_id"`
	Bin          string          `db:"bin" json:"bin"`
	ItemID       int32           `db:"item_id" json:"item_id"`
	SKU          string          `db:"sku" json:"sku"`
	Description  string          `db:"description" json:"description"`
	Unit         string          `db:"unit" json:"unit"`
	Found        decimal.Decimal `db:"found" json:"found"`
	Expected     decimal.Decimal `db:"expected" json:"expected" doc:"What should have been there then"`
	Variance     decimal.Decimal `db:"variance" json:"variance"`
	Off          decimal.Decimal `db:"off" json:"off" doc:"By how much it differs in all: what is missing and what is there besides do not make up for each other"`
	Value        decimal.Decimal `db:"value" json:"value" money:"true"`
	Passes       bool            `db:"passes" json:"passes" doc:"It is within its allowance"`
	How          string          `db:"how" json:"how" enum:"desk,hand,paper,round"`
	Sheet        string          `db:"sheet" json:"sheet"`
	CountedBy    string          `db:"counted_by" json:"counted_by"`
	CountedAt    time.Time       `db:"counted_at" json:"counted_at"`
	StandsAt     time.Time       `db:"stands_at" json:"stands_at" doc:"The moment that it stands for"`
	Reason       string          `db:"reason" json:"reason"`
	DecidedBy    string          `db:"decided_by" json:"decided_by"`
	DecidedAt    *time.Time      `db:"decided_at" json:"decided_at"`
	TakenBackBy  string          `db:"taken_back_by" json:"taken_back_by"`
	TakenBackAt  *time.Time      `db:"taken_back_at" json:"taken_back_at"`
	TakenBackWhy string          `db:"taken_back_why" json:"taken_back_why"`
	AsOf         int64           `db:"as_of" json:"-"`
	documents.Sorted
}

const pastColumns = `
	SELECT c.id, c.number, c.state, c.location_id, p.code AS bin, c.item_id, i.sku, i.description, i.base_unit AS unit, c.found, c.expected,
	       c.variance, c.off, c.value, c.passes, c.how, coalesce(s.number, '') AS sheet, e.name AS counted_by, c.counted_at, c.stands_at, c.reason,
	       coalesce(d.name, '') AS decided_by, c.decided_at, coalesce(b.name, '') AS taken_back_by, c.taken_back_at, c.taken_back_why,
	       c.as_of
	  FROM counts c JOIN locations p ON p.id = c.location_id JOIN items i ON i.id = c.item_id
	  JOIN people e ON e.id = c.counted_by LEFT JOIN people d ON d.id = c.decided_by LEFT JOIN people b ON b.id = c.taken_back_by
	  LEFT JOIN count_sheets s ON s.id = c.sheet_id `

// pastCounts are the counts of a site that wait for nobody, over it and letters of what they are about.
var pastCounts = documents.List[PastCount]{
	Query: pastColumns + `
		WHERE c.site_id = $1 AND c.state NOT IN ('counted', 'recount') AND ($2 = '' OR concat_ws(' ', c.number, p.code, i.sku, i.description,
		  e.name, s.number, c.reason) ILIKE '%' || $2 || '%')`,
	Keys: map[string]documents.SortKey{
		"at":     {Expr: "o.counted_at", Type: "timestamptz"},
		"number": {Expr: "o.id", Type: "bigint"},
		"bin":    {Expr: "o.bin", Type: "text"},
		"sku":    {Expr: "o.sku", Type: "text"},
		"state":  {Expr: "o.state", Type: "text"},
		"value":  {Expr: "o.value", Type: "numeric"},
		"off":    {Expr: "o.off", Type: "numeric"},
		"by":     {Expr: "lower(o.counted_by)", Type: "text"},
	},
	Summed: []string{"value"},
	Money:  []string{"value"},
	Header: []string{"number", "state", "bin", "sku", "description", "found", "expected", "variance", "unit", "value", "how", "sheet",
		"counted_by", "counted_at", "stands_at", "reason", "decided_by", "decided_at", "taken_back_by", "taken_back_at", "taken_back_why"},
	Text: func(c PastCount) []string {
		at := func(t *time.Time) string {
			if t == nil {
				return ""
			}
			return when(*t)
		}
		return []string{c.Number, string(c.State), c.Bin, c.SKU, c.Description, c.Found.String(), c.Expected.String(), c.Variance.String(), c.Unit,
			c.Value.String(), c.How, c.Sheet, c.CountedBy, when(c.CountedAt), when(c.StandsAt), c.Reason, c.DecidedBy, at(c.DecidedAt),
			c.TakenBackBy, at(c.TakenBackAt), c.TakenBackWhy}
	},
}

// CountFile is a count with all that belongs to it.
type CountFile struct {
	PastCount
	Counts []PastCount `json:"counts" nullable:"false" doc:"Those of the same that another person made before or after, the first first, with itself"`
	Moved  []Moved     `json:"moved" nullable:"false" doc:"What moved there since the moment that it stands for"`
}

// readCount reads a count with those before and after it, and what moved since.
func readCount(ctx context.Context, q sqlx.QueryerContext, id int64) (CountFile, error) {
	f := CountFile{Counts: []PastCount{}, Moved: []Moved{}}
	if err := sqlx.GetContext(ctx, q, &f.PastCount, pastColumns+`WHERE c.id = $1`, id); err != nil {
		return f, documents.Found(err, "count", fmt.Sprint(id))
	}
	if err := sqlx.SelectContext(ctx, q, &f.Counts, pastColumns+`
		  JOIN counts me ON me.id = $1 AND (c.id IN (me.id, me.first_id) OR c.first_id IN (me.id, me.first_id)) ORDER BY c.id`, id); err != nil {
		return f, fmt.Errorf("reading counts of the same: %w", err)
	}
	var err error
	f.Moved, err = movedAfter(ctx, q, f.LocationID, f.ItemID, f.AsOf)
	return f, err
}

// listDiffering reads the counts of a site that wait for a decision or for another person.
func listDiffering(ctx context.Context, q sqlx.QueryerContext, site int32) ([]PastCount, error) {
	out := []PastCount{}
	if err := sqlx.SelectContext(ctx, q, &out, pastColumns+`
		WHERE c.site_id = $1 AND c.state IN ('counted', 'recount') ORDER BY c.state, c.id`, site); err != nil {
		return nil, fmt.Errorf("listing counts that differ: %w", err)
	}
	return out, nil
}
