package documents

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Sorted is embedded by rows of lists that are read page by page: where each stands.
type Sorted struct {
	SortValue string `db:"sort_value" json:"-"`
	SortID    int64  `db:"sort_id" json:"-"`
}

// Place is the place behind the row.
func (s Sorted) Place() string { return PlaceAfter(s.SortValue, s.SortID) }

// CutPage leaves a page of rows of which one more than the limit was read, if there is one:
// next is the place behind it, or empty at the end of the list.
func CutPage[R interface{ Place() string }](rows []R, limit int) (page []R, next string) {
	if len(rows) <= limit {
		return rows, ""
	}
	return rows[:limit], rows[limit-1].Place()
}

// Totals are what the whole of a list comes to; they are told with its first page.
type Totals struct {
	Total *int                       `json:"total" doc:"How many rows there are in all, with the first page"`
	Sums  map[string]decimal.Decimal `json:"sums,omitempty" money:"sums" doc:"What its columns of figures come to, with the first page"`
}

// ReadTotals counts the rows of a query with these parameters, and adds up the columns that
// are named.
func ReadTotals(
	ctx context.Context, q sqlx.QueryerContext, query string, args []any, summed ...string,
) (Totals, error) {
	columns := "count(*)"
	for _, name := range summed {
		columns += ", coalesce(sum(o." + name + "), 0)"
	}
	count, sums := 0, make([]decimal.Decimal, len(summed))
	into := []any{&count}
	for i := range sums {
		into = append(into, &sums[i])
	}
	err := q.QueryRowxContext(ctx, `SELECT `+columns+` FROM (`+query+`) AS o`, args...).Scan(into...)
	if err != nil {
		return Totals{}, fmt.Errorf("counting a list: %w", err)
	}
	out := Totals{Total: &count, Sums: map[string]decimal.Decimal{}}
	for i, name := range summed {
		out.Sums[name] = sums[i]
	}
	return out, nil
}

// ReadPage reads a page of a list: of the rows of a query with these parameters, which it
// calls o and which have an id. next is empty at the end of the list; its totals come with
// the first page.
func ReadPage[R interface{ Place() string }](
	ctx context.Context, q sqlx.QueryerContext, query string, args []any, by Sorting, limit int, summed ...string,
) (rows []R, next string, totals Totals, err error) {
	rows = []R{}
	n := len(args)
	err = sqlx.SelectContext(ctx, q, &rows, fmt.Sprintf(`
		SELECT o.*, %s::text AS sort_value, o.id AS sort_id FROM (%s) AS o
		 WHERE %s ORDER BY %s LIMIT $%d`, by.Key.Expr, query, by.Where(n+1), by.OrderBy(), n+3),
		append(append(append([]any{}, args...), by.Args()...), limit+1)...)
	if err != nil {
		return nil, "", totals, fmt.Errorf("reading a page of a list: %w", err)
	}
	rows, next = CutPage(rows, limit)
	switch n := len(rows); {
	case !by.First():
	case next == "" && len(summed) == 0:
		// A list that ends with its first page is counted already.
		totals.Total = &n
	default:
		totals, err = ReadTotals(ctx, q, query, args, summed...)
	}
	return rows, next, totals, err
}
