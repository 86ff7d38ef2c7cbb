package receive

import (
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/receiving"

	"github.com/shopspring/decimal"
)

// An Order is a purchase order.
type Order struct {
	ID         int64  `db:"id" json:"id"`
	Number     string `db:"number" json:"number"`
	SupplierID int32  `db:"supplier_id" json:"supplier_id"`
	Supplier   string `db:"supplier" json:"supplier"`
	SiteID     int32  `db:"site_id" json:"site_id"`
	ExpectedOn string `db:"expected_on" json:"expected_on"`
	// BegunAs is how it began; a quote has the supplier's number and a last day.
	BegunAs    string          `db:"began_as" json:"began_as" enum:"order,request,quote"`
	Quote      string          `db:"quote" json:"quote"`
	QuoteUntil *string         `db:"quote_until" json:"quote_until"`
	Carrier    string          `db:"carrier" json:"carrier"`
	Terms      string          `db:"terms" json:"terms"`
	Freight    decimal.Decimal `db:"freight" json:"freight"`
	FreightBy  string          `db:"freight_by" json:"freight_by" enum:"value,weight"`
	// Value is what its lines and the freight come to. Above ApproveAbove a lead has to
	// approve it before it is placed.
	Value        decimal.Decimal  `db:"value" json:"value"`
	ApproveAbove *decimal.Decimal `db:"approve_above" json:"approve_above"`
	ApprovedBy   string           `db:"approved_by" json:"approved_by"`
	Email        string           `db:"email" json:"email" doc:"Where the supplier gets mail"`
	State        string           `db:"state" json:"state" enum:"draft,placed,part in,all in,closed"`
	Late         bool             `db:"late" json:"late"`
	Note         string           `db:"note" json:"note"`
	LineCount    int              `db:"line_count" json:"line_count"`
	// PricePct is by how many per cent a bill may be above the prices.
	PricePct decimal.Decimal `db:"price_pct" json:"price_pct"`
	Version  int32           `db:"version" json:"version"`
	Lines    []OrderLine     `db:"-" json:"lines"`
	Bills    []Bill          `db:"-" json:"bills"`
}

// OrderFilter narrows a list of orders.
type OrderFilter struct {
	Supplier int32  `query:"supplier" doc:"Only of this supplier"`
	Text     string `query:"q" maxLength:"60" doc:"An order's number, or the opening of a SKU on it"`
}

// An OrderPage is part of a list of orders.
type OrderPage struct {
	Orders []Order `json:"orders"`
	// Next asks for the following page; empty at the end.
	Next string `json:"next"`
}

// An OrderLine is one item of a purchase order, in base units. A line without an item
// is no stock, such as carriage: nothing is booked in on it.
type OrderLine struct {
	ID          int64           `db:"id" json:"id"`
	OrderID     int64           `db:"order_id" json:"order_id"`
	Order       string          `db:"order_number" json:"order"`
	Line        int             `db:"line" json:"line"`
	ItemID      int32           `db:"item_id" json:"item_id" doc:"0 for what is no stock"`
	PackID      int32           `db:"pack_id" json:"pack_id" doc:"The pack it was ordered in; 0 for base units"`
	NeededOn    *string         `db:"needed_on" json:"needed_on"`
	Covers      *int64          `db:"covers" json:"covers" doc:"The sales line that it is bought for"`
	CoversOrder string          `db:"covers_order" json:"covers_order" doc:"The order of that line"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Tracking    string          `db:"tracking" json:"tracking"`
	Unit        string          `db:"unit" json:"unit"`
	Whole       bool            `db:"whole" json:"whole"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	Received    decimal.Decimal `db:"received" json:"received"`
	Price       decimal.Decimal `db:"price" json:"price"`
	receiving.Allowance
	// Least closes the line, and no more than Most may come on it.
	Least decimal.Decimal `db:"-" json:"least"`
	Most  decimal.Decimal `db:"-" json:"most"`
	// A closed line expects nothing more; what was missing then is cancelled.
	Closed    bool            `db:"closed" json:"closed"`
	Cancelled decimal.Decimal `db:"cancelled" json:"cancelled"`
	Billed    decimal.Decimal `db:"billed" json:"billed"`
	// Freight is what it bears of the carriage; Landed is the price of a base unit with
	// it.
	Freight  receiving.Freight `db:"-" json:"freight"`
	Landed   decimal.Decimal   `db:"-" json:"landed"`
	WeightKg decimal.Decimal   `db:"weight_kg" json:"-"`
	// Packs are what it may come in.
	Packs []catalog.Pack `db:"-" json:"packs"`
}

// Stock tells whether the line's goods are kept in stock.
func (l OrderLine) Stock() bool { return l.ItemID != 0 }

// A Bill is what a supplier asks to be paid for an order.
type Bill struct {
	Number   string          `db:"number" json:"number"`
	BilledOn string          `db:"billed_on" json:"billed_on"`
	Person   string          `db:"person" json:"person"`
	Amount   decimal.Decimal `db:"amount" json:"amount"`
}

// NewBill is a bill as it is entered.
type NewBill struct {
	Number   string        `json:"number" maxLength:"60"`
	BilledOn string        `json:"billed_on" doc:"YYYY-MM-DD"`
	Lines    []NewBillLine `json:"lines" maxItems:"500"`
}

// NewBillLine is what a bill asks for one purchase line, in base units.
type NewBillLine struct {
	LineID   int64  `json:"line_id"`
	Quantity string `json:"quantity" maxLength:"40"`
	Price    string `json:"price" maxLength:"40"`
	Reason   string `json:"reason,omitempty" maxLength:"200" doc:"Why a lead lets a price above the allowance pass"`
}

// A Booking is goods of one kind that came in at once on an arrival.
type Booking struct {
	// MoveID is its first move; Serials are its units, where they are known.
	MoveID  int64    `db:"move_id" json:"move_id"`
	Serials []string `db:"-" json:"serials"`
	// Units are its moves and their serials, as JSON.
	Units    []byte `db:"units" json:"-"`
	moves    []int64
	LineID   int64           `db:"line_id" json:"line_id"`
	Document string          `db:"document" json:"document"`
	At       time.Time       `db:"at" json:"at"`
	Person   string          `db:"person" json:"person"`
	SKU      string          `db:"sku" json:"sku"`
	ItemID   int32           `db:"item_id" json:"-"`
	Tracking string          `db:"tracking" json:"-"`
	LotID    *int64          `db:"lot_id" json:"lot_id"`
	Lot      *string         `db:"lot" json:"lot"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
	PlaceID  int32           `db:"place_id" json:"place_id"`
	CartonID *int64          `db:"carton_id" json:"-"`
	Carton   *string         `db:"carton" json:"carton"`
	// Condition is good, waiting while its order is not complete, or held while it is
	// to be inspected.
	Condition string `db:"condition" json:"condition"`
	// UndoneAt is when it was taken back, for Reason.
	UndoneAt *time.Time `db:"undone_at" json:"undone_at"`
	Reason   string     `db:"reason" json:"reason"`
}

// UndoBooking takes a booking back.
type UndoBooking struct {
	Version int32  `json:"version"`
	MoveID  int64  `json:"move_id"`
	Reason  string `json:"reason" maxLength:"200"`
}

// An Arrival is one delivery at a dock.
type Arrival struct {
	ID     int64          `db:"id" json:"id"`
	Number string         `db:"number" json:"number"`
	Orders []ArrivalOrder `db:"-" json:"orders"`
	// Order names its orders in words.
	Order string `db:"order_numbers" json:"order"`
	// Waits is true when its goods wait on the dock, not free, until their order is
	// complete.
	Waits         bool      `db:"waits" json:"waits"`
	SupplierID    int32     `db:"supplier_id" json:"supplier_id"`
	SupplierPlace int32     `db:"supplier_place" json:"-"`
	SupplierCode  string    `db:"supplier_code" json:"-"`
	Supplier      string    `db:"supplier" json:"supplier"`
	SiteID        int32     `db:"site_id" json:"site_id"`
	DockID        int32     `db:"dock_id" json:"dock_id"`
	Dock          string    `db:"dock" json:"dock"`
	State         string    `db:"state" json:"state" enum:"open,done"`
	OpenedAt      time.Time `db:"opened_at" json:"opened_at"`
	// Ordered and Received are over all lines of its orders.
	Ordered  decimal.Decimal `db:"ordered" json:"ordered"`
	Received decimal.Decimal `db:"received" json:"received"`
	Version  int32           `db:"version" json:"version"`
	Lines    []OrderLine     `db:"-" json:"lines"`
	Bookings []Booking       `db:"-" json:"bookings"`
	// Wanted are orders that wait for what stands on the dock.
	Wanted []Wanted `db:"-" json:"wanted"`
}

// An ArrivalOrder is an order whose goods come on an arrival.
type ArrivalOrder struct {
	ID     int64  `db:"id" json:"id"`
	Number string `db:"number" json:"number"`
	State  string `db:"state" json:"state"`
}

// Wanted is a line of a sales order that no bin can serve and this dock can.
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

// NewArrival opens an arrival for orders of one supplier at a dock.
type NewArrival struct {
	OrderIDs []int64 `json:"order_ids" minItems:"1" maxItems:"50"`
	DockID   int32   `json:"dock_id"`
	Waits    bool    `json:"waits,omitempty" doc:"The goods wait on the dock, not free, until their order is complete"`
}

// An Inspection is goods that are set aside until somebody has looked at them.
type Inspection struct {
	ID     int64  `db:"id" json:"id"`
	SiteID int32  `db:"site_id" json:"site_id"`
	State  string `db:"state" json:"state" enum:"waiting,decided,taken back"`
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
	Supplier    string          `db:"supplier" json:"supplier"`
	At          time.Time       `db:"at" json:"at"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	Whole       bool            `db:"whole" json:"whole"`
	LotID       *int64          `db:"lot_id" json:"lot_id"`
	Lot         *string         `db:"lot" json:"lot"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	PlaceID     int32           `db:"place_id" json:"place_id"`
}

// Verdict is what came of an inspection: how many of those looked at are fine; the rest
// is damaged.
type Verdict struct {
	Passed  string   `json:"passed" maxLength:"40"`
	Serials []string `json:"serials,omitempty" maxItems:"1000" doc:"The units that are not fine, where they are known by serial"`
	Reason  string   `json:"reason,omitempty" maxLength:"200" doc:"What is wrong with those that are not fine"`
}

// Suggested is an item that is at its reorder point.
type Suggested struct {
	catalog.ItemStock
	// Supplier is whom it was bought from last.
	SupplierID int32  `json:"supplier_id"`
	Supplier   string `json:"supplier"`
	// PackID is the pack it would be bought in; 0 is the base unit.
	PackID  int32                `json:"pack_id"`
	Suggest receiving.Suggestion `json:"suggest"`
}

// NewOrder is a purchase order as it is entered.
type NewOrder struct {
	SupplierID int32 `json:"supplier_id"`
	SiteID     int32 `json:"site_id"`
	OrderTerms
	Note       string    `json:"note,omitempty" maxLength:"500"`
	BegunAs    string    `json:"began_as,omitempty" enum:"order,request,quote" doc:"An order without"`
	Quote      string    `json:"quote,omitempty" maxLength:"60"`
	QuoteUntil string    `json:"quote_until,omitempty" doc:"The last day the supplier's prices stand"`
	Place      bool      `json:"place,omitempty" doc:"Place it at once"`
	Lines      []NewLine `json:"lines" maxItems:"500"`
}

// NewLine is a line as it is entered. Without an item it is no stock, such as carriage,
// and its text says what it is.
type NewLine struct {
	ID       int64  `json:"id,omitempty" doc:"The line that is changed; a new one without"`
	ItemID   int32  `json:"item_id,omitempty"`
	Text     string `json:"text,omitempty" maxLength:"120"`
	PackID   int32  `json:"pack_id,omitempty" doc:"The quantity counts these packs; base units without"`
	Quantity string `json:"quantity" maxLength:"40"`
	Price    string `json:"price,omitempty" maxLength:"40" doc:"For a base unit; the item's cost without"`
	NeededOn string `json:"needed_on,omitempty"`

	// covers is the sales line that it is bought for.
	covers *int64
}

// Amended is how an open order is changed. Lines that are not named stay as they are.
type Amended struct {
	Version int32 `json:"version"`
	OrderTerms
	Lines  []NewLine `json:"lines,omitempty" maxItems:"500" doc:"Lines that change, by their ids, and new ones"`
	Remove []int64   `json:"remove,omitempty" maxItems:"500" doc:"Lines that are taken off the order; nothing may have come on them"`
}

// OrderTerms are when, how and on what terms an order's goods come.
type OrderTerms struct {
	ExpectedOn string `json:"expected_on" doc:"YYYY-MM-DD"`
	Carrier    string `json:"carrier,omitempty" maxLength:"80" doc:"The supplier's usual one without"`
	Terms      string `json:"terms,omitempty" maxLength:"200" doc:"The supplier's usual ones without"`
	Freight    string `json:"freight,omitempty" maxLength:"20" doc:"What carriage costs in all"`
	FreightBy  string `json:"freight_by,omitempty" enum:"value,weight" doc:"What it is spread over the lines by; value without"`
}

// BookIn is what came on an arrival.
type BookIn struct {
	Version int32        `json:"version"`
	Carton  *CartonIn    `json:"carton,omitempty" doc:"What all of it stands on, to be stowed as one"`
	Lines   []BookInLine `json:"lines" maxItems:"500"`
}

// CartonIn is a carton or a pallet that goods come on.
type CartonIn struct {
	SSCC string `json:"sscc,omitempty" maxLength:"60" doc:"The number on its label; a new one is made without"`
	Kind string `json:"kind" enum:"carton,pallet"`
}

// BookInLine is what came on one purchase line, in base units or in packs.
type BookInLine struct {
	LineID   int64       `json:"line_id"`
	PackID   int32       `json:"pack_id,omitempty" doc:"The quantities count these packs; base units without"`
	Serials  []string    `json:"serials,omitempty" maxItems:"1000" doc:"One for each unit, where units are known from arrival on"`
	Quantity string      `json:"quantity" maxLength:"40"`
	Lots     []BookInLot `json:"lots,omitempty" maxItems:"200"`
	Reason   string      `json:"reason,omitempty" maxLength:"200" doc:"Why a lead accepts what would be refused: too much, or too short-lived"`
}

// BookInLot is one lot of a line.
type BookInLot struct {
	Code      string `json:"code" maxLength:"60"`
	ExpiresOn string `json:"expires_on,omitempty"`
	Quantity  string `json:"quantity" maxLength:"40"`
}

// MadeLot is the name of a lot of the house's own.
type MadeLot struct {
	Code      string `json:"code"`
	ExpiresOn string `json:"expires_on" doc:"By the item's shelf life; empty when that is not known"`
}
