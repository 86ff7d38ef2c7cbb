package states

import "github.com/shopspring/decimal"

// Transfer is how far a transfer between two sites is. It follows from its two halves.
type Transfer string

// The states of a transfer.
const (
	TransferOnHold         Transfer = "on_hold"
	TransferReleased       Transfer = "released"
	TransferPartlyShipped  Transfer = "partly_shipped"
	TransferInTransit      Transfer = "in_transit"
	TransferPartlyReceived Transfer = "partly_received"
	TransferReceived       Transfer = "received"
	TransferCancelled      Transfer = "cancelled"
)

// TransferOf is the state of a transfer whose first half is in a state, of which so much was shipped
// and so much of that received, in base units. While more is to be shipped, that is said before what
// became of the rest.
func TransferOf(first Outbound, shipped, received decimal.Decimal) Transfer {
	switch {
	case first == Cancelled:
		return TransferCancelled
	case first != Shipped && shipped.IsPositive():
		return TransferPartlyShipped
	case first == OnHold:
		return TransferOnHold
	case first == Released:
		return TransferReleased
	case received.IsZero():
		return TransferInTransit
	case received.LessThan(shipped):
		return TransferPartlyReceived
	}
	return TransferReceived
}
