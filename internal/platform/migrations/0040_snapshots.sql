-- +goose Up
-- What stood where at some instants gone by, so that any other instant costs no more moves than there are between two of them. They
-- are made from the moves alone, and whoever doubts one may throw it away.
CREATE TABLE snapshots (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    taken_at  timestamptz NOT NULL UNIQUE,
    -- The newest move when it was made, so that it is known how many there are since.
    last_move bigint NOT NULL
);
CREATE TABLE snapshot_lines (
    snapshot_id bigint NOT NULL REFERENCES snapshots ON DELETE CASCADE,
    location_id integer NOT NULL,
    item_id     integer NOT NULL,
    lot_id      bigint,
    condition   text NOT NULL,
    quantity    numeric(14,3) NOT NULL
);
CREATE INDEX snapshot_lines_location ON snapshot_lines (snapshot_id, location_id);

-- What stood where at an instant, over all cartons and units; at one location, or at all where it is null. It begins from the nearest
-- of a snapshot before, one after, and now, and puts on it or takes off it what moved between.
-- +goose StatementBegin
CREATE FUNCTION ledger_stood(at timestamptz, place integer DEFAULT NULL)
RETURNS TABLE (location_id integer, item_id integer, lot_id bigint, condition text, quantity numeric)
LANGUAGE plpgsql STABLE ROWS 10000 AS $$
DECLARE before public.snapshots; after public.snapshots;
BEGIN
    SELECT * INTO before FROM public.snapshots s WHERE s.taken_at <= at ORDER BY s.taken_at DESC LIMIT 1;
    SELECT * INTO after FROM public.snapshots s WHERE s.taken_at > at ORDER BY s.taken_at LIMIT 1;
    IF before.id IS NOT NULL AND (after.id IS NULL OR at - before.taken_at < after.taken_at - at)
       AND (after.id IS NOT NULL OR at - before.taken_at < clock_timestamp() - at) THEN
        RETURN QUERY
        SELECT t.location_id, t.item_id, t.lot_id, t.condition, sum(t.quantity) FROM (
            SELECT l.location_id, l.item_id, l.lot_id, l.condition, l.quantity FROM public.snapshot_lines l
             WHERE l.snapshot_id = before.id AND (place IS NULL OR l.location_id = place)
            UNION ALL
            SELECT e.location_id, e.item_id, e.lot_id, e.condition, e.delta
              FROM public.postings p JOIN public.moves m ON m.posting_id = p.id JOIN public.move_ends e ON e.move_id = m.id
             WHERE p.entered_at > before.taken_at AND p.entered_at <= at AND (place IS NULL OR e.location_id = place)) AS t
         GROUP BY 1, 2, 3, 4 HAVING sum(t.quantity) <> 0;
    ELSIF after.id IS NOT NULL THEN
        RETURN QUERY
        SELECT t.location_id, t.item_id, t.lot_id, t.condition, sum(t.quantity) FROM (
            SELECT l.location_id, l.item_id, l.lot_id, l.condition, l.quantity FROM public.snapshot_lines l
             WHERE l.snapshot_id = after.id AND (place IS NULL OR l.location_id = place)
            UNION ALL
            SELECT e.location_id, e.item_id, e.lot_id, e.condition, -e.delta
              FROM public.postings p JOIN public.moves m ON m.posting_id = p.id JOIN public.move_ends e ON e.move_id = m.id
             WHERE p.entered_at > at AND p.entered_at <= after.taken_at AND (place IS NULL OR e.location_id = place)) AS t
         GROUP BY 1, 2, 3, 4 HAVING sum(t.quantity) <> 0;
    ELSE
        RETURN QUERY
        SELECT t.location_id, t.item_id, t.lot_id, t.condition, sum(t.quantity) FROM (
            SELECT b.location_id, b.item_id, b.lot_id, b.condition, b.quantity FROM public.balances b
             WHERE place IS NULL OR b.location_id = place
            UNION ALL
            SELECT e.location_id, e.item_id, e.lot_id, e.condition, -e.delta
              FROM public.postings p JOIN public.moves m ON m.posting_id = p.id JOIN public.move_ends e ON e.move_id = m.id
             WHERE p.entered_at > at AND (place IS NULL OR e.location_id = place)) AS t
         GROUP BY 1, 2, 3, 4 HAVING sum(t.quantity) <> 0;
    END IF;
END $$;
-- +goose StatementEnd

-- Takes a snapshot once so many moves were made since the last, and says whether it did: of an instant so long ago, and before any
-- transaction began that still runs, so that no posting of before can come after it.
-- +goose StatementBegin
CREATE FUNCTION ledger_snapshot(every integer, behind interval) RETURNS boolean
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE newest bigint; instant timestamptz;
BEGIN
    IF NOT pg_try_advisory_xact_lock(7205759404) THEN
        RETURN false;
    END IF;
    SELECT max(id) INTO newest FROM moves;
    IF coalesce(newest, 0) - coalesce((SELECT max(last_move) FROM snapshots), 0) < every THEN
        RETURN false;
    END IF;
    SELECT least(clock_timestamp() - behind, min(xact_start)) INTO instant FROM pg_stat_activity
     WHERE datname = current_database() AND pid <> pg_backend_pid();
    IF instant <= coalesce((SELECT max(taken_at) FROM snapshots), '-infinity')
       OR NOT EXISTS (SELECT FROM postings WHERE entered_at <= instant ORDER BY id LIMIT 1) THEN
        RETURN false;
    END IF;
    -- In one statement, so that what is read sees no snapshot that has no lines yet.
    WITH made AS (INSERT INTO snapshots (taken_at, last_move) VALUES (instant, newest) RETURNING id)
    INSERT INTO snapshot_lines SELECT made.id, s.* FROM made, ledger_stood(instant) AS s;
    RETURN true;
END $$;
-- +goose StatementEnd
REVOKE EXECUTE ON FUNCTION ledger_snapshot FROM PUBLIC;
GRANT EXECUTE ON FUNCTION ledger_snapshot TO lanternrow_app;
GRANT SELECT ON snapshots, snapshot_lines TO lanternrow_app;

-- +goose Down
DROP FUNCTION ledger_snapshot;
DROP FUNCTION ledger_stood;
DROP TABLE snapshot_lines;
DROP TABLE snapshots;
