package shipping

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/catalog"
	"lanternrow/internal/connection"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/outbound"
	"lanternrow/internal/papers"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
)

// PlanTakeBack says what taking a shipment back would do, and refuses one that is invoiced or
// that was taken back already.
func PlanTakeBack(ctx context.Context, q sqlx.QueryerContext, id int64) (*ledger.Plan, Shipment, error) {
	d, err := Read(ctx, q, id)
	if err != nil {
		return nil, d, err
	}
	switch {
	case d.State == states.ShipmentTakenBack:
		return nil, d, refusal.New(refusal.ShipmentTakenBack, "", "%s was taken back already, with %s.", d.Number,
			d.TakenBack).Of(refusal.Conflict)
	case d.Invoiced != "":
		return nil, d, refusal.New(refusal.ShipmentInvoiced, "",
			"%s is invoiced by %s. Take the invoice back first, with a credit note.", d.Number, d.Invoiced).Of(refusal.Conflict)
	}
	if err := d.nothingReturned(ctx, q); err != nil {
		return nil, d, err
	}
	side, err := d.takingBack(ctx, q)
	if err == nil && side != nil {
		err = side.MayTakeBack(ctx, q, d)
	}
	if err != nil {
		return nil, d, err
	}
	moves, err := d.backwards(ctx, q)
	if err != nil {
		return nil, d, err
	}
	plan, err := ledger.Describe(ctx, q, moves)
	if err != nil {
		return nil, d, err
	}
	cartons := measure.Count(len(d.Cartons), "carton")
	stand := "stand"
	if len(d.Cartons) == 1 {
		stand = "stands"
	}
	plan.Notes = append(plan.Notes, fmt.Sprintf("%s of %s %s packed again, to be shipped anew or unpacked.", cartons,
		d.Order, stand))
	if d.Tracking != "" {
		plan.Notes = append(plan.Notes, fmt.Sprintf("%s knows it as %s: tell them that it does not go.", d.Carrier,
			d.Tracking))
	}
	plan.Button = fmt.Sprintf("Take %s back, %s", d.Number, cartons)
	return plan, d, nil
}

// nothingReturned refuses a shipment of which something came back, or may come.
func (d Shipment) nothingReturned(ctx context.Context, q sqlx.QueryerContext) error {
	var returns []string
	if err := sqlx.SelectContext(ctx, q, &returns, `
		SELECT DISTINCT n.number FROM return_lines r JOIN inbound_lines l ON l.id = r.line_id
		  JOIN inbound_orders n ON n.id = l.order_id
		 WHERE r.shipment_id = $1 AND (l.received > 0 OR NOT l.closed) ORDER BY 1`, d.ID); err != nil {
		return fmt.Errorf("reading the returns of a shipment: %w", err)
	}
	if len(returns) > 0 {
		return refusal.New(refusal.GoodsGone, "", "Goods of %s are on %s. They come back that way, not by taking it back.",
			d.Number, strings.Join(returns, ", ")).Of(refusal.Conflict)
	}
	return nil
}

// backwards are the moves of a shipment turned round: from where it went to where packed cartons
// stand, at the cost it went out at.
func (d Shipment) backwards(ctx context.Context, q sqlx.QueryerContext) ([]ledger.Move, error) {
	gate, err := catalog.OneLocation(ctx, q, d.SiteID, "staging")
	if err != nil {
		return nil, err
	}
	var moves []ledger.Move
	rows, err := q.QueryxContext(ctx, `
		SELECT m.item_id, m.lot_id, m.serial_id, m.quantity, m.to_location, m.to_carton, m.from_carton, m.unit_cost
		  FROM postings p JOIN moves m ON m.posting_id = p.id
		 WHERE p.document = $1 AND p.kind = $2 ORDER BY m.id`, d.Number, posting.Ship)
	if err != nil {
		return nil, fmt.Errorf("reading what a shipment moved: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		m := ledger.Move{To: gate.ID}
		if err := rows.Scan(&m.Item, &m.Lot, &m.Serial, &m.Quantity, &m.From, &m.FromBox, &m.ToBox, &m.Cost); err != nil {
			return nil, fmt.Errorf("reading what a shipment moved: %w", err)
		}
		moves = append(moves, m)
	}
	return moves, rows.Err()
}

// TakeBack takes a shipment that was made by mistake back by a paper of its own: its cartons stand
// packed again, its order waits for them, and nothing is deleted.
func TakeBack(ctx context.Context, tx *command.Tx, id int64, reason string) (Shipment, error) {
	d, err := Read(ctx, tx, id)
	if err != nil {
		return d, err
	}
	side, err := d.takingBack(ctx, tx)
	if err == nil && side != nil {
		err = side.HoldTakeBack(ctx, tx, d)
	}
	if err != nil {
		return d, err
	}
	if err := reservation.HoldFloor(ctx, tx, d.OrderID); err != nil {
		return d, err
	}
	if err := documents.Change(ctx, tx, documents.OutboundOrder, d.OrderID, 0, "took a shipment back"); err != nil {
		return d, err
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.Shipment, id)); err != nil {
		return d, err
	}
	if reason = strings.TrimSpace(reason); people.SaysTooLittle(reason) {
		return d, refusal.New(refusal.ReasonShort, "reason",
			"%q says too little. Write in a few words why the shipment is taken back; it stands on the paper.", reason)
	}
	plan, d, err := PlanTakeBack(ctx, tx, id)
	if err != nil {
		return d, err
	}
	if err := d.takeBack(ctx, tx, plan.MoveList(), reason); err != nil {
		return d, err
	}
	if side != nil {
		if err := side.TakenBack(ctx, tx, d); err != nil {
			return d, err
		}
	}
	if d, err = Read(ctx, tx, id); err != nil {
		return d, err
	}
	tx.NotifySite(d.SiteID, ledger.Topics("dispatch", "pack", "orders", "invoicing", "row")...)
	return d, connection.TellHost(ctx, tx, d.SiteID, "shipment_taken_back", d.Number,
		map[string]any{"shipment": d.Number, "taken_back": d.TakenBack, "order": d.Order, "reason": reason})
}

// takeBack writes what PlanTakeBack said. The order and the shipment are held.
func (d Shipment) takeBack(ctx context.Context, tx *command.Tx, moves []ledger.Move, reason string) error {
	boxes := make([]int64, len(d.Cartons))
	for i, c := range d.Cartons {
		boxes[i] = c.ID
	}
	if err := documents.Step(ctx, tx, states.Cartons, boxes, states.CartonPacked,
		"shipment_id = NULL, load_id = NULL, changed_at = $4", tx.Now); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE outbound_lines l
		   SET shipped = l.shipped - x.quantity, picked = l.picked + CASE WHEN l.item_id IS NULL THEN 0 ELSE x.quantity END
		  FROM shipment_lines x WHERE x.shipment_id = $1 AND l.id = x.line_id`, d.ID); err != nil {
		return fmt.Errorf("counting what was taken back: %w", err)
	}
	if err := documents.Step(ctx, tx, states.Shipments, []int64{d.ID}, states.ShipmentTakenBack, `
		taken_back_number = 'DB-' || nextval('taken_back_numbers'), taken_back_at = $4, taken_back_by = $5,
		taken_back_reason = $6`, tx.Now, tx.Person.ID, reason); err != nil {
		return err
	}
	if err := outbound.Settle(ctx, tx, d.OrderID); err != nil {
		return err
	}
	if err := connection.Withdraw(ctx, tx, d.SiteID, connection.Carrier, d.Number); err != nil {
		return err
	}
	_, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.ReverseShipment, Document: d.Number, Note: reason}, moves)
	return err
}

// TakenBackNote is the paper that takes a shipment back.
func TakenBackNote(ctx context.Context, q sqlx.QueryerContext, id int64) (string, []byte, error) {
	d, err := Read(ctx, q, id)
	if err != nil {
		return "", nil, err
	}
	if d.State != states.ShipmentTakenBack {
		return "", nil, documents.Missing("paper that takes back", d.Number)
	}
	var about struct{ Address, Site, Reference string }
	if err := sqlx.GetContext(ctx, q, &about, `
		SELECT o.reference, o.address, s.name AS site FROM outbound o JOIN sites s ON s.id = o.site_id
		 WHERE o.id = $1`, d.OrderID); err != nil {
		return "", nil, fmt.Errorf("reading an order: %w", err)
	}
	group := papers.Group{Heading: "Takes back delivery note " + d.Number + ": " + d.Reason}
	if group.Rows, err = shippedRows(ctx, q, id); err != nil {
		return "", nil, err
	}
	pdf, err := papers.Note{Title: "Delivery note taken back", Number: d.TakenBack, Order: "Order " + d.Order,
		Reference: about.Reference, Date: d.TakenBackAt.UTC().Format("2006-01-02"), From: about.Site, To: d.Customer,
		Address: about.Address, Carrier: d.Carrier, Groups: []papers.Group{group}}.Print()
	return d.TakenBack, pdf, err
}

// shippedRows are what a shipment shipped, also once its cartons stand packed again.
func shippedRows(ctx context.Context, q sqlx.QueryerContext, shipment int64) (rows []papers.Row, err error) {
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT coalesce(i.sku, '') AS sku, coalesce(nullif(l.text, ''), i.description) AS description,
		       trim_scale(x.quantity)::text AS quantity, coalesce(i.base_unit, '') AS unit
		  FROM shipment_lines x JOIN outbound_lines l ON l.id = x.line_id LEFT JOIN items i ON i.id = l.item_id
		 WHERE x.shipment_id = $1 ORDER BY l.line`, shipment); err != nil {
		return nil, fmt.Errorf("reading what a shipment shipped: %w", err)
	}
	return rows, nil
}
