package audit

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Entry is what is to be counted of an item in a bin. It says not how many there should be.
type Entry struct {
	LocationID  int32           `db:"location_id" json:"location_id"`
	Bin         string          `db:"bin" json:"bin"`
	SiteID      int32           `db:"site_id" json:"-"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	Whole       bool            `db:"whole" json:"whole"`
	Tracking    string          `db:"tracking" json:"tracking"`
	Cost        decimal.Decimal `db:"cost" json:"-"`
	// Place is of which kind its location is.
	Place string `db:"place" json:"-"`
	// Since names the last move there: a count is of what lay there then.
	Since int64  `db:"since" json:"since"`
	Kinds []Kind `db:"-" json:"kinds"`
}

// lots tells whether its lots are told apart in stock.
func (e Entry) lots() bool {
	return e.Tracking == receiving.Lot || e.Tracking == receiving.LotExpiry
}

// Count is what was found of an item in a bin.
type Count struct {
	LocationID int32     `json:"location_id"`
	ItemID     int32     `json:"item_id"`
	Since      int64     `json:"since" doc:"As the entry said; or, where goods moved while they were counted and it was counted after that, the fact \"latest\" of that refusal"`
	Before     bool      `json:"before,omitempty" doc:"Goods moved while they were counted, and it was counted before that"`
	At         string    `json:"at,omitempty" maxLength:"40" doc:"When it was counted on paper, as 2027-03-02T10:30:00Z; now without"`
	How        string    `json:"how,omitempty" enum:"desk,hand,paper,round" doc:"Where it was written down; the desk without"`
	Sheet      int64     `json:"sheet,omitempty" doc:"The count sheet that it is counted for"`
	Kinds      []Counted `json:"kinds" minItems:"1" maxItems:"200"`
}

// Counted is how many there are of one kind.
type Counted struct {
	LotID    *int64 `json:"lot_id,omitempty"`
	Lot      string `json:"lot,omitempty" maxLength:"40" doc:"The lot's number instead of its id: one that the entry does not name"`
	CartonID *int64 `json:"carton_id,omitempty"`
	// Condition is that of the kind; without it, what the books have there, or what goods are in that lie there.
	Condition posting.Condition `json:"condition,omitempty" enum:",good,waiting,on_hold,damaged,returned,recalled" doc:"As the entry said"`
	Closed    bool              `json:"closed,omitempty" doc:"The carton or pallet was seen closed: what should be in it counts as there"`
	Quantity  string            `json:"quantity,omitempty" maxLength:"40" doc:"Where units are not known one by one"`
	Serials   []string          `json:"serials,omitempty" maxItems:"500" doc:"Where they are"`
}

// readEntry reads what is to be counted of an item in a bin, and what should be there of it now.
func readEntry(ctx context.Context, q sqlx.QueryerContext, location, item int32) (Entry, []held, error) {
	e := Entry{Kinds: []Kind{}}
	err := sqlx.GetContext(ctx, q, &e, `
		SELECT p.id AS location_id, p.code AS bin, p.site_id, i.id AS item_id, i.sku, i.description,
		       i.base_unit AS unit, i.whole, i.tracking, i.cost, p.kind AS place,
		       coalesce((SELECT max(id) FROM moves WHERE item_id = i.id
		       AND (from_location = p.id OR to_location = p.id)), 0) AS since
		  FROM locations p, items i WHERE p.id = $1 AND i.id = $2 AND p.fixed`, location, item)
	if err != nil {
		return e, nil, documents.Found(err, "bin or item", fmt.Sprintf("%d, %d", location, item))
	}
	held, err := readHeld(ctx, q, location, item, e.Since)
	for _, h := range held {
		e.Kinds = append(e.Kinds, h.Kind)
	}
	if len(e.Kinds) == 0 {
		e.Kinds = append(e.Kinds, Kind{Condition: e.usual()})
	}
	return e, held, err
}

// A Moved is a move of an item in a bin while it was counted, or since.
type Moved struct {
	MoveID   int64           `db:"move_id" json:"-"`
	At       time.Time       `db:"at" json:"at"`
	Person   string          `db:"person" json:"person"`
	Kind     posting.Kind    `db:"kind" json:"kind"`
	Document string          `db:"document" json:"document"`
	Delta    decimal.Decimal `db:"delta" json:"delta" doc:"What it changed of the stock there"`
}

// movedAfter reads what moved of an item in a bin after a move, the first first.
func movedAfter(ctx context.Context, q sqlx.QueryerContext, location, item int32, asOf int64) ([]Moved, error) {
	out := []Moved{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT max(e.move_id) AS move_id, t.entered_at AS at, p.name AS person, t.kind, t.document, sum(e.delta) AS delta
		  FROM move_ends e JOIN moves m ON m.id = e.move_id JOIN postings t ON t.id = m.posting_id JOIN people p ON p.id = t.person_id
		 WHERE e.location_id = $1 AND e.item_id = $2 AND e.move_id > $3 GROUP BY t.id, p.id ORDER BY 1`, location, item, asOf)
	if err != nil {
		return nil, fmt.Errorf("reading what moved since: %w", err)
	}
	return out, nil
}

// moment is which move a count is after, and when it stood so.
type moment struct {
	asOf int64
	at   time.Time
}

// moment finds the moment that a count stands for. It refuses one that has not come, one before the first move, one
// before a count that was settled since, and a count during which goods moved unless it says whether they had.
func (in Count) moment(ctx context.Context, q sqlx.QueryerContext, e Entry, now time.Time) (m moment, err error) {
	m = moment{in.Since, now}
	if in.At != "" {
		if m, err = in.writtenAt(ctx, q); err != nil {
			return m, err
		}
	} else if in.Since > e.Since || in.Since < 0 {
		return m, refusal.New(refusal.NumberRange, "since", "%d is no move of %s in %s. Begin the count anew.", in.Since, e.SKU, e.Bin)
	}
	if m.asOf == e.Since {
		return m, nil
	}
	moved, err := movedAfter(ctx, q, in.LocationID, in.ItemID, m.asOf)
	if err != nil {
		return m, err
	}
	for _, x := range moved {
		if x.Kind == posting.Count {
			return m, refusal.New(refusal.MovedSince, "since", "%s of %s in %s was settled by %s since. Count it again.",
				x.Document, e.SKU, e.Bin, x.Person).Of(refusal.Conflict)
		}
	}
	if in.At == "" && !in.Before {
		return m, movedMeanwhile(e, moved)
	}
	return m, nil
}

// writtenAt is the moment that was written on paper.
func (in Count) writtenAt(ctx context.Context, q sqlx.QueryerContext) (m moment, err error) {
	if m.at, err = time.Parse(time.RFC3339, in.At); err != nil {
		return m, refusal.New(refusal.TimeMalformed, "at", "%q is no time. Write it as 2027-03-02T10:30:00Z.", in.At)
	}
	if err := ledger.MayLookAt(ctx, q, "at", m.at); err != nil {
		return m, err
	}
	if err := sqlx.GetContext(ctx, q, &m.asOf, `
		SELECT coalesce(max(m.id), 0) FROM moves m JOIN postings t ON t.id = m.posting_id
		 WHERE m.item_id = $2 AND $1 IN (m.from_location, m.to_location) AND t.entered_at <= $3`,
		in.LocationID, in.ItemID, m.at); err != nil {
		return m, fmt.Errorf("finding what had moved: %w", err)
	}
	return m, nil
}

// movedMeanwhile asks whether it was counted before or after goods moved. It names who moved them, and not how many lie
// there.
func movedMeanwhile(e Entry, moved []Moved) error {
	words := make([]string, 0, len(moved))
	for _, x := range moved {
		words = append(words, fmt.Sprintf("%s (%s, %s)", x.Person, states.Label(x.Kind), x.At.UTC().Format("15:04")))
	}
	return refusal.New(refusal.MovedSince, "since", "Goods of %s in %s moved while you counted: %s. Say whether you counted before "+
		"that or after it; or count again.", e.SKU, e.Bin, strings.Join(words, ", ")).
		Of(refusal.Conflict).With("latest", e.Since).With("moves", len(moved))
}
