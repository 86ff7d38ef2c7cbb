package orders

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/pricing"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/outbound"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A writing is the lines of an order that are written together: what they name is read
// first, and what becomes of them is written last, each in a fixed number of statements.
type writing struct {
	day   string
	items catalog.LineItems
	terms map[int32]pricing.Terms

	added   []outbound.NewLine
	prices  []pricing.Price
	changed []changedLine
}

// A changedLine is a line that is there, as it is to be.
type changedLine struct {
	id       int64
	quantity decimal.Decimal
	text     string
	price    pricing.Price
}

// writingOf reads what lines name, for a customer at a site.
func writingOf(
	ctx context.Context, q sqlx.QueryerContext, customer, site int32, lines []NewLine, now time.Time,
) (w *writing, err error) {
	ids := make([]int32, len(lines))
	for i, l := range lines {
		ids[i] = l.ItemID
	}
	w = &writing{day: today(now)}
	if w.items, err = catalog.ReadLineItems(ctx, q, ids, site); err != nil {
		return nil, err
	}
	w.terms, err = priceTerms(ctx, q, customer, ids)
	return w, err
}

// add takes the i-th line as a new one.
func (w *writing) add(i int, l NewLine) error {
	field := fmt.Sprintf("lines[%d]", i)
	var item catalog.Item
	unit := measure.Unit{}
	text := strings.TrimSpace(l.Text)
	if l.ItemID != 0 {
		var err error
		if item, err = w.items.Line(field, i, l.ItemID); err != nil {
			return err
		}
		if !item.Sold {
			return refusal.New(refusal.ItemNotSold, field+".item_id",
				"%s is not an item that is sold. Change that in the catalog first, or leave it out.", item.SKU)
		}
		if err := w.items.Allowed(field+".item_id", item); err != nil {
			return err
		}
		unit = item.Unit()
	} else if text == "" {
		return refusal.New(refusal.ItemUnknown, field+".item_id",
			"Line %d has no item. Find one by SKU, GTIN or words, or write what it is, such as freight.", i+1)
	}
	quantity, err := measure.Parse(field+".quantity", l.Quantity, unit)
	if err != nil {
		return err
	}
	price, err := w.priceOf(field+".price", item.ID, l.Price)
	if err != nil {
		return err
	}
	w.added = append(w.added, outbound.NewLine{Item: item.ID, Text: text, Quantity: quantity})
	w.prices = append(w.prices, price)
	return nil
}

// priceOf is what a base unit costs the customer: as it was entered, or by its terms. A
// charge costs what is entered.
func (w *writing) priceOf(field string, item int32, entered string) (p pricing.Price, err error) {
	p = pricing.Price{Source: pricing.Typed, Why: "as entered"}
	if entered != "" {
		if p.Amount, err = measure.ParsePrice(field, entered); err != nil {
			return p, err
		}
	}
	switch {
	case item == 0:
		return p, nil
	case entered == "":
		return w.terms[item].On(field, w.day)
	}
	return w.terms[item].Entered(p.Amount, w.day), nil
}

// change gives a line another quantity, price or text, and says what it gave up on the
// floor.
func (w *writing) change(
	ctx context.Context, tx *command.Tx, field string, l Line, in NewLine,
) (words string, err error) {
	unit := measure.Unit{}
	if l.ItemID != 0 {
		item, err := w.items.Line(field, l.Line-1, l.ItemID)
		if err != nil {
			return "", err
		}
		unit = item.Unit()
	}
	quantity, err := measure.Parse(field+".quantity", in.Quantity, unit)
	if err != nil {
		return "", err
	}
	price, err := l.priceAfter(field+".price", in.Price)
	if err != nil {
		return "", err
	}
	wanted := quantity.Sub(l.Shipped)
	if wanted.IsNegative() {
		return "", refusal.New(refusal.BelowShipped, field+".quantity",
			"%s of %s are shipped already: the line cannot be for %s.", l.Shipped, l.SKU, quantity).With("shipped", l.Shipped)
	}
	w.changed = append(w.changed, changedLine{l.ID, quantity, strings.TrimSpace(in.Text), price})
	if l.ItemID == 0 || !wanted.LessThan(l.Planned.Add(l.Picked).Add(l.Reserved)) {
		return "", nil
	}
	r, err := reservation.Reduce(ctx, tx, l.ID, wanted)
	return r.Words(l.SKU), err
}

// priceAfter is the line's price as it was entered, or as it was. What is shipped at a
// price keeps it.
func (l Line) priceAfter(field, entered string) (pricing.Price, error) {
	price := pricing.Price{Amount: l.Price, Source: l.PriceSource, Why: l.PriceWhy}
	if entered == "" {
		return price, nil
	}
	amount, err := measure.ParsePrice(field, entered)
	if err != nil || amount.Equal(l.Price) {
		return price, err
	}
	if l.Shipped.IsPositive() {
		return price, refusal.New(refusal.PriceStands, field,
			"%s of %s are shipped at %s: the price stands. Write what is to come at another price as a line of "+
				"its own.", l.Shipped, l.SKU, l.Price)
	}
	return pricing.Price{Amount: amount, Source: pricing.Typed, Why: "as entered"}, nil
}

// write writes what was gathered.
func (w *writing) write(ctx context.Context, tx *command.Tx, order int64) error {
	if len(w.changed) > 0 {
		if err := w.writeChanged(ctx, tx); err != nil {
			return err
		}
	}
	if len(w.added) == 0 {
		return nil
	}
	ids, err := outbound.AddLines(ctx, tx, order, w.added)
	if err != nil {
		return err
	}
	amounts, sources, whys := priceColumns(w.prices)
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO sales_lines (line_id, price, price_source, price_why)
		SELECT id, price::numeric, source, why
		  FROM unnest($1::bigint[], $2::text[], $3::text[], $4::text[]) AS t(id, price, source, why)`,
		ids, amounts, sources, whys); err != nil {
		return fmt.Errorf("writing order lines: %w", err)
	}
	return nil
}

func (w *writing) writeChanged(ctx context.Context, tx *command.Tx) error {
	n := len(w.changed)
	ids, quantities, texts := make([]int64, n), make([]string, n), make([]string, n)
	prices := make([]pricing.Price, n)
	for i, c := range w.changed {
		ids[i], quantities[i], texts[i], prices[i] = c.id, c.quantity.String(), c.text, c.price
	}
	amounts, sources, whys := priceColumns(prices)
	_, err := tx.ExecContext(ctx, `
		WITH t AS (
			SELECT *
			  FROM unnest($1::bigint[], $2::text[], $3::text[], $4::text[], $5::text[], $6::text[])
			    AS t(id, quantity, text, price, source, why)),
		     s AS (
			UPDATE sales_lines SET price = t.price::numeric, price_source = t.source, price_why = t.why
			  FROM t WHERE line_id = t.id)
		UPDATE outbound_lines l
		   SET quantity = t.quantity::numeric, cancelled = 0,
		       text = CASE WHEN l.item_id IS NULL AND t.text <> '' THEN t.text ELSE l.text END
		  FROM t WHERE l.id = t.id`, ids, quantities, texts, amounts, sources, whys)
	if err != nil {
		return fmt.Errorf("changing order lines: %w", err)
	}
	return nil
}

func priceColumns(prices []pricing.Price) (amounts, sources, whys []string) {
	for _, p := range prices {
		amounts, sources, whys = append(amounts, p.Amount.String()), append(sources, string(p.Source)), append(whys, p.Why)
	}
	return amounts, sources, whys
}
