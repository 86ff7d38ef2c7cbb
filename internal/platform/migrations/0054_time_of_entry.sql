-- +goose Up
-- A clock that is set back would have goods move before what is kept already of where they stood, and what is read of the past
-- would leave those moves out for ever. The time of entry waits there until the clock has come that far again.
-- +goose StatementBegin
CREATE FUNCTION ledger_now() RETURNS timestamptz LANGUAGE sql VOLATILE AS $$
    SELECT greatest(clock_timestamp(), (SELECT until + interval '1 microsecond' FROM public.tallied))
$$;
-- +goose StatementEnd
-- Of the function that posts nothing else changes.
-- +goose StatementBegin
DO $$
DECLARE
    was text := pg_get_functiondef('ledger_post(jsonb, jsonb)'::regprocedure);
    becomes text := replace(was, 'at timestamptz := clock_timestamp();', 'at timestamptz := public.ledger_now();');
BEGIN
    IF becomes = was THEN
        RAISE EXCEPTION 'the function that posts does not read the clock as it did';
    END IF;
    EXECUTE becomes;
END $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
DO $$
BEGIN
    EXECUTE replace(pg_get_functiondef('ledger_post(jsonb, jsonb)'::regprocedure), 'at timestamptz := public.ledger_now();',
                    'at timestamptz := clock_timestamp();');
END $$;
-- +goose StatementEnd
DROP FUNCTION ledger_now;
