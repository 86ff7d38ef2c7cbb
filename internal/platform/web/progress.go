package web

import (
	"context"
	"net/http"

	"lanternrow/internal/platform/command"
)

// RegisterProgress adds the operation that tells how far a command is: it holds nothing
// that the command could wait for.
func RegisterProgress(r *Router) {
	Query(r, http.MethodGet, "/commands/{key}", "read-progress",
		"How far a command of one's own is that is under way, by its request key", Everyone,
		func(ctx context.Context, in *struct {
			Key string `path:"key" maxLength:"80"`
		}) (command.Progress, error) {
			return r.Runner.Progress(ctx, in.Key)
		})
}
