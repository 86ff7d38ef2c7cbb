-- +goose Up
-- What becomes of goods may be settled by their kind of return: they are decided on as they are received, with nobody asked.
-- Only what comes as new goes back to stock like that. A return keeps what its kind had when it was announced.
ALTER TABLE return_kinds ADD COLUMN decides text NOT NULL DEFAULT ''
    CHECK (decides IN ('', 'stock', 'quarantine', 'damaged', 'scrap'));
ALTER TABLE returns ADD COLUMN decides text NOT NULL DEFAULT ''
    CHECK (decides IN ('', 'stock', 'quarantine', 'damaged', 'scrap'));

-- +goose Down
ALTER TABLE returns DROP COLUMN decides;
ALTER TABLE return_kinds DROP COLUMN decides;
