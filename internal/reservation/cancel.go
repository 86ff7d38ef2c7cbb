package reservation

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

// Reduction is what a line gave up.
type Reduction struct {
	Reservations decimal.Decimal `json:"reservations"`
	Stops        decimal.Decimal `json:"stops"`
	Restock      decimal.Decimal `json:"restock"`
}

// Words say what a line of an item gave up, for whoever changed the order; nothing when it
// gave up nothing.
func (r Reduction) Words(sku string) string {
	var out []string
	for _, w := range []struct {
		q    decimal.Decimal
		what string
	}{{r.Reservations, "free"}, {r.Stops, "taken off rounds"}, {r.Restock, "to be returned to stock"}} {
		if w.q.IsPositive() {
			out = append(out, w.q.String()+" "+w.what)
		}
	}
	if len(out) == 0 {
		return ""
	}
	return sku + ": " + strings.Join(out, ", ")
}

// CancelOpen cancels what of an order is not shipped, and says line by line what that was.
// It holds the order and what the floor has of it.
func CancelOpen(ctx context.Context, tx *command.Tx, order int64) (words []string, err error) {
	if err := HoldFloor(ctx, tx, order); err != nil {
		return nil, err
	}
	var lines []int64
	if err := tx.SelectContext(ctx, &lines, `
		SELECT id FROM outbound_lines WHERE order_id = $1 AND shipped +
		cancelled < quantity ORDER BY line`, order); err != nil {
		return nil, fmt.Errorf("reading order lines: %w", err)
	}
	for _, line := range lines {
		w, err := CancelLine(ctx, tx, line)
		if err != nil {
			return nil, err
		}
		words = append(words, w)
	}
	return words, nil
}

// CancelLine cancels what of a line is not shipped, and says what that was. Its order is
// held by HoldFloor.
func CancelLine(ctx context.Context, tx *command.Tx, line int64) (words string, err error) {
	var sku *string
	if err := tx.GetContext(ctx, &sku, `
		SELECT i.sku FROM outbound_lines l LEFT JOIN items i ON i.id = l.item_id WHERE l.id = $1`, line); err != nil {
		return "", fmt.Errorf("reading an order line: %w", err)
	}
	if sku != nil {
		r, err := Reduce(ctx, tx, line, decimal.Zero)
		if err != nil {
			return "", err
		}
		words = r.Words(*sku)
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE outbound_lines SET cancelled = quantity - shipped WHERE id = $1`, line); err != nil {
		return "", fmt.Errorf("cancelling an order line: %w", err)
	}
	return words, nil
}

// HoldFloor keeps orders alone, with their open rounds and their cartons, until the
// transaction ends. It comes before any change of what the floor has of them.
func HoldFloor(ctx context.Context, tx *command.Tx, orders ...int64) error {
	if err := documents.Hold(ctx, tx, documents.Own(documents.OutboundOrder, orders...)); err != nil {
		return err
	}
	// Once they are held, no round and no carton of theirs comes or goes.
	var rounds, boxes []int64
	if err := tx.SelectContext(ctx, &rounds, `
		SELECT DISTINCT r.id FROM rounds r JOIN round_stops s ON s.round_id = r.id
		  JOIN outbound_lines l ON l.id = s.line_id
		 WHERE l.order_id = ANY($1) AND r.state <> 'done'`, orders); err != nil {
		return fmt.Errorf("reading the rounds of orders: %w", err)
	}
	if err := tx.SelectContext(ctx, &boxes, `
		SELECT carton_id FROM carton_work WHERE order_id = ANY($1) AND state <> 'shipped'`, orders); err != nil {
		return fmt.Errorf("reading the cartons of orders: %w", err)
	}
	return documents.Hold(ctx, tx, documents.Own(documents.Round, rounds...), documents.Own(documents.Carton, boxes...))
}

// HoldReservedAt shares the orders that goods in these locations are reserved for, so that they
// want them still when the goods have been moved.
func HoldReservedAt(ctx context.Context, tx *command.Tx, locations ...int32) error {
	var orders []int64
	if err := tx.SelectContext(ctx, &orders, `
		SELECT DISTINCT l.order_id FROM reservations p JOIN outbound_lines l ON l.id = p.line_id
		 WHERE p.location_id = ANY($1)`, locations); err != nil {
		return fmt.Errorf("reading who goods are reserved for: %w", err)
	}
	return documents.Hold(ctx, tx, documents.Share(documents.OutboundOrder, orders...))
}

// Reduce lets a line keep no more than so much besides what is shipped: reservations by hand are
// unreserved first, then stops are taken off rounds, and what lies in cartons already is
// put down to be returned to stock. Nothing that was taken is lost. Keep is in base units;
// the line's order is held by HoldFloor.
func Reduce(ctx context.Context, tx *command.Tx, line int64, keep decimal.Decimal) (Reduction, error) {
	var out Reduction
	var have struct{ Planned, Picked decimal.Decimal }
	if err := tx.GetContext(ctx, &have, `
		SELECT planned, picked FROM outbound_lines WHERE id = $1 FOR UPDATE`, line); err != nil {
		return out, fmt.Errorf("reading an order line: %w", err)
	}
	byHand, err := ByHand(ctx, tx, []int64{line})
	if err != nil {
		return out, err
	}
	over := have.Planned.Add(have.Picked).Sub(keep)
	for _, p := range byHand {
		over = over.Add(p.Quantity)
	}
	for _, p := range byHand {
		if cut := decimal.Min(over, p.Quantity); cut.IsPositive() {
			if err := Unreserve(ctx, tx, p, cut); err != nil {
				return out, err
			}
			over, out.Reservations = over.Sub(cut), out.Reservations.Add(cut)
		}
	}
	if over.IsPositive() {
		if out.Stops, err = reduceStops(ctx, tx, line, over); err != nil {
			return out, err
		}
		over = over.Sub(out.Stops)
	}
	if over.IsPositive() {
		if err := orderRestock(ctx, tx, line, over); err != nil {
			return out, err
		}
		out.Restock = over
	}
	return out, nil
}

// reduceStops takes up to so much of a line off the rounds that were not there yet, the
// last stop first.
func reduceStops(
	ctx context.Context, tx *command.Tx, line int64, over decimal.Decimal,
) (released decimal.Decimal, err error) {
	var stops []struct {
		ID          int64
		Round       int64  `db:"round_id"`
		Location    int32  `db:"location_id"`
		Item        int32  `db:"item_id"`
		Lot         *int64 `db:"lot_id"`
		Carton      *int64 `db:"carton_id"`
		Reservation *int64 `db:"reservation_id"`
		Left        decimal.Decimal
		Used, Named bool
	}
	err = tx.SelectContext(ctx, &stops, `
		SELECT id, round_id, location_id, item_id, lot_id, carton_id, reservation_id,
		       quantity - picked - short AS left, picked + short > 0 AS used,
		       EXISTS (SELECT FROM stop_units WHERE stop_id = round_stops.id) AS named
		FROM round_stops WHERE line_id = $1 AND state = 'open' ORDER BY id DESC`, line)
	if err != nil {
		return released, fmt.Errorf("reading stops: %w", err)
	}
	for _, s := range stops {
		cut := decimal.Min(over, s.Left)
		if !cut.IsPositive() {
			break
		}
		var reservation *int64
		if s.Named {
			err = reduceUnits(ctx, tx, s.ID, cut)
		} else {
			reservation, err = Renew(ctx, tx, s.Reservation, ledger.Stock{Location: s.Location, Item: s.Item, Lot: s.Lot,
				Carton: s.Carton}, line, s.Left.Sub(cut))
		}
		if err != nil {
			return released, err
		}
		query := `UPDATE round_stops SET quantity = quantity - $2, reservation_id = $3 WHERE id = $1`
		if cut.Equal(s.Left) && !s.Used {
			query = `DELETE FROM round_stops WHERE id = $1 AND $2::numeric > 0 AND $3::bigint IS NULL`
		}
		if _, err := tx.ExecContext(ctx, query, s.ID, cut, reservation); err != nil {
			return released, fmt.Errorf("shortening a stop: %w", err)
		}
		if err := shorten(ctx, tx, s.Round); err != nil {
			return released, err
		}
		over, released = over.Sub(cut), released.Add(cut)
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE outbound_lines SET planned = planned - $2 WHERE id = $1`, line, released); err != nil {
		return released, fmt.Errorf("counting an order line: %w", err)
	}
	return released, nil
}

// reduceUnits gives up so many of the units that a stop takes by name, the last ones first.
func reduceUnits(ctx context.Context, tx *command.Tx, stop int64, cut decimal.Decimal) error {
	var units []int64
	if err := tx.SelectContext(ctx, &units, `
		SELECT u.reservation_id FROM stop_units u JOIN reservations x ON x.id = u.reservation_id
		  JOIN serials n ON n.id = u.serial_id WHERE u.stop_id = $1 ORDER BY n.code DESC LIMIT $2`,
		stop, cut.IntPart()); err != nil {
		return fmt.Errorf("reading the units of a stop: %w", err)
	}
	for _, reservation := range units {
		if err := ledger.Unreserve(ctx, tx, reservation); err != nil {
			return err
		}
	}
	return nil
}

// shorten notes that a round lost part of its work. One that nobody has begun is over when
// it has no stop left.
func shorten(ctx context.Context, tx *command.Tx, round int64) error {
	var idle bool
	err := tx.GetContext(ctx, &idle, `
		UPDATE rounds SET version = version + 1 WHERE id = $1
		RETURNING state = 'released' AND NOT EXISTS (SELECT FROM round_stops WHERE round_id = $1)`, round)
	if err != nil {
		return fmt.Errorf("shortening a round: %w", err)
	}
	if !idle {
		return nil
	}
	return documents.Step(ctx, tx, states.Rounds, []int64{round}, states.RoundDone, "done_at = $4", tx.Now)
}

// content is goods of a line in a carton.
type content struct {
	Carton   int64  `db:"carton_id"`
	SSCC     string `db:"sscc"`
	State    states.Carton
	Site     int32  `db:"site_id"`
	Order    string `db:"order_number"`
	Item     int32  `db:"item_id"`
	Lot      *int64 `db:"lot_id"`
	Serial   *int64 `db:"serial_id"`
	Quantity decimal.Decimal
	From     *int32 `db:"from_location"`
}

// orderRestock has goods that are in cartons returned to stock, those taken last first. A
// carton that was closed is opened again for it.
func orderRestock(ctx context.Context, tx *command.Tx, line int64, over decimal.Decimal) error {
	var found []content
	err := tx.SelectContext(ctx, &found, `
		SELECT c.carton_id, b.sscc, w.state, w.site_id, o.number AS order_number, c.item_id, c.lot_id, c.serial_id,
		       c.quantity,
		       (SELECT m.from_location FROM moves m JOIN postings p ON p.id = m.posting_id
		       WHERE m.to_carton = c.carton_id AND m.item_id = c.item_id AND p.kind = 'pick'
		           AND m.lot_id IS NOT DISTINCT FROM c.lot_id AND m.serial_id IS NOT DISTINCT FROM c.serial_id
		         ORDER BY m.id DESC LIMIT 1) AS from_location
		  FROM carton_contents c JOIN cartons b ON b.id = c.carton_id JOIN carton_work w ON w.carton_id = c.carton_id
		  JOIN outbound_orders o ON o.id = w.order_id
		 WHERE c.line_id = $1 AND w.state <> 'shipped' ORDER BY w.state = 'loaded', w.state = 'packed',
		   c.carton_id DESC, c.serial_id DESC`, line)
	if err != nil {
		return fmt.Errorf("reading what is in cartons: %w", err)
	}
	opened := map[int64]bool{}
	for _, c := range found {
		cut := decimal.Min(over, c.Quantity)
		if !cut.IsPositive() {
			return nil
		}
		if c.State == states.CartonLoaded {
			return refusal.New(refusal.CartonLoaded, "",
				"%s of it are in carton …%s, which is on a vehicle. Take the carton off first.", cut, c.SSCC[14:]).Of(refusal.Conflict)
		}
		if c.State == states.CartonPacked && !opened[c.Carton] {
			if err := OpenAgain(ctx, tx, c.Carton, c.Site, c.Order); err != nil {
				return err
			}
			opened[c.Carton] = true
		}
		_, err := tx.ExecContext(ctx, `
			INSERT INTO restocks (site_id, line_id, carton_id, item_id, lot_id, serial_id, quantity, location_id,
			  asked_by, asked_at) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
			c.Site, line, c.Carton, c.Item, c.Lot, c.Serial, cut, c.From, tx.Person.ID, tx.Now)
		if err != nil {
			return fmt.Errorf("putting goods down to be returned to stock: %w", err)
		}
		query := `
			UPDATE carton_contents SET quantity = quantity - $5, checked = 0 WHERE carton_id = $1 AND line_id = $2
			   AND lot_id IS NOT DISTINCT FROM $3 AND serial_id IS NOT DISTINCT FROM $4`
		if cut.Equal(c.Quantity) {
			query = `
				DELETE FROM carton_contents WHERE carton_id = $1 AND line_id = $2 AND lot_id IS NOT DISTINCT
				  FROM $3 AND serial_id IS NOT DISTINCT FROM $4 AND $5::numeric > 0`
		}
		if _, err := tx.ExecContext(ctx, query, c.Carton, line, c.Lot, c.Serial, cut); err != nil {
			return fmt.Errorf("taking goods off a carton's contents: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `
			UPDATE outbound_lines SET picked = picked - $2 WHERE id = $1`, line, cut); err != nil {
			return fmt.Errorf("counting an order line: %w", err)
		}
		over = over.Sub(cut)
	}
	return nil
}

// OpenAgain brings a closed carton back to the bench of its site. The carton is held.
func OpenAgain(ctx context.Context, tx *command.Tx, carton int64, site int32, order string) error {
	bench, err := catalog.OneLocation(ctx, tx, site, "bench")
	if err != nil {
		return err
	}
	moves, err := cartons.Carton{ID: carton}.Moves(ctx, tx, bench.ID)
	if err != nil {
		return err
	}
	if len(moves) > 0 {
		if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Unpack, Document: order}, moves); err != nil {
			return err
		}
	}
	return documents.Step(ctx, tx, states.Cartons, []int64{carton}, states.CartonAtBench,
		"weight_kg = NULL, checked_by = NULL, changed_at = $4", tx.Now)
}
