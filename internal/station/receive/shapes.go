package receive

import (
	"time"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/states"
	"lanternrow/internal/inbound"

	"github.com/shopspring/decimal"
)

// A Receipt is goods of one kind that came in at once on an arrival.
type Receipt struct {
	// UnitCost is what a base unit came for.
	UnitCost decimal.Decimal `db:"unit_cost" json:"-"`
	// MoveID is its first move; Serials are its units, where they are known.
	MoveID  int64    `db:"move_id" json:"move_id"`
	Serials []string `db:"-" json:"serials"`
	// Units are its moves and their serials, as JSON.
	Units      []byte `db:"units" json:"-"`
	moves      []int64
	LineID     int64           `db:"line_id" json:"line_id"`
	Document   string          `db:"document" json:"document"`
	At         time.Time       `db:"at" json:"at"`
	Person     string          `db:"person" json:"person"`
	SKU        string          `db:"sku" json:"sku"`
	ItemID     int32           `db:"item_id" json:"-"`
	Tracking   string          `db:"tracking" json:"-"`
	LotID      *int64          `db:"lot_id" json:"lot_id"`
	Lot        *string         `db:"lot" json:"lot"`
	Quantity   decimal.Decimal `db:"quantity" json:"quantity"`
	LocationID int32           `db:"location_id" json:"location_id"`
	CartonID   *int64          `db:"carton_id" json:"-"`
	Carton     *string         `db:"carton" json:"carton"`
	// Condition is good, waiting while its order is not complete, or held while it is
	// to be inspected.
	Condition posting.Condition `db:"condition" json:"condition"`
	// Found is in what condition goods came that a customer sent back.
	Found inbound.Found `db:"found" json:"found" enum:",as_new,opened,used,broken,incomplete"`
	// UndoneAt is when it was taken back, for Reason.
	UndoneAt *time.Time `db:"undone_at" json:"undone_at"`
	Reason   string     `db:"reason" json:"reason"`
}

// UndoReceipt takes a receipt back.
type UndoReceipt struct {
	Version int32  `json:"version"`
	MoveID  int64  `json:"move_id"`
	Reason  string `json:"reason" maxLength:"200"`
}

// An Arrival is one delivery at a dock.
type Arrival struct {
	ID     int64           `db:"id" json:"id"`
	Number string          `db:"number" json:"number"`
	Orders []inbound.Order `db:"-" json:"orders"`
	// Order names its orders in words.
	Order string `db:"order_numbers" json:"order"`
	// Waits is true when its goods wait on the dock, not free, until their order is
	// complete.
	Waits bool `db:"waits" json:"waits"`
	inbound.Source
	SiteID   int32          `db:"site_id" json:"site_id"`
	DockID   int32          `db:"dock_id" json:"dock_id"`
	Dock     string         `db:"dock" json:"dock"`
	State    states.Arrival `db:"state" json:"state" enum:"open,done"`
	OpenedAt time.Time      `db:"opened_at" json:"opened_at"`
	// DeliveryNote is the number on the paper that came with the goods.
	DeliveryNote string `db:"delivery_note" json:"delivery_note"`
	// Ordered and Received are over all lines of its orders.
	Ordered  decimal.Decimal `db:"ordered" json:"ordered"`
	Received decimal.Decimal `db:"received" json:"received"`
	Version  int32           `db:"version" json:"version"`
	Lines    []inbound.Line  `db:"-" json:"lines"`
	Receipts []Receipt       `db:"-" json:"receipts"`
	// Wanted are orders that wait for what stands on the dock.
	Wanted []Wanted `db:"-" json:"wanted"`
	// Homes are the home bins of its items, by item.
	Homes map[int32]string `db:"-" json:"homes"`
}

// Wanted is a line of an outbound order that no bin can serve and this dock can.
type Wanted struct {
	LineID   int64           `db:"line_id" json:"line_id"`
	OrderID  int64           `db:"order_id" json:"order_id"`
	Order    string          `db:"order_number" json:"order"`
	Customer string          `db:"customer" json:"customer"`
	WantedOn string          `db:"wanted_on" json:"wanted_on"`
	ItemID   int32           `db:"item_id" json:"item_id"`
	SKU      string          `db:"sku" json:"sku"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
}

// NewArrival opens an arrival for orders of one source at a dock.
type NewArrival struct {
	OrderIDs []int64 `json:"order_ids" minItems:"1" maxItems:"50"`
	DockID   int32   `json:"dock_id"`
	Waits    bool    `json:"waits,omitempty" doc:"The goods wait on the dock, not free, until their order is complete"`
	Another  bool    `json:"another,omitempty" doc:"Though an arrival is open for an order of these already"`
}

// An Inspection is goods that are set aside until somebody has looked at them.
type Inspection struct {
	ID     int64             `db:"id" json:"id"`
	SiteID int32             `db:"site_id" json:"site_id"`
	State  states.Inspection `db:"state" json:"state" enum:"waiting,decided,withdrawn"`
	// Sample is how many of Quantity are looked at, and Accept how many of those may
	// fail; without a plan all of it is.
	Sample      decimal.Decimal `db:"sample" json:"sample"`
	Accept      *int            `db:"accept" json:"accept"`
	Units       []byte          `db:"units" json:"-"`
	Limit       *string         `db:"inspect_aql" json:"limit" doc:"The plan's acceptable quality limit, in per cent"`
	Serials     []string        `db:"-" json:"serials"`
	Tracking    string          `db:"tracking" json:"tracking"`
	Passed      decimal.Decimal `db:"passed" json:"passed"`
	Failed      decimal.Decimal `db:"failed" json:"failed"`
	Reason      string          `db:"reason" json:"reason"`
	Arrival     string          `db:"arrival" json:"arrival"`
	ArrivalID   int64           `db:"arrival_id" json:"arrival_id"`
	DockID      int32           `db:"dock_id" json:"dock_id"`
	Source      string          `db:"source" json:"source" doc:"Whom they came from"`
	At          time.Time       `db:"at" json:"at"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	Whole       bool            `db:"whole" json:"whole"`
	LotID       *int64          `db:"lot_id" json:"lot_id"`
	Lot         *string         `db:"lot" json:"lot"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	LocationID  int32           `db:"location_id" json:"location_id"`
}

// Verdict is what came of an inspection: how many of those looked at are fine; the rest
// is damaged.
type Verdict struct {
	Passed  string   `json:"passed" maxLength:"40"`
	Serials []string `json:"serials,omitempty" maxItems:"1000" doc:"The units that are not fine, where they are known by serial"`
	Reason  string   `json:"reason,omitempty" maxLength:"200" doc:"What is wrong with those that are not fine"`
}

// NewReceipt is what came on an arrival.
type NewReceipt struct {
	Version int32     `json:"version"`
	Carton  *CartonIn `json:"carton,omitempty" doc:"What all of it stands on, to be put away as one"`
	// Straight is how a site that insists on bins is told that the dock is no stop on the way.
	Straight bool `json:"straight,omitempty" doc:"The goods go straight into bins; they stop at the dock without"`
	// Off is the carton in transit that all of it is taken out of.
	Off   string        `json:"off,omitempty" maxLength:"60" doc:"The number of the carton in transit that all of it is taken out of"`
	Lines []ReceiptLine `json:"lines" maxItems:"500"`
}

// CartonIn is a carton or a pallet that goods come on.
type CartonIn struct {
	SSCC string `json:"sscc,omitempty" maxLength:"60" doc:"The number on its label; a new one is made without"`
	Kind string `json:"kind" enum:"carton,pallet"`
}

// ReceiptLine is what came on one inbound line, in base units or in packs.
type ReceiptLine struct {
	LineID   int64         `json:"line_id"`
	PackID   int32         `json:"pack_id,omitempty" doc:"The quantities count these packs; base units without"`
	Serials  []string      `json:"serials,omitempty" maxItems:"1000" doc:"One for each unit, where units are known from arrival on"`
	Quantity string        `json:"quantity" maxLength:"40"`
	Lots     []ReceiptLot  `json:"lots,omitempty" maxItems:"200"`
	Reason   string        `json:"reason,omitempty" maxLength:"200" doc:"Why a lead accepts what would be refused: too much, or too short-lived"`
	Bin      string        `json:"bin,omitempty" maxLength:"60" doc:"The bin that they go straight into; the item's home bin without"`
	Found    inbound.Found `json:"found,omitempty" enum:"as_new,opened,used,broken,incomplete" doc:"In what condition they came; said of what a customer sends back"`
	Follows  bool          `json:"follows,omitempty" doc:"The rest comes later: a line short within its allowance stays open"`
}

// ReceiptLot is one lot of a line.
type ReceiptLot struct {
	Code        string `json:"code" maxLength:"60"`
	SupplierLot string `json:"supplier_lot,omitempty" maxLength:"60" doc:"What its supplier calls it, where the code is one of the house's own"`
	ExpiresOn   string `json:"expires_on,omitempty"`
	Quantity    string `json:"quantity" maxLength:"40"`
}

// MadeLot is the name of a lot of the house's own.
type MadeLot struct {
	Code      string `json:"code"`
	ExpiresOn string `json:"expires_on" doc:"By the item's shelf life; empty when that is not known"`
}
