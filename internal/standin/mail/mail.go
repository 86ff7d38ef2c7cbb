// Package mail shows what goes to a mail host, and stands in for one: it takes letters, and can be told not to answer or to
// turn mail away, since real ones do.
package mail

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"time"

	"lanternrow/internal/connection"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/standin/control"

	"github.com/jmoiron/sqlx"
)

// What the host does.
const (
	Takes   = "takes"
	Silent  = "silent"
	Refuses = "refuses"
)

// Host is the stand-in behind the port for mail.
type Host struct{ DB *sqlx.DB }

// Deliver takes a letter, or does what it was told to do.
func (h Host) Deliver(ctx context.Context, m connection.Message) (json.RawMessage, error) {
	does, err := doing(ctx, h.DB, m.SiteID)
	if err != nil {
		return nil, err
	}
	switch does {
	case Silent:
		return nil, errors.New("the host does not answer")
	case Refuses:
		return nil, errors.New("the host says: 550 no such mailbox")
	}
	return nil, nil
}

func doing(ctx context.Context, q sqlx.QueryerContext, site int32) (does string, err error) {
	if err := sqlx.GetContext(ctx, q, &does, `
		SELECT coalesce((SELECT does FROM mail_hosts WHERE site_id = $1), 'takes')`, site); err != nil {
		return "", fmt.Errorf("reading the mail host: %w", err)
	}
	return does, nil
}

// Mail is a letter and what became of it.
type Mail struct {
	ID        int64            `json:"id"`
	Recipient string           `json:"recipient"`
	Subject   string           `json:"subject"`
	Text      string           `json:"text"`
	Document  string           `json:"document"`
	PaperName string           `json:"paper_name"`
	State     connection.State `json:"state" enum:"waiting,done,refused,discarded"`
	Said      string           `json:"said" doc:"Why it was not sent, the last time it was tried"`
	Attempts  int              `json:"attempts"`
	NextAt    time.Time        `json:"next_at" doc:"When it is tried next, while it waits"`
	Person    string           `json:"person"`
	AskedAt   time.Time        `json:"asked_at"`
	SentAt    *time.Time       `json:"sent_at"`
}

// An Outbox is a site's mail host, and how many letters wait for it.
type Outbox struct {
	Does    string `json:"does" enum:"takes,silent,refuses,connected,unconnected" doc:"What the stand-in does, or whether there is a real host"`
	Host    string `json:"host,omitempty" doc:"The real host"`
	Waiting int    `json:"waiting"`
}

// desk reads a site's Outbox: at the real host of that name, at the stand-in, or at none.
type desk struct {
	host     string
	standsIn bool
}

func (d desk) read(ctx context.Context, q sqlx.QueryerContext, site int32) (out Outbox, err error) {
	out.Host = d.host
	switch {
	case d.host != "":
		out.Does = "connected"
	case !d.standsIn:
		out.Does = "unconnected"
	default:
		if out.Does, err = doing(ctx, q, site); err != nil {
			return out, err
		}
	}
	totals, err := documents.ReadTotals(ctx, q, connection.Letters.Query, []any{site, true})
	if err == nil {
		out.Waiting = *totals.Total
	}
	return out, err
}

// registerLetters adds a site's letters, page by page and as a file.
func registerLetters(r *web.Router) {
	type Whose struct {
		Site  int32  `query:"site"`
		State string `query:"state" enum:"waiting,over" default:"waiting" doc:"Those that wait, or all others"`
		Sort  string `query:"sort" enum:"to,subject,document,asked,person,state" default:"asked"`
	}
	web.Query(r, http.MethodGet, "/outbox/letters", "list-letters", "Mail that waits, or what became of it", web.Everyone,
		func(ctx context.Context, in *struct {
			Whose
			documents.Asked
		}) (out documents.Page[Mail], err error) {
			page, err := connection.Letters.Page(ctx, r.Reads, in.Sort, in.Asked, in.Site, in.State == "waiting")
			if err != nil {
				return out, err
			}
			out.Next, out.Totals = page.Next, page.Totals
			out.Rows, err = mails(page.Rows)
			return out, err
		})
	web.Download(r, "/outbox/export", "export-letters", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Whose
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "mail", in.Format)(connection.Letters.Table(ctx, from, in.Sort, in.Down, in.Site, in.State == "waiting"))
		})
}

func mails(of []connection.Message) ([]Mail, error) {
	out := make([]Mail, len(of))
	for i, m := range of {
		l, err := m.Letter()
		if err != nil {
			return nil, err
		}
		out[i] = Mail{ID: m.ID, Recipient: l.Recipient, Subject: l.Subject, Text: l.Text, Document: m.Document,
			PaperName: m.PaperName, State: m.State,
			Said: m.Said, Attempts: m.Attempts, NextAt: m.NextAt, Person: m.Person, AskedAt: m.AskedAt}
		if m.State == connection.Done {
			out[i].SentAt = m.DoneAt
		}
	}
	return out, nil
}

// Tell sets what the stand-in does. What waits is tried at once.
func Tell(ctx context.Context, tx *command.Tx, site int32, does string) error {
	_, err := tx.ExecContext(ctx, `
		INSERT INTO mail_hosts (site_id, does)
		VALUES ($1, $2) ON CONFLICT (site_id) DO UPDATE SET does = $2`, site, does)
	if err != nil {
		return fmt.Errorf("telling the mail host: %w", err)
	}
	return connection.Again(ctx, tx, site, connection.Mail)
}

// Register adds the mail host's operations; host is the name of the real one, or empty.
func Register(r *web.Router, host string) {
	d := desk{host, r.StandIns}
	type at struct {
		Body struct {
			SiteID int32 `json:"site_id"`
		}
	}
	web.Query(r, http.MethodGet, "/outbox", "read-outbox", "A site's mail host, and how much mail waits for it", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (Outbox, error) {
			return d.read(ctx, r.Reads, in.Site)
		})
	registerLetters(r)
	web.Command(r, "/outbox/again", "send-mail-again", "Try at once to send what waits", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *at) (Outbox, error) {
			if err := connection.Again(ctx, tx, in.Body.SiteID, connection.Mail); err != nil {
				return Outbox{}, err
			}
			return d.read(ctx, tx, in.Body.SiteID)
		})
	control.Register(r, "/outbox/tell", "tell-mail-host", "Tell the stand-in what to do with mail", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID int32  `json:"site_id"`
				Does   string `json:"does" enum:"takes,silent,refuses"`
			}
		}) (Outbox, error) {
			if err := Tell(ctx, tx, in.Body.SiteID, in.Body.Does); err != nil {
				return Outbox{}, err
			}
			return d.read(ctx, tx, in.Body.SiteID)
		})
	web.Command(r, "/outbox/{id}/discard", "discard-mail", "Discard mail that waits", web.Inbound,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
			at
		}) (Outbox, error) {
			if err := connection.Discard(ctx, tx, in.Body.SiteID, connection.Mail, in.ID); err != nil {
				return Outbox{}, err
			}
			return d.read(ctx, tx, in.Body.SiteID)
		})
	web.PaperFor(r, web.Desk, "/outbox/{id}/paper.pdf", "print-mailed-paper", "The paper that mail carries",
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (string, []byte, error) {
			return connection.Paper(ctx, r.Reads, in.ID)
		})
}
