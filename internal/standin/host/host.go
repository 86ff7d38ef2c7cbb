// Package host stands in for the host system that is told what was received and what was
// sent: it keeps what it is told, and can be told not to answer or to answer oddly.
package host

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

// A Message is something the host is told.
type Message struct {
	ID       int64           `db:"id" json:"id"`
	Kind     string          `db:"kind" json:"kind"`
	Document string          `db:"document" json:"document"`
	Body     json.RawMessage `db:"body" json:"body"`
	State    string          `db:"state" json:"state" enum:"waiting,told,left out"`
	Stopped  string          `db:"stopped" json:"stopped" doc:"Why it was not told, the last time it was tried"`
	AskedAt  time.Time       `db:"asked_at" json:"asked_at"`
	ToldAt   *time.Time      `db:"told_at" json:"told_at"`
}

// A Line is a site's host, what waits for it and what it was told last.
type Line struct {
	Does    string    `json:"does" enum:"takes,silent,odd"`
	Waiting []Message `json:"waiting"`
	Told    []Message `json:"told"`
}

// Tell tells the host of a document. When it does not take it, the message waits: what is
// sent is sent, whatever the host says.
func Tell(ctx context.Context, tx *command.Tx, site int32, kind, document string, body any) error {
	text, err := json.Marshal(body)
	if err != nil {
		return fmt.Errorf("wording a message: %w", err)
	}
	var id int64
	err = tx.GetContext(ctx, &id, `INSERT INTO host_messages (site_id, kind, document, body, asked_at) VALUES ($1, $2, $3, $4, $5) RETURNING id`, site, kind, document, string(text), tx.Now)
	if err != nil {
		return fmt.Errorf("writing a message: %w", err)
	}
	return try(ctx, tx, site, &id)
}

// try hands what waits to the host, in order: one message, or all.
func try(ctx context.Context, tx *command.Tx, site int32, only *int64) error {
	if _, err := tx.ExecContext(ctx, `INSERT INTO hosts (site_id) VALUES ($1) ON CONFLICT DO NOTHING`, site); err != nil {
		return fmt.Errorf("setting up the host: %w", err)
	}
	var does string
	if err := tx.GetContext(ctx, &does, `SELECT does FROM hosts WHERE site_id = $1`, site); err != nil {
		return fmt.Errorf("reading the host: %w", err)
	}
	state, stopped := "waiting", ""
	switch does {
	case "takes":
		state = "told"
	case "silent":
		stopped = "the host does not answer"
	default:
		stopped = `the host answers oddly: {"ok": "maybe"}`
	}
	_, err := tx.ExecContext(ctx, `UPDATE host_messages SET state = $2, stopped = $3, told_at = CASE WHEN $2 = 'told' THEN $4::timestamptz END WHERE site_id = $1 AND state = 'waiting' AND ($5::bigint IS NULL OR id = $5)`,
		site, state, stopped, tx.Now, only)
	if err != nil {
		return fmt.Errorf("telling the host: %w", err)
	}
	tx.Touch("host")
	return nil
}

func read(ctx context.Context, q sqlx.QueryerContext, site int32) (Line, error) {
	out := Line{Waiting: []Message{}, Told: []Message{}}
	const columns = `SELECT id, kind, document, body, state, stopped, asked_at, told_at FROM host_messages `
	if err := sqlx.GetContext(ctx, q, &out.Does, `SELECT coalesce((SELECT does FROM hosts WHERE site_id = $1), 'takes')`, site); err != nil {
		return out, fmt.Errorf("reading the host: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &out.Waiting, columns+`WHERE site_id = $1 AND state = 'waiting' ORDER BY id LIMIT 200`, site); err != nil {
		return out, fmt.Errorf("reading messages: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &out.Told, columns+`WHERE site_id = $1 AND state <> 'waiting' ORDER BY id DESC LIMIT 50`, site); err != nil {
		return out, fmt.Errorf("reading messages: %w", err)
	}
	return out, nil
}

// Register adds the host's operations.
func Register(r *web.Router) {
	db := r.Reads
	type at struct {
		Body struct {
			SiteID int32 `json:"site_id"`
		}
	}
	web.Query(r, http.MethodGet, "/host", "read-host", "What the host system was told, and what waits for it", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (Line, error) {
			return read(ctx, db, in.Site)
		})
	web.Command(r, "/host/again", "tell-host-again", "Try once more to tell the host what waits", web.Office,
		func(ctx context.Context, tx *command.Tx, in *at) (Line, error) {
			if err := try(ctx, tx, in.Body.SiteID, nil); err != nil {
				return Line{}, err
			}
			return read(ctx, tx, in.Body.SiteID)
		})
	web.Command(r, "/host/tell", "tell-host", "Tell the host's stand-in what to do", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID int32  `json:"site_id"`
				Does   string `json:"does" enum:"takes,silent,odd"`
			}
		}) (Line, error) {
			if _, err := tx.ExecContext(ctx, `INSERT INTO hosts (site_id, does) VALUES ($1, $2) ON CONFLICT (site_id) DO UPDATE SET does = $2`, in.Body.SiteID, in.Body.Does); err != nil {
				return Line{}, fmt.Errorf("telling the host: %w", err)
			}
			tx.Touch("host")
			return read(ctx, tx, in.Body.SiteID)
		})
	web.Command(r, "/host/{id}/leave-out", "leave-host-out", "Give up on a message that waits", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				SiteID int32 `json:"site_id"`
			}
		}) (Line, error) {
			result, err := tx.ExecContext(ctx, `UPDATE host_messages SET state = 'left out' WHERE id = $1 AND site_id = $2 AND state = 'waiting'`, in.ID, in.Body.SiteID)
			if err != nil {
				return Line{}, fmt.Errorf("leaving a message out: %w", err)
			}
			if n, _ := result.RowsAffected(); n == 0 {
				return Line{}, documents.Missing("waiting message", fmt.Sprint(in.ID))
			}
			tx.Touch("host")
			return read(ctx, tx, in.Body.SiteID)
		})
}
