package purchasing

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/carriers"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

var topics = []string{"receive", "row"}

// CreateOrder writes a purchase order, as a draft or placed at once. A draft may be
// somebody's request or a supplier's quote.
func CreateOrder(ctx context.Context, tx *command.Tx, in NewOrder) (Order, error) {
	if len(in.Lines) == 0 {
		return Order{}, refusal.New(refusal.LinesMissing, "lines", "The order has no lines. Add what is to be bought.")
	}
	supplier, err := readSupplier(ctx, tx, in.SupplierID)
	if err != nil {
		return Order{}, err
	}
	if in.Carrier == "" {
		in.Carrier = supplier.Carrier
	}
	if in.Terms == "" {
		in.Terms = supplier.Terms
	}
	if in.BegunAs == "" {
		in.BegunAs = "order"
	}
	var until *time.Time
	if in.QuoteUntil != "" {
		day, err := documents.Day("quote_until", in.QuoteUntil)
		if err != nil {
			return Order{}, err
		}
		until = &day
	}
	id, err := inbound.Create(ctx, tx, inbound.New{Kind: inbound.Purchase, SiteID: in.SiteID, PartyID: in.SupplierID,
		SourceID: supplier.Location,
		State:    states.Draft, Note: in.Note, Change: "wrote it"})
	if err != nil {
		return Order{}, err
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO purchase_orders (order_id, supplier_id, began_as, quote, quote_until) VALUES ($1, $2, $3, $4, $5)`,
		id, in.SupplierID, in.BegunAs, strings.TrimSpace(in.Quote), until)
	if err != nil {
		return Order{}, fmt.Errorf("writing a purchase order: %w", err)
	}
	if err := in.OrderTerms.keep(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := in.OrderTerms.ask("", tx.Now); err != nil {
		return Order{}, err
	}
	if err := (Order{ID: id, SiteID: in.SiteID, SupplierID: in.SupplierID}).writeLines(ctx, tx, in.Lines); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err != nil {
		return o, err
	}
	if err := o.keepLanded(ctx, tx); err != nil {
		return o, err
	}
	tx.NotifySite(in.SiteID, topics...)
	if in.Send {
		return PlaceOrder(ctx, tx, id, 0)
	}
	return o, nil
}

// supplier is how a supplier takes orders, and where goods come from.
type supplier struct {
	ID                   int32
	Name, Carrier, Terms string
	Location             int32 `db:"location_id"`
}

func readSupplier(ctx context.Context, q sqlx.QueryerContext, id int32) (s supplier, err error) {
	err = sqlx.GetContext(ctx, q, &s, `
		SELECT id, name, carrier, terms, location_id FROM parties WHERE id = $1 AND kind = 'supplier'`, id)
	return s, documents.FoundOr(err, refusal.New(refusal.SupplierUnknown, "supplier_id",
		"Choose a supplier for the order."))
}

// ask asks about a day that is past, unless it stood before.
func (t OrderTerms) ask(before string, now time.Time) error {
	past := t.ExpectedOn < now.UTC().Format(time.DateOnly) && t.ExpectedOn != before
	return t.Sure.Ask(past, refusal.Question(refusal.DayPast, "expected_on",
		"%s is past. Enter the day on which it is expected, or say that it is meant so.", t.ExpectedOn))
}

// keep writes the terms of an order.
func (t OrderTerms) keep(ctx context.Context, tx *command.Tx, order int64) error {
	expected, err := documents.Day("expected_on", t.ExpectedOn)
	if err != nil {
		return err
	}
	if err := carriers.RequireOn(ctx, tx, carriers.Inbound, order, t.Carrier); err != nil {
		return err
	}
	freight, err := t.freight(tx.Person)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		WITH o AS (UPDATE inbound_orders SET expected_on = $2, carrier = $3 WHERE id = $1)
		UPDATE purchase_orders SET terms = $4, freight = coalesce($5, freight),
		       freight_by = coalesce(nullif($6, ''), freight_by) WHERE order_id = $1`,
		order, expected, t.Carrier, t.Terms, freight, t.FreightBy)
	if err != nil {
		return fmt.Errorf("writing an order's terms: %w", err)
	}
	return nil
}

// freight is what freight costs; nothing where it stays, since whoever writes the terms sees no money.
func (t OrderTerms) freight(by people.Person) (*decimal.Decimal, error) {
	switch {
	case !by.SeesMoney() && t.Freight != "":
		return nil, pricesBarred("freight", by)
	case !by.SeesMoney():
		return nil, nil
	case t.Freight == "":
		return &decimal.Zero, nil
	}
	freight, err := wholeHundredths("freight", t.Freight)
	return &freight, err
}

// Amend changes an open order: its terms, and its lines as far as nothing came on them.
// What a lead approved is not approved any more when it comes to more.
func Amend(ctx context.Context, tx *command.Tx, id int64, in Amended) (Order, error) {
	if err := inbound.Hold(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, in.Version, "changed it"); err != nil {
		return Order{}, err
	}
	before, err := readOrder(ctx, tx, id)
	if err != nil {
		return before, err
	}
	if before.State == states.Closed || before.State == states.Received {
		return before, refusal.New(refusal.OrderClosed, "",
			"%s is %s. Its lines stay as they are; write what is to be kept into its note.", before.Number, states.Label(before.State)).Of(refusal.Conflict)
	}
	if err := in.OrderTerms.keep(ctx, tx, id); err != nil {
		return before, err
	}
	if err := in.OrderTerms.ask(before.ExpectedOn, tx.Now); err != nil {
		return before, err
	}
	if err := before.amendOffer(ctx, tx, in); err != nil {
		return before, err
	}
	if err := before.amendLines(ctx, tx, in); err != nil {
		return before, err
	}
	after, err := readOrder(ctx, tx, id)
	if err != nil {
		return after, err
	}
	if err := after.keepLanded(ctx, tx); err != nil {
		return after, err
	}
	if err := after.settle(ctx, tx, before); err != nil {
		return after, err
	}
	tx.NotifySite(after.SiteID, ledger.Topics(topics...)...)
	return readOrder(ctx, tx, id)
}

// amendOffer changes whom a draft asks, and the quote that it is made of.
func (o *Order) amendOffer(ctx context.Context, tx *command.Tx, in Amended) error {
	other := in.SupplierID != 0 && in.SupplierID != o.SupplierID
	if !other && in.Quote == "" && in.QuoteUntil == "" {
		return nil
	}
	if o.State != states.Draft {
		return refusal.New(refusal.OrderPlaced, "supplier_id",
			"%s was sent to %s. Its supplier and quote stay as they are; close it and write another.", o.Number,
			o.Supplier).Of(refusal.Conflict)
	}
	var until *time.Time
	if in.QuoteUntil != "" {
		day, err := documents.Day("quote_until", in.QuoteUntil)
		if err != nil {
			return err
		}
		until = &day
	}
	if other {
		supplier, err := readSupplier(ctx, tx, in.SupplierID)
		if err != nil {
			return err
		}
		if err := o.notAsked(ctx, tx, supplier); err != nil {
			return err
		}
		o.SupplierID = in.SupplierID
		if _, err := tx.ExecContext(ctx, `
			UPDATE inbound_orders SET party_id = $2, source_id = $3 WHERE id = $1`, o.ID, in.SupplierID,
			supplier.Location); err != nil {
			return fmt.Errorf("changing an order's supplier: %w", err)
		}
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE purchase_orders SET supplier_id = $2, quote = coalesce(nullif($3, ''), quote),
		  quote_until = coalesce($4, quote_until) WHERE order_id = $1`,
		o.ID, o.SupplierID, strings.TrimSpace(in.Quote), until); err != nil {
		return fmt.Errorf("changing an order's quote: %w", err)
	}
	return nil
}

// notAsked refuses a supplier that another quote of the same request asks already.
func (o Order) notAsked(ctx context.Context, tx *command.Tx, s supplier) error {
	var quotes []string
	err := tx.SelectContext(ctx, &quotes, `
		SELECT i.number FROM purchase_orders a
		  JOIN purchase_orders b ON b.asked_for = a.asked_for AND b.order_id <> a.order_id AND b.supplier_id = $2
		  JOIN inbound_orders i ON i.id = b.order_id
		 WHERE a.order_id = $1`, o.ID, s.ID)
	if err != nil {
		return fmt.Errorf("reading who was asked: %w", err)
	}
	if len(quotes) == 0 {
		return nil
	}
	return refusal.New(refusal.SupplierAsked, "supplier_id",
		"%s is asked already, with %s. Write what they offer there, or choose another supplier.", s.Name, quotes[0]).
		Of(refusal.Conflict)
}

// settle lets lines, approval and state follow from how the order was changed.
func (o Order) settle(ctx context.Context, tx *command.Tx, before Order) error {
	if len(o.Lines) == 0 {
		return refusal.New(refusal.LinesMissing, "lines", "The order would have no lines. Close it instead.")
	}
	// Lines close and open by what came, which their new quantity may change.
	var counted []inbound.Counted
	for _, l := range o.Lines {
		if l.Received.IsPositive() {
			counted = append(counted, inbound.Counted{Line: l.ID, Settlement: l.After(l.Received)})
		}
	}
	if err := inbound.Count(ctx, tx, counted...); err != nil {
		return err
	}
	if o.Value.GreaterThan(before.Value) {
		if _, err := tx.ExecContext(ctx, `
			UPDATE purchase_orders SET approved_by = NULL, approved_at = NULL WHERE order_id = $1`, o.ID); err != nil {
			return fmt.Errorf("taking an approval back: %w", err)
		}
		o.ApprovedBy = ""
	}
	if before.State == states.Draft {
		return nil
	}
	if err := o.mayStand(tx.Person); err != nil {
		return err
	}
	if err := o.approveAtOnce(ctx, tx); err != nil {
		return err
	}
	return inbound.Settle(ctx, tx, o.ID)
}

// PlaceOrder sends a draft to its supplier. A quote whose prices have run out, and
// what a lead has not approved, is refused.
func PlaceOrder(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, version, "sent it to the supplier"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err != nil {
		return o, err
	}
	switch {
	case o.State != states.Draft:
		return o, refusal.New(refusal.OrderPlaced, "", "The order was sent to its supplier already.").Of(refusal.Conflict)
	case !slices.ContainsFunc(o.Lines, func(l Line) bool { return l.Stock() }):
		return o, refusal.New(refusal.LinesMissing, "lines",
			"%s has no line that anything could arrive on. Add an item.", o.Number)
	case o.QuoteUntil != nil && *o.QuoteUntil < tx.Now.Format(time.DateOnly):
		return o, refusal.New(refusal.QuoteOver, "",
			"The prices of quote %s stood until %s. Ask %s for another, and write its prices.", o.Quote, *o.QuoteUntil, o.Supplier).Of(refusal.Conflict)
	}
	if err := o.mayStand(tx.Person); err != nil {
		return o, err
	}
	if err := inbound.Place(ctx, tx, id); err != nil {
		return o, err
	}
	if err := o.approveAtOnce(ctx, tx); err != nil {
		return o, err
	}
	tx.NotifySite(o.SiteID, topics...)
	return readOrder(ctx, tx, id)
}

// CloseOrder closes an order for good. What is still missing on it is cancelled, what
// waited for it goes into stock; nothing but its note can be changed from then on.
func CloseOrder(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := inbound.Hold(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, version, "closed it"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err != nil {
		return o, err
	}
	if o.State == states.Closed {
		return o, refusal.New(refusal.OrderClosed, "", "%s is closed already.", o.Number).Of(refusal.Conflict)
	}
	if err := inbound.Close(ctx, tx, id); err != nil {
		return o, err
	}
	tx.NotifySite(o.SiteID, ledger.Topics(topics...)...)
	return readOrder(ctx, tx, id)
}

// Annotate writes the order's note, in any state.
func Annotate(ctx context.Context, tx *command.Tx, id int64, version int32, note string) (Order, error) {
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, version, "wrote its note"); err != nil {
		return Order{}, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE inbound_orders SET note = $2 WHERE id = $1`, id, note); err != nil {
		return Order{}, fmt.Errorf("writing a note: %w", err)
	}
	o, err := readOrder(ctx, tx, id)
	tx.NotifySite(o.SiteID, topics...)
	return o, err
}

// ReleaseOrder releases goods into stock that wait for the rest of their order, without
// the rest.
func ReleaseOrder(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := inbound.Hold(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := documents.Change(ctx, tx, documents.InboundOrder, id, version, "let waiting goods go"); err != nil {
		return Order{}, err
	}
	waiting, err := inbound.WaitingFor(ctx, tx, id)
	if err != nil {
		return Order{}, err
	}
	if len(waiting) == 0 {
		return Order{}, refusal.New(refusal.NothingWaits, "",
			"Nothing waits for the rest of this order.").Of(refusal.Conflict)
	}
	if err := inbound.Release(ctx, tx, id, "released without the rest"); err != nil {
		return Order{}, err
	}
	return readOrder(ctx, tx, id)
}
