package transfers

import (
	"context"
	"fmt"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/slotting"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Emptying moves all that lies good in a location to another: loose goods, and cartons and pallets as they are.
type Emptying struct {
	FromID int32  `json:"from_id"`
	To     string `json:"to" maxLength:"60" doc:"The code of the location that it is emptied into"`
	Note   string `json:"note,omitempty" maxLength:"200"`
}

// lying is goods of one kind that lie in a location, good.
type lying struct {
	ItemID   int32           `db:"item_id"`
	LotID    *int64          `db:"lot_id"`
	CartonID *int64          `db:"carton_id"`
	Quantity decimal.Decimal `db:"quantity"`
}

// emptied is what emptying moves, and between which locations.
type emptied struct {
	moves []ledger.Move
	facts facts
	kinds int
	// held is what was put into the destination before, for what comes after it.
	held  []slotting.Held
	taken map[int64]bool
}

// planEmptying checks that the destination takes all of it, one kind of goods after another.
func planEmptying(ctx context.Context, q sqlx.QueryerContext, in Emptying) (*emptied, error) {
	return planAll(ctx, q, in, "from_id", nil)
}

// planAll plans all that lies good in a location, or in a carton or pallet there; field is what names it.
func planAll(ctx context.Context, q sqlx.QueryerContext, in Emptying, field string, carton *int64) (*emptied, error) {
	var rows []lying
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT item_id, lot_id, carton_id, sum(quantity) AS quantity FROM balances
		 WHERE location_id = $1 AND quantity > 0 AND condition = 'good' AND ($2::bigint IS NULL OR carton_id = $2)
		 GROUP BY 1, 2, 3 ORDER BY carton_id NULLS FIRST, item_id, lot_id`, in.FromID, carton); err != nil {
		return nil, fmt.Errorf("reading what lies in a bin: %w", err)
	}
	if len(rows) == 0 {
		return nil, refusal.New(refusal.NothingMoves, field, "Nothing lies there that could be moved.").Of(refusal.Conflict)
	}
	e := &emptied{kinds: len(rows), taken: map[int64]bool{}}
	for _, r := range rows {
		if err := e.add(ctx, q, in, r); err != nil {
			return nil, err
		}
	}
	return e, nil
}

// add adds goods of one kind: a carton with all that is in it when the first of it is met.
func (e *emptied) add(ctx context.Context, q sqlx.QueryerContext, in Emptying, r lying) (err error) {
	t := Transfer{FromID: in.FromID, To: in.To, ItemID: r.ItemID, LotID: r.LotID, Quantity: r.Quantity.String()}
	if e.facts, err = readFacts(ctx, q, t); err != nil {
		return err
	}
	held, err := t.check(ctx, q, e.facts, r.Quantity, e.held)
	if err != nil {
		return err
	}
	e.held = append(e.held, held)
	if r.CartonID == nil {
		moves, err := t.moves(ctx, q, e.facts, r.Quantity)
		e.moves = append(e.moves, moves...)
		return err
	}
	if e.taken[*r.CartonID] {
		return nil
	}
	e.taken[*r.CartonID] = true
	moves, err := cartons.Carton{ID: *r.CartonID}.Moves(ctx, q, e.facts.ToID)
	e.moves = append(e.moves, moves...)
	return err
}

func previewEmptying(ctx context.Context, q sqlx.QueryerContext, in Emptying) (*ledger.Plan, error) {
	e, err := planEmptying(ctx, q, in)
	if err != nil {
		return nil, err
	}
	return e.describe(ctx, q, fmt.Sprintf("Empty %s into %s", e.facts.From, e.facts.To))
}

// describe says what moves, on a button with these words.
func (e *emptied) describe(ctx context.Context, q sqlx.QueryerContext, button string) (*ledger.Plan, error) {
	out, err := ledger.Describe(ctx, q, e.moves)
	if err != nil {
		return nil, err
	}
	out.Button = button
	return out, nil
}

// Empty empties a location into another.
func Empty(ctx context.Context, tx *command.Tx, in Emptying) (Done, error) {
	if err := in.lock(ctx, tx); err != nil {
		return Done{}, err
	}
	e, err := planEmptying(ctx, tx, in)
	if err != nil {
		return Done{}, err
	}
	return e.post(ctx, tx, in.Note, fmt.Sprintf("Emptied %s into %s, %s", e.facts.From, e.facts.To, measure.Count(e.kinds, "kind of goods")))
}

// lock keeps both locations to the transaction.
func (in Emptying) lock(ctx context.Context, tx *command.Tx) error {
	var to int32
	if err := tx.GetContext(ctx, &to, `
		SELECT t.id FROM locations t JOIN locations f ON f.site_id = t.site_id
		 WHERE f.id = $1 AND upper(t.code) = upper($2)`, in.FromID, in.To); err != nil {
		return documents.Found(err, "location", in.To)
	}
	return ledger.LockBins(ctx, tx, []int32{in.FromID, to})
}

// post moves it, with words for whoever moved it.
func (e *emptied) post(ctx context.Context, tx *command.Tx, note, words string) (Done, error) {
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Move, Note: note}, e.moves); err != nil {
		return Done{}, err
	}
	tx.NotifySite(e.facts.SiteID, ledger.Topics("putaway", "row")...)
	return Done{words}, nil
}
