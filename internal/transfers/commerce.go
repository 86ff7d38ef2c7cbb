package transfers

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/outbound"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/shipping"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

func init() { shipping.Attach(outbound.Transfer, commerce{}) }

// commerce is what follows the shipment of a transfer.
type commerce struct{}

// Plan says where the goods are from then on.
func (commerce) Plan(ctx context.Context, q sqlx.QueryerContext, s shipping.Request, p *shipping.Plan) error {
	h, err := readHead(ctx, q, s.Order)
	if err != nil || h.To == "" {
		return err
	}
	p.Notes = append(p.Notes, fmt.Sprintf("It is in transit from then on, expected at %s on %s.", h.To,
		h.ExpectedOn.Format(time.DateOnly)))
	return nil
}

// head is what the second half takes over from the first.
type head struct {
	Number        string
	From          int32     `db:"site_id"`
	ToSite        int32     `db:"to_site_id"`
	To            string    `db:"to_site"`
	DestinationID int32     `db:"destination_id"`
	ExpectedOn    time.Time `db:"expected_on"`
	Reason        string
	// Before is how many shipments of it went before.
	Before int
}

func readHead(ctx context.Context, q sqlx.QueryerContext, order int64) (h head, err error) {
	var found []head
	err = sqlx.SelectContext(ctx, q, &found, `
		SELECT o.number, o.site_id, o.to_site_id, s.name AS to_site, o.destination_id, o.due_on AS expected_on, t.reason,
		       (SELECT count(*) FROM shipments d JOIN inbound_orders n ON n.shipment_id = d.id
		         WHERE d.order_id = o.id) AS before
		  FROM outbound_orders o JOIN transfer_orders t ON t.order_id = o.id JOIN sites s ON s.id = o.to_site_id
		 WHERE o.id = $1`, order)
	if err != nil {
		return h, fmt.Errorf("reading a transfer: %w", err)
	}
	if len(found) > 0 {
		h = found[0]
	}
	return h, nil
}

// Shipped has what went expected at the other site, item by item.
func (commerce) Shipped(ctx context.Context, tx *command.Tx, s shipping.Request, d shipping.Shipment) error {
	h, err := readHead(ctx, tx, s.Order)
	if err != nil || h.To == "" {
		return err
	}
	// The second half bears the number of the first; one that goes in parts is counted.
	number := h.Number
	if h.Before > 0 {
		number = fmt.Sprintf("%s/%d", h.Number, h.Before+1)
	}
	id, err := inbound.Create(ctx, tx, inbound.New{Kind: inbound.Transfer, Number: number, SiteID: h.ToSite,
		FromSite: h.From, SourceID: h.DestinationID, Shipment: d.ID, State: states.Placed, ExpectedOn: h.ExpectedOn, Note: h.Reason,
		Change: "shipped it"})
	if err != nil {
		return err
	}
	var went []struct {
		Item     int32 `db:"item_id"`
		Covers   *int64
		Quantity decimal.Decimal
	}
	if err := tx.SelectContext(ctx, &went, `
		SELECT l.item_id, t.covers, sum(x.quantity) AS quantity FROM shipment_lines x JOIN outbound_lines l ON l.id = x.line_id
		  LEFT JOIN transfer_covers t ON t.line_id = l.id
		 WHERE x.shipment_id = $1 AND l.item_id IS NOT NULL GROUP BY l.item_id, t.covers ORDER BY min(l.line)`, d.ID); err != nil {
		return fmt.Errorf("reading what was shipped: %w", err)
	}
	lines := make([]inbound.NewLine, len(went))
	for i, g := range went {
		lines[i] = inbound.NewLine{Item: g.Item, Quantity: g.Quantity, Covers: g.Covers}
	}
	if _, err := inbound.AddLines(ctx, tx, id, lines); err != nil {
		return err
	}
	tx.NotifySite(h.ToSite, "transfers", "receive", "row", "stock")
	tx.NotifySite(h.From, "transfers")
	return nil
}

// half reads what of a shipment is expected at the other site; there is none of one that was not a
// transfer's.
func half(ctx context.Context, q sqlx.QueryerContext, shipment int64) (found []expected, err error) {
	if err := sqlx.SelectContext(ctx, q, &found, `
		SELECT n.id, n.site_id, s.name AS site,
		       (SELECT sum(received) FROM inbound_lines WHERE order_id = n.id) AS received,
		       (SELECT count(*) FROM transfer_cases k JOIN inbound_lines l ON l.id = k.line_id
		         WHERE l.order_id = n.id) AS cases
		  FROM inbound_orders n JOIN sites s ON s.id = n.site_id WHERE n.shipment_id = $1`, shipment); err != nil {
		return nil, fmt.Errorf("reading what is expected: %w", err)
	}
	return found, nil
}

// expected is what of a shipment is expected at the other site.
type expected struct {
	ID       int64
	SiteID   int32 `db:"site_id"`
	Site     string
	Received decimal.Decimal
	Cases    int
}

// MayTakeBack refuses a shipment of which something came already.
func (commerce) MayTakeBack(ctx context.Context, q sqlx.QueryerContext, d shipping.Shipment) error {
	found, err := half(ctx, q, d.ID)
	for _, h := range found {
		if h.Cases > 0 {
			return refusal.New(refusal.GoodsGone, "", "%d differences of %s were told at %s. Settle them instead.", h.Cases,
				d.Number, h.Site).Of(refusal.Conflict)
		}
		if h.Received.IsPositive() {
			return refusal.New(refusal.GoodsGone, "",
				"%s of %s were received at %s. Take the receipt back there first, or transfer them back.", h.Received,
				d.Number, h.Site).Of(refusal.Conflict)
		}
	}
	return err
}

// HoldTakeBack holds what is expected, the order that it was shipped for, and the arrivals that bring it.
func (commerce) HoldTakeBack(ctx context.Context, tx *command.Tx, d shipping.Shipment) error {
	found, err := half(ctx, tx, d.ID)
	for _, h := range found {
		// Orders are held before arrivals, both halves of them.
		if err := documents.Hold(ctx, tx, documents.Own(documents.InboundOrder, h.ID),
			documents.Own(documents.OutboundOrder, d.OrderID)); err != nil {
			return err
		}
		if err := inbound.Hold(ctx, tx, h.ID); err != nil {
			return err
		}
	}
	return err
}

// TakenBack has nothing expected at the other site any more.
func (commerce) TakenBack(ctx context.Context, tx *command.Tx, d shipping.Shipment) error {
	found, err := half(ctx, tx, d.ID)
	for _, h := range found {
		if err := documents.Change(ctx, tx, documents.InboundOrder, h.ID, 0, "took its shipment back"); err != nil {
			return err
		}
		if err := inbound.Close(ctx, tx, h.ID); err != nil {
			return err
		}
		tx.NotifySite(h.SiteID, "transfers", "receive", "row", "stock")
	}
	return err
}
