package audit

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/database"

	"github.com/jmoiron/sqlx"
)

// A Sheet is bins, or items in bins, that are counted together.
type Sheet struct {
	ID        int64             `db:"id" json:"id"`
	Number    string            `db:"number" json:"number"`
	SiteID    int32             `db:"site_id" json:"site_id"`
	Scope     Scope             `db:"scope" json:"scope" enum:"bins,stretch,zone,item,class,lot,reason,all"`
	Described string            `db:"described" json:"described" doc:"What is on it, in words"`
	Teams     int               `db:"teams" json:"teams"`
	State     states.CountSheet `db:"state" json:"state" enum:"open,counted,closed"`
	MadeBy    string            `db:"made_by" json:"made_by"`
	MadeAt    time.Time         `db:"made_at" json:"made_at"`
	EndedBy   string            `db:"ended_by" json:"ended_by"`
	EndedAt   *time.Time        `db:"ended_at" json:"ended_at"`
	Lines     int               `db:"lines" json:"lines"`
	Counted   int               `db:"counted" json:"counted"`
	Differ    int               `db:"differ" json:"differ" doc:"How many of its counts differed from the books"`
}

const sheetColumns = `
	SELECT s.id, s.number, s.site_id, s.scope, s.described, s.teams, s.state, m.name AS made_by, s.made_at,
	       coalesce(e.name, '') AS ended_by, s.ended_at,
	       (SELECT count(*) FROM count_sheet_lines WHERE sheet_id = s.id) AS lines,
	       (SELECT count(*) FROM count_sheet_lines WHERE sheet_id = s.id AND state = 'counted') AS counted,
	       (SELECT count(DISTINCT (location_id, item_id)) FROM counts WHERE sheet_id = s.id AND off > 0
	           AND state NOT IN ('withdrawn', 'taken_back')) AS differ
	  FROM count_sheets s JOIN people m ON m.id = s.made_by LEFT JOIN people e ON e.id = s.ended_by `

// listSheets reads the sheets of a site, those that are open first.
func listSheets(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Sheet, error) {
	out := []Sheet{}
	if err := sqlx.SelectContext(ctx, q, &out, sheetColumns+`
		WHERE s.site_id = $1 ORDER BY s.state <> 'open', s.id DESC LIMIT 100`, site); err != nil {
		return nil, fmt.Errorf("listing count sheets: %w", err)
	}
	return out, nil
}

// sheetByID reads a sheet, without what is on it.
func sheetByID(ctx context.Context, q sqlx.QueryerContext, id int64) (s Sheet, err error) {
	err = sqlx.GetContext(ctx, q, &s, sheetColumns+`WHERE s.id = $1`, id)
	return s, documents.Found(err, "count sheet", fmt.Sprint(id))
}

// OpenSheet is a sheet with what is on it and how far it is.
type OpenSheet struct {
	Sheet
	Rows  []SheetRow      `json:"rows" nullable:"false"`
	Areas []SheetProgress `json:"areas" nullable:"false" doc:"How far it is, zone by zone; outside of zones by what is there: docks, benches"`
	By    []SheetProgress `json:"by_team" nullable:"false" doc:"How far it is, team by team"`
	Bins  []SheetBin      `json:"bins" nullable:"false" doc:"How far it is, bin by bin, with where each stands"`
}

// SheetRow is an item in a bin that is counted; without an item it is the bin itself, and whether anything else lies
// there. It says not how many there should be.
type SheetRow struct {
	ID          int64            `db:"id" json:"id"`
	LocationID  int32            `db:"location_id" json:"location_id"`
	Bin         string           `db:"bin" json:"bin"`
	Zone        string           `db:"zone" json:"zone"`
	ItemID      *int32           `db:"item_id" json:"item_id"`
	SKU         string           `db:"sku" json:"sku"`
	Description string           `db:"description" json:"description"`
	Team        int              `db:"team" json:"team"`
	State       states.SheetLine `db:"state" json:"state" enum:"open,counted,left"`
	DoneBy      string           `db:"done_by" json:"done_by"`
	DoneAt      *time.Time       `db:"done_at" json:"done_at"`
	Again       bool             `db:"again" json:"again" doc:"It was counted and differs beyond its allowance: another person counts it"`
	Barred      barred           `db:"barred" json:"barred" nullable:"false" doc:"Who has counted it already, by their ids"`
	X           float64          `db:"x" json:"-"`
	Y           float64          `db:"y" json:"-"`
}

// SheetProgress is how far a part of a sheet is.
type SheetProgress struct {
	Name    string `json:"name"`
	Lines   int    `json:"lines"`
	Counted int    `json:"counted"`
}

// SheetBin is how far a bin is.
type SheetBin struct {
	ID   int32   `json:"id"`
	Code string  `json:"code"`
	X    float64 `json:"x"`
	Y    float64 `json:"y"`
	SheetProgress
}

// readSheet reads a sheet.
func readSheet(ctx context.Context, q sqlx.QueryerContext, id int64) (OpenSheet, error) {
	out := OpenSheet{Rows: []SheetRow{}, Areas: []SheetProgress{}, By: []SheetProgress{}, Bins: []SheetBin{}}
	var err error
	if out.Sheet, err = sheetByID(ctx, q, id); err != nil {
		return out, err
	}
	if err := sqlx.SelectContext(ctx, q, &out.Rows, `
		SELECT l.id, l.location_id, p.code AS bin, p.x, p.y, `+catalog.AreaOf+` AS zone, l.item_id, coalesce(i.sku, '') AS sku,
		       coalesce(i.description, '') AS description, l.team, l.state, coalesce(d.name, '') AS done_by, l.done_at,
		       w.id IS NOT NULL AND l.state = 'open' AS again, `+barredBy+` AS barred
		  FROM count_sheet_lines l JOIN locations p ON p.id = l.location_id LEFT JOIN zones z ON z.id = p.zone_id
		  LEFT JOIN items i ON i.id = l.item_id LEFT JOIN people d ON d.id = l.done_by
		  LEFT JOIN counts w ON w.location_id = l.location_id AND w.item_id = l.item_id AND w.state = 'recount'
		 WHERE l.sheet_id = $1 ORDER BY l.team, l.place, l.id`, id); err != nil {
		return out, fmt.Errorf("reading a count sheet: %w", err)
	}
	out.progress()
	return out, nil
}

// progress adds up how far the sheet is.
func (s *OpenSheet) progress() {
	areas, teams, bins := map[string]int{}, map[int]int{}, map[int32]int{}
	for _, r := range s.Rows {
		i := index(areas, r.Zone, &s.Areas, SheetProgress{Name: r.Zone})
		s.Areas[i].add(r)
		i = index(teams, r.Team, &s.By, SheetProgress{Name: fmt.Sprintf("%2d", r.Team)})
		s.By[i].add(r)
		i = index(bins, r.LocationID, &s.Bins, SheetBin{ID: r.LocationID, Code: r.Bin, X: r.X, Y: r.Y})
		s.Bins[i].add(r)
	}
	slices.SortFunc(s.Areas, func(a, b SheetProgress) int { return strings.Compare(a.Name, b.Name) })
	slices.SortFunc(s.By, func(a, b SheetProgress) int { return strings.Compare(a.Name, b.Name) })
}

// index is where the part of a key is in a list; it is added where it is not.
func index[K comparable, P any](at map[K]int, key K, list *[]P, fresh P) int {
	if i, known := at[key]; known {
		return i
	}
	at[key] = len(*list)
	*list = append(*list, fresh)
	return at[key]
}

func (p *SheetProgress) add(r SheetRow) {
	p.Lines++
	if r.State == states.SheetLineCounted {
		p.Counted++
	}
}

// Close ends a sheet before all of it is counted: what is left stays uncounted.
func Close(ctx context.Context, tx *command.Tx, id int64) (Sheet, error) {
	var s Sheet
	if err := documents.Hold(ctx, tx, documents.Own(documents.CountSheet, id)); err != nil {
		return s, err
	}
	if err := sheetIsOpen(ctx, tx, id); err != nil {
		return s, err
	}
	if err := tx.GetContext(ctx, &s.SiteID, `SELECT site_id FROM count_sheets WHERE id = $1`, id); err != nil {
		return s, fmt.Errorf("reading a count sheet: %w", err)
	}
	if err := tx.At(ctx, s.SiteID); err != nil {
		return s, err
	}
	var open []int64
	if err := tx.SelectContext(ctx, &open, `SELECT id FROM count_sheet_lines WHERE sheet_id = $1 AND state = 'open'`, id); err != nil {
		return s, fmt.Errorf("reading what is left of a count sheet: %w", err)
	}
	if err := documents.Step(ctx, tx, states.SheetLines, open, states.SheetLineLeft, ""); err != nil {
		return s, err
	}
	err := documents.Step(ctx, tx, states.CountSheets, []int64{id}, states.SheetClosed, "ended_by = $4, ended_at = $5", tx.Person.ID, tx.Now)
	if err != nil {
		return s, err
	}
	tx.NotifySite(s.SiteID, "audit", "row")
	return sheetByID(ctx, tx, id)
}

// Open makes a sheet of what is wanted, shared out among its teams.
func Open(ctx context.Context, tx *command.Tx, w Wanted) (Sheet, error) {
	var s Sheet
	if err := tx.At(ctx, w.SiteID); err != nil {
		return s, err
	}
	// One after another, so that no two take the same bin.
	if _, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock(hashtext('count_sheets'), $1)`, w.SiteID); err != nil {
		return s, fmt.Errorf("making count sheets one after another: %w", err)
	}
	f, err := w.foresee(ctx, tx, tx.Now)
	if err != nil {
		return s, err
	}
	var id int64
	if err := tx.GetContext(ctx, &id, `
		INSERT INTO count_sheets (site_id, scope, described, teams, made_by, made_at) VALUES ($1, $2, $3, $4, $5, $6) RETURNING id`,
		w.SiteID, w.Scope, f.Described, len(f.Teams), tx.Person.ID, tx.Now); err != nil {
		return s, fmt.Errorf("writing a count sheet: %w", err)
	}
	n := len(f.cells)
	bins, items, teams, places := make([]int32, n), make([]*int32, n), make([]int, n), make([]int, n)
	for i, c := range f.cells {
		bins[i], items[i], teams[i], places[i] = c.LocationID, c.ItemID, c.team, c.place
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO count_sheet_lines (sheet_id, location_id, item_id, team, place)
		SELECT $1, bin, item, team, place FROM unnest($2::int[], $3::int[], $4::smallint[], $5::int[]) AS x(bin, item, team, place)`,
		id, bins, items, teams, places); err != nil {
		return s, fmt.Errorf("writing what is on a count sheet: %w", err)
	}
	tx.NotifySite(w.SiteID, "audit", "row")
	return sheetByID(ctx, tx, id)
}

// barred are persons who have counted something already, by their ids.
type barred []int32

// barredBy is those who have counted what waits for another person, of the count w.
const barredBy = `ARRAY(SELECT b.counted_by FROM counts b WHERE b.id IN (w.id, w.first_id) OR b.first_id = w.first_id)`

// Scan reads an array of PostgreSQL.
func (b *barred) Scan(src any) (err error) {
	*b, err = database.Integers(src)
	return err
}

// sheetEmpty says that nothing is to be counted.
func sheetEmpty(described, why string) error {
	return refusal.New(refusal.SheetEmpty, "", "Nothing of %s is to be counted%s.", described, why)
}
