package audit

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"lanternrow/internal/core/counting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// Done says what a count came to, once it is confirmed.
type Done struct {
	ID      int64            `json:"id"`
	Words   string           `json:"words"`
	Verdict counting.Verdict `json:"verdict" enum:"right,again,decide" doc:"The books are right; another person counts again; a lead decides"`
}

// blind is what whoever counts sees before the count is confirmed: what they wrote down.
func blind(ctx context.Context, q sqlx.QueryerContext, in Count, person people.Person, now time.Time) (*ledger.Plan, error) {
	r, err := newReading(ctx, q, in, person, now)
	if err != nil {
		return nil, err
	}
	plan, err := ledger.Describe(ctx, q, nil)
	if err != nil {
		return nil, err
	}
	plan.Button = fmt.Sprintf("Confirm %s of %s in %s", r.found, r.entry.SKU, r.entry.Bin)
	return plan, nil
}

// Confirm writes a count down as it was made. One that agrees with the books is settled at once; one that differs waits
// for a lead, or, beyond its allowance, for another person who counts again.
func Confirm(ctx context.Context, tx *command.Tx, in Count) (Done, error) {
	if in.Sheet != 0 {
		if err := documents.Hold(ctx, tx, documents.Own(documents.CountSheet, in.Sheet)); err != nil {
			return Done{}, err
		}
	}
	if err := ledger.LockBins(ctx, tx, []int32{in.LocationID}); err != nil {
		return Done{}, err
	}
	r, err := newReading(ctx, tx, in, tx.Person, tx.Now)
	if err != nil {
		return Done{}, err
	}
	verdict, passes, err := r.judge(ctx, tx)
	if err != nil {
		return Done{}, err
	}
	if last := r.last(); last != nil {
		if err := documents.Step(ctx, tx, states.Counts, []int64{last.ID}, states.CountRepeated, ""); err != nil {
			return Done{}, err
		}
	}
	id, number, err := r.write(ctx, tx, verdict, passes)
	if err != nil {
		return Done{}, err
	}
	tx.NotifySite(r.entry.SiteID, "audit", "row")
	if verdict != counting.Again {
		if err := r.offSheet(ctx, tx); err != nil {
			return Done{}, err
		}
	}
	done := Done{ID: id, Verdict: verdict, Words: fmt.Sprintf("%s: %s of %s in %s are confirmed.", number, r.found, r.entry.SKU, r.entry.Bin)}
	switch verdict {
	case counting.Again:
		done.Words += " It differs from the books: another person counts it again."
	case counting.Decide:
		done.Words += " It differs from the books: a lead decides."
	case counting.Right:
		return done, settled(ctx, tx, r.counted)
	}
	return done, nil
}

// reading is a count that is being confirmed: what it found, the moment that it stands for, the counts that others made
// before it, and the line of a count sheet that it is for.
type reading struct {
	counted
	moment
	earlier []earlier
	line    *sheetLine
}

// earlier is a count of the same that differed beyond its allowance.
type earlier struct {
	ID        int64
	Number    string
	CountedBy int32 `db:"counted_by"`
	Name      string
	State     states.Count
	AsOf      int64 `db:"as_of"`
	Written   []byte
}

// newReading reads a count and refuses it where it cannot be one: goods moved meanwhile, somebody else's sheet has it,
// it waits for a decision, or the same person counted it before.
func newReading(ctx context.Context, q sqlx.QueryerContext, in Count, person people.Person, now time.Time) (r reading, err error) {
	entry, lies, err := readEntry(ctx, q, in.LocationID, in.ItemID)
	if err != nil {
		return r, err
	}
	if r.line, err = lineFor(ctx, q, in, entry); err != nil {
		return r, err
	}
	if r.earlier, err = readEarlier(ctx, q, in.LocationID, in.ItemID); err != nil {
		return r, err
	}
	for _, e := range r.earlier {
		if e.State == states.CountCounted {
			return r, refusal.New(refusal.CountWaits, "",
				"It was counted by %s with %s, which waits for a lead. Have it settled, or counted again from there.", e.Name, e.Number).
				Of(refusal.Conflict)
		}
		if e.CountedBy == person.ID {
			return r, refusal.New(refusal.CountMine, "", "You counted %s in %s yourself with %s. It is counted again by somebody else.",
				entry.SKU, entry.Bin, e.Number).Of(refusal.Conflict)
		}
	}
	if r.moment, err = in.moment(ctx, q, entry, now); err != nil {
		return r, err
	}
	if r.counted, err = compare(ctx, q, entry, lies, in, r.asOf); err != nil {
		return r, err
	}
	return r, r.checkUnits(ctx, q)
}

// readEarlier reads the counts of an item in a bin that are open, the first first: the one that waits, and those behind
// it.
func readEarlier(ctx context.Context, q sqlx.QueryerContext, location, item int32) (out []earlier, err error) {
	if err := sqlx.SelectContext(ctx, q, &out, `
		WITH last AS (SELECT id, first_id FROM counts WHERE location_id = $1 AND item_id = $2 AND state IN ('counted', 'recount'))
		SELECT c.id, c.number, c.counted_by, p.name, c.state, c.as_of, c.written
		  FROM last JOIN counts c ON c.id IN (last.id, last.first_id) OR c.first_id = last.first_id
		  JOIN people p ON p.id = c.counted_by ORDER BY c.id`, location, item); err != nil {
		return nil, fmt.Errorf("reading counts: %w", err)
	}
	return out, nil
}

// last is the count that waits to be made again; nil for a first one.
func (r *reading) last() *earlier {
	if len(r.earlier) == 0 {
		return nil
	}
	return &r.earlier[len(r.earlier)-1]
}

// judge says what follows from the count and those before it, and whether it is within its allowance.
func (r *reading) judge(ctx context.Context, q sqlx.QueryerContext) (verdict counting.Verdict, passes bool, err error) {
	all := make([][]counting.Difference, 0, len(r.earlier)+1)
	for _, e := range r.earlier {
		var in Count
		if err := json.Unmarshal(e.Written, &in); err != nil {
			return "", false, fmt.Errorf("reading %s: %w", e.Number, err)
		}
		c, err := compare(ctx, q, r.entry, r.now, in, e.AsOf)
		if err != nil {
			return "", false, err
		}
		all = append(all, c.differences)
	}
	if passes = len(r.differences) == 0; !passes {
		if passes, err = r.passes(ctx, q); err != nil {
			return "", false, err
		}
	}
	return counting.Judge(append(all, r.differences), passes), passes, nil
}

// passes tells whether the count is within the allowance of its item's class.
func (r *reading) passes(ctx context.Context, q sqlx.QueryerContext) (bool, error) {
	s, err := readSettings(ctx, q, r.entry.SiteID)
	if err != nil {
		return false, err
	}
	class, err := classesOf(ctx, q, r.entry.SiteID, s, r.at)
	if err != nil {
		return false, err
	}
	return s.allowance(class.of(r.entry.ItemID)).Passes(r.off, r.book, r.worth), nil
}

// write keeps the count.
func (r *reading) write(ctx context.Context, tx *command.Tx, verdict counting.Verdict, passes bool) (id int64, number string, err error) {
	written, err := json.Marshal(r.in)
	if err != nil {
		return 0, "", fmt.Errorf("writing a count: %w", err)
	}
	state := map[counting.Verdict]states.Count{counting.Right: states.CountAccepted, counting.Again: states.CountRecount,
		counting.Decide: states.CountCounted}[verdict]
	var first, sheet *int64
	if len(r.earlier) > 0 {
		first = &r.earlier[0].ID
	}
	if r.line != nil {
		sheet = &r.line.SheetID
	}
	how := r.in.How
	if how == "" {
		how = "desk"
	}
	err = tx.QueryRowxContext(ctx, `
		INSERT INTO counts (site_id, location_id, item_id, found, expected, variance, off, cost, value, counted_by, counted_at, stands_at,
		  as_of, how, passes, first_id, sheet_id, state, written, moved)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18, $19, moved_by($2, $3, $13))
		RETURNING id, number`,
		r.entry.SiteID, r.in.LocationID, r.in.ItemID, r.found, r.book, r.variance, r.off, r.entry.Cost, r.value, tx.Person.ID, tx.Now, r.at,
		r.asOf, how, passes, first, sheet, state, written).Scan(&id, &number)
	if err != nil {
		return 0, "", fmt.Errorf("writing a count: %w", err)
	}
	return id, number, nil
}

// settled ends what asked for a count.
func settled(ctx context.Context, tx *command.Tx, c counted) error {
	if _, err := tx.ExecContext(ctx, `
		UPDATE count_requests SET settled_at = $3 WHERE location_id = $1 AND item_id = $2 AND state = 'requested'`,
		c.in.LocationID, c.in.ItemID, tx.Now); err != nil {
		return fmt.Errorf("settling a count request: %w", err)
	}
	tx.NotifySite(c.entry.SiteID, ledger.Topics("audit", "pick", "orders", "row")...)
	return nil
}
