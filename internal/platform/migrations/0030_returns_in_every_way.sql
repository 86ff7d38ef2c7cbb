-- +goose Up
-- Goods that a customer sends back come in each in some condition, as whoever receives them finds it.
ALTER TABLE receipts ADD COLUMN found text NOT NULL DEFAULT ''
    CHECK (found IN ('', 'as_new', 'opened', 'used', 'broken', 'incomplete'));

-- A return may give something else, which is an order of its own; and may be of goods that no paper is known of, by those
-- who may.
ALTER TABLE return_kinds DROP CONSTRAINT return_kinds_gives_check,
    ADD CONSTRAINT return_kinds_gives_check CHECK (gives IN ('money', 'the same again', 'something else', 'nothing')),
    ADD COLUMN papered boolean NOT NULL DEFAULT true;
INSERT INTO return_kinds (name, gives, gives_when, within_days, papered) VALUES
    ('Something else', 'something else', 'received', 90, true), ('Without paper', 'money', 'decided', NULL, false);

-- What a return gives stands from when it was announced, whatever becomes of its kind.
ALTER TABLE returns ADD COLUMN gives text, ADD COLUMN gives_when text, ADD COLUMN taxed boolean, ADD COLUMN fee_pct numeric(5,2),
    -- Why goods are taken that no paper is known of.
    ADD COLUMN reason text NOT NULL DEFAULT '';
UPDATE returns r SET gives = k.gives, gives_when = k.gives_when, taxed = k.taxed, fee_pct = k.fee_pct
  FROM return_kinds k WHERE k.id = r.kind_id;
ALTER TABLE returns ALTER COLUMN gives SET NOT NULL, ALTER COLUMN gives_when SET NOT NULL, ALTER COLUMN taxed SET NOT NULL,
    ALTER COLUMN fee_pct SET NOT NULL;
ALTER TABLE return_lines ALTER COLUMN shipment_id DROP NOT NULL, ALTER COLUMN sold_line_id DROP NOT NULL,
    ADD CONSTRAINT return_lines_paper CHECK ((shipment_id IS NULL) = (sold_line_id IS NULL));

-- What a supplier credited for goods that went back to it, beside what was expected.
ALTER TABLE return_decisions ADD COLUMN credit_number text, ADD COLUMN credited numeric(14,2) CHECK (credited >= 0),
    ADD COLUMN credited_by integer REFERENCES people, ADD COLUMN credited_at timestamptz,
    ADD CONSTRAINT return_decisions_credit CHECK (credit_number IS NULL OR fate = 'supplier' AND credited IS NOT NULL
        AND credited_by IS NOT NULL AND credited_at IS NOT NULL);
GRANT UPDATE (credit_number, credited, credited_by, credited_at) ON return_decisions TO lanternrow_app;

-- +goose Down
ALTER TABLE return_decisions DROP CONSTRAINT return_decisions_credit, DROP COLUMN credited_at, DROP COLUMN credited_by,
    DROP COLUMN credited, DROP COLUMN credit_number;
DELETE FROM return_units WHERE line_id IN (SELECT line_id FROM return_lines WHERE shipment_id IS NULL);
DELETE FROM return_decisions WHERE line_id IN (SELECT line_id FROM return_lines WHERE shipment_id IS NULL);
DELETE FROM return_lines WHERE shipment_id IS NULL;
ALTER TABLE return_lines DROP CONSTRAINT return_lines_paper, ALTER COLUMN shipment_id SET NOT NULL,
    ALTER COLUMN sold_line_id SET NOT NULL;
ALTER TABLE returns DROP COLUMN reason, DROP COLUMN fee_pct, DROP COLUMN taxed, DROP COLUMN gives_when, DROP COLUMN gives;
UPDATE invoices SET return_id = NULL WHERE return_id IN (SELECT order_id FROM returns
    WHERE kind_id IN (SELECT id FROM return_kinds WHERE gives = 'something else' OR NOT papered));
DELETE FROM returns WHERE kind_id IN (SELECT id FROM return_kinds WHERE gives = 'something else' OR NOT papered);
DELETE FROM return_kinds WHERE gives = 'something else' OR NOT papered;
ALTER TABLE return_kinds DROP COLUMN papered, DROP CONSTRAINT return_kinds_gives_check,
    ADD CONSTRAINT return_kinds_gives_check CHECK (gives IN ('money', 'the same again', 'nothing'));
ALTER TABLE receipts DROP COLUMN found;
