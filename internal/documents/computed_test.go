package documents_test

import (
	"math/rand/v2"
	"slices"
	"strconv"
	"testing"

	"lanternrow/internal/documents"

	"github.com/shopspring/decimal"
)

type good struct {
	id     int
	figure decimal.Decimal
	name   string
}

var goods = documents.Computed[good]{
	Keys: map[string]documents.ComputedKey[good]{
		"figure": {Figure: func(g good) decimal.Decimal { return g.figure }},
		"name":   {Text: func(g good) string { return g.name }},
	},
	ID: func(g good) string { return strconv.Itoa(g.id) },
}

// TestComputedPagesJoinToTheWholeList walks random rows, many of one key, in pages of a random
// length: each is there once and in order, also while others come and go between the pages.
func TestComputedPagesJoinToTheWholeList(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(5, 7))
	for range 300 {
		rows := make([]good, r.IntN(40))
		for i := range rows {
			rows[i] = good{i, decimal.New(int64(r.IntN(9)-4), -1), string(rune('A' + r.IntN(6)))}
		}
		sort, down := []string{"figure", "name"}[r.IntN(2)], r.IntN(2) == 0
		goes := r.IntN(2) == 0
		var read []good
		gone := map[int]bool{}
		for after := ""; ; {
			page, err := goods.Page(rows, sort, documents.Asked{Down: down, After: after, Limit: 1 + r.IntN(7)})
			if err != nil {
				t.Fatal(err)
			}
			if after == "" && *page.Total != len(rows) || after != "" && page.Total != nil {
				t.Fatalf("of %d rows it says %v", len(rows), page.Total)
			}
			read = append(read, page.Rows...)
			if after = page.Next; after == "" {
				break
			}
			if goes {
				// The very row that the next page begins behind goes.
				last := page.Rows[len(page.Rows)-1].id
				gone[last] = true
				rows = slices.DeleteFunc(slices.Clone(rows), func(g good) bool { return g.id == last })
			}
		}
		compare := func(a, b good) int {
			order := a.figure.Cmp(b.figure)
			if sort == "name" {
				order = int(a.name[0]) - int(b.name[0])
			}
			if down {
				order = -order
			}
			return order
		}
		seen := map[int]bool{}
		for _, g := range read {
			if seen[g.id] {
				t.Fatalf("%d is there twice", g.id)
			}
			seen[g.id] = true
		}
		if len(read) != len(rows)+len(gone) || !slices.IsSortedFunc(read, compare) {
			t.Fatalf("by %s, down %v: %d of %d rows, %v", sort, down, len(read), len(rows)+len(gone), read)
		}
	}
	if _, err := goods.Page(nil, "name", documents.Asked{After: "yesterday", Limit: 5}); err == nil {
		t.Error("a place that is none was taken")
	}
}
