-- +goose Up
-- A supplier's invoice that was entered by mistake is taken back by a counter-entry, and its
-- number may be entered anew.
ALTER TABLE supplier_invoices
    ADD COLUMN takes_back bigint UNIQUE REFERENCES supplier_invoices,
    ADD COLUMN taken_back boolean NOT NULL DEFAULT false,
    ADD COLUMN reason text NOT NULL DEFAULT '' CHECK (takes_back IS NULL OR reason <> ''),
    DROP CONSTRAINT supplier_invoices_supplier_id_number_key;
CREATE UNIQUE INDEX supplier_invoices_number ON supplier_invoices (supplier_id, upper(number))
 WHERE NOT taken_back AND takes_back IS NULL;

-- +goose Down
DROP INDEX supplier_invoices_number;
ALTER TABLE supplier_invoices DROP COLUMN takes_back, DROP COLUMN taken_back, DROP COLUMN reason,
    ADD UNIQUE (supplier_id, number);
