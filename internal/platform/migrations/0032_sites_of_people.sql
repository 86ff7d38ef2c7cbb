-- +goose Up
-- The sites that somebody may act at; all of them where none is named.
ALTER TABLE people ADD COLUMN sites integer[] NOT NULL DEFAULT '{}';
GRANT UPDATE (sites) ON people TO lanternrow_app;

-- +goose Down
ALTER TABLE people DROP COLUMN sites;
