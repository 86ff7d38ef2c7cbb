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

-- Postings are looked for between two instants, and the latest before one: the blocks that may have them are too many where there is much
-- to do.
DROP INDEX postings_entered;
CREATE INDEX postings_entered ON postings (entered_at);

-- What moves made of stock between two instants: what each left and what each came to, over all cartons and units. Posting by posting,
-- since it is always few of many.
-- +goose StatementBegin
CREATE FUNCTION ledger_between(after timestamptz, until timestamptz, place integer)
RETURNS TABLE (location_id integer, item_id integer, lot_id bigint, condition text, delta numeric)
LANGUAGE sql STABLE ROWS 5000 AS $$
    SELECT x.location_id, m.item_id, m.lot_id, x.condition, x.delta
      FROM public.postings p CROSS JOIN LATERAL (
           SELECT m.*, i.tracking FROM public.moves m JOIN public.items i ON i.id = m.item_id WHERE m.posting_id = p.id OFFSET 0) AS mi
      CROSS JOIN LATERAL (SELECT mi.item_id, CASE WHEN mi.tracking <> 'lot_out' THEN mi.lot_id END AS lot_id) AS m
      CROSS JOIN LATERAL (VALUES (mi.from_location, mi.from_condition, -mi.quantity, mi.from_after IS NOT NULL),
           (mi.to_location, mi.to_condition, mi.quantity, mi.to_after IS NOT NULL)) AS x(location_id, condition, delta, ours)
     WHERE p.entered_at > after AND p.entered_at <= until AND x.ours AND (place IS NULL OR x.location_id = place)
$$;
-- +goose StatementEnd

-- What stood where at an instant, over all cartons and units; at one location, or at all where it is null. It begins from the nearest
-- of a snapshot before, one after, and now, and puts on it or takes off it what moved between.
-- +goose StatementBegin
CREATE FUNCTION ledger_stood(at timestamptz, place integer DEFAULT NULL)
RETURNS TABLE (location_id integer, item_id integer, lot_id bigint, condition text, quantity numeric)
LANGUAGE plpgsql STABLE ROWS 10000 AS $$
DECLARE before public.snapshots; after public.snapshots; base bigint; begins timestamptz; ends timestamptz; sign numeric;
BEGIN
    SELECT * INTO before FROM public.snapshots s WHERE s.taken_at <= at ORDER BY s.taken_at DESC LIMIT 1;
    SELECT * INTO after FROM public.snapshots s WHERE s.taken_at > at ORDER BY s.taken_at LIMIT 1;
    IF before.id IS NOT NULL AND at - before.taken_at < coalesce(after.taken_at, clock_timestamp()) - at THEN
        base := before.id; begins := before.taken_at; ends := at; sign := 1;
    ELSE
        base := after.id; begins := at; ends := coalesce(after.taken_at, 'infinity'); sign := -1;
    END IF;
    RETURN QUERY
    SELECT t.location_id, t.item_id, t.lot_id, t.condition, sum(t.quantity) FROM (
        SELECT l.location_id, l.item_id, l.lot_id, l.condition, l.quantity FROM public.snapshot_lines l
         WHERE l.snapshot_id = base AND (place IS NULL OR l.location_id = place)
        UNION ALL
        SELECT b.location_id, b.item_id, b.lot_id, b.condition, b.quantity FROM public.balances b
         WHERE base IS NULL AND (place IS NULL OR b.location_id = place)
        UNION ALL
        SELECT e.location_id, e.item_id, e.lot_id, e.condition, sign * e.delta FROM public.ledger_between(begins, ends, place) AS e) AS t
     GROUP BY 1, 2, 3, 4 HAVING sum(t.quantity) <> 0;
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
DROP FUNCTION ledger_between;
DROP INDEX postings_entered;
CREATE INDEX postings_entered ON postings USING brin (entered_at) WITH (pages_per_range = 16);
DROP TABLE snapshot_lines;
DROP TABLE snapshots;
