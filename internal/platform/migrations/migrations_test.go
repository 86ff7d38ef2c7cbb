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
	return db.DB
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
		err = db.QueryRow(`SELECT coalesce(string_agg(relname, ', '), '') FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind IN ('r', 'v', 'S') AND relname !~ '^(goose|migration_prints)'`).Scan(&left)
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
	other, more := fstest.MapFS{}, fstest.MapFS{}
	names, _ := fs.Glob(migrations.Files, "*.sql")
	for i, name := range names {
		text, _ := migrations.Files.ReadFile(name)
		more[name] = &fstest.MapFile{Data: text}
		if i == 2 {
			text = append(text, "\n-- changed"...)
		}
		other[name] = &fstest.MapFile{Data: text}
	}
	if err := migrations.UpFrom(ctx, db, other); !errors.Is(err, migrations.ErrOtherSchema) {
		t.Errorf("another wording: %v", err)
	}
	more["0099_later.sql"] = &fstest.MapFile{Data: []byte("-- +goose Up\nCREATE TABLE later (id int);\n-- +goose Down\nDROP TABLE later;\n")}
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
