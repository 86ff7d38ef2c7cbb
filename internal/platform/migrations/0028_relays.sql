-- +goose Up
-- What is received at a site and moves on to another by a standing rule: of an item, of what a supplier sends, or of a
-- handling class.
CREATE TABLE relay_rules (
    id          integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id     integer NOT NULL REFERENCES sites,
    name        text NOT NULL CHECK (name <> ''),
    to_site_id  integer NOT NULL REFERENCES sites CHECK (to_site_id <> site_id),
    item_id     integer REFERENCES items,
    supplier_id integer REFERENCES parties,
    handling    text NOT NULL DEFAULT '',
    how         text NOT NULL CHECK (how IN ('all', 'target', 'share')),
    share_pct   numeric(5,2) NOT NULL DEFAULT 0 CHECK (share_pct BETWEEN 0 AND 100),
    -- Whether its transfers are released by themselves, and how many days they are on their way.
    release     boolean NOT NULL DEFAULT true,
    days        integer NOT NULL DEFAULT 1 CHECK (days >= 0),
    retired     boolean NOT NULL DEFAULT false,
    UNIQUE (site_id, name),
    CHECK (item_id IS NOT NULL OR supplier_id IS NOT NULL OR handling <> '')
);
ALTER TABLE transfer_orders ADD COLUMN relay_rule_id integer REFERENCES relay_rules;
GRANT SELECT, INSERT, UPDATE ON relay_rules TO lanternrow_app;

-- +goose Down
ALTER TABLE transfer_orders DROP COLUMN relay_rule_id;
DROP TABLE relay_rules;
