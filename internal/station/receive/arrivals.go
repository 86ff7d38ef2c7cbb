package receive

import (
	"context"
	"fmt"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// OpenArrival opens an arrival for placed orders of one supplier at a dock of their
// site.
func OpenArrival(ctx context.Context, tx *command.Tx, in NewArrival) (Arrival, error) {
	if len(in.OrderIDs) == 0 {
		return Arrival{}, refusal.New("order_missing", "order_ids", "An arrival needs at least one order that its goods are on.")
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.PurchaseOrder, in.OrderIDs...)); err != nil {
		return Arrival{}, err
	}
	first, err := readOrder(ctx, tx, in.OrderIDs[0])
	if err != nil {
		return Arrival{}, err
	}
	place, err := catalog.PlaceByID(ctx, tx, in.DockID)
	if err != nil || place.Kind != "dock" || *place.SiteID != first.SiteID {
		return Arrival{}, refusal.New("dock_unknown", "dock_id", "Choose a dock of the site that %s comes to.", first.Number)
	}
	var id int64
	err = tx.GetContext(ctx, &id, `INSERT INTO arrivals (supplier_id, site_id, dock_id, waits, state, opened_at, changed_by, changed_at, last_change)
		VALUES ($1, $2, $3, $4, 'open', $5, $6, $5, 'opened it') RETURNING id`, first.SupplierID, first.SiteID, in.DockID, in.Waits, tx.Now, tx.Person.ID)
	if err != nil {
		return Arrival{}, fmt.Errorf("opening an arrival: %w", err)
	}
	documents.Made(tx, documents.Arrival, id)
	for _, order := range in.OrderIDs {
		if err := joinOrder(ctx, tx, id, first, order); err != nil {
			return Arrival{}, err
		}
	}
	tx.Touch(topics...)
	return showArrival(ctx, tx, id)
}

// joinOrder puts an order on an arrival, beside one that is on it.
func joinOrder(ctx context.Context, tx *command.Tx, arrival int64, beside Order, order int64) error {
	o, err := readOrder(ctx, tx, order)
	if err != nil {
		return err
	}
	if o.State != "placed" && o.State != "part in" {
		return refusal.New("order_not_open", "order_ids", "%s is %s. An arrival needs an order that is placed and not all in.", o.Number, o.State).Of(refusal.Conflict)
	}
	if o.SupplierID != beside.SupplierID || o.SiteID != beside.SiteID {
		return refusal.New("order_elsewhere", "order_ids", "%s is with %s, and this arrival brings goods of %s. One delivery is of one supplier, to one site.", o.Number, o.Supplier, beside.Supplier).Of(refusal.Conflict)
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO arrival_orders (arrival_id, order_id) VALUES ($1, $2) ON CONFLICT DO NOTHING`, arrival, order); err != nil {
		return fmt.Errorf("putting an order on an arrival: %w", err)
	}
	return nil
}

// AddOrder puts a further order on an open arrival, whose goods are on the same lorry.
func AddOrder(ctx context.Context, tx *command.Tx, id int64, version int32, order int64) (Arrival, error) {
	if err := documents.Hold(ctx, tx, documents.Own(documents.PurchaseOrder, order)); err != nil {
		return Arrival{}, err
	}
	if err := documents.Change(ctx, tx, documents.Arrival, id, version, "added an order"); err != nil {
		return Arrival{}, err
	}
	a, err := readArrival(ctx, tx, id)
	if err != nil {
		return a, err
	}
	if a.State != "open" {
		return a, refusal.New("arrival_done", "", "%s is closed. Open another arrival for the order.", a.Number).Of(refusal.Conflict)
	}
	if err := joinOrder(ctx, tx, id, Order{SupplierID: a.SupplierID, SiteID: a.SiteID, Supplier: a.Supplier}, order); err != nil {
		return a, err
	}
	tx.Touch(topics...)
	return showArrival(ctx, tx, id)
}

// CloseArrival closes an arrival on which no more comes.
func CloseArrival(ctx context.Context, tx *command.Tx, id int64, version int32) (Arrival, error) {
	if err := documents.Change(ctx, tx, documents.Arrival, id, version, "closed it"); err != nil {
		return Arrival{}, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE arrivals SET state = 'done' WHERE id = $1`, id); err != nil {
		return Arrival{}, fmt.Errorf("closing an arrival: %w", err)
	}
	tx.Touch(topics...)
	return showArrival(ctx, tx, id)
}

// ReleaseOrder lets goods go into stock that wait for the rest of their order, without
// the rest.
func ReleaseOrder(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := holdOrders(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := documents.Change(ctx, tx, documents.PurchaseOrder, id, version, "let waiting goods go"); err != nil {
		return Order{}, err
	}
	waiting, err := listHeldBack(ctx, tx, id)
	if err != nil {
		return Order{}, err
	}
	if len(waiting) == 0 {
		return Order{}, refusal.New("nothing_waits", "", "Nothing waits for the rest of this order.").Of(refusal.Conflict)
	}
	if err := release(ctx, tx, id, "let go without the rest"); err != nil {
		return Order{}, err
	}
	return readOrder(ctx, tx, id)
}

// release lets the goods of an order go that waited on the dock for it: they are free
// from then on.
func release(ctx context.Context, tx *command.Tx, order int64, why string) error {
	waiting, err := listHeldBack(ctx, tx, order)
	if err != nil || len(waiting) == 0 {
		return err
	}
	moves := make([]ledger.Move, len(waiting))
	ids := make([]int64, len(waiting))
	for i, w := range waiting {
		moves[i] = ledger.Move{Item: w.Item, Lot: w.Lot, Serial: w.Serial, Quantity: w.Quantity, From: w.Place, FromBox: w.Carton, FromState: ledger.Waiting, To: w.Place, ToBox: w.Carton, ToState: ledger.Good}
		ids[i] = w.MoveID
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: "release", Document: waiting[0].Order, Note: why}, moves); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE bookings SET released_at = $2 WHERE move_id = ANY($1)`, ids, tx.Now); err != nil {
		return fmt.Errorf("noting a release: %w", err)
	}
	for _, w := range waiting {
		if err := (OrderLine{Covers: w.Covers}).tieCovered(ctx, tx, ledger.Stock{Place: w.Place, Item: w.Item, Lot: w.Lot, Serial: w.Serial, Carton: w.Carton}, w.Quantity); err != nil {
			return err
		}
	}
	tx.Touch(ledger.Topics("receive", "putaway", "row")...)
	return nil
}

// heldBack is goods of one booking that wait for the rest of their order.
type heldBack struct {
	MoveID   int64           `db:"move_id"`
	Order    string          `db:"order_number"`
	Item     int32           `db:"item_id"`
	Lot      *int64          `db:"lot_id"`
	Serial   *int64          `db:"serial_id"`
	Carton   *int64          `db:"to_carton"`
	Place    int32           `db:"to_place"`
	Covers   *int64          `db:"covers"`
	Quantity decimal.Decimal `db:"quantity"`
}

func listHeldBack(ctx context.Context, q sqlx.QueryerContext, order int64) ([]heldBack, error) {
	var out []heldBack
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT l.covers, b.move_id, o.number AS order_number, m.item_id, m.lot_id, m.serial_id, m.to_carton, m.to_place, m.quantity
		  FROM bookings b JOIN purchase_lines l ON l.id = b.line_id JOIN purchase_orders o ON o.id = l.order_id JOIN moves m ON m.id = b.move_id
		 WHERE l.order_id = $1 AND m.to_condition = 'waiting' AND b.undone_at IS NULL AND b.released_at IS NULL ORDER BY b.move_id`, order)
	if err != nil {
		return nil, fmt.Errorf("reading what waits for an order: %w", err)
	}
	return out, nil
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
		WITH docked AS (SELECT item_id, sum(quantity - pinned) AS docked FROM balances WHERE place_id = $2 AND condition = 'good' AND quantity > pinned GROUP BY 1),
		     binned AS (SELECT b.item_id, sum(b.quantity - b.pinned) AS binned FROM balances b JOIN places p ON p.id = b.place_id
		                 WHERE p.site_id = $1 AND p.kind = 'bin' AND b.condition = 'good' AND b.item_id IN (SELECT item_id FROM docked) GROUP BY 1)
		SELECT l.id AS line_id, o.id AS order_id, o.number AS order_number, o.recipient AS customer, to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on, i.id AS item_id, i.sku,
		       l.due - coalesce(t.tied, 0) AS quantity, coalesce(b.binned, 0) AS in_bins, d.docked
		  FROM outbound_lines l JOIN outbound o ON o.id = l.order_id JOIN items i ON i.id = l.item_id
		  JOIN docked d ON d.item_id = l.item_id LEFT JOIN binned b ON b.item_id = l.item_id
		  LEFT JOIN LATERAL (SELECT sum(quantity) AS tied FROM pins WHERE line_id = l.id) AS t ON true
		 WHERE o.site_id = $1 AND o.state = 'let go' AND l.due > coalesce(t.tied, 0) ORDER BY o.wanted_on, o.id, l.line`, a.SiteID, a.DockID)
	if err != nil {
		return nil, fmt.Errorf("reading who waits: %w", err)
	}
	out := []Wanted{}
	used := map[int32]decimal.Decimal{}
	for _, r := range rows {
		// What the bins have serves the earlier orders; the dock the rest.
		before := used[r.ItemID]
		used[r.ItemID] = before.Add(r.Quantity)
		lacking := decimal.Min(r.Quantity, used[r.ItemID].Sub(r.InBins))
		left := r.Docked.Sub(decimal.Max(before.Sub(r.InBins), decimal.Zero))
		if r.Quantity = decimal.Min(lacking, left); r.Quantity.IsPositive() {
			out = append(out, r.Wanted)
		}
	}
	return out, nil
}
