package connection

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/live"
)

// A Port speaks to the receivers of one channel. Deliver is called outside of any
// transaction, and more than once for one message when its outcome was lost: a receiver can
// tell by Message.ID that it was told before. What it answers is JSON that Settle reads.
//
// An error leaves the message waiting, to be tried again; a Refusal ends it. The answer
// counts beside an error too, for what was done in part.
type Port interface {
	Deliver(ctx context.Context, m Message) (answer json.RawMessage, err error)
}

// A Refusal is a receiver's final no, in its words.
type Refusal struct{ Said string }

func (r *Refusal) Error() string { return r.Said }

// Settle writes down what came of a message, in the transaction that marks it. err is what
// Deliver answered.
type Settle func(ctx context.Context, tx *command.Tx, m Message, answer json.RawMessage, err error) error

// A Line is a channel's port, and what becomes of its answers; Settle may be nil.
type Line struct {
	Port   Port
	Settle Settle
}

// A Worker delivers what waits in the outbox. Any number may work on one database.
type Worker struct {
	Runner *command.Runner
	Lines  map[Channel]Line
}

// A message that takes longer than this is taken up by another worker; the pauses between
// tries grow from the first to the longest.
const (
	lease        = 30 * time.Second
	firstPause   = 2 * time.Second
	longestPause = 10 * time.Minute
	beat         = time.Second
)

// Run works until ctx ends: whenever hub tells that the outbox changed, and every second
// for what is due again.
func (w *Worker) Run(ctx context.Context, hub *live.Hub) {
	changes := hub.Subscribe()
	defer changes.Close()
	for {
		if err := w.Work(ctx); err != nil && ctx.Err() == nil {
			slog.Warn("the outbox is not worked", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-changes.Changed():
			changes.Take()
		case <-time.After(beat):
		}
	}
}

// Work delivers all that is due now.
func (w *Worker) Work(ctx context.Context) error {
	for ctx.Err() == nil {
		m, found, err := w.claim(ctx)
		if err != nil || !found {
			return err
		}
		if err := w.deliver(ctx, m); err != nil {
			return err
		}
	}
	return ctx.Err()
}

// claim takes the oldest message that is due and that no other of its receiver is before. One that is due later than after the
// longest pause was put off by a clock that has been set back since, and is due.
func (w *Worker) claim(ctx context.Context) (m Message, found bool, err error) {
	now := w.Runner.Now()
	err = w.Runner.DB.GetContext(ctx, &m, `
		UPDATE outbox SET claimed_until = $2, attempts = attempts + 1 WHERE id = (
		    SELECT o.id FROM outbox o
		     WHERE o.state = 'waiting' AND (o.next_at <= $1 OR o.next_at > $3) AND coalesce(o.claimed_until, '-infinity') <= $1
		       AND NOT EXISTS (SELECT FROM outbox e WHERE e.channel = o.channel AND e.receiver = o.receiver
		         AND e.state = 'waiting' AND e.id < o.id)
		     ORDER BY o.id LIMIT 1 FOR UPDATE SKIP LOCKED)
		RETURNING id, site_id, channel, receiver, kind, document, body, state, attempts, next_at, said, asked_at,
		paper_name, paper, asked_by`,
		now, now.Add(lease), now.Add(longestPause+lease))
	if errors.Is(err, sql.ErrNoRows) {
		return m, false, nil
	}
	if err != nil {
		return m, false, fmt.Errorf("taking a message up: %w", err)
	}
	return m, true, nil
}

// deliver speaks to the receiver, and writes down what came of it as whoever asked.
func (w *Worker) deliver(ctx context.Context, m Message) error {
	line, known := w.Lines[m.Channel]
	if !known {
		return fmt.Errorf("there is no line to a %s", m.Channel)
	}
	limit, cancel := context.WithTimeout(ctx, lease/2)
	answer, said := line.Port.Deliver(limit, m)
	cancel()
	var p people.Person
	if err := w.Runner.DB.GetContext(ctx, &p, `
		SELECT id, name, login, roles, site_id, sites FROM people WHERE id = $1`, m.AskedBy); err != nil {
		return fmt.Errorf("reading who asked: %w", err)
	}
	_, err := command.Do(people.With(ctx, p), w.Runner, "", "settle-message", nil,
		func(ctx context.Context, tx *command.Tx) (bool, error) {
			// Whoever asked was let; what is written now is what came of it.
			tx.Nowhere()
			if line.Settle != nil {
				if err := line.Settle(ctx, tx, m, answer, said); err != nil {
					return false, err
				}
			}
			return true, m.mark(ctx, tx, said)
		})
	return err
}

// mark notes how far a message is. One that somebody discarded meanwhile stays so.
func (m Message) mark(ctx context.Context, tx *command.Tx, said error) error {
	state, words, next := Done, "", tx.Now
	var refusal *Refusal
	switch {
	case errors.As(said, &refusal):
		state, words = Refused, refusal.Said
	case said != nil:
		state, words, next = Waiting, said.Error(), tx.Now.Add(pause(m.Attempts))
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE outbox SET state = $2, said = $3, next_at = $4, claimed_until = NULL, done_at = CASE
		  WHEN $2 <> 'waiting' THEN $5::timestamptz END
		 WHERE id = $1 AND state = 'waiting'`, m.ID, state, words, next, tx.Now)
	if err != nil {
		return fmt.Errorf("noting what became of a message: %w", err)
	}
	// The worker itself needs no telling: a topic of the channel's own is enough.
	tx.NotifySite(m.SiteID, string(m.Channel))
	return nil
}

// pause is how long is waited after so many tries.
func pause(tries int) time.Duration {
	if tries > 12 {
		return longestPause
	}
	return min(firstPause<<max(0, tries-1), longestPause)
}
