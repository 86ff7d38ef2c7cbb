package ledger_test

import (
	"context"
	"crypto/ed25519"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/test/world"
)

// TestAHeadThatWasKeptOutsideProvesTheChain has somebody who may rewrite all of the database cut moves off with their seals,
// or change one and seal all of it anew, so well that the chain and the books agree: only what was kept outside tells.
func TestAHeadThatWasKeptOutsideProvesTheChain(t *testing.T) {
	t.Parallel()
	const open = `ALTER TABLE moves DISABLE TRIGGER USER; ALTER TABLE seals DISABLE TRIGGER USER; ALTER TABLE postings DISABLE TRIGGER USER; `
	for name, c := range map[string]struct {
		forge string
		seals bool
		says  string
	}{
		"nothing": {`SELECT 1`, false, ""},
		"a cut tail": {open + `DELETE FROM seals WHERE position > 3; DELETE FROM moves WHERE id > 3; DELETE FROM postings WHERE id > 3;
			UPDATE balances SET quantity = 15; UPDATE item_costs SET quantity = 15`, false, "were noted outside"},
		"a chain made anew": {open + `UPDATE postings SET note = 'it was another' WHERE id = 2; DELETE FROM seals; UPDATE ledger_sealed SET xid = '0', row_id = 0`, true, "made anew"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			ctx, h := context.Background(), world.New(t)
			for range 4 {
				h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
			}
			h.Whole(t)
			kept, err := ledger.ReadHead(ctx, h.Owner, time.Now())
			if err != nil || kept.Position < 4 {
				t.Fatalf("the head is %+v: %v", kept, err)
			}
			if _, err := h.Owner.Exec(c.forge); err != nil {
				t.Fatal(err)
			}
			for c.seals {
				n, err := ledger.Seal(ctx, h.Owner)
				if err != nil {
					t.Fatal(err)
				}
				if n == 0 {
					break
				}
			}
			if r, err := ledger.Verify(ctx, h.Owner); err != nil || r.First != nil {
				t.Fatalf("by itself it is not even well forged: %+v %v", r.First, err)
			}
			r, err := ledger.VerifySince(ctx, h.Owner, kept)
			if err != nil || (r.First != nil) != (c.says != "") || r.First != nil && !strings.Contains(r.First.Wrong, c.says) {
				t.Errorf("held against what was kept it is %+v: %v", r.First, err)
			}
		})
	}
}

// TestASignedHeadIsReadBack reads what a key signed, and nothing that was changed since or signed by another.
func TestASignedHeadIsReadBack(t *testing.T) {
	public, private, _ := ed25519.GenerateKey(nil)
	other, _, _ := ed25519.GenerateKey(nil)
	h := ledger.ChainHead{Position: 12, Hash: []byte{1, 2, 3}, At: time.Date(2027, 3, 2, 10, 30, 0, 0, time.UTC)}
	line := h.Sign(private)
	got, err := ledger.ReadSigned(line, public)
	if err != nil || got.Position != 12 || string(got.Hash) != string(h.Hash) || !got.At.Equal(h.At) {
		t.Errorf("%s is read as %+v: %v", line, got, err)
	}
	for _, bad := range []string{"", "x", strings.Replace(line, " 12 ", " 13 ", 1), strings.Replace(line, "010203", "010204", 1),
		line[:len(line)-4], line + " and more"} {
		if _, err := ledger.ReadSigned(bad, public); !errors.Is(err, ledger.ErrHead) {
			t.Errorf("%q is taken: %v", bad, err)
		}
	}
	if _, err := ledger.ReadSigned(line, other); !errors.Is(err, ledger.ErrHead) {
		t.Errorf("it is taken from another's key: %v", err)
	}
}

// TestWhoIsCalledOtherwiseIsSealedUnderBothNames renames somebody as a lead does: the chain has both names, and is whole.
func TestWhoIsCalledOtherwiseIsSealedUnderBothNames(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
	h.Whole(t)
	h.App.MustExec(`UPDATE people SET name = 'Ines Calloway' WHERE id = 1`)
	// What is not called otherwise is not sealed again.
	h.App.MustExec(`UPDATE people SET name = name WHERE id = 2`)
	var names []string
	for deadline := time.Now().Add(20 * time.Second); len(names) < 2 && time.Now().Before(deadline); time.Sleep(50 * time.Millisecond) {
		h.Whole(t)
		if err := h.Owner.Select(&names, `
			SELECT encode(words, 'escape') FROM seals WHERE kind = 'person' AND row_id IN (1, 2) ORDER BY row_id, position`); err != nil {
			t.Fatal(err)
		}
		if len(names) < 3 {
			names = nil
		}
	}
	if len(names) != 3 || !strings.Contains(names[0], "Some lead") || !strings.Contains(names[1], "Ines Calloway") {
		t.Errorf("sealed are the names %q", names)
	}
}

// TestTheHeadGoesOutByItself: a line at once, one more once there is a newer seal, and none where there is not; each is signed,
// and what stands in the file proves the chain.
func TestTheHeadGoesOutByItself(t *testing.T) {
	t.Parallel()
	h, file := world.New(t), filepath.Join(t.TempDir(), "heads")
	open, key, err := ed25519.GenerateKey(nil)
	if err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(context.Background())
	done := make(chan struct{})
	defer func() { stop(); <-done }()
	heads := func() []string {
		text, _ := os.ReadFile(file)
		return strings.Split(string(text), "\n")
	}
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
	h.Whole(t)
	go func() { defer close(done); ledger.KeepHeads(ctx, h.App, key, file, 5*time.Millisecond) }()
	for range 3 {
		lines, newest := 0, int64(0)
		if head, err := ledger.ReadHead(ctx, h.Owner, time.Now()); err != nil {
			t.Fatal(err)
		} else {
			newest = head.Position
		}
		for deadline := time.Now().Add(20 * time.Second); ; time.Sleep(5 * time.Millisecond) {
			lines = len(heads()) - 1
			if head, err := ledger.ReadSigned(heads()[max(lines-1, 0)], open); err == nil && head.Position == newest {
				if r, err := ledger.VerifySince(ctx, h.Owner, head); err != nil || r.First != nil {
					t.Fatalf("held against line %d it is %+v: %v", lines, r.First, err)
				}
				break
			}
			if time.Now().After(deadline) {
				t.Fatalf("seal %d does not go out: %q", newest, heads())
			}
		}
		time.Sleep(30 * time.Millisecond)
		if now := len(heads()) - 1; now != lines {
			t.Fatalf("%d lines went out, and then %d without a newer seal", lines, now)
		}
		h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 5)
		h.Whole(t)
	}
}
