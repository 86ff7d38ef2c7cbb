package ledger_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

// A remembered end of a move, as a clerk with a notebook would write it down.
type remembered struct {
	location, item int32
	lot, carton    int64
	delta          int64
	locationAfter  int64
}

// readTrail reads a whole trail, in pages of a random length.
func readTrail(t *testing.T, h *world.House, r *rand.Rand, q ledger.Question) (out []ledger.TrailLine) {
	t.Helper()
	for {
		q.Limit = 2 + r.IntN(9)
		page, err := ledger.TrailOf(context.Background(), h.App, q)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, page.Lines...)
		if q.After = page.Next; q.After == "" {
			return out
		}
	}
}

// told is what a line says of its move, and of what there was after it.
func told(l ledger.TrailLine) string {
	return fmt.Sprintf("%d: %s at %s, %s then, %v at the site", l.ID, l.Delta, l.Location, l.LocationAfter, l.SiteAfter)
}

// TestEveryTrailIsWhatWasWrittenDown makes random moves, also within one location and
// out of cartons, keeps a notebook beside them, and compares every trail there is.
func TestEveryTrailIsWhatWasWrittenDown(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	r := rand.New(rand.NewPCG(8, 15))
	lots := []*int64{nil, h.Lot(t, world.Fluid, "L1", 0), h.Lot(t, world.Fluid, "L2", 0)}
	cartons := []*int64{nil, nil, nil}
	for i := range 2 {
		var id int64
		if err := h.Owner.Get(&id, `
			INSERT INTO cartons (sscc) VALUES ($1) RETURNING id`, fmt.Sprintf("%018d", i)); err != nil {
			t.Fatal(err)
		}
		cartons[i+1] = &id
	}
	locations := []int32{world.SupplierLocation, world.CustomerLocation, world.Dock, world.Trolley,
		h.Bin(t, "A-01-1-A"), h.Bin(t, "B-01-1-A"), h.Bin(t, "Z-01-1-A")}
	outside := func(p int32) bool { return p == world.SupplierLocation || p == world.CustomerLocation }
	number := func(p *int64) int64 {
		if p == nil {
			return 0
		}
		return *p
	}
	type pile struct {
		location, item int32
		lot, carton    int64
	}
	stock := map[pile]int64{}
	at := func(location, item int32) (n int64) {
		for k, q := range stock {
			if k.location == location && k.item == item {
				n += q
			}
		}
		return n
	}
	var notebook []remembered
	for range 600 {
		item, lot := world.Clamp, (*int64)(nil)
		if r.IntN(2) == 0 {
			item, lot = world.Fluid, lots[r.IntN(3)]
		}
		m := ledger.Move{Item: item, Lot: lot, Quantity: units(int64(1 + r.IntN(6))),
			From: locations[r.IntN(len(locations))], To: locations[r.IntN(len(locations))]}
		m.FromBox, m.ToBox = cartons[r.IntN(3)], cartons[r.IntN(3)]
		if outside(m.From) {
			m.FromBox = nil
		}
		if outside(m.To) {
			m.ToBox = nil
		}
		from, to := pile{m.From, item, number(lot), number(m.FromBox)}, pile{m.To, item, number(lot), number(m.ToBox)}
		n := m.Quantity.IntPart()
		if from == to || !outside(m.From) && stock[from] < n {
			continue
		}
		if err := h.Post(m); err != nil {
			t.Fatal(err)
		}
		if !outside(m.From) {
			stock[from] -= n
			notebook = append(notebook, remembered{m.From, item, from.lot, from.carton, -n, at(m.From, item)})
		}
		if !outside(m.To) {
			stock[to] += n
			notebook = append(notebook, remembered{m.To, item, to.lot, to.carton, n, at(m.To, item)})
		}
	}
	if len(notebook) < 150 {
		t.Fatalf("only %d ends were written down", len(notebook))
	}
	slices.Reverse(notebook)
	compare := func(name string, q ledger.Question, mine func(remembered) bool) []ledger.TrailLine {
		t.Helper()
		lines := readTrail(t, h, r, q)
		q.Oldest = true
		turned := readTrail(t, h, r, q)
		slices.Reverse(turned)
		for i, l := range lines {
			if len(turned) != len(lines) || told(turned[i]) != told(l) {
				t.Fatalf("%s, line %d of %d says %s, and %d lines are told from the oldest on", name, i, len(lines), told(l),
					len(turned))
			}
		}
		var want []remembered
		for _, n := range notebook {
			if mine(n) {
				want = append(want, n)
			}
		}
		if len(lines) != len(want) {
			t.Fatalf("%s: %d lines, and %d were written down", name, len(lines), len(want))
		}
		for i, l := range lines {
			if w := want[i]; l.LocationID != w.location || !l.Delta.Equal(units(w.delta)) ||
				!l.LocationAfter.Equal(units(w.locationAfter)) || l.At.IsZero() || l.Person == "" || l.Other == "" {
				t.Fatalf("%s, line %d says %+v, and what was written down is %+v", name, i, l, w)
			}
		}
		return lines
	}
	for _, p := range locations[2:] {
		compare(fmt.Sprint("location ", p), ledger.Question{Location: p},
			func(n remembered) bool { return n.location == p })
	}
	for _, l := range lots[1:] {
		compare(fmt.Sprint("lot ", *l), ledger.Question{Lot: *l}, func(n remembered) bool { return n.lot == *l })
	}
	for _, c := range cartons[1:] {
		compare(fmt.Sprint("carton ", *c), ledger.Question{Carton: *c},
			func(n remembered) bool { return n.carton == *c })
	}
	here := func(p int32) bool { return p != locations[6] }
	for _, item := range []int32{world.Clamp, world.Fluid} {
		lines := compare(fmt.Sprint("item ", item), ledger.Question{Item: item, Site: world.Site},
			func(n remembered) bool { return n.item == item && here(n.location) })
		// The site's running balance: what is there now, read backwards.
		balance := decimal.Zero
		for k, q := range stock {
			if k.item == item && here(k.location) {
				balance = balance.Add(units(q))
			}
		}
		for i, l := range lines {
			if i == 0 || lines[i-1].MoveID != l.MoveID {
				if !l.SiteAfter.Equal(balance) {
					t.Fatalf("item %d: the site held %s after move %d, and the trail says %s", item, balance,
						l.MoveID, l.SiteAfter)
				}
			}
			balance = balance.Sub(l.Delta)
		}
		if !balance.IsZero() {
			t.Fatalf("item %d began with %s", item, balance)
		}
	}
	h.Whole(t)
}

// TestSealingWaitsForWhoeverBeganBefore holds a transaction open that began early:
// nothing that is as young may be sealed before it, and nothing is left out after.
func TestSealingWaitsForWhoeverBeganBefore(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	ctx := context.Background()
	seal := func() int {
		t.Helper()
		n, err := ledger.Seal(ctx, h.App)
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
	h.Whole(t)
	slow, err := h.Owner.Beginx()
	if err != nil {
		t.Fatal(err)
	}
	if _, err := slow.Exec(`
		SELECT ledger_post('{"kind":"move","person":1}',
		'[{"item":1,"quantity":1,"from_location":1,"to_location":8}]')`); err != nil {
		t.Fatal(err)
	}
	// Those who come later are through, and still wait for their seal.
	for range 3 {
		h.Stock(t, world.Heavy, h.Bin(t, "B-01-1-A"), 2)
	}
	if n := seal(); n != 0 {
		t.Fatalf("%d moves were sealed before one that began earlier", n)
	}
	if err := slow.Commit(); err != nil {
		t.Fatal(err)
	}
	deadline := time.Now().Add(20 * time.Second)
	for sealed := 0; sealed < 4; sealed += seal() {
		if time.Now().After(deadline) {
			t.Fatal("the moves were never sealed")
		}
		time.Sleep(20 * time.Millisecond)
	}
	var order []string
	if err := h.Owner.Select(&order, `
		SELECT m.item_id::text FROM seals s JOIN moves m ON m.id = s.row_id AND s.kind = 'move' ORDER BY s.position`); err != nil {
		t.Fatal(err)
	}
	if got := strings.Join(order, " "); got != "1 1 4 4 4" {
		t.Fatalf("sealed in the order %s", got)
	}
	h.Whole(t)
}
