package states

import "github.com/shopspring/decimal"

// OutboundLine is the state of a line of an outbound order. It follows from how much of the
// line is where: the line is as far as its last unit is.
type OutboundLine string

// The states of an outbound line.
const (
	OutboundLineOpen      OutboundLine = "open"
	OutboundLinePlanned   OutboundLine = "planned"
	OutboundLinePicked    OutboundLine = "picked"
	OutboundLineShipped   OutboundLine = "shipped"
	OutboundLineCancelled OutboundLine = "cancelled"
)

// A line goes on as its goods do, and back where a stop finds too few, goods return to
// stock, or more is wanted. What is cancelled is wanted again only by more of it.
var outboundLine = map[OutboundLine][]OutboundLine{
	OutboundLineOpen:      {OutboundLinePlanned, OutboundLinePicked, OutboundLineShipped, OutboundLineCancelled},
	OutboundLinePlanned:   {OutboundLineOpen, OutboundLinePicked, OutboundLineShipped, OutboundLineCancelled},
	OutboundLinePicked:    {OutboundLineOpen, OutboundLinePlanned, OutboundLineShipped, OutboundLineCancelled},
	OutboundLineShipped:   {OutboundLineOpen, OutboundLinePicked},
	OutboundLineCancelled: {OutboundLineOpen},
}

// Quantities are how much of an outbound line is where, in base units.
type Quantities struct{ Wanted, Planned, Picked, Shipped, Cancelled decimal.Decimal }

// Of is the state of an outbound line by its quantities.
func (q Quantities) Of() OutboundLine {
	left := q.Wanted.Sub(q.Cancelled)
	switch {
	case left.Sub(q.Planned).Sub(q.Picked).GreaterThan(q.Shipped):
		return OutboundLineOpen
	case q.Planned.IsPositive():
		return OutboundLinePlanned
	case q.Picked.IsPositive():
		return OutboundLinePicked
	case q.Shipped.IsPositive():
		return OutboundLineShipped
	}
	return OutboundLineCancelled
}

// InboundLine is the state of a line of an inbound order.
type InboundLine string

// The states of an inbound line.
const (
	InboundLineOpen           InboundLine = "open"
	InboundLinePartlyReceived InboundLine = "partly_received"
	InboundLineReceived       InboundLine = "received"
	InboundLineCancelled      InboundLine = "cancelled"
)

// Taking a receipt back opens a line again, and so does wanting more of it.
var inboundLine = map[InboundLine][]InboundLine{
	InboundLineOpen:           {InboundLinePartlyReceived, InboundLineReceived, InboundLineCancelled},
	InboundLinePartlyReceived: {InboundLineOpen, InboundLineReceived},
	InboundLineReceived:       {InboundLineOpen, InboundLinePartlyReceived},
}

// Inbounds is the state of an inbound line of which so much came; it is closed when no more
// is expected.
func Inbounds(received decimal.Decimal, closed bool) InboundLine {
	switch came := received.IsPositive(); {
	case closed && came:
		return InboundLineReceived
	case closed:
		return InboundLineCancelled
	case came:
		return InboundLinePartlyReceived
	}
	return InboundLineOpen
}

// Stop is the state of a stop of a round.
type Stop string

// The states of a stop. A short one is over and brought less than was planned.
const (
	StopOpen   Stop = "open"
	StopPicked Stop = "picked"
	StopShort  Stop = "short"
)

// OfStop is the state of a stop for so much, of which so much was picked and found short.
func OfStop(quantity, picked, short decimal.Decimal) Stop {
	switch {
	case picked.Add(short).LessThan(quantity):
		return StopOpen
	case short.IsPositive():
		return StopShort
	}
	return StopPicked
}

// Shipment is the state of a shipment: it left, and where its carrier is known here, the
// carrier was asked for a number, and gave one or refused.
type Shipment string

// The states of a shipment.
const (
	ShipmentLeft    Shipment = "left"
	ShipmentAsked   Shipment = "asked"
	ShipmentCarried Shipment = "carried"
	ShipmentRefused Shipment = "refused"
	// ShipmentTakenBack is one that was made by mistake.
	ShipmentTakenBack Shipment = "taken_back"
)
