package postgres_test

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"lanternrow/internal/platform/postgres"
)

// clusters is what Debian's own tool says of the system's clusters: none of them is
// ours to touch.
func clusters(t *testing.T) string {
	t.Helper()
	out, err := exec.Command("pg_lsclusters", "--no-header").CombinedOutput()
	if err != nil {
		return "no such tool"
	}
	return string(out)
}

func TestAPrivateServerKeepsItsDataAndLeavesTheSystemsAlone(t *testing.T) {
	before := clusters(t)
	ctx := context.Background()
	// The name of the folder is one that careless quoting would break.
	dir := filepath.Join(t.TempDir(), "a house's run")
	first, err := postgres.Start(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	data := first.DataDir()
	t.Cleanup(func() { _ = os.RemoveAll(data) })
	if made, err := first.Ensure(ctx, "house"); err != nil || !made {
		t.Fatalf("the database was not made: %v", err)
	}
	db, err := postgres.Open(ctx, first.URL("house"))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec(`INSERT INTO sites (code, name, cross_aisles) VALUES ('Q', 'Quay House', '{0}')`); err != nil {
		t.Fatal(err)
	}
	var listens, addresses string
	if err := db.Get(&listens, `SHOW listen_addresses`); err != nil || listens != "127.0.0.1" {
		t.Errorf("it listens on %s (%v)", listens, err)
	}
	if err := db.Get(&addresses, `
		SELECT string_agg(DISTINCT auth_method,
		',') FROM pg_hba_file_rules`); err != nil || addresses != "scram-sha-256" {
		t.Errorf("it lets in by %s (%v)", addresses, err)
	}
	_ = db.Close()
	password, err := os.Stat(filepath.Join(dir, "postgres.password"))
	if err != nil || password.Mode().Perm() != 0o600 {
		t.Errorf("the password's file is %v (%v)", password.Mode(), err)
	}
	if _, err := postgres.Open(ctx, strings.Replace(first.URL("house"), ":", ":wrong", 2)); err == nil {
		t.Error("a wrong password is let in")
	}

	// A second start finds it running and does not stop what it did not start.
	second, err := postgres.Start(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	if err := second.Stop(); err != nil {
		t.Fatal(err)
	}
	if db, err = postgres.Open(ctx, second.URL("house")); err != nil {
		t.Fatalf("the second to start stopped the server of the first: %v", err)
	}
	_ = db.Close()
	if err := first.Stop(); err != nil {
		t.Fatal(err)
	}
	if _, err := postgres.Open(ctx, first.URL("house")); err == nil {
		t.Fatal("it still runs after it was stopped")
	}

	// Started again, killed without a word, started again: the data is there.
	third, err := postgres.Start(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	if db, err = postgres.Open(ctx, third.URL("house")); err != nil {
		t.Fatal(err)
	}
	var pid int
	if err := db.Get(&pid, `SELECT split_part(pg_read_file('postmaster.pid'), E'\n', 1)::int`); err != nil {
		t.Fatal(err)
	}
	_ = db.Close()
	if err := syscall.Kill(pid, syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	time.Sleep(300 * time.Millisecond)
	fourth, err := postgres.Start(ctx, dir)
	if err != nil {
		t.Fatalf("after a kill: %v", err)
	}
	defer func() { _ = postgres.Stop(ctx, dir) }()
	if made, err := fourth.Ensure(ctx, "house"); err != nil || made {
		t.Fatalf("the database was made anew (%v)", err)
	}
	if db, err = postgres.OpenApp(ctx, fourth.ServeURL("house")); err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	var name, role string
	if err := db.Get(&name, `SELECT name FROM sites`); err != nil || name != "Quay House" {
		t.Errorf("the data is %q (%v)", name, err)
	}
	if err := db.Get(&role, `SELECT current_user`); err != nil || role != postgres.AppRole {
		t.Errorf("the application works as %s (%v)", role, err)
	}
	if after := clusters(t); after != before {
		t.Errorf("the system's clusters were\n%sand are\n%s", before, after)
	}
}
