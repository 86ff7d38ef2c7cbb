package pack

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/papers"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// heaviest is what a carton may weigh, in kilograms, before the number is taken for
// a slip of the hand.
var heaviest = decimal.NewFromInt(1000)

func planClose(ctx context.Context, q sqlx.QueryerContext, id int64, in Closing) (closed, *ledger.Plan, error) {
	found, err := cartons.ByID(ctx, q, id)
	c := closed{Carton: found}
	if err != nil {
		return c, nil, err
	}
	if c.State != states.CartonAtBench {
		return c, nil, refusal.New(refusal.CartonState, "",
			"Carton …%s is %s, not at the bench. Only a carton at the bench can be closed.", c.SSCC[14:], states.Label(c.State)).Of(refusal.Conflict)
	}
	if err := c.NothingToRestock(); err != nil {
		return c, nil, err
	}
	if c, err = sized(ctx, q, c, in.Size); err != nil {
		return c, nil, err
	}
	s, err := readSettings(ctx, q, c.SiteID)
	if err != nil {
		return c, nil, err
	}
	if (s.BenchCheck || c.VarianceKg != nil) && !c.Whole() {
		return c, nil, refusal.New(refusal.NotChecked, "",
			"What is in carton …%s is not looked through yet: %s. Scan each thing.", c.SSCC[14:], unchecked(c)).Of(refusal.Conflict)
	}
	weight, err := c.weighed(in.WeightKg)
	if err != nil {
		return c, nil, err
	}
	c.WeightKg = &weight
	if err := withinSize(ctx, q, c, weight); err != nil {
		return c, nil, err
	}
	if off := weight.Sub(c.Expected); off.Abs().GreaterThan(s.allowance(c.Expected)) {
		question := refusal.New(refusal.WeightDiffers, "weight_kg",
			"Carton …%s weighs %s kg and is expected at %s kg: a difference of %s kg, and %s kg is allowed. It "+
				"was looked through; a lead may let it pass and says why.",
			c.SSCC[14:], weight, c.Expected, off, s.allowance(c.Expected)).Of(refusal.Conflict).With("variance", off)
		if c.VarianceKg == nil {
			plan := c.opensAgain(off, s.allowance(c.Expected))
			return c, plan, nil
		}
		if err := people.Decide(ctx, "weight", strings.TrimSpace(in.Reason), question); err != nil {
			return c, nil, err
		}
	}
	staging, err := catalog.OneLocation(ctx, q, c.SiteID, "staging")
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
		ledger.Change{What: "Weight", Before: c.Expected.String() + " kg calculated", After: weight.String() + " kg"})
	plan.Button = fmt.Sprintf("Close carton …%s, to %s", c.SSCC[14:], staging.Code)
	return c, plan, nil
}

// weighed is what a carton weighs, in kilograms: as the scale says, or as calculated without.
func (c closed) weighed(said string) (decimal.Decimal, error) {
	if said == "" {
		return c.Expected, nil
	}
	weight, err := measure.Parse("weight_kg", said, measure.Unit{Name: "kg"})
	if err == nil && weight.GreaterThan(heaviest) {
		err = refusal.New(refusal.WeightAbsurd, "weight_kg",
			"%s kg is more than a carton can weigh (%s kg). Check the number.", weight, heaviest)
	}
	return weight, err
}

// Close closes a carton at the bench and sets it down for dispatch.
func Close(ctx context.Context, tx *command.Tx, id int64, in Closing) (cartons.Carton, error) {
	if err := hold(ctx, tx, id); err != nil {
		return cartons.Carton{}, err
	}
	c, plan, err := planClose(ctx, tx, id, in)
	if err != nil {
		return c.Carton, err
	}
	if c.off != nil {
		return again(ctx, tx, c)
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Pack, Document: c.Order,
		Note: strings.TrimSuffix("carton "+c.SSCC+", "+strings.TrimSpace(in.Reason),
			", ")}, plan.MoveList()); err != nil {
		return c.Carton, err
	}
	err = documents.Step(ctx, tx, states.Cartons, []int64{id}, states.CartonPacked,
		"weight_kg = $4, changed_at = $5, size_code = $6, variance_kg = NULL", c.WeightKg, tx.Now, c.Size)
	if err != nil {
		return c.Carton, err
	}
	tx.NotifySite(c.SiteID, ledger.Topics("pack", "dispatch", "row")...)
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
		return "", nil, refusal.New(refusal.CartonBlank, "", "Carton …%s is blank and has no packing slip.",
			c.SSCC[14:]).Of(refusal.Conflict)
	}
	from, err := siteName(ctx, q, c.SiteID)
	if err != nil {
		return "", nil, err
	}
	var order struct{ Reference, Address string }
	if err := sqlx.GetContext(ctx, q, &order, `
		SELECT o.reference, o.address FROM outbound o WHERE o.id = $1`, *c.OrderID); err != nil {
		return "", nil, fmt.Errorf("reading an order: %w", err)
	}
	pdf, err := papers.Note{
		Title: "Packing slip", Number: "", Order: "Order " +
			c.Order, Reference: order.Reference, Date: time.Now().UTC().Format(time.DateOnly),
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
