-- +goose Up
-- What was agreed with customers and suppliers is sealed too: each price of an order's line, and what a supplier's freight costs.
-- Both may be changed while the order may: each is sealed as it becomes.
ALTER TABLE sales_lines ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
ALTER TABLE purchase_lines ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
ALTER TABLE purchase_orders ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
CREATE INDEX sales_lines_xid ON sales_lines (xid, line_id);
CREATE INDEX purchase_lines_xid ON purchase_lines (xid, line_id);
CREATE INDEX purchase_orders_xid ON purchase_orders (xid, order_id);
CREATE TRIGGER written BEFORE INSERT ON sales_lines FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER renamed BEFORE UPDATE ON sales_lines FOR EACH ROW
    WHEN ((OLD.price, OLD.price_source, OLD.price_why, OLD.xid) IS DISTINCT FROM (NEW.price, NEW.price_source, NEW.price_why, NEW.xid))
    EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER written BEFORE INSERT ON purchase_lines FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER renamed BEFORE UPDATE ON purchase_lines FOR EACH ROW
    WHEN ((OLD.price, OLD.xid) IS DISTINCT FROM (NEW.price, NEW.xid)) EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER written BEFORE INSERT ON purchase_orders FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER renamed BEFORE UPDATE ON purchase_orders FOR EACH ROW
    WHEN ((OLD.supplier_id, OLD.freight, OLD.freight_by, OLD.approved_by, OLD.xid)
          IS DISTINCT FROM (NEW.supplier_id, NEW.freight, NEW.freight_by, NEW.approved_by, NEW.xid)) EXECUTE FUNCTION ledger_stamp();

INSERT INTO ledger_sealed (kind, ordinal) VALUES ('sales_line', 13), ('purchase_line', 14), ('purchase_order', 15);
ALTER VIEW sealable RENAME TO sealable_without_orders;
CREATE VIEW sealable AS
SELECT * FROM sealable_without_orders
UNION ALL
SELECT 'sales_line', line_id, xid, true, ARRAY['sales_line', line_id::text, price::text, price_source, price_why] FROM sales_lines
UNION ALL
SELECT 'purchase_line', line_id, xid, true, ARRAY['purchase_line', line_id::text, price::text] FROM purchase_lines
UNION ALL
SELECT 'purchase_order', order_id, xid, true,
       ARRAY['purchase_order', order_id::text, supplier_id::text, freight::text, freight_by, approved_by::text]
  FROM purchase_orders;
GRANT SELECT ON sealable TO lanternrow_app;

-- +goose Down
-- +goose StatementBegin
DO $$
BEGIN
    IF EXISTS (SELECT FROM seals WHERE kind IN ('sales_line', 'purchase_line', 'purchase_order')) THEN
        RAISE EXCEPTION 'prices of orders are sealed, which the release before does not know';
    END IF;
END $$;
-- +goose StatementEnd
DROP VIEW sealable;
ALTER VIEW sealable_without_orders RENAME TO sealable;
DELETE FROM ledger_sealed WHERE kind IN ('sales_line', 'purchase_line', 'purchase_order');
DROP TRIGGER written ON sales_lines;
DROP TRIGGER renamed ON sales_lines;
DROP TRIGGER written ON purchase_lines;
DROP TRIGGER renamed ON purchase_lines;
DROP TRIGGER written ON purchase_orders;
DROP TRIGGER renamed ON purchase_orders;
ALTER TABLE sales_lines DROP COLUMN xid;
ALTER TABLE purchase_lines DROP COLUMN xid;
ALTER TABLE purchase_orders DROP COLUMN xid;
