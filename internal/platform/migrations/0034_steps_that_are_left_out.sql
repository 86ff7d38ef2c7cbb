-- +goose Up
-- A return's goods may stay with the customer, where its kind says so: nothing comes in and nothing is decided. How many do
-- is noted on each line once that is accepted.
ALTER TABLE return_kinds ADD COLUMN goods_stay boolean NOT NULL DEFAULT false,
    ADD COLUMN inspected boolean NOT NULL DEFAULT true,
    ADD CONSTRAINT return_kinds_goods_stay CHECK (NOT goods_stay OR papered AND gives_when = 'announced' AND decides = ''),
    ADD CONSTRAINT return_kinds_inspected CHECK (inspected OR decides <> 'stock');
ALTER TABLE returns ADD COLUMN goods_stay boolean NOT NULL DEFAULT false;
ALTER TABLE return_lines ADD COLUMN kept numeric(14,3) NOT NULL DEFAULT 0 CHECK (kept >= 0);
GRANT UPDATE (kept) ON return_lines TO lanternrow_app;

-- Whether it is said of an order's goods in what condition they come stands on the order.
ALTER TABLE inbound_orders ADD COLUMN asks_found boolean NOT NULL DEFAULT false;
UPDATE inbound_orders SET asks_found = true WHERE kind = 'customer_return';
DROP VIEW inbound;
CREATE VIEW inbound AS
SELECT o.*, coalesce(p.name, s.name) AS source, coalesce(p.code, s.code) AS source_code
  FROM inbound_orders o LEFT JOIN parties p ON p.id = o.party_id LEFT JOIN sites s ON s.id = o.from_site_id;
GRANT SELECT ON inbound TO lanternrow_app;

-- What came besides what was shipped may be any item.
ALTER TABLE transfer_cases ADD COLUMN item_id integer REFERENCES items;
UPDATE transfer_cases k SET item_id = l.item_id FROM inbound_lines l WHERE l.id = k.line_id;
ALTER TABLE transfer_cases ALTER COLUMN item_id SET NOT NULL;

-- +goose Down
ALTER TABLE transfer_cases DROP COLUMN item_id;
DROP VIEW inbound;
ALTER TABLE inbound_orders DROP COLUMN asks_found;
CREATE VIEW inbound AS
SELECT o.id, o.number, o.kind, o.site_id, o.party_id, o.from_site_id, o.source_id, o.expected_on, o.carrier, o.note, o.state,
       o.version, o.changed_by, o.changed_at, o.last_change, coalesce(p.name, s.name) AS source, coalesce(p.code, s.code) AS source_code
  FROM inbound_orders o LEFT JOIN parties p ON p.id = o.party_id LEFT JOIN sites s ON s.id = o.from_site_id;
GRANT SELECT ON inbound TO lanternrow_app;
ALTER TABLE return_lines DROP COLUMN kept;
ALTER TABLE returns DROP COLUMN goods_stay;
ALTER TABLE return_kinds DROP CONSTRAINT return_kinds_inspected, DROP CONSTRAINT return_kinds_goods_stay,
    DROP COLUMN inspected, DROP COLUMN goods_stay;
