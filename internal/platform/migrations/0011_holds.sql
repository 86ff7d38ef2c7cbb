-- +goose Up
-- Why somebody put an order on hold; empty for one that waits for its release alone.
ALTER TABLE sales_orders
    ADD COLUMN hold text NOT NULL DEFAULT '' CHECK (hold IN ('', 'hand', 'credit', 'payment', 'address', 'stock')),
    ADD COLUMN hold_note text NOT NULL DEFAULT '',
    ADD COLUMN held_by integer REFERENCES people,
    ADD COLUMN held_at timestamptz,
    ADD CHECK ((hold = '') = (held_by IS NULL) AND (hold = '') = (held_at IS NULL));

-- +goose Down
ALTER TABLE sales_orders DROP COLUMN hold, DROP COLUMN hold_note, DROP COLUMN held_by, DROP COLUMN held_at;
