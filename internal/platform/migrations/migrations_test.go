package migrations_test

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"io/fs"
	"os"
	"strings"
	"testing"
	"testing/fstest"

	"lanternrow/internal/platform/migrations"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/test/world"

	"github.com/pressly/goose/v3"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

// empty makes an empty database on the tests' server.
func empty(t *testing.T) *sql.DB {
	t.Helper()
	db, _ := emptyAt(t)
	return db
}

// emptyAt is empty, and says where the database is.
func emptyAt(t *testing.T) (*sql.DB, string) {
	t.Helper()
	ctx := context.Background()
	server := world.Server(t)
	admin, err := postgres.Open(ctx, server.URL("postgres"))
	if err != nil {
		t.Fatal(err)
	}
	name := "migrations_" + strings.ToLower(rand.Text()[:12])
	if _, err := admin.Exec(`CREATE DATABASE ` + name); err != nil {
		t.Fatal(err)
	}
	db, err := postgres.Open(ctx, server.URL(name))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		_ = db.Close()
		_, _ = admin.Exec(`DROP DATABASE ` + name + ` WITH (FORCE)`)
		_ = admin.Close()
	})
	return db.DB, server.URL(name)
}

func TestUpAndDownAndUpAgain(t *testing.T) {
	ctx := context.Background()
	db := empty(t)
	for range 2 {
		if err := migrations.Up(ctx, db); err != nil {
			t.Fatal(err)
		}
		if err := migrations.Up(ctx, db); err != nil {
			t.Fatalf("the second time: %v", err)
		}
		provider, err := goose.NewProvider(goose.DialectPostgres, db, migrations.Files)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := provider.DownTo(ctx, 0); err != nil {
			t.Fatalf("down again: %v", err)
		}
		var left string
		err = db.QueryRow(`
			SELECT coalesce(string_agg(relname, ', '), '') FROM pg_class WHERE relnamespace = 'public'::regnamespace
			   AND relkind IN ('r', 'v', 'S') AND relname !~ '^(goose|migration_prints)'`).Scan(&left)
		if err != nil || left != "" {
			t.Fatalf("down leaves %s behind (%v)", left, err)
		}
	}
}

func TestADatabaseOfAnotherWordingIsRefused(t *testing.T) {
	ctx := context.Background()
	db := empty(t)
	if err := migrations.Up(ctx, db); err != nil {
		t.Fatal(err)
	}
	// The same, with a word changed in what was applied, and with one more to come.
	other, more := with(t, nil), with(t, map[string]string{"0099_later.sql": "CREATE TABLE later (id int);"})
	other["0003_ledger.sql"].Data = append(other["0003_ledger.sql"].Data, "\n-- changed"...)
	if err := migrations.UpFrom(ctx, db, other); !errors.Is(err, migrations.ErrOtherSchema) {
		t.Errorf("another wording: %v", err)
	}
	if err := migrations.UpFrom(ctx, db, more); err != nil {
		t.Errorf("one more migration: %v", err)
	}
	// And one that was made before anything was kept of the wording.
	if _, err := db.Exec(`DELETE FROM migration_prints`); err != nil {
		t.Fatal(err)
	}
	if err := migrations.UpFrom(ctx, db, more); !errors.Is(err, migrations.ErrOtherSchema) {
		t.Errorf("without prints: %v", err)
	}
}

// with is the program's migrations and others.
func with(t *testing.T, others map[string]string) fstest.MapFS {
	t.Helper()
	out := fstest.MapFS{}
	names, err := fs.Glob(migrations.Files, "*.sql")
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range names {
		text, err := migrations.Files.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		out[name] = &fstest.MapFile{Data: text}
	}
	for name, text := range others {
		out[name] = &fstest.MapFile{Data: []byte("-- +goose Up\n" + text)}
	}
	return out
}

// TestADatabaseOfANewerReleaseIsRefused leaves alone what a newer program has served.
func TestADatabaseOfANewerReleaseIsRefused(t *testing.T) {
	ctx := context.Background()
	db := empty(t)
	if err := migrations.Up(ctx, db); err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES ($1, true)`, migrations.Latest()+1); err != nil {
		t.Fatal(err)
	}
	if err := migrations.Up(ctx, db); !errors.Is(err, migrations.ErrNewerSchema) {
		t.Errorf("a newer schema is answered with %v", err)
	}
}

func TestServersThatStartTogetherTakeTurns(t *testing.T) {
	t.Parallel()
	db := empty(t)
	done := make(chan error, 5)
	for range 5 {
		go func() { done <- migrations.Up(context.Background(), db) }()
	}
	for range 5 {
		if err := <-done; err != nil {
			t.Error(err)
		}
	}
}

// TestAMigrationThatFailsLeavesEverythingAsItWas has one fail behind one that goes through:
// nothing of it stands, what was there before does, and once it is mended all goes on.
func TestAMigrationThatFailsLeavesEverythingAsItWas(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	db := empty(t)
	if err := migrations.Up(ctx, db); err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec(`INSERT INTO sites (code, name) VALUES ('K', 'Kept')`); err != nil {
		t.Fatal(err)
	}
	second := map[string]string{
		"0098_colours.sql": "ALTER TABLE sites ADD colour text NOT NULL DEFAULT 'red';",
		"0099_shapes.sql": "CREATE TABLE shapes (id int);\nDELETE FROM sites;\nALTER TABLE sites ADD shape int " +
			"CHECK (shape > 1 / 0) DEFAULT 1;",
	}
	err := migrations.UpFrom(ctx, db, with(t, second))
	var failed *migrations.FailedError
	if !errors.As(err, &failed) || failed.Version != 98 || !strings.Contains(err.Error(), "start again") ||
		strings.Contains(err.Error(), "reset") {
		t.Fatalf("it fails with %v", err)
	}
	var colour string
	var shapes bool
	err = db.QueryRow(`
		SELECT colour, to_regclass('shapes') IS NOT NULL FROM sites WHERE code = 'K'`).Scan(&colour, &shapes)
	if err != nil || colour != "red" || shapes {
		t.Errorf("left behind: colour %q, shapes %t (%v)", colour, shapes, err)
	}
	// A migration and its marks go together.
	var marks, versions int64
	if err := db.QueryRow(`
		SELECT (SELECT max(version) FROM migration_prints), (SELECT max(version_id) FROM goose_db_version)`).Scan(&marks, &versions); err != nil ||
		marks != 98 || versions != 98 {
		t.Errorf("marked are %d and %d (%v)", marks, versions, err)
	}
	second["0099_shapes.sql"] = "CREATE TABLE shapes (id int);"
	for range 2 {
		if err := migrations.UpFrom(ctx, db, with(t, second)); err != nil {
			t.Errorf("mended: %v", err)
		}
	}
}
