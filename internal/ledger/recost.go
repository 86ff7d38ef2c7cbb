package ledger

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/valuation"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Crossings is a query of the moves by which goods went from one place that is valued by itself to another: a site, 0
// between sites, or valuation.Outside; each at the cost that it carried, and whether that was its own.
const Crossings = `
	SELECT * FROM (
		SELECT m.id, t.entered_at, t.kind, m.item_id, m.quantity, m.unit_cost, t.kind = '` + string(posting.ReverseReceipt) + `' AS own,
		       CASE WHEN f.real THEN coalesce(f.site_id, 0) ELSE -1 END AS "from", CASE WHEN d.real THEN coalesce(d.site_id, 0) ELSE -1 END AS "to"
		  FROM moves m JOIN postings t ON t.id = m.posting_id JOIN locations f ON f.id = m.from_location
		  JOIN locations d ON d.id = m.to_location WHERE m.from_site IS DISTINCT FROM m.to_site OR m.from_site IS NULL) AS c
	 WHERE "from" <> "to"`

// More is what all goods that a move brought turned out to cost more than it says, or less.
type More struct {
	Item   int32
	Move   int64
	Amount decimal.Decimal
}

// Recost writes what goods turned out to cost more, an entry for each item: what of it is left at each place makes the
// average there higher, and what is gone is said. The documents that say so are held; costs are locked here, and no
// document is held after it.
func Recost(ctx context.Context, tx *command.Tx, h Head, more []More) error {
	items := map[int32][]More{}
	for _, m := range more {
		items[m.Item] = append(items[m.Item], m)
	}
	ids := slices.Sorted(maps.Keys(items))
	if len(ids) == 0 {
		return nil
	}
	tx.Held.Rank = stockRank
	if _, err := tx.ExecContext(ctx, `SELECT ledger_hold_costs($1)`, ids); err != nil {
		return fmt.Errorf("holding costs: %w", err)
	}
	out := head{Person: tx.Person.ID, Document: h.Document, Note: h.Note}
	if tx.Backdate {
		out.EnteredAt = &tx.Now
	}
	headText, err := json.Marshal(out)
	if err != nil {
		return fmt.Errorf("writing an entry: %w", err)
	}
	for _, item := range ids {
		e := entry{item: item, more: items[item]}
		if err := e.spread(ctx, tx); err != nil {
			return err
		}
		if err := e.write(ctx, tx, string(headText)); err != nil {
			return err
		}
	}
	return nil
}

// An entry is what goods of an item cost more, and where that is now by each way of valuing.
type entry struct {
	item  int32
	more  []More
	parts []part
}

type part struct {
	method string
	place  int32
	value  decimal.Decimal
}

// spread finds where it is, by all that came and went of the item.
func (e *entry) spread(ctx context.Context, q sqlx.QueryerContext) error {
	var rows []struct {
		ID int64
		valuation.Crossing
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT id, "from", "to", quantity, unit_cost AS unitcost, own FROM (`+Crossings+`) AS c WHERE item_id = $1 ORDER BY id`,
		e.item); err != nil {
		return fmt.Errorf("reading what came and went: %w", err)
	}
	brought := map[int64]decimal.Decimal{}
	for _, m := range e.more {
		brought[m.Move] = m.Amount
	}
	crossings, more := make([]valuation.Crossing, len(rows)), map[int]decimal.Decimal{}
	for i, r := range rows {
		crossings[i] = r.Crossing
		if amount, due := brought[r.ID]; due {
			more[i] = amount
		}
	}
	for method, by := range valuation.AddedBy {
		added, err := by(crossings, more)
		if err != nil {
			return err
		}
		for place, value := range added {
			e.parts = append(e.parts, part{method, place, value})
		}
	}
	return nil
}

func (e *entry) write(ctx context.Context, tx *command.Tx, head string) error {
	moves, amounts := make([]int64, len(e.more)), make([]string, len(e.more))
	for i, m := range e.more {
		moves[i], amounts[i] = m.Move, m.Amount.String()
	}
	methods, places, parts := make([]string, len(e.parts)), make([]int32, len(e.parts)), make([]string, len(e.parts))
	for i, p := range e.parts {
		methods[i], places[i], parts[i] = p.method, p.place, p.value.String()
	}
	if _, err := tx.ExecContext(ctx, `
		SELECT ledger_recost($1, $2, $3, $4::text[]::numeric[], $5, $6, $7::text[]::numeric[])`, head, e.item, moves, amounts,
		methods, places, parts); err != nil {
		return fmt.Errorf("re-costing: %w", err)
	}
	return nil
}
