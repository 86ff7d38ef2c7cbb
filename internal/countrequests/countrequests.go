// Package countrequests puts items in bins down for counting, whoever finds that the books may be wrong there.
package countrequests

import (
	"context"
	"fmt"

	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

// Why is why a bin is to be counted.
type Why string

// The reasons: too few were found there, a count is to be made anew, or a customer got too few or other goods than were
// picked there.
const (
	Short     Why = "short"
	Anew      Why = "anew"
	Complaint Why = "complaint"
)

// Doubtful is the condition under which a request d keeps goods from being planned from its bin: after a complaint they
// are still taken from there.
const Doubtful = `d.state = 'requested' AND d.why <> 'complaint'`

// A Request is an item in a bin that is to be counted.
type Request struct {
	Location, Item int32
	Why            Why
	// Found is what was found there, and Round the round that found it; nil where nobody looked.
	Found *decimal.Decimal
	Round *int64
}

// Raise puts it down for counting, unless it is for the same reason. A round's shortage is always kept, so that each is
// known.
func Raise(ctx context.Context, tx *command.Tx, r Request) error {
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO count_requests (location_id, item_id, expected, found, round_id, why, raised_by, raised_at)
		SELECT $1, $2, coalesce((SELECT sum(quantity) FROM balances WHERE location_id = $1 AND item_id = $2), 0), $3, $4, $5, $6, $7
		 WHERE $4::bigint IS NOT NULL OR NOT EXISTS (SELECT FROM count_requests WHERE location_id = $1 AND item_id = $2
		       AND state = 'requested' AND why = $5)`, r.Location, r.Item, r.Found, r.Round, r.Why, tx.Person.ID, tx.Now); err != nil {
		return fmt.Errorf("putting a bin down for counting: %w", err)
	}
	tx.Notify("audit")
	return nil
}
