package shipping

import (
	"context"
	"encoding/json"
	"fmt"

	"lanternrow/internal/connection"
	"lanternrow/internal/platform/command"
)

// AskAgain asks the carrier once more for the number of a shipment.
func AskAgain(ctx context.Context, tx *command.Tx, id int64) (Shipment, error) {
	d, err := Read(ctx, tx, id)
	if err != nil || d.Tracking != "" {
		return d, err
	}
	var waits bool
	if err := tx.GetContext(ctx, &waits, `SELECT EXISTS (SELECT FROM outbox WHERE channel = 'carrier' AND document = $1 AND state = 'waiting')`, d.Number); err != nil {
		return d, fmt.Errorf("reading the outbox: %w", err)
	}
	if waits {
		return d, connection.AgainFor(ctx, tx, connection.Carrier, d.Carrier)
	}
	return d, d.book(ctx, tx, true)
}

// book asks the carrier for a number, once the shipment stands; nobody is asked where the
// carrier is not known here.
func (d Shipment) book(ctx context.Context, tx *command.Tx, known bool) error {
	if !known {
		return nil
	}
	return connection.Book(ctx, tx, d.SiteID, d.Carrier, d.Number, connection.Booking{ShipmentID: d.ID, Kilos: kilos(d.Cartons)})
}

// Settle writes down what the carrier answered to a booking.
func Settle(ctx context.Context, tx *command.Tx, m connection.Message, answer json.RawMessage, said error) error {
	var asked connection.Booking
	var received connection.Received
	if err := json.Unmarshal(m.Body, &asked); err != nil {
		return fmt.Errorf("reading a booking: %w", err)
	}
	words := ""
	if said != nil {
		words = said.Error()
	} else if err := json.Unmarshal(answer, &received); err != nil {
		return fmt.Errorf("reading a carrier's answer: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `UPDATE shipments SET tracking = $2, carrier_said = $3 WHERE id = $1 AND tracking = ''`, asked.ShipmentID, received.Tracking, words); err != nil {
		return fmt.Errorf("keeping a tracking number: %w", err)
	}
	tx.Notify("dispatch")
	return nil
}
