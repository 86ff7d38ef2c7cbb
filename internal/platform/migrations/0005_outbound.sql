-- +goose Up
CREATE SEQUENCE sales_numbers START 3301;
CREATE SEQUENCE round_numbers START 101;
CREATE SEQUENCE delivery_numbers START 501;
CREATE SEQUENCE sscc_numbers START 470;

CREATE TABLE sales_orders (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number      text NOT NULL UNIQUE DEFAULT 'S-' || nextval('sales_numbers'),
    customer_id integer NOT NULL REFERENCES parties,
    site_id     integer NOT NULL REFERENCES sites,
    wanted_on   date NOT NULL,
    reference   text NOT NULL DEFAULT '',
    carrier     text NOT NULL DEFAULT '',
    -- Why it was taken though the customer owes, and who said so.
    owing       text NOT NULL DEFAULT '',
    owing_by    integer REFERENCES people,
    state       text NOT NULL CHECK (state IN ('held', 'let go', 'sent')),
    version     integer NOT NULL DEFAULT 1,
    changed_by  integer NOT NULL REFERENCES people,
    changed_at  timestamptz NOT NULL,
    last_change text NOT NULL
);
CREATE INDEX sales_orders_open ON sales_orders (site_id, wanted_on, id) WHERE state <> 'sent';

CREATE TABLE sales_lines (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    order_id bigint NOT NULL REFERENCES sales_orders,
    line     integer NOT NULL,
    item_id  integer NOT NULL REFERENCES items,
    quantity numeric(14,3) NOT NULL CHECK (quantity > 0),
    -- On a round, pinned; in a carton; gone to the customer.
    planned  numeric(14,3) NOT NULL DEFAULT 0 CHECK (planned >= 0),
    taken    numeric(14,3) NOT NULL DEFAULT 0 CHECK (taken >= 0),
    sent     numeric(14,3) NOT NULL DEFAULT 0 CHECK (sent >= 0),
    price    numeric(14,4) NOT NULL DEFAULT 0 CHECK (price >= 0),
    UNIQUE (order_id, line),
    CHECK (planned + taken + sent <= quantity)
);
CREATE INDEX sales_lines_open ON sales_lines (item_id) WHERE planned + taken + sent < quantity;
ALTER TABLE pins ADD FOREIGN KEY (line_id) REFERENCES sales_lines;

CREATE TABLE rounds (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number       text NOT NULL UNIQUE DEFAULT 'R-' || nextval('round_numbers'),
    site_id      integer NOT NULL REFERENCES sites,
    state        text NOT NULL CHECK (state IN ('let go', 'walking', 'done')),
    picker_id    integer REFERENCES people,
    metres       numeric(10,2) NOT NULL,
    plain_metres numeric(10,2) NOT NULL,
    -- How long it was reckoned to take when it was let go.
    minutes      numeric(8,1) NOT NULL DEFAULT 0,
    path         jsonb NOT NULL,
    let_go_at    timestamptz NOT NULL,
    started_at   timestamptz,
    done_at      timestamptz,
    version      integer NOT NULL DEFAULT 1,
    changed_by   integer NOT NULL REFERENCES people,
    changed_at   timestamptz NOT NULL,
    last_change  text NOT NULL
);
CREATE INDEX rounds_open ON rounds (site_id, id) WHERE state <> 'done';

CREATE TABLE round_stops (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    round_id bigint NOT NULL REFERENCES rounds,
    seq      integer NOT NULL,
    line_id  bigint NOT NULL REFERENCES sales_lines,
    place_id integer NOT NULL REFERENCES places,
    item_id  integer NOT NULL REFERENCES items,
    lot_id   bigint REFERENCES lots,
    -- The carton or pallet in the bin that it is taken from.
    carton_id bigint REFERENCES cartons,
    quantity numeric(14,3) NOT NULL CHECK (quantity > 0),
    taken    numeric(14,3) NOT NULL DEFAULT 0,
    short    numeric(14,3) NOT NULL DEFAULT 0,
    pin_id   bigint,
    done     boolean NOT NULL DEFAULT false,
    UNIQUE (round_id, seq),
    CHECK (taken + short <= quantity)
);
CREATE INDEX round_stops_line ON round_stops (line_id);

-- A carton gets an order when its label is scanned on a round.
CREATE TABLE carton_work (
    carton_id   bigint PRIMARY KEY REFERENCES cartons,
    site_id     integer NOT NULL REFERENCES sites,
    order_id    bigint REFERENCES sales_orders,
    round_id    bigint REFERENCES rounds,
    letter      text NOT NULL DEFAULT '',
    state       text NOT NULL CHECK (state IN ('blank', 'open', 'at bench', 'packed', 'sent')),
    weight_kg   numeric(12,3),
    delivery_id bigint,
    printed_at  timestamptz NOT NULL,
    changed_at  timestamptz NOT NULL
);
CREATE INDEX carton_work_state ON carton_work (site_id, state) WHERE state <> 'sent';
CREATE INDEX carton_work_order ON carton_work (order_id);

CREATE TABLE carton_contents (
    carton_id bigint NOT NULL REFERENCES cartons,
    line_id   bigint NOT NULL REFERENCES sales_lines,
    item_id   integer NOT NULL REFERENCES items,
    lot_id    bigint REFERENCES lots,
    serial_id bigint REFERENCES serials,
    quantity  numeric(14,3) NOT NULL CHECK (quantity > 0)
);
CREATE UNIQUE INDEX carton_contents_key ON carton_contents (carton_id, line_id, item_id, coalesce(lot_id, 0), coalesce(serial_id, 0));
CREATE INDEX carton_contents_serial ON carton_contents (serial_id) WHERE serial_id IS NOT NULL;

CREATE TABLE deliveries (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number      text NOT NULL UNIQUE DEFAULT 'D-' || nextval('delivery_numbers'),
    order_id    bigint NOT NULL REFERENCES sales_orders,
    site_id     integer NOT NULL REFERENCES sites,
    carrier     text NOT NULL DEFAULT '',
    sent_by     integer NOT NULL REFERENCES people,
    sent_at     timestamptz NOT NULL
);
CREATE INDEX deliveries_order ON deliveries (order_id);
ALTER TABLE carton_work ADD FOREIGN KEY (delivery_id) REFERENCES deliveries;

-- A bin where a round found less than it should, to be looked at.
CREATE TABLE bin_doubts (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    place_id  integer NOT NULL REFERENCES places,
    item_id   integer NOT NULL REFERENCES items,
    expected  numeric(14,3) NOT NULL,
    found     numeric(14,3) NOT NULL,
    round_id  bigint REFERENCES rounds,
    raised_by integer NOT NULL REFERENCES people,
    raised_at timestamptz NOT NULL,
    settled_at timestamptz
);
CREATE INDEX bin_doubts_open ON bin_doubts (place_id) WHERE settled_at IS NULL;

-- +goose Down
DROP TABLE bin_doubts, carton_contents, carton_work, deliveries, round_stops, rounds, sales_lines, sales_orders CASCADE;
DROP SEQUENCE sscc_numbers, delivery_numbers, round_numbers, sales_numbers;
