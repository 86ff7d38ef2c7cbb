// Package orders is the station where sales orders are taken and let go to the
// floor.
package orders

import (
	"context"
	"net/http"

	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/shopspring/decimal"
)

// An Order is a sales order.
type Order struct {
	ID         int64  `db:"id" json:"id"`
	Number     string `db:"number" json:"number"`
	CustomerID int32  `db:"customer_id" json:"customer_id"`
	Customer   string `db:"customer" json:"customer"`
	SiteID     int32  `db:"site_id" json:"site_id"`
	WantedOn   string `db:"wanted_on" json:"wanted_on"`
	Reference  string `db:"reference" json:"reference"`
	Carrier    string `db:"carrier" json:"carrier"`
	State      string `db:"state" json:"state" enum:"held,let go,sent"`
	Late       bool   `db:"late" json:"late"`
	Version    int32  `db:"version" json:"version"`
	// Owing is why it was taken though the customer owes, and OwingBy who said so.
	Owing   string `db:"owing" json:"owing"`
	OwingBy string `db:"owing_by" json:"owing_by"`
	Email   string `db:"email" json:"email" doc:"Where the customer gets mail"`
	// The sums of its lines, in base units.
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
	Planned  decimal.Decimal `db:"planned" json:"planned"`
	Taken    decimal.Decimal `db:"taken" json:"taken"`
	Sent     decimal.Decimal `db:"sent" json:"sent"`
	Lines    []Line          `db:"-" json:"lines"`
	// Deliveries are the papers it was sent with.
	Deliveries []Delivery `db:"-" json:"deliveries"`
}

// A Line is one item of an order.
type Line struct {
	ID          int64           `db:"id" json:"id"`
	Line        int             `db:"line" json:"line"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	Planned     decimal.Decimal `db:"planned" json:"planned"`
	Taken       decimal.Decimal `db:"taken" json:"taken"`
	Sent        decimal.Decimal `db:"sent" json:"sent"`
	Price       decimal.Decimal `db:"price" json:"price"`
	// CanGo is the day on which what is open can go, those wanted before it first; empty
	// when no day is known, nil when nothing is open.
	CanGo *string `db:"-" json:"can_go"`
}

// A Delivery is a paper that goods were sent with.
type Delivery struct {
	ID     int64  `db:"id" json:"id"`
	Number string `db:"number" json:"number"`
}

// NewOrder is a sales order as it is entered.
type NewOrder struct {
	CustomerID int32     `json:"customer_id"`
	SiteID     int32     `json:"site_id"`
	WantedOn   string    `json:"wanted_on" doc:"YYYY-MM-DD"`
	Reference  string    `json:"reference,omitempty" maxLength:"80" doc:"The customer's own order number"`
	LetGo      bool      `json:"let_go,omitempty" doc:"Let it go to the floor at once"`
	Reason     string    `json:"reason,omitempty" maxLength:"200" doc:"Why a lead takes it though the customer owes"`
	Lines      []NewLine `json:"lines" maxItems:"500"`
}

// NewLine is a line as it is entered.
type NewLine struct {
	ItemID   int32  `json:"item_id"`
	Quantity string `json:"quantity" maxLength:"40"`
}

// Outlook is what a line would do to free stock.
type Outlook struct {
	Wanted    decimal.Decimal `json:"wanted"`
	Free      decimal.Decimal `json:"free"`
	FreeAfter decimal.Decimal `json:"free_after"`
	// NextOn and NextQuantity are the next purchase line that comes in.
	NextOn       *string          `json:"next_on"`
	NextQuantity *decimal.Decimal `json:"next_quantity"`
	// Promise is the first day on which it can go without taking what others are
	// promised; empty when no day is known.
	Promise string `json:"promise"`
}

type marked struct {
	Body struct {
		Orders []struct {
			ID      int64 `json:"id"`
			Version int32 `json:"version"`
		} `json:"orders" minItems:"1" maxItems:"500"`
	}
}

// Register adds the station's operations.
func Register(r *web.Router) {
	db := r.Runner.DB
	web.Query(r, http.MethodGet, "/sales-orders", "list-sales-orders", "Open orders by wanted date", web.Everyone,
		func(ctx context.Context, in *struct {
			Site  int32  `query:"site"`
			State string `query:"state" enum:",held,let go"`
		}) ([]Order, error) {
			return listOrders(ctx, db, in.Site, in.State)
		})
	web.Query(r, http.MethodGet, "/sales-orders/{id}", "get-sales-order", "An order", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (Order, error) {
			o, err := readOrder(ctx, db, in.ID)
			if err != nil {
				return o, err
			}
			return o, o.addDays(ctx, db, r.Runner.Now())
		})
	web.Paper(r, "/sales-orders/{id}/confirmation.pdf", "print-confirmation", "The order's confirmation", func(ctx context.Context, in *struct {
		ID int64 `path:"id"`
	}) (string, []byte, error) {
		o, pdf, err := confirmation(ctx, db, in.ID, r.Runner.Now())
		return o.Number, pdf, err
	})
	web.Command(r, "/sales-orders/{id}/mail", "mail-confirmation", "Mail the order's confirmation to its customer", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
		}) (Order, error) {
			return MailConfirmation(ctx, tx, in.ID)
		})
	web.Command(r, "/sales-orders/hold", "hold-orders", "Take orders back from the floor that nothing was taken for", web.Office,
		func(ctx context.Context, tx *command.Tx, in *marked) ([]Order, error) { return each(ctx, tx, in, Hold) })
	web.Query(r, http.MethodGet, "/outlook", "read-outlook", "What a line would do to free stock", web.Everyone,
		func(ctx context.Context, in *struct {
			Item     int32  `query:"item"`
			Site     int32  `query:"site"`
			Quantity string `query:"quantity" maxLength:"40"`
		}) (Outlook, error) {
			return outlook(ctx, db, in.Item, in.Site, in.Quantity, r.Runner.Now())
		})
	web.Command(r, "/sales-orders", "create-sales-order", "Take an order", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body NewOrder }) (Order, error) {
			return Create(ctx, tx, in.Body)
		})
	web.Command(r, "/sales-orders/let-go", "let-orders-go", "Let held orders go to the floor", web.Office,
		func(ctx context.Context, tx *command.Tx, in *marked) ([]Order, error) {
			return each(ctx, tx, in, LetGo)
		})
}

// each does one step with every order that is marked, or with none when one refuses.
func each(ctx context.Context, tx *command.Tx, in *marked, step func(context.Context, *command.Tx, int64, int32) (Order, error)) ([]Order, error) {
	out := []Order{}
	for _, o := range in.Body.Orders {
		order, err := step(ctx, tx, o.ID, o.Version)
		if err != nil {
			return nil, err
		}
		out = append(out, order)
	}
	return out, nil
}
