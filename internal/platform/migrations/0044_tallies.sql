-- +goose Up
-- How often goods of an item moved at a location, by kind of posting, up to an instant, so that what is to be counted costs no more
-- moves than there are since. It is made from the moves alone, and whoever doubts it may throw it away with its instant.
CREATE TABLE tallied (
    only_one boolean PRIMARY KEY DEFAULT true CHECK (only_one),
    until    timestamptz NOT NULL
);
INSERT INTO tallied (until) VALUES ('-infinity');
CREATE TABLE tallies (
    location_id integer NOT NULL,
    item_id     integer NOT NULL,
    kind        text NOT NULL,
    moves       bigint NOT NULL,
    first_at    timestamptz NOT NULL,
    last_at     timestamptz NOT NULL,
    PRIMARY KEY (location_id, item_id, kind)
);
GRANT SELECT ON tallied, tallies TO lanternrow_app;

-- The kinds of postings that move nothing by hand, so that no error comes of them.
-- +goose StatementBegin
CREATE FUNCTION moves_nothing(kind text) RETURNS boolean LANGUAGE sql IMMUTABLE AS $$
    SELECT kind IN ('count', 'hold', 'release')
$$;
-- +goose StatementEnd

-- Where goods of which items moved between two instants, and how: each move once at either end. Posting by posting, since it is always
-- few of many.
-- +goose StatementBegin
CREATE FUNCTION moved_between(after timestamptz, until timestamptz)
RETURNS TABLE (location_id integer, item_id integer, kind text, entered_at timestamptz) LANGUAGE plpgsql STABLE ROWS 5000 AS $$
BEGIN
    RETURN QUERY SELECT x.location_id, m.item_id, p.kind, p.entered_at
      FROM public.postings p CROSS JOIN LATERAL (SELECT * FROM public.moves m WHERE m.posting_id = p.id OFFSET 0) AS m
      CROSS JOIN LATERAL (VALUES (m.from_location, m.from_after IS NOT NULL),
           (m.to_location, m.to_after IS NOT NULL AND m.to_location <> m.from_location)) AS x(location_id, ours)
     WHERE p.entered_at > after AND p.entered_at <= until AND x.ours AND NOT public.moves_nothing(p.kind);
END $$;
-- +goose StatementEnd

-- How often goods moved until now: what is tallied, and what was moved since.
CREATE VIEW moved AS
    SELECT location_id, item_id, kind, moves, first_at, last_at FROM tallies
    UNION ALL
    SELECT location_id, item_id, kind, count(*), min(entered_at), max(entered_at)
      FROM moved_between((SELECT until FROM tallied), 'infinity') GROUP BY 1, 2, 3;
GRANT SELECT ON moved TO lanternrow_app;

-- How often goods of an item had moved at a location once a move there had been made, by kind.
-- +goose StatementBegin
CREATE FUNCTION moved_by(place integer, goods integer, as_of bigint) RETURNS jsonb LANGUAGE sql STABLE AS $$
    SELECT coalesce(jsonb_object_agg(t.kind, t.n), '{}') FROM (
        SELECT x.kind, sum(x.n) AS n FROM (
            SELECT m.kind, m.moves AS n FROM public.moved m WHERE m.location_id = place AND m.item_id = goods
            UNION ALL
            SELECT p.kind, -1 FROM public.postings p JOIN (
                SELECT posting_id FROM public.moves WHERE from_location = place AND item_id = goods AND id > as_of
                UNION ALL
                SELECT posting_id FROM public.moves
                 WHERE to_location = place AND item_id = goods AND id > as_of AND from_location <> to_location) AS l ON l.posting_id = p.id
             WHERE NOT public.moves_nothing(p.kind)) AS x GROUP BY 1 HAVING sum(x.n) > 0) AS t
$$;
-- +goose StatementEnd

-- tally_until adds what was moved until an instant. No posting of before may come after it.
-- +goose StatementBegin
CREATE FUNCTION tally_until(instant timestamptz) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    INSERT INTO tallies (location_id, item_id, kind, moves, first_at, last_at)
    SELECT location_id, item_id, kind, count(*), min(entered_at), max(entered_at)
      FROM moved_between((SELECT until FROM tallied), instant) GROUP BY 1, 2, 3 ORDER BY 1, 2, 3
    ON CONFLICT (location_id, item_id, kind) DO UPDATE
       SET moves = tallies.moves + excluded.moves, first_at = least(tallies.first_at, excluded.first_at),
           last_at = greatest(tallies.last_at, excluded.last_at);
    UPDATE tallied SET until = greatest(until, instant);
$$;
-- +goose StatementEnd
REVOKE EXECUTE ON FUNCTION tally_until FROM PUBLIC;

-- ledger_snapshot is as it was, and tallies what was moved until its instant.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_snapshot(every integer, behind interval) RETURNS boolean
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
    PERFORM tally_until(instant);
    RETURN true;
END $$;
-- +goose StatementEnd

SELECT tally_until(taken_at) FROM (SELECT max(taken_at) AS taken_at FROM snapshots) AS s WHERE taken_at IS NOT NULL;

-- How often goods had moved there when it was counted, by kind, so that it is known how often they moved since.
ALTER TABLE counts ADD COLUMN moved jsonb NOT NULL DEFAULT '{}';
UPDATE counts SET moved = moved_by(location_id, item_id, as_of);

-- +goose Down
ALTER TABLE counts DROP COLUMN moved;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_snapshot(every integer, behind interval) RETURNS boolean
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
    WITH made AS (INSERT INTO snapshots (taken_at, last_move) VALUES (instant, newest) RETURNING id)
    INSERT INTO snapshot_lines SELECT made.id, s.* FROM made, ledger_stood(instant) AS s;
    RETURN true;
END $$;
-- +goose StatementEnd
DROP FUNCTION tally_until;
DROP FUNCTION moved_by;
DROP VIEW moved;
DROP FUNCTION moved_between;
DROP FUNCTION moves_nothing;
DROP TABLE tallies, tallied;
