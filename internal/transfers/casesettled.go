package transfers

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Settling says how a case ends: a case.
type Settling struct {
	Outcome Outcome `json:"outcome" enum:"received,back,lost,carrier"`
	Reason  string  `json:"reason,omitempty" maxLength:"200"`
}

// planCase says what settling a case moves, and refuses what cannot be.
func planCase(ctx context.Context, q sqlx.QueryerContext, id int64, in Settling) (*ledger.Plan, Case, error) {
	c, err := readCase(ctx, q, id)
	if err != nil {
		return nil, c, err
	}
	if err := c.maySettle(ctx, in); err != nil {
		return nil, c, err
	}
	moves, err := c.moves(ctx, q, in.Outcome)
	// What was found may have been received as any goods of the transfer.
	if r := refusal.From(err); r != nil && r.Code == refusal.NotInTransit && c.Kind == Less && in.Outcome == TakenIn {
		moves, err = nil, nil
	}
	if err != nil {
		return nil, c, err
	}
	plan, err := ledger.Describe(ctx, q, moves)
	if err != nil {
		return nil, c, err
	}
	switch {
	case in.Outcome == Lost || in.Outcome == Carrier:
		plan.Warnings = append(plan.Warnings, fmt.Sprintf("%s of %s worth %s go off the books.", c.Quantity, c.SKU, c.worth().StringFixed(2)))
	case len(moves) == 0 && c.Kind == Less:
		plan.Notes = append(plan.Notes, "Nothing moves: they were received meanwhile.")
	case len(moves) == 0:
		plan.Notes = append(plan.Notes, fmt.Sprintf("Nothing moves: by the books of %s they never left it.", c.From))
	}
	plan.Button = fmt.Sprintf("Settle %s: %s", c.Number, outcomes[in.Outcome])
	return plan, c, nil
}

// worth is what the goods went out at.
func (c Case) worth() decimal.Decimal { return c.Quantity.Mul(c.UnitCost).Round(2) }

// outcomes are the words for how a case ends.
var outcomes = map[Outcome]string{TakenIn: "taken in here", Back: "back at the first site", Lost: "lost on the way",
	Carrier: "the carrier's"}

// maySettle refuses a second settling, and what only a lead may, or nobody without a reason.
func (c Case) maySettle(ctx context.Context, in Settling) error {
	if c.SettledAt != nil {
		return refusal.New(refusal.CaseSettled, "", "%s was settled already by %s: %s.", c.Number, c.SettledBy,
			outcomes[c.Outcome]).Of(refusal.Conflict)
	}
	if in.Outcome != Lost && in.Outcome != Carrier {
		return nil
	}
	if c.Kind == More {
		return refusal.New(refusal.BadOutcome, "outcome", "%s is about goods that are here. They are taken in, or go back.", c.Number)
	}
	if people.SaysTooLittle(strings.TrimSpace(in.Reason)) {
		return refusal.New(refusal.ReasonMissing, "reason",
			"Write in a few words how you know; it stands in the trail beside the value that goes off the books.")
	}
	p, err := people.Acting(ctx)
	if err != nil {
		return err
	}
	if leads, err := p.MayLead(); err != nil || leads {
		return err
	}
	return refusal.New(refusal.LeadDecides, "outcome", "A lead decides that goods are lost, since their value goes off the books.").
		Of(refusal.Forbidden)
}

// moves are what settling moves.
func (c Case) moves(ctx context.Context, q sqlx.QueryerContext, how Outcome) ([]ledger.Move, error) {
	lost, err := catalog.LostAndFound(ctx, q)
	if err != nil {
		return nil, err
	}
	dock, err := catalog.OneLocation(ctx, q, c.ToSite, "dock")
	if err != nil {
		return nil, err
	}
	found := ledger.Move{Item: c.ItemID, Lot: c.CameLotID, Quantity: c.Quantity, From: lost, To: dock.ID, Cost: &c.UnitCost}
	switch {
	case c.Kind == More && how == Back:
		return nil, nil
	case c.Kind == More && c.Tracking == receiving.Serial:
		return c.fetched(ctx, q, dock.ID)
	case c.Kind == More:
		return []ledger.Move{found}, nil
	case how == Back:
		first, err := catalog.OneLocation(ctx, q, c.FromSite, "dock")
		if err != nil {
			return nil, err
		}
		return c.outOfTransit(ctx, q, ledger.Move{To: first.ID})
	case how == Lost || how == Carrier:
		return c.outOfTransit(ctx, q, ledger.Move{To: lost})
	case c.Kind == OtherLot:
		out, err := c.outOfTransit(ctx, q, ledger.Move{To: lost})
		return append(out, found), err
	case c.Kind == Damaged:
		corner, err := catalog.OneLocation(ctx, q, c.ToSite, "damaged")
		if err != nil {
			return nil, err
		}
		return c.outOfTransit(ctx, q, ledger.Move{To: corner.ID, ToState: posting.Damaged})
	}
	return c.outOfTransit(ctx, q, ledger.Move{To: dock.ID})
}

// SettleCase ends a case: its goods are where the outcome says from then on.
func SettleCase(ctx context.Context, tx *command.Tx, id int64, in Settling) (Case, error) {
	c, err := readCase(ctx, tx, id)
	if err != nil {
		return c, err
	}
	if err := inbound.Hold(ctx, tx, c.InboundID); err != nil {
		return c, err
	}
	if err := documents.Change(ctx, tx, documents.InboundOrder, c.InboundID, 0, "settled a case of it"); err != nil {
		return c, err
	}
	plan, c, err := planCase(ctx, tx, id, in)
	if err != nil {
		return c, err
	}
	reason := strings.TrimSpace(in.Reason)
	if moves := plan.MoveList(); len(moves) > 0 {
		if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.SettleDifference, Document: c.Number,
			Note: strings.TrimSuffix(c.Order+", "+outcomes[in.Outcome]+": "+reason, ": ")}, moves); err != nil {
			return c, err
		}
	}
	if len(plan.MoveList()) > 0 {
		if err := c.count(ctx, tx, in.Outcome); err != nil {
			return c, err
		}
	}
	value := decimal.Zero
	if in.Outcome == Lost || in.Outcome == Carrier {
		value = c.worth()
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE transfer_cases SET outcome = $2, reason = $3, value = $4, settled_by = $5, settled_at = $6 WHERE id = $1`,
		id, in.Outcome, reason, value, tx.Person.ID, tx.Now); err != nil {
		return c, fmt.Errorf("settling a case: %w", err)
	}
	if c, err = readCase(ctx, tx, id); err != nil {
		return c, err
	}
	c.tell(tx)
	return c, nil
}

// count lets the line of the second half follow: what is taken in was received, what is not is expected no more.
func (c Case) count(ctx context.Context, tx *command.Tx, how Outcome) error {
	if c.Kind == More {
		return nil
	}
	lines, err := inbound.Lines(ctx, tx, c.InboundID)
	if err != nil {
		return err
	}
	for _, l := range lines {
		if l.ID != c.LineID {
			continue
		}
		if how == TakenIn {
			err = inbound.Count(ctx, tx, inbound.Counted{Line: l.ID, Settlement: l.After(l.Received.Add(c.Quantity))})
		} else {
			err = inbound.Lessen(ctx, tx, l, c.Quantity)
		}
		if err != nil {
			return err
		}
	}
	return inbound.Settle(ctx, tx, c.InboundID)
}
