package migrations_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/migrations"
	"lanternrow/internal/platform/postgres"
)

// TestFoundedDatabasesComeUpToDate restores each dump of a demo's database that was kept,
// brings it up to date, and holds it against one made anew: the same schema, and a ledger
// that is whole.
func TestFoundedDatabasesComeUpToDate(t *testing.T) {
	t.Parallel()
	dumps, err := filepath.Glob("testdata/demo-*.sql.gz")
	if err != nil || len(dumps) == 0 {
		t.Fatalf("no dump is kept (%v)", err)
	}
	fresh := schemaOf(t, made(t, ""))
	for _, dump := range dumps {
		url := made(t, dump)
		if now := schemaOf(t, url); now != fresh {
			t.Errorf("%s: brought up to date it is not as one made anew:\n%s", dump, firstDifference(now, fresh))
		}
		db, err := postgres.Open(context.Background(), url)
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { _ = db.Close() })
		r, err := ledger.Verify(context.Background(), db)
		if err != nil || r.First != nil || r.Moves < 1000 {
			t.Errorf("%s: %+v %v", dump, r, err)
		}
	}
}

// made makes a database, of a dump if one is named, and brings it up to date.
func made(t *testing.T, dump string) (url string) {
	t.Helper()
	db, url := emptyAt(t)
	if dump != "" {
		restore(t, url, dump)
	}
	if err := migrations.Up(context.Background(), db); err != nil {
		t.Fatalf("%s: %v", dump, err)
	}
	return url
}

// restore gives a dump to psql.
func restore(t *testing.T, url, dump string) {
	t.Helper()
	file, err := os.Open(dump)
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	sql, err := gzip.NewReader(file)
	if err != nil {
		t.Fatal(err)
	}
	psql := program(t, "psql", "--quiet", "--no-psqlrc", "--set", "ON_ERROR_STOP=1", url)
	psql.Stdin = sql
	if out, err := psql.CombinedOutput(); err != nil {
		t.Fatalf("restoring %s: %v\n%s", dump, err, out)
	}
}

// schemaOf is the schema of a database, as pg_dump writes it.
func schemaOf(t *testing.T, url string) string {
	t.Helper()
	out, err := program(t, "pg_dump", "--schema-only", "--no-owner", "--dbname", url).Output()
	if err != nil {
		t.Fatal(err)
	}
	// Newer versions open and close a dump with a key made at random.
	return regexp.MustCompile(`(?m)^\\(un)?restrict .*$`).ReplaceAllString(string(out), "")
}

func program(t *testing.T, name string, args ...string) *exec.Cmd {
	t.Helper()
	dir, err := postgres.Binaries()
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command(filepath.Join(dir, name), args...)
	cmd.Stderr = &bytes.Buffer{}
	if name == "psql" {
		cmd.Stderr = nil
	}
	return cmd
}

func firstDifference(a, b string) string {
	as, bs := strings.Split(a, "\n"), strings.Split(b, "\n")
	for i := range as {
		if i >= len(bs) || as[i] != bs[i] {
			return as[i]
		}
	}
	return "it ends early"
}
