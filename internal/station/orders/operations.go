// Package orders is the station where sales orders are taken and released to the
// floor.
package orders

import (
	"context"
	"net/http"

	"lanternrow/internal/availability"
	"lanternrow/internal/core/pricing"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// An Order is a sales order.
type Order struct {
	ID         int64           `db:"id" json:"id"`
	Number     string          `db:"number" json:"number"`
	CustomerID int32           `db:"customer_id" json:"customer_id"`
	Customer   string          `db:"customer" json:"customer"`
	SiteID     int32           `db:"site_id" json:"site_id"`
	WantedOn   string          `db:"wanted_on" json:"wanted_on"`
	Reference  string          `db:"reference" json:"reference"`
	Carrier    string          `db:"carrier" json:"carrier"`
	State      states.Outbound `db:"state" json:"state" enum:"quote,on_hold,released,shipped,cancelled"`
	QuoteUntil *string         `db:"quote_until" json:"quote_until" doc:"The last day on which a quote holds"`
	Note       string          `db:"note" json:"note"`
	Late       bool            `db:"late" json:"late"`
	Version    int32           `db:"version" json:"version"`
	// Owing is why it was taken though the customer owes, and OwingBy who said so.
	Owing   string `db:"owing" json:"owing"`
	OwingBy string `db:"owing_by" json:"owing_by"`
	// Hold is why somebody put it on hold, HeldBy who did.
	Hold     HoldReason `db:"hold" json:"hold" enum:",hand,credit,payment,address,stock"`
	HoldNote string     `db:"hold_note" json:"hold_note"`
	HeldBy   string     `db:"held_by" json:"held_by"`
	Email    string     `db:"email" json:"email" doc:"Where the customer gets mail"`
	// The sums of its lines, in base units.
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
	Planned  decimal.Decimal `db:"planned" json:"planned"`
	Picked   decimal.Decimal `db:"picked" json:"picked"`
	Shipped  decimal.Decimal `db:"shipped" json:"shipped"`
	Due      decimal.Decimal `db:"due" json:"due" doc:"What still has to be taken from stock"`
	Reserved decimal.Decimal `db:"reserved" json:"reserved" doc:"What of that is reserved for it, on a round or not"`
	Value    decimal.Decimal `db:"value" json:"value" money:"true"`
	// Taxes and Total are those of one that is read by itself.
	Taxes []pricing.Tax   `db:"-" json:"taxes" money:"true"`
	Total decimal.Decimal `db:"-" json:"total" money:"true" doc:"What it comes to with tax"`
	// Blockers say why it cannot go; empty when nothing does.
	Blockers string `db:"blockers" json:"blockers"`
	// BlockedBy is what Blockers says, for programs.
	BlockedBy string `db:"blocked_by" json:"blocked_by" enum:",carton_weight,restock,bin_short,lines_short"`
	// ShortLines is how many of its lines want more than is free.
	ShortLines   int                       `db:"short_lines" json:"short_lines"`
	Lines        []Line                    `db:"-" json:"lines"`
	Reservations []reservation.Reservation `db:"-" json:"reservations"`
	Invoices     []Shipment                `db:"-" json:"invoices"`
	// Freed says what a change gave up.
	Freed []string `db:"-" json:"freed"`
	// Shipments are the papers it was shipped with.
	Shipments []Shipment `db:"-" json:"shipments"`
}

// A Line is one item of an order.
type Line struct {
	ID          int64           `db:"id" json:"id"`
	Line        int             `db:"line" json:"line"`
	ItemID      int32           `db:"item_id" json:"item_id" doc:"0 for a non-stock line, such as freight"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	Planned     decimal.Decimal `db:"planned" json:"planned"`
	Picked      decimal.Decimal `db:"picked" json:"picked"`
	Shipped     decimal.Decimal `db:"shipped" json:"shipped"`
	Cancelled   decimal.Decimal `db:"cancelled" json:"cancelled"`
	Due         decimal.Decimal `db:"due" json:"due"`
	Reserved    decimal.Decimal `db:"reserved" json:"reserved" doc:"What is reserved for it and on no round yet"`
	Invoiced    decimal.Decimal `db:"invoiced" json:"invoiced"`
	Price       decimal.Decimal `db:"price" json:"price" money:"true"`
	// PriceSource is where the price comes from, PriceWhy how it came about.
	PriceSource pricing.Source `db:"price_source" json:"price_source" enum:"typed,agreed,discount,list"`
	PriceWhy    string         `db:"price_why" json:"price_why" money:"true"`
	// Covered is what was ordered from suppliers for this very line and has not come.
	Covered decimal.Decimal `db:"covered" json:"covered"`
	// CanGo is the day on which what is open can go, those wanted before it first; empty
	// when no day is known, nil when nothing is open.
	CanGo *string `db:"-" json:"can_go"`
}

// A Shipment is a paper that goods were shipped with.
type Shipment struct {
	ID     int64  `db:"id" json:"id"`
	Number string `db:"number" json:"number"`
}

// Terms are what an order says besides its lines.
type Terms struct {
	WantedOn  string `json:"wanted_on" doc:"YYYY-MM-DD"`
	Reference string `json:"reference,omitempty" maxLength:"80" doc:"The customer's own order number"`
	Carrier   string `json:"carrier,omitempty" maxLength:"80" doc:"Who carries it; the customer's usual one when empty"`
	Note      string `json:"note,omitempty" maxLength:"500"`
	// Sure are the questions about it that were answered with yes.
	Sure refusal.Sure `json:"sure,omitempty" maxItems:"8"`
}

// NewOrder is a sales order as it is entered.
type NewOrder struct {
	Terms
	CustomerID int32     `json:"customer_id"`
	SiteID     int32     `json:"site_id"`
	Release    bool      `json:"release,omitempty" doc:"Release it at once"`
	Hold       *OnHold   `json:"hold,omitempty" doc:"Put it on hold instead, for a reason"`
	QuoteUntil string    `json:"quote_until,omitempty" doc:"Makes a quote of it, which holds until this day"`
	Reason     string    `json:"reason,omitempty" maxLength:"200" doc:"Why a lead takes it though the customer owes"`
	Lines      []NewLine `json:"lines" maxItems:"500"`
}

// NewLine is a line as it is entered, or as it is changed when it has an id.
type NewLine struct {
	ID       int64  `json:"id,omitempty"`
	ItemID   int32  `json:"item_id,omitempty"`
	Text     string `json:"text,omitempty" maxLength:"120" doc:"What it is, where it is no stock"`
	Quantity string `json:"quantity" maxLength:"40"`
	Price    string `json:"price,omitempty" maxLength:"40" doc:"For a base unit; the customer's own without"`
}

// Amended is how an order is changed. Lines that are not named stay as they are.
type Amended struct {
	Terms
	Version    int32     `json:"version"`
	QuoteUntil string    `json:"quote_until,omitempty"`
	Reason     string    `json:"reason,omitempty" maxLength:"200"`
	Lines      []NewLine `json:"lines,omitempty" maxItems:"500" doc:"Lines that change, by their ids, and new ones"`
	Remove     []int64   `json:"remove,omitempty" maxItems:"500" doc:"Lines that are cancelled so far as they are not shipped"`
}

// Accepting makes an order of a quote.
type Accepting struct {
	Version int32  `json:"version"`
	Reason  string `json:"reason,omitempty" maxLength:"200" doc:"Why a lead takes it though the customer owes"`
}

// NewReservation is stock that a line shall be reserved for.
type NewReservation struct {
	LocationID int32  `json:"location_id"`
	LotID      *int64 `json:"lot_id,omitempty"`
	CartonID   *int64 `json:"carton_id,omitempty"`
	Serial     string `json:"serial,omitempty" maxLength:"40" doc:"The very unit, where units are known one by one"`
	Quantity   string `json:"quantity" maxLength:"40"`
}

// Filter narrows a list of orders.
type Filter struct {
	State    string `query:"state" enum:",open,quote,on_hold,released,shipped,cancelled" doc:"open is on hold or released"`
	Customer int32  `query:"customer"`
	Carrier  string `query:"carrier" maxLength:"80"`
	Text     string `query:"text" maxLength:"80" doc:"The opening of a number, or words of the customer's name or reference"`
	From     string `query:"from" doc:"Wanted on this day or later"`
	Until    string `query:"until" doc:"Wanted on this day or before"`
	Blocked  bool   `query:"blocked" doc:"Only what is late or blocked"`
	// BlockedBy is the same thing that keeps them, as a standing names it.
	BlockedBy string `query:"blocked_by" enum:",carton_weight,restock,bin_short,lines_short" doc:"Only what this keeps"`
}

// Page is a part of a list, and where it goes on.
type Page struct {
	Orders []Order `json:"orders"`
	Next   string  `json:"next"`
	documents.Totals
}

// Marked is an order that is one of many, as it was seen.
type Marked struct {
	ID      int64 `json:"id"`
	Version int32 `json:"version"`
}

type onOrder[T any] struct {
	ID   int64 `path:"id"`
	Body T
}

// Register adds the station's operations.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/sales-orders", "list-sales-orders", "Open orders by wanted date", web.Everyone,
		func(ctx context.Context, in *struct {
			Site  int32  `query:"site"`
			State string `query:"state" enum:",on_hold,released"`
		}) ([]Order, error) {
			return listOrders(ctx, db, in.Site, in.State)
		})
	web.Query(r, http.MethodGet, "/sales-orders/list", "page-sales-orders",
		"Orders by wanted date, narrowed, page by page", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
			Filter
			Sort  string `query:"sort" enum:"number,customer,wanted,state,carrier,reference,units,reserved,cartons,shipped,value" default:"wanted"`
			Down  bool   `query:"down" doc:"From the last to the first"`
			After string `query:"after" maxLength:"400"`
			Limit int    `query:"limit" minimum:"1" maximum:"500" default:"100"`
		}) (Page, error) {
			by, err := documents.SortBy(sortKeys, in.Sort, in.Down, in.After)
			if err != nil {
				return Page{}, err
			}
			return pageOrders(ctx, db, in.Site, in.Filter, by, in.Limit)
		})
	web.Query(r, http.MethodGet, "/sales-orders/robbed", "list-robbed-orders",
		"Orders that lack what orders wanted later hold", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]availability.Robbed, error) {
			return availability.RobbedAt(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/sales-orders/counts", "count-sales-orders",
		"How many orders are in each state, late and blocked", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (Counts, error) {
			return countOrders(ctx, db, in.Site)
		})
	web.Download(r, "/sales-orders/export", "export-sales-orders", "A list of orders as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Site   int32  `query:"site"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
			Filter
		}) (web.File, error) {
			return web.TableFile(ctx, "sales-orders", in.Format)(exportOrders(ctx, from, in.Site, in.Filter))
		})
	registerPapers(r)
	registerSteps(r)
	registerReservations(r)
}

// registerPapers adds an order with its papers.
func registerPapers(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/sales-orders/{id}", "get-sales-order", "An order", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (Order, error) {
			o, err := readOrder(ctx, db, in.ID)
			if err != nil {
				return o, err
			}
			return o, o.addDays(ctx, db, r.Runner.Now(), map[int32]availability.Course{})
		})
	web.PaperFor(r, web.Desk, "/sales-orders/{id}/confirmation.pdf", "print-confirmation", "The order's confirmation",
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (string, []byte, error) {
			o, pdf, err := confirmation(ctx, db, in.ID, r.Runner.Now())
			return o.Number, pdf, err
		})
	web.Command(r, "/sales-orders/{id}/mail", "mail-confirmation", "Mail the order's confirmation to its customer",
		web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
		}) (Order, error) {
			return MailConfirmation(ctx, tx, in.ID)
		})
}

// registerSteps adds the way of an order from its first line to its end.
func registerSteps(r *web.Router) {
	db := r.Reads
	web.Command(r, "/sales-orders/hold", "hold-orders", "Take orders back from the floor that nothing was taken for",
		web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				Orders []Marked `json:"orders" minItems:"1" maxItems:"500"`
				OnHold
			}
		}) ([]Order, error) {
			return each(ctx, tx, in.Body.Orders, func(ctx context.Context, tx *command.Tx, id int64, version int32) (Order,
				error) {
				return Hold(ctx, tx, id, version, in.Body.OnHold)
			})
		})
	web.Query(r, http.MethodPost, "/sales-orders/outlook", "preview-sales-order",
		"What an order would come to as it is entered, and do to free stock", web.Everyone,
		func(ctx context.Context, in *struct{ Body Entered }) (Outlook, error) {
			return outlook(ctx, db, in.Body, r.Runner.Now())
		})
	web.Command(r, "/sales-orders/{id}/reserve-free", "reserve-free",
		"Reserve what an order can have now, of what is promised to nobody else", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
		}) (Order, error) {
			return ReserveFree(ctx, tx, in.ID)
		})
	web.Command(r, "/sales-orders", "create-sales-order", "Take an order", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body NewOrder }) (Order, error) {
			return Create(ctx, tx, in.Body)
		})
	web.Command(r, "/sales-orders/{id}/accept", "accept-quote", "Make an order of a quote", web.Office,
		func(ctx context.Context, tx *command.Tx, in *onOrder[Accepting]) (Order, error) {
			return Accept(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/sales-orders/{id}/change", "change-sales-order",
		"Change an open order, whatever of it is on the floor", web.Office,
		func(ctx context.Context, tx *command.Tx, in *onOrder[Amended]) (Order, error) {
			return Amend(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/sales-orders/{id}/cancel-open", "cancel-open", "Cancel what of an order is not shipped",
		web.Office,
		func(ctx context.Context, tx *command.Tx, in *onOrder[struct {
			Version int32 `json:"version"`
		}]) (Order, error) {
			return CancelOpen(ctx, tx, in.ID, in.Body.Version)
		})
}

// registerReservations adds the reservations of exact stock to order lines.
func registerReservations(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/sales-lines/{id}/stock", "list-reservable",
		"Stock that a line can be reserved for, by the withdrawal rule", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) ([]Holding, error) {
			return holdings(ctx, db, in.ID, r.Runner.Now())
		})
	web.Command(r, "/sales-lines/{id}/reservations", "reserve-line", "Reserve exact stock for an order line",
		web.Office,
		func(ctx context.Context, tx *command.Tx, in *onOrder[struct {
			Reservations []NewReservation `json:"reservations" minItems:"1" maxItems:"200"`
		}]) (Order, error) {
			return ReserveLine(ctx, tx, in.ID, in.Body.Reservations)
		})
	registerReservationList(r)
	web.Command(r, "/reservations/{id}/change", "change-reservation", "Reserve another quantity of the same stock",
		web.Office,
		func(ctx context.Context, tx *command.Tx, in *onOrder[struct {
			Quantity string `json:"quantity" maxLength:"40"`
		}]) (Order, error) {
			return ChangeReservation(ctx, tx, in.ID, in.Body.Quantity)
		})
	web.Command(r, "/reservations/{id}/unreserve", "unreserve", "Unreserve stock", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
		}) (Order, error) {
			return Unreserve(ctx, tx, in.ID)
		})
	web.Command(r, "/sales-orders/release", "release-orders", "Release orders on hold", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				Orders []Marked `json:"orders" minItems:"1" maxItems:"500"`
				Alone  bool     `json:"alone,omitempty" doc:"Release this one whatever its hold"`
				Reason string   `json:"reason,omitempty" maxLength:"200" doc:"Why a lead releases it though the customer's money is not settled"`
			}
		}) ([]Order, error) {
			return releaseMarked(ctx, tx, in.Body.Orders, Lifting{Alone: in.Body.Alone, Reason: in.Body.Reason})
		})
}

// each does one step with every order that is marked, or with none when one refuses.
func each(
	ctx context.Context, tx *command.Tx, marked []Marked,
	step func(context.Context, *command.Tx, int64, int32) (Order, error),
) ([]Order, error) {
	ids := make([]int64, len(marked))
	for i, o := range marked {
		ids[i] = o.ID
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.OutboundOrder, ids...)); err != nil {
		return nil, err
	}
	return command.Each(tx, marked, func(o Marked) (Order, error) { return step(ctx, tx, o.ID, o.Version) })
}
