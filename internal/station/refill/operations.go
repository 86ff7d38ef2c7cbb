// Package refill is the station for picking bins that are kept filled from reserve: what is short, the walks that fetch
// it, and each step of them.
package refill

import (
	"context"
	"net/http"

	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

type byID struct {
	ID int64 `path:"id"`
}

type doing struct {
	ID   int64 `path:"id"`
	Body Doing
}

// Register adds the station's operations.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/refills/{id}", "get-refill", "What is left of a refill, in the order of its walk", web.Everyone,
		func(ctx context.Context, in *byID) (Refill, error) { return read(ctx, db, in.ID) })
	web.Query(r, http.MethodGet, "/refills", "list-refills", "Refills that are not done", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Refill, error) {
			return listOpen(ctx, db, in.Site)
		})
	web.Query(r, http.MethodPost, "/refills/preview", "preview-refills", "The walks that would fill what is short", web.Floor,
		func(ctx context.Context, in *struct{ Body Wish }) (Plan, error) {
			return NewPlan(ctx, db, in.Body, r.Runner.Now())
		})
	web.Command(r, "/refills", "make-refills", "Make the walks that fill what is short", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Wish }) ([]Refill, error) {
			return Make(ctx, tx, in.Body)
		})
	registerLevels(r)
	registerSteps(r)
}

// registerLevels adds picking bins with what they hold and need, also as a file.
func registerLevels(r *web.Router) {
	db := r.Reads
	type Whose struct {
		Site  int32  `query:"site"`
		Until string `query:"until" maxLength:"10" doc:"Only what orders want up to this day"`
	}
	web.Query(r, http.MethodGet, "/picking-bins", "list-picking-bins", "Picking bins with what they hold and what they need",
		web.Everyone,
		func(ctx context.Context, in *struct{ Whose }) ([]Level, error) {
			return readLevels(ctx, db, in.Site, in.Until)
		})
	web.Download(r, "/picking-bins/export", "export-picking-bins", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Whose
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "picking-bins", in.Format)(table(readLevels(ctx, from, in.Site, in.Until)))
		})
}

// registerSteps adds the steps of a walk.
func registerSteps(r *web.Router) {
	web.Command(r, "/refills/{id}/begin", "begin-refill", "Walk a refill, or take it over", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *byID) (Refill, error) { return Begin(ctx, tx, in.ID) })
	web.Command(r, "/refills/{id}/cancel", "cancel-refill", "Give up a refill that nobody walks", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *byID) (Refill, error) { return Cancel(ctx, tx, in.ID) })
	web.Command(r, "/refills/{id}/end", "end-refill", "Put what is on the trolley back where it was, and end the walk", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *byID) (Refill, error) { return End(ctx, tx, in.ID) })
	web.Command(r, "/refills/{id}/fetch", "fetch-for-refill", "Fetch goods from reserve onto the trolley", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *doing) (Refill, error) {
			return FetchLine(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/refills/{id}/bring", "bring-on-refill", "Put goods from the trolley into their picking bin", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *doing) (Refill, error) {
			return BringLine(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/refills/{id}/return", "return-from-refill", "Put goods from the trolley back where they were", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *doing) (Refill, error) {
			return ReturnLine(ctx, tx, in.ID, in.Body)
		})
}
