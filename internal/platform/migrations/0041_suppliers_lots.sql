-- +goose Up
-- What a lot is called by its supplier, where the house gives it a number of its own: a supplier calls goods back by theirs.
ALTER TABLE lots ADD COLUMN supplier_code text NOT NULL DEFAULT '';
CREATE INDEX lots_supplier_code ON lots (upper(supplier_code) text_pattern_ops) WHERE supplier_code <> '';

-- +goose Down
DROP INDEX lots_supplier_code;
ALTER TABLE lots DROP COLUMN supplier_code;
