package ledger_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/test/world"

	"github.com/jackc/pgx/v5/pgconn"
)

// TestABrokenPostingIsRefused has the application post what is none: the tables have no
// foreign keys of their own, and ledger_post has to know.
func TestABrokenPostingIsRefused(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	bin, other := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A")
	h.Stock(t, world.Clamp, bin, 5)
	lot := *h.Lot(t, world.Fluid, "F-1", 90)
	const head = `{"kind": "move", "person": 1}`
	move := func(more string) string {
		return fmt.Sprintf(`[{"item": 1, "quantity": 1, "from_location": %d, "to_location": %d%s}]`, bin, other, more)
	}
	for name, c := range map[string]struct{ head, lines, code, word string }{
		"nobody":            {`{"kind": "move", "person": 999}`, move(""), "23503", "nobody"},
		"no kind":           {`{"kind": "lend", "person": 1}`, move(""), "23514", `"lend"`},
		"no item":           {head, move(`, "item": 999`), "23503", "move 1 names an item"},
		"no location":       {head, move(`, "to_location": 999`), "23503", "move 1 names an item or a location"},
		"no such lot":       {head, move(`, "lot": 999`), "23503", "move 1 names a lot"},
		"another's lot":     {head, move(fmt.Sprintf(`, "lot": %d`, lot)), "23503", "move 1 names a lot"},
		"no such unit":      {head, move(`, "serial": 999`), "23503", "move 1 names a lot or a unit"},
		"no such carton":    {head, move(`, "to_carton": 999`), "23503", "move 1 names a carton"},
		"from no carton":    {head, move(`, "from_carton": 999`), "23503", "move 1 names a carton"},
		"nothing":           {head, move(`, "quantity": 0`), "23514", "no move"},
		"less than nothing": {head, move(`, "quantity": -1`), "23514", "this is no"},
		"a cost below 0":    {head, move(`, "cost": -1`), "23514", "no move"},
		"to where it is":    {head, move(fmt.Sprintf(`, "to_location": %d`, bin)), "23514", "no move"},
		"no condition":      {head, move(`, "to_condition": "fine"`), "23514", "no balance"},
		"the second of two": {head, strings.TrimSuffix(move(""), "]") + "," + move(`, "item": 999`)[1:], "23503",
			"move 2 names an item"},
	} {
		var pg *pgconn.PgError
		_, err := h.App.Exec(`SELECT ledger_post($1, $2)`, c.head, c.lines)
		if !errors.As(err, &pg) || pg.Code != c.code || !strings.Contains(pg.Message, c.word) {
			t.Errorf("%s: %v", name, err)
		}
	}
	h.Whole(t)
	if got := h.Holds(t, bin, world.Clamp); got != "5" {
		t.Errorf("%s are left", got)
	}
}

// TestTheBooksRefuseBrokenRowsOfTheirOwner writes past ledger_post.
func TestTheBooksRefuseBrokenRowsOfTheirOwner(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
	for _, statement := range []string{
		`INSERT INTO postings (kind, person_id, happened_at, entered_at) VALUES ('lend', 1, now(), now())`,
		`INSERT INTO moves (posting_id, item_id, quantity, from_location, to_location, unit_cost) VALUES (1, 1, 0, 1, 3, 1)`,
		`INSERT INTO moves (posting_id, item_id, quantity, from_location, to_location, unit_cost) VALUES (1, 1, 1, 1, 3, -1)`,
		`INSERT INTO moves (posting_id, item_id, quantity, from_location, to_location, unit_cost) VALUES (1, 1, 1, 3, 3, 1)`,
		`INSERT INTO moves (posting_id, item_id, quantity, from_location, to_location, unit_cost, to_condition)
		 VALUES (1, 1, 1, 1, 3, 1, 'fine')`,
		`INSERT INTO moves (posting_id, item_id, quantity, from_location, to_location, unit_cost, serial_id)
		 VALUES (1, 1, 2, 1, 3, 1, 1)`,
		`UPDATE balances SET reserved = 6`, `UPDATE balances SET reserved = -1`, `UPDATE balances SET quantity = -1`,
		`UPDATE balances SET condition = 'fine'`, `UPDATE balances SET serial_id = 1`,
	} {
		var pg *pgconn.PgError
		if _, err := h.Owner.Exec(statement); !errors.As(err, &pg) || pg.Code != "23514" {
			t.Errorf("%s: %v", statement, err)
		}
	}
	for _, table := range []string{"items", "locations", "lots", "serials", "cartons", "people"} {
		for _, statement := range []string{"DELETE FROM " + table, "UPDATE " + table + " SET id = DEFAULT",
			"TRUNCATE " + table + " CASCADE"} {
			if _, err := h.Owner.Exec(statement); err == nil || !strings.Contains(err.Error(), "history stands") {
				t.Errorf("%s: %v", statement, err)
			}
		}
	}
	h.Whole(t)
}

// TestTheBooksKnowTheKindsAndConditionsOfTheCore posts one of each.
func TestTheBooksKnowTheKindsAndConditionsOfTheCore(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	bin := h.Bin(t, "A-01-1-A")
	for kind := range posting.Steps {
		for condition := range posting.Dispositions {
			if _, err := h.App.Exec(`SELECT ledger_post($1, $2)`, fmt.Sprintf(`{"kind": %q, "person": 1}`, kind),
				fmt.Sprintf(`[{"item": 1, "quantity": 1, "from_location": 1, "to_location": %d, "to_condition": %q}]`,
					bin, condition)); err != nil {
				t.Errorf("%s of %s goods: %v", kind, condition, err)
			}
		}
	}
	h.Whole(t)
}

// TestNoSearchPathLeadsTheLedgerElsewhere puts a table of the same name in its way.
func TestNoSearchPathLeadsTheLedgerElsewhere(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	from, to := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A")
	h.Stock(t, world.Clamp, from, 5)
	ctx := context.Background()
	conn, err := h.App.Connx(ctx)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	for _, table := range []string{"postings", "moves", "balances", "items", "locations", "item_costs", "people"} {
		if _, err := conn.ExecContext(ctx, "CREATE TEMP TABLE "+table+" (LIKE public."+table+")"); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := conn.ExecContext(ctx, `SET search_path = pg_temp`); err != nil {
		t.Fatal(err)
	}
	if _, err := conn.ExecContext(ctx, `SELECT public.ledger_post('{"kind": "move", "person": 1}', $1)`,
		fmt.Sprintf(`[{"item": 1, "quantity": 2, "from_location": %d, "to_location": %d},
			{"item": 1, "quantity": 3, "from_location": 1, "to_location": %d}]`, from, to, to)); err != nil {
		t.Fatal(err)
	}
	h.Whole(t)
	if got := h.Holds(t, to, world.Clamp); got != "5" {
		t.Errorf("%s came", got)
	}
}

// TestLastPostingsAreRefusedAndRepeatedAsOthers posts along with the commit.
func TestLastPostingsAreRefusedAndRepeatedAsOthers(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	from, to := h.Bin(t, "A-01-1-A"), h.Bin(t, "A-02-1-A")
	h.Stock(t, world.Clamp, from, 5)
	move := func(key string, quantity int64) error {
		_, err := world.ActKeyed(h, key, func(_ context.Context, tx *command.Tx) (bool, error) {
			return true, ledger.PostLast(context.Background(), tx, ledger.Head{Kind: posting.Move},
				[]ledger.Move{{Item: world.Clamp, Quantity: units(quantity), From: from, To: to}})
		})
		return err
	}
	world.Refused(t, move("a", 6), "not_enough", "holds 5", "not 6")
	for range 3 {
		if err := move("b", 2); err != nil {
			t.Fatal(err)
		}
	}
	if got := h.Holds(t, to, world.Clamp); got != "2" {
		t.Errorf("%s came", got)
	}
	h.Whole(t)
}
