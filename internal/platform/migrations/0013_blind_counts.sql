-- +goose Up
-- A count is confirmed blind. One that differs from the books waits until a lead settles it or
-- has it counted again; what was written down is kept with it.
ALTER TABLE counts
    ADD COLUMN state text NOT NULL DEFAULT 'settled' CHECK (state IN ('counted', 'settled', 'withdrawn')),
    ADD COLUMN written jsonb NOT NULL DEFAULT '{}',
    ADD COLUMN decided_by integer REFERENCES people,
    ADD COLUMN decided_at timestamptz,
    ADD CHECK (state = 'settled' OR written <> '{}');
CREATE UNIQUE INDEX counts_waiting ON counts (location_id, item_id) WHERE state = 'counted';
CREATE TRIGGER state_step BEFORE UPDATE OF state ON counts FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('counted>settled', 'counted>withdrawn');

-- +goose Down
DELETE FROM counts WHERE state <> 'settled';
DROP TRIGGER state_step ON counts;
ALTER TABLE counts DROP COLUMN state, DROP COLUMN written, DROP COLUMN decided_by, DROP COLUMN decided_at;
