package purchasing

import (
	"lanternrow/internal/availability"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"

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
	Freight    decimal.Decimal `db:"freight" json:"freight" money:"true"`
	FreightBy  string          `db:"freight_by" json:"freight_by" enum:"value,weight"`
	// Value is what its lines and the freight come to. Above ApproveAbove a lead has to
	// approve it before it is placed.
	Value        decimal.Decimal  `db:"value" json:"value" money:"true"`
	ApproveAbove *decimal.Decimal `db:"approve_above" json:"approve_above" money:"true"`
	// ToApprove tells whether it waits for that; said of an order alone, not in lists.
	ToApprove  bool           `db:"-" json:"to_approve"`
	ApprovedBy string         `db:"approved_by" json:"approved_by"`
	Email      string         `db:"email" json:"email" doc:"Where the supplier gets mail"`
	State      states.Inbound `db:"state" json:"state" enum:"draft,placed,partly_received,received,closed"`
	Late       bool           `db:"late" json:"late"`
	Note       string         `db:"note" json:"note"`
	LineCount  int            `db:"line_count" json:"line_count"`
	// PricePct is by how many per cent an invoice may be above the prices.
	PricePct decimal.Decimal `db:"price_pct" json:"price_pct"`
	Version  int32           `db:"version" json:"version"`
	Lines    []Line          `db:"-" json:"lines"`
	Invoices []Invoice       `db:"-" json:"invoices"`
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
	documents.Totals
}

// A Line is one item of a purchase order, in base units, with what it costs.
type Line struct {
	inbound.Line
	NeededOn *string         `json:"needed_on"`
	Price    decimal.Decimal `json:"price" money:"true"`
	Invoiced decimal.Decimal `json:"invoiced"`
	// Freight is what it bears of the freight; Landed is the price of a base unit with
	// it.
	Freight receiving.Freight `json:"freight"`
	Landed  decimal.Decimal   `json:"landed" money:"true"`
}

// A Invoice is what a supplier asks to be paid for an order.
type Invoice struct {
	ID         int64           `db:"id" json:"id"`
	Number     string          `db:"number" json:"number"`
	InvoicedOn string          `db:"invoiced_on" json:"invoiced_on"`
	Person     string          `db:"person" json:"person"`
	Amount     decimal.Decimal `db:"amount" json:"amount" money:"true"`
	// Counter is true for an entry that takes one back, for Reason; TakenBack for one that is.
	Counter   bool   `db:"counter" json:"counter"`
	TakenBack bool   `db:"taken_back" json:"taken_back"`
	Reason    string `db:"reason" json:"reason"`
	// Waits is true for one whose goods are still to come; Orders are those that it asks for.
	Waits  bool   `db:"waits" json:"waits"`
	Orders string `db:"orders" json:"orders"`
	// Carrier asks for the freight of the order; empty where the supplier asks for its goods.
	Carrier string `db:"carrier" json:"carrier"`
}

// InvoicePaper is what stands at the head of an invoice as it is entered.
type InvoicePaper struct {
	Number     string `json:"number" maxLength:"60"`
	InvoicedOn string `json:"invoiced_on" doc:"YYYY-MM-DD"`
	// Sure are the questions about it that were answered with yes.
	Sure refusal.Sure `json:"sure,omitempty" maxItems:"8"`
}

// NewSupplierInvoice is an invoice as it is entered.
type NewSupplierInvoice struct {
	InvoicePaper
	Lines []NewSupplierInvoiceLine `json:"lines" maxItems:"500"`
}

// NewFreightInvoice is what a carrier asks for an order's freight, as it is entered.
type NewFreightInvoice struct {
	InvoicePaper
	Carrier string `json:"carrier" maxLength:"80"`
	Amount  string `json:"amount" maxLength:"20" doc:"In whole hundredths"`
	By      string `json:"by,omitempty" enum:"value,weight" doc:"What it is spread over the lines by; as it is without"`
}

// NewSupplierInvoiceLine is what an invoice asks for one purchase line, in base units.
type NewSupplierInvoiceLine struct {
	LineID   int64  `json:"line_id"`
	Quantity string `json:"quantity" maxLength:"40"`
	Price    string `json:"price" maxLength:"40"`
	Reason   string `json:"reason,omitempty" maxLength:"200" doc:"Why a lead lets a price above the allowance pass"`
}

// Suggested is an item that is at its reorder point.
type Suggested struct {
	catalog.ItemStock
	// Supplier is whom it was bought from last, or else who offers it for the least; 0 and
	// empty where nobody is known. Asked is what drafts, requests and quotes want of it.
	Asked      decimal.Decimal `json:"asked"`
	SupplierID int32           `json:"supplier_id"`
	Supplier   string          `json:"supplier"`
	// PackID is the pack it would be bought in; 0 is the base unit.
	PackID int32           `json:"pack_id"`
	Price  decimal.Decimal `json:"price" money:"true"`
	// ExpectedOn is when it would come if it were ordered today.
	ExpectedOn string               `json:"expected_on"`
	Suggest    receiving.Suggestion `json:"suggest"`
	// Elsewhere is what other sites have to spare of it.
	Elsewhere []availability.Elsewhere `json:"elsewhere" nullable:"false"`
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
	Send       bool      `json:"send,omitempty" doc:"Send it to the supplier at once"`
	Lines      []NewLine `json:"lines" maxItems:"500"`
}

// NewLine is a line as it is entered. Without an item it is no stock, such as freight,
// and its text says what it is.
type NewLine struct {
	ID       int64  `json:"id,omitempty" doc:"The line that is changed; a new one without"`
	ItemID   int32  `json:"item_id,omitempty"`
	Text     string `json:"text,omitempty" maxLength:"120"`
	PackID   int32  `json:"pack_id,omitempty" doc:"The quantity counts these packs; base units without"`
	Quantity string `json:"quantity" maxLength:"40"`
	Price    string `json:"price,omitempty" maxLength:"40" doc:"For a base unit; without, what it was, or else what the supplier or the item costs"`
	NeededOn string `json:"needed_on,omitempty"`

	// covers is the sales line that it is bought for.
	covers *int64
}

// Amended is how an open order is changed. Lines that are not named stay as they are.
type Amended struct {
	Version int32 `json:"version"`
	OrderTerms
	// SupplierID, Quote and QuoteUntil may change while the order is a draft: a quote that is
	// over is renewed by them and the prices of its lines.
	SupplierID int32     `json:"supplier_id,omitempty" doc:"Another supplier; the same without"`
	Quote      string    `json:"quote,omitempty" maxLength:"60"`
	QuoteUntil string    `json:"quote_until,omitempty" doc:"The last day the supplier's prices stand"`
	Lines      []NewLine `json:"lines,omitempty" maxItems:"500" doc:"Lines that change, by their ids, and new ones"`
	Remove     []int64   `json:"remove,omitempty" maxItems:"500" doc:"Lines that are taken off the order; nothing may have come on them"`
}

// OrderTerms are when, how and on what terms an order's goods come.
type OrderTerms struct {
	ExpectedOn string `json:"expected_on" doc:"YYYY-MM-DD"`
	Carrier    string `json:"carrier,omitempty" maxLength:"80" doc:"The supplier's usual one without"`
	Terms      string `json:"terms,omitempty" maxLength:"200" doc:"The supplier's usual ones without"`
	Freight    string `json:"freight,omitempty" maxLength:"20" doc:"What freight costs in all"`
	FreightBy  string `json:"freight_by,omitempty" enum:"value,weight" doc:"What it is spread over the lines by; value without"`
	// Sure are the questions about it that were answered with yes.
	Sure refusal.Sure `json:"sure,omitempty" maxItems:"8"`
}
