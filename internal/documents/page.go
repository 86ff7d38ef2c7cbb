package documents

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
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

// ReadPage reads a page of a list: of the rows of a query with these parameters, which it
// calls o and which have an id. next is empty at the end of the list; total comes with the
// first page.
func ReadPage[R interface{ Place() string }](
	ctx context.Context, q sqlx.QueryerContext, query string, args []any, by Sorting, limit int,
) (rows []R, next string, total *int, err error) {
	rows = []R{}
	n := len(args)
	err = sqlx.SelectContext(ctx, q, &rows, fmt.Sprintf(`
		SELECT o.*, %s::text AS sort_value, o.id AS sort_id FROM (%s) AS o
		 WHERE %s ORDER BY %s LIMIT $%d`, by.Key.Expr, query, by.Where(n+1), by.OrderBy(), n+3),
		append(append(append([]any{}, args...), by.Args()...), limit+1)...)
	if err != nil {
		return nil, "", nil, fmt.Errorf("reading a page of a list: %w", err)
	}
	rows, next = CutPage(rows, limit)
	if !by.First() {
		return rows, next, nil, nil
	}
	count := len(rows)
	if next != "" {
		if err := sqlx.GetContext(ctx, q, &count, `SELECT count(*) FROM (`+query+`) AS o`, args...); err != nil {
			return nil, "", nil, fmt.Errorf("counting a list: %w", err)
		}
	}
	return rows, next, &count, nil
}
