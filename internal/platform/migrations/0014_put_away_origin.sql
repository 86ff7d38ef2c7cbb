-- +goose Up
-- The arrival that goods on a trolley came with, so that their way into a bin names it.
ALTER TABLE put_away_loads ADD COLUMN arrival text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE put_away_loads DROP COLUMN arrival;
