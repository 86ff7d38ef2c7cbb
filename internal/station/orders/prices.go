package orders

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"lanternrow/internal/core/pricing"

	"github.com/jmoiron/sqlx"
)

// priceTerms reads what a customer's prices of items are made of; customer 0 has no terms
// of its own.
func priceTerms(
	ctx context.Context, q sqlx.QueryerContext, customer int32, items []int32,
) (map[int32]pricing.Terms, error) {
	var rows []struct {
		ID    int32
		Terms []byte
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT i.id, json_build_object('sku', i.sku, 'list', i.sales_price::text,
		       'discount_pct', coalesce(p.discount_pct, 0)::text,
		       'agreed', coalesce((
		           SELECT json_agg(json_build_object('from', to_char(a.from_on, 'YYYY-MM-DD'), 'price', a.price::text))
		             FROM agreed_prices a WHERE a.customer_id = $1 AND a.item_id = i.id), '[]')) AS terms
		  FROM items i
		  LEFT JOIN parties p ON p.id = $1
		 WHERE i.id = ANY($2)`, customer, items)
	if err != nil {
		return nil, fmt.Errorf("reading prices: %w", err)
	}
	out := make(map[int32]pricing.Terms, len(rows))
	for _, r := range rows {
		var t pricing.Terms
		if err := json.Unmarshal(r.Terms, &t); err != nil {
			return nil, fmt.Errorf("reading prices: %w", err)
		}
		out[r.ID] = t
	}
	return out, nil
}

// today is the day on which prices are looked up.
func today(now time.Time) string { return now.UTC().Format(time.DateOnly) }
