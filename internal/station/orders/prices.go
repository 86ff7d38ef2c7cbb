package orders

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"lanternrow/internal/core/pricing"

	"github.com/jmoiron/sqlx"
)

// priceTerms reads what a customer's price of an item is made of; customer 0 has no terms
// of its own.
func priceTerms(ctx context.Context, q sqlx.QueryerContext, customer, item int32) (t pricing.Terms, err error) {
	var row struct{ Terms []byte }
	err = sqlx.GetContext(ctx, q, &row, `
		SELECT json_build_object('sku', i.sku, 'list', i.sales_price::text, 'discount_pct',
		       coalesce(p.discount_pct, 0)::text,
		           'agreed', coalesce((SELECT json_agg(json_build_object('from', to_char(from_on, 'YYYY-MM-DD'),
		           'price', price::text))
		                                 FROM agreed_prices WHERE customer_id = $1 AND item_id = $2), '[]')) AS terms
		  FROM items i LEFT JOIN parties p ON p.id = $1 WHERE i.id = $2`, customer, item)
	if err != nil {
		return t, fmt.Errorf("reading prices: %w", err)
	}
	if err = json.Unmarshal(row.Terms, &t); err != nil {
		return t, fmt.Errorf("reading prices: %w", err)
	}
	return t, nil
}

// today is the day on which prices are looked up.
func today(now time.Time) string { return now.UTC().Format(time.DateOnly) }
