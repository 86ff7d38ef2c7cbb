package postgres_test

import (
	"context"
	"errors"
	"strings"
	"testing"

	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/test/world"
)

// TestWhoServesCanDoNothingElse tries, from the very connection that serves and with its role put off, whatever would let it
// rewrite what was: none of it is allowed, and nothing has changed after all of it.
func TestWhoServesCanDoNothingElse(t *testing.T) {
	ctx, h := context.Background(), world.New(t)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
	h.Whole(t)
	if err := postgres.CheckServing(ctx, h.App); err != nil {
		t.Fatalf("it may not serve: %v", err)
	}
	conn, err := h.App.Connx(ctx)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	tried := []string{
		"SET ROLE lanternrow", "SET SESSION AUTHORIZATION lanternrow", "SET session_replication_role = replica",
		"UPDATE moves SET quantity = 4", "DELETE FROM moves", "TRUNCATE moves CASCADE", "TRUNCATE items CASCADE", "DELETE FROM seals",
		"INSERT INTO seals (position, row_id, xid, hash) VALUES (99, 1, '1', sha256('x'))", "UPDATE ledger_sealed SET row_id = 0",
		"UPDATE ledger_era SET ahead = 0", "UPDATE balances SET quantity = 99", "UPDATE item_costs SET average = 1", "DELETE FROM access_events",
		"DELETE FROM catalog_changes", "UPDATE goose_db_version SET version_id = 1", "DELETE FROM migration_prints",
		"ALTER TABLE moves DISABLE TRIGGER ALL", "ALTER TABLE items DISABLE TRIGGER renamed", "DROP TRIGGER moves_stand ON moves", "DROP TABLE moves CASCADE",
		"CREATE OR REPLACE FUNCTION ledger_xid() RETURNS xid8 LANGUAGE sql AS $$ SELECT '1'::xid8 $$", "CREATE TABLE mine (id int)",
		"ALTER FUNCTION history_stands OWNER TO lanternrow_serve", "SELECT ledger_new_era()", "SELECT ledger_cost(1, 1, 5, 1)",
		"CREATE ROLE another LOGIN", "ALTER ROLE lanternrow_serve SUPERUSER", "GRANT lanternrow TO lanternrow_serve", "ALTER SYSTEM SET fsync = off",
		"COPY items TO PROGRAM 'cat'", "SELECT pg_read_file('/etc/passwd')", "DROP DATABASE postgres", "CREATE EXTENSION dblink",
		`SELECT ledger_post('{"kind":"move","person":1,"entered_at":"2020-01-01T00:00:00Z"}', '[{"item":1,"quantity":1,"from_location":1,"to_location":8}]')`,
	}
	for _, role := range []string{"RESET ROLE", "SET ROLE " + postgres.AppRole} {
		if _, err := conn.ExecContext(ctx, role); err != nil {
			t.Fatal(err)
		}
		for _, statement := range tried {
			_, err := conn.ExecContext(ctx, statement)
			if err == nil || !strings.Contains(err.Error(), "42501") && !strings.Contains(err.Error(), "only the owner") {
				t.Errorf("after %s it may %s: %v", role, statement, err)
			}
		}
	}
	h.Whole(t)
	if err := postgres.CheckServing(ctx, h.Owner); !errors.Is(err, postgres.ErrServesAsOwner) {
		t.Errorf("the owner may serve: %v", err)
	}
	h.Owner.MustExec(`DELETE FROM goose_db_version WHERE version_id = (SELECT max(version_id) FROM goose_db_version)`)
	if err := postgres.CheckServing(ctx, h.App); !errors.Is(err, postgres.ErrOldSchema) {
		t.Errorf("an old schema is served: %v", err)
	}
}
