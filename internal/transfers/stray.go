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

// A stray is a unit that came though it was never sent, where and how it stands by the books.
type stray struct {
	serials.Unit
	lot       *int64
	condition posting.Condition
}

// strayUnits reads where the units that came besides stand by the books: on a shelf of another site, or lost. Units
// that are anywhere else did not come besides; they are refused, each with where it is.
func (c Case) strayUnits(ctx context.Context, q sqlx.QueryerContext) (map[string]stray, error) {
	units, err := serials.Find(ctx, q, c.ItemID, c.Serials)
	if err != nil {
		return nil, err
	}
	for _, code := range c.Serials {
		if u, known := units[code]; !known || u.LocationID == 0 {
			return nil, refusal.New(refusal.SerialNotOurs, "serials",
				"Serial %s of %s was never in our books. Read its label again; if it says the same, receive it with its paper.", code,
				c.SKU).Of(refusal.Conflict)
		}
		if err := c.mayStray(units[code]); err != nil {
			return nil, err
		}
	}
	return standing(ctx, q, units)
}

// mayStray refuses a unit that the books have where it can have strayed from by no mistake in sending.
func (c Case) mayStray(s serials.Unit) error {
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

// standing adds in what lot and condition units stand; those that are lost stand in none.
func standing(ctx context.Context, q sqlx.QueryerContext, units map[string]serials.Unit) (map[string]stray, error) {
	out, ids := map[string]stray{}, make([]int64, 0, len(units))
	for code, u := range units {
		out[code], ids = stray{Unit: u, condition: posting.Good}, append(ids, u.ID)
	}
	var rows []struct {
		Code      string
		LotID     *int64 `db:"lot_id"`
		Condition posting.Condition
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT u.code, b.lot_id, b.condition FROM balances b JOIN serials u ON u.id = b.serial_id
		 WHERE b.serial_id = ANY($1) AND b.quantity > 0`, ids); err != nil {
		return nil, fmt.Errorf("reading how units stand: %w", err)
	}
	for _, r := range rows {
		out[r.Code] = stray{Unit: units[r.Code], lot: r.LotID, condition: r.Condition}
	}
	return out, nil
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
		moves[i] = ledger.Move{Item: c.ItemID, Lot: u.lot, Serial: &u.ID, SerialCode: code, Quantity: decimal.NewFromInt(1),
			From: u.LocationID, FromBox: u.CartonID, FromState: u.condition, To: dock, ToState: u.condition}
		if u.Kind == "lost" {
			moves[i].Cost = &c.UnitCost
		}
	}
	return moves, nil
}
