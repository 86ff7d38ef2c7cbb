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
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

// A writing is the lines of an order that are written together: what they name is read
// first, and what becomes of them is written last, each in a fixed number of statements.
type writing struct {
	// there are the lines that the order has already.
	there  []Line
	items  catalog.LineItems
	offers map[int32]catalog.Offer
	// by is who writes them.
	by      people.Person
	added   []writtenLine
	changed []writtenLine
}

// A writtenLine is a line as it is to be.
type writtenLine struct {
	inbound.NewLine
	id     int64
	price  decimal.Decimal
	needed *time.Time
}

// writeLines writes lines of the order, new ones and those that are changed.
func (o Order) writeLines(ctx context.Context, tx *command.Tx, lines []NewLine) error {
	ids := make([]int32, len(lines))
	for i, l := range lines {
		ids[i] = l.ItemID
	}
	items, err := catalog.ReadLineItems(ctx, tx, ids, o.SiteID)
	if err != nil {
		return err
	}
	offers, err := catalog.OffersOf(ctx, tx, o.SupplierID, ids)
	if err != nil {
		return err
	}
	w := &writing{there: o.Lines, items: items, offers: offers, by: tx.Person}
	for i, l := range lines {
		if err := w.keep(i, l); err != nil {
			return err
		}
	}
	return w.write(ctx, tx, o.ID)
}

// keep takes the i-th line, a new one or one that is changed. A line on which goods came
// stays with its item and keeps at least what came.
func (w *writing) keep(i int, l NewLine) error {
	field := fmt.Sprintf("lines[%d]", i)
	if l.ID != 0 && slices.ContainsFunc(w.changed, func(c writtenLine) bool { return c.id == l.ID }) {
		return refusal.New(refusal.LineTwice, field+".id", "A line stands twice. Write its whole quantity once.")
	}
	out := writtenLine{id: l.ID}
	if l.NeededOn != "" {
		day, err := documents.Day(field+".needed_on", l.NeededOn)
		if err != nil {
			return err
		}
		out.needed = &day
	}
	item, err := w.itemOf(field, i, l)
	if err != nil {
		return err
	}
	quantity, err := item.Count(field, l.PackID, l.Quantity)
	if err != nil {
		return err
	}
	if out.price, err = w.priceOf(field, l, item); err != nil {
		return err
	}
	out.NewLine = inbound.NewLine{Item: item.ID, Text: l.Text, Pack: l.PackID, Quantity: quantity,
		Allowance: receiving.Allowance{Short: item.ShortPct, Over: item.OverPct}, Covers: l.covers}
	if l.ID == 0 {
		w.added = append(w.added, out)
		return nil
	}
	w.changed = append(w.changed, out)
	return w.mayChange(field, i, out)
}

// priceOf is what a base unit of a line costs: as it is typed, as it was, or else as the supplier sells it or what the item
// costs. Only who sees prices types others.
func (w *writing) priceOf(field string, l NewLine, item catalog.Item) (decimal.Decimal, error) {
	price := item.Cost
	if offered := w.offers[item.ID].Price; offered != nil {
		price = *offered
	}
	if was := lineByID(w.there, l.ID); l.ID != 0 && was.ItemID == l.ItemID {
		price = was.Price
	}
	if l.Price == "" {
		return price, nil
	}
	typed, err := measure.ParsePrice(field+".price", l.Price)
	if err == nil && !typed.Equal(price) && !w.by.SeesMoney() {
		err = pricesBarred(field+".price", w.by)
	}
	return typed, err
}

// pricesBarred refuses prices of somebody who does not see them.
func pricesBarred(field string, by people.Person) error {
	return refusal.New(refusal.Role, field, "%s may set no prices. Leave it empty, or ask one of: %s.", by.RoleWords(), people.Desk).
		Of(refusal.Forbidden)
}

// itemOf is the line's item, none for a line that says what it is. It refuses an item that
// is not bought, or not kept at the site.
func (w *writing) itemOf(field string, i int, l NewLine) (catalog.Item, error) {
	if l.ItemID == 0 {
		if strings.TrimSpace(l.Text) == "" {
			return catalog.Item{}, refusal.New(refusal.ItemUnknown, field+".item_id",
				"Line %d has no item. Find one by SKU, GTIN or words, or write what it is, such as freight.", i+1)
		}
		return catalog.Item{}, nil
	}
	item, err := w.items.Line(field, i, l.ItemID)
	if err != nil {
		return item, err
	}
	if !item.Bought {
		return item, refusal.New(refusal.ItemNotBought, field+".item_id",
			"%s is not an item that is bought. Change that in the catalog first, or leave it out.", item.SKU)
	}
	return item, w.items.Allowed(field+".item_id", item)
}

// mayChange refuses a change that what came or was invoiced does not allow.
func (w *writing) mayChange(field string, i int, l writtenLine) error {
	was := lineByID(w.there, l.id)
	least := decimal.Max(was.Received, was.Invoiced)
	switch {
	case was.ID == 0:
		return refusal.New(refusal.LineUnknown, field+".id", "That line is not on this order.")
	case was.ItemID != l.Item:
		return refusal.New(refusal.LineItemStands, field+".item_id",
			"A line keeps its item. Remove line %d and write another.", i+1)
	case l.Quantity.LessThan(least):
		what := was.SKU
		if what == "" {
			what = was.Description
		}
		return refusal.New(refusal.BelowReceived, field+".quantity",
			"%s of %s came already, and %s are invoiced: the line cannot be for %s.",
			was.Received, what, was.Invoiced, l.Quantity).With("least", least)
	}
	return nil
}

// write writes what was gathered.
func (w *writing) write(ctx context.Context, tx *command.Tx, order int64) error {
	if len(w.changed) > 0 {
		ids := make([]int64, len(w.changed))
		for i, l := range w.changed {
			ids[i] = l.id
		}
		if err := inbound.ChangeLines(ctx, tx, ids, floorLines(w.changed)); err != nil {
			return err
		}
		if err := writeTerms(ctx, tx, ids, w.changed); err != nil {
			return err
		}
	}
	if len(w.added) == 0 {
		return nil
	}
	ids, err := inbound.AddLines(ctx, tx, order, floorLines(w.added))
	if err != nil {
		return err
	}
	return writeTerms(ctx, tx, ids, w.added)
}

func floorLines(lines []writtenLine) []inbound.NewLine {
	out := make([]inbound.NewLine, len(lines))
	for i, l := range lines {
		out[i] = l.NewLine
	}
	return out
}

// writeTerms writes what the floor does not know of lines.
func writeTerms(ctx context.Context, tx *command.Tx, ids []int64, lines []writtenLine) error {
	needed, prices := make([]*time.Time, len(lines)), make([]string, len(lines))
	for i, l := range lines {
		needed[i], prices[i] = l.needed, l.price.String()
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO purchase_lines (line_id, needed_on, price)
		SELECT id, needed, price::numeric FROM unnest($1::bigint[], $2::date[], $3::text[]) AS t(id, needed, price)
		    ON CONFLICT (line_id) DO UPDATE SET needed_on = excluded.needed_on, price = excluded.price`,
		ids, needed, prices); err != nil {
		return fmt.Errorf("writing purchase lines: %w", err)
	}
	return nil
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
	if err := o.writeLines(ctx, tx, in.Lines); err != nil {
		return err
	}
	for i, line := range in.Remove {
		field := fmt.Sprintf("remove[%d]", i)
		if slices.ContainsFunc(in.Lines, func(l NewLine) bool { return l.ID == line }) {
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
