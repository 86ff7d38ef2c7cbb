-- +goose Up
-- What is owed to the tax office, when an invoice is due, and the paper that takes one back.
ALTER TABLE items ADD COLUMN tax_pct numeric(5,2) NOT NULL DEFAULT 0 CHECK (tax_pct BETWEEN 0 AND 100);
ALTER TABLE parties
    ADD COLUMN taxed boolean NOT NULL DEFAULT true,
    ADD COLUMN due_days integer NOT NULL DEFAULT 0 CHECK (due_days >= 0);
ALTER TABLE invoices
    ADD COLUMN net numeric(14,2) NOT NULL DEFAULT 0,
    ADD COLUMN due_on date,
    ADD COLUMN credits bigint UNIQUE REFERENCES invoices,
    ADD COLUMN reason text NOT NULL DEFAULT '' CHECK (credits IS NULL OR reason <> '');
UPDATE invoices SET net = total, due_on = invoiced_on;
ALTER TABLE invoices ALTER COLUMN due_on SET NOT NULL;
ALTER TABLE invoice_lines ADD COLUMN tax_pct numeric(5,2) NOT NULL DEFAULT 0;
CREATE SEQUENCE credit_numbers;
GRANT USAGE ON SEQUENCE credit_numbers TO lanternrow_app;

-- +goose Down
DROP SEQUENCE credit_numbers;
ALTER TABLE invoice_lines DROP COLUMN tax_pct;
ALTER TABLE invoices DROP COLUMN net, DROP COLUMN due_on, DROP COLUMN credits, DROP COLUMN reason;
ALTER TABLE parties DROP COLUMN taxed, DROP COLUMN due_days;
ALTER TABLE items DROP COLUMN tax_pct;
