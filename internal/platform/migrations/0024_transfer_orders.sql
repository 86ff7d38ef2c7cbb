-- +goose Up
-- When goods that leave a site are due where they go, where that is known.
ALTER TABLE outbound_orders ADD COLUMN due_on date;
CREATE INDEX outbound_orders_to_site ON outbound_orders (to_site_id, id) WHERE to_site_id IS NOT NULL;
-- The commercial side of a transfer between two sites.
CREATE TABLE transfer_orders (
    order_id bigint PRIMARY KEY REFERENCES outbound_orders,
    reason   text NOT NULL DEFAULT ''
);
-- What of it was shipped is expected at the other site: each shipment is an inbound order there.
CREATE TABLE transfer_shipments (
    shipment_id bigint PRIMARY KEY REFERENCES shipments,
    order_id    bigint NOT NULL REFERENCES transfer_orders,
    inbound_id  bigint NOT NULL UNIQUE REFERENCES inbound_orders
);
CREATE INDEX transfer_shipments_order ON transfer_shipments (order_id);
GRANT SELECT, INSERT, UPDATE ON transfer_orders, transfer_shipments TO lanternrow_app;

-- +goose Down
DROP TABLE transfer_shipments, transfer_orders;
DROP INDEX outbound_orders_to_site;
ALTER TABLE outbound_orders DROP COLUMN due_on;
