package ledger

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"lanternrow/internal/core/valuation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// sealBatch is how many rows of each kind are sealed in one transaction.
const sealBatch = 2000

// Seal hashes what is settled and not sealed yet into the chain, and returns how much it sealed: moves, the names that
// history shows, and the money of documents. A row is settled when no transaction as old as its own still runs; each kind
// follows the order of transactions, so that nothing can come to stand before what is sealed. Writers are never held up.
// The database makes the hashes, and whoever seals chooses none.
func Seal(ctx context.Context, db *sqlx.DB) (n int, err error) {
	if err := db.GetContext(ctx, &n, `SELECT ledger_seal_next($1)`, sealBatch); err != nil {
		return 0, fmt.Errorf("sealing: %w", err)
	}
	return n, nil
}

// KeepSealing seals, and takes snapshots, every few seconds until the context ends.
func KeepSealing(ctx context.Context, db *sqlx.DB) {
	for {
		n, err := Seal(ctx, db)
		if err == nil {
			_, err = Snapshot(ctx, db, snapshotEvery, snapshotBehind)
		}
		if err != nil && ctx.Err() == nil {
			slog.Warn("sealing is interrupted", "error", err)
		}
		wait := 3 * time.Second
		if n >= sealBatch {
			wait = 10 * time.Millisecond
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(wait):
		}
	}
}

// A Finding is a row of the ledger that is not as it should be.
type Finding struct {
	Table, Row, Wrong string
}

// A Report is the outcome of Verify.
type Report struct {
	// Sealed are the moves that are; Seals are all there are, of names and documents too.
	Moves, Sealed, Seals int64
	// Head is the newest seal: noted elsewhere, it proves later that nothing
	// before it was changed.
	Head string
	// First is the first thing found wrong, or nil.
	First *Finding

	kept ChainHead
}

// Verify proves that nothing that is sealed was changed, and replays every move to prove
// that balances and trail are right.
func Verify(ctx context.Context, db *sqlx.DB) (Report, error) {
	return VerifySince(ctx, db, ChainHead{})
}

// VerifySince is Verify, and proves that the chain still goes through a head that was kept outside: that nothing up to it
// was cut off, and that it was not made anew.
func VerifySince(ctx context.Context, db *sqlx.DB, kept ChainHead) (Report, error) {
	r := Report{kept: kept}
	tx, err := db.BeginTxx(ctx, nil)
	if err != nil {
		return r, fmt.Errorf("verifying: %w", err)
	}
	defer func() { _ = tx.Rollback() }()
	if _, err := tx.ExecContext(ctx, `SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY`); err != nil {
		return r, err
	}
	if err := tx.GetContext(ctx, &r.Moves, `SELECT count(*) FROM moves`); err != nil {
		return r, err
	}
	for _, check := range []func(context.Context, *sqlx.Tx) error{r.verifyChain, r.verifyNames, r.verifyUnsealed} {
		if err := check(ctx, tx); err != nil || r.First != nil {
			return r, err
		}
	}
	for _, check := range replays {
		var rows []Finding
		if err := tx.SelectContext(ctx, &rows, check.query); err != nil {
			return r, fmt.Errorf("checking %s: %w", check.name, err)
		}
		if len(rows) > 0 {
			r.First = &rows[0]
			return r, nil
		}
	}
	return r, r.verifyCosts(ctx, tx)
}

// costed is an item at a site, or between sites at 0.
type costed struct{ item, site int32 }

// verifyCosts holds the averages that what came, what went and what was re-costed make against those that are kept.
func (r *Report) verifyCosts(ctx context.Context, tx *sqlx.Tx) error {
	due, err := replayCosts(ctx, tx)
	if err != nil {
		return err
	}
	var kept []struct {
		Item     int32           `db:"item_id"`
		Site     int32           `db:"site_id"`
		Quantity decimal.Decimal `db:"quantity"`
		Average  decimal.Decimal `db:"average"`
	}
	if err := tx.SelectContext(ctx, &kept, `
		SELECT item_id, site_id, quantity, average FROM item_costs ORDER BY item_id, site_id`); err != nil {
		return fmt.Errorf("reading costs: %w", err)
	}
	for _, k := range kept {
		a := due[costed{k.Item, k.Site}]
		delete(due, costed{k.Item, k.Site})
		if a == nil {
			a = &valuation.Average{}
		}
		if !a.Quantity.Equal(k.Quantity) || !a.UnitCost.Equal(k.Average) {
			r.First = &Finding{"item_costs", fmt.Sprintf("item %d, site %d", k.Item, k.Site),
				fmt.Sprintf("says %s at %s, where the moves make %s at %s", k.Quantity, k.Average, a.Quantity, a.UnitCost)}
			return nil
		}
	}
	for p := range due {
		r.First = &Finding{"item_costs", fmt.Sprintf("item %d, site %d", p.item, p.site), "is missing"}
	}
	return nil
}

// replayCosts replays what came to each site and went, and what was re-costed there, in order.
func replayCosts(ctx context.Context, tx *sqlx.Tx) (map[costed]*valuation.Average, error) {
	rows, err := tx.QueryxContext(ctx, `
		SELECT m.item_id, x.site, x.delta, m.unit_cost, 0 AS more, m.id AS after, 0 AS recost
		  FROM moves m
		  JOIN locations f ON f.id = m.from_location
		  JOIN locations t ON t.id = m.to_location,
		       LATERAL (VALUES (f.real, coalesce(m.from_site, 0), -m.quantity),
		                       (t.real, coalesce(m.to_site, 0), m.quantity)) AS x(real, site, delta)
		 WHERE x.real AND (f.real, m.from_site) IS DISTINCT FROM (t.real, m.to_site)
		UNION ALL
		SELECT r.item_id, p.place, 0, 0, p.value, r.after_move, r.id
		  FROM recosts r JOIN recost_parts p ON p.recost_id = r.id
		 WHERE p.method = 'average' AND p.place <> -1
		 ORDER BY after, recost, delta`)
	if err != nil {
		return nil, fmt.Errorf("reading costs: %w", err)
	}
	defer rows.Close()
	due := map[costed]*valuation.Average{}
	for rows.Next() {
		var p costed
		var f valuation.Flow
		var more decimal.Decimal
		var after, recost int64
		if err := rows.Scan(&p.item, &p.site, &f.Quantity, &f.UnitCost, &more, &after, &recost); err != nil {
			return nil, fmt.Errorf("reading costs: %w", err)
		}
		if due[p] == nil {
			due[p] = &valuation.Average{}
		}
		if recost != 0 {
			due[p].Recost(more)
		} else {
			due[p].Add(f)
		}
	}
	if err := rows.Err(); err != nil {
		return nil, fmt.Errorf("reading costs: %w", err)
	}
	return due, nil
}

// replays are the questions whose answer must be empty. Each calculates from the moves
// alone what a table derived from them should say.
var replays = []struct{ name, query string }{
	{"what moves name", `
		SELECT 'moves' AS "table", m.id::text AS row,
		       'names what is not there, or a lot or a unit of another item' AS wrong
		  FROM moves m
		  LEFT JOIN postings g ON g.id = m.posting_id
		  LEFT JOIN people p ON p.id = g.person_id
		  LEFT JOIN items i ON i.id = m.item_id
		  LEFT JOIN locations f ON f.id = m.from_location
		  LEFT JOIN locations t ON t.id = m.to_location
		  LEFT JOIN lots l ON l.id = m.lot_id
		  LEFT JOIN serials s ON s.id = m.serial_id
		  LEFT JOIN cartons b ON b.id = m.from_carton
		  LEFT JOIN cartons c ON c.id = m.to_carton
		 WHERE p.id IS NULL OR i.id IS NULL OR f.id IS NULL OR t.id IS NULL
		    OR (l.item_id = m.item_id) IS NOT TRUE AND m.lot_id IS NOT NULL
		    OR (s.item_id = m.item_id) IS NOT TRUE AND m.serial_id IS NOT NULL
		    OR (b.id, c.id) IS DISTINCT FROM (m.from_carton, m.to_carton)
		 ORDER BY m.id LIMIT 1`},
	{"ends of moves", `
		SELECT 'moves' AS "table", m.id::text AS row, 'does not say of its two locations what they are' AS wrong
		  FROM moves m JOIN locations f ON f.id = m.from_location JOIN locations t ON t.id = m.to_location
		 WHERE (m.from_after IS NOT NULL, m.from_site, m.to_after IS NOT NULL, m.to_site) IS DISTINCT
		 FROM (f.real, f.site_id, t.real, t.site_id)
		 ORDER BY m.id LIMIT 1`},
	{"running balances", `
		SELECT 'moves' AS "table", move_id::text AS row,
		       'says ' || after || ' and ' || location_after || ' after it, where the moves make ' || sum || ' and ' || location_sum AS wrong
		  FROM (SELECT id, move_id, after, location_after,
		               sum(delta) OVER (PARTITION BY location_id, item_id, lot_id, serial_id, carton_id, condition
		               ORDER BY id) AS sum,
		               sum(delta) OVER (PARTITION BY location_id, item_id ORDER BY id) AS location_sum
		               FROM move_ends) AS e
		 WHERE after <> sum OR location_after <> location_sum ORDER BY id LIMIT 1`},
	{"balances", `
		WITH due AS (
			SELECT location_id, item_id, coalesce(lot_id, 0) AS lot_id, coalesce(serial_id, 0) AS serial_id,
			       coalesce(carton_id, 0) AS carton_id, condition, sum(delta) AS quantity
			  FROM move_ends GROUP BY 1, 2, 3, 4, 5, 6 HAVING sum(delta) <> 0),
		have AS (
			SELECT location_id, item_id, coalesce(lot_id, 0) AS lot_id, coalesce(serial_id, 0) AS serial_id,
			       coalesce(carton_id, 0) AS carton_id, condition, quantity
			  FROM balances WHERE quantity <> 0)
		SELECT 'balances' AS "table",
		       format('location %s, item %s, lot %s, carton %s', location_id, item_id, lot_id, carton_id) AS row,
		       format('says %s, where the moves make %s', coalesce(have.quantity, 0),
		       coalesce(due.quantity, 0)) AS wrong
		  FROM due FULL JOIN have USING (location_id, item_id, lot_id, serial_id, carton_id, condition)
		 WHERE due.quantity IS DISTINCT FROM have.quantity ORDER BY location_id, item_id LIMIT 1`},
	{"reservations", `
		SELECT 'balances' AS "table", format('location %s, item %s', location_id, item_id) AS row,
		       format('says %s reserved, where the reservations make %s', sum(reserved), sum(reservations)) AS wrong
		  FROM (SELECT location_id, item_id, coalesce(lot_id, 0) AS lot, reserved, 0 AS reservations
		    FROM balances
		        UNION ALL SELECT location_id, item_id, coalesce(lot_id, 0), 0, quantity FROM reservations) AS t
		 GROUP BY location_id, item_id, lot HAVING sum(reserved) <> sum(reservations)
			    ORDER BY location_id, item_id LIMIT 1`},
}
