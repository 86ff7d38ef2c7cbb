-- +goose Up
-- What comes to a site, or goes, is few of what moves, and all that its value is read from.
CREATE INDEX moves_crossing ON moves (item_id, id) WHERE from_site IS DISTINCT FROM to_site OR from_site IS NULL;

-- +goose Down
DROP INDEX moves_crossing;
