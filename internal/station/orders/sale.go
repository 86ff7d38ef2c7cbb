package orders

import (
	"context"
	"strings"
	"time"

	"lanternrow/internal/core/pricing"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/invoicing"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

func init() { invoicing.AttachSales(selling{}) }

// selling takes orders for those who know no more of a sale than whom it is for and what it is over.
type selling struct{}

// Plan is what a sale comes to, with the taxes of its items where its customer pays them.
func (selling) Plan(ctx context.Context, q sqlx.QueryerContext, s invoicing.Sale, now time.Time) (invoicing.SalePlan, error) {
	out := invoicing.SalePlan{Lines: []invoicing.SalePlanLine{}}
	lines := linesOf(s)
	w, err := writingOf(ctx, q, s.CustomerID, s.SiteID, lines, now)
	if err != nil {
		return out, err
	}
	rates, err := invoicing.ItemRates(ctx, q, s.CustomerID, itemIDs(lines))
	if err != nil {
		return out, err
	}
	var amounts []pricing.Taxable
	for i, l := range lines {
		if err := w.add(i, l); err != nil {
			return out, asInstead(err)
		}
		added, price := w.added[i], w.prices[i]
		item, err := w.items.Line("instead", i, l.ItemID)
		if err != nil {
			return out, err
		}
		line := invoicing.SalePlanLine{SKU: item.SKU, Quantity: added.Quantity, Price: price.Amount,
			Amount: added.Quantity.Mul(price.Amount).Round(2)}
		out.Lines = append(out.Lines, line)
		amounts = append(amounts, pricing.Taxable{Amount: line.Amount, Pct: rates[l.ItemID]})
	}
	out.Net, out.Total = pricing.Totals(pricing.Taxes(amounts))
	return out, nil
}

// Sell takes an order, released at once and wanted today.
func (selling) Sell(ctx context.Context, tx *command.Tx, s invoicing.Sale) (int64, error) {
	o, err := Create(ctx, tx, NewOrder{CustomerID: s.CustomerID, SiteID: s.SiteID, Release: true, Lines: linesOf(s),
		Terms:  Terms{WantedOn: today(tx.Now), Reference: s.Reference, Sure: refusal.Sure{refusal.ReferenceUsed, refusal.DayPast}},
		Reason: "instead of what came back on " + s.Reference})
	return o.ID, asInstead(err)
}

func linesOf(s invoicing.Sale) []NewLine {
	out := make([]NewLine, len(s.Lines))
	for i, l := range s.Lines {
		out[i] = NewLine{ItemID: l.ItemID, Quantity: l.Quantity, Price: l.Price}
	}
	return out
}

// asInstead names the field of a line as whoever settles a return entered it.
func asInstead(err error) error {
	r := refusal.From(err)
	if r == nil {
		return err
	}
	if at, of := strings.CutPrefix(r.Field, "lines"); of {
		return r.At("instead" + at)
	}
	return r.At("instead")
}
