package connection

import (
	"context"
	"encoding/json"
	"fmt"

	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// topic is what browsers and workers are told of when the outbox changed.
const topic = "outbox"

// Put writes a message into the outbox: it goes out once the transaction is committed.
// Channel, Receiver, SiteID, Kind and Document are those of m; body is written as JSON. A
// booking or a sheet of labels that waits already is not asked for twice.
func Put(ctx context.Context, tx *command.Tx, m Message, body any) error {
	text, err := json.Marshal(body)
	if err != nil {
		return fmt.Errorf("wording a message: %w", err)
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO outbox (site_id, channel, receiver, kind, document, body, paper_name, paper, next_at, asked_by,
		  asked_at)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $9) ON CONFLICT DO NOTHING`,
		m.SiteID, m.Channel, m.Receiver, m.Kind, m.Document, string(text), m.PaperName, m.Paper, tx.Now, tx.Person.ID)
	if err != nil {
		return fmt.Errorf("writing into the outbox: %w", err)
	}
	tx.NotifySite(m.SiteID, topic, string(m.Channel))
	return nil
}

const columns = `
	SELECT m.id, m.site_id, m.channel, m.receiver, m.kind, m.document, m.body, m.state, m.attempts, m.next_at, m.said,
	       p.name AS person, m.asked_at, m.done_at, m.paper_name, m.asked_by
	  FROM outbox m JOIN people p ON p.id = m.asked_by `

// The most that is listed of what waits, and of what is over.
const (
	mostWaiting = 200
	mostOver    = 50
)

// List reads what waits at a site, the oldest first, and what is over, the newest first; of
// all channels when channel is empty.
func List(
	ctx context.Context, q sqlx.QueryerContext, site int32, channel Channel,
) (waiting, over []Message, err error) {
	waiting, over = []Message{}, []Message{}
	const of = `WHERE m.site_id = $1 AND ($2 = '' OR m.channel = $2) AND `
	if err := sqlx.SelectContext(ctx, q, &waiting, columns+of+`m.state = 'waiting'
		    ORDER BY m.id LIMIT $3`, site, channel, mostWaiting); err != nil {
		return nil, nil, fmt.Errorf("reading the outbox: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &over, columns+of+`m.state <> 'waiting' ORDER BY m.id DESC LIMIT $3`, site,
		channel, mostOver); err != nil {
		return nil, nil, fmt.Errorf("reading the outbox: %w", err)
	}
	return waiting, over, nil
}

// Again has what waits for a channel of a site tried at once.
func Again(ctx context.Context, tx *command.Tx, site int32, channel Channel) error {
	if err := tx.At(ctx, site); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE outbox SET next_at = $3 WHERE site_id = $1 AND channel = $2 AND state = 'waiting'`,
		site, channel, tx.Now)
	if err != nil {
		return fmt.Errorf("trying again: %w", err)
	}
	tx.NotifySite(site, topic, string(channel))
	return nil
}

// AgainFor has what waits for one receiver tried at once, at whatever site.
func AgainFor(ctx context.Context, tx *command.Tx, channel Channel, receiver string) error {
	tx.Nowhere()
	_, err := tx.ExecContext(ctx, `
		UPDATE outbox SET next_at = $3 WHERE channel = $1 AND receiver = $2 AND state = 'waiting'`,
		channel, receiver, tx.Now)
	if err != nil {
		return fmt.Errorf("trying again: %w", err)
	}
	tx.Notify(topic, string(channel))
	return nil
}

// Discard gives up on a message that waits.
func Discard(ctx context.Context, tx *command.Tx, site int32, channel Channel, id int64) error {
	if err := tx.At(ctx, site); err != nil {
		return err
	}
	result, err := tx.ExecContext(ctx, `UPDATE outbox SET state = 'discarded', done_at = $4
		WHERE id = $1 AND site_id = $2 AND channel = $3 AND state = 'waiting'`, id, site, channel, tx.Now)
	if err != nil {
		return fmt.Errorf("discarding a message: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return documents.Missing("waiting message", fmt.Sprint(id))
	}
	tx.NotifySite(site, topic, string(channel))
	return nil
}

// Withdraw gives up on what waits to be told of a document, if anything does.
func Withdraw(ctx context.Context, tx *command.Tx, site int32, channel Channel, document string) error {
	_, err := tx.ExecContext(ctx, `UPDATE outbox SET state = 'discarded', done_at = $4
		WHERE site_id = $1 AND channel = $2 AND document = $3 AND state = 'waiting'`, site, channel, document, tx.Now)
	if err != nil {
		return fmt.Errorf("withdrawing a message: %w", err)
	}
	tx.NotifySite(site, topic, string(channel))
	return nil
}

// Paper is what a message carries.
func Paper(ctx context.Context, q sqlx.QueryerContext, id int64) (name string, paper []byte, err error) {
	var m Message
	err = sqlx.GetContext(ctx, q, &m, `SELECT paper_name, paper FROM outbox WHERE id = $1`, id)
	return m.PaperName, m.Paper, documents.Found(err, "message", fmt.Sprint(id))
}
