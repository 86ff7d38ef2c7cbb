package connection

import (
	"context"
	"net/http"

	"lanternrow/internal/platform/web"
)

// An Outbox is what waits for receivers outside, and what they were told.
type Outbox struct {
	Waiting []Message `json:"waiting"`
	Over    []Message `json:"over"`
}

// Register adds the outbox's operations.
func Register(r *web.Router) {
	web.Query(r, http.MethodGet, "/connections/outbox", "read-connections",
		"What waits for receivers outside, and what they were told", web.Everyone,
		func(ctx context.Context, in *struct {
			Site    int32  `query:"site"`
			Channel string `query:"channel" enum:",carrier,mail,host,printer"`
		}) (out Outbox, err error) {
			out.Waiting, out.Over, err = List(ctx, r.Reads, in.Site, Channel(in.Channel))
			return out, err
		})
}
