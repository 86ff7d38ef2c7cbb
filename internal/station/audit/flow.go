package audit

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/counting"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// counted is a plan and what its posting needs.
type counted struct {
	*ledger.Plan
	sheet Sheet
	// found and variance are in base units, value is what the difference is at cost.
	found, variance, value decimal.Decimal
	reason                 string
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

// plan compares a count with what should be there, and settles what differs with lost and
// found. What is reserved can't be counted away, and a difference is a lead's to accept.
func plan(ctx context.Context, q sqlx.QueryerContext, in Count) (counted, error) {
	c := counted{reason: strings.TrimSpace(in.Reason)}
	sheet, held, err := readSheet(ctx, q, in.LocationID, in.ItemID)
	if c.sheet = sheet; err != nil {
		return c, err
	}
	if c.sheet.Since != in.Since {
		return c, refusal.New(refusal.MovedSince, "since",
			"Something of %s was put into %s or taken from it while it was counted. Count it again.", c.sheet.SKU, c.sheet.Bin).Of(refusal.Conflict)
	}
	found, kinds, err := c.read(ctx, q, in)
	if err != nil {
		return c, err
	}
	recorded := make([]counting.Holding, len(held))
	for i, h := range held {
		recorded[i] = counting.Holding{Key: key(h.LotID, h.CartonID), Quantity: h.Quantity}
		if h.Serials != nil {
			recorded[i].Serials = strings.Fields(*h.Serials)
		}
		kinds[recorded[i].Key] = h.Kind
	}
	for i, h := range held {
		n, at := decimal.Zero, "kinds"
		if k := slices.IndexFunc(found, func(f counting.Holding) bool { return f.Key == recorded[i].Key }); k >= 0 {
			n, at = found[k].Quantity, fmt.Sprintf("kinds[%d].quantity", k)
		}
		if n.LessThan(h.Reserved) {
			return c, refusal.New(refusal.Reserved, at,
				"%s of %s in %s are reserved for %s, and %s were counted. Give back a reservation first, or count "+
					"again.", h.Reserved, c.sheet.SKU, c.sheet.Bin, h.Orders, n).
				Of(refusal.Conflict).With("reserved", h.Reserved).With("orders", h.Orders)
		}
	}
	moves, err := c.moves(ctx, q, counting.Compare(recorded, found), kinds)
	if err != nil {
		return c, err
	}
	if err := c.accept(ctx, q, len(moves) > 0); err != nil {
		return c, err
	}
	if c.Plan, err = ledger.Describe(ctx, q, moves); err != nil {
		return c, err
	}
	if len(moves) == 0 {
		c.Notes = append(c.Notes, fmt.Sprintf("All is as it should be: %s of %s in %s.", c.found, c.sheet.SKU,
			c.sheet.Bin))
		c.Button = fmt.Sprintf("Settle %s as it is", c.sheet.Bin)
		return c, nil
	}
	c.Warnings = append(c.Warnings, fmt.Sprintf("The difference has a value of %s.", c.value.StringFixed(2)))
	c.Button = fmt.Sprintf("Settle %s: %s of %s", c.sheet.Bin, c.found, c.sheet.SKU)
	return c, nil
}

// read reads what was counted.
func (c *counted) read(
	ctx context.Context, q sqlx.QueryerContext, in Count,
) (found []counting.Holding, kinds map[string]Kind, err error) {
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
		c.found = c.found.Add(h.Quantity)
		found = append(found, h)
	}
	return found, kinds, nil
}

// moves settle differences: what is missing goes to lost and found, what is there besides
// comes from it.
func (c *counted) moves(
	ctx context.Context, q sqlx.QueryerContext, differences []counting.Difference, kinds map[string]Kind,
) ([]ledger.Move, error) {
	if len(differences) == 0 {
		return nil, nil
	}
	var lost int32
	if err := sqlx.GetContext(ctx, q, &lost, `
		SELECT id FROM locations WHERE kind = 'lost' ORDER BY id LIMIT 1`); err != nil {
		return nil, fmt.Errorf("finding lost and found: %w", err)
	}
	var out []ledger.Move
	for _, d := range differences {
		k := kinds[d.Key]
		away := ledger.Move{Item: c.sheet.ItemID, Lot: k.LotID, From: c.sheet.LocationID, FromBox: k.CartonID, To: lost}
		back := ledger.Move{Item: c.sheet.ItemID, Lot: k.LotID, From: lost, To: c.sheet.LocationID, ToBox: k.CartonID}
		c.variance = c.variance.Add(d.Delta)
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

// accept asks a lead for the reason of a difference.
func (c *counted) accept(ctx context.Context, q sqlx.QueryerContext, differs bool) error {
	if !differs {
		return nil
	}
	item, err := catalog.ItemByID(ctx, q, c.sheet.ItemID)
	if err != nil {
		return err
	}
	c.value = c.variance.Mul(item.Cost).Round(2)
	words := fmt.Sprintf("%s more of %s are in %s than there should be", c.variance, c.sheet.SKU, c.sheet.Bin)
	switch {
	case c.variance.IsNegative():
		words = fmt.Sprintf("%s of %s are missing in %s", c.variance.Neg(), c.sheet.SKU, c.sheet.Bin)
	case c.variance.IsZero():
		words = fmt.Sprintf("Other lots or units of %s are in %s than there should be", c.sheet.SKU, c.sheet.Bin)
	}
	return people.Decide(ctx, "count", c.reason, refusal.New(refusal.CountDiffers, "reason",
		"%s, a value of %s. Count again; if it stays so, a lead accepts it and says why.", words, c.value.StringFixed(2)).
		Of(refusal.Conflict).With("variance", c.variance).With("value", c.value))
}

// Post writes a count down: what differs is settled, and the bin is to be counted no more.
func Post(ctx context.Context, tx *command.Tx, in Count) (Done, error) {
	if err := ledger.LockBins(ctx, tx, []int32{in.LocationID}); err != nil {
		return Done{}, err
	}
	c, err := plan(ctx, tx, in)
	if err != nil {
		return Done{}, err
	}
	var number string
	err = tx.GetContext(ctx, &number, `
		INSERT INTO counts (site_id, location_id, item_id, found, variance, value, reason, counted_by, counted_at)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9) RETURNING number`,
		c.sheet.SiteID, in.LocationID, in.ItemID, c.found, c.variance, c.value, c.reason, tx.Person.ID, tx.Now)
	if err != nil {
		return Done{}, fmt.Errorf("writing a count: %w", err)
	}
	if moves := c.MoveList(); len(moves) > 0 {
		if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Count, Document: number, Note: c.reason},
			moves); err != nil {
			return Done{}, err
		}
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE count_requests SET settled_at = $3 WHERE location_id = $1 AND item_id = $2 AND state = 'requested'`,
		in.LocationID, in.ItemID, tx.Now); err != nil {
		return Done{}, fmt.Errorf("settling a count request: %w", err)
	}
	tx.NotifySite(c.sheet.SiteID, ledger.Topics("audit", "pick", "orders", "row")...)
	return Done{fmt.Sprintf("%s: %s of %s are in %s.", number, c.found, c.sheet.SKU, c.sheet.Bin)}, nil
}
