package catalog

import (
	"context"
	"fmt"

	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
)

// LineItems are the items that the lines of an order name, and where they are not allowed.
type LineItems struct {
	items map[int32]Item
	// barred are those that are not allowed at the site, with its name.
	barred map[int32]string
}

// ReadLineItems reads items for lines at a site, however many, in three statements. An id
// that nobody knows, and 0, are none of them.
func ReadLineItems(ctx context.Context, q sqlx.QueryerContext, ids []int32, site int32) (l LineItems, err error) {
	if l.items, err = ItemsByID(ctx, q, ids); err != nil {
		return l, err
	}
	l.barred, err = barredAt(ctx, q, ids, site)
	return l, err
}

// Line is the item of the i-th line, at that field. One that nobody knows is refused.
func (l LineItems) Line(field string, i int, id int32) (Item, error) {
	item, known := l.items[id]
	if !known {
		return item, refusal.New(refusal.ItemUnknown, field+".item_id",
			"Line %d has no item. Find one by SKU, GTIN or words.", i+1)
	}
	return item, nil
}

// Allowed refuses an item that is not kept in stock, or not at the site.
func (l LineItems) Allowed(field string, item Item) error {
	return allowed(field, item, l.barred[item.ID])
}

// Allowed refuses an item that is not kept in stock, or not at the site.
func Allowed(ctx context.Context, q sqlx.QueryerContext, field string, item Item, site int32) error {
	barred, err := barredAt(ctx, q, []int32{item.ID}, site)
	if err != nil {
		return err
	}
	return allowed(field, item, barred[item.ID])
}

func allowed(field string, item Item, barredAt string) error {
	switch {
	case !item.Stocked:
		return refusal.New(refusal.ItemNotStocked, field,
			"%s is not kept in stock. Change that in the catalog first, or leave it out.", item.SKU)
	case barredAt != "":
		return refusal.New(refusal.ItemNotHere, field,
			"%s is not allowed at %s. Change that in the catalog first, or choose another site.", item.SKU, barredAt)
	}
	return nil
}

// barredAt reads which of these items are not allowed at the site, with its name.
func barredAt(ctx context.Context, q sqlx.QueryerContext, ids []int32, site int32) (map[int32]string, error) {
	var rows []struct {
		Item int32 `db:"item_id"`
		Name string
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT s.item_id, x.name
		  FROM item_sites s
		  JOIN sites x ON x.id = s.site_id
		 WHERE s.item_id = ANY($1) AND s.site_id = $2 AND NOT s.allowed`, ids, site)
	if err != nil {
		return nil, fmt.Errorf("reading where items are allowed: %w", err)
	}
	barred := map[int32]string{}
	for _, r := range rows {
		barred[r.Item] = r.Name
	}
	return barred, nil
}
