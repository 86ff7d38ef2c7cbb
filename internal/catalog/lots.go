package catalog

import (
	"context"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"lanternrow/internal/core/refusal"
)

// A Lot is a lot of an item as it is written on goods; Field names it in the request.
type Lot struct {
	Field   string
	Item    Item
	Code    string
	Expires *time.Time
}

// EnsureLots finds lots or writes them, and returns their ids in the same order, in two
// statements however many there are. One that is known with another expiry is refused.
func EnsureLots(ctx context.Context, q interface {
	sqlx.QueryerContext
	sqlx.ExecerContext
}, lots []Lot, today time.Time) ([]int64, error) {
	if len(lots) == 0 {
		return nil, nil
	}
	items, codes, expires := make([]int32, len(lots)), make([]string, len(lots)), make([]*time.Time, len(lots))
	for i, l := range lots {
		items[i], codes[i], expires[i] = l.Item.ID, l.Code, l.Expires
	}
	_, err := q.ExecContext(ctx, `
		INSERT INTO lots (item_id, code, expires_on, arrived_on)
		SELECT item, code, expires, $4
		  FROM unnest($1::int[], $2::text[], $3::date[]) WITH ORDINALITY AS x(item, code, expires, n)
		 ORDER BY item, code, n
		ON CONFLICT DO NOTHING`, items, codes, expires, today)
	if err != nil {
		return nil, fmt.Errorf("writing lots: %w", err)
	}
	var known []struct {
		ID      int64
		Expires *time.Time
	}
	err = sqlx.SelectContext(ctx, q, &known, `
		SELECT l.id, l.expires_on AS expires
		  FROM unnest($1::int[], $2::text[]) WITH ORDINALITY AS x(item, code, n)
		  JOIN lots l ON l.item_id = x.item AND l.code = x.code
		 ORDER BY x.n`, items, codes)
	if err != nil {
		return nil, fmt.Errorf("reading lots: %w", err)
	}
	ids := make([]int64, len(lots))
	for i, l := range lots {
		if is := known[i].Expires; l.Expires != nil && is != nil && !is.Equal(*l.Expires) {
			return nil, refusal.New(refusal.ExpiryDiffers, l.Field+".expires_on",
				"Lot %s of %s is known to expire on %s, not %s. Read the label again, or ask the lead.",
				l.Code, l.Item.SKU, is.Format(time.DateOnly), l.Expires.Format(time.DateOnly))
		}
		ids[i] = known[i].ID
	}
	return ids, nil
}
