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
	TransferClosed         Transfer = "closed"
	TransferCancelled      Transfer = "cancelled"
)

// TransferOf is the state of a transfer whose first half is in a state, of which so much was shipped, so much of that
// received, and so much settled otherwise, in base units. While more is to be shipped, that is said before what became
// of the rest. It is received once all of it came, and closed once it is over with less than that.
func TransferOf(first Outbound, shipped, received, otherwise decimal.Decimal) Transfer {
	switch {
	case first == Cancelled:
		return TransferCancelled
	case first != Shipped && shipped.IsPositive():
		return TransferPartlyShipped
	case first == OnHold:
		return TransferOnHold
	case first == Released:
		return TransferReleased
	case received.Add(otherwise).LessThan(shipped) && received.IsZero():
		return TransferInTransit
	case received.Add(otherwise).LessThan(shipped):
		return TransferPartlyReceived
	case otherwise.IsPositive():
		return TransferClosed
	}
	return TransferReceived
}
