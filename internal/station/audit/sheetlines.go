package audit

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// sheetLine is where an item in a bin stands on a count sheet; its ID is 0 for what lies in one of its bins besides
// what is on it.
type sheetLine struct {
	ID      int64
	SheetID int64 `db:"sheet_id"`
	Number  string
	Team    int
}

// lineFor finds the line that a count is for. A count is refused where another sheet has it, and where its own is over.
func lineFor(ctx context.Context, q sqlx.QueryerContext, in Count, e Entry) (*sheetLine, error) {
	if in.Sheet != 0 {
		if err := sheetIsOpen(ctx, q, in.Sheet); err != nil {
			return nil, err
		}
	}
	var l sheetLine
	err := sqlx.GetContext(ctx, q, &l, `
		SELECT l.id, l.sheet_id, s.number, l.team FROM count_sheet_lines l JOIN count_sheets s ON s.id = l.sheet_id
		 WHERE l.location_id = $1 AND l.item_id = $2 AND l.state = 'open'`, in.LocationID, in.ItemID)
	switch {
	case errors.Is(err, sql.ErrNoRows) && in.Sheet == 0:
		return nil, nil
	case errors.Is(err, sql.ErrNoRows):
		return besides(ctx, q, in, e)
	case err != nil:
		return nil, fmt.Errorf("reading who counts: %w", err)
	case l.SheetID != in.Sheet:
		return nil, refusal.New(refusal.OnSheet, "sheet", "%s of %s is on count sheet %s now, with team %d. Count it there, or have that sheet closed.",
			e.SKU, e.Bin, l.Number, l.Team).Of(refusal.Conflict).With("sheet", l.Number)
	}
	return &l, nil
}

// besides is for what was found in a bin of a sheet, and is not on it.
func besides(ctx context.Context, q sqlx.QueryerContext, in Count, e Entry) (*sheetLine, error) {
	var at struct {
		Number  string
		Here    bool
		Counted *string
	}
	if err := sqlx.GetContext(ctx, q, &at, `
		SELECT s.number, EXISTS (SELECT FROM count_sheet_lines WHERE sheet_id = s.id AND location_id = $2) AS here,
		       (SELECT p.name FROM count_sheet_lines l JOIN people p ON p.id = l.done_by
		         WHERE l.sheet_id = s.id AND l.location_id = $2 AND l.item_id = $3) AS counted
		  FROM count_sheets s WHERE s.id = $1`, in.Sheet, in.LocationID, in.ItemID); err != nil {
		return nil, documents.Found(err, "count sheet", fmt.Sprint(in.Sheet))
	}
	switch {
	case at.Counted != nil:
		return nil, refusal.New(refusal.CountOver, "", "%s in %s was counted by %s already, for %s.", e.SKU, e.Bin, *at.Counted, at.Number).
			Of(refusal.Conflict)
	case !at.Here:
		return nil, refusal.New(refusal.OnSheet, "sheet", "%s is not on count sheet %s. Count what is on it.", e.Bin, at.Number)
	}
	return &sheetLine{SheetID: in.Sheet, Number: at.Number}, nil
}

// sheetIsOpen refuses a sheet that is over, and says who ended it.
func sheetIsOpen(ctx context.Context, q sqlx.QueryerContext, id int64) error {
	var s struct {
		Number string
		State  states.CountSheet
		By     string
		At     *time.Time
	}
	if err := sqlx.GetContext(ctx, q, &s, `
		SELECT s.number, s.state, coalesce(p.name, '') AS by, s.ended_at AS at FROM count_sheets s
		  LEFT JOIN people p ON p.id = s.ended_by WHERE s.id = $1`, id); err != nil {
		return documents.Found(err, "count sheet", fmt.Sprint(id))
	}
	switch s.State {
	case states.SheetClosed:
		return refusal.New(refusal.SheetOver, "sheet", "%s was closed by %s at %s. What you counted was not written: ask for a new sheet, or "+
			"count it on its own.", s.Number, s.By, s.At.UTC().Format("15:04 on 2006-01-02")).Of(refusal.Conflict)
	case states.SheetCounted:
		return refusal.New(refusal.SheetOver, "sheet", "All of %s is counted. There is nothing left to count on it.", s.Number).Of(refusal.Conflict)
	}
	return nil
}

// offSheet takes what was counted off its sheet; with the last line the sheet is counted.
func (r *reading) offSheet(ctx context.Context, tx *command.Tx) error {
	if r.line == nil || r.line.ID == 0 {
		return nil
	}
	return lineDone(ctx, tx, r.line.SheetID, r.line.ID)
}

// lineDone ends a line. Its sheet is held.
func lineDone(ctx context.Context, tx *command.Tx, sheet, line int64) error {
	err := documents.Step(ctx, tx, states.SheetLines, []int64{line}, states.SheetLineCounted, "done_by = $4, done_at = $5", tx.Person.ID, tx.Now)
	if err != nil {
		return err
	}
	var left int
	if err := tx.GetContext(ctx, &left, `SELECT count(*) FROM count_sheet_lines WHERE sheet_id = $1 AND state = 'open'`, sheet); err != nil {
		return fmt.Errorf("reading what is left of a count sheet: %w", err)
	}
	if left > 0 {
		return nil
	}
	return documents.Step(ctx, tx, states.CountSheets, []int64{sheet}, states.SheetCounted, "ended_by = $4, ended_at = $5", tx.Person.ID, tx.Now)
}

// backOnSheet puts what is to be counted again back on its sheet, unless that was closed. The sheet is held.
func backOnSheet(ctx context.Context, tx *command.Tx, count int64) error {
	var at []struct {
		Line  int64
		Sheet int64
		State states.CountSheet
	}
	if err := tx.SelectContext(ctx, &at, `
		SELECT l.id AS line, s.id AS sheet, s.state FROM counts c JOIN count_sheets s ON s.id = c.sheet_id
		  JOIN count_sheet_lines l ON l.sheet_id = s.id AND l.location_id = c.location_id AND l.item_id = c.item_id
		 WHERE c.id = $1 AND l.state = 'counted' AND s.state <> 'closed'`, count); err != nil {
		return fmt.Errorf("reading a count's sheet: %w", err)
	}
	for _, l := range at {
		if l.State == states.SheetCounted {
			if err := documents.Step(ctx, tx, states.CountSheets, []int64{l.Sheet}, states.SheetOpen, "ended_by = NULL, ended_at = NULL"); err != nil {
				return err
			}
		}
		if err := documents.Step(ctx, tx, states.SheetLines, []int64{l.Line}, states.SheetLineOpen, "done_by = NULL, done_at = NULL"); err != nil {
			return err
		}
	}
	return nil
}

// NothingElse ends the look into a bin of a sheet: what lies there is counted, and nothing else lies there.
func NothingElse(ctx context.Context, tx *command.Tx, sheet int64, location int32) (Looked, error) {
	if err := documents.Hold(ctx, tx, documents.Own(documents.CountSheet, sheet)); err != nil {
		return Looked{}, err
	}
	if err := ledger.LockBins(ctx, tx, []int32{location}); err != nil {
		return Looked{}, err
	}
	if err := sheetIsOpen(ctx, tx, sheet); err != nil {
		return Looked{}, err
	}
	var of struct {
		Line   *int64
		Left   int
		SiteID int32 `db:"site_id"`
		Bin    string
	}
	if err := tx.GetContext(ctx, &of, `
		SELECT (SELECT id FROM count_sheet_lines WHERE sheet_id = $1 AND location_id = $2 AND item_id IS NULL AND state = 'open') AS line,
		       (SELECT count(*) FROM count_sheet_lines WHERE sheet_id = $1 AND location_id = $2 AND item_id IS NOT NULL AND state = 'open') AS left,
		       site_id, code AS bin FROM locations WHERE id = $2`, sheet, location); err != nil {
		return Looked{}, documents.Found(err, "bin", fmt.Sprint(location))
	}
	switch {
	case of.Left > 0:
		return Looked{}, refusal.New(refusal.SheetOver, "", "%d items are still to be counted in %s. Count them first.", of.Left, of.Bin).Of(refusal.Conflict)
	case of.Line == nil:
		return Looked{}, refusal.New(refusal.CountOver, "", "%s was looked into already.", of.Bin).Of(refusal.Conflict)
	}
	tx.NotifySite(of.SiteID, "audit", "row")
	return Looked{Words: of.Bin + " is done."}, lineDone(ctx, tx, sheet, *of.Line)
}

// Looked says that a bin is done.
type Looked struct {
	Words string `json:"words"`
}
