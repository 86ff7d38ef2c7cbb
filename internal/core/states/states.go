// Package states names the states that documents are in and the steps between them. A
// document that is in no further step's way stays as it is; whoever moves it on asks Check,
// and the database refuses the same.
package states

import (
	"fmt"
	"slices"
	"strings"
)

// A StepError is a step from one state to another that there is not.
type StepError struct {
	Document Document
	From, To string
}

// Error says which step it is.
func (e *StepError) Error() string {
	return fmt.Sprintf("%s cannot go from %q to %q", e.Document, e.From, e.To)
}

// Outbound is the state of an outbound order. It is shipped once nothing is to be shipped any
// more, of which something was; or cancelled, when nothing was.
type Outbound string

// The states of an outbound order.
const (
	Quote     Outbound = "quote"
	OnHold    Outbound = "on_hold"
	Released  Outbound = "released"
	Shipped   Outbound = "shipped"
	Cancelled Outbound = "cancelled"
)

// Inbound is the state of an inbound order. Once it is placed it follows from the lines,
// until the order is closed for good.
type Inbound string

// The states of an inbound order.
const (
	Draft          Inbound = "draft"
	Placed         Inbound = "placed"
	PartlyReceived Inbound = "partly_received"
	Received       Inbound = "received"
	Closed         Inbound = "closed"
)

// Open tells whether anything may come on an order in this state.
func (s Inbound) Open() bool {
	return s == Placed || s == PartlyReceived
}

// Round is the state of a round.
type Round string

// The states of a round.
const (
	RoundReleased Round = "released"
	RoundWalking  Round = "walking"
	RoundDone     Round = "done"
)

// Carton is the state of a carton of ours. One that is emptied is blank again.
type Carton string

// The states of a carton.
const (
	CartonBlank   Carton = "blank"
	CartonOpen    Carton = "open"
	CartonAtBench Carton = "at_bench"
	CartonPacked  Carton = "packed"
	CartonLoaded  Carton = "loaded"
	CartonShipped Carton = "shipped"
)

// Arrival is the state of an arrival. Taking a receipt back opens one again.
type Arrival string

// The states of an arrival.
const (
	ArrivalOpen Arrival = "open"
	ArrivalDone Arrival = "done"
)

// Inspection is the state of an inspection.
type Inspection string

// The states of an inspection.
const (
	InspectionWaiting   Inspection = "waiting"
	InspectionDecided   Inspection = "decided"
	InspectionWithdrawn Inspection = "withdrawn"
)

// Vehicle is the state of a vehicle that is loaded.
type Vehicle string

// The states of a vehicle.
const (
	VehicleLoading   Vehicle = "loading"
	VehicleLeft      Vehicle = "left"
	VehicleCancelled Vehicle = "cancelled"
)

// Refill is the state of a walk that fetches reserve for picking bins.
type Refill string

// The states of a refill.
const (
	RefillPlanned   Refill = "planned"
	RefillWalking   Refill = "walking"
	RefillDone      Refill = "done"
	RefillCancelled Refill = "cancelled"
)

// Label words a state for people: "on_hold" is "on hold".
func Label[S ~string](state S) string {
	if string(state) == string(Placed) {
		return "sent to its supplier"
	}
	return strings.ReplaceAll(string(state), "_", " ")
}

// Document names what has states, by its table.
type Document string

// The documents that have states.
const (
	OutboundOrders Document = "outbound_orders"
	OutboundLines  Document = "outbound_lines"
	InboundOrders  Document = "inbound_orders"
	InboundLines   Document = "inbound_lines"
	Rounds         Document = "rounds"
	Stops          Document = "round_stops"
	Cartons        Document = "carton_work"
	Shipments      Document = "shipments"
	Vehicles       Document = "loads"
	Arrivals       Document = "arrivals"
	Inspections    Document = "inspections"
	CountRequests  Document = "count_requests"
	Counts         Document = "counts"
	CountSheets    Document = "count_sheets"
	SheetLines     Document = "count_sheet_lines"
	Refills        Document = "refills"
)

// Key is the column by which the document's table knows it.
func (d Document) Key() string {
	if d == Cartons {
		return "carton_id"
	}
	return "id"
}

// Steps are the allowed steps of each document, from each state.
var Steps = map[Document]map[string][]string{
	OutboundOrders: steps(map[Outbound][]Outbound{
		Quote:    {OnHold, Cancelled},
		OnHold:   {Released, Shipped, Cancelled},
		Released: {OnHold, Shipped, Cancelled},
		Shipped:  {Released},
	}),
	InboundOrders: steps(map[Inbound][]Inbound{
		Draft:          {Placed, Closed},
		Placed:         {PartlyReceived, Received, Closed},
		PartlyReceived: {Placed, Received, Closed},
		Received:       {Placed, PartlyReceived, Closed},
	}),
	Rounds: steps(map[Round][]Round{
		RoundReleased: {RoundWalking, RoundDone},
		RoundWalking:  {RoundReleased, RoundDone},
	}),
	Cartons: steps(map[Carton][]Carton{
		CartonBlank:   {CartonOpen},
		CartonOpen:    {CartonAtBench, CartonBlank, CartonShipped},
		CartonAtBench: {CartonPacked, CartonBlank, CartonShipped},
		CartonPacked:  {CartonAtBench, CartonLoaded, CartonShipped},
		CartonLoaded:  {CartonPacked, CartonShipped},
		CartonShipped: {CartonPacked},
	}),
	Arrivals: steps(map[Arrival][]Arrival{
		ArrivalOpen: {ArrivalDone},
		ArrivalDone: {ArrivalOpen},
	}),
	Inspections: steps(map[Inspection][]Inspection{
		InspectionWaiting: {InspectionDecided, InspectionWithdrawn},
	}),
	Vehicles: steps(map[Vehicle][]Vehicle{
		VehicleLoading: {VehicleLeft, VehicleCancelled},
	}),
	OutboundLines: steps(outboundLine),
	InboundLines:  steps(inboundLine),
	Stops: steps(map[Stop][]Stop{
		StopOpen: {StopPicked, StopShort},
	}),
	Shipments: steps(map[Shipment][]Shipment{
		ShipmentLeft:    {ShipmentAsked, ShipmentTakenBack},
		ShipmentAsked:   {ShipmentCarried, ShipmentRefused, ShipmentTakenBack},
		ShipmentCarried: {ShipmentTakenBack},
		ShipmentRefused: {ShipmentAsked, ShipmentTakenBack},
	}),
	Counts: steps(map[Count][]Count{
		CountCounted:  {CountAccepted, CountWithdrawn},
		CountRecount:  {CountRepeated, CountWithdrawn},
		CountAccepted: {CountTakenBack},
	}),
	CountSheets: steps(map[CountSheet][]CountSheet{
		SheetOpen:    {SheetCounted, SheetClosed},
		SheetCounted: {SheetOpen},
	}),
	SheetLines: steps(map[SheetLine][]SheetLine{
		SheetLineOpen:    {SheetLineCounted, SheetLineLeft},
		SheetLineCounted: {SheetLineOpen},
	}),
	Refills: steps(map[Refill][]Refill{
		RefillPlanned: {RefillWalking, RefillCancelled},
		RefillWalking: {RefillDone},
	}),
	CountRequests: steps(map[CountRequest][]CountRequest{
		CountRequested: {CountSettled},
	}),
}

func steps[S ~string](of map[S][]S) map[string][]string {
	out := map[string][]string{}
	for from, all := range of {
		for _, to := range all {
			out[string(from)] = append(out[string(from)], string(to))
		}
	}
	return out
}

// Before are the states from which there is a step of a document to a state.
func Before[S ~string](d Document, to S) []string {
	var out []string
	for from := range Steps[d] {
		if from != string(to) && Check(d, S(from), to) == nil {
			out = append(out, from)
		}
	}
	slices.Sort(out)
	return out
}

// Check refuses, with a StepError, a step of a document that there is not. To stay as it is
// is no step, and fine.
func Check[S ~string](d Document, from, to S) error {
	if from == to || slices.Contains(Steps[d][string(from)], string(to)) {
		return nil
	}
	return &StepError{d, string(from), string(to)}
}
