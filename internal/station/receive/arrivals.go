package receive

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

var topics = []string{"receive", "row"}

// OpenArrival opens an arrival for placed orders of one source at a dock of their
// site.
func OpenArrival(ctx context.Context, tx *command.Tx, in NewArrival) (Arrival, error) {
	if len(in.OrderIDs) == 0 {
		return Arrival{}, refusal.New(refusal.OrderMissing, "order_ids",
			"An arrival needs at least one order that its goods are on.")
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.InboundOrder, in.OrderIDs...)); err != nil {
		return Arrival{}, err
	}
	first, err := inbound.Read(ctx, tx, in.OrderIDs[0])
	if err != nil {
		return Arrival{}, err
	}
	location, err := catalog.LocationByID(ctx, tx, in.DockID)
	unknown := refusal.New(refusal.DockUnknown, "dock_id", "Choose a %s of the site that %s comes to.",
		entrances[first.Kind.Entrance()], first.Number)
	if err := documents.FoundOr(err, unknown); err != nil {
		return Arrival{}, err
	}
	if location.Kind != first.Kind.Entrance() || *location.SiteID != first.SiteID {
		return Arrival{}, unknown
	}
	if err := onlyArrival(ctx, tx, first.SiteID, in); err != nil {
		return Arrival{}, err
	}
	var id int64
	err = tx.GetContext(ctx, &id, `
		INSERT INTO arrivals (party_id, from_site_id, source_id, site_id, dock_id, waits, state, opened_at,
		  changed_by, changed_at, last_change)
		VALUES ($1, $2, $3, $4, $5, $6, 'open', $7, $8, $7, 'opened it') RETURNING id`,
		first.PartyID, first.FromSiteID, first.SourceID, first.SiteID, in.DockID, in.Waits, tx.Now, tx.Person.ID)
	if err != nil {
		return Arrival{}, fmt.Errorf("opening an arrival: %w", err)
	}
	documents.Made(tx, documents.Arrival, id)
	for _, order := range in.OrderIDs {
		if err := joinOrder(ctx, tx, id, first, order); err != nil {
			return Arrival{}, err
		}
	}
	a, err := showArrival(ctx, tx, id)
	tx.NotifySite(a.SiteID, topics...)
	return a, err
}

// entrances are the words for where goods come in.
var entrances = map[string]string{"dock": "dock", "returns": "returns corner"}

// onlyArrival asks whether a second arrival is meant, where one is open for an order already.
func onlyArrival(ctx context.Context, q sqlx.QueryerContext, site int32, in NewArrival) error {
	if in.Another {
		return nil
	}
	for _, order := range in.OrderIDs {
		open, err := listArrivals(ctx, q, site, order)
		if err != nil {
			return err
		}
		if len(open) > 0 {
			return refusal.New(refusal.ArrivalStands, "order_ids",
				"%s is open for %s already, at %s. Receive on it, or open another for goods on another vehicle.",
				open[0].Number, open[0].Order, open[0].Dock).Of(refusal.Conflict).With("arrival", open[0].ID)
		}
	}
	return nil
}

// joinOrder puts an order on an arrival, beside one that is on it.
func joinOrder(ctx context.Context, tx *command.Tx, arrival int64, beside inbound.Order, order int64) error {
	o, err := inbound.Read(ctx, tx, order)
	if err != nil {
		return err
	}
	if !o.State.Open() {
		return refusal.New(refusal.OrderNotOpen, "order_ids",
			"%s is %s. An arrival needs an order that was sent to its supplier and is not received in full.", o.Number, states.Label(o.State)).Of(refusal.Conflict)
	}
	if !o.Same(beside.Source) || o.SiteID != beside.SiteID {
		return refusal.New(refusal.OrderElsewhere, "order_ids",
			"%s is with %s, and this arrival brings goods of %s. One delivery is of one source, to one site.", o.Number, o.Source.Source, beside.Source.Source).Of(refusal.Conflict)
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO arrival_orders (arrival_id, order_id)
		VALUES ($1, $2) ON CONFLICT DO NOTHING`, arrival, order); err != nil {
		return fmt.Errorf("putting an order on an arrival: %w", err)
	}
	return nil
}

// AddOrder puts a further order on an open arrival, whose goods are on the same lorry.
func AddOrder(ctx context.Context, tx *command.Tx, id int64, version int32, order int64) (Arrival, error) {
	if err := documents.Hold(ctx, tx, documents.Own(documents.InboundOrder, order)); err != nil {
		return Arrival{}, err
	}
	if err := documents.Change(ctx, tx, documents.Arrival, id, version, "added an order"); err != nil {
		return Arrival{}, err
	}
	a, err := readArrival(ctx, tx, id)
	if err != nil {
		return a, err
	}
	if a.State != states.ArrivalOpen {
		return a, refusal.New(refusal.ArrivalDone, "", "%s is closed. Open another arrival for the order.",
			a.Number).Of(refusal.Conflict)
	}
	if err := joinOrder(ctx, tx, id, inbound.Order{SiteID: a.SiteID, Source: a.Source}, order); err != nil {
		return a, err
	}
	tx.NotifySite(a.SiteID, topics...)
	return showArrival(ctx, tx, id)
}

// NoteDelivery writes the number of the delivery note that came with an arrival, in any state.
func NoteDelivery(ctx context.Context, tx *command.Tx, id int64, version int32, number string) (Arrival, error) {
	if err := documents.Change(ctx, tx, documents.Arrival, id, version, "wrote its delivery note's number"); err != nil {
		return Arrival{}, err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE arrivals SET delivery_note = $2 WHERE id = $1`, id, strings.TrimSpace(number)); err != nil {
		return Arrival{}, fmt.Errorf("writing a delivery note's number: %w", err)
	}
	a, err := showArrival(ctx, tx, id)
	tx.NotifySite(a.SiteID, topics...)
	return a, err
}

// CloseArrival closes an arrival on which no more comes.
func CloseArrival(ctx context.Context, tx *command.Tx, id int64, version int32) (Arrival, error) {
	if err := documents.Change(ctx, tx, documents.Arrival, id, version, "closed it"); err != nil {
		return Arrival{}, err
	}
	if err := inbound.EndArrival(ctx, tx, id); err != nil {
		return Arrival{}, err
	}
	a, err := showArrival(ctx, tx, id)
	tx.NotifySite(a.SiteID, topics...)
	return a, err
}

// listWanted reads which orders wait for what stands good on an arrival's dock and lies
// in no bin, the earliest first: each is offered what those before it leave.
func listWanted(ctx context.Context, q sqlx.QueryerContext, a Arrival) ([]Wanted, error) {
	var rows []struct {
		Wanted
		InBins decimal.Decimal `db:"in_bins"`
		Docked decimal.Decimal `db:"docked"`
	}
	err := sqlx.SelectContext(ctx, q, &rows, `
		WITH docked AS (SELECT item_id, sum(quantity - reserved) AS docked FROM balances WHERE location_id = $2
		  AND condition = 'good' AND quantity > reserved GROUP BY 1),
		     binned AS (SELECT b.item_id, sum(b.quantity - b.reserved) AS binned FROM balances b
		     JOIN locations p ON p.id = b.location_id
		                 WHERE p.site_id = $1 AND p.kind = 'bin' AND b.condition = 'good'
		                   AND b.item_id IN (SELECT item_id FROM docked) GROUP BY 1)
		SELECT l.id AS line_id, o.id AS order_id, o.number AS order_number, o.recipient AS customer,
		       to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on, i.id AS item_id, i.sku,
		       l.due - coalesce(t.reserved, 0) AS quantity, coalesce(b.binned, 0) AS in_bins, d.docked
		  FROM outbound_lines l JOIN outbound o ON o.id = l.order_id JOIN items i ON i.id = l.item_id
		  JOIN docked d ON d.item_id = l.item_id LEFT JOIN binned b ON b.item_id = l.item_id
		  LEFT JOIN LATERAL (SELECT sum(quantity) AS reserved FROM reservations WHERE line_id = l.id) AS t ON true
		 WHERE o.site_id = $1 AND o.state = 'released' AND l.due > coalesce(t.reserved, 0) ORDER BY o.wanted_on, o.id,
		   l.line`, a.SiteID, a.DockID)
	if err != nil {
		return nil, fmt.Errorf("reading who waits: %w", err)
	}
	out := []Wanted{}
	used := map[int32]decimal.Decimal{}
	for _, r := range rows {
		// What the bins have serves the earlier orders; the dock the rest.
		before := used[r.ItemID]
		used[r.ItemID] = before.Add(r.Quantity)
		short := decimal.Min(r.Quantity, used[r.ItemID].Sub(r.InBins))
		left := r.Docked.Sub(decimal.Max(before.Sub(r.InBins), decimal.Zero))
		if r.Quantity = decimal.Min(short, left); r.Quantity.IsPositive() {
			out = append(out, r.Wanted)
		}
	}
	return out, nil
}
