-- +goose Up
-- Of a request several suppliers are asked for their prices: each answers on a quote of its own.
ALTER TABLE purchase_orders ADD COLUMN asked_for bigint REFERENCES purchase_orders;
CREATE UNIQUE INDEX purchase_orders_asked ON purchase_orders (asked_for, supplier_id) WHERE asked_for IS NOT NULL;

-- +goose Down
DROP INDEX purchase_orders_asked;
ALTER TABLE purchase_orders DROP COLUMN asked_for;
