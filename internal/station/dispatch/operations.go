// Package dispatch is the station where packed cartons leave for the customer.
package dispatch

import (
	"context"
	"net/http"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/shipping"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Ready is an order with packed cartons that can be shipped.
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

// manyIn are orders of one carrier that are shipped in one step.
type manyIn struct {
	Body struct {
		OrderIDs []int64 `json:"order_ids" minItems:"1" maxItems:"500"`
		shipping.Terms
	}
}

type shipmentIn struct {
	Body struct {
		OrderID int64 `json:"order_id"`
		shipping.Terms
	}
}

type onLoad[T any] struct {
	ID   int64 `path:"id"`
	Body T
}

// Load is a vehicle of a carrier that is being loaded, or has left.
type Load struct {
	ID       int64           `db:"id" json:"id"`
	Number   string          `db:"number" json:"number"`
	SiteID   int32           `db:"site_id" json:"site_id"`
	Carrier  string          `db:"carrier" json:"carrier"`
	Vehicle  string          `db:"vehicle" json:"vehicle"`
	State    states.Vehicle  `db:"state" json:"state" enum:"loading,left,cancelled"`
	OpenedBy string          `db:"opened_by" json:"opened_by"`
	OpenedAt time.Time       `db:"opened_at" json:"opened_at"`
	LeftAt   *time.Time      `db:"left_at" json:"left_at"`
	Count    int             `db:"count" json:"count"`
	WeightKg decimal.Decimal `db:"weight_kg" json:"weight_kg"`
	// Waiting is how many packed cartons of the carrier are on no vehicle.
	Waiting int              `db:"waiting" json:"waiting"`
	Cartons []cartons.Carton `db:"-" json:"cartons"`
}

// Register adds the station's operations; left is asked for the picking that is left.
func Register(r *web.Router, left Left) {
	db := r.Reads
	// Before the path that takes any word for an id.
	registerLists(r)
	registerBoard(r, left)
	web.Query(r, http.MethodGet, "/dispatch/ready", "list-ready", "Orders with packed cartons, by carrier",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Ready, error) {
			return listReady(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/shipments", "list-shipments", "The latest shipments of a site", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]shipping.Shipment, error) {
			return shipping.Latest(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/shipments/{id}", "get-shipment", "A shipment", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (shipping.Shipment, error) {
			return shipping.Read(ctx, db, in.ID)
		})
	web.Query(r, http.MethodPost, "/shipments/preview", "preview-shipment",
		"Before and after of shipping an order's packed cartons", web.Picking,
		func(ctx context.Context, in *shipmentIn) (*shipping.Plan, error) {
			return shipping.Preview(ctx, db, requestOf(in.Body.OrderID, nil, in.Body.Terms))
		})
	web.Command(r, "/shipments", "ship-order", "Ship an order's packed cartons", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *shipmentIn) (shipping.Shipment, error) {
			return Ship(ctx, tx, in.Body.OrderID, in.Body.Terms)
		})
	web.Query(r, http.MethodPost, "/shipments/many/preview", "preview-ship-many",
		"Before and after of shipping the packed cartons of several orders", web.Picking,
		func(ctx context.Context, in *manyIn) (*shipping.Plan, error) {
			return planMany(ctx, db, in.Body.OrderIDs, in.Body.Terms)
		})
	web.Command(r, "/shipments/many", "ship-many", "Ship the packed cartons of several orders of one carrier",
		web.Picking,
		func(ctx context.Context, tx *command.Tx, in *manyIn) ([]shipping.Shipment, error) {
			return ShipMany(ctx, tx, in.Body.OrderIDs, in.Body.Terms)
		})
	registerTakeBack(r)
	web.Command(r, "/shipments/{id}/ask-again", "ask-carrier-again",
		"Ask the carrier once more for a shipment's number", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
		}) (shipping.Shipment, error) {
			return shipping.AskAgain(ctx, tx, in.ID)
		})
	registerLoads(r)
}

// registerBoard adds the departures board.
func registerBoard(r *web.Router, left Left) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/dispatch/departures", "list-departures",
		"The next collection of each carrier, and how far its goods are", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Departure, error) {
			return readDepartures(ctx, db, in.Site, r.Runner.Now())
		})
	web.Query(r, http.MethodGet, "/dispatch/forecast", "read-forecast",
		"When each collection is ready, whether it is made, and what would help", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (Forecast, error) {
			return readForecast(ctx, db, in.Site, left, r.Runner.Now())
		})
}

// registerTakeBack adds taking back a shipment that was made by mistake.
func registerTakeBack(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/shipments/{id}/take-back/preview", "preview-take-back", "What taking a shipment back would do",
		web.Lead,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (*ledger.Plan, error) {
			plan, _, err := shipping.PlanTakeBack(ctx, db, in.ID)
			return plan, err
		})
	web.Command(r, "/shipments/{id}/take-back", "take-shipment-back",
		"Take a shipment back that was made by mistake, by a paper of its own", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Reason string `json:"reason" maxLength:"200" doc:"Why; it stands on the paper"`
			}
		}) (shipping.Shipment, error) {
			return shipping.TakeBack(ctx, tx, in.ID, in.Body.Reason)
		})
	web.Paper(r, "/shipments/{id}/taken-back.pdf", "taken-back-note", "The paper that takes a shipment back",
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (string, []byte, error) {
			return shipping.TakenBackNote(ctx, db, in.ID)
		})
}

// registerLists adds the list of a site's shipments, page by page and as a file.
func registerLists(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/shipments/list", "page-shipments", "Shipments of a site, page by page", web.Everyone,
		func(ctx context.Context, in *struct {
			Site  int32  `query:"site"`
			Text  string `query:"q" maxLength:"80" doc:"Letters of a number, an order, a customer or a tracking number"`
			Sort  string `query:"sort" enum:"number,order,customer,carrier,state,rate,tracking,vehicle,invoiced" default:"number"`
			Down  bool   `query:"down" doc:"From the last to the first"`
			After string `query:"after" maxLength:"400"`
			Limit int    `query:"limit" minimum:"1" maximum:"500" default:"100"`
		}) (shipping.Page, error) {
			by, err := documents.SortBy(shipping.SortKeys, in.Sort, in.Down, in.After)
			if err != nil {
				return shipping.Page{}, err
			}
			return shipping.List(ctx, db, in.Site, in.Text, by, in.Limit)
		})
	web.Download(r, "/shipments/export", "export-shipments", "Shipments of a site as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Site   int32  `query:"site"`
			Text   string `query:"q" maxLength:"80"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "shipments", in.Format)(shipping.Table(ctx, from, in.Site, in.Text))
		})
}

// registerLoads adds the operations of vehicles that are loaded and leave.
func registerLoads(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/loads", "list-loads", "Vehicles that are being loaded, and those that left last",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Load, error) {
			return listLoads(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/loads/{id}", "get-load", "A vehicle and the cartons on it", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (Load, error) {
			return readLoad(ctx, db, in.ID)
		})
	web.Command(r, "/loads", "open-load", "Begin to load a vehicle of a carrier", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID  int32  `json:"site_id"`
				Carrier string `json:"carrier" minLength:"1" maxLength:"80"`
				Vehicle string `json:"vehicle,omitempty" maxLength:"40" doc:"Its plate, or what tells it from others"`
			}
		}) (Load, error) {
			return OpenLoad(ctx, tx, in.Body.SiteID, in.Body.Carrier, in.Body.Vehicle)
		})
	web.Command(r, "/loads/{id}/scan", "load-carton", "Load a carton, or a pallet of them, by its label", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onLoad[struct {
			Scan string `json:"scan" maxLength:"200"`
		}]) (Load, error) {
			return LoadScan(ctx, tx, in.ID, in.Body.Scan)
		})
	web.Command(r, "/loads/{id}/off", "take-off-load",
		"Take cartons off a vehicle before it leaves; all of them without a list", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onLoad[struct {
			CartonIDs []int64 `json:"carton_ids,omitempty" maxItems:"500"`
		}]) (Load, error) {
			return TakeOff(ctx, tx, in.ID, in.Body.CartonIDs)
		})
	web.Command(r, "/loads/{id}/cancel", "cancel-load", "Give up a vehicle that nothing is on", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
		}) (Load, error) {
			return CancelLoad(ctx, tx, in.ID)
		})
	web.Query(r, http.MethodPost, "/loads/{id}/leave/preview", "preview-leave",
		"Before and after of a vehicle's leaving", web.Picking,
		func(ctx context.Context, in *onLoad[shipping.Terms]) (*shipping.Plan, error) {
			return planLeave(ctx, db, in.ID, in.Body)
		})
	web.Command(r, "/loads/{id}/leave", "leave", "Let a vehicle leave: what is on it is shipped", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onLoad[shipping.Terms]) (Load, error) {
			return Leave(ctx, tx, in.ID, in.Body)
		})
	web.Paper(r, "/shipments/{id}/note.pdf", "shipment-note", "A delivery note", func(ctx context.Context, in *struct {
		ID int64 `path:"id"`
	}) (string, []byte, error) {
		return shipping.Note(ctx, db, in.ID)
	})
}
