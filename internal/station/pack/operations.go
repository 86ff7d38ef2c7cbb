// Package pack is the station where cartons from rounds are checked, weighed,
// labelled and closed.
package pack

import (
	"context"
	"net/http"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/cartonization"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
)

// Closing is what the bench says of a carton.
type Closing struct {
	WeightKg string `json:"weight_kg,omitempty" maxLength:"20" doc:"What the scale says; the calculated weight without"`
	Size     string `json:"size,omitempty" maxLength:"20" doc:"The size of the carton, by its code"`
	Reason   string `json:"reason,omitempty" maxLength:"200" doc:"Why a lead lets a weight pass that is off"`
}

// Stacking is cartons that go onto a pallet.
type Stacking struct {
	SiteID  int32    `json:"site_id"`
	Pallet  string   `json:"pallet,omitempty" maxLength:"200" doc:"A scan of its label; a new pallet without"`
	Cartons []string `json:"cartons" minItems:"1" maxItems:"200" doc:"Scans of their labels"`
}

type closing struct {
	ID   int64 `path:"id"`
	Body Closing
}

type byID struct {
	ID int64 `path:"id"`
}

// Register adds the station's operations. prefix is the GS1 Company Prefix that
// cartons are numbered under.
func Register(r *web.Router, prefix string) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/cartons", "list-cartons", "Cartons of a site in a state", web.Everyone,
		func(ctx context.Context, in *struct {
			Site  int32  `query:"site"`
			State string `query:"state" enum:"blank,open,at_bench,packed,loaded" default:"at_bench"`
		}) ([]cartons.Carton, error) {
			return cartons.InState(ctx, db, in.Site, in.State)
		})
	web.Query(r, http.MethodGet, "/cartons/{id}", "get-carton", "A carton and its contents", web.Everyone,
		func(ctx context.Context, in *byID) (cartons.Carton, error) { return cartons.ByID(ctx, db, in.ID) })
	web.Command(r, "/cartons", "make-carton-labels", "Make blank carton labels", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID int32 `json:"site_id"`
				Count  int   `json:"count"`
			}
		}) ([]cartons.Carton, error) {
			if err := tx.At(ctx, in.Body.SiteID); err != nil {
				return nil, err
			}
			tx.NotifySite(in.Body.SiteID, "pack", "pick")
			return cartons.MakeLabels(ctx, tx, in.Body.SiteID, in.Body.Count, prefix)
		})
	web.Query(r, http.MethodPost, "/cartons/{id}/pack/preview", "preview-pack",
		"Before and after of closing a carton", web.Picking,
		func(ctx context.Context, in *closing) (*ledger.Plan, error) {
			_, plan, err := planClose(ctx, db, in.ID, in.Body)
			return plan, err
		})
	web.Command(r, "/cartons/{id}/pack", "pack-carton", "Close a carton for dispatch", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *closing) (cartons.Carton, error) {
			return Close(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/cartons/{id}/check", "check-carton",
		"Scan what is in a carton at the bench, one thing after another", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Scan     string `json:"scan" maxLength:"200"`
				Quantity string `json:"quantity,omitempty" maxLength:"40" doc:"How many of it; one without"`
			}
		}) (cartons.Carton, error) {
			return Check(ctx, tx, in.ID, in.Body.Scan, in.Body.Quantity)
		})
	web.Command(r, "/cartons/{id}/open-again", "open-carton-again", "Bring a closed carton back to the bench",
		web.Picking,
		func(ctx context.Context, tx *command.Tx, in *byID) (cartons.Carton, error) {
			return OpenAgain(ctx, tx, in.ID)
		})
	web.Command(r, "/cartons/{id}/repack", "repack-goods", "Move goods from a carton at the bench into another",
		web.Picking,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body Repacking
		}) (Repacked, error) {
			return Repack(ctx, tx, in.ID, in.Body)
		})
	registerProposals(r, prefix)
}

// registerProposals adds sizes, pallets and the papers of cartons.
func registerProposals(r *web.Router, prefix string) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/cartons/{id}/proposal", "propose-size",
		"The sizes that hold what is in a carton, the smallest first", web.Everyone,
		func(ctx context.Context, in *byID) (cartonization.Answer, error) {
			c, err := cartons.ByID(ctx, db, in.ID)
			if err != nil {
				return cartonization.Answer{}, err
			}
			return cartons.Propose(ctx, db, countsIn(c))
		})
	web.Query(r, http.MethodGet, "/cartons/{id}/sizes", "list-sizes-that-hold",
		"The sizes of which one carton holds what is in it, the smallest first", web.Everyone,
		func(ctx context.Context, in *byID) ([]cartonization.Size, error) {
			c, err := cartons.ByID(ctx, db, in.ID)
			if err != nil {
				return nil, err
			}
			return cartons.Holding(ctx, db, countsIn(c))
		})
	web.Query(r, http.MethodGet, "/sales-orders/{id}/cartons", "propose-cartons",
		"What goes into which carton, for what an order still wants", web.Everyone,
		func(ctx context.Context, in *byID) (cartonization.Answer, error) {
			return proposeForOrder(ctx, db, in.ID)
		})
	web.Paper(r, "/sales-orders/{id}/contents.pdf", "contents-list", "All cartons of an order and what is in each",
		func(ctx context.Context, in *byID) (string, []byte, error) {
			return contentsList(ctx, db, in.ID)
		})
	web.Command(r, "/pallets", "stack-cartons", "Stack packed cartons of one carrier onto a pallet", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Stacking }) ([]cartons.Carton, error) {
			return Stack(ctx, tx, prefix, in.Body)
		})
	web.Command(r, "/cartons/{id}/unstack", "unstack-carton", "Take a carton off its pallet", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *byID) (cartons.Carton, error) {
			return Unstack(ctx, tx, in.ID)
		})
	web.Paper(r, "/pallets/{id}/label.pdf", "pallet-label", "A pallet's label",
		func(ctx context.Context, in *byID) (string, []byte, error) {
			return palletLabel(ctx, db, in.ID)
		})
	web.Paper(r, "/cartons/{id}/label.pdf", "carton-label", "A carton's label",
		func(ctx context.Context, in *byID) (string, []byte, error) {
			return label(ctx, db, in.ID)
		})
	web.Paper(r, "/cartons/{id}/slip.pdf", "packing-slip", "A carton's packing slip",
		func(ctx context.Context, in *byID) (string, []byte, error) {
			return slip(ctx, db, in.ID)
		})
}
