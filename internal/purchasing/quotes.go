package purchasing

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// An Answer is what a supplier that was asked says to a request, on a quote of its own.
type Answer struct {
	ID         int64           `json:"id"`
	Number     string          `json:"number"`
	SupplierID int32           `json:"supplier_id"`
	Supplier   string          `json:"supplier"`
	State      states.Inbound  `json:"state" enum:"draft,placed,partly_received,received,closed"`
	Version    int32           `json:"version"`
	Quote      string          `json:"quote" doc:"The supplier's own number; empty while it has not answered"`
	QuoteUntil *string         `json:"quote_until"`
	ExpectedOn string          `json:"expected_on"`
	Freight    decimal.Decimal `json:"freight"`
	Value      decimal.Decimal `json:"value" doc:"What all it offers comes to, with freight"`
	Lines      []AnsweredLine  `json:"lines" doc:"Line by line as they are asked for"`
}

// AnsweredLine is what a supplier offers for a line that is asked for.
type AnsweredLine struct {
	LineID   int64           `json:"line_id" doc:"The line that is asked for"`
	Offered  bool            `json:"offered" doc:"Whether it offers the line at all"`
	Quantity decimal.Decimal `json:"quantity" doc:"In base units"`
	Price    decimal.Decimal `json:"price" doc:"For a base unit"`
	Amount   decimal.Decimal `json:"amount"`
	// Least is true where no other that answered asks less for the line.
	Least bool `json:"least"`
}

// AskSuppliers asks suppliers for their prices of what is requested: each gets a quote of its own
// with the request's lines, at the prices that it is known for. One that was asked before is not
// asked twice. The request is a draft.
func AskSuppliers(ctx context.Context, tx *command.Tx, request int64, suppliers []int32) ([]Answer, error) {
	if err := documents.Change(ctx, tx, documents.InboundOrder, request, 0, "asked suppliers for their prices"); err != nil {
		return nil, err
	}
	o, err := readRequest(ctx, tx, request)
	if err != nil {
		return nil, err
	}
	var asked []int32
	if err := tx.SelectContext(ctx, &asked, `SELECT supplier_id FROM purchase_orders WHERE asked_for = $1`, request); err != nil {
		return nil, fmt.Errorf("reading who was asked: %w", err)
	}
	for _, supplier := range suppliers {
		if slices.Contains(asked, supplier) {
			continue
		}
		if err := o.askOne(ctx, tx, supplier); err != nil {
			return nil, err
		}
		asked = append(asked, supplier)
	}
	tx.NotifySite(o.SiteID, topics...)
	return answersTo(ctx, tx, o)
}

// askOne writes the quote that a supplier is asked for.
func (o Order) askOne(ctx context.Context, tx *command.Tx, supplier int32) error {
	in := NewOrder{SupplierID: supplier, SiteID: o.SiteID, BegunAs: "quote",
		OrderTerms: OrderTerms{ExpectedOn: o.ExpectedOn, Sure: refusal.Sure{refusal.DayPast}}}
	for _, l := range o.Lines {
		line := NewLine{ItemID: l.ItemID, PackID: l.PackID, Quantity: l.InPack.String()}
		if !l.Stock() {
			line.Text, line.Quantity, line.Price = l.Description, l.Quantity.String(), l.Price.String()
		}
		in.Lines = append(in.Lines, line)
	}
	q, err := CreateOrder(ctx, tx, in)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE purchase_orders SET asked_for = $2 WHERE order_id = $1`, q.ID, o.ID); err != nil {
		return fmt.Errorf("asking a supplier: %w", err)
	}
	return nil
}

// readRequest reads a request that suppliers may be asked for.
func readRequest(ctx context.Context, q sqlx.QueryerContext, id int64) (Order, error) {
	o, err := readOrder(ctx, q, id)
	if err == nil && (o.State != states.Draft || o.BegunAs != "request") {
		err = refusal.New(refusal.NoRequest, "", "%s is %s. Only of a request that is a draft suppliers are asked for prices.",
			o.Number, states.Label(o.State)).Of(refusal.Conflict)
	}
	return o, err
}

// answersTo reads what suppliers were asked for a request and offer, in the order they were asked.
func answersTo(ctx context.Context, q sqlx.QueryerContext, request Order) ([]Answer, error) {
	var ids []int64
	if err := sqlx.SelectContext(ctx, q, &ids, `
		SELECT order_id FROM purchase_orders WHERE asked_for = $1 ORDER BY order_id`, request.ID); err != nil {
		return nil, fmt.Errorf("reading who was asked: %w", err)
	}
	out := make([]Answer, len(ids))
	for i, id := range ids {
		o, err := readOrder(ctx, q, id)
		if err != nil {
			return nil, err
		}
		out[i] = Answer{ID: o.ID, Number: o.Number, SupplierID: o.SupplierID, Supplier: o.Supplier, State: o.State,
			Version: o.Version, Quote: o.Quote, QuoteUntil: o.QuoteUntil, ExpectedOn: o.ExpectedOn, Freight: o.Freight,
			Value: o.Value, Lines: answered(request.Lines, o.Lines)}
	}
	markLeast(out)
	return out, nil
}

// answered sets what is offered beside what is asked for: by item, or by its words.
func answered(asked, offered []Line) []AnsweredLine {
	out := make([]AnsweredLine, len(asked))
	for i, l := range asked {
		out[i].LineID = l.ID
		at := slices.IndexFunc(offered, func(o Line) bool {
			return o.ItemID == l.ItemID && (l.Stock() || o.Description == l.Description)
		})
		if at < 0 {
			continue
		}
		o := offered[at]
		out[i] = AnsweredLine{LineID: l.ID, Offered: true, Quantity: o.Quantity, Price: o.Price,
			Amount: o.Price.Mul(o.Quantity).Round(2)}
	}
	return out
}

// markLeast marks for each line who of those that answered asks least for a unit.
func markLeast(answers []Answer) {
	if len(answers) == 0 {
		return
	}
	for i := range answers[0].Lines {
		var least *decimal.Decimal
		for _, a := range answers {
			if l := a.Lines[i]; a.Quote != "" && l.Offered && (least == nil || l.Price.LessThan(*least)) {
				least = &l.Price
			}
		}
		for n := range answers {
			l := &answers[n].Lines[i]
			l.Least = least != nil && answers[n].Quote != "" && l.Offered && l.Price.Equal(*least)
		}
	}
}

// ChooseQuote makes an order of the quote that is chosen of those a request was asked for: it is sent
// to its supplier, and the request and the other quotes are closed.
func ChooseQuote(ctx context.Context, tx *command.Tx, request, quote int64) (Order, error) {
	if err := documents.Change(ctx, tx, documents.InboundOrder, request, 0, "chose a quote"); err != nil {
		return Order{}, err
	}
	o, err := readRequest(ctx, tx, request)
	if err != nil {
		return o, err
	}
	answers, err := answersTo(ctx, tx, o)
	if err != nil {
		return o, err
	}
	at := slices.IndexFunc(answers, func(a Answer) bool { return a.ID == quote })
	switch {
	case at < 0:
		return o, documents.Missing("quote", fmt.Sprint(quote))
	case answers[at].Quote == "":
		return o, refusal.New(refusal.QuoteMissing, "quote_id",
			"%s has not answered yet. Write its quote's number and prices on %s first.", answers[at].Supplier,
			answers[at].Number).Of(refusal.Conflict)
	}
	placed, err := PlaceOrder(ctx, tx, quote, 0)
	if err != nil {
		return o, err
	}
	for _, a := range answers {
		if a.ID == quote || a.State != states.Draft {
			continue
		}
		if _, err := CloseOrder(ctx, tx, a.ID, 0); err != nil {
			return o, err
		}
	}
	_, err = CloseOrder(ctx, tx, request, 0)
	return placed, err
}
