package orders

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// ask asks about what is rarely meant: a day that is past, and a reference that the customer
// used before. before is the order as it stood; what it said already is not asked about again.
func (t Terms) ask(ctx context.Context, tx *command.Tx, customer int32, before Order) error {
	past := t.WantedOn < today(tx.Now) && t.WantedOn != before.WantedOn
	if err := t.Sure.Ask(past, refusal.Question(refusal.DayPast, "wanted_on",
		"%s is past. Enter the day on which it is wanted, or say that it is meant so.", t.WantedOn)); err != nil {
		return err
	}
	reference := strings.TrimSpace(t.Reference)
	if reference == "" || reference == before.Reference {
		return nil
	}
	var used []string
	err := sqlx.SelectContext(ctx, tx, &used, `
		SELECT o.number FROM outbound_orders o JOIN sales_orders s ON s.order_id = o.id
		 WHERE s.customer_id = $1 AND upper(o.reference) = upper($2) AND o.id <> $3 AND o.state <> 'cancelled'
		 ORDER BY o.id DESC LIMIT 1`, customer, reference, before.ID)
	if err != nil {
		return fmt.Errorf("looking for a reference: %w", err)
	}
	return t.Sure.Ask(len(used) > 0, refusal.Question(refusal.ReferenceUsed, "reference",
		"This customer's reference %s is on %s already. It may be the same order sent twice.", reference,
		strings.Join(used, "")))
}

// askUntil asks about a quote that would be over as soon as it is written.
func (t Terms) askUntil(day, today string) error {
	return t.Sure.Ask(day < today, refusal.Question(refusal.QuoteExpired, "quote_until",
		"A quote until %s is over already. Enter a later day, or say that it is meant so.", day))
}
