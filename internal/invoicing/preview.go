package invoicing

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/pricing"
	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Wanted is which shipments are invoiced, and whether the invoices are mailed.
type Wanted struct {
	ShipmentIDs []int64 `json:"shipment_ids" minItems:"1" maxItems:"500"`
	Mail        bool    `json:"mail,omitempty" doc:"Mail each to its customer"`
}

// A Preview says which invoices would be made of shipments, and over how much with tax.
type Preview struct {
	Invoices int             `json:"invoices"`
	Total    decimal.Decimal `json:"total"`
	Notes    []string        `json:"notes" doc:"What goes on one invoice together"`
	Button   string          `json:"button"`
}

// preview says what Make would make of shipments, and refuses what it would refuse.
func preview(ctx context.Context, q sqlx.QueryerContext, in Wanted) (Preview, error) {
	out := Preview{Notes: []string{}}
	all, err := bills(ctx, q, slices.Compact(slices.Sorted(slices.Values(in.ShipmentIDs))))
	if err != nil {
		return out, err
	}
	open, err := openAmounts(ctx, q, in.ShipmentIDs)
	if err != nil {
		return out, err
	}
	for _, l := range all {
		if in.Mail {
			if err := mailable(l.Name, l.Email); err != nil {
				return out, err
			}
		}
		var amounts []pricing.Taxable
		for i, shipment := range l.shipments {
			if len(open[shipment]) == 0 {
				return out, refusal.New(refusal.NothingUninvoiced, "shipment_ids", "All of %s is invoiced already.",
					l.numbers[i]).Of(refusal.Conflict)
			}
			amounts = append(amounts, open[shipment]...)
		}
		_, total := pricing.Totals(pricing.Taxes(amounts))
		out.Invoices, out.Total = out.Invoices+1, out.Total.Add(total)
		if len(l.shipments) > 1 {
			out.Notes = append(out.Notes, fmt.Sprintf("%s gets one invoice for %s, over %s.", l.Name,
				strings.Join(l.numbers, ", "), total.StringFixed(2)))
		}
	}
	out.Button = fmt.Sprintf("Make %s, %s", measure.Count(out.Invoices, "invoice"), out.Total.StringFixed(2))
	return out, nil
}

// openAmounts are what of shipments is not invoiced, with its tax.
func openAmounts(ctx context.Context, q sqlx.QueryerContext, shipments []int64) (map[int64][]pricing.Taxable, error) {
	var rows []struct {
		Shipment int64 `db:"shipment_id"`
		pricing.Taxable
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT x.shipment_id, round((x.quantity - x.invoiced - x.given_up) * l.price, 2) AS amount, r.pct
		  FROM shipment_lines x JOIN sales_lines l ON l.line_id = x.line_id JOIN (`+rates+`) AS r ON r.line_id = x.line_id
		 WHERE x.shipment_id = ANY($1) AND x.invoiced + x.given_up < x.quantity`, shipments)
	if err != nil {
		return nil, fmt.Errorf("reading what is not invoiced: %w", err)
	}
	out := map[int64][]pricing.Taxable{}
	for _, r := range rows {
		out[r.Shipment] = append(out[r.Shipment], r.Taxable)
	}
	return out, nil
}
