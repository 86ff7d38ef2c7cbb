package schedules

import (
	"context"
	"net/http"

	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

type onSchedule[T any] struct {
	ID   int64 `path:"id"`
	Body T
}

type changed struct {
	Version int32 `json:"version"`
	Wish
}

// Register adds the operations of what is scheduled.
func (e *Engine) Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/schedules/tasks", "list-tasks", "What whoever asks may have done on schedule",
		web.Everyone,
		func(ctx context.Context, _ *struct{}) ([]Task, error) {
			p, err := people.Acting(ctx)
			return e.tasksOf(p), err
		})
	web.Query(r, http.MethodGet, "/schedules", "list-schedules", "Schedules of a site, and what they did", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Schedule, error) {
			return e.listComing(ctx, db, in.Site, r.Runner.Now())
		})
	registerRuns(r)
	web.Query(r, http.MethodPost, "/schedules/preview", "preview-schedule",
		"When a schedule runs next, and what it would do now", web.Desk,
		func(ctx context.Context, in *struct{ Body Wish }) (Outlook, error) {
			return e.outlook(ctx, db, in.Body, r.Runner.Now())
		})
	web.Command(r, "/schedules", "create-schedule", "New schedule", web.Desk,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Wish }) (Schedule, error) {
			return e.Create(ctx, tx, in.Body)
		})
	web.Command(r, "/schedules/{id}/change", "change-schedule", "Change what is scheduled", web.Desk,
		func(ctx context.Context, tx *command.Tx, in *onSchedule[changed]) (Schedule, error) {
			return e.Change(ctx, tx, in.ID, in.Body.Version, in.Body.Wish)
		})
	web.Command(r, "/schedules/{id}/state", "put-schedule", "Pause a schedule, resume it, or remove it", web.Desk,
		func(ctx context.Context, tx *command.Tx, in *onSchedule[struct {
			Version int32  `json:"version"`
			State   string `json:"state" enum:"on,paused,removed"`
		}]) (Schedule, error) {
			return e.Put(ctx, tx, in.ID, in.Body.Version, in.Body.State)
		})
	web.Command(r, "/schedules/{id}/run", "run-schedule-now", "Do at once what a schedule does", web.Desk,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
		}) (Schedule, error) {
			return e.RunNow(ctx, tx, in.ID)
		})
}

// registerRuns adds what a schedule did, page by page and as a file.
func registerRuns(r *web.Router) {
	type Whose struct {
		ID   int64  `path:"id"`
		Sort string `query:"sort" enum:"when,by,outcome,what,documents" default:"when"`
	}
	web.Query(r, http.MethodGet, "/schedules/{id}/runs", "list-runs", "What a schedule did", web.Everyone,
		func(ctx context.Context, in *struct {
			Whose
			documents.Asked
		}) (documents.Page[Run], error) {
			return runs.Page(ctx, r.Reads, in.Sort, in.Asked, in.ID)
		})
	web.Download(r, "/schedules/{id}/runs/export", "export-runs", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Whose
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "runs", in.Format)(runs.Table(ctx, from, in.Sort, in.Down, in.ID))
		})
}
