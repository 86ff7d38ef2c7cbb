// Package posting names what a posting does and what condition goods are in: two closed
// sets, each member beside the term that the GS1 Core Business Vocabulary has for it, so
// that every move can be told to a trading partner as an event.
//
// Source: GS1 Core Business Vocabulary (CBV) 2.0, sections on business steps and
// dispositions.
package posting

// A Kind says what a posting does.
type Kind string

// The kinds there are.
const (
	Receive        Kind = "receive"
	ReverseReceipt Kind = "reverse_receipt"
	Inspect        Kind = "inspect"
	Release        Kind = "release"
	PutAwayLoad    Kind = "put_away_load"
	PutAway        Kind = "put_away"
	PutAwayReturn  Kind = "put_away_return"
	Move           Kind = "move"
	// RefillLoad fetches reserve onto a trolley, Refill brings it to a picking bin, RefillReturn back where it was.
	RefillLoad   Kind = "refill_load"
	Refill       Kind = "refill"
	RefillReturn Kind = "refill_return"
	Pick         Kind = "pick"
	Stage        Kind = "stage"
	Pack         Kind = "pack"
	Unpack       Kind = "unpack"
	Restock      Kind = "restock"
	Load         Kind = "load"
	Unload       Kind = "unload"
	Ship         Kind = "ship"
	// ReverseShipment takes a shipment back: its goods never went.
	ReverseShipment Kind = "reverse_shipment"
	Count           Kind = "count"
	// DecideReturn moves goods that came back to where it was decided that they go; Dispose takes them off the books.
	DecideReturn Kind = "decide_return"
	Dispose      Kind = "dispose"
	// SettleDifference ends a case about goods between two sites.
	SettleDifference Kind = "settle_difference"
	// Hold keeps recalled goods where they are, and lets them go again.
	Hold Kind = "hold"
)

// Steps are the business steps of CBV 2.0 that the kinds are. Where the vocabulary has
// none that says more, it is the one of the work that the kind is part of.
var Steps = map[Kind]string{
	Receive:          "receiving",
	ReverseReceipt:   "receiving",
	Inspect:          "inspecting",
	Release:          "accepting",
	PutAwayLoad:      "storing",
	PutAway:          "storing",
	PutAwayReturn:    "storing",
	Move:             "storing",
	RefillLoad:       "storing",
	Refill:           "storing",
	RefillReturn:     "storing",
	Pick:             "picking",
	Stage:            "staging_outbound",
	Pack:             "packing",
	Unpack:           "unpacking",
	Restock:          "storing",
	Load:             "loading",
	Unload:           "unloading",
	Ship:             "shipping",
	ReverseShipment:  "void_shipping",
	Count:            "cycle_counting",
	DecideReturn:     "inspecting",
	Dispose:          "destroying",
	SettleDifference: "other",
	Hold:             "holding",
}

// Step is the business step that a kind is; empty for what is no kind.
func (k Kind) Step() string { return Steps[k] }

// A Condition is what state goods are in. Only good ones are free to be promised.
type Condition string

// The conditions there are.
const (
	Good Condition = "good"
	// Waiting goods wait on the dock for the rest of their order.
	Waiting Condition = "waiting"
	// Held goods wait to be inspected.
	Held    Condition = "on_hold"
	Damaged Condition = "damaged"
	// Returned goods came back from a customer and wait to be decided on.
	Returned Condition = "returned"
	// Recalled goods are held wherever they are, until they are cleared.
	Recalled Condition = "recalled"
)

// Dispositions are those of CBV 2.0 that the conditions are.
var Dispositions = map[Condition]string{
	Good:     "sellable_accessible",
	Waiting:  "sellable_not_accessible",
	Held:     "non_sellable_other",
	Damaged:  "damaged",
	Returned: "returned",
	Recalled: "recalled",
}

// Disposition is the disposition that a condition is; empty for what is no condition.
func (c Condition) Disposition() string { return Dispositions[c] }
