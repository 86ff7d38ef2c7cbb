// Package states names the states that documents are in and the steps between them. A
// document that is in no further step's way stays as it is; whoever moves it on asks Check,
// and the database refuses the same.
package states

import (
	"fmt"
	"slices"
)

// A StepError is a step from one state to another that there is not.
type StepError struct{ Document, From, To string }

// Error says which step it is.
func (e *StepError) Error() string {
	return fmt.Sprintf("%s cannot go from %q to %q", e.Document, e.From, e.To)
}

// Outbound is the state of an outbound order. It is sent once nothing is to be shipped any
// more, of which something was; or cancelled, when nothing was.
type Outbound string

// The states of an outbound order.
const (
	Quote     Outbound = "quote"
	Held      Outbound = "held"
	LetGo     Outbound = "let go"
	Sent      Outbound = "sent"
	Cancelled Outbound = "cancelled"
)

// Inbound is the state of an inbound order. Once it is placed it follows from the lines,
// until the order is closed for good.
type Inbound string

// The states of an inbound order.
const (
	Draft  Inbound = "draft"
	Placed Inbound = "placed"
	PartIn Inbound = "part in"
	AllIn  Inbound = "all in"
	Closed Inbound = "closed"
)

// Open tells whether anything may come on an order in this state.
func (s Inbound) Open() bool {
	return s == Placed || s == PartIn
}

// Round is the state of a round.
type Round string

// The states of a round.
const (
	RoundLetGo   Round = "let go"
	RoundWalking Round = "walking"
	RoundDone    Round = "done"
)

// Carton is the state of a carton of ours. One that is emptied is blank again.
type Carton string

// The states of a carton.
const (
	CartonBlank   Carton = "blank"
	CartonOpen    Carton = "open"
	CartonAtBench Carton = "at bench"
	CartonPacked  Carton = "packed"
	CartonLoaded  Carton = "loaded"
	CartonSent    Carton = "sent"
)

// Arrival is the state of an arrival. Taking a booking back opens one again.
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
	InspectionTakenBack Inspection = "taken back"
)

// Vehicle is the state of a vehicle that is loaded.
type Vehicle string

// The states of a vehicle.
const (
	VehicleLoading Vehicle = "loading"
	VehicleLeft    Vehicle = "left"
)

// Document names what has states, by its table.
type Document string

// Steps are the allowed steps of each document, from each state.
var Steps = map[Document]map[string][]string{
	"outbound_orders": steps(map[Outbound][]Outbound{
		Quote: {Held, Cancelled},
		Held:  {LetGo, Sent, Cancelled},
		LetGo: {Held, Sent, Cancelled},
	}),
	"inbound_orders": steps(map[Inbound][]Inbound{
		Draft:  {Placed, Closed},
		Placed: {PartIn, AllIn, Closed},
		PartIn: {Placed, AllIn, Closed},
		AllIn:  {Placed, PartIn, Closed},
	}),
	"rounds": steps(map[Round][]Round{
		RoundLetGo:   {RoundWalking, RoundDone},
		RoundWalking: {RoundLetGo, RoundDone},
	}),
	"carton_work": steps(map[Carton][]Carton{
		CartonBlank:   {CartonOpen},
		CartonOpen:    {CartonAtBench, CartonBlank, CartonSent},
		CartonAtBench: {CartonPacked, CartonBlank, CartonSent},
		CartonPacked:  {CartonAtBench, CartonLoaded, CartonSent},
		CartonLoaded:  {CartonPacked, CartonSent},
	}),
	"arrivals": steps(map[Arrival][]Arrival{
		ArrivalOpen: {ArrivalDone},
		ArrivalDone: {ArrivalOpen},
	}),
	"inspections": steps(map[Inspection][]Inspection{
		InspectionWaiting: {InspectionDecided, InspectionTakenBack},
	}),
	"loads": steps(map[Vehicle][]Vehicle{
		VehicleLoading: {VehicleLeft},
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

// Check refuses, with a StepError, a step of a document that there is not. To stay as it is
// is no step, and fine.
func Check[S ~string](d Document, from, to S) error {
	if from == to || slices.Contains(Steps[d][string(from)], string(to)) {
		return nil
	}
	return &StepError{string(d), string(from), string(to)}
}
