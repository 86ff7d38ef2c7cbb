// Package dispatch is the station where packed cartons leave for the customer.
package dispatch

import (
	"context"
	"net/http"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/shopspring/decimal"
)

// Ready is an order with packed cartons that can be sent.
type Ready struct {
	OrderID  int64           `db:"order_id" json:"order_id"`
	Order    string          `db:"order_number" json:"order"`
	Customer string          `db:"customer" json:"customer"`
	Carrier  string          `db:"carrier" json:"carrier"`
	WantedOn string          `db:"wanted_on" json:"wanted_on"`
	Late     bool            `db:"late" json:"late"`
	Cartons  int             `db:"cartons" json:"cartons"`
	WeightKg decimal.Decimal `db:"weight_kg" json:"weight_kg"`
	Since    time.Time       `db:"since" json:"since"`
	// Elsewhere counts its cartons that are not packed yet.
	Elsewhere int `db:"elsewhere" json:"elsewhere"`
}

// Delivery is what was sent of an order in one go.
type Delivery struct {
	ID       int64            `db:"id" json:"id"`
	Number   string           `db:"number" json:"number"`
	OrderID  int64            `db:"order_id" json:"order_id"`
	Order    string           `db:"order_number" json:"order"`
	Customer string           `db:"customer" json:"customer"`
	Carrier  string           `db:"carrier" json:"carrier"`
	SentAt   time.Time        `db:"sent_at" json:"sent_at"`
	SentBy   string           `db:"sent_by" json:"sent_by"`
	SiteID   int32            `db:"site_id" json:"site_id"`
	Cartons  []cartons.Carton `db:"-" json:"cartons"`
}

type sending struct {
	Body struct {
		OrderID int64 `json:"order_id"`
	}
}

// Register adds the station's operations.
func Register(r *web.Router) {
	db := r.Runner.DB
	web.Query(r, http.MethodGet, "/dispatch/ready", "list-ready", "Orders with packed cartons, by carrier", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Ready, error) {
			return listReady(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/deliveries", "list-deliveries", "The latest deliveries of a site", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Delivery, error) {
			return listDeliveries(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/deliveries/{id}", "get-delivery", "A delivery", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (Delivery, error) {
			return readDelivery(ctx, db, in.ID)
		})
	web.Query(r, http.MethodPost, "/deliveries/preview", "preview-send", "Before and after of sending an order's packed cartons", web.Picking,
		func(ctx context.Context, in *sending) (*ledger.Plan, error) {
			p, err := planSend(ctx, db, in.Body.OrderID)
			if err != nil {
				return nil, err
			}
			return p.Plan, nil
		})
	web.Command(r, "/deliveries", "send", "Send an order's packed cartons", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *sending) (Delivery, error) {
			return Send(ctx, tx, in.Body.OrderID)
		})
	web.Paper(r, "/deliveries/{id}/note.pdf", "delivery-note", "A delivery note", func(ctx context.Context, in *struct {
		ID int64 `path:"id"`
	}) (string, []byte, error) {
		return note(ctx, db, in.ID)
	})
}
