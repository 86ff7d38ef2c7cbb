package shipping

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"lanternrow/internal/connection"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"
)

// AskAgain asks the carrier once more for the number of a shipment.
func AskAgain(ctx context.Context, tx *command.Tx, id int64) (Shipment, error) {
	d, err := Read(ctx, tx, id)
	if err != nil {
		return d, err
	}
	if err := tx.At(ctx, d.SiteID); err != nil || d.Tracking != "" {
		return d, err
	}
	var waits bool
	if err := tx.GetContext(ctx, &waits, `
		SELECT EXISTS (SELECT FROM outbox WHERE channel = 'carrier' AND document = $1 AND state = 'waiting')`,
		d.Number); err != nil {
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
	if d.State != states.ShipmentAsked {
		if err := documents.Step(ctx, tx, states.Shipments, []int64{d.ID}, states.ShipmentAsked, ""); err != nil {
			return err
		}
	}
	return connection.Book(ctx, tx, d.SiteID, d.Carrier, d.Number, connection.Booking{ShipmentID: d.ID,
		Kilos: kilos(d.Cartons)})
}

// Settle writes down what the carrier answered to a booking.
func Settle(ctx context.Context, tx *command.Tx, m connection.Message, answer json.RawMessage, said error) error {
	var asked connection.Booking
	var booked connection.Booked
	if err := json.Unmarshal(m.Body, &asked); err != nil {
		return fmt.Errorf("reading a booking: %w", err)
	}
	if said == nil {
		if err := json.Unmarshal(answer, &booked); err != nil {
			return fmt.Errorf("reading a carrier's answer: %w", err)
		}
	}
	tx.NotifySite(m.SiteID, "dispatch")
	return answered(ctx, tx, asked.ShipmentID, booked.Tracking, said)
}

// answered moves a shipment on by its carrier's answer: a number, a refusal, or none yet.
// One that has its number keeps it.
func answered(ctx context.Context, tx *command.Tx, shipment int64, tracking string, said error) error {
	var state states.Shipment
	if err := tx.GetContext(ctx, &state, `SELECT state FROM shipments WHERE id = $1 FOR UPDATE`, shipment); err != nil {
		return fmt.Errorf("reading a shipment's state: %w", err)
	}
	if state != states.ShipmentAsked {
		return nil
	}
	ids := []int64{shipment}
	var refused *connection.Refusal
	switch {
	case said == nil:
		return documents.Step(ctx, tx, states.Shipments, ids, states.ShipmentCarried,
			"tracking = $4, carrier_said = ''", tracking)
	case errors.As(said, &refused):
		return documents.Step(ctx, tx, states.Shipments, ids, states.ShipmentRefused, "carrier_said = $4", said.Error())
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE shipments SET carrier_said = $2 WHERE id = $1`, shipment, said.Error()); err != nil {
		return fmt.Errorf("keeping what a carrier said: %w", err)
	}
	return nil
}
