package states

import "github.com/shopspring/decimal"

// Return is how far a customer's return is. It follows from its lines.
type Return string

// The states of a return.
const (
	ReturnAsked          Return = "asked"
	ReturnAnnounced      Return = "announced"
	ReturnPartlyReceived Return = "partly_received"
	ReturnReceived       Return = "received"
	ReturnDecided        Return = "decided"
	ReturnSettled        Return = "settled"
	ReturnWithdrawn      Return = "withdrawn"
)

// ReturnOf is the state of a return whose inbound order is in a state, of which so much stays with the customer, so
// much came and so much of that is decided, in base units. It is settled once all that came is decided and the customer
// got what it gives.
func ReturnOf(order Inbound, kept, received, decided decimal.Decimal, settled bool) Return {
	switch {
	case order == Draft:
		return ReturnAsked
	case kept.IsPositive() && settled:
		return ReturnSettled
	case kept.IsPositive():
		return ReturnDecided
	case order == Closed && received.IsZero():
		return ReturnWithdrawn
	case received.IsZero():
		return ReturnAnnounced
	case order.Open():
		return ReturnPartlyReceived
	case decided.LessThan(received):
		return ReturnReceived
	case settled:
		return ReturnSettled
	}
	return ReturnDecided
}
