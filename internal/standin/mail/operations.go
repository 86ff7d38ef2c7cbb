package mail

import (
	"context"
	"net/http"

	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
)

// Register adds the outbox's operations.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/outbox", "read-outbox", "A site's mail: what waits, and what was sent", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (Outbox, error) {
			return read(ctx, db, in.Site)
		})
	web.Command(r, "/outbox/again", "send-mail-again", "Try once more to send what waits", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID int32 `json:"site_id"`
			}
		}) (Outbox, error) {
			return Again(ctx, tx, in.Body.SiteID)
		})
	web.Command(r, "/outbox/tell", "tell-mail-host", "Tell the stand-in what to do with mail", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID int32  `json:"site_id"`
				Does   string `json:"does" enum:"takes,silent,refuses"`
			}
		}) (Outbox, error) {
			return Tell(ctx, tx, in.Body.SiteID, in.Body.Does)
		})
	web.Command(r, "/outbox/{id}/leave-out", "leave-mail-out", "Give up on mail that waits", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				SiteID int32 `json:"site_id"`
			}
		}) (Outbox, error) {
			return LeaveOut(ctx, tx, in.Body.SiteID, in.ID)
		})
	web.Paper(r, "/outbox/{id}/paper.pdf", "print-mailed-paper", "The paper that mail carries", func(ctx context.Context, in *struct {
		ID int64 `path:"id"`
	}) (string, []byte, error) {
		return paper(ctx, db, in.ID)
	})
}
