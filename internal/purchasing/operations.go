// Package purchasing keeps the commercial side of what is bought: requests, quotes,
// approval, what to buy, terms and prices, and the suppliers' invoices. The goods themselves
// are expected, received and put away as those of any inbound order.
package purchasing

import (
	"context"
	"net/http"

	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/value"

	"github.com/jmoiron/sqlx"
)

type byID struct {
	ID int64 `path:"id"`
}

type versioned struct {
	ID   int64 `path:"id"`
	Body struct {
		Version int32 `json:"version"`
	}
}

// Register adds the operations of purchasing.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/purchase-orders", "list-purchase-orders",
		"Purchase orders of a list, by the day they are expected", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32  `query:"site"`
			List string `query:"list" enum:"open,asked,approve,late,today,week,partly_received,waiting,uninvoiced,all" default:"open"`
			OrderFilter
			Sort  string `query:"sort" enum:",number,supplier,expected,state,lines,value,freight,carrier,terms,approved"`
			Down  bool   `query:"down" doc:"From the last to the first"`
			After string `query:"after" maxLength:"400"`
			Limit int    `query:"limit" default:"100" minimum:"1" maximum:"200"`
		}) (OrderPage, error) {
			by, err := sorting(in.List, in.Sort, in.Down, in.After)
			if err != nil {
				return OrderPage{}, err
			}
			return listOrders(ctx, db, in.Site, in.List, in.OrderFilter, by, in.Limit)
		})
	web.Download(r, "/purchase-orders/export", "export-purchase-orders", "A list of purchase orders as CSV or XLSX",
		exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Site int32  `query:"site"`
			List string `query:"list" enum:"open,asked,approve,late,today,week,partly_received,waiting,uninvoiced,all" default:"open"`
			OrderFilter
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "purchase-orders", in.Format)(ordersTable(ctx, from, in.Site, in.List, in.OrderFilter))
		})
	registerNeeds(r)
	registerOrders(r)
	registerQuotes(r)
	registerPapers(r)
}

// registerNeeds adds what is to be bought: for an order, or at its reorder point.
func registerNeeds(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/sales-orders/{id}/cover", "read-cover",
		"What an order is short of, and of whom it would be bought", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) ([]Cover, error) {
			c, err := readCover(ctx, db, in.ID, r.Runner.Now())
			return append([]Cover{}, c.lines...), err
		})
	web.Command(r, "/sales-orders/{id}/cover", "cover-order",
		"Buy in exactly what an order is short of: drafts of purchase orders, reserved for it", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
		}) ([]Order, error) {
			return CoverOrder(ctx, tx, in.ID)
		})
	web.Query(r, http.MethodGet, "/suggestions", "list-suggestions",
		"What is at its reorder point, and how much to buy of it", web.Everyone,
		func(ctx context.Context, in *struct {
			Site     int32 `query:"site"`
			Supplier int32 `query:"supplier" doc:"Only what was last bought from this supplier"`
		}) ([]Suggested, error) {
			return suggest(ctx, db, in.Site, in.Supplier, r.Runner.Now())
		})
	web.Command(r, "/suggestions/order", "order-suggested",
		"Order what is suggested: a draft of a purchase order for each supplier", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Restocking }) ([]Order, error) {
			return OrderSuggested(ctx, tx, in.Body)
		})
}

// registerOrders adds the way of an order from its first line to its close.
func registerOrders(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/purchase-orders/{id}", "get-purchase-order", "A purchase order", web.Everyone,
		func(ctx context.Context, in *byID) (Order, error) { return readOrder(ctx, db, in.ID) })
	web.Command(r, "/purchase-orders", "create-purchase-order", "Make a purchase order", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body NewOrder }) (Order, error) {
			return CreateOrder(ctx, tx, in.Body)
		})
	web.Command(r, "/purchase-requests", "request-purchase", "Ask for something to be bought", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body NewOrder }) (Order, error) {
			in.Body.BegunAs, in.Body.Send = "request", false
			return CreateOrder(ctx, tx, in.Body)
		})
	web.Command(r, "/purchase-orders/{id}/amend", "amend-purchase-order", "Change an open order's terms and lines",
		web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body Amended
		}) (Order, error) {
			return Amend(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/purchase-orders/{id}/approve", "approve-purchase-order",
		"Approve an order that comes to more than may be bought unasked", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *versioned) (Order, error) {
			return Approve(ctx, tx, in.ID, in.Body.Version)
		})
	web.Command(r, "/purchase-orders/{id}/release", "release-purchase-order",
		"Let waiting goods go into stock without the rest of their order", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *versioned) (Order, error) {
			return ReleaseOrder(ctx, tx, in.ID, in.Body.Version)
		})
	web.Command(r, "/purchase-orders/{id}/mail", "mail-purchase-order", "Send the order's paper to its supplier",
		web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *byID) (Order, error) { return MailOrder(ctx, tx, in.ID) })
	web.PaperFor(r, web.Desk, "/purchase-orders/{id}/order.pdf", "print-purchase-order", "The order's paper",
		func(ctx context.Context, in *byID) (string, []byte, error) {
			o, pdf, err := orderPaper(ctx, db, in.ID)
			return o.Number, pdf, err
		})
	web.Command(r, "/purchase-orders/{id}/send-to-supplier", "send-to-supplier", "Send a draft to its supplier",
		web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *versioned) (Order, error) {
			return PlaceOrder(ctx, tx, in.ID, in.Body.Version)
		})
	web.Command(r, "/purchase-orders/{id}/close", "close-purchase-order",
		"Close an order for good; what is missing is cancelled", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *versioned) (Order, error) {
			return CloseOrder(ctx, tx, in.ID, in.Body.Version)
		})
}

// registerQuotes adds what several suppliers are asked for, and what they answer.
func registerQuotes(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/purchase-orders/{id}/answers", "list-answers",
		"What suppliers that were asked for a request offer, line by line", web.Desk,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) ([]Answer, error) {
			o, err := readOrder(ctx, db, in.ID)
			if err != nil {
				return nil, err
			}
			return answersTo(ctx, db, o)
		})
	web.Command(r, "/purchase-orders/{id}/ask", "ask-suppliers", "Ask suppliers for their prices of what is requested",
		web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				SupplierIDs []int32 `json:"supplier_ids" minItems:"1" maxItems:"20"`
			}
		}) ([]Answer, error) {
			return AskSuppliers(ctx, tx, in.ID, in.Body.SupplierIDs)
		})
	web.Command(r, "/purchase-orders/{id}/choose", "choose-quote",
		"Order from one of the suppliers that were asked; the request and the other quotes are closed", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				QuoteID int64 `json:"quote_id"`
			}
		}) (Order, error) {
			return ChooseQuote(ctx, tx, in.ID, in.Body.QuoteID)
		})
}

// registerPapers adds an order's note, and what is asked to be paid for it.
func registerPapers(r *web.Router) {
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
	registerInvoices(r)
	registerFreight(r)
}

// registerInvoices adds the suppliers' invoices for an order.
func registerInvoices(r *web.Router) {
	web.Command(r, "/purchase-orders/{id}/invoices/{invoice}/take-back", "take-invoice-back",
		"Take a supplier's invoice back by a counter-entry", web.Accounts,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID      int64 `path:"id"`
			Invoice int64 `path:"invoice"`
			Body    struct {
				Reason string `json:"reason" maxLength:"200"`
			}
		}) (Order, error) {
			return TakeInvoiceBack(ctx, tx, in.ID, in.Invoice, in.Body.Reason)
		})
	web.Command(r, "/purchase-orders/{id}/invoices/{invoice}/match", "match-invoice",
		"Match an invoice that waited for its goods", web.Accounts,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID      int64 `path:"id"`
			Invoice int64 `path:"invoice"`
		}) (Order, error) {
			return MatchInvoice(ctx, tx, in.ID, in.Invoice)
		})
	web.Command(r, "/purchase-orders/{id}/invoices", "enter-invoice",
		"Enter a supplier's invoice, matched with what was ordered and what came", web.Accounts,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body NewSupplierInvoice
		}) (Order, error) {
			return EnterSupplierInvoice(ctx, tx, in.ID, in.Body)
		})
	web.Query(r, http.MethodPost, "/purchase-orders/{id}/invoices/preview", "preview-invoice",
		"What an invoice would make goods that came cost more or less", web.Accounts,
		func(ctx context.Context, in *struct {
			ID   int64 `path:"id"`
			Body NewSupplierInvoice
		}) ([]value.Entry, error) {
			return foresee(ctx, r.Runner, func(ctx context.Context, tx *command.Tx) (Order, error) {
				return EnterSupplierInvoice(ctx, tx, in.ID, in.Body)
			})
		})
}

// registerFreight adds the carriers' invoices for an order's freight.
func registerFreight(r *web.Router) {
	web.Command(r, "/purchase-orders/{id}/freight", "enter-freight",
		"Enter a carrier's invoice for an order's freight, borne by what came", web.Accounts,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body NewFreightInvoice
		}) (Order, error) {
			return EnterFreight(ctx, tx, in.ID, in.Body)
		})
	web.Query(r, http.MethodPost, "/purchase-orders/{id}/freight/preview", "preview-freight",
		"What freight would make goods that came cost more or less", web.Accounts,
		func(ctx context.Context, in *struct {
			ID   int64 `path:"id"`
			Body NewFreightInvoice
		}) ([]value.Entry, error) {
			return foresee(ctx, r.Runner, func(ctx context.Context, tx *command.Tx) (Order, error) {
				return EnterFreight(ctx, tx, in.ID, in.Body)
			})
		})
}
