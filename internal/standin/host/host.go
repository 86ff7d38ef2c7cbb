// Package host stands in for the host system that is told what was received and what was
// shipped: it keeps what it is told, and can be told not to answer or to answer oddly.
package host

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"

	"lanternrow/internal/connection"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/standin/control"

	"github.com/jmoiron/sqlx"
)

// System is the stand-in behind the port for the host.
type System struct{ DB *sqlx.DB }

// Deliver takes a message, or does what it was told to do.
func (s System) Deliver(ctx context.Context, m connection.Message) (json.RawMessage, error) {
	does, err := doing(ctx, s.DB, m.SiteID)
	switch {
	case err != nil:
		return nil, err
	case does == "silent":
		return nil, errors.New("the host does not answer")
	case does == "odd":
		return nil, errors.New(`the host answers oddly: {"ok": "maybe"}`)
	}
	return nil, nil
}

func doing(ctx context.Context, q sqlx.QueryerContext, site int32) (does string, err error) {
	if err := sqlx.GetContext(ctx, q, &does, `
		SELECT coalesce((SELECT does FROM hosts WHERE site_id = $1), 'takes')`, site); err != nil {
		return "", fmt.Errorf("reading the host: %w", err)
	}
	return does, nil
}

// A Line is a site's host, what waits for it and what it was told last.
type Line struct {
	Does    string               `json:"does" enum:"takes,silent,odd,unconnected" doc:"Unconnected where there is no host"`
	Waiting []connection.Message `json:"waiting"`
	Told    []connection.Message `json:"told"`
}

func read(ctx context.Context, q sqlx.QueryerContext, site int32, connected bool) (out Line, err error) {
	if out.Does, err = doing(ctx, q, site); err != nil {
		return out, err
	}
	if !connected {
		out.Does = "unconnected"
	}
	out.Waiting, out.Told, err = connection.List(ctx, q, site, connection.Host)
	return out, err
}

// Register adds the host's operations.
func Register(r *web.Router) {
	type at struct {
		Body struct {
			SiteID int32 `json:"site_id"`
		}
	}
	web.Query(r, http.MethodGet, "/host", "read-host", "What the host system was told, and what waits for it",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (Line, error) {
			return read(ctx, r.Reads, in.Site, r.StandIns)
		})
	web.Command(r, "/host/again", "tell-host-again", "Try at once to tell the host what waits", web.Office,
		func(ctx context.Context, tx *command.Tx, in *at) (Line, error) {
			if err := connection.Again(ctx, tx, in.Body.SiteID, connection.Host); err != nil {
				return Line{}, err
			}
			return read(ctx, tx, in.Body.SiteID, r.StandIns)
		})
	control.Register(r, "/host/tell", "tell-host", "Tell the host's stand-in what to do", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID int32  `json:"site_id"`
				Does   string `json:"does" enum:"takes,silent,odd"`
			}
		}) (Line, error) {
			_, err := tx.ExecContext(ctx, `
				INSERT INTO hosts (site_id, does)
				VALUES ($1, $2) ON CONFLICT (site_id) DO UPDATE SET does = $2`, in.Body.SiteID, in.Body.Does)
			if err != nil {
				return Line{}, fmt.Errorf("telling the host: %w", err)
			}
			if err := connection.Again(ctx, tx, in.Body.SiteID, connection.Host); err != nil {
				return Line{}, err
			}
			return read(ctx, tx, in.Body.SiteID, r.StandIns)
		})
	web.Command(r, "/host/{id}/discard", "discard-host-message", "Discard a message that waits", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
			at
		}) (Line, error) {
			if err := connection.Discard(ctx, tx, in.Body.SiteID, connection.Host, in.ID); err != nil {
				return Line{}, err
			}
			return read(ctx, tx, in.Body.SiteID, r.StandIns)
		})
}
