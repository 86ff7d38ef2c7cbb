-- +goose Up
-- Whoever serves logs in as somebody who is not the owner. The time of entry is the owner's to set, whatever role a session
-- that logged in otherwise puts on or takes off.
-- +goose StatementBegin
DO $$
DECLARE f regproc;
BEGIN
    FOREACH f IN ARRAY ARRAY['ledger_post'::regproc, 'ledger_recost'::regproc] LOOP
        EXECUTE replace(pg_get_functiondef(f), $q$current_setting('role') <> 'none'$q$,
                        $q$current_setting('role') <> 'none' OR NOT pg_has_role(session_user, current_user, 'member')$q$);
    END LOOP;
END $$;
-- +goose StatementEnd

-- What the schema is at is the owner's to say.
REVOKE INSERT, UPDATE, DELETE ON goose_db_version FROM lanternrow_app;
GRANT SELECT ON goose_db_version TO lanternrow_app;
-- +goose StatementBegin
DO $$
BEGIN
    IF to_regclass('public.migration_prints') IS NOT NULL THEN
        REVOKE ALL ON migration_prints FROM lanternrow_app;
        GRANT SELECT ON migration_prints TO lanternrow_app;
    END IF;
END $$;
-- +goose StatementEnd

-- Whose transactions a login sees begin: the instant of a snapshot is before the oldest that runs, whoever runs it.
-- +goose StatementBegin
CREATE FUNCTION ledger_sees(login name) RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, pg_temp AS $$
    SELECT pg_has_role(current_user, login, 'member') OR pg_has_role(current_user, 'pg_read_all_stats', 'member')
$$;
-- +goose StatementEnd

-- +goose Down
DROP FUNCTION ledger_sees;
GRANT INSERT, UPDATE, DELETE ON goose_db_version TO lanternrow_app;
-- +goose StatementBegin
DO $$
DECLARE f regproc;
BEGIN
    FOREACH f IN ARRAY ARRAY['ledger_post'::regproc, 'ledger_recost'::regproc] LOOP
        EXECUTE replace(pg_get_functiondef(f), $q$ OR NOT pg_has_role(session_user, current_user, 'member')$q$, '');
    END LOOP;
END $$;
-- +goose StatementEnd
