-- +goose Up
-- An invoice may ask for several shipments: each of its lines says which.
ALTER TABLE parties ADD COLUMN together boolean NOT NULL DEFAULT false;
ALTER TABLE invoice_lines ADD COLUMN shipment_id bigint REFERENCES shipments;
UPDATE invoice_lines l SET shipment_id = b.shipment_id FROM invoices b WHERE b.id = l.invoice_id;
ALTER TABLE invoice_lines
    ALTER COLUMN shipment_id SET NOT NULL,
    DROP CONSTRAINT invoice_lines_pkey,
    ADD PRIMARY KEY (invoice_id, shipment_id, line_id);
CREATE INDEX invoice_lines_shipment ON invoice_lines (shipment_id);
DROP INDEX invoices_shipment;
ALTER TABLE invoices DROP COLUMN shipment_id;

-- +goose Down
ALTER TABLE invoices ADD COLUMN shipment_id bigint REFERENCES shipments;
UPDATE invoices b SET shipment_id = (SELECT min(shipment_id) FROM invoice_lines WHERE invoice_id = b.id);
ALTER TABLE invoices ALTER COLUMN shipment_id SET NOT NULL;
CREATE INDEX invoices_shipment ON invoices (shipment_id);
DROP INDEX invoice_lines_shipment;
ALTER TABLE invoice_lines DROP CONSTRAINT invoice_lines_pkey, DROP COLUMN shipment_id;
ALTER TABLE invoice_lines ADD PRIMARY KEY (invoice_id, line_id);
ALTER TABLE parties DROP COLUMN together;
