-- +goose Up
-- The commercial side of a transfer between two sites: why it is made, and when it is due there.
CREATE TABLE transfer_orders (
    order_id    bigint PRIMARY KEY REFERENCES outbound_orders,
    expected_on date NOT NULL,
    reason      text NOT NULL DEFAULT ''
);
-- What of it was shipped is expected at the other site: each shipment is an inbound order there.
CREATE TABLE transfer_shipments (
    shipment_id bigint PRIMARY KEY REFERENCES shipments,
    order_id    bigint NOT NULL REFERENCES transfer_orders,
    inbound_id  bigint NOT NULL UNIQUE REFERENCES inbound_orders
);
CREATE INDEX transfer_shipments_order ON transfer_shipments (order_id);
CREATE INDEX outbound_orders_to_site ON outbound_orders (to_site_id, id) WHERE to_site_id IS NOT NULL;
GRANT SELECT, INSERT, UPDATE ON transfer_orders, transfer_shipments TO lanternrow_app;

-- +goose Down
DROP INDEX outbound_orders_to_site;
DROP TABLE transfer_shipments, transfer_orders;
