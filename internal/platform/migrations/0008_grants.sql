-- +goose Up
-- The application works under this role: it may read everything, write documents,
-- and reach stock through the ledger's functions only.
-- +goose StatementBegin
DO $$
BEGIN
    CREATE ROLE lanternrow_app NOLOGIN;
EXCEPTION WHEN duplicate_object OR unique_violation THEN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
DO $$
BEGIN
    IF NOT pg_has_role(current_user, 'lanternrow_app', 'member') THEN
        EXECUTE format('GRANT lanternrow_app TO %I', current_user);
    END IF;
END $$;
-- +goose StatementEnd
GRANT USAGE ON SCHEMA public TO lanternrow_app;
GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO lanternrow_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO lanternrow_app;
REVOKE INSERT, UPDATE, DELETE ON postings, moves, balances, item_costs, reservations, seals FROM lanternrow_app;
REVOKE EXECUTE ON FUNCTION ledger_side, ledger_cost, ledger_swap, ledger_post, ledger_reserve, ledger_unreserve,
ledger_seal FROM PUBLIC;
GRANT EXECUTE ON FUNCTION ledger_post, ledger_reserve, ledger_unreserve, ledger_seal TO lanternrow_app;

-- +goose Down
DROP OWNED BY lanternrow_app;
