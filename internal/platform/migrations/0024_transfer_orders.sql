-- +goose Up
-- When goods that leave a site are due where they go, where that is known.
ALTER TABLE outbound_orders ADD COLUMN due_on date;
CREATE INDEX outbound_orders_to_site ON outbound_orders (to_site_id, id) WHERE to_site_id IS NOT NULL;
-- The commercial side of a transfer between two sites.
CREATE TABLE transfer_orders (
    order_id bigint PRIMARY KEY REFERENCES outbound_orders,
    reason   text NOT NULL DEFAULT ''
);
GRANT SELECT, INSERT, UPDATE ON transfer_orders TO lanternrow_app;
-- What a site of ours shipped is expected at the other one: each shipment is an inbound order there.
ALTER TABLE inbound_orders ADD COLUMN shipment_id bigint UNIQUE REFERENCES shipments,
    ADD CHECK (shipment_id IS NULL OR from_site_id IS NOT NULL);

-- +goose Down
ALTER TABLE inbound_orders DROP COLUMN shipment_id;
DROP TABLE transfer_orders;
DROP INDEX outbound_orders_to_site;
ALTER TABLE outbound_orders DROP COLUMN due_on;
