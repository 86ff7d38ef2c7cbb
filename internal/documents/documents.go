// Package documents keeps the rule that nobody changes a paper they have not seen:
// each carries a version, and a stale one is refused with what changed.
package documents

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
)

// A Kind of document, by its table.
type Kind string

const (
	InboundOrder  Kind = "inbound_orders"
	Arrival       Kind = "arrivals"
	OutboundOrder Kind = "outbound_orders"
	Round         Kind = "rounds"
	Schedule      Kind = "schedules"
	Party         Kind = "parties"
	Load          Kind = "loads"
	PutawayWalk   Kind = "put_away_walks"
	Inspection    Kind = "inspections"
	Carton        Kind = "carton_work"
	Restock       Kind = "restocks"
	Refill        Kind = "refills"
	Shipment      Kind = "shipments"
	CountSheet    Kind = "count_sheets"
)

// Numbers are what the numbers of a kind begin with, and the sequence that counts them.
type Numbers struct{ Prefix, Sequence string }

// Change notes that the document is being changed, and refuses it when somebody
// else has changed it since version was read. Version 0 asks for no such check,
// for steps that hold whatever the version is. The document is held alone from then on.
func Change(ctx context.Context, tx *command.Tx, k Kind, id int64, version int32, what string) error {
	if err := Hold(ctx, tx, Own(k, id)); err != nil {
		return err
	}
	result, err := tx.ExecContext(ctx, `UPDATE `+string(k)+` SET version = version + 1, changed_by = $3,
		    changed_at = $4, last_change = $5
		WHERE id = $1 AND ($2 = 0 OR version = $2)`, id, version, tx.Person.ID, tx.Now, what)
	if err != nil {
		return fmt.Errorf("changing %s %d: %w", k, id, err)
	}
	if n, err := result.RowsAffected(); err != nil || n == 1 {
		return err
	}
	var now struct {
		Number     string
		Name       string
		ChangedAt  time.Time `db:"changed_at"`
		LastChange string    `db:"last_change"`
		Version    int32
	}
	err = tx.GetContext(ctx, &now, `
		SELECT d.number, p.name, d.changed_at, d.last_change, d.version
		  FROM `+string(k)+` d JOIN people p ON p.id = d.changed_by
		 WHERE d.id = $1`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return Missing("document", fmt.Sprint(id))
	}
	if err != nil {
		return fmt.Errorf("reading %s %d: %w", k, id, err)
	}
	return refusal.New(refusal.Stale, "version",
		"%s changed since you opened it: %s %s at %s UTC. Nothing was done; look at it again.",
		now.Number, now.Name, now.LastChange, now.ChangedAt.UTC().Format("15:04")).Of(refusal.Conflict).With("version", now.Version)
}

// Missing is the refusal for something that is not known here.
func Missing(what, name string) error {
	return refusal.New(refusal.Unknown, "", "There is no %s %s here. Check the number.", what, name).Of(refusal.Missing)
}

// Found turns a query's "no rows" into Missing and wraps any other error.
func Found(err error, what, name string) error {
	if errors.Is(err, sql.ErrNoRows) {
		return Missing(what, name)
	}
	if err != nil {
		return fmt.Errorf("reading %s %s: %w", what, name, err)
	}
	return nil
}

// FoundOr turns "no rows", or a thing's being unknown, into the refusal instead, and wraps
// any other error: a fault of the database is never said to be the person's.
func FoundOr(err error, instead *refusal.Refusal) error {
	if r := refusal.From(err); errors.Is(err, sql.ErrNoRows) || r != nil && r.Kind == refusal.Missing {
		return instead
	}
	if err != nil {
		return fmt.Errorf("looking something up: %w", err)
	}
	return nil
}

// Day reads a date, YYYY-MM-DD, from field.
func Day(field, text string) (time.Time, error) {
	d, err := time.Parse(time.DateOnly, text)
	if err != nil || d.Year() < 2000 || d.Year() > 2100 {
		return d, refusal.New(refusal.DateMalformed, field, "%q is not a date. Write it as 2027-12-31.", text)
	}
	return d, nil
}
