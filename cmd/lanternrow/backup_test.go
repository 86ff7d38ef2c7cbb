package main

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

// as runs the real program on a database, with a line of input.
func as(t *testing.T, env []string, input string, args ...string) (string, error) {
	t.Helper()
	cmd := exec.Command(os.Args[0], args...)
	cmd.Env = append(append(os.Environ(), "TEST_AS_MAIN=1"), env...)
	cmd.Stdin = strings.NewReader(input + "\n")
	out, err := cmd.CombinedOutput()
	return string(out), err
}

// TestABackupUnderLoadIsWholeElsewhere backs a house up while goods move, restores it on another server, where it verifies,
// is sealed on and has its people, and refuses to restore over what is there.
func TestABackupUnderLoadIsWholeElsewhere(t *testing.T) {
	h := world.New(t)
	bin, far := h.Bin(t, "A-01-1-A"), h.Bin(t, "B-03-1-A")
	h.Stock(t, world.Clamp, bin, 20)
	var stop atomic.Bool
	moved := make(chan int)
	go func() {
		n, from, to := 0, bin, far
		for ; !stop.Load(); n++ {
			if err := h.Post(ledger.Move{Item: world.Clamp, Quantity: decimal.NewFromInt(3), From: from, To: to}); err != nil {
				t.Error(err)
				break
			}
			from, to = to, from
		}
		moved <- n
	}()
	file := filepath.Join(t.TempDir(), "house.backup")
	here := []string{"DATABASE_URL=" + h.URL}
	if out, err := as(t, here, "", "backup", file); err != nil || !strings.Contains(out, "has all of it") {
		t.Fatalf("%v: %s", err, out)
	}
	stop.Store(true)
	if n := <-moved; n < 5 {
		t.Errorf("only %d moves were made beside it", n)
	}
	key, heads := filepath.Join(t.TempDir(), "key"), filepath.Join(t.TempDir(), "heads")
	for range 3 {
		if _, err := ledger.Seal(context.Background(), h.Owner); err != nil {
			t.Fatal(err)
		}
	}
	line := ""
	for _, args := range [][]string{{"head", "--new-key", key}, {"head", "--key", key}} {
		out, err := as(t, here, "", args...)
		if line = out; err != nil {
			t.Fatalf("%v: %s", err, out)
		}
	}
	if err := os.WriteFile(heads, []byte(line), 0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := as(t, here, "", "verify", "--since", heads, "--public", key+".pub"); err != nil || !strings.Contains(out, "goes through the head") {
		t.Errorf("%v: %s", err, out)
	}
	if info, err := os.Stat(file); err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("others may read the backup: %v %v", info, err)
	}
	if out, err := as(t, here, "", "restore", file); err == nil || !strings.Contains(out, "nothing was changed") {
		t.Errorf("restored over what is there: %v %s", err, out)
	}
	dir, err := os.MkdirTemp("/tmp", "lanternrow-restore")
	if err != nil {
		t.Fatal(err)
	}
	_ = os.Chmod(dir, 0o755)
	elsewhere := []string{"DATABASE_URL=", "LANTERNROW_RUN=" + filepath.Join(dir, "run")}
	ctx := context.Background()
	t.Cleanup(func() { _ = postgres.Stop(ctx, filepath.Join(dir, "run")); _ = os.RemoveAll(dir) })
	if out, err := as(t, elsewhere, "", "restore", file); err != nil || !strings.Contains(out, "The ledger is whole") {
		t.Fatalf("%v: %s", err, out)
	}
	if out, err := as(t, elsewhere, "a word for the operator", "user", "add", "ops", "--name", "Somebody at the console", "--site", "ONE"); err == nil {
		t.Errorf("a person at no site was added: %s", out)
	}
	server, err := postgres.Start(ctx, filepath.Join(dir, "run"))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = server.Stop() }()
	db, err := postgres.Open(ctx, server.URL(databaseName))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	before, err := ledger.Verify(ctx, db)
	if err != nil || before.First != nil {
		t.Fatalf("restored it is %+v: %v", before.First, err)
	}
	if _, err := db.Exec(`SELECT ledger_post('{"kind":"move","person":1}', jsonb_build_array(jsonb_build_object('item', $1::int, 'quantity', 1,
		'from_location', 1, 'to_location', $2::int)))`, world.Clamp, bin); err != nil {
		t.Fatal(err)
	}
	for range 3 {
		if _, err := ledger.Seal(ctx, db); err != nil {
			t.Fatal(err)
		}
	}
	after, err := ledger.Verify(ctx, db)
	if err != nil || after.First != nil || after.Sealed != after.Moves || after.Moves != before.Moves+1 {
		t.Errorf("%d of %d moves are sealed there: %+v %v", after.Sealed, after.Moves, after.First, err)
	}
}
