package ledger_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

func units(n int64) decimal.Decimal { return decimal.NewFromInt(n) }

func TestTrailTellsTheBalancesOfTheHandbookCase(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	a, b := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A")
	h.Stock(t, world.Clamp, a, 12)
	for _, m := range []ledger.Move{
		{Item: world.Clamp, Quantity: units(5), From: a, To: b},
		{Item: world.Clamp, Quantity: units(3), From: b, To: world.CustomerLocation},
	} {
		if err := h.Post(m); err != nil {
			t.Fatal(err)
		}
	}
	trail, err := ledger.TrailOf(context.Background(), h.App, ledger.Question{Item: world.Clamp, Site: world.Site,
		Limit: 10})
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, l := range trail.Lines {
		got = append(got, fmt.Sprintf("%s %s: %s there, %s in all", l.Location, l.Delta, l.LocationAfter, l.SiteAfter))
	}
	// Newest first: 12 in, 5 moved (7 and 5, still 12), 3 out of the second bin.
	want := []string{
		"A-02-1-A -3: 2 there, 9 in all", "A-02-1-A 5: 5 there, 12 in all", "A-01-1-A -5: 7 there, 12 in all", "A-01-1-A 12: 12 there, 12 in all",
	}
	if strings.Join(got, "; ") != strings.Join(want, "; ") {
		t.Fatalf("trail:\n%s\nwant:\n%s", strings.Join(got, "\n"), strings.Join(want, "\n"))
	}
	h.Whole(t)
}

func TestTrailReadsTheSameInPagesOfAnySize(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	a, b := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A")
	h.Stock(t, world.Clamp, a, 50)
	for i := range 20 {
		from, to := a, b
		if i%3 == 2 {
			from, to = b, a
		}
		if err := h.Post(ledger.Move{Item: world.Clamp, Quantity: units(2), From: from, To: to}); err != nil {
			t.Fatal(err)
		}
	}
	read := func(limit int) string {
		var out []string
		q := ledger.Question{Item: world.Clamp, Site: world.Site, Limit: limit}
		for {
			page, err := ledger.TrailOf(context.Background(), h.App, q)
			if err != nil {
				t.Fatal(err)
			}
			for _, l := range page.Lines {
				out = append(out, fmt.Sprintf("%d:%s:%s", l.ID, l.LocationAfter, l.SiteAfter))
			}
			if q.After = page.Next; q.After == "" {
				return strings.Join(out, " ")
			}
		}
	}
	whole := read(100)
	for _, limit := range []int{2, 3, 7, 40} {
		if got := read(limit); got != whole {
			t.Fatalf("pages of %d read\n%s\nand one page reads\n%s", limit, got, whole)
		}
	}
}

func TestHistoryCannotBeAltered(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
	for _, statement := range []string{
		"UPDATE moves SET quantity = 4", "DELETE FROM moves", "TRUNCATE moves CASCADE",
		"UPDATE postings SET note = 'x'", "DELETE FROM postings", "UPDATE moves SET to_after = 1", "DELETE FROM seals",
	} {
		if _, err := h.App.Exec(statement); err == nil || !strings.Contains(err.Error(), "permission denied") {
			t.Errorf("the application may %s: %v", statement, err)
		}
		if _, err := h.Owner.Exec(statement); err == nil || !strings.Contains(err.Error(), "history stands") {
			t.Errorf("the owner may %s: %v", statement, err)
		}
	}
	for _, statement := range []string{
		"UPDATE balances SET quantity = 99", "INSERT INTO balances (location_id, item_id, quantity) VALUES (8, 1, 9)", "DELETE FROM reservations",
		"INSERT INTO postings (kind, person_id, happened_at, entered_at) VALUES ('x', 1, now(), now())",
		"SELECT ledger_cost(1, 1, 5, 1)", "SELECT ledger_reserved(NULL, NULL)",
	} {
		if _, err := h.App.Exec(statement); err == nil || !strings.Contains(err.Error(), "permission denied") {
			t.Errorf("the application may %s: %v", statement, err)
		}
	}
	if _, err := h.App.Exec(`
		SELECT ledger_post('{"kind":"move","person":1,"entered_at":"2020-01-01T00:00:00Z"}',
		       '[{"item":1,"quantity":1,"from_location":1,"to_location":8}]')`); err == nil ||
		!strings.Contains(err.Error(), "only the owner") {
		t.Errorf("the application may set the time of entry: %v", err)
	}
}

func TestVerifyNamesTheDoctoredRow(t *testing.T) {
	t.Parallel()
	cases := map[string]struct{ doctor, table, row string }{
		"a move": {"ALTER TABLE moves DISABLE TRIGGER moves_stand; UPDATE moves SET quantity = 4 WHERE id = 2",
			"moves", "2"},
		"a note": {"ALTER TABLE postings DISABLE TRIGGER postings_stand; UPDATE postings SET note = 'another' " +
			"WHERE id = 3", "moves", "3"},
		"a lost move": {`ALTER TABLE moves DISABLE TRIGGER moves_stand; ALTER TABLE seals DISABLE TRIGGER seals_stand;
			DELETE FROM seals WHERE row_id = 2 AND kind = 'move'; DELETE FROM moves WHERE id = 2`, "seals", ""},
		"a lot's code":          {"UPDATE lots SET code = 'ANOTHER'", "lots", "1"},
		"a lot's last day":      {"UPDATE lots SET expires_on = expires_on + 400", "lots", "1"},
		"a serial":              {"UPDATE serials SET code = 'SP-9'", "serials", "1"},
		"what an item is":       {"ALTER TABLE items DISABLE TRIGGER renamed; UPDATE items SET description = 'Gold' WHERE id = 1", "items", "1"},
		"who somebody is":       {"ALTER TABLE people DISABLE TRIGGER renamed; UPDATE people SET name = 'Nobody' WHERE id = 3", "people", "3"},
		"where a bin is":        {"ALTER TABLE locations DISABLE TRIGGER renamed; UPDATE locations SET code = 'ELSEWHERE' WHERE id = 8", "locations", "8"},
		"a lot that was hidden": {"ALTER TABLE seals DISABLE TRIGGER seals_stand; UPDATE seals SET row_id = 77 WHERE kind = 'lot'", "lots", "77"},
		"a balance":             {"UPDATE balances SET quantity = quantity + 1 WHERE item_id = 1", "balances", "location"},
		"a running balance": {"ALTER TABLE moves DISABLE TRIGGER moves_stand; UPDATE moves SET to_location_after " +
			"= 40 WHERE id = 2", "moves", "2"},
		"an end": {"ALTER TABLE moves DISABLE TRIGGER moves_stand; UPDATE moves SET to_site = NULL " +
			"WHERE id = 3", "moves", "3"},
		"a reservation": {"UPDATE balances SET reserved = 1 WHERE item_id = 1", "balances", "location"},
		"a cost":        {"UPDATE item_costs SET quantity = quantity + 1", "item_costs", "item 1, site 1"},
		"an average":    {"UPDATE item_costs SET average = average + 0.000001", "item_costs", "item 1, site 1"},
		"an item of none": {`ALTER TABLE moves DISABLE TRIGGER moves_stand;
			ALTER TABLE seals DISABLE TRIGGER seals_stand; DELETE FROM seals; UPDATE ledger_sealed SET xid = '0', row_id = 0; UPDATE moves SET item_id = 99`, "moves", "1"},
		"a person of none": {`ALTER TABLE postings DISABLE TRIGGER postings_stand;
			ALTER TABLE seals DISABLE TRIGGER seals_stand; DELETE FROM seals; UPDATE ledger_sealed SET xid = '0', row_id = 0; UPDATE postings SET person_id = 99`, "moves", "1"},
		"another's lot": {`INSERT INTO lots (item_id, code, arrived_on) VALUES (2, 'X', now());
			UPDATE lots SET item_id = 1; ALTER TABLE moves DISABLE TRIGGER moves_stand;
			ALTER TABLE seals DISABLE TRIGGER seals_stand; DELETE FROM seals; UPDATE ledger_sealed SET xid = '0', row_id = 0;
			UPDATE moves SET lot_id = 1; UPDATE lots SET item_id = 2`, "moves", "1"},
	}
	for name, c := range cases {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			h := world.New(t)
			for range 4 {
				h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
			}
			h.StockLot(t, world.Fluid, h.Lot(t, world.Fluid, "F-1", 90), h.Bin(t, "Z-01-1-A"), 3)
			h.StockUnits(t, world.Spot, h.Bin(t, "Z-01-1-A"), "SP-1")
			h.Whole(t)
			if _, err := h.Owner.Exec(c.doctor); err != nil {
				t.Fatal(err)
			}
			r, err := ledger.Verify(context.Background(), h.Owner)
			if err != nil {
				t.Fatal(err)
			}
			if r.First == nil || r.First.Table != c.table || !strings.Contains(r.First.Row, c.row) {
				t.Fatalf("verify found %+v, want %s %s", r.First, c.table, c.row)
			}
		})
	}
}

// TestALotOfAnotherItemIsRefused posts what foreign keys alone would let pass.
func TestALotOfAnotherItemIsRefused(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	lot := h.Lot(t, world.Fluid, "F-1", 90)
	err := h.Post(ledger.Move{Item: world.Clamp, Lot: lot, Quantity: units(1), From: world.SupplierLocation,
		To: h.Bin(t, "A-01-1-A")})
	if err == nil || !strings.Contains(err.Error(), "of another item") {
		t.Errorf("clamps went into a lot of fluid: %v", err)
	}
	h.Whole(t)
}

func TestOfSixteenWhoTakeTheLastUnitOneGetsIt(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	bin := h.Bin(t, "A-01-1-A")
	h.Stock(t, world.Clamp, bin, 1)
	errs := make([]error, 16)
	var wg sync.WaitGroup
	for i := range errs {
		wg.Go(func() {
			errs[i] = h.Post(ledger.Move{Item: world.Clamp, Quantity: units(1), From: bin, To: h.Bin(t, "A-02-1-A")})
		})
	}
	wg.Wait()
	won := 0
	for _, err := range errs {
		if err == nil {
			won++
		} else {
			world.Refused(t, err, "not_enough", "A-01-1-A holds 0 of HC-050, not 1")
		}
	}
	if won != 1 {
		t.Fatalf("%d took the last unit", won)
	}
	h.Whole(t)
}

func TestARepeatedRequestHappensOnce(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	a, b := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A")
	h.Stock(t, world.Clamp, a, 10)
	act := func() (string, error) {
		return world.ActKeyed(h, "key-1", func(ctx context.Context, tx *command.Tx) (string, error) {
			_, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Move},
				[]ledger.Move{{Item: world.Clamp, Quantity: units(3), From: a, To: b}})
			return "done", err
		})
	}
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() {
			if answer, err := act(); err != nil || answer != "done" {
				t.Errorf("answered %q, %v", answer, err)
			}
		})
	}
	wg.Wait()
	if got := h.Holds(t, b, world.Clamp); got != "3" {
		t.Fatalf("B holds %s after one move of 3 asked for eight times", got)
	}
	_, err := command.Do(world.As("lead"), h.Runner, "key-1", "something else", nil,
		func(context.Context, *command.Tx) (string, error) { return "", nil })
	world.Refused(t, err, "key_reused")
}

func TestReservedStockIsDefendedByOrderNumber(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	bin := h.Bin(t, "A-01-1-A")
	h.Stock(t, world.Clamp, bin, 10)
	if _, err := h.Owner.Exec(`
		INSERT INTO outbound_orders (number, kind, party_id, destination_id, site_id, wanted_on, state, changed_by,
		  changed_at, last_change)
		  VALUES ('S-9', 'sale', 2, (SELECT location_id FROM parties WHERE id = 2), 1, current_date, 'released', 1,
		  now(), 'x');
		INSERT INTO outbound_lines (order_id, line, item_id, quantity) VALUES (1, 1, 1, 7)`); err != nil {
		t.Fatal(err)
	}
	reservation, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (int64, error) {
		return ledger.Reserve(ctx, tx, ledger.Stock{Location: bin, Item: world.Clamp}, 1, units(7))
	})
	if err != nil {
		t.Fatal(err)
	}
	away := ledger.Move{Item: world.Clamp, Quantity: units(4), From: bin, To: world.LostLocation}
	world.Refused(t, h.Post(away), "reserved", "S-9", "7 of them are reserved", "At most 3")
	_, err = world.Act(h, func(ctx context.Context, tx *command.Tx) (int64, error) {
		return ledger.Reserve(ctx, tx, ledger.Stock{Location: bin, Item: world.Clamp}, 1, units(4))
	})
	world.Refused(t, err, "reserved")
	away.Reservation = &reservation
	if err := h.Post(away); err != nil {
		t.Fatalf("its own reservation does not release it: %v", err)
	}
	h.Whole(t)
	if _, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (bool, error) {
		return true, ledger.Unreserve(ctx, tx, reservation)
	}); err != nil {
		t.Fatal(err)
	}
	away.Reservation, away.Quantity = nil, units(6)
	if err := h.Post(away); err != nil {
		t.Fatalf("unreserved stock does not go: %v", err)
	}
	h.Whole(t)
}

// TestPartsOfAUnitAreReserved reserves metres and parts of them, to the last centimetre that there is.
func TestPartsOfAUnitAreReserved(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	bin := h.Bin(t, "A-01-1-A")
	var lot int64
	if err := h.Owner.Get(&lot, `INSERT INTO lots (item_id, code, arrived_on) VALUES ($1, 'CL-1', current_date) RETURNING id`, world.Cloth); err != nil {
		t.Fatal(err)
	}
	h.StockLot(t, world.Cloth, &lot, bin, 10)
	h.Owner.MustExec(`
		INSERT INTO outbound_orders (number, kind, party_id, destination_id, site_id, wanted_on, state, changed_by,
		  changed_at, last_change)
		  VALUES ('S-9', 'sale', 2, (SELECT location_id FROM parties WHERE id = 2), 1, current_date, 'released', 1,
		  now(), 'x');
		INSERT INTO outbound_lines (order_id, line, item_id, quantity) VALUES (1, 1, 3, 10)`)
	reserve := func(quantity string) error {
		_, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (int64, error) {
			return ledger.Reserve(ctx, tx, ledger.Stock{Location: bin, Item: world.Cloth, Lot: &lot}, 1, decimal.RequireFromString(quantity))
		})
		return err
	}
	for _, quantity := range []string{"2.3", "0.083", "7.617"} {
		if err := reserve(quantity); err != nil {
			t.Fatalf("%s of 10 metres: %v", quantity, err)
		}
	}
	world.Refused(t, reserve("0.001"), "reserved")
	h.Whole(t)
}

// look is what a plan of moves says of them before they are posted.
func look(h *world.House, moves ...ledger.Move) error {
	_, err := ledger.Describe(context.Background(), h.App, moves)
	return ledger.Explain(context.Background(), h.App, err)
}

// TestRandomMovesAgreeWithANaiveModel runs random postings of one to three moves,
// some of them impossible, against a map, and compares the whole stock after each.
func TestRandomMovesAgreeWithANaiveModel(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	r := rand.New(rand.NewPCG(42, 7))
	lots := []*int64{nil, h.Lot(t, world.Clamp, "L1", 0), h.Lot(t, world.Clamp, "L2", 0)}
	locations := []int32{world.SupplierLocation, world.CustomerLocation, world.Dock, h.Bin(t, "A-01-1-A"),
		h.Bin(t, "A-02-1-A"), h.Bin(t, "B-01-1-A")}
	type key struct {
		location int32
		lot      int64
	}
	lotID := func(l *int64) int64 {
		if l == nil {
			return 0
		}
		return *l
	}
	model := map[key]int64{}
	refused, posted := 0, 0
	for step := range 400 {
		next := map[key]int64{}
		for k, v := range model {
			next[k] = v
		}
		var moves []ledger.Move
		possible := true
		for range 1 + r.IntN(3) {
			from := locations[r.IntN(len(locations))]
			to := locations[r.IntN(len(locations))]
			if from == to {
				continue
			}
			lot, q := lots[r.IntN(3)], int64(1+r.IntN(9))
			moves = append(moves, ledger.Move{Item: world.Clamp, Lot: lot, Quantity: units(q), From: from, To: to})
			next[key{from, lotID(lot)}] -= q
			next[key{to, lotID(lot)}] += q
			if from > world.CustomerLocation && next[key{from, lotID(lot)}] < 0 {
				possible = false
			}
		}
		if len(moves) == 0 {
			continue
		}
		looked := look(h, moves...)
		err := h.Post(moves...)
		if fmt.Sprint(looked) != fmt.Sprint(err) {
			t.Fatalf("step %d: the plan says %v and the ledger %v", step, looked, err)
		}
		if possible != (err == nil) {
			t.Fatalf("step %d: the model says possible=%v and the ledger says %v", step, possible, err)
		}
		if err != nil {
			world.Refused(t, err, "not_enough")
			refused++
			continue
		}
		posted++
		model = next
		if step%20 == 0 || step > 390 {
			var rows []struct {
				Location int32           `db:"location_id"`
				Lot      int64           `db:"lot"`
				Quantity decimal.Decimal `db:"quantity"`
			}
			if err := h.App.Select(&rows, `
				SELECT location_id, coalesce(lot_id,
				0) AS lot, quantity FROM balances WHERE quantity <> 0`); err != nil {
				t.Fatal(err)
			}
			have := map[key]int64{}
			for _, row := range rows {
				have[key{row.Location, row.Lot}] = row.Quantity.IntPart()
			}
			for k, v := range model {
				if k.location > world.CustomerLocation && have[k] != v {
					t.Fatalf("step %d: %+v holds %d, the model %d", step, k, have[k], v)
				}
			}
		}
	}
	if refused < 40 || posted < 100 {
		t.Fatalf("only %d refused and %d posted: the test does not try both", refused, posted)
	}
	h.Whole(t)
}

// TestAStormLosesAndDoublesNothing moves units in rings from many sides at once,
// each request sent twice.
func TestAStormLosesAndDoublesNothing(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	var bins []int32
	for _, code := range []string{"A-01-1-A", "A-02-1-A", "A-03-1-A", "B-01-1-A"} {
		bins = append(bins, h.Bin(t, code))
		h.Stock(t, world.Clamp, bins[len(bins)-1], 20)
		h.Stock(t, world.Heavy, bins[len(bins)-1], 20)
	}
	var wg sync.WaitGroup
	for worker := range 12 {
		wg.Go(func() {
			r := rand.New(rand.NewPCG(uint64(worker), 1))
			for i := range 25 {
				a, b := r.IntN(4), r.IntN(3)
				if b >= a {
					b++
				}
				moves := []ledger.Move{
					{Item: world.Clamp, Quantity: units(int64(1 + r.IntN(3))), From: bins[a], To: bins[b]},
					{Item: world.Heavy, Quantity: units(1), From: bins[b], To: bins[a]},
				}
				for range 2 {
					_, err := world.ActKeyed(h, fmt.Sprintf("%d/%d", worker, i),
						func(ctx context.Context, tx *command.Tx) (bool, error) {
							_, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Move}, moves)
							return true, err
						})
					if err != nil && !strings.Contains(err.Error(), "Look again") && !strings.Contains(err.Error(),
						"Others are changing") {
						t.Errorf("worker %d: %v", worker, err)
					}
				}
			}
		})
	}
	wg.Wait()
	var total decimal.Decimal
	if err := h.App.Get(&total, `SELECT sum(quantity) FROM balances`); err != nil || total.String() != "160" {
		t.Fatalf("160 units became %s (%v)", total, err)
	}
	var doubled int
	if err := h.App.Get(&doubled, `
		SELECT count(*)
		  FROM (SELECT FROM postings WHERE request_key <> '' GROUP BY person_id,
		request_key HAVING count(*) > 1) AS t`); err != nil || doubled != 0 {
		t.Fatalf("%d requests were posted twice (%v)", doubled, err)
	}
	h.Whole(t)
}

// TestAClockThatIsSetBackLosesNoMove keeps what stood where of an instant that the clock, set back, comes to again only in an hour. What
// moves meanwhile is entered behind it, so that everything asked of the past knows of it.
func TestAClockThatIsSetBackLosesNoMove(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	ctx := context.Background()
	a, b := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A")
	h.Stock(t, world.Clamp, a, 20)
	kept := time.Now().Add(time.Hour)
	if done, err := ledger.Snapshot(ctx, h.App, 1, -time.Hour); err != nil || !done {
		t.Fatalf("nothing was kept: %v", err)
	}
	for range 5 {
		if err := h.Post(ledger.Move{Item: world.Clamp, Quantity: decimal.NewFromInt(1), From: a, To: b}); err != nil {
			t.Fatal(err)
		}
	}
	var entered time.Time
	if err := h.App.Get(&entered, `SELECT max(entered_at) FROM postings`); err != nil || entered.Before(kept.Add(-time.Minute)) {
		t.Errorf("the last was entered at %s, and what stood where is kept of about %s: %v", entered, kept, err)
	}
	for bin, want := range map[int32]string{a: "15", b: "5"} {
		var stood string
		if err := h.App.Get(&stood, `SELECT trim_scale(sum(quantity)) FROM (`+ledger.StoodAt+`) AS s WHERE location_id = $2`, kept.Add(time.Hour), bin); err != nil ||
			stood != want {
			t.Errorf("two hours on %s lie in bin %d, and not %s: %v", stood, bin, want, err)
		}
	}
	h.Whole(t)
}
