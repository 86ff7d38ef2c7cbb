package labels

import (
	"context"

	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
)

// Register adds the operations of labels.
func Register(r *web.Router) {
	db := r.Reads
	web.Command(r, "/printer/print", "print-labels", "Give what waits to the printer", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID int32   `json:"site_id"`
				Jobs   []int64 `json:"jobs,omitempty" maxItems:"200" doc:"Only these; all that wait without"`
			}
		}) (Queue, error) {
			return Print(ctx, tx, in.Body.SiteID, in.Body.Jobs)
		})
	type one struct {
		ID   int64 `path:"id"`
		Body struct {
			SiteID int32 `json:"site_id"`
			Copies int   `json:"copies,omitempty"`
		}
	}
	web.Command(r, "/printer/jobs/{id}/discard", "discard-label", "Take a label out of the queue", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *one) (Queue, error) {
			return Discard(ctx, tx, in.Body.SiteID, in.ID)
		})
	web.Command(r, "/printer/jobs/{id}/again", "print-label-again", "Ask for copies of a label again", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *one) (Queue, error) {
			return Again(ctx, tx, in.Body.SiteID, in.ID, in.Body.Copies)
		})
	type byID struct {
		ID int64 `path:"id"`
	}
	web.Paper(r, "/printer/jobs/{id}/label.pdf", "print-job-label", "A label as it comes out",
		func(ctx context.Context, in *byID) (string, []byte, error) {
			return paper(ctx, db, in.ID)
		})
}
