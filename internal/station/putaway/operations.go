// Package putaway is the station where goods get their bins: it proposes bins,
// refuses those that cannot take the goods, and puts away.
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

	LocationID  int32           `db:"location_id" json:"location_id"`
	Location    string          `db:"location" json:"location"`
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

// Goods names stock at a location that is to be put away.
type Goods struct {
	LocationID int32  `json:"location_id"`
	ItemID     int32  `json:"item_id"`
	LotID      *int64 `json:"lot_id,omitempty"`
	Quantity   string `json:"quantity" maxLength:"40"`
	// Serials name the units, where they are known one by one and not all are meant.
	Serials []string `json:"serials,omitempty" maxItems:"1000"`
}

// Spread is goods and the bins they go to.
type Spread struct {
	Goods
	Locations []SpreadPart `json:"locations" maxItems:"100"`
	Note      string       `json:"note,omitempty" maxLength:"200"`
}

// SpreadPart is one bin's part.
type SpreadPart struct {
	Bin      string   `json:"bin" maxLength:"60" doc:"The bin's code, as scanned or typed"`
	Quantity string   `json:"quantity" maxLength:"40"`
	Serials  []string `json:"serials,omitempty" maxItems:"1000" doc:"The units that go there, where they are known one by one"`
}

// Proposal is where the goods may go.
type Proposal struct {
	Locations []Offer         `json:"locations"`
	Others    []Offer         `json:"others" doc:"Further bins that can take some, the nearest first"`
	Left      decimal.Decimal `json:"left" doc:"What no bin takes"`
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
	web.Query(r, http.MethodGet, "/restocks", "list-restocks",
		"Goods in cartons that their orders do not want any more", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Restock, error) {
			return listRestocks(ctx, db, in.Site)
		})
	web.Command(r, "/restocks/{id}", "restock", "Return goods from a carton to stock", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Bin string `json:"bin" maxLength:"60"`
			}
		}) (Restock, error) {
			return PostRestock(ctx, tx, in.ID, in.Body.Bin)
		})
	registerWaiting(r)
	registerPutAway(r)
	registerWalks(r)
}

// registerWaiting adds what stands on docks, and why.
func registerWaiting(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/put-away/waiting", "list-waiting-goods", "Goods on docks that have no bin yet",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
			All  bool  `query:"all" doc:"Also what cannot be put away on its own: what waits for the rest of its order, and what stands on pallets"`
		}) ([]Waiting, error) {
			return listWaiting(ctx, db, in.Site, in.All)
		})
	web.Query(r, http.MethodGet, "/put-away/stuck", "list-stuck-goods", "Goods on docks that no bin takes, and why",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Stuck, error) {
			return listStuck(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/put-away/pallets", "list-pallets",
		"Cartons and pallets on docks that have no bin yet", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]cartons.Pallet, error) {
			return cartons.PalletsAt(ctx, db, in.Site, "dock")
		})
}

// registerPutAway adds putting goods and pallets away.
func registerPutAway(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/put-away/pallets/{id}/bins", "propose-pallet-bins",
		"Bins that take a carton or pallet as one, the best first", web.Floor,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) ([]Offer, error) {
			return ProposePallet(ctx, db, in.ID)
		})
	web.Query(r, http.MethodPost, "/put-away/pallets/preview", "preview-put-away-pallet",
		"Before and after of putting away a carton or pallet as one", web.Floor,
		func(ctx context.Context, in *struct{ Body PutAwayPallet }) (*ledger.Plan, error) {
			return planPallet(ctx, db, in.Body)
		})
	web.Command(r, "/put-away/pallets", "put-away-pallet",
		"Put away a carton or pallet as one, with all that stands on it", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body PutAwayPallet }) (*ledger.Plan, error) {
			return PostPallet(ctx, tx, in.Body)
		})
	web.Query(r, http.MethodPost, "/put-away/propose", "propose-bins", "Bins proposed for goods, and why", web.Floor,
		func(ctx context.Context, in *struct{ Body Goods }) (Proposal, error) {
			return Propose(ctx, db, in.Body)
		})
	web.Query(r, http.MethodPost, "/put-away/preview", "preview-put-away", "Before and after of putting goods away",
		web.Floor,
		func(ctx context.Context, in *struct{ Body Spread }) (*ledger.Plan, error) {
			return planPutAway(ctx, db, in.Body)
		})
	web.Command(r, "/put-away", "put_away", "Put away goods into bins", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Spread }) (*ledger.Plan, error) {
			return PostPutAway(ctx, tx, in.Body)
		})
}

// registerWalks adds walks with a trolley full.
func registerWalks(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/put-away/walks", "list-put-away-walks", "Walks with a trolley that is not empty",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]WalkRow, error) {
			return listWalks(ctx, db, in.Site)
		})
	type byID struct {
		ID int64 `path:"id"`
	}
	web.Query(r, http.MethodGet, "/put-away/walks/{id}", "get-put-away-walk",
		"What is left of a walk, in its shortest order", web.Everyone,
		func(ctx context.Context, in *byID) (Walk, error) { return readWalk(ctx, db, in.ID) })
	web.Command(r, "/put-away/walks", "begin-put-away-walk", "Load a trolley and plan one walk through the bins",
		web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Load }) (Walk, error) {
			return BeginWalk(ctx, tx, in.Body)
		})
	web.Command(r, "/put-away/walks/{id}/put-away", "put-away-on-walk",
		"Put away goods from a walk's trolley into a bin", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body PutAwayStop
		}) (Walk, error) {
			return PutAwayOnWalk(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/put-away/walks/{id}/end", "end-put-away-walk",
		"Set what is left on the trolley back where it came from", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *byID) (Walk, error) { return EndWalk(ctx, tx, in.ID) })
}
