-- +goose Up
-- What a supplier calls an item, how it sells it and how long it takes; minimum is in base units.
CREATE TABLE supplier_items (
    supplier_id integer NOT NULL REFERENCES parties,
    item_id     integer NOT NULL REFERENCES items,
    code        text NOT NULL DEFAULT '',
    pack_id     integer REFERENCES packs ON DELETE SET NULL,
    price       numeric(14,4) CHECK (price >= 0),
    minimum     numeric(14,3) NOT NULL DEFAULT 0 CHECK (minimum >= 0),
    lead_days   integer NOT NULL DEFAULT 0 CHECK (lead_days >= 0),
    PRIMARY KEY (supplier_id, item_id)
);
CREATE INDEX supplier_items_item ON supplier_items (item_id);
GRANT SELECT, INSERT, UPDATE, DELETE ON supplier_items TO lanternrow_app;

-- +goose Down
DROP TABLE supplier_items;
