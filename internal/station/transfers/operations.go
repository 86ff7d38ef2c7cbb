// Package transfers is the station for moves of stock from one location to another.
package transfers

import (
	"context"
	"net/http"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
)

// Transfer is a quick move within a site.
type Transfer struct {
	FromID   int32    `json:"from_id"`
	ToID     int32    `json:"to_id,omitempty"`
	To       string   `json:"to,omitempty" maxLength:"60" doc:"The location's code, instead of its id"`
	ItemID   int32    `json:"item_id"`
	LotID    *int64   `json:"lot_id,omitempty"`
	Quantity string   `json:"quantity" maxLength:"40"`
	CartonID *int64   `json:"carton_id,omitempty" doc:"The carton or pallet that it is taken off"`
	Serials  []string `json:"serials,omitempty" maxItems:"1000" doc:"The units, where they are known one by one"`
	Note     string   `json:"note,omitempty" maxLength:"200"`
}

// Done says that a command is carried out.
type Done struct {
	Button string `json:"done"`
}

// Register adds the station's operations.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodPost, "/transfers/preview", "preview-transfer",
		"Before and after of a move within a site", web.Floor,
		func(ctx context.Context, in *struct{ Body Transfer }) (*ledger.Plan, error) {
			return preview(ctx, db, in.Body)
		})
	web.Command(r, "/transfers", "transfer", "Move stock within a site", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Transfer }) (Done, error) {
			return Post(ctx, tx, in.Body)
		})
	web.Query(r, http.MethodPost, "/transfers/empty/preview", "preview-empty",
		"Before and after of emptying a location into another", web.Floor,
		func(ctx context.Context, in *struct{ Body Emptying }) (*ledger.Plan, error) {
			return previewEmptying(ctx, db, in.Body)
		})
	web.Query(r, http.MethodPost, "/transfers/carton/preview", "preview-move-carton",
		"Before and after of moving a carton or pallet as it is", web.Floor,
		func(ctx context.Context, in *struct{ Body CartonMove }) (*ledger.Plan, error) {
			return previewCarton(ctx, db, in.Body)
		})
	web.Command(r, "/transfers/carton", "move-carton", "Move a carton or pallet as it is within its site", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body CartonMove }) (Done, error) {
			return MoveCarton(ctx, tx, in.Body)
		})
	web.Command(r, "/transfers/empty", "empty-location", "Empty a location into another", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Emptying }) (Done, error) {
			return Empty(ctx, tx, in.Body)
		})
}
