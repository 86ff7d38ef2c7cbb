package returns

import (
	"context"
	"fmt"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/outbound"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// supplier is who goods go back to.
type supplier struct {
	ID          int32
	Name        string
	Destination int32 `db:"location_id"`
}

// supplier reads who gets goods of the line back: who is named, or who supplied the item last.
func (l Line) supplier(ctx context.Context, q sqlx.QueryerContext, named int32) (s supplier, err error) {
	err = sqlx.GetContext(ctx, q, &s, `
		SELECT p.id, p.name, p.location_id FROM parties p
		 WHERE p.kind = 'supplier' AND p.id = coalesce(nullif($1, 0), (
		       SELECT n.party_id FROM inbound_lines b JOIN inbound_orders n ON n.id = b.order_id
		        WHERE n.kind = 'purchase' AND b.item_id = $2 AND b.received > 0 ORDER BY n.id DESC LIMIT 1))`, named, l.ItemID)
	return s, documents.FoundOr(err, refusal.New(refusal.SupplierUnsaid, "supplier_id",
		"Nobody is known to have supplied %s. Say which supplier gets it back.", l.SKU))
}

// backToSupplier makes the order that the goods go to their supplier with, for which they are reserved where they
// stand.
func (d *decision) backToSupplier(ctx context.Context, tx *command.Tx) (*int64, error) {
	id, err := outbound.Create(ctx, tx, outbound.New{Kind: outbound.SupplierReturn, SiteID: d.order.SiteID,
		PartyID: d.supplier.ID, DestinationID: d.supplier.Destination, State: states.Released, Reference: d.order.Number,
		Change: "made it for " + d.order.Number})
	if err != nil {
		return nil, err
	}
	return &id, reserveFor(ctx, tx, id, d.MoveList())
}

// reserveFor writes the line of an order over goods that were moved, and reserves them for it where they are now.
func reserveFor(ctx context.Context, tx *command.Tx, order int64, moves []ledger.Move) error {
	total := decimal.Zero
	for _, m := range moves {
		total = total.Add(m.Quantity)
	}
	lines, err := outbound.AddLines(ctx, tx, order, []outbound.NewLine{{Item: moves[0].Item, Quantity: total}})
	if err != nil {
		return err
	}
	for _, m := range moves {
		at := ledger.Stock{Location: m.To, Item: m.Item, Lot: m.Lot, Serial: m.Serial}
		if _, err := reservation.Reserve(ctx, tx, lines[0], at, m.Quantity); err != nil {
			return err
		}
	}
	return nil
}

// Repaired sends goods that were decided to be repaired to their customer again: the same ones, out of quarantine, with
// an order that is released at once.
func Repaired(ctx context.Context, tx *command.Tx, id int64, version int32, which int64) (Return, error) {
	o, err := change(ctx, tx, id, version, "sends what is repaired")
	if err != nil {
		return o, err
	}
	line, done, err := o.repair(which)
	if err != nil {
		return o, err
	}
	moves, err := o.outOfRepair(ctx, tx, line, done)
	if err != nil {
		return o, err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.DecideReturn, Document: o.Number,
		Note: o.Customer + ", repaired"}, moves); err != nil {
		return o, err
	}
	where, err := o.sentTo(ctx, tx)
	if err != nil {
		return o, err
	}
	out, err := outbound.Create(ctx, tx, outbound.New{Kind: outbound.Replacement, SiteID: o.SiteID, PartyID: o.CustomerID,
		DestinationID: where.Destination, Carrier: where.Carrier, State: states.Released, Reference: o.Number,
		Change: "made it for " + o.Number})
	if err != nil {
		return o, err
	}
	if err := reserveFor(ctx, tx, out, moves); err != nil {
		return o, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE return_decisions SET outbound_id = $2 WHERE id = $1`, which, out); err != nil {
		return o, fmt.Errorf("noting what is repaired: %w", err)
	}
	tx.NotifySite(o.SiteID, ledger.Topics(append(topics, "orders", "pick")...)...)
	return Read(ctx, tx, id)
}

// repair finds goods that are to be repaired and were not sent yet.
func (o Return) repair(which int64) (Line, Decision, error) {
	for _, l := range o.Lines {
		for _, d := range l.Decisions {
			if d.ID != which {
				continue
			}
			if d.Fate != ToRepair || d.Outbound != "" {
				return l, d, refusal.New(refusal.ReturnOver, "", "These %s of %s wait for no repair%s.", d.Quantity, l.SKU,
					map[bool]string{true: ": they went with " + d.Outbound}[d.Outbound != ""]).Of(refusal.Conflict)
			}
			return l, d, nil
		}
	}
	return Line{}, Decision{}, documents.Missing("decision", fmt.Sprint(which))
}

// outOfRepair are the moves of repaired goods from quarantine to the dock.
func (o Return) outOfRepair(ctx context.Context, q sqlx.QueryerContext, l Line, d Decision) ([]ledger.Move, error) {
	from, err := catalog.OneLocation(ctx, q, o.SiteID, ends[ToRepair].kind)
	if err != nil {
		return nil, err
	}
	dock, err := catalog.OneLocation(ctx, q, o.SiteID, "dock")
	if err != nil {
		return nil, err
	}
	move := ledger.Move{Item: l.ItemID, Lot: l.LotID, Quantity: d.Quantity, From: from.ID, FromState: posting.Held, To: dock.ID}
	if l.Tracking == receiving.LotOut {
		move.Lot = nil
	}
	return l.spread(ctx, q, move, d.units())
}
