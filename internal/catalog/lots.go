package catalog

import (
	"context"
	"fmt"
	"slices"
	"time"

	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
)

// A Lot is a lot of an item as it is written on goods; Field names it in the request.
type Lot struct {
	Field   string
	Item    Item
	Code    string
	Expires *time.Time
	// Supplier is what its supplier calls it, where that is another number; it is kept with a lot that is new.
	Supplier string
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
	theirs := make([]string, len(lots))
	for i, l := range lots {
		items[i], codes[i], expires[i], theirs[i] = l.Item.ID, l.Code, l.Expires, l.Supplier
	}
	_, err := q.ExecContext(ctx, `
		INSERT INTO lots (item_id, code, expires_on, arrived_on, supplier_code)
		SELECT item, code, expires, $4, theirs
		  FROM unnest($1::int[], $2::text[], $3::date[], $5::text[]) WITH ORDINALITY AS x(item, code, expires, theirs, n)
		 ORDER BY item, code, n
		ON CONFLICT DO NOTHING`, items, codes, expires, today, theirs)
	if err != nil {
		return nil, fmt.Errorf("writing lots: %w", err)
	}
	known, err := knownLots(ctx, q, items, codes)
	if err != nil {
		return nil, err
	}
	ids := make([]int64, len(lots))
	for i, l := range lots {
		if err := l.agrees(known[i].Expires); err != nil {
			return nil, err
		}
		ids[i] = known[i].ID
	}
	return ids, nil
}

// CheckLots refuses the first of these lots that is known with another expiry, or that
// another of them says to expire on another day.
func CheckLots(ctx context.Context, q sqlx.QueryerContext, lots []Lot) error {
	if !slices.ContainsFunc(lots, func(l Lot) bool { return l.Expires != nil }) {
		return nil
	}
	type key struct {
		item int32
		code string
	}
	items, codes, said := make([]int32, len(lots)), make([]string, len(lots)), map[key]*time.Time{}
	for i, l := range lots {
		items[i], codes[i] = l.Item.ID, l.Code
		at := key{l.Item.ID, l.Code}
		if err := l.agrees(said[at]); err != nil {
			return err
		}
		said[at] = l.Expires
	}
	known, err := knownLots(ctx, q, items, codes)
	if err != nil {
		return err
	}
	for _, k := range known {
		if err := lots[k.N-1].agrees(k.Expires); err != nil {
			return err
		}
	}
	return nil
}

// A knownLot is one that stands in the catalog already: the N-th that was asked for.
type knownLot struct {
	N       int
	ID      int64
	Expires *time.Time
}

// knownLots reads which of these lots are known, in their order.
func knownLots(ctx context.Context, q sqlx.QueryerContext, items []int32, codes []string) ([]knownLot, error) {
	var known []knownLot
	err := sqlx.SelectContext(ctx, q, &known, `
		SELECT x.n, l.id, l.expires_on AS expires
		  FROM unnest($1::int[], $2::text[]) WITH ORDINALITY AS x(item, code, n)
		  JOIN lots l ON l.item_id = x.item AND l.code = x.code
		 ORDER BY x.n`, items, codes)
	if err != nil {
		return nil, fmt.Errorf("reading lots: %w", err)
	}
	return known, nil
}

// agrees refuses the lot when it is known to expire on another day.
func (l Lot) agrees(known *time.Time) error {
	if l.Expires == nil || known == nil || known.Equal(*l.Expires) {
		return nil
	}
	return refusal.New(refusal.ExpiryDiffers, l.Field+".expires_on",
		"Lot %s of %s is known to expire on %s, not %s. Read the label again, or ask the lead.",
		l.Code, l.Item.SKU, known.Format(time.DateOnly), l.Expires.Format(time.DateOnly))
}

// LotByCode finds a lot of an item by its code, in capitals or not; sql.ErrNoRows where there is none.
func LotByCode(ctx context.Context, q sqlx.QueryerContext, item int32, code string) (id int64, err error) {
	err = sqlx.GetContext(ctx, q, &id, `SELECT id FROM lots WHERE item_id = $1 AND upper(code) = upper($2)`, item, code)
	return id, err
}
