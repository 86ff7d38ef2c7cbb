package purchasing

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// keepLine writes a line, a new one or one that is changed. A line on which goods came
// stays with its item and keeps at least what came.
func keepLine(ctx context.Context, tx *command.Tx, order int64, site int32, i int, l NewLine) error {
	field := fmt.Sprintf("lines[%d]", i)
	var needed *time.Time
	if l.NeededOn != "" {
		day, err := documents.Day(field+".needed_on", l.NeededOn)
		if err != nil {
			return err
		}
		needed = &day
	}
	var item catalog.Item
	if l.ItemID != 0 {
		var err error
		if item, err = catalog.LineItem(ctx, tx, field, i, l.ItemID); err != nil {
			return err
		}
		if err := mayBuy(ctx, tx, field, item, site); err != nil {
			return err
		}
	} else if strings.TrimSpace(l.Text) == "" {
		return refusal.New(refusal.ItemUnknown, field+".item_id",
			"Line %d has no item. Find one by SKU, GTIN or words, or write what it is, such as freight.", i+1)
	}
	quantity, err := item.Count(field, l.PackID, l.Quantity)
	if err != nil {
		return err
	}
	price := item.Cost
	if l.Price != "" {
		if price, err = measure.ParsePrice(field+".price", l.Price); err != nil {
			return err
		}
	}
	if l.ID == 0 {
		return addLine(ctx, tx, order, item, l, quantity, price, needed)
	}
	return changeLine(ctx, tx, order, i, item, l, quantity, price, needed)
}

func addLine(
	ctx context.Context, tx *command.Tx, order int64, item catalog.Item, l NewLine, quantity, price decimal.Decimal,
	needed *time.Time,
) error {
	id, err := inbound.AddLine(ctx, tx, order, inbound.NewLine{Item: item.ID, Text: l.Text, Pack: l.PackID,
		Quantity:  quantity,
		Allowance: receiving.Allowance{Short: item.ShortPct, Over: item.OverPct}, Covers: l.covers})
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO purchase_lines (line_id, needed_on, price) VALUES ($1, $2, $3)`, id, needed, price); err != nil {
		return fmt.Errorf("writing a purchase line: %w", err)
	}
	return nil
}

func changeLine(
	ctx context.Context, tx *command.Tx, order int64, i int, item catalog.Item, l NewLine, quantity,
	price decimal.Decimal, needed *time.Time,
) error {
	field := fmt.Sprintf("lines[%d]", i)
	var was struct {
		Item               int32 `db:"item_id"`
		Received, Invoiced decimal.Decimal
		SKU                string
	}
	err := tx.GetContext(ctx, &was, `
		SELECT coalesce(l.item_id, 0) AS item_id, l.received, x.invoiced, coalesce(i.sku, l.text) AS sku
		  FROM inbound_lines l JOIN purchase_lines x ON x.line_id = l.id LEFT JOIN items i ON i.id = l.item_id
		 WHERE l.id = $1 AND l.order_id = $2`, l.ID, order)
	least := decimal.Max(was.Received, was.Invoiced)
	switch {
	case err != nil:
		return refusal.New(refusal.LineUnknown, field+".id", "That line is not on this order.")
	case was.Item != item.ID:
		return refusal.New(refusal.LineItemStands, field+".item_id",
			"A line keeps its item. Remove line %d and write another.", i+1)
	case quantity.LessThan(least):
		return refusal.New(refusal.BelowReceived, field+".quantity",
			"%s of %s came already, and %s are invoiced: the line cannot be for %s.",
			was.Received, was.SKU, was.Invoiced, quantity).With("least", least)
	}
	if err := inbound.ChangeLine(ctx, tx, l.ID, l.Text, l.PackID, quantity); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE purchase_lines SET needed_on = $2, price = $3 WHERE line_id = $1`, l.ID, needed, price); err != nil {
		return fmt.Errorf("changing a purchase line: %w", err)
	}
	return nil
}

// mayBuy refuses an item that is not bought, or not kept at the site.
func mayBuy(ctx context.Context, q sqlx.QueryerContext, field string, item catalog.Item, site int32) error {
	if !item.Bought {
		return refusal.New(refusal.ItemNotBought, field+".item_id",
			"%s is not an item that is bought. Change that in the catalog first, or leave it out.", item.SKU)
	}
	return catalog.Allowed(ctx, q, field+".item_id", item, site)
}

// lineByID finds a line; there is none when its id is 0.
func lineByID(lines []Line, id int64) (line Line) {
	if i := slices.IndexFunc(lines, func(l Line) bool { return l.ID == id }); i >= 0 {
		line = lines[i]
	}
	return line
}

// amendLines changes, adds and removes lines; those that are not named stay.
func (o Order) amendLines(ctx context.Context, tx *command.Tx, in Amended) error {
	named := map[int64]bool{}
	for i, l := range in.Lines {
		if l.ID != 0 && named[l.ID] {
			return refusal.New(refusal.LineTwice, fmt.Sprintf("lines[%d].id", i),
				"A line stands twice. Write its whole quantity once.")
		}
		named[l.ID] = true
		if err := keepLine(ctx, tx, o.ID, o.SiteID, i, l); err != nil {
			return err
		}
	}
	for i, line := range in.Remove {
		field := fmt.Sprintf("remove[%d]", i)
		if named[line] {
			return refusal.New(refusal.LineTwice, field, "A line is both changed and removed. Say one of them.")
		}
		if err := o.removeLine(ctx, tx, field, line); err != nil {
			return err
		}
	}
	return nil
}

// removeLine takes a line off the order, as long as nothing ever came on it.
func (o Order) removeLine(ctx context.Context, tx *command.Tx, field string, id int64) error {
	l := lineByID(o.Lines, id)
	if l.ID == 0 {
		return refusal.New(refusal.LineUnknown, field, "That line is not on this order.")
	}
	if l.Received.IsPositive() || l.Invoiced.IsPositive() || l.Closed {
		return refusal.New(refusal.LineStands, field,
			"Line %d (%s) cannot be removed: %s came on it, and %s are invoiced.", l.Number, l.SKU, l.Received, l.Invoiced).Of(refusal.Conflict)
	}
	var received bool
	if err := tx.GetContext(ctx, &received, `
		SELECT EXISTS (SELECT FROM receipts WHERE line_id = $1)`, l.ID); err != nil {
		return fmt.Errorf("reading receipts: %w", err)
	}
	if received {
		return refusal.New(refusal.LineStands, field,
			"Line %d (%s) cannot be removed: what came on it was taken back, and the trail names it. Close the "+
				"order instead.", l.Number, l.SKU).Of(refusal.Conflict)
	}
	return inbound.RemoveLine(ctx, tx, l.ID)
}
