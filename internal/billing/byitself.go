package billing

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/measure"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/schedules"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// ByItself bills what is shipped and not billed at set times.
func ByItself() schedules.Task {
	return schedules.Task{
		Name: "bill-deliveries", Title: "Bill deliveries", Help: "A bill is made for each delivery that is not billed, and mailed where that is wanted.",
		Uses: []string{"mail"}, Roles: web.Office,
		Look: func(ctx context.Context, q sqlx.QueryerContext, site int32, _ schedules.Settings, _ time.Time) (schedules.Work, error) {
			open, err := listUnbilled(ctx, q, site)
			w := schedules.Work{Words: "makes no bill: all that is shipped is billed"}
			total := decimal.Zero
			for _, d := range open {
				w.Documents, total = append(w.Documents, d.Delivery), total.Add(d.Value)
			}
			if len(open) > 0 {
				w.Words = fmt.Sprintf("makes %s over %s", measure.Count(len(open), "bill"), total.StringFixed(2))
			}
			return w, err
		},
		Do: billAll,
	}
}

// billAll bills all that is not billed. A bill that has nowhere to be mailed to is made all
// the same, and named.
func billAll(ctx context.Context, tx *command.Tx, site int32, s schedules.Settings) (schedules.Work, error) {
	open, err := listUnbilled(ctx, tx, site)
	if err != nil || len(open) == 0 {
		return schedules.Work{Words: "made no bill: all that was shipped was billed"}, err
	}
	var ids []int64
	for _, d := range open {
		ids = append(ids, d.DeliveryID)
	}
	bills, err := Make(ctx, tx, ids, false)
	if err != nil {
		return schedules.Work{}, err
	}
	var w schedules.Work
	total, mailed, without := decimal.Zero, 0, ""
	for _, b := range bills {
		w.Documents, total = append(w.Documents, b.Number), total.Add(b.Total)
		switch {
		case !s.Mail:
		case b.Email == "":
			without += fmt.Sprintf("; %s has no address to mail %s to", b.Customer, b.Number)
		default:
			if err := Mail(ctx, tx, b.ID); err != nil {
				return w, err
			}
			mailed++
		}
	}
	w.Words = fmt.Sprintf("made %s over %s", measure.Count(len(bills), "bill"), total.StringFixed(2))
	if s.Mail {
		w.Words += fmt.Sprintf(", %d mailed%s", mailed, without)
	}
	return w, nil
}
