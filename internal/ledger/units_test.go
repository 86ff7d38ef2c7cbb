package ledger_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

var one = decimal.NewFromInt(1)

// unitsOf writes serials of an item and returns their ids.
func unitsOf(t *testing.T, h *world.House, item int32, n int) []int64 {
	t.Helper()
	codes := make([]string, n)
	for i := range codes {
		codes[i] = fmt.Sprintf("U-%03d", i)
	}
	ids, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (map[string]int64, error) {
		return serials.Ensure(ctx, tx, item, codes)
	})
	if err != nil {
		t.Fatal(err)
	}
	out := make([]int64, n)
	for i, c := range codes {
		out[i] = ids[c]
	}
	return out
}

func TestAUnitIsInOnePlace(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	units := unitsOf(t, h, world.Spot, 2)
	bin, other := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A")
	in := ledger.Move{Item: world.Spot, Serial: &units[0], Quantity: one, From: world.SupplierLocation, To: bin}
	if err := h.Post(in); err != nil {
		t.Fatal(err)
	}
	in.To = other
	world.Refused(t, h.Post(in), "serial_in_stock")
	world.Refused(t, h.Post(ledger.Move{Item: world.Spot, Serial: &units[1], Quantity: one, From: bin, To: other}),
		"not_enough", "serial U-001", "holds 0")
	if err := h.Post(ledger.Move{Item: world.Spot, Quantity: one, From: bin, To: other}); err == nil ||
		!strings.Contains(err.Error(), "without its serial") {
		t.Errorf("a unit moved without its serial: %v", err)
	}
	two := ledger.Move{Item: world.Spot, Serial: &units[0], Quantity: decimal.NewFromInt(2), From: bin, To: other}
	if err := h.Post(two); err == nil {
		t.Error("one unit moved as two")
	}
	if err := h.Post(ledger.Move{Item: world.Spot, Serial: &units[0], Quantity: one, From: bin,
		To: other}); err != nil || h.Holds(t, other, world.Spot) != "1" || h.Holds(t, bin, world.Spot) != "0" {
		t.Errorf("the unit did not move: %v", err)
	}
	h.Whole(t)
}

// TestSerialsTakenDownOnTheWayOutStandInHistoryAlone moves units whose serials are known
// only from the way out on: what lies there has none, and its trail has all.
func TestSerialsTakenDownOnTheWayOutStandInHistoryAlone(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	bin := h.Bin(t, "A-01-1-A")
	h.Stock(t, world.Headset, bin, 5)
	units := unitsOf(t, h, world.Headset, 2)
	for i := range units {
		for _, m := range []ledger.Move{{From: bin, To: world.Bench}, {From: world.Bench, To: world.CustomerLocation}} {
			m.Item, m.Quantity, m.Serial = world.Headset, one, &units[i]
			if err := h.Post(m); err != nil {
				t.Fatal(err)
			}
		}
	}
	if h.Holds(t, bin, world.Headset) != "3" || h.Holds(t, world.Bench, world.Headset) != "0" {
		t.Errorf("%s are left", h.Holds(t, bin, world.Headset))
	}
	trail, err := ledger.TrailOf(context.Background(), h.App, ledger.Question{Serial: units[1], Limit: 10})
	if err != nil || len(trail.Lines) != 3 || *trail.Lines[0].Serial != "U-001" ||
		trail.Lines[2].Location != "A-01-1-A" {
		t.Errorf("%+v %v", trail, err)
	}
	h.Whole(t)
}

// TestReservationsOnUnitsAgreeWithANaiveModel reserves units by number and by name, frees them
// and takes them, at random, beside a model that knows only how many are reserved.
func TestReservationsOnUnitsAgreeWithANaiveModel(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	r := rand.New(rand.NewPCG(19, 7))
	bin := h.Bin(t, "A-01-1-A")
	units := unitsOf(t, h, world.Spot, 12)
	if _, err := h.Owner.Exec(`
		INSERT INTO outbound_orders (number, kind, party_id, destination_id, site_id, wanted_on, state, changed_by,
		  changed_at, last_change)
		  VALUES ('S-1', 'sale', 2, (SELECT location_id FROM parties WHERE id = 2), 1, current_date, 'released', 1,
		  now(), '')`); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Owner.Exec(`
		INSERT INTO outbound_lines (order_id, line, item_id, quantity) VALUES (1, 1, 5, 100)`); err != nil {
		t.Fatal(err)
	}
	type reservation struct {
		id, n int64
		unit  int
	}
	// here are the units in the bin; named those reserved by name; loose reservations reserve any.
	here, named := map[int]bool{}, map[int]bool{}
	var reservations []reservation
	reserved := func() (n int64) {
		for _, p := range reservations {
			n += p.n
		}
		return n
	}
	// mayGo says whether a unit may leave without a reservation.
	mayGo := func(u int) bool { return here[u] && !named[u] && int64(len(here)) > reserved() }
	move := func(u int, from, to int32, by *int64) error {
		m := ledger.Move{Item: world.Spot, Serial: &units[u], Quantity: one, From: from, To: to, Reservation: by}
		looked := look(h, m)
		err := h.Post(m)
		// A plan looks at units together; one that is not there is refused where its serial is read.
		if by == nil && here[u] && from == bin && (looked == nil) != (err == nil) {
			t.Fatalf("the plan says %v and the ledger %v", looked, err)
		}
		return err
	}
	for step := range 400 {
		u := r.IntN(len(units))
		switch r.IntN(5) {
		case 0:
			err := move(u, world.SupplierLocation, bin, nil)
			if (err == nil) == here[u] {
				t.Fatalf("step %d: unit %d comes, and is here: %v (%v)", step, u, here[u], err)
			}
			here[u] = true
		case 1:
			err := move(u, bin, world.CustomerLocation, nil)
			if (err == nil) != mayGo(u) {
				t.Fatalf("step %d: unit %d leaves with %v; %d here, %d reserved, named %v", step, u, err, len(here),
					reserved(), named[u])
			}
			if err == nil {
				delete(here, u)
			}
		case 2:
			n, stock, can := int64(1+r.IntN(3)), ledger.Stock{Location: bin, Item: world.Spot}, false
			byName := r.IntN(3) == 0
			if byName {
				n, stock.Serial = 1, &units[u]
				can = mayGo(u)
			} else {
				can = int64(len(here))-reserved() >= n
			}
			id, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (int64, error) {
				return ledger.Reserve(ctx, tx, stock, 1, decimal.NewFromInt(n))
			})
			if (err == nil) != can {
				t.Fatalf("step %d: reserving %d (by name: %v) with %v; %d here, %d reserved", step, n, byName, err,
					len(here), reserved())
			}
			if err == nil {
				p := reservation{id, n, -1}
				if byName {
					p.unit, named[u] = u, true
				}
				reservations = append(reservations, p)
			}
		case 3:
			if len(reservations) == 0 {
				continue
			}
			i := r.IntN(len(reservations))
			if _, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (bool, error) {
				return true, ledger.Unreserve(ctx, tx, reservations[i].id)
			}); err != nil {
				t.Fatal(err)
			}
			delete(named, reservations[i].unit)
			reservations = append(reservations[:i], reservations[i+1:]...)
		case 4:
			// A unit is taken by a reservation: any one by a reservation on a number, its own by name.
			if len(reservations) == 0 {
				continue
			}
			i := r.IntN(len(reservations))
			p := &reservations[i]
			may := here[u] && (p.unit == u || p.unit < 0 && !named[u] || p.unit >= 0 && mayGo(u))
			err := move(u, bin, world.CustomerLocation, &p.id)
			if (err == nil) != may {
				t.Fatalf("step %d: unit %d is taken by a reservation on %d with %v; named %v", step, u, p.unit, err,
					named[u])
			}
			if err != nil {
				if refusal.From(err) == nil {
					t.Fatal(err)
				}
				continue
			}
			delete(here, u)
			if p.unit < 0 || p.unit == u {
				delete(named, u)
				if p.n--; p.n == 0 {
					reservations = append(reservations[:i], reservations[i+1:]...)
				}
			}
		}
		var have, bound int64
		if err := h.Owner.QueryRow(`
			SELECT coalesce(sum(quantity), 0)::bigint, coalesce(sum(reserved), 0)::bigint FROM balances
			 WHERE location_id = $1`,
			bin).Scan(&have, &bound); err != nil || have != int64(len(here)) || bound != reserved() {
			t.Fatalf("step %d: %d lie there and %d are reserved, the model has %d and %d (%v)", step, have, bound,
				len(here), reserved(), err)
		}
	}
	h.Whole(t)
}

// TestAUnitReservedByNameGoesByItsOwnReservationAlone wanted one of two units by its name and one of
// any by number: the second reservation takes the other unit, and never the named one.
func TestAUnitReservedByNameGoesByItsOwnReservationAlone(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	bin := h.Bin(t, "A-01-1-A")
	h.StockUnits(t, world.Spot, bin, "N-1", "N-2")
	if _, err := h.Owner.Exec(`
		INSERT INTO outbound_orders (number, kind, party_id, destination_id, site_id, wanted_on, state, changed_by,
		  changed_at, last_change)
		  VALUES ('S-1', 'sale', 2, (SELECT location_id FROM parties WHERE id = 2), 1, current_date, 'released', 1,
		  now(), '');
		INSERT INTO outbound_lines (order_id, line, item_id, quantity) VALUES (1, 1, 5, 100)`); err != nil {
		t.Fatal(err)
	}
	unit := func(code string) *int64 {
		var id int64
		if err := h.Owner.Get(&id, `SELECT id FROM serials WHERE code = $1`, code); err != nil {
			t.Fatal(err)
		}
		return &id
	}
	reserve := func(serial *int64) *int64 {
		id, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (int64, error) {
			return ledger.Reserve(ctx, tx, ledger.Stock{Location: bin, Item: world.Spot, Serial: serial}, 1, one)
		})
		if err != nil {
			t.Fatal(err)
		}
		return &id
	}
	named, any := reserve(unit("N-1")), reserve(nil)
	take := func(code string, reservation *int64) error {
		return h.Post(ledger.Move{Item: world.Spot, Serial: unit(code), Quantity: one, From: bin,
			To: world.CustomerLocation, Reservation: reservation})
	}
	world.Refused(t, take("N-1", any), "reserved", "S-1")
	if err := take("N-2", any); err != nil {
		t.Fatal(err)
	}
	if err := take("N-1", named); err != nil {
		t.Fatal(err)
	}
	var left int
	if err := h.Owner.Get(&left, `
		SELECT (SELECT count(*) FROM reservations) +
		(SELECT count(*) FROM balances WHERE reserved > 0)`); err != nil || left != 0 {
		t.Fatalf("%d reservations are left behind (%v)", left, err)
	}
	h.Whole(t)
}
