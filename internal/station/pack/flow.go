package pack

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// heaviest is what a carton may weigh, in kilograms, before the number is taken for
// a slip of the hand.
var heaviest = decimal.NewFromInt(1000)

func planClose(ctx context.Context, q sqlx.QueryerContext, id int64, in Closing) (cartons.Carton, *ledger.Plan, error) {
	c, err := cartons.ByID(ctx, q, id)
	if err != nil {
		return c, nil, err
	}
	if c.State != "at bench" {
		return c, nil, refusal.New("carton_state", "", "Carton …%s is %s, not at the bench. Only a carton at the bench can be closed.", c.SSCC[14:], c.State).Of(refusal.Conflict)
	}
	weight := c.Reckoned
	if in.WeightKg != "" {
		if weight, err = measure.Parse("weight_kg", in.WeightKg, measure.Unit{Name: "kg"}); err != nil {
			return c, nil, err
		}
		if weight.GreaterThan(heaviest) {
			return c, nil, refusal.New("weight_absurd", "weight_kg", "%s kg is more than a carton can weigh (%s kg). Check the number.", weight, heaviest)
		}
	}
	c.WeightKg = &weight
	staging, err := catalog.OnePlace(ctx, q, c.SiteID, "staging")
	if err != nil {
		return c, nil, err
	}
	moves, err := c.Moves(ctx, q, staging.ID)
	if err != nil {
		return c, nil, err
	}
	plan, err := ledger.Describe(ctx, q, moves)
	if err != nil {
		return c, nil, err
	}
	plan.Changes = append(plan.Changes,
		ledger.Change{What: "Carton …" + c.SSCC[14:], Before: "at the bench", After: "packed"},
		ledger.Change{What: "Weight", Before: c.Reckoned.String() + " kg reckoned", After: weight.String() + " kg"})
	plan.Button = fmt.Sprintf("Close carton …%s, to %s", c.SSCC[14:], staging.Code)
	return c, plan, nil
}

// Close closes a carton at the bench and sets it down for dispatch.
func Close(ctx context.Context, tx *command.Tx, id int64, in Closing) (cartons.Carton, error) {
	if _, err := tx.ExecContext(ctx, `SELECT FROM carton_work WHERE carton_id = $1 FOR UPDATE`, id); err != nil {
		return cartons.Carton{}, fmt.Errorf("locking a carton: %w", err)
	}
	c, plan, err := planClose(ctx, tx, id, in)
	if err != nil {
		return c, err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: "pack", Document: c.Order, Note: "carton " + c.SSCC}, plan.MoveList()); err != nil {
		return c, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE carton_work SET state = 'packed', weight_kg = $2, changed_at = $3 WHERE carton_id = $1`, id, c.WeightKg, tx.Now); err != nil {
		return c, fmt.Errorf("closing a carton: %w", err)
	}
	tx.Touch(ledger.Topics("pack", "dispatch", "row")...)
	return cartons.ByID(ctx, tx, id)
}

func label(ctx context.Context, q sqlx.QueryerContext, id int64) (string, []byte, error) {
	c, err := cartons.ByID(ctx, q, id)
	if err != nil {
		return "", nil, err
	}
	from, err := siteName(ctx, q, c.SiteID)
	if err != nil {
		return "", nil, err
	}
	pdf, err := papers.CartonLabels([]papers.CartonLabel{c.Label(from)})
	return "label-" + c.SSCC, pdf, err
}

func slip(ctx context.Context, q sqlx.QueryerContext, id int64) (string, []byte, error) {
	c, err := cartons.ByID(ctx, q, id)
	if err != nil {
		return "", nil, err
	}
	if c.OrderID == nil {
		return "", nil, refusal.New("carton_blank", "", "Carton …%s is blank and has no packing slip.", c.SSCC[14:]).Of(refusal.Conflict)
	}
	from, err := siteName(ctx, q, c.SiteID)
	if err != nil {
		return "", nil, err
	}
	var order struct{ Reference, Address string }
	if err := sqlx.GetContext(ctx, q, &order, `SELECT o.reference, p.address FROM sales_orders o JOIN parties p ON p.id = o.customer_id WHERE o.id = $1`, *c.OrderID); err != nil {
		return "", nil, fmt.Errorf("reading an order: %w", err)
	}
	pdf, err := papers.Note{
		Title: "Packing slip", Number: "", Order: "Order " + c.Order, Reference: order.Reference, Date: time.Now().UTC().Format(time.DateOnly),
		From: from, To: c.Customer, Address: order.Address, Carrier: c.Carrier, Groups: []papers.Group{c.Group()},
	}.Print()
	return "slip-" + c.SSCC, pdf, err
}

func siteName(ctx context.Context, q sqlx.QueryerContext, site int32) (string, error) {
	var name string
	if err := sqlx.GetContext(ctx, q, &name, `SELECT name FROM sites WHERE id = $1`, site); err != nil {
		return "", fmt.Errorf("reading the site: %w", err)
	}
	return name, nil
}
