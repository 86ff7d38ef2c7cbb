// Package world gives tests a database of their own, on a real server, with a small
// house in it.
package world

import (
	"context"
	"crypto/rand"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"syscall"
	"testing"

	"lanternrow/internal/platform/postgres"

	"github.com/jackc/pgx/v5"
	"github.com/jmoiron/sqlx"
)

// Database is one test's own.
type Database struct {
	// URL is the database as its owner, ServeURL as the login that serves it.
	URL, ServeURL string
	Owner         *sqlx.DB
	// App works under the application's role.
	App *sqlx.DB
}

var shared struct {
	sync.Once
	server   *postgres.Server
	template string
	err      error
}

// root is the repository.
func root() string {
	_, file, _, _ := runtime.Caller(0)
	return filepath.Join(filepath.Dir(file), "..", "..", "..")
}

// start brings the server up, and a template with the schema and the house in it,
// once for all test processes that run side by side.
func start() {
	ctx := context.Background()
	dir := filepath.Join(root(), ".run", "test")
	if shared.err = os.MkdirAll(dir, 0o755); shared.err != nil {
		return
	}
	lock, err := os.OpenFile(filepath.Join(dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if shared.err = err; err != nil {
		return
	}
	defer lock.Close()
	if shared.err = syscall.Flock(int(lock.Fd()), syscall.LOCK_EX); shared.err != nil {
		return
	}
	if shared.server, shared.err = postgres.Start(ctx, dir); shared.err != nil {
		return
	}
	shared.template = fmt.Sprintf("template_%d", os.Getpid())
	if _, shared.err = shared.server.Ensure(ctx, shared.template); shared.err != nil {
		return
	}
	db, err := postgres.Open(ctx, shared.server.URL(shared.template))
	if shared.err = err; err != nil {
		return
	}
	defer db.Close()
	shared.err = Furnish(ctx, db)
}

// Cleanup drops the template; call it from TestMain.
func Cleanup() {
	if shared.server != nil && shared.template != "" {
		_ = shared.server.Drop(context.Background(), shared.template)
	}
}

// Server is the tests' server, for those that make databases of another kind.
func Server(t testing.TB) *postgres.Server {
	t.Helper()
	shared.Do(start)
	if shared.err != nil {
		t.Fatalf("starting PostgreSQL: %v", shared.err)
	}
	return shared.server
}

// NewDatabase makes a database of the test's own.
func NewDatabase(t testing.TB) Database {
	t.Helper()
	server := Server(t)
	ctx := context.Background()
	name := "test_" + strings.ToLower(rand.Text()[:16])
	admin, err := postgres.Open(ctx, server.URL("postgres"))
	if err != nil {
		t.Fatal(err)
	}
	defer admin.Close()
	if _, err := admin.ExecContext(ctx,
		"CREATE DATABASE "+pgx.Identifier{name}.Sanitize()+" TEMPLATE "+pgx.Identifier{shared.template}.Sanitize()); err != nil {
		t.Fatal(err)
	}
	d := Database{URL: server.URL(name), ServeURL: server.ServeURL(name)}
	if d.Owner, err = postgres.Open(ctx, d.URL); err != nil {
		t.Fatal(err)
	}
	if d.App, err = postgres.OpenApp(ctx, d.ServeURL); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		_ = d.App.Close()
		_ = d.Owner.Close()
		_ = server.Drop(ctx, name)
	})
	return d
}

// Pools opens the database as the application does, until the test ends.
func (d Database) Pools(t testing.TB) *postgres.Pools {
	t.Helper()
	p, err := postgres.OpenPools(context.Background(), d.ServeURL)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(p.Close)
	return p
}
