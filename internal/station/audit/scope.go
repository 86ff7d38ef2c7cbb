package audit

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/counting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/walking"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Scope is by what the bins of a count sheet are chosen.
type Scope string

// The scopes: bins by name, a stretch of them from one to another, a zone, an item, the items of a class, a lot, what
// has a reason to be counted, and everything.
const (
	ByBins    Scope = "bins"
	ByStretch Scope = "stretch"
	ByZone    Scope = "zone"
	ByItem    Scope = "item"
	ByClass   Scope = "class"
	ByLot     Scope = "lot"
	ByReason  Scope = "reason"
	ByAll     Scope = "all"
)

// Wanted is what is to be on a count sheet.
type Wanted struct {
	SiteID int32           `json:"site_id"`
	Scope  Scope           `json:"scope" enum:"bins,stretch,zone,item,class,lot,reason,all"`
	Bins   []string        `json:"bins,omitempty" maxItems:"500" doc:"For bins: which"`
	From   string          `json:"from,omitempty" maxLength:"40" doc:"For a stretch: its first bin"`
	To     string          `json:"to,omitempty" maxLength:"40" doc:"For a stretch: its last"`
	Zone   string          `json:"zone,omitempty" maxLength:"20" doc:"For a zone: its code"`
	ItemID int32           `json:"item_id,omitempty" doc:"For an item or a lot"`
	Lot    string          `json:"lot,omitempty" maxLength:"40" doc:"For a lot: its number"`
	Class  counting.Class  `json:"class,omitempty" enum:",A,B,C" doc:"For a class"`
	Reason counting.Reason `json:"reason,omitempty" enum:",again,asked,differed,emptied,complaint,overdue,still,busy,likely" doc:"For a reason: which; the list of the day without"`
	Teams  int             `json:"teams" minimum:"1" maximum:"20"`
}

// Foreseen is what a sheet will have on it, before it is made.
type Foreseen struct {
	Described string     `json:"described"`
	Bins      int        `json:"bins"`
	Lines     int        `json:"lines"`
	Teams     []TeamPart `json:"teams" nullable:"false"`
	// LeftOut says what is not on it and why; empty for nothing.
	LeftOut string `json:"left_out"`

	cells []cell
}

// TeamPart is what a team has to do.
type TeamPart struct {
	Team    int             `json:"team"`
	From    string          `json:"from" doc:"Its first bin by code"`
	To      string          `json:"to"`
	Bins    int             `json:"bins"`
	Lines   int             `json:"lines"`
	Minutes decimal.Decimal `json:"minutes" doc:"With the walk"`
	Metres  float64         `json:"metres"`
}

// cell is an item in a bin, or without an item the bin itself, that may be counted.
type cell struct {
	LocationID int32 `db:"location_id"`
	Bin        string
	ItemID     *int32 `db:"item_id"`
	Quantity   decimal.Decimal
	X, Y       float64
	// On is the sheet that has it now, and Waits whether a count of it waits for a decision.
	On    string
	Waits bool

	team, place int
}

// cellsQuery reads what lies at the fixed locations of a site ($1), item by item, and with each the look whether anything
// else lies there; locations are called p and lots l.
const cellsQuery = `
	WITH cells AS (
		SELECT p.id, p.code, p.x, p.y, ` + catalog.AreaOf + ` AS zone, b.item_id, sum(b.quantity) AS quantity
		  FROM locations p JOIN balances b ON b.location_id = p.id LEFT JOIN zones z ON z.id = p.zone_id
		  LEFT JOIN lots l ON l.id = b.lot_id
		 WHERE p.site_id = $1 AND p.fixed AND %[1]s GROUP BY p.id, z.id, b.item_id
		%[2]s)
	SELECT c.id AS location_id, c.code AS bin, c.item_id, c.quantity, c.x, c.y, coalesce(s.number, '') AS on,
	       EXISTS (SELECT FROM counts w WHERE w.location_id = c.id AND w.item_id = c.item_id AND w.state = 'counted') AS waits
	  FROM cells c LEFT JOIN count_sheet_lines l ON l.location_id = c.id AND l.item_id IS NOT DISTINCT FROM c.item_id AND l.state = 'open'
	  LEFT JOIN count_sheets s ON s.id = l.sheet_id
	 ORDER BY c.zone, c.code, c.item_id NULLS LAST`

// wholeBins adds the bins themselves to cellsQuery.
const wholeBins = `UNION ALL
		SELECT p.id, p.code, p.x, p.y, ` + catalog.AreaOf + `, NULL, 0 FROM locations p LEFT JOIN zones z ON z.id = p.zone_id
		 WHERE p.site_id = $1 AND p.fixed AND `

// where is the condition of a scope over bins, its words, and its arguments behind the site; bins tells that whole bins
// are counted.
func (w Wanted) where(ctx context.Context, q sqlx.QueryerContext, now time.Time) (where, words string, bins bool, args []any, err error) {
	switch w.Scope {
	case ByBins, ByStretch, ByZone, ByAll:
		where, words, args, err = w.whereBins(ctx, q)
		return where, words, true, args, err
	case ByItem, ByLot:
		item, err := catalog.ItemByID(ctx, q, w.ItemID)
		if err != nil {
			return "", "", false, nil, err
		}
		if w.Scope == ByItem {
			return "b.item_id = $2", item.SKU, false, []any{w.ItemID}, nil
		}
		id, err := lotNamed(ctx, q, item, w.Lot)
		return "b.lot_id = $2", "lot " + w.Lot + " of " + item.SKU, false, []any{id}, err
	case ByClass:
		if w.Class == "" {
			return "", "", false, nil, refusal.New(refusal.FieldMissing, "class", "Say which class is counted: A, B or C.")
		}
		items, err := w.itemsOf(ctx, q, now)
		return "b.item_id = ANY($2)", "class " + string(w.Class), false, []any{items}, err
	}
	return w.whereReason(ctx, q, now)
}

// whereBins is for scopes that name bins.
func (w Wanted) whereBins(ctx context.Context, q sqlx.QueryerContext) (where, words string, args []any, err error) {
	switch w.Scope {
	case ByZone:
		known, err := catalog.ZoneKnown(ctx, q, w.SiteID, w.Zone)
		if err != nil {
			return "", "", nil, err
		}
		if !known {
			return "", "", nil, refusal.New(refusal.ZoneUnknown, "zone", "There is no zone %q at this site.", w.Zone)
		}
		return "z.code = $2", "zone " + w.Zone, []any{w.Zone}, nil
	case ByStretch:
		from, err := catalog.LocationByCode(ctx, q, "from", w.From, w.SiteID)
		if err != nil {
			return "", "", nil, err
		}
		to, err := catalog.LocationByCode(ctx, q, "to", w.To, w.SiteID)
		if err != nil {
			return "", "", nil, err
		}
		first, last := min(from.Code, to.Code), max(from.Code, to.Code)
		return "p.code BETWEEN $2 AND $3", first + " to " + last, []any{first, last}, nil
	case ByBins:
		var ids []int32
		for i, code := range w.Bins {
			bin, err := catalog.LocationByCode(ctx, q, fmt.Sprintf("bins[%d]", i), code, w.SiteID)
			if err != nil {
				return "", "", nil, err
			}
			ids, words = append(ids, bin.ID), words+", "+bin.Code
		}
		if len(ids) == 0 {
			return "", "", nil, refusal.New(refusal.FieldMissing, "bins", "Name the bins that are to be counted.")
		}
		if words = strings.TrimPrefix(words, ", "); len(ids) > 6 {
			words = fmt.Sprintf("%d bins", len(ids))
		}
		return "p.id = ANY($2)", words, []any{ids}, nil
	}
	return "true", "everything", nil, nil
}

func lotNamed(ctx context.Context, q sqlx.QueryerContext, item catalog.Item, code string) (id int64, err error) {
	if id, err = catalog.LotByCode(ctx, q, item.ID, code); err != nil {
		return 0, refusal.New(refusal.LotUnknown, "lot", "%q is no lot of %s.", code, item.SKU)
	}
	return id, nil
}

// itemsOf are the items of a class.
func (w Wanted) itemsOf(ctx context.Context, q sqlx.QueryerContext, now time.Time) (items []int32, err error) {
	s, err := readSettings(ctx, q, w.SiteID)
	if err != nil {
		return nil, err
	}
	ranked, err := readClasses(ctx, q, w.SiteID, s, now)
	for _, r := range ranked {
		if r.Class == w.Class {
			items = append(items, r.ItemID)
		}
	}
	return items, err
}

// whereReason is what has a reason to be counted, or the list of the day.
func (w Wanted) whereReason(ctx context.Context, q sqlx.QueryerContext, now time.Time) (where, words string, bins bool, args []any, err error) {
	words = "the list of the day"
	var due []Due
	if w.Reason == "" {
		today, err := ReadToday(ctx, q, w.SiteID, now)
		if err != nil {
			return "", "", false, nil, err
		}
		due = today.Rows
	} else {
		words = "what is counted because " + counting.Words(w.Reason)
		s, err := readSettings(ctx, q, w.SiteID)
		if err != nil {
			return "", "", false, nil, err
		}
		if due, err = readDue(ctx, q, w.SiteID, s, now); err != nil {
			return "", "", false, nil, err
		}
		due = slices.DeleteFunc(due, func(d Due) bool { return !slices.Contains(d.Reasons, w.Reason) })
	}
	keys := make([]string, len(due))
	for i, d := range due {
		keys[i] = fmt.Sprintf("%d/%d", d.LocationID, d.ItemID)
	}
	return "p.id || '/' || b.item_id = ANY($2)", words, false, []any{keys}, nil
}

// foresee reads what the sheet will have on it, and shares it out among its teams.
func (w Wanted) foresee(ctx context.Context, q sqlx.QueryerContext, now time.Time) (Foreseen, error) {
	f := Foreseen{Teams: []TeamPart{}}
	where, words, bins, args, err := w.where(ctx, q, now)
	if err != nil {
		return f, err
	}
	f.Described = words
	whole := ""
	if bins {
		whole = wholeBins + where
	}
	var all []cell
	if err := sqlx.SelectContext(ctx, q, &all, fmt.Sprintf(cellsQuery, where, whole), append([]any{w.SiteID}, args...)...); err != nil {
		return f, fmt.Errorf("reading what may be on a count sheet: %w", err)
	}
	f.leaveOut(all)
	if w.Scope == ByAll {
		if err := f.leaveOutMoving(ctx, q, w.SiteID); err != nil {
			return f, err
		}
	}
	if len(f.cells) == 0 {
		why := ": nothing lies there"
		if f.LeftOut != "" {
			why = ": " + f.LeftOut
		}
		return f, sheetEmpty(words, why)
	}
	return f, f.shareOut(ctx, q, w)
}

// leaveOut keeps what can be counted now.
func (f *Foreseen) leaveOut(all []cell) {
	on, waits := map[string]int{}, 0
	for _, c := range all {
		switch {
		case c.On != "":
			on[c.On]++
		case c.Waits:
			waits++
		default:
			f.cells = append(f.cells, c)
		}
	}
	var parts []string
	for _, number := range slices.Sorted(maps.Keys(on)) {
		parts = append(parts, fmt.Sprintf("%s on %s", many(on[number], "line is", "lines are"), number))
	}
	if waits > 0 {
		parts = append(parts, many(waits, "count waits", "counts wait")+" for a lead")
	}
	f.LeftOut = strings.Join(parts, ", ")
}

// many is a number with the words for one, or for more.
func many(n int, one, more string) string {
	if n == 1 {
		more = one
	}
	return fmt.Sprintf("%d %s", n, more)
}

// leaveOutMoving says what is on its way within a site, and is counted where it is put down.
func (f *Foreseen) leaveOutMoving(ctx context.Context, q sqlx.QueryerContext, site int32) error {
	var moving []struct {
		Code  string
		Items int
	}
	if err := sqlx.SelectContext(ctx, q, &moving, `
		SELECT p.code, count(DISTINCT b.item_id) AS items FROM locations p JOIN balances b ON b.location_id = p.id
		 WHERE p.site_id = $1 AND NOT p.fixed AND b.quantity > 0 GROUP BY p.id ORDER BY p.code`, site); err != nil {
		return fmt.Errorf("reading what is on its way: %w", err)
	}
	for i, m := range moving {
		if i > 0 || f.LeftOut != "" {
			f.LeftOut += ", "
		}
		f.LeftOut += fmt.Sprintf("%s on %s", many(m.Items, "item is", "items are"), m.Code)
	}
	if len(moving) > 0 {
		f.LeftOut += ", to be counted where it is put down"
	}
	return nil
}

// mostWalked is for how many bins the shortest walk is looked for; a longer one goes in the order of their codes.
const mostWalked = 200

// shareOut cuts the bins, in their order, into a stretch for each team and puts each into the order of its walk.
func (f *Foreseen) shareOut(ctx context.Context, q sqlx.QueryerContext, w Wanted) error {
	s, err := readSettings(ctx, q, w.SiteID)
	if err != nil {
		return err
	}
	bench, floor, err := catalog.BenchAndFloor(ctx, q, w.SiteID)
	if err != nil {
		return err
	}
	bins := byBin(f.cells)
	f.Bins, f.Lines = len(bins), len(f.cells)
	work := make([]float64, len(bins))
	for i, bin := range bins {
		work[i] = s.Estimate(workIn(bin)).Minutes.InexactFloat64()
	}
	team := counting.Share(work, min(w.Teams, len(bins)))
	for start := 0; start < len(bins); {
		end := start
		for end < len(bins) && team[end] == team[start] {
			end++
		}
		part, err := walkOf(floor, floor.Nearest(bench.Point()), s, bins[start:end], team[start])
		if err != nil {
			return err
		}
		f.Teams = append(f.Teams, part)
		start = end
	}
	return nil
}

// byBin cuts cells into those of each bin, which stand together.
func byBin(cells []cell) (bins [][]cell) {
	for start := 0; start < len(cells); {
		end := start
		for end < len(cells) && cells[end].LocationID == cells[start].LocationID {
			end++
		}
		bins = append(bins, cells[start:end])
		start = end
	}
	return bins
}

// workIn is what counting a bin is, without the walk there.
func workIn(bin []cell) walking.Work {
	work := walking.Work{Stops: 1, Lines: len(bin)}
	for _, c := range bin {
		work.Units = work.Units.Add(countedAs(c.Quantity))
	}
	return work
}

// walkOf puts the bins of a team into the order of its walk, and says how long that takes.
func walkOf(floor walking.Floor, start walking.Point, s settings, bins [][]cell, team int) (TeamPart, error) {
	part := TeamPart{Team: team, Bins: len(bins), From: bins[0][0].Bin, To: bins[len(bins)-1][0].Bin}
	points, order := make([]walking.Point, len(bins)), make([]int, len(bins))
	all := walking.Work{Stops: len(bins)}
	for i, bin := range bins {
		points[i], order[i] = floor.Reach(walking.Point{X: bin[0].X, Y: bin[0].Y}), i
		work := workIn(bin)
		all.Lines, all.Units = all.Lines+work.Lines, all.Units.Add(work.Units)
	}
	metres := floor.Length(start, points)
	if len(bins) <= mostWalked {
		round, err := walking.Shortest(floor, start, points)
		if err != nil {
			return part, err
		}
		order, metres = round.Order, round.Metres
	}
	for place, i := range order {
		for j := range bins[i] {
			bins[i][j].team, bins[i][j].place = team, place
		}
	}
	all.Metres = decimal.NewFromFloat(metres)
	part.Lines, part.Metres, part.Minutes = all.Lines, catalog.Tenth(metres), s.Estimate(all).Minutes
	return part, nil
}
