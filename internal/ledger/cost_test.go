package ledger_test

import (
	"context"
	"math/rand/v2"
	"strings"
	"sync"
	"testing"

	"github.com/shopspring/decimal"

	"lanternrow/internal/core/valuation"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/test/world"
)

// TestCostsFollowFromTheMovesAlone has many sides receive at their own costs, move goods
// within a site, to the other through transit, and out, all at once. The costs that the
// moves carry then give, in their order, the average that was kept at posting; and first in,
// first out finds what it needs.
func TestCostsFollowFromTheMovesAlone(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	var transit int32
	if err := h.Owner.Get(&transit, `
		INSERT INTO locations (kind, code) VALUES ('transit', 'Between sites') RETURNING id`); err != nil {
		t.Fatal(err)
	}
	near, next, far := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A"), h.Bin(t, "Z-01-1-A")
	h.Owner.MustExec(`UPDATE locations SET max_units = NULL`)
	ways := [][2]int32{
		{near, next}, {next, near}, {near, transit}, {transit, far}, {far, transit}, {transit, near}, {next,
			world.CustomerLocation},
		{far, world.CustomerLocation}, {world.LostLocation, near}, {near, world.LostLocation},
	}
	var wg sync.WaitGroup
	for worker := range 6 {
		wg.Go(func() {
			r := rand.New(rand.NewPCG(uint64(worker), 5))
			for range 40 {
				var moves []ledger.Move
				for range 1 + r.IntN(2) {
					m := ledger.Move{Item: []int32{world.Clamp, world.Heavy}[r.IntN(2)],
						Quantity: units(int64(1 + r.IntN(9)))}
					if r.IntN(2) == 0 {
						cost := decimal.New(r.Int64N(90_000), -4)
						m.From, m.To, m.Cost = world.SupplierLocation, []int32{near, far}[r.IntN(2)], &cost
					} else {
						way := ways[r.IntN(len(ways))]
						m.From, m.To = way[0], way[1]
					}
					moves = append(moves, m)
				}
				if err := h.Post(moves...); err != nil && !busy(err) && !strings.Contains(err.Error(), "Look again") {
					t.Error(err)
				}
			}
		})
	}
	wg.Wait()
	h.Whole(t)
	var kept []struct {
		Item     int32           `db:"item_id"`
		Site     int32           `db:"site_id"`
		Quantity decimal.Decimal `db:"quantity"`
		Average  decimal.Decimal `db:"average"`
	}
	if err := h.App.Select(&kept, `
		SELECT item_id, site_id, quantity, average FROM item_costs`); err != nil || len(kept) != 6 {
		t.Fatalf("%d costs are kept (%v)", len(kept), err)
	}
	for _, k := range kept {
		flows := flowsAt(t, h, k.Item, k.Site)
		v, average, err := valuation.MovingAverage(flows)
		if err != nil || !average.Equal(k.Average) || !v.Quantity.Equal(k.Quantity) {
			t.Errorf("item %d at site %d: %s at %s is kept, the %d flows make %s at %s (%v)",
				k.Item, k.Site, k.Quantity, k.Average, len(flows), v.Quantity, average, err)
		}
		if v, _, err := valuation.FIFO(flows); err != nil || !v.Quantity.Equal(k.Quantity) {
			t.Errorf("item %d at site %d, first in first out: %+v %v", k.Item, k.Site, v, err)
		}
	}
}

// TestGoodsAreRecostedBesidePostings has sides receive, move on and sell while others re-cost what came: no part is lost
// between them, and the moves with the entries, in their order, give the averages that are kept.
func TestGoodsAreRecostedBesidePostings(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	near, far := h.Bin(t, "A-01-1-A"), h.Bin(t, "Z-01-1-A")
	h.Owner.MustExec(`UPDATE locations SET max_units = NULL`)
	items := []int32{world.Clamp, world.Heavy}
	for _, item := range items {
		h.Stock(t, item, near, 5)
	}
	var wg sync.WaitGroup
	for worker := range 6 {
		wg.Go(func() {
			r := rand.New(rand.NewPCG(uint64(worker), 8))
			for range 30 {
				if worker%3 == 0 {
					if err := recostSome(h, r); err != nil && !busy(err) {
						t.Error(err)
					}
					continue
				}
				var moves []ledger.Move
				for _, item := range items[:1+r.IntN(2)] {
					way := [][2]int32{{world.SupplierLocation, near}, {near, far}, {far, near}, {near, world.CustomerLocation}}[r.IntN(4)]
					moves = append(moves, ledger.Move{Item: item, Quantity: units(int64(1 + r.IntN(4))), From: way[0], To: way[1]})
				}
				if err := h.Post(moves...); err != nil && !busy(err) && !strings.Contains(err.Error(), "Look again") {
					t.Error(err)
				}
			}
		})
	}
	wg.Wait()
	h.Whole(t)
	var entries int
	if err := h.App.Get(&entries, `SELECT count(*) FROM recosts`); err != nil || entries < 50 {
		t.Errorf("%d entries are kept (%v)", entries, err)
	}
	for _, write := range []string{`DELETE FROM recost_parts`, `UPDATE recosts SET note = 'another'`, `SELECT ledger_cost(1, 1, 1, 1)`} {
		if _, err := h.App.Exec(write); err == nil {
			t.Errorf("the application may do this: %s", write)
		}
	}
}

// busy tells whether something was refused because others kept it too long, on a machine that has much to do: nothing was
// done.
func busy(err error) bool { return strings.Contains(err.Error(), "Others are changing the same") }

// recostSome lets what some moves brought cost more, of both items at once.
func recostSome(h *world.House, r *rand.Rand) error {
	_, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (bool, error) {
		var more []ledger.More
		if err := tx.SelectContext(ctx, &more, `
			SELECT m.item_id AS item, max(m.id) AS move, $2::numeric AS amount FROM moves m
			 WHERE m.from_location = $1 GROUP BY 1`, world.SupplierLocation, decimal.New(1+r.Int64N(999), -2)); err != nil {
			return false, err
		}
		return true, ledger.Recost(ctx, tx, ledger.Head{Document: "PO-1", Note: "Freight"}, more)
	})
	return err
}

// flowsAt reads what came to a site and went, by the moves alone; site 0 is transit.
func flowsAt(t *testing.T, h *world.House, item, site int32) (out []valuation.Flow) {
	t.Helper()
	err := h.App.Select(&out, `
		WITH ends AS (
			SELECT m.id, quantity, unit_cost AS unitcost,
			       f.real AND coalesce(from_site, 0) = $2 AS leaves, t.real AND coalesce(to_site, 0) = $2 AS comes
			  FROM moves m JOIN locations f ON f.id = from_location JOIN locations t ON t.id = to_location
			 WHERE item_id = $1)
		SELECT CASE WHEN comes THEN quantity ELSE -quantity END AS quantity, unitcost
		  FROM ends WHERE comes <> leaves ORDER BY id`, item, site)
	if err != nil {
		t.Fatal(err)
	}
	return out
}
