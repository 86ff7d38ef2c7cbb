package transfers

import (
	"context"
	"fmt"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A stray is a unit that came though it was never sent, where it stands by the books.
type stray struct {
	serials.Unit
	LotID     *int64            `db:"lot_id"`
	Condition posting.Condition `db:"condition"`
	SiteID    int32             `db:"site_id"`
}

// strayUnits reads where the units that came besides stand by the books: on a shelf of another site, or lost. Units that
// are anywhere else did not come besides; they are refused, each with where it is.
func (c Case) strayUnits(ctx context.Context, q sqlx.QueryerContext) (map[string]stray, error) {
	units, err := serials.Find(ctx, q, c.ItemID, c.Serials)
	if err != nil {
		return nil, err
	}
	out := map[string]stray{}
	for _, code := range c.Serials {
		u, known := units[code]
		if !known || u.LocationID == 0 {
			return nil, refusal.New(refusal.SerialNotOurs, "serials",
				"Serial %s of %s was never in our books. Read its label again; if it says the same, receive it with its paper.", code,
				c.SKU).Of(refusal.Conflict)
		}
		s := stray{Unit: u}
		if err := sqlx.GetContext(ctx, q, &s.SiteID, `SELECT coalesce(site_id, 0) FROM locations WHERE id = $1`, u.LocationID); err != nil {
			return nil, fmt.Errorf("reading the site of a unit: %w", err)
		}
		if err := c.mayStray(s); err != nil {
			return nil, err
		}
		if out[code], err = s.standing(ctx, q); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// mayStray refuses a unit that the books have where it can have strayed from by no mistake in sending.
func (c Case) mayStray(s stray) error {
	switch {
	case s.Kind == "customer":
		return refusal.New(refusal.SerialElsewhere, "serials",
			"Serial %s of %s is %s by our books. What customers send back is taken at Returns.", s.Code, c.SKU, s.Where()).Of(refusal.Conflict)
	case s.Kind == "transit":
		return refusal.New(refusal.SerialElsewhere, "serials",
			"Serial %s of %s is in transit already: it was sent. Receive it on the transfer that it is on.", s.Code, c.SKU).Of(refusal.Conflict)
	case s.SiteID == c.ToSite:
		return refusal.New(refusal.SerialInStock, "serials",
			"Serial %s of %s is here already, %s. Read its label again.", s.Code, c.SKU, s.Where()).Of(refusal.Conflict)
	case s.SiteID == 0 && s.Kind != "lost":
		return refusal.New(refusal.SerialElsewhere, "serials", "Serial %s of %s is %s by our books. Receive it with its paper.", s.Code,
			c.SKU, s.Where()).Of(refusal.Conflict)
	}
	return nil
}

// standing adds in what lot and condition a unit stands.
func (s stray) standing(ctx context.Context, q sqlx.QueryerContext) (stray, error) {
	s.Condition = posting.Good
	if s.Kind == "lost" {
		return s, nil
	}
	err := sqlx.GetContext(ctx, q, &s, `
		SELECT lot_id, condition FROM balances WHERE serial_id = $1 AND quantity > 0`, s.ID)
	if err != nil {
		return s, fmt.Errorf("reading how a unit stands: %w", err)
	}
	return s, nil
}

// fetched are the moves of units that came besides, from where they stand by the books to the dock here. One that is
// reserved at the other site is refused by the ledger, with the order.
func (c Case) fetched(ctx context.Context, q sqlx.QueryerContext, dock int32) ([]ledger.Move, error) {
	units, err := c.strayUnits(ctx, q)
	if err != nil {
		return nil, err
	}
	moves := make([]ledger.Move, len(c.Serials))
	for i, code := range c.Serials {
		u := units[code]
		moves[i] = ledger.Move{Item: c.ItemID, Lot: u.LotID, Serial: &u.ID, SerialCode: code, Quantity: decimal.NewFromInt(1),
			From: u.LocationID, FromBox: u.CartonID, FromState: u.Condition, To: dock, ToState: u.Condition}
		if u.Kind == "lost" {
			moves[i].Cost = &c.UnitCost
		}
	}
	return moves, nil
}
