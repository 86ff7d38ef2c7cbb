-- +goose Up
-- What failed to sign on is kept for a while; who did sign on, and who gave whom which rights, for good.
DROP TRIGGER access_events_stand ON access_events;
CREATE TRIGGER access_events_stand BEFORE UPDATE OR TRUNCATE ON access_events FOR EACH STATEMENT EXECUTE FUNCTION history_stands();
CREATE TRIGGER access_events_last BEFORE DELETE ON access_events FOR EACH ROW
    WHEN (OLD.kind NOT IN ('sign_on_failed', 'sign_on_barred') OR OLD.at > now() - interval '30 days')
    EXECUTE FUNCTION history_stands();
DROP FUNCTION access_events_stand;
-- Forgets so many failures to sign on from before an instant, and tells how many those were.
-- +goose StatementBegin
CREATE FUNCTION access_forget(before timestamptz, most integer) RETURNS bigint
LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    WITH gone AS (
        DELETE FROM access_events WHERE id IN (
            SELECT id FROM access_events WHERE kind IN ('sign_on_failed', 'sign_on_barred')
               AND at < least(before, now() - interval '30 days') ORDER BY id LIMIT most) RETURNING 1)
    SELECT count(*) FROM gone
$$;
-- +goose StatementEnd
REVOKE EXECUTE ON FUNCTION access_forget FROM PUBLIC;
GRANT EXECUTE ON FUNCTION access_forget TO lanternrow_app;
CREATE INDEX access_events_failures ON access_events (at) WHERE kind IN ('sign_on_failed', 'sign_on_barred');
CREATE INDEX outbox_over ON outbox (done_at) WHERE state <> 'waiting' AND channel <> 'carrier';
CREATE INDEX print_jobs_over ON print_jobs (asked_at) WHERE printed >= copies OR discarded;
CREATE INDEX schedule_runs_time ON schedule_runs (ran_at);

-- +goose Down
DROP INDEX schedule_runs_time, print_jobs_over, outbox_over, access_events_failures;
DROP FUNCTION access_forget;
DROP TRIGGER access_events_last ON access_events;
DROP TRIGGER access_events_stand ON access_events;
-- +goose StatementBegin
CREATE FUNCTION access_events_stand() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'what happened is not changed' USING ERRCODE = 'LR001';
END $$;
-- +goose StatementEnd
CREATE TRIGGER access_events_stand BEFORE UPDATE OR DELETE OR TRUNCATE ON access_events
    FOR EACH STATEMENT EXECUTE FUNCTION access_events_stand();
