package retention_test

import (
	"context"
	"fmt"
	"os"
	"testing"
	"time"

	"lanternrow/internal/platform/retention"
	"lanternrow/internal/test/world"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

// TestWhatIsOldGoesAndWhatMustStayStays writes of each kind what is too old, however much, what is not, and what waits or must
// stay whatever its age: the first goes and nothing else.
func TestWhatIsOldGoesAndWhatMustStayStays(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	h.Owner.MustExec(`
		INSERT INTO requests (person_id, key, fingerprint, answer, at)
		SELECT 1, 'old ' || n, ''::bytea, '1'::jsonb, now() - interval '31 days' FROM generate_series(1, 2500) AS n
		 UNION ALL SELECT 1, 'young ' || n, ''::bytea, '1'::jsonb, now() - interval '29 days' FROM generate_series(1, 3) AS n;
		INSERT INTO access_events (at, kind)
		SELECT now() - days * interval '1 day', kind FROM unnest(ARRAY[99, 101]) AS days, unnest(ARRAY['sign_on_failed', 'signed_on']) AS kind;
		INSERT INTO outbox (site_id, channel, receiver, kind, document, body, state, next_at, asked_by, asked_at, done_at)
		SELECT 1, channel, 'r', 'k', channel || days || state, '{}', state, now(), 1, now(),
		       CASE WHEN state = 'done' THEN now() - days * interval '1 day' END
		  FROM unnest(ARRAY[99, 101]) AS days, unnest(ARRAY['mail', 'carrier']) AS channel, unnest(ARRAY['done', 'waiting']) AS state;
		INSERT INTO print_jobs (site_id, title, document, labels, copies, printed, asked_by, asked_at)
		SELECT 1, 't', 'd', '[]', 1, printed, 1, now() - days * interval '1 day' FROM unnest(ARRAY[99, 101]) AS days, unnest(ARRAY[0, 1]) AS printed;
		INSERT INTO schedules (site_id, task, rule, settings, next_at, changed_by, changed_at, last_change)
		VALUES (1, 't', '{}', '{}', now(), 1, now(), 'set it up');
		INSERT INTO schedule_runs (schedule_id, ran_at, outcome, words)
		SELECT 1, now() - days * interval '1 day', 'did', '' FROM unnest(ARRAY[99, 101]) AS days`)
	gone, err := retention.Prune(context.Background(), h.App, time.Now(), 100*24*time.Hour)
	want := "map[answers:2500 failures to sign on:1 printed labels:1 sent messages:1 what schedules did:1]"
	if err != nil || fmt.Sprint(gone) != want {
		t.Errorf("gone are %v (%v), and not %s", gone, err, want)
	}
	// However short it is to be kept, failures of the last month stay, and so does who signed on.
	if gone, err = retention.Prune(context.Background(), h.App, time.Now().Add(200*24*time.Hour), 0); err != nil || gone["failures to sign on"] != 1 {
		t.Errorf("then %v went (%v)", gone, err)
	}
	var kinds string
	if err := h.App.Get(&kinds, `SELECT string_agg(kind, ' ') FROM access_events`); err != nil || kinds != "signed_on signed_on" {
		t.Errorf("of who signed on there is %q (%v)", kinds, err)
	}
	for _, statement := range []string{"DELETE FROM access_events", "UPDATE access_events SET detail = 'x'", "TRUNCATE access_events"} {
		if _, err := h.Owner.Exec(statement); err == nil {
			t.Errorf("even the owner may %s", statement)
		}
	}
}
