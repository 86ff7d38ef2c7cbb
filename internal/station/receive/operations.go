// Package receive is the station where goods come in: purchase orders, arrivals,
// and the move that books what came into our stock, on a dock.
package receive

import (
	"context"
	"net/http"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/shopspring/decimal"
)

// An Order is a purchase order.
type Order struct {
	ID         int64       `db:"id" json:"id"`
	Number     string      `db:"number" json:"number"`
	SupplierID int32       `db:"supplier_id" json:"supplier_id"`
	Supplier   string      `db:"supplier" json:"supplier"`
	SiteID     int32       `db:"site_id" json:"site_id"`
	ExpectedOn string      `db:"expected_on" json:"expected_on"`
	State      string      `db:"state" json:"state" enum:"draft,placed,part in,all in"`
	Late       bool        `db:"late" json:"late"`
	Note       string      `db:"note" json:"note"`
	LineCount  int         `db:"line_count" json:"line_count"`
	Version    int32       `db:"version" json:"version"`
	Lines      []OrderLine `db:"-" json:"lines"`
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
	web.Query(r, http.MethodGet, "/purchase-orders", "list-purchase-orders", "Open purchase orders by expected date", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Order, error) {
			return listOrders(ctx, db, in.Site)
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
	web.Command(r, "/arrivals/{id}/close", "close-arrival", "Close an arrival; what is missing stays on order", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *versioned) (Arrival, error) {
			return CloseArrival(ctx, tx, in.ID, in.Body.Version)
		})
}
