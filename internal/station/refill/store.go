package refill

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Refill is a walk that fetches reserve and brings it to picking bins.
type Refill struct {
	ID        int64         `db:"id" json:"id"`
	Number    string        `db:"number" json:"number"`
	SiteID    int32         `db:"site_id" json:"site_id"`
	TrolleyID int32         `db:"trolley_id" json:"-"`
	State     states.Refill `db:"state" json:"state" enum:"planned,walking,done,cancelled"`
	Person    string        `db:"person" json:"person" doc:"Who walks it; empty until somebody does"`
	Metres    float64       `db:"metres" json:"metres"`
	MadeAt    time.Time     `db:"made_at" json:"made_at"`
	MadeBy    string        `db:"made_by" json:"made_by"`
	DoneAt    *time.Time    `db:"done_at" json:"done_at"`
	Version   int32         `db:"version" json:"version"`
	Lines     []Line        `db:"-" json:"lines"`
	Steps     []Step        `db:"-" json:"steps" doc:"What is left of it, in the order of the walk"`
	StepCount int           `db:"-" json:"step_count" doc:"How many stops it has in all"`
}

// A Line is goods of a refill; quantities are in base units.
type Line struct {
	ID       int64           `db:"id" json:"id"`
	RefillID int64           `db:"refill_id" json:"-"`
	ItemID   int32           `db:"item_id" json:"item_id"`
	SKU      string          `db:"sku" json:"sku"`
	Item     string          `db:"item" json:"item"`
	Unit     string          `db:"unit" json:"unit"`
	Measured bool            `db:"measured" json:"-"`
	Tracking string          `db:"tracking" json:"tracking"`
	LotID    *int64          `db:"lot_id" json:"lot_id"`
	Lot      string          `db:"lot" json:"lot"`
	CartonID *int64          `db:"carton_id" json:"carton_id"`
	Carton   string          `db:"carton" json:"carton"`
	Whole    bool            `db:"whole" json:"whole" doc:"Whether the carton or pallet goes as it is"`
	FromID   int32           `db:"from_id" json:"from_id"`
	From     string          `db:"from_code" json:"from"`
	ToID     int32           `db:"to_id" json:"to_id"`
	To       string          `db:"to_code" json:"to"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
	Fetched  decimal.Decimal `db:"fetched" json:"fetched"`
	Missed   decimal.Decimal `db:"missed" json:"missed" doc:"What was not to be had there"`
	Brought  decimal.Decimal `db:"brought" json:"brought"`
	Returned decimal.Decimal `db:"returned" json:"returned" doc:"What went back to where it was"`
	Refused  bool            `db:"refused" json:"refused" doc:"Whether no more of it went into its bin"`
	FetchAt  int             `db:"fetch_at" json:"-"`
	BringAt  int             `db:"bring_at" json:"-"`
	Units    []byte          `db:"units" json:"-"`
	Serials  []string        `db:"-" json:"serials" nullable:"false" doc:"The units on the trolley, where they are known one by one"`
}

// ToFetch is how much is still to be fetched, OnTrolley how much was and is nowhere else yet.
func (l Line) ToFetch() decimal.Decimal { return l.Quantity.Sub(l.Fetched).Sub(l.Missed) }

// OnTrolley is how much of the line lies on the trolley.
func (l Line) OnTrolley() decimal.Decimal { return l.Fetched.Sub(l.Brought).Sub(l.Returned) }

// What a step of a refill does.
const (
	Fetching  = "fetch"
	Bringing  = "bring"
	Returning = "return"
)

// A Step is a stop of a refill that is not made yet.
type Step struct {
	LineID   int64           `json:"line_id"`
	Does     string          `json:"does" enum:"fetch,bring,return"`
	Bin      string          `json:"bin"`
	Quantity decimal.Decimal `json:"quantity"`

	at int
}

// step is what is to be done next with the line's goods; nothing where it is done.
func (l Line) steps() (out []Step) {
	if l.ToFetch().IsPositive() {
		out = append(out, Step{l.ID, Fetching, l.From, l.ToFetch(), l.FetchAt})
	}
	switch {
	case l.Refused && l.OnTrolley().IsPositive():
		out = append(out, Step{l.ID, Returning, l.From, l.OnTrolley(), 1_000_000 + l.FetchAt})
	case l.ToFetch().Add(l.OnTrolley()).IsPositive() && !l.Refused:
		out = append(out, Step{l.ID, Bringing, l.To, l.ToFetch().Add(l.OnTrolley()), l.BringAt})
	}
	return out
}

const columns = `
	SELECT f.id, f.number, f.site_id, f.trolley_id, f.state, coalesce(p.name, '') AS person, f.metres, f.made_at,
	       m.name AS made_by, f.done_at, f.version
	  FROM refills f JOIN people m ON m.id = f.made_by LEFT JOIN people p ON p.id = f.person_id `

// read reads a refill with its lines and what is left of it.
func read(ctx context.Context, q sqlx.QueryerContext, id int64) (Refill, error) {
	found, err := readAll(ctx, q, `WHERE f.id = $1`, id)
	if err != nil {
		return Refill{}, err
	}
	if len(found) == 0 {
		return Refill{}, documents.Missing("refill", fmt.Sprint(id))
	}
	return found[0], nil
}

// listOpen lists the refills of a site that are not done.
func listOpen(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Refill, error) {
	return readAll(ctx, q, `WHERE f.site_id = $1 AND f.state IN ('planned', 'walking') ORDER BY f.id`, site)
}

func readAll(ctx context.Context, q sqlx.QueryerContext, where string, args ...any) ([]Refill, error) {
	out := []Refill{}
	if err := sqlx.SelectContext(ctx, q, &out, columns+where, args...); err != nil {
		return nil, fmt.Errorf("reading refills: %w", err)
	}
	ids, by := make([]int64, len(out)), map[int64]*Refill{}
	for i := range out {
		out[i].Lines, out[i].Steps = []Line{}, []Step{}
		ids[i], by[out[i].ID] = out[i].ID, &out[i]
	}
	lines, err := readLines(ctx, q, ids)
	if err != nil {
		return nil, err
	}
	for _, l := range lines {
		r := by[l.RefillID]
		r.Lines, r.Steps, r.StepCount = append(r.Lines, l), append(r.Steps, l.steps()...), r.StepCount+2
	}
	for i := range out {
		slices.SortFunc(out[i].Steps, func(a, b Step) int { return cmp.Compare(a.at, b.at) })
	}
	return out, nil
}

func readLines(ctx context.Context, q sqlx.QueryerContext, refills []int64) ([]Line, error) {
	var lines []Line
	err := sqlx.SelectContext(ctx, q, &lines, `
		SELECT v.id, v.refill_id, v.item_id, i.sku, i.description AS item, i.base_unit AS unit, NOT i.whole AS measured, i.tracking,
		       v.lot_id, coalesce(l.code, '') AS lot, v.carton_id, coalesce(c.sscc, '') AS carton, v.whole, v.from_id,
		       a.code AS from_code, v.to_id, b.code AS to_code, v.quantity, v.fetched, v.missed, v.brought, v.returned,
		       v.refused, v.fetch_at, v.bring_at, to_json(v.serials) AS units
		  FROM refill_moves v
		  JOIN items i ON i.id = v.item_id
		  JOIN locations a ON a.id = v.from_id
		  JOIN locations b ON b.id = v.to_id
		  LEFT JOIN lots l ON l.id = v.lot_id
		  LEFT JOIN cartons c ON c.id = v.carton_id
		 WHERE v.refill_id = ANY($1) ORDER BY v.refill_id, v.fetch_at`, refills)
	if err != nil {
		return nil, fmt.Errorf("reading the lines of refills: %w", err)
	}
	for i := range lines {
		if err := json.Unmarshal(lines[i].Units, &lines[i].Serials); err != nil {
			return nil, fmt.Errorf("reading the units on a trolley: %w", err)
		}
	}
	return lines, nil
}
