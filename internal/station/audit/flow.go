package audit

import (
	"context"
	"fmt"
	"strings"

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

// counted is what was written down, against what should be there.
type counted struct {
	sheet Sheet
	held  []held
	in    Count
	// found and variance are in base units, value is what the difference is at cost.
	found, variance, value decimal.Decimal
	// amounts are how many were found of each kind.
	amounts     map[string]decimal.Decimal
	differences []counting.Difference
	kinds       map[string]Kind
}

// key tells kinds of an item in a bin apart.
func key(lot, carton *int64) string {
	at := func(p *int64) int64 {
		if p == nil {
			return 0
		}
		return *p
	}
	return fmt.Sprintf("%d/%d", at(lot), at(carton))
}

// compare reads what was counted and compares it with what should be there. It refuses what
// cannot be read, and nothing by what the books say: whoever counts is told none of it.
func compare(ctx context.Context, q sqlx.QueryerContext, in Count) (counted, error) {
	c := counted{in: in, amounts: map[string]decimal.Decimal{}}
	var err error
	if c.sheet, c.held, err = readSheet(ctx, q, in.LocationID, in.ItemID); err != nil {
		return c, err
	}
	if c.sheet.Since != in.Since {
		return c, refusal.New(refusal.MovedSince, "since",
			"Something of %s was put into %s or taken from it while it was counted. Count it again.", c.sheet.SKU, c.sheet.Bin).Of(refusal.Conflict)
	}
	found, kinds, err := c.read(ctx, q)
	if err != nil {
		return c, err
	}
	recorded := make([]counting.Holding, len(c.held))
	for i, h := range c.held {
		recorded[i] = counting.Holding{Key: key(h.LotID, h.CartonID), Quantity: h.Quantity}
		if h.Serials != nil {
			recorded[i].Serials = strings.Fields(*h.Serials)
		}
		kinds[recorded[i].Key] = h.Kind
	}
	c.kinds, c.differences = kinds, counting.Compare(recorded, found)
	for _, d := range c.differences {
		c.variance = c.variance.Add(d.Delta)
	}
	c.value = c.variance.Mul(c.sheet.Cost).Round(2)
	return c, nil
}

// plan settles what differs with lost and found. What is reserved cannot be counted away.
func (c *counted) plan(ctx context.Context, q sqlx.QueryerContext) (*ledger.Plan, error) {
	for _, h := range c.held {
		n := c.amounts[key(h.LotID, h.CartonID)]
		if n.LessThan(h.Reserved) {
			return nil, refusal.New(refusal.Reserved, "",
				"%s of %s in %s are reserved for %s, and %s were counted. Unreserve them first, or have it counted "+
					"again.", h.Reserved, c.sheet.SKU, c.sheet.Bin, h.Orders, n).
				Of(refusal.Conflict).With("reserved", h.Reserved).With("orders", h.Orders)
		}
	}
	moves, err := c.moves(ctx, q)
	if err != nil {
		return nil, err
	}
	plan, err := ledger.Describe(ctx, q, moves)
	if err != nil {
		return nil, err
	}
	plan.Warnings = append(plan.Warnings, fmt.Sprintf("%s, a value of %s.", c.words(), c.value.StringFixed(2)))
	plan.Button = fmt.Sprintf("Settle %s: %s of %s", c.sheet.Bin, c.found, c.sheet.SKU)
	return plan, nil
}

// words say by how much the count differs.
func (c *counted) words() string {
	switch {
	case c.variance.IsNegative():
		return fmt.Sprintf("%s of %s are missing in %s", c.variance.Neg(), c.sheet.SKU, c.sheet.Bin)
	case c.variance.IsZero():
		return fmt.Sprintf("Other lots or units of %s are in %s than there should be", c.sheet.SKU, c.sheet.Bin)
	}
	return fmt.Sprintf("%s more of %s are in %s than there should be", c.variance, c.sheet.SKU, c.sheet.Bin)
}

// read reads what was counted.
func (c *counted) read(
	ctx context.Context, q sqlx.QueryerContext,
) (found []counting.Holding, kinds map[string]Kind, err error) {
	in := c.in
	kinds = map[string]Kind{}
	for i, k := range in.Kinds {
		at := fmt.Sprintf("kinds[%d]", i)
		h := counting.Holding{Key: key(k.LotID, k.CartonID), Serials: k.Serials}
		if _, twice := kinds[h.Key]; twice {
			return nil, nil, refusal.New(refusal.KindTwice, at, "One kind stands twice. Count each once.")
		}
		kinds[h.Key] = Kind{LotID: k.LotID, CartonID: k.CartonID}
		if k.LotID != nil {
			var mine bool
			if err := sqlx.GetContext(ctx, q, &mine, `
				SELECT EXISTS (SELECT FROM lots WHERE id = $1 AND item_id = $2)`, *k.LotID, in.ItemID); err != nil {
				return nil, nil, fmt.Errorf("reading a lot: %w", err)
			}
			if !mine {
				return nil, nil, refusal.New(refusal.LotUnknown, at+".lot_id", "That is no lot of %s.", c.sheet.SKU)
			}
		}
		if c.sheet.Tracking == receiving.Serial {
			if k.Quantity != "" {
				return nil, nil, refusal.New(refusal.SerialsWanted, at+".quantity",
					"%s is known unit by unit. Scan the serial of each that is there.", c.sheet.SKU)
			}
			h.Quantity = decimal.NewFromInt(int64(len(k.Serials)))
		} else {
			if len(k.Serials) > 0 {
				return nil, nil, refusal.New(refusal.SerialUnwanted, at+".serials",
					"%s is not known unit by unit here. Leave the serials out.", c.sheet.SKU)
			}
			if k.Quantity == "" {
				return nil, nil, refusal.New(refusal.QuantityMissing, at+".quantity",
					"Write down how many there are; 0 when there is none.")
			}
			if h.Quantity, err = measure.ParseOrZero(at+".quantity", k.Quantity, measure.Unit{Name: c.sheet.Unit,
				Whole: c.sheet.Whole}); err != nil {
				return nil, nil, err
			}
		}
		c.found, c.amounts[h.Key] = c.found.Add(h.Quantity), h.Quantity
		found = append(found, h)
	}
	return found, kinds, nil
}

// moves settle differences: what is missing goes to lost and found, what is there besides
// comes from it.
func (c *counted) moves(ctx context.Context, q sqlx.QueryerContext) ([]ledger.Move, error) {
	lost, err := catalog.LostAndFound(ctx, q)
	if err != nil {
		return nil, err
	}
	var out []ledger.Move
	for _, d := range c.differences {
		k := c.kinds[d.Key]
		away := ledger.Move{Item: c.sheet.ItemID, Lot: k.LotID, From: c.sheet.LocationID, FromBox: k.CartonID, To: lost}
		back := ledger.Move{Item: c.sheet.ItemID, Lot: k.LotID, From: lost, To: c.sheet.LocationID, ToBox: k.CartonID}
		if c.sheet.Tracking != receiving.Serial {
			m := back
			if d.Delta.IsNegative() {
				m = away
			}
			m.Quantity = d.Delta.Abs()
			out = append(out, m)
			continue
		}
		units, err := serials.Find(ctx, q, c.sheet.ItemID, append(d.Missing, d.Extra...))
		if err != nil {
			return nil, err
		}
		for _, code := range d.Missing {
			out = append(out, unit(away, units[code]))
		}
		for _, code := range d.Extra {
			u, known := units[code]
			switch {
			case !known || u.Kind != "lost" && !u.Real:
				return nil, refusal.New(refusal.SerialNotOurs, "kinds",
					"Serial %s of %s is not in stock here. Set it aside, and receive it with its paper.", code, c.sheet.SKU).Of(refusal.Conflict)
			case u.Real:
				return nil, refusal.New(refusal.SerialElsewhere, "kinds",
					"Serial %s of %s should be %s. Move it here, so that its trail says so, and count again.", code, c.sheet.SKU, u.Where()).Of(refusal.Conflict).With("location", u.Location)
			}
			out = append(out, unit(back, u))
		}
	}
	return out, nil
}

func unit(m ledger.Move, u serials.Unit) ledger.Move {
	m.Serial, m.SerialCode, m.Quantity = &u.ID, u.Code, decimal.NewFromInt(1)
	return m
}
