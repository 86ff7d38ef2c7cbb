-- +goose Up
-- Moves are sealed in the order of their transactions. A database that is restored elsewhere counts transactions anew: an era begins, in
-- which they go on from where they were.
CREATE TABLE ledger_era (
    only_one boolean PRIMARY KEY DEFAULT true CHECK (only_one),
    ahead    bigint NOT NULL CHECK (ahead >= 0)
);
INSERT INTO ledger_era (ahead) VALUES (0);
REVOKE ALL ON ledger_era FROM lanternrow_app;
GRANT SELECT ON ledger_era TO lanternrow_app;

-- The number of this transaction in the order of all there ever were, and that behind which none still runs.
-- +goose StatementBegin
CREATE FUNCTION ledger_xid() RETURNS xid8 LANGUAGE sql AS $$
    SELECT (pg_current_xact_id()::text::bigint + (SELECT ahead FROM public.ledger_era))::text::xid8
$$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION ledger_settled() RETURNS xid8 LANGUAGE sql STABLE AS $$
    SELECT (pg_snapshot_xmin(pg_current_snapshot())::text::bigint + (SELECT ahead FROM public.ledger_era))::text::xid8
$$;
-- +goose StatementEnd
ALTER TABLE postings ALTER COLUMN xid SET DEFAULT ledger_xid();

-- Begins an era, once a dump is restored and before anything is posted: what is posted from now on stands behind what was.
-- +goose StatementBegin
CREATE FUNCTION ledger_new_era() RETURNS bigint LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    UPDATE ledger_era SET ahead = greatest(0, 1 - pg_current_xact_id()::text::bigint
           + coalesce((SELECT max(xid::text::bigint) FROM postings), 0)) RETURNING ahead
$$;
-- +goose StatementEnd
REVOKE EXECUTE ON FUNCTION ledger_new_era FROM PUBLIC;

-- +goose Down
ALTER TABLE postings ALTER COLUMN xid SET DEFAULT pg_current_xact_id();
DROP FUNCTION ledger_new_era;
DROP FUNCTION ledger_settled;
DROP FUNCTION ledger_xid;
DROP TABLE ledger_era;
