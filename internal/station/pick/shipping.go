package pick

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/shipping"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// ShipRound is what a round would send from its last take on, order by order.
type ShipRound struct {
	*shipping.Plan
	Orders []Leaving `json:"orders"`
}

// Leaving is an order of a round that can be shipped, or why not: then its cartons go to the
// bench.
type Leaving struct {
	OrderID  int64           `json:"order_id"`
	Order    string          `json:"order"`
	Customer string          `json:"customer"`
	Cartons  int             `json:"cartons"`
	Units    decimal.Decimal `json:"units"`
	Why      string          `json:"why" doc:"Why it is not shipped; empty when it can be"`
}

// Departure says which orders of a round are shipped straight from it.
type Departure struct {
	OrderIDs  []int64 `json:"order_ids" minItems:"1" maxItems:"500" doc:"The orders whose cartons are shipped; others are brought to the bench at the bench"`
	LeaveRest bool    `json:"leave_rest,omitempty" doc:"Give back the stops that were not made"`
	shipping.Terms
}

// mayShip refuses somebody who may not send without the bench.
func mayShip(ctx context.Context, q sqlx.QueryerContext, site int32) error {
	p, err := people.Acting(ctx)
	if err != nil {
		return err
	}
	var s struct {
		Name     string
		Straight bool
	}
	if err := sqlx.GetContext(ctx, q, &s, `SELECT name, straight FROM sites WHERE id = $1`, site); err != nil {
		return fmt.Errorf("reading the site: %w", err)
	}
	if s.Straight {
		return nil
	}
	if leads, err := p.MayLead(); err != nil || leads {
		return err
	}
	return refusal.New(refusal.BenchFirst, "",
		"At %s what is picked goes over the bench. A lead may send it from here, or set the site up so.", s.Name).Of(refusal.Forbidden)
}

// requestOf is an order with its open cartons on a round that hold anything.
func (r Round) requestOf(order int64, terms shipping.Terms) shipping.Request {
	return shipping.Request{Order: order, Terms: terms, Cartons: func(ctx context.Context,
		q sqlx.QueryerContext) ([]cartons.Carton, error) {
		open, err := cartons.OfOrder(ctx, q, order, "open")
		return slices.DeleteFunc(open, func(c cartons.Carton) bool {
			return c.Round != r.Number ||
				len(c.Contents) == 0 && c.Restocks == 0
		}), err
	}}
}

// planShipping shows what would leave straight from a round, and what stays for the bench.
func planShipping(ctx context.Context, q sqlx.QueryerContext, id int64, terms shipping.Terms) (*ShipRound, error) {
	r, err := readRound(ctx, q, id)
	if err != nil {
		return nil, err
	}
	if err := mayShip(ctx, q, r.SiteID); err != nil {
		return nil, err
	}
	out := &ShipRound{Plan: shipping.NewPlan(), Orders: []Leaving{}}
	for _, o := range r.Orders {
		s := r.requestOf(o.ID, terms)
		of, err := s.Cartons(ctx, q)
		if err != nil {
			return nil, err
		}
		if len(of) == 0 {
			continue
		}
		leaves := Leaving{OrderID: o.ID, Order: o.Number, Customer: of[0].Customer, Cartons: len(of)}
		for _, c := range of {
			for _, x := range c.Contents {
				leaves.Units = leaves.Units.Add(x.Quantity)
			}
		}
		p, err := shipping.Preview(ctx, q, s)
		switch {
		case err == nil:
			out.Add(p)
		case refusal.From(err) == nil:
			return nil, err
		default:
			leaves.Why = refusal.From(err).Sentence
		}
		out.Orders = append(out.Orders, leaves)
	}
	return out, nil
}

// Ship ends a round by shipping the cartons of these orders from where they are; those of
// others go to the bench. When one can't be shipped, nothing is done.
func Ship(ctx context.Context, tx *command.Tx, id int64, in Departure) ([]shipping.Shipment, error) {
	r, err := readReplanning(ctx, tx, id, "shipped from it")
	if err != nil {
		return nil, err
	}
	if err := mayShip(ctx, tx, r.SiteID); err != nil {
		return nil, err
	}
	if err := leave(ctx, tx, r, in.LeaveRest); err != nil {
		return nil, err
	}
	out := []shipping.Shipment{}
	for _, order := range slices.Compact(slices.Sorted(slices.Values(in.OrderIDs))) {
		d, err := shipping.Ship(ctx, tx, r.requestOf(order, in.Terms))
		if x := refusal.From(err); x != nil && x.Code == refusal.NothingPacked {
			return nil, refusal.New(refusal.NothingTaken, "order_ids",
				"%s has no carton with goods for one of these orders. Look again.", r.Number).Of(refusal.Conflict)
		}
		if err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	// What was shipped is not the round's to bring to the bench any more.
	if r, err = readRound(ctx, tx, id); err != nil {
		return nil, err
	}
	if err := end(ctx, tx, r); err != nil {
		return nil, err
	}
	tx.NotifySite(r.SiteID, ledger.Topics(append(topics, "pack", "dispatch")...)...)
	return out, nil
}
