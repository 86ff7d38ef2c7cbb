-- +goose Up
-- Goods that came back from a customer and wait to be decided on are in a condition of their own. To decide on
-- them, and to take what is scrapped off the books, are kinds of postings.
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
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION move_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.quantity <= 0 OR NEW.unit_cost < 0 OR NEW.serial_id IS NOT NULL AND NEW.quantity <> 1
       OR NEW.from_location = NEW.to_location AND NEW.from_condition = NEW.to_condition
          AND NEW.from_carton IS NOT DISTINCT FROM NEW.to_carton
       OR NEW.from_condition NOT IN ('good', 'waiting', 'on_hold', 'damaged', 'returned')
       OR NEW.to_condition NOT IN ('good', 'waiting', 'on_hold', 'damaged', 'returned') THEN
        RAISE EXCEPTION 'this is no move: %', to_jsonb(NEW) USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION balance_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.reserved < 0 OR NEW.reserved > NEW.quantity OR NEW.serial_id IS NOT NULL AND NEW.quantity > 1
       OR NEW.condition NOT IN ('good', 'waiting', 'on_hold', 'damaged', 'returned') THEN
        RAISE EXCEPTION 'this is no balance: %', to_jsonb(NEW) USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd

-- Why customers send goods back.
CREATE TABLE return_reasons (
    id   integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name text NOT NULL UNIQUE CHECK (name <> '')
);
INSERT INTO return_reasons (name) VALUES ('does not work'), ('damaged on the way'), ('wrong item sent'),
    ('not wanted any more'), ('ordered too many');

-- What a return goes through, and what the customer gets for it and when.
CREATE TABLE return_kinds (
    id            integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name          text NOT NULL UNIQUE CHECK (name <> ''),
    -- Somebody approves it before its goods may come.
    approved      boolean NOT NULL DEFAULT false,
    gives         text NOT NULL CHECK (gives IN ('money', 'the same again', 'nothing')),
    gives_when    text NOT NULL CHECK (gives_when IN ('announced', 'received', 'decided')),
    taxed         boolean NOT NULL DEFAULT true,
    fee_pct       numeric(5,2) NOT NULL DEFAULT 0 CHECK (fee_pct BETWEEN 0 AND 100),
    -- How long after shipping it is taken, and how long it may take to come; any time where open.
    within_days   integer CHECK (within_days >= 0),
    send_in_days  integer NOT NULL DEFAULT 14 CHECK (send_in_days >= 0),
    retired       boolean NOT NULL DEFAULT false
);
INSERT INTO return_kinds (name, approved, gives, gives_when, within_days) VALUES
    ('Credit', false, 'money', 'decided', 90),
    ('Same again', false, 'the same again', 'received', 365),
    ('Refused delivery', false, 'money', 'received', 30),
    ('Repair', false, 'nothing', 'decided', NULL);

-- The commercial side of a return: an inbound order from a customer.
CREATE TABLE returns (
    order_id    bigint PRIMARY KEY REFERENCES inbound_orders,
    kind_id     integer NOT NULL REFERENCES return_kinds,
    announced_at timestamptz NOT NULL,
    approved_by integer REFERENCES people,
    approved_at timestamptz,
    settled_by  integer REFERENCES people,
    settled_at  timestamptz,
    -- What the customer got: a credit note, none where nothing had been invoiced; or goods.
    replacement_id bigint UNIQUE REFERENCES outbound_orders,
    CHECK ((approved_by IS NULL) = (approved_at IS NULL)),
    CHECK ((settled_by IS NULL) = (settled_at IS NULL))
);
-- A line of a return: what of which shipment comes back, and why. A lot is one line.
CREATE TABLE return_lines (
    line_id      bigint PRIMARY KEY REFERENCES inbound_lines,
    shipment_id  bigint NOT NULL REFERENCES shipments,
    sold_line_id bigint NOT NULL REFERENCES outbound_lines,
    lot_id       bigint REFERENCES lots,
    reason_id    integer NOT NULL REFERENCES return_reasons,
    said         text NOT NULL DEFAULT ''
);
CREATE INDEX return_lines_sold ON return_lines (shipment_id, sold_line_id);
-- The units that come back, where they are known.
CREATE TABLE return_units (
    line_id   bigint NOT NULL REFERENCES return_lines,
    serial_id bigint NOT NULL REFERENCES serials,
    PRIMARY KEY (line_id, serial_id)
);
CREATE INDEX return_units_serial ON return_units (serial_id);
-- What was decided to be done with goods that came back. Decisions stand.
CREATE TABLE return_decisions (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    line_id    bigint NOT NULL REFERENCES return_lines,
    fate       text NOT NULL CHECK (fate IN ('stock', 'quarantine', 'damaged', 'repair', 'supplier', 'scrap')),
    quantity   numeric(14,3) NOT NULL CHECK (quantity > 0),
    serials    text NOT NULL DEFAULT '',
    -- What it was worth, where it was scrapped or goes back to its supplier.
    value      numeric(14,2) NOT NULL DEFAULT 0,
    reason     text NOT NULL DEFAULT '',
    posting_id bigint NOT NULL REFERENCES postings,
    -- The order that it goes out with: to its supplier, or repaired to its customer.
    outbound_id bigint REFERENCES outbound_orders,
    decided_by integer NOT NULL REFERENCES people,
    decided_at timestamptz NOT NULL
);
CREATE INDEX return_decisions_line ON return_decisions (line_id);
-- What came back before it was invoiced is not invoiced any more; what was invoiced is credited by a note of
-- the return.
ALTER TABLE shipment_lines ADD COLUMN given_up numeric(14,3) NOT NULL DEFAULT 0 CHECK (given_up >= 0),
    ADD CONSTRAINT shipment_lines_open CHECK (invoiced + given_up <= quantity);
ALTER TABLE invoices ADD COLUMN return_id bigint REFERENCES returns;
CREATE INDEX invoices_return ON invoices (return_id) WHERE return_id IS NOT NULL;
GRANT SELECT, INSERT, UPDATE ON return_reasons, return_kinds, returns TO lanternrow_app;
GRANT UPDATE (outbound_id) ON return_decisions TO lanternrow_app;
GRANT SELECT, INSERT ON return_lines, return_units, return_decisions TO lanternrow_app;

-- +goose Down
ALTER TABLE invoices DROP COLUMN return_id;
ALTER TABLE shipment_lines DROP CONSTRAINT shipment_lines_open, DROP COLUMN given_up;
DROP TABLE return_decisions, return_units, return_lines, returns, return_kinds, return_reasons;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION posting_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.kind NOT IN ('receive', 'reverse_receipt', 'inspect', 'release', 'put_away_load', 'put_away',
       'put_away_return', 'move', 'pick', 'stage', 'pack', 'unpack', 'restock', 'load', 'unload', 'ship',
       'reverse_shipment', 'count') THEN
        RAISE EXCEPTION 'there is no kind of posting "%"', NEW.kind USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION move_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.quantity <= 0 OR NEW.unit_cost < 0 OR NEW.serial_id IS NOT NULL AND NEW.quantity <> 1
       OR NEW.from_location = NEW.to_location AND NEW.from_condition = NEW.to_condition
          AND NEW.from_carton IS NOT DISTINCT FROM NEW.to_carton
       OR NEW.from_condition NOT IN ('good', 'waiting', 'on_hold', 'damaged')
       OR NEW.to_condition NOT IN ('good', 'waiting', 'on_hold', 'damaged') THEN
        RAISE EXCEPTION 'this is no move: %', to_jsonb(NEW) USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION balance_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.reserved < 0 OR NEW.reserved > NEW.quantity OR NEW.serial_id IS NOT NULL AND NEW.quantity > 1
       OR NEW.condition NOT IN ('good', 'waiting', 'on_hold', 'damaged') THEN
        RAISE EXCEPTION 'this is no balance: %', to_jsonb(NEW) USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
