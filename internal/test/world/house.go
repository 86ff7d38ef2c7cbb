package world

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// The house: one site of two aisles, A and B, four bays each; a second site to be
// mistaken for it. Ids follow from the order of writing.
const (
	Site, OtherSite                                = 1, 2
	Supplier, Customer                             = 1, 2
	Clamp, Fluid, Cloth, Heavy               int32 = 1, 2, 3, 4
	Spot, Headset                            int32 = 5, 6
	SupplierLocation, CustomerLocation       int32 = 1, 2
	Dock, Bench, Trolley, Gate, LostLocation int32 = 3, 4, 5, 6, 7
	Password                                       = "lantern"
	// Prefix is the company prefix that cartons of the house are numbered under.
	Prefix = "9521234"
)

// Logins are the people of the house; their ids are 1 to 7 in this order.
var Logins = []string{"lead", "receiver", "picker", "office", "viewer", "accounts", "clerk"}

// RolesOf are those of somebody of the house: each is what their sign-on name says, but for the office, which does the
// accounts too, and the clerk, who is of the office alone.
func RolesOf(login string) people.Roles {
	switch login {
	case "office":
		return people.Roles{people.Office, people.Accounts}
	case "clerk":
		return people.Roles{people.Office}
	}
	return people.Roles{people.Role(login)}
}

// Furnish writes the house into an empty database.
func Furnish(ctx context.Context, db *sqlx.DB) error {
	hash := people.Hash(Password)
	var err error
	do := func(query string, args ...any) {
		if err == nil {
			_, err = db.ExecContext(ctx, query, args...)
		}
	}
	do(`
		INSERT INTO sites (code, name, cross_aisles) VALUES ('T', 'Test House', '{0,10}'),
		  ('O', 'Other House', '{0,10}')`)
	do(`INSERT INTO aisles VALUES (1, 'A', 4), (1, 'B', 8)`)
	do(`
		INSERT INTO zones (site_id, code, name, accepts) VALUES (1, 'A', 'General', '{}'), (1, 'B', 'Fluids',
		'{fluid}')`)
	do(`INSERT INTO locations (kind, code) VALUES ('supplier', 'SUP'), ('customer', 'CUS')`)
	do(`
		INSERT INTO locations (site_id, kind, code, x, y) VALUES (1, 'dock', 'Dock 1', 4, 10),
		  (1, 'bench', 'Bench', 6, 0), (1, 'trolley', 'Trolleys', 6, 0), (1, 'staging', 'Gate', 10, 0)`)
	do(`INSERT INTO locations (kind, code) VALUES ('lost', 'Lost and found')`)
	for _, aisle := range []string{"A", "B"} {
		for bay := 1; bay <= 4; bay++ {
			x := map[string]int{"A": 4, "B": 8}[aisle]
			do(`
				INSERT INTO locations (site_id, zone_id, kind, code, aisle, bay, level, x, y, max_units, mix_lots)
				VALUES (1, (SELECT id FROM zones WHERE code = $1), 'bin', $2, $1, $3, 1, $4, $5, 24, $6)`,
				aisle, fmt.Sprintf("%s-%02d-1-A", aisle, bay), bay, x, 2*bay, bay != 4)
		}
	}
	do(`INSERT INTO locations (site_id, kind, code) VALUES (2, 'bin', 'Z-01-1-A')`)
	do(`
		INSERT INTO locations (site_id, kind, code) VALUES (1, 'quarantine', 'Quarantine'), (1, 'damaged', 'Damaged'),
		  (1, 'vehicle', 'Vehicles'), (1, 'returns', 'Returns corner')`)
	do(`
		INSERT INTO parties (kind, code, name, carrier, location_id)
		VALUES ('supplier', 'SUP', 'Tarn & Tackle Rigging', '', 1),
		  ('customer', 'CUS', 'The Lyrebird Theatre', 'Northgate Vans', 2)`)
	do(`
		INSERT INTO carriers (name, collects, base, per_kg)
		SELECT name, '{}', 0, 0 FROM unnest(ARRAY['Brook & Daughter', 'Carrier 0', 'Carrier 1', 'Ferry']) AS name`)
	do(`
		INSERT INTO items (sku, description, base_unit, whole, tracking, weight_kg, volume_l, handling, cost,
		  life_out) VALUES
		('HC-050', 'Hook clamp 50 mm', 'each', true, 'none', 0.45, 0.7, '', 18.75, 0),
		('HZ-500', 'Haze fluid 5 L', 'canister', true, 'lot_expiry', 5.3, 6, 'fluid', 42, 30),
		('CL-BLK', 'Blackout cloth', 'metre', false, 'lot', 0.9, 2.4, '', 11.5, 0),
		('SW-130', 'Stage weight 13 kg', 'each', true, 'none', 13, 1.8, '', 24, 0),
		('SP-150', 'Profile spot 150 W', 'each', true, 'serial', 7.8, 24, '', 412, 0),
		('HS-001', 'Headset, single ear', 'each', true, 'serial_out', 0.4, 2.4, '', 118, 0)`)
	// Sold for what it costs, unless a test says otherwise.
	do(`UPDATE items SET sales_price = cost`)
	do(`
		INSERT INTO packs (item_id, name, holds, gtin) VALUES (1, 'each', 1, '09521234000013'),
		  (1, 'box of 12', 12, '09521234000020'), (2, 'canister', 1, '09521234000037'), (3, 'metre', 1, NULL),
		  (5, 'each', 1, '09521234000044'), (6, 'each', 1, '09521234000051')`)
	do(`INSERT INTO item_sites (item_id, site_id, home_id) SELECT 1, 1, id FROM locations WHERE code = 'A-01-1-A'`)
	for i, login := range Logins {
		do(`
			INSERT INTO people (name, login, roles, password_hash, badge, pin_hash, site_id)
			VALUES ($1, $2, $5, $3, $4, $3, 1)`, "Some "+login, login, hash, fmt.Sprintf("B-%03d", i+1), RolesOf(login).Texts())
	}
	return err
}

// A House is a database and somebody to act in it.
type House struct {
	Database
	Runner *command.Runner
}

// New makes a house of the test's own.
func New(t testing.TB) *House {
	d := NewDatabase(t)
	return &House{Database: d, Runner: &command.Runner{DB: d.App, Now: time.Now}}
}

// As is a context in which somebody of the house acts.
func As(login string) context.Context {
	for i, r := range Logins {
		if r == login {
			return people.With(context.Background(), people.Person{ID: int32(i + 1), Name: "Some " + r, Login: r,
				Roles: RolesOf(r), SiteID: Site})
		}
	}
	panic("nobody signs on as " + login)
}

// Act runs fn as the lead, in a transaction, and words its refusal.
func Act[T any](h *House, fn func(context.Context, *command.Tx) (T, error)) (T, error) {
	return ActKeyed(h, "", fn)
}

// ActKeyed is Act under a request key.
func ActKeyed[T any](h *House, key string, fn func(context.Context, *command.Tx) (T, error)) (T, error) {
	return actIn(As("lead"), h, key, fn)
}

// ActAs is Act as somebody of another role.
func ActAs[T any](h *House, role string, fn func(context.Context, *command.Tx) (T, error)) (T, error) {
	return actIn(As(role), h, "", fn)
}

func actIn[T any](ctx context.Context, h *House, key string, fn func(context.Context, *command.Tx) (T, error)) (T, error) {
	out, err := command.Do(ctx, h.Runner, key, "test", nil, command.Part(fn))
	return out, ledger.Explain(ctx, h.App, err)
}

// Must fails the test on an error.
func Must[T any](t testing.TB) func(T, error) T {
	return func(v T, err error) T {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
}

// Post posts moves as the lead.
func (h *House) Post(moves ...ledger.Move) error {
	_, err := Act(h, func(ctx context.Context, tx *command.Tx) (bool, error) {
		_, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Move}, moves)
		return true, err
	})
	return err
}

// Stock brings units of an item from the supplier to a location.
func (h *House) Stock(t testing.TB, item, location int32, quantity int64) {
	t.Helper()
	h.StockLot(t, item, nil, location, quantity)
}

// StockLot brings units of a lot from the supplier to a location.
func (h *House) StockLot(t testing.TB, item int32, lot *int64, location int32, quantity int64) {
	t.Helper()
	if err := h.Post(ledger.Move{Item: item, Lot: lot, Quantity: decimal.NewFromInt(quantity), From: SupplierLocation,
		To: location}); err != nil {
		t.Fatal(err)
	}
}

// StockUnits brings units with these serials from the supplier to a location.
func (h *House) StockUnits(t testing.TB, item, location int32, codes ...string) {
	t.Helper()
	for _, code := range codes {
		var unit int64
		if err := h.Owner.Get(&unit, `
			INSERT INTO serials (item_id, code) VALUES ($1, $2) RETURNING id`, item, code); err != nil {
			t.Fatal(err)
		}
		if err := h.Post(ledger.Move{Item: item, Serial: &unit, Quantity: decimal.NewFromInt(1),
			From: SupplierLocation, To: location}); err != nil {
			t.Fatal(err)
		}
	}
}

// Lot writes a lot that expires in so many days (none for 0).
func (h *House) Lot(t testing.TB, item int32, code string, expiresIn int) *int64 {
	t.Helper()
	var expires *time.Time
	if expiresIn != 0 {
		e := time.Now().AddDate(0, 0, expiresIn)
		expires = &e
	}
	var id int64
	if err := h.Owner.Get(&id, `
		INSERT INTO lots (item_id, code, expires_on, arrived_on)
		VALUES ($1, $2, $3, current_date) RETURNING id`, item, code, expires); err != nil {
		t.Fatal(err)
	}
	return &id
}

// Bin is the id of a bin by its code.
func (h *House) Bin(t testing.TB, code string) int32 {
	t.Helper()
	var id int32
	if err := h.Owner.Get(&id, `SELECT id FROM locations WHERE code = $1`, code); err != nil {
		t.Fatalf("bin %s: %v", code, err)
	}
	return id
}

// Holds is how much of an item lies at a location.
func (h *House) Holds(t testing.TB, location, item int32) string {
	t.Helper()
	var q decimal.Decimal
	if err := h.Owner.Get(&q, `
		SELECT coalesce(sum(quantity),
		0) FROM balances WHERE location_id = $1 AND item_id = $2`, location, item); err != nil {
		t.Fatal(err)
	}
	return q.String()
}

// Whole fails the test unless the ledger is whole.
func (h *House) Whole(t testing.TB) {
	t.Helper()
	ctx := context.Background()
	// Transactions of other tests on the same server hold sealing back a little.
	for deadline := time.Now().Add(30 * time.Second); ; time.Sleep(50 * time.Millisecond) {
		if _, err := ledger.Seal(ctx, h.Owner); err != nil {
			t.Fatal(err)
		}
		r, err := ledger.Verify(ctx, h.Owner)
		if err != nil {
			t.Fatal(err)
		}
		if r.First != nil {
			t.Fatalf("the ledger is not whole: %+v", *r.First)
		}
		if r.Sealed == r.Moves {
			return
		}
		if time.Now().After(deadline) {
			t.Fatalf("%d of %d moves are sealed", r.Sealed, r.Moves)
		}
	}
}

// Refused fails the test unless err is a refusal with this code whose sentence has
// all these words.
func Refused(t testing.TB, err error, code refusal.Code, words ...string) {
	t.Helper()
	r := refusal.From(err)
	if r == nil || r.Code != code {
		t.Fatalf("got %v, want a refusal with code %s", err, code)
	}
	for _, w := range words {
		if !strings.Contains(r.Sentence, w) {
			t.Fatalf("the refusal %q does not say %q", r.Sentence, w)
		}
	}
}
