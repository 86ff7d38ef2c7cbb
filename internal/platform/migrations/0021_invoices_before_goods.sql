-- +goose Up
-- A supplier's invoice may come before its goods: it is kept, and counts once it is matched.
ALTER TABLE supplier_invoices ADD COLUMN waits boolean NOT NULL DEFAULT false;

-- +goose Down
ALTER TABLE supplier_invoices DROP COLUMN waits;
