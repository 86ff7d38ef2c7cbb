// Package mail stands in for a mail host: it keeps what is to be sent and shows what
// was, and can be told not to answer or to turn mail away, since real ones do.
package mail

import (
	"context"
	"fmt"
	"net/mail"
	"strings"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// A Letter is mail with a paper.
type Letter struct {
	ID        int64      `db:"id" json:"id"`
	Recipient string     `db:"recipient" json:"recipient"`
	Subject   string     `db:"subject" json:"subject"`
	Body      string     `db:"body" json:"body"`
	Document  string     `db:"document" json:"document"`
	PaperName string     `db:"paper_name" json:"paper_name"`
	State     string     `db:"state" json:"state" enum:"waiting,sent,left out"`
	Stopped   string     `db:"stopped" json:"stopped" doc:"Why it was not sent, the last time it was tried"`
	Person    string     `db:"person" json:"person"`
	AskedAt   time.Time  `db:"asked_at" json:"asked_at"`
	SentAt    *time.Time `db:"sent_at" json:"sent_at"`
	Paper     []byte     `db:"paper" json:"-"`
}

// What the host does.
const (
	Takes   = "takes"
	Silent  = "silent"
	Refuses = "refuses"
)

// An Outbox is a site's mail host, what waits for it, and what it took last.
type Outbox struct {
	Does    string   `json:"does" enum:"takes,silent,refuses"`
	Waiting []Letter `json:"waiting"`
	Sent    []Letter `json:"sent"`
}

// Send gives a letter to the host. When it does not take it, the letter waits.
func Send(ctx context.Context, tx *command.Tx, site int32, l Letter) error {
	if strings.TrimSpace(l.Recipient) == "" {
		return refusal.New("address_missing", "email", "There is no address to send it to. Write the supplier's or customer's address for mail into the catalog, or print the paper.")
	}
	to, err := mail.ParseAddress(l.Recipient)
	if err != nil {
		return refusal.New("address_malformed", "email", "%q is not an address for mail. Correct it in the catalog, such as name@example.org.", l.Recipient)
	}
	var id int64
	err = tx.GetContext(ctx, &id, `INSERT INTO mails (site_id, recipient, subject, body, document, paper_name, paper, asked_by, asked_at) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9) RETURNING id`,
		site, to.Address, l.Subject, l.Body, l.Document, l.PaperName, l.Paper, tx.Person.ID, tx.Now)
	if err != nil {
		return fmt.Errorf("writing mail: %w", err)
	}
	return try(ctx, tx, site, &id)
}

// try hands what waits to the host: one letter, or all.
func try(ctx context.Context, tx *command.Tx, site int32, only *int64) error {
	does, err := hold(ctx, tx, site)
	if err != nil {
		return err
	}
	state, stopped := "waiting", ""
	switch does {
	case Takes:
		state = "sent"
	case Silent:
		stopped = "the host does not answer"
	case Refuses:
		stopped = "the host says: 550 no such mailbox"
	}
	_, err = tx.ExecContext(ctx, `UPDATE mails SET state = $2, stopped = $3, sent_at = CASE WHEN $2 = 'sent' THEN $4::timestamptz END WHERE site_id = $1 AND state = 'waiting' AND ($5::bigint IS NULL OR id = $5)`,
		site, state, stopped, tx.Now, only)
	if err != nil {
		return fmt.Errorf("sending mail: %w", err)
	}
	tx.Touch("mail")
	return nil
}

// hold keeps the host to this transaction and reads what it does.
func hold(ctx context.Context, tx *command.Tx, site int32) (does string, err error) {
	if _, err := tx.ExecContext(ctx, `INSERT INTO mail_hosts (site_id) VALUES ($1) ON CONFLICT DO NOTHING`, site); err != nil {
		return "", fmt.Errorf("setting up the mail host: %w", err)
	}
	if err := tx.GetContext(ctx, &does, `SELECT does FROM mail_hosts WHERE site_id = $1 FOR UPDATE`, site); err != nil {
		return "", fmt.Errorf("reading the mail host: %w", err)
	}
	return does, nil
}

// Again hands everything that waits to the host once more.
func Again(ctx context.Context, tx *command.Tx, site int32) (Outbox, error) {
	if err := try(ctx, tx, site, nil); err != nil {
		return Outbox{}, err
	}
	return read(ctx, tx, site)
}

// Tell sets what the stand-in does.
func Tell(ctx context.Context, tx *command.Tx, site int32, does string) (Outbox, error) {
	if _, err := hold(ctx, tx, site); err != nil {
		return Outbox{}, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE mail_hosts SET does = $2 WHERE site_id = $1`, site, does); err != nil {
		return Outbox{}, fmt.Errorf("telling the mail host: %w", err)
	}
	tx.Touch("mail")
	return read(ctx, tx, site)
}

// LeaveOut gives up on a letter that waits.
func LeaveOut(ctx context.Context, tx *command.Tx, site int32, id int64) (Outbox, error) {
	result, err := tx.ExecContext(ctx, `UPDATE mails SET state = 'left out' WHERE id = $1 AND site_id = $2 AND state = 'waiting'`, id, site)
	if err != nil {
		return Outbox{}, fmt.Errorf("leaving mail out: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return Outbox{}, documents.Missing("waiting mail", fmt.Sprint(id))
	}
	tx.Touch("mail")
	return read(ctx, tx, site)
}

const columns = `SELECT m.id, m.recipient, m.subject, m.body, m.document, m.paper_name, m.state, m.stopped, p.name AS person, m.asked_at, m.sent_at FROM mails m JOIN people p ON p.id = m.asked_by `

func read(ctx context.Context, q sqlx.QueryerContext, site int32) (Outbox, error) {
	out := Outbox{Waiting: []Letter{}, Sent: []Letter{}}
	if err := sqlx.GetContext(ctx, q, &out.Does, `SELECT coalesce((SELECT does FROM mail_hosts WHERE site_id = $1), 'takes')`, site); err != nil {
		return out, fmt.Errorf("reading the mail host: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &out.Waiting, columns+`WHERE m.site_id = $1 AND m.state = 'waiting' ORDER BY m.id LIMIT 200`, site); err != nil {
		return out, fmt.Errorf("reading mail: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &out.Sent, columns+`WHERE m.site_id = $1 AND m.state <> 'waiting' ORDER BY m.id DESC LIMIT 50`, site); err != nil {
		return out, fmt.Errorf("reading mail: %w", err)
	}
	return out, nil
}

// paper is what a letter carries.
func paper(ctx context.Context, q sqlx.QueryerContext, id int64) (string, []byte, error) {
	var l Letter
	err := sqlx.GetContext(ctx, q, &l, `SELECT paper_name, paper FROM mails WHERE id = $1`, id)
	return l.PaperName, l.Paper, documents.Found(err, "mail", fmt.Sprint(id))
}
