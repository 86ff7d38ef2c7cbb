// Package putaway is the station where goods get their bins: it proposes bins,
// refuses those that cannot take the goods, and stows.
package putaway

import (
	"context"
	"net/http"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/shopspring/decimal"
)

// Waiting is stock on a dock that has no bin yet.
type Waiting struct {
	// Condition is good, or waiting while the rest of its order is not here. Carton is
	// the carton or pallet that it stands on.
	Condition posting.Condition `db:"condition" json:"condition"`
	Carton    string            `db:"carton" json:"carton"`

	PlaceID     int32           `db:"place_id" json:"place_id"`
	Place       string          `db:"place" json:"place"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	LotID       *int64          `db:"lot_id" json:"lot_id"`
	Lot         *string         `db:"lot" json:"lot"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	Tracking    string          `db:"tracking" json:"tracking"`
	Since       time.Time       `db:"since" json:"since"`
}

// Goods names stock at a place that is to be stowed.
type Goods struct {
	PlaceID  int32  `json:"place_id"`
	ItemID   int32  `json:"item_id"`
	LotID    *int64 `json:"lot_id,omitempty"`
	Quantity string `json:"quantity" maxLength:"40"`
	// Serials name the units, where they are known one by one and not all are meant.
	Serials []string `json:"serials,omitempty" maxItems:"1000"`
}

// Spread is goods and the bins they go to.
type Spread struct {
	Goods
	Places []SpreadPart `json:"places" maxItems:"100"`
	Note   string       `json:"note,omitempty" maxLength:"200"`
}

// SpreadPart is one bin's part.
type SpreadPart struct {
	Bin      string   `json:"bin" maxLength:"60" doc:"The bin's code, as scanned or typed"`
	Quantity string   `json:"quantity" maxLength:"40"`
	Serials  []string `json:"serials,omitempty" maxItems:"1000" doc:"The units that go there, where they are known one by one"`
}

// Proposal is where the goods may go.
type Proposal struct {
	Places []Offer         `json:"places"`
	Others []Offer         `json:"others" doc:"Further bins that can take some, the nearest first"`
	Left   decimal.Decimal `json:"left" doc:"What no bin takes"`
}

// Offer is a bin that can take some of the goods.
type Offer struct {
	Bin      string           `json:"bin"`
	Quantity decimal.Decimal  `json:"quantity"`
	Takes    decimal.Decimal  `json:"takes"`
	Holds    decimal.Decimal  `json:"holds" doc:"Units of anything that lie there now"`
	MaxUnits *decimal.Decimal `json:"max_units"`
	Why      []string         `json:"why"`
	Serials  []string         `json:"serials" doc:"The units meant for it, where they are known one by one"`
}

// Register adds the station's operations.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/put-backs", "list-put-backs", "Goods in cartons that their orders do not want any more", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]PutBack, error) {
			return listPutBacks(ctx, db, in.Site)
		})
	web.Command(r, "/put-backs/{id}", "put-back", "Put goods from a carton back into a bin", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Bin string `json:"bin" maxLength:"60"`
			}
		}) (PutBack, error) {
			return PostPutBack(ctx, tx, in.ID, in.Body.Bin)
		})
	registerWaiting(r)
	registerStowing(r)
	registerWalks(r)
}

// registerWaiting adds what stands on docks, and why.
func registerWaiting(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/stow/waiting", "list-waiting-goods", "Goods on docks that have no bin yet", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
			All  bool  `query:"all" doc:"Also what cannot be stowed by itself: what waits for the rest of its order, and what stands on pallets"`
		}) ([]Waiting, error) {
			return listWaiting(ctx, db, in.Site, in.All)
		})
	web.Query(r, http.MethodGet, "/stow/stuck", "list-stuck-goods", "Goods on docks that no bin takes, and why", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Stuck, error) {
			return listStuck(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/stow/pallets", "list-pallets", "Cartons and pallets on docks that have no bin yet", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]cartons.Pallet, error) {
			return cartons.PalletsAt(ctx, db, in.Site, "dock")
		})
}

// registerStowing adds putting goods and pallets away.
func registerStowing(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/stow/pallets/{id}/bins", "propose-pallet-bins", "Bins that take a carton or pallet as one, the best first", web.Floor,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) ([]Offer, error) {
			return ProposePallet(ctx, db, in.ID)
		})
	web.Query(r, http.MethodPost, "/stow/pallets/preview", "preview-stow-pallet", "Before and after of stowing a carton or pallet as one", web.Floor,
		func(ctx context.Context, in *struct{ Body StowPallet }) (*ledger.Plan, error) {
			return planPallet(ctx, db, in.Body)
		})
	web.Command(r, "/stow/pallets", "stow-pallet", "Stow a carton or pallet as one, with all that stands on it", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body StowPallet }) (*ledger.Plan, error) {
			return PostPallet(ctx, tx, in.Body)
		})
	web.Query(r, http.MethodPost, "/stow/propose", "propose-bins", "Bins proposed for goods, and why", web.Floor,
		func(ctx context.Context, in *struct{ Body Goods }) (Proposal, error) {
			return Propose(ctx, db, in.Body)
		})
	web.Query(r, http.MethodPost, "/stow/preview", "preview-stow", "Before and after of a stow", web.Floor,
		func(ctx context.Context, in *struct{ Body Spread }) (*ledger.Plan, error) {
			return planStow(ctx, db, in.Body)
		})
	web.Command(r, "/stow", "stow", "Stow goods into bins", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Spread }) (*ledger.Plan, error) {
			return PostStow(ctx, tx, in.Body)
		})
}

// registerWalks adds walks with a trolley full.
func registerWalks(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/stow/walks", "list-stow-walks", "Walks with a trolley that is not empty", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]WalkRow, error) {
			return listWalks(ctx, db, in.Site)
		})
	type byID struct {
		ID int64 `path:"id"`
	}
	web.Query(r, http.MethodGet, "/stow/walks/{id}", "get-stow-walk", "What is left of a walk, in its shortest order", web.Everyone,
		func(ctx context.Context, in *byID) (Walk, error) { return readWalk(ctx, db, in.ID) })
	web.Command(r, "/stow/walks", "begin-stow-walk", "Load a trolley and plan one walk through the bins", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Load }) (Walk, error) {
			return BeginWalk(ctx, tx, in.Body)
		})
	web.Command(r, "/stow/walks/{id}/stow", "stow-on-walk", "Stow goods from a walk's trolley into a bin", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body StowStop
		}) (Walk, error) {
			return StowOnWalk(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/stow/walks/{id}/end", "end-stow-walk", "Set what is left on the trolley back where it came from", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *byID) (Walk, error) { return EndWalk(ctx, tx, in.ID) })
}
