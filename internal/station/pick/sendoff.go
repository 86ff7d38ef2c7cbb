package pick

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
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
	if err != nil || p.Role == "lead" {
		return err
	}
	var s struct {
		Name     string
		Straight bool
	}
	if err := sqlx.GetContext(ctx, q, &s, `SELECT name, straight FROM sites WHERE id = $1`, site); err != nil {
		return fmt.Errorf("reading the site: %w", err)
	}
	if !s.Straight {
		return refusal.New("bench_first", "", "At %s what is picked goes over the bench. A lead may send it from here, or set the site up so.", s.Name).Of(refusal.Forbidden)
	}
	return nil
}

// filled are the open cartons of a round with something in them, by order.
func (r Round) filled(ctx context.Context, q sqlx.QueryerContext) (map[int64][]cartons.Carton, error) {
	out := map[int64][]cartons.Carton{}
	for _, c := range r.Cartons {
		if c.State != "open" || c.OrderID == nil {
			continue
		}
		full, err := cartons.ByID(ctx, q, c.ID)
		if err != nil {
			return nil, err
		}
		if len(full.Contents) > 0 || full.PutBacks > 0 {
			out[*c.OrderID] = append(out[*c.OrderID], full)
		}
	}
	return out, nil
}

// ready refuses cartons that hold what their order does not want any more.
func ready(of []cartons.Carton) error {
	for _, c := range of {
		if c.PutBacks > 0 {
			return refusal.New("put_back_first", "", "%d kinds of goods in carton …%s are not wanted any more. Put them back first.", c.PutBacks, c.SSCC[14:]).Of(refusal.Conflict)
		}
	}
	return nil
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
	filled, err := r.filled(ctx, q)
	if err != nil {
		return nil, err
	}
	out := &SendOff{Plan: deliveries.NewPlan(), Orders: []Leaving{}}
	for _, o := range r.Orders {
		of := filled[o.ID]
		if len(of) == 0 {
			continue
		}
		leaves := Leaving{OrderID: o.ID, Order: o.Number, Customer: of[0].Customer, Cartons: len(of)}
		for _, c := range of {
			for _, x := range c.Contents {
				leaves.Units = leaves.Units.Add(x.Quantity)
			}
		}
		var p *deliveries.Plan
		err := ready(of)
		if err == nil {
			p, err = deliveries.Look(ctx, q, deliveries.Sending{Order: o.ID, Cartons: of, Terms: terms})
		}
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
	r, err := readWalking(ctx, tx, id, "sent from it")
	if err != nil {
		return nil, err
	}
	if err := maySend(ctx, tx, r.SiteID); err != nil {
		return nil, err
	}
	if err := deliveries.MayBill(tx.Person.Role, in.Terms); err != nil {
		return nil, err
	}
	if err := leave(ctx, tx, r, in.LeaveRest); err != nil {
		return nil, err
	}
	filled, err := r.filled(ctx, tx)
	if err != nil {
		return nil, err
	}
	out := []deliveries.Delivery{}
	for _, order := range slices.Compact(slices.Sorted(slices.Values(in.OrderIDs))) {
		of := filled[order]
		if len(of) == 0 {
			return nil, refusal.New("nothing_taken", "order_ids", "%s has no carton with goods for one of these orders. Look again.", r.Number).Of(refusal.Conflict)
		}
		if err := ready(of); err != nil {
			return nil, err
		}
		d, err := deliveries.Send(ctx, tx, deliveries.Sending{Order: order, Cartons: of, Terms: in.Terms})
		if err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	// What was sent is not the round's to set down any more.
	if r, err = readRound(ctx, tx, id); err != nil {
		return nil, err
	}
	bench, err := catalog.OnePlace(ctx, tx, r.SiteID, "bench")
	if err != nil {
		return nil, err
	}
	if err := end(ctx, tx, r, bench.ID); err != nil {
		return nil, err
	}
	tx.Touch(ledger.Topics(append(topics, "pack", "dispatch")...)...)
	return out, nil
}
