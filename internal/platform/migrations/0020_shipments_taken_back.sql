-- +goose Up
-- A shipment made by mistake is taken back by a paper of its own: its cartons stand packed again.
CREATE SEQUENCE taken_back_numbers;
GRANT USAGE ON SEQUENCE taken_back_numbers TO lanternrow_app;
ALTER TABLE shipments DROP CONSTRAINT shipments_state_check;
ALTER TABLE shipments
    ADD CONSTRAINT shipments_state_check CHECK (state IN ('left', 'asked', 'carried', 'refused', 'taken_back')),
    ADD COLUMN taken_back_number text UNIQUE,
    ADD COLUMN taken_back_at timestamptz,
    ADD COLUMN taken_back_by integer REFERENCES people,
    ADD COLUMN taken_back_reason text NOT NULL DEFAULT '',
    ADD CONSTRAINT shipments_taken_back CHECK ((state = 'taken_back') = (taken_back_at IS NOT NULL)
        AND (state = 'taken_back') = (taken_back_reason <> ''));
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
DROP TRIGGER state_step ON outbound_orders;
CREATE TRIGGER state_step BEFORE UPDATE OF state ON outbound_orders FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('quote>on_hold', 'quote>cancelled', 'on_hold>released', 'on_hold>shipped',
    'on_hold>cancelled', 'released>on_hold', 'released>shipped', 'released>cancelled', 'shipped>released');
DROP TRIGGER state_step ON carton_work;
CREATE TRIGGER state_step BEFORE UPDATE OF state ON carton_work FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('blank>open', 'open>at_bench', 'open>blank', 'open>shipped', 'at_bench>packed',
    'at_bench>blank', 'at_bench>shipped', 'packed>at_bench', 'packed>loaded', 'packed>shipped', 'loaded>packed',
    'loaded>shipped', 'shipped>packed');
DROP TRIGGER state_step ON shipments;
CREATE TRIGGER state_step BEFORE UPDATE OF state ON shipments FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('left>asked', 'asked>carried', 'asked>refused', 'refused>asked', 'left>taken_back',
    'asked>taken_back', 'carried>taken_back', 'refused>taken_back');
DROP TRIGGER state_step ON outbound_lines;
CREATE TRIGGER state_step AFTER UPDATE ON outbound_lines FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('open>planned', 'open>picked', 'open>shipped', 'open>cancelled',
        'planned>open', 'planned>picked', 'planned>shipped', 'planned>cancelled',
        'picked>open', 'picked>planned', 'picked>shipped', 'picked>cancelled', 'shipped>open', 'shipped>picked',
        'cancelled>open');

-- +goose Down
DROP TRIGGER state_step ON outbound_lines;
CREATE TRIGGER state_step AFTER UPDATE ON outbound_lines FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('open>planned', 'open>picked', 'open>shipped', 'open>cancelled',
        'planned>open', 'planned>picked', 'planned>shipped', 'planned>cancelled',
        'picked>open', 'picked>planned', 'picked>shipped', 'picked>cancelled', 'shipped>open', 'cancelled>open');
DROP TRIGGER state_step ON shipments;
CREATE TRIGGER state_step BEFORE UPDATE OF state ON shipments FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('left>asked', 'asked>carried', 'asked>refused', 'refused>asked');
DROP TRIGGER state_step ON carton_work;
CREATE TRIGGER state_step BEFORE UPDATE OF state ON carton_work FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('blank>open', 'open>at_bench', 'open>blank', 'open>shipped', 'at_bench>packed',
    'at_bench>blank', 'at_bench>shipped', 'packed>at_bench', 'packed>loaded', 'packed>shipped', 'loaded>packed',
    'loaded>shipped');
DROP TRIGGER state_step ON outbound_orders;
CREATE TRIGGER state_step BEFORE UPDATE OF state ON outbound_orders FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('quote>on_hold', 'quote>cancelled', 'on_hold>released', 'on_hold>shipped',
    'on_hold>cancelled', 'released>on_hold', 'released>shipped', 'released>cancelled');
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION posting_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.kind NOT IN ('receive', 'reverse_receipt', 'inspect', 'release', 'put_away_load', 'put_away',
       'put_away_return', 'move', 'pick', 'stage', 'pack', 'unpack', 'restock', 'load', 'unload', 'ship', 'count') THEN
        RAISE EXCEPTION 'there is no kind of posting "%"', NEW.kind USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
ALTER TABLE shipments DROP CONSTRAINT shipments_taken_back, DROP COLUMN taken_back_number,
    DROP COLUMN taken_back_at, DROP COLUMN taken_back_by, DROP COLUMN taken_back_reason;
DROP SEQUENCE taken_back_numbers;
