package connection

import (
	"context"

	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

// A Booking asks a carrier to carry a shipment.
type Booking struct {
	ShipmentID int64             `json:"shipment_id"`
	Kilos      []decimal.Decimal `json:"kilos"`
}

// Booked is what a carrier answers to a Booking.
type Booked struct {
	Tracking string `json:"tracking"`
}

// Book asks a carrier to carry a shipment from a site, by its number on our paper.
func Book(ctx context.Context, tx *command.Tx, site int32, carrier, document string, b Booking) error {
	return Put(ctx, tx, Message{SiteID: site, Channel: Carrier, Receiver: carrier, Kind: "booking",
		Document: document}, b)
}
