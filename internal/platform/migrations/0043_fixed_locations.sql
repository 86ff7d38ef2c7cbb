-- +goose Up
-- A fixed location stays where it is, so that whoever counts can walk to it: all at a site but trolleys and vehicles.
ALTER TABLE locations ADD COLUMN fixed boolean GENERATED ALWAYS AS (
    kind IN ('bin', 'dock', 'bench', 'staging', 'returns', 'damaged', 'quarantine')) STORED;

-- +goose Down
ALTER TABLE locations DROP COLUMN fixed;
