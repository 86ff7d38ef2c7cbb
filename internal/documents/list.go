package documents

import (
	"context"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/exchange"

	"github.com/jmoiron/sqlx"
)

// Asked is which page of a list is asked for.
type Asked struct {
	Down  bool   `query:"down" doc:"From the last to the first"`
	After string `query:"after" maxLength:"400" doc:"Behind this place; the first page without"`
	Limit int    `query:"limit" minimum:"1" maximum:"500" default:"100"`
}

// A Page is a page of a list.
type Page[R any] struct {
	Rows []R    `json:"rows"`
	Next string `json:"next" doc:"Where the next page begins; empty at the end"`
	Totals
}

// A List is a table of rows that is read page by page, in an order of one's choice, or whole as
// a file.
type List[R interface{ Place() string }] struct {
	// Query reads its rows, each with an id, over the parameters that it is read with.
	Query string
	// Keys are what it can be sorted by, over its rows, which are called o.
	Keys map[string]SortKey
	// Summed are the columns of figures that are added up.
	Summed []string
	// Finish reads what a column of the database does not hold as it is told.
	Finish func(rows []R) error
	// Header and Text are the columns of its file, and a row's text in each.
	Header []string
	// Money are those columns that tell of it, which not everybody sees.
	Money []string
	Text  func(row R) []string
}

// Page reads a page, sorted by the key of a name.
func (l List[R]) Page(
	ctx context.Context, q sqlx.QueryerContext, sort string, asked Asked, args ...any,
) (Page[R], error) {
	by, err := SortBy(l.Keys, sort, asked.Down, asked.After)
	if err != nil {
		return Page[R]{}, err
	}
	rows, next, totals, err := ReadPage[R](ctx, q, l.Query, args, by, asked.Limit, l.Summed...)
	if err == nil && l.Finish != nil {
		err = l.Finish(rows)
	}
	return Page[R]{rows, next, totals}, err
}

// mostInFile is how many rows go into one file.
const mostInFile = 100_000

// Table reads the whole list, sorted by the key of a name, to be written into a file.
func (l List[R]) Table(
	ctx context.Context, q sqlx.QueryerContext, sort string, down bool, args ...any,
) (exchange.Table, error) {
	t := exchange.Table{Header: l.Header, Money: l.Money}
	page, err := l.Page(ctx, q, sort, Asked{Down: down, Limit: mostInFile}, args...)
	if err == nil && page.Next != "" {
		err = refusal.New(refusal.TableLong, "", "%d rows are more than the %d that go into one file. Narrow the list.",
			*page.Total, mostInFile)
	}
	for _, r := range page.Rows {
		t.Rows = append(t.Rows, l.Text(r))
	}
	return t, err
}
