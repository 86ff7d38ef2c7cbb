package audit

import (
	"cmp"
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/counting"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Classed is an item in the ranking of a site.
type Classed struct {
	ItemID      int32  `db:"item_id" json:"item_id"`
	SKU         string `db:"sku" json:"sku"`
	Description string `db:"description" json:"description"`
	counting.Ranked
}

// readClasses ranks the items of a site by the value that left it in a year.
func readClasses(ctx context.Context, q sqlx.QueryerContext, site int32, s settings, now time.Time) ([]Classed, error) {
	var rows []struct {
		ItemID      int32 `db:"item_id"`
		SKU         string
		Description string
		Value       decimal.Decimal
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT i.id AS item_id, i.sku, i.description, coalesce(round(sum(m.quantity * m.unit_cost), 2), 0) AS value
		  FROM items i LEFT JOIN (moves m JOIN postings t ON t.id = m.posting_id AND t.kind = 'ship' AND t.entered_at > $2)
		    ON m.item_id = i.id AND m.from_site = $1 GROUP BY i.id`, site, now.AddDate(-1, 0, 0)); err != nil {
		return nil, fmt.Errorf("reading what moves: %w", err)
	}
	movers := make([]counting.Mover, len(rows))
	at := map[string]int{}
	for i, r := range rows {
		movers[i], at[r.SKU] = counting.Mover{Item: r.SKU, Value: r.Value}, i
	}
	out := make([]Classed, len(rows))
	for i, r := range counting.Classify(movers, counting.Shares{A: s.A, B: s.B}) {
		of := rows[at[r.Item]]
		out[i] = Classed{ItemID: of.ItemID, SKU: of.SKU, Description: of.Description, Ranked: r}
	}
	return out, nil
}

// classes are the classes of items by their ids.
type classes map[int32]counting.Class

// classesOf are the classes of the items at a site.
func classesOf(ctx context.Context, q sqlx.QueryerContext, site int32, s settings, now time.Time) (classes, error) {
	ranked, err := readClasses(ctx, q, site, s, now)
	out := make(classes, len(ranked))
	for _, r := range ranked {
		out[r.ItemID] = r.Class
	}
	return out, err
}

// of is the class of an item; the last for one that is in none.
func (c classes) of(item int32) counting.Class {
	return cmp.Or(c[item], counting.C)
}
