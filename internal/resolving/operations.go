package resolving

import (
	"context"
	"net/http"

	"lanternrow/internal/platform/web"
)

// Register adds the operation behind the scan line.
func Register(r *web.Router) {
	web.Query(r, http.MethodGet, "/scan", "read-scan", "What a scan or a few words could mean", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32  `query:"site"`
			Text string `query:"text" maxLength:"400"`
		}) (Reading, error) {
			return Read(ctx, r.Reads, in.Site, in.Text, r.Runner.Now())
		})
	web.Query(r, http.MethodGet, "/items/{id}/label", "read-label",
		"What a label or what was typed says of the lot, serial or expiry of an item's goods", web.Everyone,
		func(ctx context.Context, in *struct {
			ID   int32  `path:"id"`
			Part Part   `query:"part" required:"true" enum:"lot,serial,expiry"`
			Text string `query:"text" maxLength:"400" required:"true"`
		}) (Parts, error) {
			return ReadPart(ctx, r.Reads, in.ID, in.Part, in.Text, r.Runner.Now())
		})
}
