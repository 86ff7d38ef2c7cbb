-- +goose Up
-- Goods are recalled by lots and units. While they are held, what is left of them is in a condition of its own, and nothing of
-- them goes on as good.
CREATE SEQUENCE recall_numbers START 101;
CREATE TABLE recalls (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number   text NOT NULL UNIQUE DEFAULT 'RL-' || nextval('recall_numbers'),
    -- What it was begun from, as people know it.
    source   text NOT NULL CHECK (source <> ''),
    reason   text NOT NULL CHECK (reason <> ''),
    -- A drill holds nothing; how long it took is kept.
    drill    boolean NOT NULL,
    begun_by integer NOT NULL REFERENCES people,
    begun_at timestamptz NOT NULL,
    ended_by integer REFERENCES people,
    ended_at timestamptz,
    -- What its page said when it ended.
    report   jsonb,
    CHECK ((ended_by IS NULL) = (ended_at IS NULL) AND (ended_at IS NULL) = (report IS NULL))
);
CREATE TABLE recall_goods (
    recall_id   bigint NOT NULL REFERENCES recalls,
    lot_id      bigint REFERENCES lots,
    serial_id   bigint REFERENCES serials,
    held_at     timestamptz,
    cleared_by  integer REFERENCES people,
    cleared_at  timestamptz,
    cleared_why text NOT NULL DEFAULT '',
    CHECK (num_nonnulls(lot_id, serial_id) = 1),
    CHECK ((cleared_by IS NULL) = (cleared_at IS NULL) AND (cleared_at IS NULL OR held_at IS NOT NULL)),
    UNIQUE NULLS NOT DISTINCT (recall_id, lot_id, serial_id)
);
CREATE INDEX recall_goods_lot ON recall_goods (lot_id) WHERE held_at IS NOT NULL AND cleared_at IS NULL;
CREATE INDEX recall_goods_serial ON recall_goods (serial_id) WHERE held_at IS NOT NULL AND cleared_at IS NULL;
GRANT SELECT, INSERT ON recalls, recall_goods TO lanternrow_app;
GRANT UPDATE (ended_by, ended_at, report) ON recalls TO lanternrow_app;
GRANT UPDATE (held_at, cleared_by, cleared_at, cleared_why) ON recall_goods TO lanternrow_app;
GRANT USAGE ON SEQUENCE recall_numbers TO lanternrow_app;

-- The kinds of postings and the conditions of goods that there are.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION posting_kinds() RETURNS text[] LANGUAGE sql IMMUTABLE AS $$
    SELECT ARRAY['receive', 'reverse_receipt', 'inspect', 'release', 'put_away_load', 'put_away', 'put_away_return',
        'move', 'refill_load', 'refill', 'refill_return', 'pick', 'stage', 'pack', 'unpack', 'restock', 'load', 'unload',
        'ship', 'reverse_shipment', 'count', 'decide_return', 'dispose', 'settle_difference', 'hold']
$$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION conditions() RETURNS text[] LANGUAGE sql IMMUTABLE AS $$
    SELECT ARRAY['good', 'waiting', 'on_hold', 'damaged', 'returned', 'recalled']
$$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION move_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.quantity <= 0 OR NEW.unit_cost < 0 OR NEW.serial_id IS NOT NULL AND NEW.quantity <> 1
       OR NEW.from_location = NEW.to_location AND NEW.from_condition = NEW.to_condition
          AND NEW.from_carton IS NOT DISTINCT FROM NEW.to_carton
       OR NEW.from_condition <> ALL (public.conditions()) OR NEW.to_condition <> ALL (public.conditions()) THEN
        RAISE EXCEPTION 'this is no move: %', to_jsonb(NEW) USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION balance_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.reserved < 0 OR NEW.reserved > NEW.quantity OR NEW.serial_id IS NOT NULL AND NEW.quantity > 1
       OR NEW.condition <> ALL (public.conditions()) THEN
        RAISE EXCEPTION 'this is no balance: %', to_jsonb(NEW) USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd

-- move_held refuses to take held goods on as good ones: into a round, a carton, a vehicle or to a customer, or back among what
-- is free. What only takes them back the way they came is let through.
-- +goose StatementBegin
CREATE FUNCTION move_held() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    hold record;
BEGIN
    SELECT r.number, r.reason INTO hold FROM public.recall_goods g JOIN public.recalls r ON r.id = g.recall_id
     WHERE g.held_at IS NOT NULL AND g.cleared_at IS NULL AND (g.lot_id = NEW.lot_id OR g.serial_id = NEW.serial_id) LIMIT 1;
    IF FOUND AND NOT EXISTS (SELECT FROM public.postings WHERE id = NEW.posting_id AND kind IN ('reverse_receipt', 'put_away_return',
        'refill_return', 'move', 'unpack', 'restock', 'unload', 'reverse_shipment', 'count', 'dispose', 'settle_difference')) THEN
        RAISE EXCEPTION 'held goods stay' USING ERRCODE = 'LR011', DETAIL = json_build_object('recall', hold.number, 'reason',
            hold.reason, 'item', NEW.item_id, 'lot', NEW.lot_id, 'serial', NEW.serial_id);
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
CREATE TRIGGER move_held BEFORE INSERT ON moves FOR EACH ROW
    WHEN (NEW.to_condition = 'good' AND (NEW.lot_id IS NOT NULL OR NEW.serial_id IS NOT NULL)) EXECUTE FUNCTION move_held();

-- +goose Down
DROP FUNCTION move_held() CASCADE;
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
DROP FUNCTION conditions();
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION posting_kinds() RETURNS text[] LANGUAGE sql IMMUTABLE AS $$
    SELECT ARRAY['receive', 'reverse_receipt', 'inspect', 'release', 'put_away_load', 'put_away', 'put_away_return',
        'move', 'refill_load', 'refill', 'refill_return', 'pick', 'stage', 'pack', 'unpack', 'restock', 'load', 'unload',
        'ship', 'reverse_shipment', 'count', 'decide_return', 'dispose', 'settle_difference']
$$;
-- +goose StatementEnd
DROP TABLE recall_goods, recalls;
DROP SEQUENCE recall_numbers;
