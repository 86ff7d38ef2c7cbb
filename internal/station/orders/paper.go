package orders

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/availability"
	"lanternrow/internal/connection"
	"lanternrow/internal/core/pricing"
	"lanternrow/internal/core/states"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// confirmation is an order as its customer is told of it, with the day on which each
// line can go.
func confirmation(ctx context.Context, q sqlx.QueryerContext, id int64, now time.Time) (Order, []byte, error) {
	o, err := readOrder(ctx, q, id)
	if err != nil {
		return o, nil, err
	}
	if err := o.addDays(ctx, q, now, map[int32]availability.Course{}); err != nil {
		return o, nil, err
	}
	var about struct{ Address, Site string }
	if err := sqlx.GetContext(ctx, q, &about, `
		SELECT o.address, s.name AS site FROM outbound o JOIN sites s ON s.id = o.site_id WHERE o.id = $1`,
		id); err != nil {
		return o, nil, fmt.Errorf("reading an order's addresses: %w", err)
	}
	heading := "We have taken down"
	if o.State == states.Quote {
		heading = "We offer"
	}
	rows := papers.Group{Heading: heading}
	for _, l := range o.Lines {
		row := papers.Row{SKU: l.SKU, Description: l.Description, Quantity: l.Quantity.Sub(l.Cancelled).String(),
			Unit: l.Unit}
		row.Note = fmt.Sprintf("at %s: %s", l.Price, l.Amount().StringFixed(2))
		switch {
		case l.CanGo == nil:
		case *l.CanGo == "":
			row.Note += "; we have no day for it yet"
		case *l.CanGo > o.WantedOn:
			row.Note += "; it can go on " + *l.CanGo
		}
		rows.Rows = append(rows.Rows, row)
	}
	title, foot := "Confirmation of order", pricing.Words(o.Taxes)
	if o.State == states.Quote {
		title, foot = "Quote", append(foot, "These prices are valid until "+*o.QuoteUntil+".")
	}
	pdf, err := papers.Note{
		Title: title, Number: o.Number, Order: "Wanted on " +
			o.WantedOn, Reference: o.Reference, Date: now.UTC().Format(time.DateOnly),
		From: about.Site, To: o.Customer, Address: about.Address, Carrier: o.Carrier, Groups: []papers.Group{rows}, Foot: foot,
	}.Print()
	return o, pdf, err
}

// MailConfirmation sends an order's confirmation to its customer.
func MailConfirmation(ctx context.Context, tx *command.Tx, id int64) (Order, error) {
	o, pdf, err := confirmation(ctx, tx, id, tx.Now)
	if err != nil {
		return o, err
	}
	what, body := "Your order, our ", "We have taken your order down as %s. What is attached tells what can go when."
	if o.State == states.Quote {
		what, body = "Our quote ", "You asked what it would come to: our quote %s is attached."
	}
	return o, connection.Post(ctx, tx, o.SiteID, connection.Letter{Recipient: o.Email, Subject: what + o.Number,
		Document: o.Number, PaperName: o.Number, Paper: pdf,
		Text: fmt.Sprintf("To %s\n\n"+body, o.Customer, o.Number)})
}
