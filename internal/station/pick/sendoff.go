package pick

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/deliveries"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// SendOff is what a round would send from its last take on, order by order.
type SendOff struct {
	*deliveries.Plan
	Orders []Leaving `json:"orders"`
}

// Leaving is an order of a round that can be sent, or why not: then its cartons go to the
// bench.
type Leaving struct {
	OrderID  int64           `json:"order_id"`
	Order    string          `json:"order"`
	Customer string          `json:"customer"`
	Cartons  int             `json:"cartons"`
	Units    decimal.Decimal `json:"units"`
	Why      string          `json:"why" doc:"Why it is not sent; empty when it can be"`
}

// Departure says which orders of a round are sent straight from it.
type Departure struct {
	OrderIDs  []int64 `json:"order_ids" minItems:"1" maxItems:"500" doc:"The orders whose cartons are sent; others are set down at the bench"`
	LeaveRest bool    `json:"leave_rest,omitempty" doc:"Let go of the stops that were not made"`
	deliveries.Terms
}

// maySend refuses somebody who may not send without the bench.
func maySend(ctx context.Context, q sqlx.QueryerContext, site int32) error {
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
	return refusal.New("bench_first", "", "At %s what is picked goes over the bench. A lead may send it from here, or set the site up so.", s.Name).Of(refusal.Forbidden)
}

// sendingOf is an order with its open cartons on a round that hold anything.
func (r Round) sendingOf(order int64, terms deliveries.Terms) deliveries.Sending {
	return deliveries.Sending{Order: order, Terms: terms, Cartons: func(ctx context.Context, q sqlx.QueryerContext) ([]cartons.Carton, error) {
		open, err := cartons.OfOrder(ctx, q, order, "open")
		return slices.DeleteFunc(open, func(c cartons.Carton) bool { return c.Round != r.Number || len(c.Contents) == 0 && c.PutBacks == 0 }), err
	}}
}

// planSendOff shows what would leave straight from a round, and what stays for the bench.
func planSendOff(ctx context.Context, q sqlx.QueryerContext, id int64, terms deliveries.Terms) (*SendOff, error) {
	r, err := readRound(ctx, q, id)
	if err != nil {
		return nil, err
	}
	if err := maySend(ctx, q, r.SiteID); err != nil {
		return nil, err
	}
	out := &SendOff{Plan: deliveries.NewPlan(), Orders: []Leaving{}}
	for _, o := range r.Orders {
		s := r.sendingOf(o.ID, terms)
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
		p, err := deliveries.Preview(ctx, q, s)
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

// Off ends a round by sending the cartons of these orders from where they are; those of
// others go to the bench. When one can't be sent, nothing is done.
func Off(ctx context.Context, tx *command.Tx, id int64, in Departure) ([]deliveries.Delivery, error) {
	r, err := readReplanning(ctx, tx, id, "sent from it")
	if err != nil {
		return nil, err
	}
	if err := maySend(ctx, tx, r.SiteID); err != nil {
		return nil, err
	}
	if err := leave(ctx, tx, r, in.LeaveRest); err != nil {
		return nil, err
	}
	out := []deliveries.Delivery{}
	for _, order := range slices.Compact(slices.Sorted(slices.Values(in.OrderIDs))) {
		d, err := deliveries.Send(ctx, tx, r.sendingOf(order, in.Terms))
		if x := refusal.From(err); x != nil && x.Code == "nothing_packed" {
			return nil, refusal.New("nothing_taken", "order_ids", "%s has no carton with goods for one of these orders. Look again.", r.Number).Of(refusal.Conflict)
		}
		if err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	// What was sent is not the round's to set down any more.
	if r, err = readRound(ctx, tx, id); err != nil {
		return nil, err
	}
	if err := end(ctx, tx, r); err != nil {
		return nil, err
	}
	tx.Touch(ledger.Topics(append(topics, "pack", "dispatch")...)...)
	return out, nil
}
