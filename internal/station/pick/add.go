package pick

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// planAdding chooses stock for the open lines of orders that are to go on a round as well.
func planAdding(ctx context.Context, q sqlx.QueryerContext, id int64, orders []int64, now time.Time) (*Proposed, error) {
	r, err := readRound(ctx, q, id)
	if err != nil {
		return nil, err
	}
	if err := r.refuseDone(); err != nil {
		return nil, err
	}
	return Propose(ctx, q, Wish{SiteID: r.SiteID, OrderIDs: orders}, now)
}

// Add puts further stops on a round that is not done: their stock is reserved, and each is walked where it costs
// the least. Where nobody has begun the round, all of it is put in the order of the shortest walk again.
func Add(ctx context.Context, tx *command.Tx, id int64, in []Stop) (Round, error) {
	lines := make([]int64, len(in))
	for i, s := range in {
		lines[i] = s.LineID
	}
	served, err := ordersOf(ctx, tx, id)
	if err != nil {
		return Round{}, err
	}
	added, err := ordersOfLines(ctx, tx, lines)
	if err != nil {
		return Round{}, err
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.OutboundOrder, append(served, added...)...),
		documents.Own(documents.Round, id)); err != nil {
		return Round{}, err
	}
	r, err := holdUndone(ctx, tx, id, "added stops to it")
	if err != nil {
		return r, err
	}
	if n := len(r.Stops) + len(in); n > mostStops {
		return r, refusal.New(refusal.RoundStops, "stops", "%s would have %d stops; a round has at most %d.", r.Number, n,
			mostStops)
	}
	if err := noteOnRound(ctx, tx, added); err != nil {
		return r, err
	}
	p, proposed, err := review(ctx, tx, r.SiteID, [][]Stop{in})
	if err != nil {
		return r, err
	}
	left, err := unreserve(ctx, tx, lines)
	if err != nil {
		return r, err
	}
	stops := proposed[0].Stops
	at, err := p.weave(ctx, tx, id, r.lastMade(), r.State == states.RoundReleased && r.lastMade() == 0, stops)
	if err != nil {
		return r, err
	}
	if err := left.use(ctx, tx, at, stops); err != nil {
		return r, err
	}
	tx.NotifySite(r.SiteID, ledger.Topics(topics...)...)
	return readRound(ctx, tx, id)
}

// lastMade is the number of the last stop that was made; 0 for none.
func (r Round) lastMade() int {
	last := 0
	for _, s := range r.Stops {
		if s.State != states.StopOpen || s.Picked.IsPositive() {
			last = max(last, s.Seq)
		}
	}
	return last
}

// refuseDone refuses what nobody can do to a round that is done.
func (r Round) refuseDone() error {
	if r.State == states.RoundDone {
		return refusal.New(refusal.RoundDone, "", "%s is done already.", r.Number).Of(refusal.Conflict)
	}
	return nil
}

// ordersOfLines are the orders that lines are of, each once.
func ordersOfLines(ctx context.Context, q sqlx.QueryerContext, lines []int64) (orders []int64, err error) {
	if err := sqlx.SelectContext(ctx, q, &orders, `
		SELECT DISTINCT order_id FROM outbound_lines WHERE id = ANY($1)`, lines); err != nil {
		return nil, fmt.Errorf("reading the orders of lines: %w", err)
	}
	return orders, nil
}
