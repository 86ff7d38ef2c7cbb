package purchasing

import (
	"context"
	"fmt"

	"lanternrow/internal/connection"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// orderPaper is a purchase order as it goes to the supplier.
func orderPaper(ctx context.Context, q sqlx.QueryerContext, id int64) (Order, []byte, error) {
	o, err := readOrder(ctx, q, id)
	if err != nil {
		return o, nil, err
	}
	var about struct{ Address, Site string }
	if err := sqlx.GetContext(ctx, q, &about, `
		SELECT p.address, s.name AS site FROM inbound_orders o JOIN parties p ON p.id = o.party_id
		  JOIN sites s ON s.id = o.site_id WHERE o.id = $1`, id); err != nil {
		return o, nil, fmt.Errorf("reading an order's addresses: %w", err)
	}
	n := papers.Note{
		Title: "Purchase order", Number: o.Number, Order: "Deliver by " + o.ExpectedOn + " to " +
			about.Site, Reference: o.Quote, Date: o.ExpectedOn,
		From: about.Site, To: o.Supplier, Address: about.Address, Carrier: o.Carrier,
	}
	if o.State == states.Draft {
		n.Title = "Draft of purchase order"
	}
	offers, err := o.offers(ctx, q)
	if err != nil {
		return o, nil, err
	}
	rows := papers.Group{Heading: "Please supply"}
	for _, l := range o.Lines {
		row := papers.Row{SKU: l.SKU, Description: l.Description, Quantity: l.Quantity.String(), Unit: l.Unit}
		if code := offers[l.ItemID].Code; code != "" {
			row.Lot = "your no. " + code
		}
		row.Note = fmt.Sprintf("at %s: %s", l.Price, l.Price.Mul(l.Quantity).StringFixed(2))
		for _, p := range l.Packs {
			if p.ID == l.PackID && !p.Holds.Equal(decimal.NewFromInt(1)) {
				row.Note = fmt.Sprintf("%s × %s, ", l.Quantity.Div(p.Holds), p.Name) + row.Note
			}
		}
		if l.NeededOn != nil {
			row.Note += ", needed by " + *l.NeededOn
		}
		rows.Rows = append(rows.Rows, row)
	}
	n.Groups = []papers.Group{rows}
	if o.Freight.IsPositive() {
		n.Foot = append(n.Foot, "Freight: "+o.Freight.StringFixed(2))
	}
	n.Foot = append(n.Foot, "Total: "+o.Value.StringFixed(2))
	if o.Terms != "" {
		n.Foot = append(n.Foot, "Terms: "+o.Terms)
	}
	pdf, err := n.Print()
	return o, pdf, err
}

// MailOrder sends an order's paper to its supplier.
func MailOrder(ctx context.Context, tx *command.Tx, id int64) (Order, error) {
	o, pdf, err := orderPaper(ctx, tx, id)
	if err != nil {
		return o, err
	}
	if err := tx.At(ctx, o.SiteID); err != nil {
		return o, err
	}
	if o.State == states.Draft && o.BegunAs == "request" {
		return o, refusal.New(refusal.OrderNotPlaced, "",
			"%s is a request. Make it an order before it is sent to the supplier.", o.Number).Of(refusal.Conflict)
	}
	letter := connection.Letter{Recipient: o.Email, Subject: "Purchase order " + o.Number, Document: o.Number,
		PaperName: o.Number, Paper: pdf,
		Text: fmt.Sprintf("To %s\n\nPlease find our purchase order %s attached, to be delivered by %s.", o.Supplier,
			o.Number, o.ExpectedOn)}
	if o.State == states.Draft {
		letter.Subject, letter.Text = "Asking for your prices, "+o.Number, fmt.Sprintf("To %s\n\nPlease tell us "+
			"your prices and when you can deliver what is attached.", o.Supplier)
	}
	return o, connection.Post(ctx, tx, o.SiteID, letter)
}
