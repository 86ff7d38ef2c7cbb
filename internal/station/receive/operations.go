// Package receive is the station where goods come in: purchase orders, arrivals,
// and the move that books what came into our stock, on a dock.
package receive

import (
	"context"
	"net/http"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

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
	State      string `db:"state" json:"state" enum:"draft,placed,part in,all in,closed"`
	Late       bool   `db:"late" json:"late"`
	Note       string `db:"note" json:"note"`
	LineCount  int    `db:"line_count" json:"line_count"`
	// PricePct is by how many per cent a bill may be above the prices.
	PricePct decimal.Decimal `db:"price_pct" json:"price_pct"`
	Version  int32           `db:"version" json:"version"`
	Lines    []OrderLine     `db:"-" json:"lines"`
	Bills    []Bill          `db:"-" json:"bills"`
}

// An OrderPage is part of a list of orders.
type OrderPage struct {
	Orders []Order `json:"orders"`
	// Next asks for the following page; empty at the end.
	Next string `json:"next"`
}

// An OrderLine is one item of a purchase order, in base units.
type OrderLine struct {
	ID          int64           `db:"id" json:"id"`
	Line        int             `db:"line" json:"line"`
	ItemID      int32           `db:"item_id" json:"item_id"`
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
}

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
}

// A Booking is one move of goods in, on an arrival.
type Booking struct {
	MoveID   int64           `db:"move_id" json:"move_id"`
	LineID   int64           `db:"line_id" json:"line_id"`
	Document string          `db:"document" json:"document"`
	At       time.Time       `db:"at" json:"at"`
	Person   string          `db:"person" json:"person"`
	SKU      string          `db:"sku" json:"sku"`
	LotID    *int64          `db:"lot_id" json:"lot_id"`
	Lot      *string         `db:"lot" json:"lot"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
	PlaceID  int32           `db:"place_id" json:"place_id"`
	// Condition is good, or held while it is to be inspected.
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
	ID       int64     `db:"id" json:"id"`
	Number   string    `db:"number" json:"number"`
	OrderID  int64     `db:"order_id" json:"order_id"`
	Order    string    `db:"order_number" json:"order"`
	Supplier string    `db:"supplier" json:"supplier"`
	SiteID   int32     `db:"site_id" json:"site_id"`
	DockID   int32     `db:"dock_id" json:"dock_id"`
	Dock     string    `db:"dock" json:"dock"`
	State    string    `db:"state" json:"state" enum:"open,done"`
	OpenedAt time.Time `db:"opened_at" json:"opened_at"`
	// Ordered and Received are over all lines of its order.
	Ordered  decimal.Decimal `db:"ordered" json:"ordered"`
	Received decimal.Decimal `db:"received" json:"received"`
	Version  int32           `db:"version" json:"version"`
	Lines    []OrderLine     `db:"-" json:"lines"`
	Bookings []Booking       `db:"-" json:"bookings"`
}

// An Inspection is goods that are set aside until somebody has looked at them.
type Inspection struct {
	ID          int64           `db:"id" json:"id"`
	SiteID      int32           `db:"site_id" json:"site_id"`
	State       string          `db:"state" json:"state" enum:"waiting,decided,taken back"`
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

// Verdict is what came of an inspection: how many are fine; the rest is damaged.
type Verdict struct {
	Passed string `json:"passed" maxLength:"40"`
	Reason string `json:"reason,omitempty" maxLength:"200" doc:"What is wrong with those that are not fine"`
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
	SupplierID int32     `json:"supplier_id"`
	SiteID     int32     `json:"site_id"`
	ExpectedOn string    `json:"expected_on" doc:"YYYY-MM-DD"`
	Note       string    `json:"note,omitempty" maxLength:"500"`
	Place      bool      `json:"place,omitempty" doc:"Place it at once"`
	Lines      []NewLine `json:"lines" maxItems:"500"`
}

// NewLine is a line as it is entered.
type NewLine struct {
	ItemID   int32  `json:"item_id"`
	PackID   int32  `json:"pack_id,omitempty" doc:"The quantity counts these packs; base units without"`
	Quantity string `json:"quantity" maxLength:"40"`
	Price    string `json:"price,omitempty" maxLength:"40" doc:"For a base unit; the item's cost without"`
}

// BookIn is what came on an arrival.
type BookIn struct {
	Version int32        `json:"version"`
	Lines   []BookInLine `json:"lines" maxItems:"500"`
}

// BookInLine is what came on one purchase line, in base units.
type BookInLine struct {
	LineID   int64       `json:"line_id"`
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

type byID struct {
	ID int64 `path:"id"`
}

type bookIn struct {
	ID   int64 `path:"id"`
	Body BookIn
}

type versioned struct {
	ID   int64 `path:"id"`
	Body struct {
		Version int32 `json:"version"`
	}
}

// Register adds the station's operations.
func Register(r *web.Router) {
	db := r.Runner.DB
	web.Query(r, http.MethodGet, "/purchase-orders", "list-purchase-orders", "Purchase orders of a list, by the day they are expected", web.Everyone,
		func(ctx context.Context, in *struct {
			Site  int32  `query:"site"`
			List  string `query:"list" enum:"open,late,today,week,part in,unbilled,all" default:"open"`
			After string `query:"after" maxLength:"60"`
			Limit int    `query:"limit" default:"100" minimum:"1" maximum:"200"`
		}) (OrderPage, error) {
			after, err := documents.ReadCursor(in.After)
			if err != nil {
				return OrderPage{}, err
			}
			return listOrders(ctx, db, in.Site, in.List, after, in.Limit)
		})
	web.Query(r, http.MethodGet, "/suggestions", "list-suggestions", "What is at its reorder point, and how much to buy of it", web.Everyone,
		func(ctx context.Context, in *struct {
			Site     int32 `query:"site"`
			Supplier int32 `query:"supplier" doc:"Only what was last bought from this supplier"`
		}) ([]Suggested, error) {
			return suggest(ctx, db, in.Site, in.Supplier)
		})
	web.Query(r, http.MethodGet, "/purchase-orders/{id}", "get-purchase-order", "A purchase order", web.Everyone,
		func(ctx context.Context, in *byID) (Order, error) { return readOrder(ctx, db, in.ID) })
	web.Command(r, "/purchase-orders", "create-purchase-order", "Make a purchase order", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body NewOrder }) (Order, error) {
			return CreateOrder(ctx, tx, in.Body)
		})
	web.Command(r, "/purchase-orders/{id}/place", "place-purchase-order", "Place a draft with its supplier", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *versioned) (Order, error) {
			return PlaceOrder(ctx, tx, in.ID, in.Body.Version)
		})
	web.Command(r, "/purchase-orders/{id}/close", "close-purchase-order", "Close an order for good; what is missing is cancelled", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *versioned) (Order, error) {
			return CloseOrder(ctx, tx, in.ID, in.Body.Version)
		})
	web.Command(r, "/purchase-orders/{id}/note", "annotate-purchase-order", "Write the order's note", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Version int32  `json:"version"`
				Note    string `json:"note" maxLength:"500"`
			}
		}) (Order, error) {
			return Annotate(ctx, tx, in.ID, in.Body.Version, in.Body.Note)
		})
	web.Command(r, "/purchase-orders/{id}/bills", "enter-bill", "Enter a supplier's bill, matched with what was ordered and what came", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body NewBill
		}) (Order, error) {
			return EnterBill(ctx, tx, in.ID, in.Body)
		})
	web.Query(r, http.MethodGet, "/arrivals", "list-arrivals", "Open arrivals", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Arrival, error) {
			return listArrivals(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/arrivals/{id}", "get-arrival", "An arrival", web.Everyone,
		func(ctx context.Context, in *byID) (Arrival, error) { return readArrival(ctx, db, in.ID) })
	web.Command(r, "/arrivals", "open-arrival", "Open an arrival for a purchase order at a dock", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				OrderID int64 `json:"order_id"`
				DockID  int32 `json:"dock_id"`
			}
		}) (Arrival, error) {
			return OpenArrival(ctx, tx, in.Body.OrderID, in.Body.DockID)
		})
	web.Query(r, http.MethodPost, "/arrivals/{id}/book-in/preview", "preview-book-in", "Before and after of a booking in", web.Dock,
		func(ctx context.Context, in *bookIn) (*ledger.Plan, error) {
			plan, err := planBookIn(ctx, db, in.ID, in.Body, r.Runner.Now())
			if err != nil {
				return nil, err
			}
			return plan.Plan, nil
		})
	web.Command(r, "/arrivals/{id}/book-in", "book-in", "Book in what came", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *bookIn) (Arrival, error) {
			return PostBookIn(ctx, tx, in.ID, in.Body)
		})
	type verdict struct {
		ID   int64 `path:"id"`
		Body Verdict
	}
	web.Query(r, http.MethodGet, "/inspections", "list-inspections", "Goods that wait to be inspected", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Inspection, error) {
			return listInspections(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/inspections/{id}", "get-inspection", "An inspection", web.Everyone,
		func(ctx context.Context, in *byID) (Inspection, error) { return readInspection(ctx, db, in.ID) })
	web.Query(r, http.MethodPost, "/inspections/{id}/decide/preview", "preview-inspection", "Before and after of an inspection's verdict", web.Dock,
		func(ctx context.Context, in *verdict) (*ledger.Plan, error) {
			_, plan, err := planVerdict(ctx, db, in.ID, in.Body)
			return plan, err
		})
	web.Command(r, "/inspections/{id}/decide", "decide-inspection", "Pass what is fine and set the rest aside as damaged", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *verdict) (Inspection, error) {
			return Decide(ctx, tx, in.ID, in.Body)
		})
	type undo struct {
		ID   int64 `path:"id"`
		Body UndoBooking
	}
	web.Query(r, http.MethodPost, "/arrivals/{id}/undo/preview", "preview-undo-booking", "Before and after of taking a booking back", web.Dock,
		func(ctx context.Context, in *undo) (*ledger.Plan, error) {
			plan, err := planUndo(ctx, db, in.ID, in.Body.MoveID)
			if err != nil {
				return nil, err
			}
			return plan.Plan, nil
		})
	web.Command(r, "/arrivals/{id}/undo", "undo-booking", "Take a booking back while the goods are still there", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *undo) (Arrival, error) {
			return Undo(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/arrivals/{id}/close", "close-arrival", "Close an arrival; what is missing stays on order", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *versioned) (Arrival, error) {
			return CloseArrival(ctx, tx, in.ID, in.Body.Version)
		})
}
