package transfers

import (
	"context"
	"fmt"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// CartonMove moves a carton or pallet in stock as it is, with all that stands on it.
type CartonMove struct {
	CartonID int64  `json:"carton_id"`
	To       string `json:"to" maxLength:"60" doc:"The code of the location that it goes to"`
	Note     string `json:"note,omitempty" maxLength:"200"`
}

// planCarton checks that the destination takes all that stands on it.
func planCarton(ctx context.Context, q sqlx.QueryerContext, in CartonMove) (*emptied, cartons.Pallet, error) {
	p, err := cartons.PalletByID(ctx, q, in.CartonID)
	if err != nil {
		return nil, p, err
	}
	for _, h := range p.Holds {
		if h.Condition != posting.Good {
			return nil, p, refusal.New(refusal.NotFreeYet, "carton_id",
				"%s of %s on %s are %s. It stays where it is until that is settled.", h.Quantity, h.SKU, p.Words(), h.Condition).
				Of(refusal.Conflict)
		}
	}
	e, err := planAll(ctx, q, Emptying{FromID: p.LocationID, To: in.To}, "carton_id", &p.ID)
	return e, p, err
}

func previewCarton(ctx context.Context, q sqlx.QueryerContext, in CartonMove) (*ledger.Plan, error) {
	e, p, err := planCarton(ctx, q, in)
	if err != nil {
		return nil, err
	}
	return e.describe(ctx, q, fmt.Sprintf("Move %s to %s", p.Words(), e.facts.To))
}

// MoveCarton moves a carton or pallet to another location of its site.
func MoveCarton(ctx context.Context, tx *command.Tx, in CartonMove) (Done, error) {
	p, err := cartons.PalletByID(ctx, tx, in.CartonID)
	if err != nil {
		return Done{}, err
	}
	if err := (Emptying{FromID: p.LocationID, To: in.To}).lock(ctx, tx); err != nil {
		return Done{}, err
	}
	e, p, err := planCarton(ctx, tx, in)
	if err != nil {
		return Done{}, err
	}
	return e.post(ctx, tx, in.Note, fmt.Sprintf("Moved %s from %s to %s", p.Words(), e.facts.From, e.facts.To))
}
