package command_test

import (
	"context"
	"testing"
	"time"

	"lanternrow/internal/platform/command"
	"lanternrow/internal/test/world"
)

// TestOldAnswersGo keeps what may still be repeated, however much goes.
func TestOldAnswersGo(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	h.Owner.MustExec(`
		INSERT INTO requests (person_id, key, fingerprint, answer, at)
		SELECT 1, 'old ' || n, ''::bytea, '1'::jsonb, now() - interval '31 days' FROM generate_series(1, 2500) AS n
		 UNION ALL SELECT 1, 'young ' || n, ''::bytea, '1'::jsonb, now() - interval '29 days' FROM generate_series(1, 3) AS n`)
	gone, err := command.Prune(context.Background(), h.App, time.Now())
	if err != nil || gone != 2500 {
		t.Fatalf("%d answers went (%v)", gone, err)
	}
	var left int
	if err := h.App.Get(&left, `SELECT count(*) FROM requests WHERE key LIKE 'young%'`); err != nil || left != 3 {
		t.Errorf("%d of 3 are left (%v)", left, err)
	}
}
