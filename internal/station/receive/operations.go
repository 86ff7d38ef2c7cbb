// Package receive is the station where goods come in: arrivals of whatever inbound orders,
// the move that books what came into our stock on a dock, and inspection.
package receive

import (
	"context"
	"net/http"

	"lanternrow/internal/core/receiving"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
)

type byID struct {
	ID int64 `path:"id"`
}

type receiveGoods struct {
	ID   int64 `path:"id"`
	Body NewReceipt
}

type versioned struct {
	ID   int64 `path:"id"`
	Body struct {
		Version int32 `json:"version"`
	}
}

// Register adds the station's operations. prefix is the GS1 Company Prefix that pallets
// without a label are numbered under.
func Register(r *web.Router, prefix string) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/receive/day", "read-receive-day",
		"What stands at the docks, what is expected, and lines received by the hour", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (Day, error) {
			return readDay(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/arrivals", "list-arrivals", "Open arrivals", web.Everyone,
		func(ctx context.Context, in *struct {
			Site  int32 `query:"site"`
			Order int64 `query:"order" doc:"Only those that this order is on"`
		}) ([]Arrival, error) {
			return listArrivals(ctx, db, in.Site, in.Order)
		})
	web.Query(r, http.MethodGet, "/arrivals/{id}", "get-arrival", "An arrival", web.Everyone,
		func(ctx context.Context, in *byID) (Arrival, error) { return showArrival(ctx, db, in.ID) })
	web.Query(r, http.MethodGet, "/arrivals/{id}/coming", "list-coming-cartons",
		"Cartons on their way to an arrival, with what is in each", web.Everyone,
		func(ctx context.Context, in *byID) ([]inbound.Carton, error) { return inbound.Coming(ctx, db, in.ID) })
	web.Query(r, http.MethodGet, "/arrivals/{id}/beside", "list-orders-beside-arrival",
		"Open orders whose goods may be on the same lorry", web.Everyone,
		func(ctx context.Context, in *byID) ([]inbound.Order, error) { return inbound.Beside(ctx, db, in.ID) })
	web.Command(r, "/arrivals", "open-arrival", "Open an arrival for inbound orders at a dock", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body NewArrival }) (Arrival, error) {
			return OpenArrival(ctx, tx, in.Body)
		})
	web.Command(r, "/arrivals/{id}/orders", "add-order-to-arrival", "Put a further order on an open arrival", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Version int32 `json:"version"`
				OrderID int64 `json:"order_id"`
			}
		}) (Arrival, error) {
			return AddOrder(ctx, tx, in.ID, in.Body.Version, in.Body.OrderID)
		})
	web.Command(r, "/arrivals/{id}/lots", "make-lot", "Name a lot of the house's own for goods that came without one",
		web.Dock,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				ItemID int32 `json:"item_id"`
			}
		}) (MadeLot, error) {
			return makeLot(ctx, tx, in.ID, in.Body.ItemID)
		})
	web.Query(r, http.MethodGet, "/serials/range", "list-serial-range", "The serials from one to another", web.Everyone,
		func(_ context.Context, in *struct {
			First string `query:"first" maxLength:"60"`
			Last  string `query:"last" maxLength:"60"`
		}) ([]string, error) {
			return receiving.SerialRange("last", in.First, in.Last)
		})
	registerReceipts(r, prefix)
	registerInspections(r)
	registerUndo(r)
}

// registerReceipts adds receiving what came.
func registerReceipts(r *web.Router, prefix string) {
	db := r.Reads
	web.Query(r, http.MethodPost, "/arrivals/{id}/receive/preview", "preview-receive",
		"Before and after of a receipt", web.Dock,
		func(ctx context.Context, in *receiveGoods) (*ledger.Plan, error) {
			return previewReceipt(ctx, db, in.ID, in.Body, r.Runner.Now())
		})
	web.Command(r, "/arrivals/{id}/receive", "receive", "Receive what came", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *receiveGoods) (Arrival, error) {
			return PostReceipt(ctx, tx, prefix, in.ID, in.Body)
		})
}

// registerInspections adds goods that are set aside until somebody has looked at them.
func registerInspections(r *web.Router) {
	db := r.Reads
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
	web.Query(r, http.MethodPost, "/inspections/{id}/decide/preview", "preview-inspection",
		"Before and after of an inspection's verdict", web.Dock,
		func(ctx context.Context, in *verdict) (*ledger.Plan, error) {
			_, plan, err := planVerdict(ctx, db, in.ID, in.Body)
			return plan, err
		})
	web.Command(r, "/inspections/{id}/decide", "decide-inspection",
		"Pass what is fine and set the rest aside as damaged", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *verdict) (Inspection, error) {
			return Decide(ctx, tx, in.ID, in.Body)
		})
}

// registerUndo adds taking a receipt back, and the end of an arrival.
func registerUndo(r *web.Router) {
	db := r.Reads
	type undo struct {
		ID   int64 `path:"id"`
		Body UndoReceipt
	}
	web.Query(r, http.MethodPost, "/arrivals/{id}/undo/preview", "preview-undo-receipt",
		"Before and after of taking a receipt back", web.Dock,
		func(ctx context.Context, in *undo) (*ledger.Plan, error) {
			plan, err := planUndo(ctx, db, in.ID, in.Body.MoveID)
			if err != nil {
				return nil, err
			}
			return plan.Plan, nil
		})
	web.Command(r, "/arrivals/{id}/undo", "undo-receipt", "Take a receipt back while the goods are still there",
		web.Dock,
		func(ctx context.Context, tx *command.Tx, in *undo) (Arrival, error) {
			return Undo(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/arrivals/{id}/delivery-note", "note-delivery", "Write the number of the delivery note", web.Dock,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Version int32  `json:"version"`
				Number  string `json:"number" maxLength:"60"`
			}
		}) (Arrival, error) {
			return NoteDelivery(ctx, tx, in.ID, in.Body.Version, in.Body.Number)
		})
	web.Command(r, "/arrivals/{id}/close", "close-arrival", "Close an arrival; what is missing stays on order",
		web.Dock,
		func(ctx context.Context, tx *command.Tx, in *versioned) (Arrival, error) {
			return CloseArrival(ctx, tx, in.ID, in.Body.Version)
		})
}
