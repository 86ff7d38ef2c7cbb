package returns

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/connection"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// paper is what a customer puts into the carton: the return's number, also as a code, what comes back, and until when.
// Its label is behind it.
func paper(ctx context.Context, q sqlx.QueryerContext, id int64) (Return, []byte, error) {
	o, err := Read(ctx, q, id)
	if err != nil {
		return o, nil, err
	}
	stuck, err := o.address(ctx, q)
	if err != nil {
		return o, nil, err
	}
	label, heading := &stuck, "Send it to "+stuck.To+" by "+o.SendBy+", with this paper in the carton"
	if o.GoodsStay {
		label, heading = nil, "Keep the goods: nothing is to be sent in"
	}
	g := papers.Group{Heading: heading}
	for _, l := range o.Lines {
		row := papers.Row{SKU: l.SKU, Description: l.Description, Quantity: l.Quantity.String(), Unit: l.Unit,
			Note: "from " + l.Shipment + ": " + l.Reason}
		if l.Lot != "" {
			row.Lot = "lot " + l.Lot
		}
		if len(l.Serials) > 0 {
			row.Note += ", serial " + strings.Join(l.Serials, ", ")
		}
		g.Rows = append(g.Rows, row)
	}
	pdf, err := papers.Note{Title: "Return", Number: o.Number, Order: o.Kind, Date: o.AnnouncedAt.UTC().Format(time.DateOnly),
		From: o.Customer, Address: stuck.Address, To: stuck.To, Groups: []papers.Group{g}, Code: o.Number, Label: label}.Print()
	return o, pdf, err
}

// address is what is stuck on the carton: whom it is from, and where it goes.
func (o Return) address(ctx context.Context, q sqlx.QueryerContext) (papers.ReturnLabel, error) {
	l := papers.ReturnLabel{Number: o.Number, From: o.Customer, SendBy: o.SendBy}
	err := q.QueryRowxContext(ctx, `
		SELECT s.name, p.address FROM sites s, parties p WHERE s.id = $1 AND p.id = $2`, o.SiteID, o.CustomerID).
		Scan(&l.To, &l.Address)
	if err != nil {
		return l, fmt.Errorf("reading who a return is from: %w", err)
	}
	return l, nil
}

// printLabel makes a return's label for a printer of labels.
func printLabel(ctx context.Context, q sqlx.QueryerContext, id int64) (string, []byte, error) {
	o, err := Read(ctx, q, id)
	if err != nil {
		return "", nil, err
	}
	if o.GoodsStay {
		return "", nil, refusal.New(refusal.ReturnOver, "",
			"The goods of %s stay with %s: nothing is sent in, and no label is needed.", o.Number, o.Customer).Of(refusal.Conflict)
	}
	l, err := o.address(ctx, q)
	if err != nil {
		return "", nil, err
	}
	pdf, err := l.Print()
	return o.Number, pdf, err
}

// Mail sends the paper to the customer.
func Mail(ctx context.Context, tx *command.Tx, id int64) (Return, error) {
	o, pdf, err := paper(ctx, tx, id)
	if err != nil {
		return o, err
	}
	return o, connection.Post(ctx, tx, o.SiteID, connection.Letter{Recipient: o.Email, Subject: "Your return " + o.Number,
		Document: o.Number, PaperName: o.Number, Paper: pdf, Text: o.letter()})
}

// letter is what the paper is mailed with.
func (o Return) letter() string {
	if o.GoodsStay {
		return fmt.Sprintf("To %s\n\nYour return %s is taken. Keep the goods: nothing is to be sent in.", o.Customer, o.Number)
	}
	return fmt.Sprintf("To %s\n\nYour return %s is announced. Put the paper into the carton, stick the label that is behind it "+
		"on the outside, and send it by %s.", o.Customer, o.Number, o.SendBy)
}
