-- +goose Up
-- The number on the paper that came with the goods.
ALTER TABLE arrivals ADD COLUMN delivery_note text NOT NULL DEFAULT '';
CREATE INDEX arrivals_delivery_note ON arrivals (upper(delivery_note)) WHERE delivery_note <> '';

-- +goose Down
ALTER TABLE arrivals DROP COLUMN delivery_note;
