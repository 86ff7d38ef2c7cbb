-- +goose Up
CREATE SEQUENCE purchase_numbers START 2201;
CREATE SEQUENCE arrival_numbers START 401;

CREATE TABLE purchase_orders (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number      text NOT NULL UNIQUE DEFAULT 'P-' || nextval('purchase_numbers'),
    supplier_id integer NOT NULL REFERENCES parties,
    site_id     integer NOT NULL REFERENCES sites,
    expected_on date NOT NULL,
    state       text NOT NULL CHECK (state IN ('draft', 'placed', 'part in', 'all in')),
    note        text NOT NULL DEFAULT '',
    version     integer NOT NULL DEFAULT 1,
    changed_by  integer NOT NULL REFERENCES people,
    changed_at  timestamptz NOT NULL,
    last_change text NOT NULL
);
CREATE INDEX purchase_orders_open ON purchase_orders (site_id, expected_on, id) WHERE state <> 'all in';

CREATE TABLE purchase_lines (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    order_id bigint NOT NULL REFERENCES purchase_orders,
    line     integer NOT NULL,
    item_id  integer NOT NULL REFERENCES items,
    quantity numeric(14,3) NOT NULL CHECK (quantity > 0),
    received numeric(14,3) NOT NULL DEFAULT 0 CHECK (received >= 0 AND received <= quantity),
    price    numeric(14,4) NOT NULL CHECK (price >= 0),
    UNIQUE (order_id, line)
);
CREATE INDEX purchase_lines_open ON purchase_lines (item_id) WHERE received < quantity;

CREATE TABLE arrivals (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number      text NOT NULL UNIQUE DEFAULT 'A-' || nextval('arrival_numbers'),
    order_id    bigint NOT NULL REFERENCES purchase_orders,
    site_id     integer NOT NULL REFERENCES sites,
    dock_id     integer NOT NULL REFERENCES places,
    state       text NOT NULL CHECK (state IN ('open', 'done')),
    opened_at   timestamptz NOT NULL,
    version     integer NOT NULL DEFAULT 1,
    changed_by  integer NOT NULL REFERENCES people,
    changed_at  timestamptz NOT NULL,
    last_change text NOT NULL
);
CREATE INDEX arrivals_open ON arrivals (site_id, id) WHERE state = 'open';

-- +goose Down
DROP TABLE arrivals, purchase_lines, purchase_orders;
DROP SEQUENCE arrival_numbers, purchase_numbers;
