package audit

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/counting"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// counted is what was written down, against what should have been there at the moment that it stands for.
type counted struct {
	entry Entry
	in    Count
	// now is what should be there now.
	now []held
	// found, book, off and variance are in base units: what was found and should have been there, what differs in all,
	// and the one less the other. Worth is what is off and value what the variance is at cost.
	found, book, off, variance, worth, value decimal.Decimal
	differences                              []counting.Difference
	kinds                                    map[string]Kind
}

// compare reads what was counted and compares it with what should have been there once a move had been made; entry and
// now are what readEntry reads. It refuses what cannot be read, and nothing by what the books say: whoever counts is
// told none of it.
func compare(ctx context.Context, q sqlx.QueryerContext, entry Entry, now []held, in Count, asOf int64) (counted, error) {
	c := counted{entry: entry, in: in, now: now, kinds: map[string]Kind{}}
	stood, err := now, error(nil)
	if asOf != c.entry.Since {
		if stood, err = readHeld(ctx, q, in.LocationID, in.ItemID, asOf); err != nil {
			return c, err
		}
	}
	recorded := make([]counting.Holding, len(stood))
	for i, h := range stood {
		recorded[i] = h.holding()
		c.kinds[recorded[i].Key] = h.Kind
		c.book = c.book.Add(h.Quantity)
	}
	found, err := c.read(ctx, q, stood, recorded)
	if err != nil {
		return c, err
	}
	c.differences = counting.Compare(recorded, found)
	for _, d := range c.differences {
		c.variance = c.variance.Add(d.Delta)
	}
	c.off = counting.Off(c.differences)
	c.worth, c.value = c.off.Mul(c.entry.Cost).Round(2), c.variance.Mul(c.entry.Cost).Round(2)
	return c, nil
}

// read reads what was counted, kind by kind.
func (c *counted) read(
	ctx context.Context, q sqlx.QueryerContext, stood []held, recorded []counting.Holding,
) (found []counting.Holding, err error) {
	seen := map[string]bool{}
	for i, k := range c.in.Kinds {
		at := fmt.Sprintf("kinds[%d]", i)
		if err := c.lotOf(ctx, q, at, &k); err != nil {
			return nil, err
		}
		of := Kind{LotID: k.LotID, Lot: k.Lot, CartonID: k.CartonID, Condition: c.entry.conditionOf(k, stood)}
		h := counting.Holding{Key: of.key(), Serials: k.Serials}
		if seen[h.Key] {
			return nil, refusal.New(refusal.KindTwice, at, "One kind stands twice. Count each once.")
		}
		seen[h.Key] = true
		if _, known := c.kinds[h.Key]; !known {
			c.kinds[h.Key] = of
		}
		if k.Closed {
			h, err = c.closed(at, k, h.Key, recorded)
		} else {
			h.Quantity, err = c.quantity(at, k)
		}
		if err == nil && k.LotID == nil && c.entry.lots() && h.Quantity.IsPositive() {
			err = refusal.New(refusal.LotUnknown, at+".lot", "%s is known by its lots. Say which lot was counted.", c.entry.SKU)
		}
		if err != nil {
			return nil, err
		}
		c.found, found = c.found.Add(h.Quantity), append(found, h)
	}
	return found, nil
}

// lotOf finds the lot of what was counted, and refuses one that is none of the item.
func (c *counted) lotOf(ctx context.Context, q sqlx.QueryerContext, at string, k *Counted) error {
	switch {
	case k.Lot != "" && k.LotID == nil:
		id, err := catalog.LotByCode(ctx, q, c.in.ItemID, k.Lot)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return fmt.Errorf("reading a lot: %w", err)
		}
		if err != nil {
			return refusal.New(refusal.LotUnknown, at+".lot", "%q is no lot of %s. Set it aside, and receive it with its paper.", k.Lot, c.entry.SKU)
		}
		k.LotID = &id
	case k.LotID != nil:
		err := sqlx.GetContext(ctx, q, &k.Lot, `SELECT code FROM lots WHERE id = $1 AND item_id = $2`, *k.LotID, c.in.ItemID)
		if errors.Is(err, sql.ErrNoRows) {
			return refusal.New(refusal.LotUnknown, at+".lot_id", "That is no lot of %s.", c.entry.SKU)
		}
		if err != nil {
			return fmt.Errorf("reading a lot: %w", err)
		}
	}
	return nil
}

// closed counts a carton that was seen closed as the books have it.
func (c *counted) closed(at string, k Counted, key string, recorded []counting.Holding) (counting.Holding, error) {
	i := slices.IndexFunc(recorded, func(h counting.Holding) bool { return h.Key == key })
	if k.CartonID == nil || i < 0 {
		return counting.Holding{}, refusal.New(refusal.NotInCarton, at+".closed",
			"No such carton of %s was in %s. Open it, and count what is in it.", c.entry.SKU, c.entry.Bin)
	}
	if k.Quantity != "" || len(k.Serials) > 0 {
		return counting.Holding{}, refusal.New(refusal.QuantityGiven, at+".closed", "A carton that was seen closed is not counted. Leave the quantity out.")
	}
	return recorded[i], nil
}

// quantity reads how many there are of a kind: as it was written, or as many as there are serials.
func (c *counted) quantity(at string, k Counted) (decimal.Decimal, error) {
	e := c.entry
	if e.Tracking == receiving.Serial {
		if k.Quantity != "" {
			return decimal.Zero, refusal.New(refusal.SerialsWanted, at+".quantity",
				"%s is known unit by unit. Scan the serial of each that is there.", e.SKU)
		}
		return decimal.NewFromInt(int64(len(k.Serials))), nil
	}
	if len(k.Serials) > 0 {
		return decimal.Zero, refusal.New(refusal.SerialUnwanted, at+".serials",
			"%s is not known unit by unit here. Leave the serials out.", e.SKU)
	}
	if k.Quantity == "" {
		return decimal.Zero, refusal.New(refusal.QuantityMissing, at+".quantity",
			"Write down how many there are; 0 when there is none.")
	}
	return measure.ParseOrZero(at+".quantity", k.Quantity, measure.Unit{Name: e.Unit, Whole: e.Whole})
}

// checkUnits refuses units that nobody knows, and those that stand elsewhere by the books: there is no finding them
// here without a move that says how they came.
func (c *counted) checkUnits(ctx context.Context, q sqlx.QueryerContext) error {
	var extra []string
	for _, d := range c.differences {
		extra = append(extra, d.Extra...)
	}
	if len(extra) == 0 {
		return nil
	}
	units, err := serials.Find(ctx, q, c.entry.ItemID, extra)
	if err != nil {
		return err
	}
	for _, code := range extra {
		u, known := units[code]
		switch {
		case !known || u.Kind != "lost" && !u.Real:
			return refusal.New(refusal.SerialNotOurs, "kinds", "Serial %s of %s is not in stock here. Set it aside, and receive it with its paper.",
				code, c.entry.SKU).Of(refusal.Conflict)
		case u.LocationID == c.entry.LocationID:
			return refusal.New(refusal.MovedSince, "kinds", "Serial %s of %s came to %s after that. Count it again.", code, c.entry.SKU,
				c.entry.Bin).Of(refusal.Conflict)
		case u.Real:
			return refusal.New(refusal.SerialElsewhere, "kinds",
				"Serial %s of %s should be %s. Move it here, so that its trail says so, and count again.", code, c.entry.SKU, u.Where()).
				Of(refusal.Conflict).With("location", u.Location)
		}
	}
	return nil
}

// plan settles what differs with lost and found, as things stand now. What has gone since cannot be counted away; what
// is reserved is counted away only once it is planned anew.
func (c *counted) plan(ctx context.Context, q sqlx.QueryerContext, sure refusal.Sure) (*ledger.Plan, error) {
	if err := c.checkUnits(ctx, q); err != nil {
		return nil, err
	}
	over, err := c.over()
	if err != nil {
		return nil, err
	}
	if err := sure.Ask(len(over) > 0, c.asksToReplan(over)); err != nil {
		return nil, err
	}
	moves, err := c.moves(ctx, q)
	if err != nil {
		return nil, err
	}
	if err := c.checkBound(ctx, q, moves); err != nil {
		return nil, err
	}
	describe := ledger.Describe
	if len(over) > 0 {
		describe = ledger.DescribeFreed
	}
	plan, err := describe(ctx, q, moves)
	if err != nil {
		return nil, err
	}
	plan.Warnings = append(plan.Warnings, fmt.Sprintf("%s, a value of %s.", c.words(), c.value.StringFixed(2)))
	for _, o := range over {
		plan.Warnings = append(plan.Warnings, fmt.Sprintf("%s reserved for %s are planned anew.", o.over, o.kind.Orders))
	}
	plan.Button = fmt.Sprintf("Settle %s: %s of %s", c.entry.Bin, c.found, c.entry.SKU)
	return plan, nil
}

// words say by how much the count differs.
func (c *counted) words() string {
	switch {
	case c.variance.IsNegative():
		return fmt.Sprintf("%s of %s are missing in %s", c.variance.Neg(), c.entry.SKU, c.entry.Bin)
	case c.variance.IsZero():
		return fmt.Sprintf("Other lots or units of %s are in %s than there should be", c.entry.SKU, c.entry.Bin)
	}
	return fmt.Sprintf("%s more of %s are in %s than there should be", c.variance, c.entry.SKU, c.entry.Bin)
}

// reservedOver is goods of which more are reserved than are there once a count is settled.
type reservedOver struct {
	kind held
	over decimal.Decimal
}

// over finds what is reserved of what is counted away, and refuses what has gone since.
func (c *counted) over() (out []reservedOver, err error) {
	for _, d := range c.differences {
		i := slices.IndexFunc(c.now, func(h held) bool { return h.key() == d.Key })
		var h held
		if i >= 0 {
			h = c.now[i]
		}
		for _, code := range d.Missing {
			if !slices.Contains(h.holding().Serials, code) {
				return nil, refusal.New(refusal.CountGone, "", "Serial %s of %s was taken from %s since the count missed it: it was there. "+
					"Have it counted again.", code, c.entry.SKU, c.entry.Bin).Of(refusal.Conflict)
			}
		}
		after := h.Quantity.Add(d.Delta)
		if after.IsNegative() {
			return nil, refusal.New(refusal.CountGone, "", "%s of %s were missing in %s when they were counted, and %s are there by the books now. "+
				"Have it counted again.", d.Delta.Neg(), c.entry.SKU, c.entry.Bin, h.Quantity).Of(refusal.Conflict)
		}
		if after.LessThan(h.Reserved) {
			out = append(out, reservedOver{h, h.Reserved.Sub(after)})
		}
	}
	return out, nil
}

// asksToReplan names the orders that what is counted away is reserved for.
func (c *counted) asksToReplan(over []reservedOver) *refusal.Refusal {
	if len(over) == 0 {
		return nil
	}
	h := over[0].kind
	return refusal.Question(refusal.CountReserved, "", "%s of %s in %s are reserved for %s, and %s fewer are there than that. Their orders are "+
		"planned anew from other bins, as far as there is any.", h.Reserved, c.entry.SKU, c.entry.Bin, h.Orders, over[0].over).
		With("reserved", h.Reserved).With("orders", h.Orders)
}
