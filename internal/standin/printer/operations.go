package printer

import (
	"context"
	"net/http"

	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
)

// Register adds the printer's operations.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/printer", "read-printer", "A site's label printer and what waits for it", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (Queue, error) {
			return read(ctx, db, in.Site)
		})
	web.Command(r, "/printer/print", "print-labels", "Print what waits, until the paper ends", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID int32   `json:"site_id"`
				Jobs   []int64 `json:"jobs,omitempty" maxItems:"200" doc:"Only these; all that wait without"`
			}
		}) (Queue, error) {
			return Print(ctx, tx, in.Body.SiteID, in.Body.Jobs)
		})
	web.Command(r, "/printer/tell", "tell-printer", "Tell the stand-in what to do: a roll of so many labels, or not to answer", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID  int32 `json:"site_id"`
				Paper   *int  `json:"paper,omitempty"`
				Answers *bool `json:"answers,omitempty"`
			}
		}) (Queue, error) {
			return Tell(ctx, tx, in.Body.SiteID, in.Body.Paper, in.Body.Answers)
		})
	type one struct {
		ID   int64 `path:"id"`
		Body struct {
			SiteID int32 `json:"site_id"`
			Copies int   `json:"copies,omitempty"`
		}
	}
	web.Command(r, "/printer/jobs/{id}/leave-out", "leave-label-out", "Take a label out of the queue", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *one) (Queue, error) {
			return LeaveOut(ctx, tx, in.Body.SiteID, in.ID)
		})
	web.Command(r, "/printer/jobs/{id}/again", "print-label-again", "Ask for copies of a label again", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *one) (Queue, error) {
			return Again(ctx, tx, in.Body.SiteID, in.ID, in.Body.Copies)
		})
	type byID struct {
		ID int64 `path:"id"`
	}
	web.Paper(r, "/printer/jobs/{id}/label.pdf", "print-job-label", "A label as it comes out", func(ctx context.Context, in *byID) (string, []byte, error) {
		return paper(ctx, db, in.ID)
	})
}
