package demo_test

import (
	"context"
	"crypto/rand"
	"os"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/core/gs1"
	"lanternrow/internal/demo"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/recall"
	"lanternrow/internal/resolving"
	"lanternrow/internal/test/world"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

// load tells the demo into a database of its own.
func load(t *testing.T, now time.Time) *sqlx.DB {
	t.Helper()
	ctx := context.Background()
	server := world.Server(t)
	name := "demo_" + strings.ToLower(rand.Text()[:12])
	t.Cleanup(func() { _ = server.Drop(ctx, name) })
	if _, err := server.Ensure(ctx, name); err != nil {
		t.Fatal(err)
	}
	var said strings.Builder
	if err := demo.Load(ctx, server.URL(name), "9521234", now, &said); err != nil {
		t.Fatalf("%v, after\n%s", err, said.String())
	}
	// What is there already is left as it is.
	if err := demo.Load(ctx, server.URL(name), "9521234", now.AddDate(0, 0, 3), &said); err != nil {
		t.Fatal(err)
	}
	db, err := postgres.Open(ctx, server.URL(name))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	return db
}

// told is everything that happened in the demo, as text.
const told = `
	SELECT string_agg(concat_ws('|', p.kind, p.person_id, p.document, p.entered_at, i.sku, l.code, m.quantity, f.code,
	       t.code), E'\n' ORDER BY m.id)
	FROM moves m JOIN postings p ON p.id = m.posting_id JOIN items i ON i.id = m.item_id
	JOIN locations f ON f.id = m.from_location JOIN locations t ON t.id = m.to_location
	LEFT JOIN lots l ON l.id = m.lot_id`

func TestTheSameSeedTellsTheSameStory(t *testing.T) {
	if testing.Short() {
		t.Skip("the demo is told twice")
	}
	now := time.Date(2027, 3, 17, 15, 20, 0, 0, time.UTC)
	stories := make([]string, 2)
	var one *sqlx.DB
	for i := range stories {
		db := load(t, now)
		if err := db.Get(&stories[i], told); err != nil {
			t.Fatal(err)
		}
		one = db
	}
	if stories[0] != stories[1] {
		a, b := strings.Split(stories[0], "\n"), strings.Split(stories[1], "\n")
		for i := range min(len(a), len(b)) {
			if a[i] != b[i] {
				t.Fatalf("the stories part at move %d:\n%s\n%s", i+1, a[i], b[i])
			}
		}
		t.Fatalf("one story has %d moves, the other %d", len(a), len(b))
	}
	// Transactions of other tests on the same server hold sealing back a little.
	ctx := context.Background()
	var r ledger.Report
	for deadline := time.Now().Add(30 * time.Second); ; time.Sleep(50 * time.Millisecond) {
		if _, err := ledger.Seal(ctx, one); err != nil {
			t.Fatal(err)
		}
		var err error
		if r, err = ledger.Verify(ctx, one); err != nil || r.First != nil || r.Moves < 500 {
			t.Fatalf("the demo's ledger: %+v, %v", r, err)
		}
		if r.Sealed == r.Moves {
			break
		}
		if time.Now().After(deadline) {
			t.Fatalf("%d of %d moves are sealed", r.Sealed, r.Moves)
		}
	}

	// There is work at every station, none of it in the future, and something late.
	for what, query := range map[string]string{
		"an arrival is open": `SELECT count(*) > 0 FROM arrivals WHERE state = 'open'`,
		"an order from a supplier is late": `
			SELECT count(*) > 0 FROM inbound_orders WHERE state IN ('placed', 'partly_received')
			   AND expected_on < '2027-03-17'`,
		"goods stand on a dock": `
			SELECT count(*) > 0 FROM balances b JOIN locations p ON p.id = b.location_id WHERE p.kind = 'dock'`,
		"orders are held":            `SELECT count(*) > 0 FROM outbound_orders WHERE state = 'on_hold'`,
		"orders wait to be picked":   `SELECT count(*) > 0 FROM outbound_orders WHERE state = 'released'`,
		"a round is being walked":    `SELECT count(*) > 0 FROM rounds WHERE state = 'walking'`,
		"cartons wait at the bench":  `SELECT count(*) > 0 FROM carton_work WHERE state = 'at_bench'`,
		"cartons wait to be shipped": `SELECT count(*) > 0 FROM carton_work WHERE state = 'packed'`,
		"quotes stand":               `SELECT count(*) > 0 FROM outbound_orders WHERE state = 'quote'`,
		"a lot is reserved by hand": `
			SELECT count(*) > 0 FROM reservations p
			 WHERE NOT EXISTS (SELECT FROM round_stops WHERE reservation_id = p.id)`,
		"goods are to be returned to stock": `SELECT count(*) > 0 FROM restocks WHERE done_at IS NULL`,
		"a carton's weight differs":         `SELECT count(*) > 0 FROM carton_work WHERE variance_kg IS NOT NULL`,
		"a vehicle is being loaded":         `SELECT count(*) > 0 FROM carton_work WHERE state = 'loaded'`,
		"some shipments are not invoiced": `
			SELECT count(*) BETWEEN 5 AND 40 FROM shipment_lines WHERE invoiced < quantity`,
		"nothing is to come": `
			SELECT count(*) = 0 FROM postings WHERE entered_at > '2027-03-17 15:20Z' OR happened_at > entered_at`,
		"time does not run backwards": `
			SELECT count(*) = 0
			  FROM (SELECT entered_at < lag(entered_at) OVER (ORDER BY id) AS back FROM postings) AS t WHERE back`,
		"no bin is over its limit": `
			SELECT count(*) = 0
			  FROM (SELECT FROM balances b JOIN locations p ON p.id = b.location_id GROUP BY p.id
			       HAVING sum(b.quantity) > p.max_units) AS t`,
		"a count sheet is half done": `
			SELECT count(*) = 1 FROM count_sheets s WHERE state = 'open' AND (SELECT count(*) FROM count_sheet_lines
			 WHERE sheet_id = s.id AND state = 'counted') > 5`,
		"a count waits for a lead, and one for another person": `SELECT count(DISTINCT state) = 2 FROM counts WHERE state IN ('counted', 'recount')`,
		"all three sites have counted":                         `SELECT count(DISTINCT site_id) = 3 FROM counts WHERE state = 'settled'`,
		"every role is there":                                  `SELECT count(DISTINCT r) = 6 FROM people, unnest(roles) AS r`,
		"lots are where lots are due": `
			SELECT count(*) = 0 FROM moves m JOIN items i ON i.id = m.item_id
			 WHERE (m.lot_id IS NOT NULL) <> (i.tracking IN ('lot', 'lot_expiry')
			       OR i.tracking = 'lot_out' AND m.to_carton IS NOT NULL)`,
	} {
		var so bool
		if err := one.Get(&so, query); err != nil || !so {
			t.Errorf("it is not so that %s (%v)", what, err)
		}
	}
	// Whatever paper a move or a run names can be opened by its number.
	var papers []string
	if err := one.Select(&papers, `
		SELECT DISTINCT document FROM postings WHERE document <> '' UNION SELECT jsonb_array_elements_text(documents)
		  FROM schedule_runs UNION SELECT number FROM invoices UNION SELECT number FROM schedules ORDER BY 1`); err != nil {
		t.Fatal(err)
	}
	kinds := map[string]int{}
	for _, number := range papers {
		read, err := resolving.Read(ctx, one, 1, number, now)
		if err != nil || len(read.Found) == 0 || read.Found[0].Code != number {
			t.Errorf("%s means %+v (%v)", number, read.Found, err)
			continue
		}
		kinds[read.Found[0].Kind]++
	}
	for _, kind := range []string{"arrival", "order", "round", "shipment", "load", "invoice", "schedule"} {
		if kinds[kind] == 0 {
			t.Errorf("no paper of the demo is a %s: %v", kind, kinds)
		}
	}
	var numbers []string
	if err := one.Select(&numbers, `
		SELECT gtin FROM packs WHERE gtin IS NOT NULL UNION SELECT sscc FROM cartons`); err != nil {
		t.Fatal(err)
	}
	for _, n := range numbers {
		_, err := gs1.GTIN("gtin", n)
		if len(n) == 18 {
			_, err = gs1.SSCC("sscc", n)
		}
		// After the indicator or extension digit comes GS1's prefix for examples.
		if err != nil || !strings.Contains(n[:5], "952") {
			t.Errorf("%s is not one of GS1's numbers for examples: %v", n, err)
		}
	}
	if len(numbers) < 80 {
		t.Errorf("only %d numbers were looked at", len(numbers))
	}
}

// TestTheDemoIsToldAtAnyHour: the last hours of the story may lie before midnight, or pass it.
func TestTheDemoIsToldAtAnyHour(t *testing.T) {
	for _, now := range []time.Time{
		time.Date(2027, 3, 18, 0, 10, 0, 0, time.UTC), time.Date(2027, 3, 18, 0, 50, 0, 0, time.UTC),
		time.Date(2027, 3, 18, 1, 40, 0, 0, time.UTC), time.Date(2027, 3, 18, 2, 45, 0, 0, time.UTC),
	} {
		t.Run(now.Format("15h04"), func(t *testing.T) {
			t.Parallel()
			load(t, now)
		})
	}
}

// TestEveryLotAndUnitOfTheDemoIsAccountedFor follows each lot and each unit of the story from where it came in to where
// it is: through rounds, cartons, shipments, returns, transfers and differences, the numbers add up to what came in, to
// the unit; and so they do from each arrival that brought any.
func TestEveryLotAndUnitOfTheDemoIsAccountedFor(t *testing.T) {
	db := load(t, time.Date(2027, 3, 18, 11, 0, 0, 0, time.UTC))
	looked := map[recall.Source]int{}
	for source, query := range map[recall.Source]string{recall.OfLot: `SELECT id FROM lots`, recall.OfSerial: `SELECT id FROM serials`,
		recall.OfArrival: `SELECT id FROM arrivals`, recall.OfOrder: `SELECT id FROM inbound_orders WHERE kind = 'purchase'`} {
		var ids []int64
		if err := db.Select(&ids, query+` ORDER BY id`); err != nil {
			t.Fatal(err)
		}
		for _, id := range ids {
			f, err := recall.Follow(context.Background(), db, source, id)
			if err != nil {
				t.Fatal(err)
			}
			if looked[source]++; !f.Whole {
				t.Errorf("%s does not add up: %+v", f.From, f.Goods)
			}
			for _, g := range f.Goods {
				if !sameSums(f, g) {
					t.Errorf("what is listed of %s %s of %s is not its sums", g.SKU, g.Lot, f.From)
				}
			}
		}
	}
	for source, least := range map[recall.Source]int{recall.OfLot: 20, recall.OfSerial: 40, recall.OfArrival: 15, recall.OfOrder: 15} {
		if looked[source] < least {
			t.Errorf("only %d of %s were followed", looked[source], source)
		}
	}
}

// sameSums tells whether the rows of a trace come to the sums of goods.
func sameSums(f recall.Trace, g recall.Goods) bool {
	here, went, back := decimal.Zero, decimal.Zero, decimal.Zero
	for _, r := range f.Here {
		if r.SKU == g.SKU && r.Lot == g.Lot {
			here = here.Add(r.Quantity)
		}
	}
	for _, r := range f.Went {
		if r.SKU == g.SKU && r.Lot == g.Lot {
			went = went.Add(r.Quantity)
		}
	}
	for _, r := range f.Back {
		if r.SKU == g.SKU && r.Lot == g.Lot {
			back = back.Add(r.Quantity)
		}
	}
	return (g.OnTheWayOut || here.Equal(g.Stands)) && went.Equal(g.Shipped) && back.Equal(g.CameBack)
}
