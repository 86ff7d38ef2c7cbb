// Package pack is the station where cartons from rounds are checked, weighed,
// labelled and closed.
package pack

import (
	"context"
	"net/http"

	"lanternrow/internal/cartons"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
)

// Closing is what the bench says of a carton.
type Closing struct {
	WeightKg string `json:"weight_kg,omitempty" maxLength:"20" doc:"What the scale says; the reckoned weight without"`
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
	db := r.Runner.DB
	web.Query(r, http.MethodGet, "/cartons", "list-cartons", "Cartons of a site in a state", web.Everyone,
		func(ctx context.Context, in *struct {
			Site  int32  `query:"site"`
			State string `query:"state" enum:"blank,open,at bench,packed" default:"at bench"`
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
			tx.Touch("pack", "pick")
			return cartons.MakeLabels(ctx, tx, in.Body.SiteID, in.Body.Count, prefix)
		})
	web.Query(r, http.MethodPost, "/cartons/{id}/pack/preview", "preview-pack", "Before and after of closing a carton", web.Picking,
		func(ctx context.Context, in *closing) (*ledger.Plan, error) {
			_, plan, err := planClose(ctx, db, in.ID, in.Body)
			return plan, err
		})
	web.Command(r, "/cartons/{id}/pack", "pack-carton", "Close a carton and set it down for dispatch", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *closing) (cartons.Carton, error) {
			return Close(ctx, tx, in.ID, in.Body)
		})
	web.Paper(r, "/cartons/{id}/label.pdf", "carton-label", "A carton's label", func(ctx context.Context, in *byID) (string, []byte, error) {
		return label(ctx, db, in.ID)
	})
	web.Paper(r, "/cartons/{id}/slip.pdf", "packing-slip", "A carton's packing slip", func(ctx context.Context, in *byID) (string, []byte, error) {
		return slip(ctx, db, in.ID)
	})
}
