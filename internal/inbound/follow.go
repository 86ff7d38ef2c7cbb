package inbound

import (
	"context"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Receipt is what comes on a line at once: the moves that take it in.
type Receipt struct {
	Order   Order
	Arrival string
	Line    Line
	// Found is in what condition goods of a customer came; empty for others.
	Found Found
	Moves []ledger.Move
}

// Quantity is how many came, in base units.
func (r Receipt) Quantity() (sum decimal.Decimal) {
	for _, m := range r.Moves {
		sum = sum.Add(m.Quantity)
	}
	return sum
}

// A Follower has something follow a receipt, whatever the kind of its order.
type Follower interface {
	// Foresee says what would follow, for whoever looks before it is received.
	Foresee(ctx context.Context, q sqlx.QueryerContext, came []Receipt) ([]string, error)
	// Follow has it follow, in the receipt's transaction and behind its postings. The orders are held.
	Follow(ctx context.Context, tx *command.Tx, came []Receipt) error
}

var followers []Follower

// AddFollower has something follow every receipt. It is called by the follower's own package when that is initialized.
func AddFollower(f Follower) { followers = append(followers, f) }

// Foresee says what would follow a receipt.
func Foresee(ctx context.Context, q sqlx.QueryerContext, came []Receipt) (out []string, err error) {
	for _, f := range followers {
		words, err := f.Foresee(ctx, q, came)
		if err != nil {
			return nil, err
		}
		out = append(out, words...)
	}
	return out, nil
}

// Follow has what follows a receipt happen.
func Follow(ctx context.Context, tx *command.Tx, came []Receipt) error {
	for _, f := range followers {
		if err := f.Follow(ctx, tx, came); err != nil {
			return err
		}
	}
	return nil
}
