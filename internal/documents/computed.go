package documents

import (
	"cmp"
	"slices"
	"strings"

	"github.com/shopspring/decimal"
)

// A ComputedKey is what computed rows can be sorted by: a figure, or else a text without case.
type ComputedKey[R any] struct {
	Figure func(R) decimal.Decimal
	Text   func(R) string
}

func (k ComputedKey[R]) value(row R) string {
	if k.Figure != nil {
		return k.Figure(row).String()
	}
	return strings.ToLower(k.Text(row))
}

func (k ComputedKey[R]) compare(a, b string) int {
	if k.Figure == nil {
		return strings.Compare(a, b)
	}
	x, _ := decimal.NewFromString(a)
	y, _ := decimal.NewFromString(b)
	return x.Cmp(y)
}

// Computed is a list whose rows are computed and not read by one query. It is sorted and cut into
// pages as a List is: among rows of one key their ID decides.
type Computed[R any] struct {
	Keys map[string]ComputedKey[R]
	ID   func(R) string
}

// computedPlace is where a row stands.
type computedPlace struct {
	Value string `json:"v"`
	ID    string `json:"id"`
}

// Page sorts rows by the key of a name, and cuts the page that is asked for.
func (c Computed[R]) Page(rows []R, sort string, asked Asked) (Page[R], error) {
	key, turn := c.Keys[sort], 1
	if asked.Down {
		turn = -1
	}
	compare := func(a, b computedPlace) int {
		return turn * cmp.Or(key.compare(a.Value, b.Value), strings.Compare(a.ID, b.ID))
	}
	var after *computedPlace
	if asked.After != "" {
		var err error
		if after, err = readPlace[computedPlace](asked.After); err != nil {
			return Page[R]{}, err
		}
	}
	type placed struct {
		computedPlace
		row R
	}
	all := make([]placed, len(rows))
	for i, r := range rows {
		all[i] = placed{computedPlace{key.value(r), c.ID(r)}, r}
	}
	slices.SortFunc(all, func(a, b placed) int { return compare(a.computedPlace, b.computedPlace) })
	first := 0
	if after != nil {
		first, _ = slices.BinarySearchFunc(all, *after, func(p placed, at computedPlace) int {
			// Behind the place itself, which may be gone by now.
			return cmp.Or(compare(p.computedPlace, at), -1)
		})
	}
	last := min(first+asked.Limit, len(all))
	page := Page[R]{Rows: make([]R, 0, last-first)}
	for _, p := range all[first:last] {
		page.Rows = append(page.Rows, p.row)
	}
	if last < len(all) {
		page.Next = placeText(all[last-1].computedPlace)
	}
	if n := len(rows); after == nil {
		page.Total = &n
	}
	return page, nil
}
