// Package printer stands in for a label printer: it runs out of paper, and can be told not to
// answer, since real ones do both.
package printer

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"

	"lanternrow/internal/connection"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/labels"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/standin/control"

	"github.com/jmoiron/sqlx"
)

// roll is how many labels a new roll has.
const roll = 200

// Device is the stand-in behind the port for printers.
type Device struct{ DB *sqlx.DB }

// Deliver prints a sheet until the paper ends, and answers how many labels came out.
func (d Device) Deliver(ctx context.Context, m connection.Message) (json.RawMessage, error) {
	var sheet labels.Sheet
	if err := json.Unmarshal(m.Body, &sheet); err != nil {
		return nil, fmt.Errorf("reading a sheet: %w", err)
	}
	if err := setUp(ctx, d.DB, m.SiteID); err != nil {
		return nil, err
	}
	var did struct {
		Answers bool
		Printed int
	}
	err := d.DB.GetContext(ctx, &did, `
		WITH was AS (SELECT paper, answers FROM printers WHERE site_id = $1 FOR UPDATE)
		UPDATE printers p SET paper = p.paper - CASE WHEN was.answers THEN least(was.paper, $2) ELSE 0 END FROM was
		 WHERE p.site_id = $1 RETURNING was.answers, CASE WHEN was.answers THEN least(was.paper, $2)
		   ELSE 0 END AS printed`, m.SiteID, sheet.Copies)
	switch {
	case err != nil:
		return nil, fmt.Errorf("printing: %w", err)
	case !did.Answers:
		return nil, errors.New("the printer does not answer")
	}
	answer, err := json.Marshal(labels.Printed{Printed: did.Printed})
	if err == nil && did.Printed < sheet.Copies {
		err = fmt.Errorf("out of paper after %d of %d", did.Printed, sheet.Copies)
	}
	return answer, err
}

func setUp(ctx context.Context, q sqlx.ExecerContext, site int32) error {
	if _, err := q.ExecContext(ctx, `
		INSERT INTO printers (site_id, paper) VALUES ($1, $2) ON CONFLICT DO NOTHING`, site, roll); err != nil {
		return fmt.Errorf("setting up the printer: %w", err)
	}
	return nil
}

// A Printer is a site's label printer and what waits for it.
type Printer struct {
	Paper   int  `db:"paper" json:"paper"`
	Answers bool `db:"answers" json:"answers"`
	labels.Queue
}

// read reads a printer. A site that never printed has a full roll.
func read(ctx context.Context, q sqlx.QueryerContext, site int32) (Printer, error) {
	out := Printer{Paper: roll, Answers: true}
	var rows []Printer
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT paper, answers FROM printers WHERE site_id = $1`, site); err != nil {
		return out, fmt.Errorf("reading the printer: %w", err)
	}
	if len(rows) > 0 {
		out = rows[0]
	}
	var err error
	out.Queue, err = labels.Read(ctx, q, site)
	return out, err
}

// Tell sets what the stand-in does: a new roll, a roll that is nearly empty, or no answer at
// all. What waits for it is tried at once.
func Tell(ctx context.Context, tx *command.Tx, site int32, paper *int, answers *bool) (Printer, error) {
	if paper != nil && (*paper < 0 || *paper > roll) {
		return Printer{}, refusal.New(refusal.RollRange, "paper", "A roll has 0 to %d labels, not %d.", roll, *paper)
	}
	if err := setUp(ctx, tx, site); err != nil {
		return Printer{}, err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE printers SET paper = coalesce($2, paper), answers = coalesce($3,
		answers) WHERE site_id = $1`, site, paper, answers); err != nil {
		return Printer{}, fmt.Errorf("telling the printer: %w", err)
	}
	if err := connection.Again(ctx, tx, site, connection.Printer); err != nil {
		return Printer{}, err
	}
	return read(ctx, tx, site)
}

// Register adds the printer's operations.
func Register(r *web.Router) {
	web.Query(r, http.MethodGet, "/printer", "read-printer", "A site's label printer and what waits for it",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (Printer, error) {
			p, err := read(ctx, r.Reads, in.Site)
			p.Answers = p.Answers && r.StandIns
			return p, err
		})
	control.Register(r, "/printer/tell", "tell-printer",
		"Tell the stand-in what to do: a roll of so many labels, or not to answer", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID  int32 `json:"site_id"`
				Paper   *int  `json:"paper,omitempty"`
				Answers *bool `json:"answers,omitempty"`
			}
		}) (Printer, error) {
			return Tell(ctx, tx, in.Body.SiteID, in.Body.Paper, in.Body.Answers)
		})
}
