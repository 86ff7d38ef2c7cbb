package invoicing

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

// Schedule invoices what is shipped and not invoiced at set times.
func Schedule() schedules.Task {
	return schedules.Task{
		Name: "invoice-shipments", Title: "Invoice shipments", Help: "An invoice is made for each shipment that " +
			"is not invoiced, and mailed where that is wanted.",
		Uses: []string{"mail"}, Roles: web.Accounts,
		Preview: func(ctx context.Context, q sqlx.QueryerContext, site int32, _ schedules.Settings,
			_ time.Time) (schedules.Work, error) {
			open, err := allUninvoiced(ctx, q, site)
			w := schedules.Work{Words: "makes no invoice: all that is shipped is invoiced"}
			if err != nil || len(open) == 0 {
				return w, err
			}
			ids := make([]int64, len(open))
			for i, d := range open {
				w.Documents, ids[i] = append(w.Documents, d.Shipment), d.ShipmentID
			}
			p, err := preview(ctx, q, Wanted{ShipmentIDs: ids})
			w.Words = fmt.Sprintf("makes %s over %s", measure.Count(p.Invoices, "invoice"), p.Total.StringFixed(2))
			return w, err
		},
		Do: invoiceAll,
	}
}

// invoiceAll invoices all that is not invoiced. An invoice that has nowhere to be mailed to is made all
// the same, and named.
func invoiceAll(ctx context.Context, tx *command.Tx, site int32, s schedules.Settings) (schedules.Work, error) {
	open, err := allUninvoiced(ctx, tx, site)
	if err != nil || len(open) == 0 {
		return schedules.Work{Words: "made no invoice: all that was shipped was invoiced"}, err
	}
	var ids []int64
	for _, d := range open {
		ids = append(ids, d.ShipmentID)
	}
	invoices, err := Make(ctx, tx, ids, false)
	if err != nil {
		return schedules.Work{}, err
	}
	var w schedules.Work
	total, mailed, without := decimal.Zero, 0, ""
	for _, b := range invoices {
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
	w.Words = fmt.Sprintf("made %s over %s", measure.Count(len(invoices), "invoice"), total.StringFixed(2))
	if s.Mail {
		w.Words += fmt.Sprintf(", %d mailed%s", mailed, without)
	}
	return w, nil
}
