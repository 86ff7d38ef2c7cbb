-- +goose Up
-- What came otherwise than it was shipped from a site of ours is a case until somebody settles it.
CREATE SEQUENCE transfer_case_numbers START 101;
CREATE TABLE transfer_cases (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number     text NOT NULL UNIQUE DEFAULT 'TC-' || nextval('transfer_case_numbers'),
    -- The second half of the transfer, and the line of it.
    line_id    bigint NOT NULL REFERENCES inbound_lines,
    kind       text NOT NULL CHECK (kind IN ('less', 'more', 'other_lot', 'damaged')),
    lot_id     bigint REFERENCES lots,
    -- The lot that came instead.
    came_lot   bigint REFERENCES lots CHECK (came_lot IS NULL OR kind IN ('other_lot', 'more')),
    quantity   numeric(14,3) NOT NULL CHECK (quantity > 0),
    serials    text[] NOT NULL DEFAULT '{}',
    note       text NOT NULL DEFAULT '',
    opened_by  integer NOT NULL REFERENCES people,
    opened_at  timestamptz NOT NULL,
    outcome    text CHECK (outcome IN ('received', 'back', 'lost', 'carrier')),
    value      numeric(14,2) NOT NULL DEFAULT 0,
    reason     text NOT NULL DEFAULT '',
    settled_by integer REFERENCES people,
    settled_at timestamptz,
    CHECK ((outcome IS NULL) = (settled_at IS NULL) AND (outcome IS NULL) = (settled_by IS NULL))
);
CREATE INDEX transfer_cases_line ON transfer_cases (line_id);
CREATE INDEX transfer_cases_open ON transfer_cases (id) WHERE outcome IS NULL;
GRANT SELECT, INSERT, UPDATE ON transfer_cases TO lanternrow_app;
GRANT USAGE ON SEQUENCE transfer_case_numbers TO lanternrow_app;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION posting_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.kind NOT IN ('receive', 'reverse_receipt', 'inspect', 'release', 'put_away_load', 'put_away',
       'put_away_return', 'move', 'pick', 'stage', 'pack', 'unpack', 'restock', 'load', 'unload', 'ship',
       'reverse_shipment', 'count', 'decide_return', 'dispose', 'settle_difference') THEN
        RAISE EXCEPTION 'there is no kind of posting "%"', NEW.kind USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION posting_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.kind NOT IN ('receive', 'reverse_receipt', 'inspect', 'release', 'put_away_load', 'put_away',
       'put_away_return', 'move', 'pick', 'stage', 'pack', 'unpack', 'restock', 'load', 'unload', 'ship',
       'reverse_shipment', 'count', 'decide_return', 'dispose') THEN
        RAISE EXCEPTION 'there is no kind of posting "%"', NEW.kind USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
DROP TABLE transfer_cases;
DROP SEQUENCE transfer_case_numbers;
