-- +goose Up
CREATE TABLE sites (
    id          integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    code        text NOT NULL UNIQUE,
    name        text NOT NULL,
    timezone    text NOT NULL DEFAULT 'UTC',
    insist_bins boolean NOT NULL DEFAULT true,
    -- What a round asks to be scanned at each stop.
    scan_bin    boolean NOT NULL DEFAULT true,
    scan_item   boolean NOT NULL DEFAULT true,
    scan_carton boolean NOT NULL DEFAULT true,
    -- Whether each unit is scanned on a round, whether another lot than planned may be
    -- taken, and whether the bench looks through each carton.
    each_unit   boolean NOT NULL DEFAULT false,
    other_lot   boolean NOT NULL DEFAULT true,
    bench_check boolean NOT NULL DEFAULT false,
    -- Whether a picker may send straight from the last take, without the bench.
    straight    boolean NOT NULL DEFAULT false,
    -- What a carton may be off what was calculated: per cent of it, and kilograms at least.
    variance_pct     numeric(5,2) NOT NULL DEFAULT 5 CHECK (variance_pct >= 0),
    variance_kg      numeric(8,3) NOT NULL DEFAULT 0.2 CHECK (variance_kg >= 0),
    -- How long work takes here: seconds to set a round up, metres walked in a second,
    -- seconds for each stop, line, unit and kilogram.
    pace_set_up numeric(8,2) NOT NULL DEFAULT 90 CHECK (pace_set_up >= 0),
    pace_walk   numeric(8,2) NOT NULL DEFAULT 1.3 CHECK (pace_walk >= 0),
    pace_stop   numeric(8,2) NOT NULL DEFAULT 6 CHECK (pace_stop >= 0),
    pace_line   numeric(8,2) NOT NULL DEFAULT 4 CHECK (pace_line >= 0),
    pace_unit   numeric(8,2) NOT NULL DEFAULT 1.5 CHECK (pace_unit >= 0),
    pace_kilo   numeric(8,2) NOT NULL DEFAULT 0.2 CHECK (pace_kilo >= 0),
    -- What a purchase order may come to before a lead has to approve it; NULL is any
    -- amount.
    approve_above numeric(14,2) CHECK (approve_above >= 0),
    -- The floor as parallel aisles and the cross aisles that join them, metres.
    cross_aisles numeric(8,2)[] NOT NULL DEFAULT '{}'
);

CREATE TABLE aisles (
    site_id integer NOT NULL REFERENCES sites,
    code    text NOT NULL,
    x       numeric(8,2) NOT NULL,
    PRIMARY KEY (site_id, code)
);

CREATE TABLE zones (
    id      integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id integer NOT NULL REFERENCES sites,
    code    text NOT NULL,
    name    text NOT NULL,
    -- Handling classes taken besides ordinary goods.
    accepts text[] NOT NULL DEFAULT '{}',
    -- Whether orders are picked from here before other zones.
    picking boolean NOT NULL DEFAULT false,
    UNIQUE (site_id, code)
);

-- A location is anywhere goods can be. The outside (suppliers, customers, lost and
-- found) is made of locations too, so that every move has two ends.
CREATE TABLE locations (
    id            integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id       integer REFERENCES sites,
    zone_id       integer REFERENCES zones,
    kind          text NOT NULL CHECK (kind IN ('bin', 'dock', 'bench', 'staging', 'trolley', 'returns', 'damaged',
                      'quarantine', 'vehicle', 'transit', 'supplier', 'customer', 'lost')),
    code          text NOT NULL,
    aisle         text,
    bay           integer,
    level         integer,
    x             numeric(8,2) NOT NULL DEFAULT 0,
    y             numeric(8,2) NOT NULL DEFAULT 0,
    z             numeric(8,2) NOT NULL DEFAULT 0,
    max_units     numeric(14,3) CHECK (max_units >= 0),
    max_weight_kg numeric(14,3) CHECK (max_weight_kg >= 0),
    max_volume_l  numeric(14,3) CHECK (max_volume_l >= 0),
    mix_items     boolean NOT NULL DEFAULT true,
    mix_lots      boolean NOT NULL DEFAULT true,
    -- Goods in a real location are ours and can be pointed at.
    real          boolean GENERATED ALWAYS AS (kind NOT IN ('supplier', 'customer', 'lost')) STORED,
    CHECK ((kind IN ('supplier', 'customer', 'lost', 'transit')) = (site_id IS NULL)),
    UNIQUE NULLS NOT DISTINCT (site_id, code)
);
CREATE INDEX locations_code ON locations (upper(code));
CREATE INDEX locations_kind ON locations (site_id, kind);

CREATE TABLE items (
    id          integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    sku         text NOT NULL UNIQUE,
    description text NOT NULL,
    base_unit   text NOT NULL DEFAULT 'each',
    whole       boolean NOT NULL DEFAULT true,
    -- serial: each unit is known from arrival on; serial_out: only from the way out on.
    tracking    text NOT NULL DEFAULT 'none' CHECK (tracking IN ('none', 'lot', 'lot_expiry', 'serial', 'serial_out')),
    -- Whether the lot is scanned on the way out too, and how lots of our own are named.
    ask_out     boolean NOT NULL DEFAULT false,
    lot_rule    text NOT NULL DEFAULT '',
    -- What it may be used for.
    stocked     boolean NOT NULL DEFAULT true,
    bought      boolean NOT NULL DEFAULT true,
    sold        boolean NOT NULL DEFAULT true,
    weight_kg   numeric(12,4) NOT NULL DEFAULT 0 CHECK (weight_kg >= 0),
    volume_l    numeric(12,4) NOT NULL DEFAULT 0 CHECK (volume_l >= 0),
    handling    text NOT NULL DEFAULT '',
    pace        numeric(3,2) NOT NULL DEFAULT 0 CHECK (pace BETWEEN 0 AND 1),
    cost        numeric(14,4) NOT NULL DEFAULT 0 CHECK (cost >= 0),
    -- What customers pay for a base unit; NULL where it has to be entered each time.
    sales_price numeric(14,4) CHECK (sales_price >= 0),
    -- Per cent of a purchase line that may come in short or over and is fine.
    short_pct   numeric(5,2) NOT NULL DEFAULT 0 CHECK (short_pct BETWEEN 0 AND 100),
    over_pct    numeric(5,2) NOT NULL DEFAULT 0 CHECK (over_pct BETWEEN 0 AND 100),
    -- Per cent of what comes in that is set aside until it is inspected.
    inspect_pct numeric(5,2) NOT NULL DEFAULT 0 CHECK (inspect_pct BETWEEN 0 AND 100),
    -- The acceptable quality limit of the sampling plan that a shipment is judged by
    -- instead; NULL without.
    inspect_aql numeric(4,2) CHECK (inspect_aql IN (0.65, 1, 1.5, 2.5, 4, 6.5)),
    CHECK (tracking NOT IN ('serial', 'serial_out') OR whole),
    -- The life, in days, that must be left when an expiring lot comes in, and when it
    -- is shipped.
    life_in     integer NOT NULL DEFAULT 0 CHECK (life_in >= 0),
    -- How many days it keeps from when it is made; 0 is unknown.
    shelf_life  integer NOT NULL DEFAULT 0 CHECK (shelf_life >= 0),
    life_out    integer NOT NULL DEFAULT 0 CHECK (life_out >= 0),
    find        tsvector GENERATED ALWAYS AS (to_tsvector('simple', sku || ' ' || description)) STORED
);
CREATE INDEX items_find ON items USING gin (find);
CREATE INDEX items_sku ON items (upper(sku) text_pattern_ops);

CREATE TABLE packs (
    id      integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    item_id integer NOT NULL REFERENCES items,
    name    text NOT NULL,
    holds   numeric(14,3) NOT NULL CHECK (holds > 0),
    gtin    text UNIQUE CHECK (gtin ~ '^[0-9]{14}$'),
    -- What a full one weighs, and its sides, the longest first; NULL is unknown.
    weight_kg numeric(12,4) CHECK (weight_kg > 0),
    sides_cm  numeric(8,1)[] CHECK (sides_cm IS NULL OR array_length(sides_cm, 1) = 3),
    UNIQUE (item_id, name)
);

CREATE TABLE item_sites (
    item_id       integer NOT NULL REFERENCES items,
    site_id       integer NOT NULL REFERENCES sites,
    home_id       integer REFERENCES locations,
    reorder_point numeric(14,3) NOT NULL DEFAULT 0,
    target        numeric(14,3) NOT NULL DEFAULT 0,
    -- Whether the item may be kept, bought and sold here.
    allowed       boolean NOT NULL DEFAULT true,
    PRIMARY KEY (item_id, site_id)
);

CREATE TABLE lots (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    item_id    integer NOT NULL REFERENCES items,
    code       text NOT NULL CHECK (code <> '' AND length(code) <= 20),
    expires_on date,
    arrived_on date NOT NULL,
    UNIQUE (item_id, code)
);
CREATE INDEX lots_code ON lots (upper(code));

CREATE SEQUENCE made_lots;

CREATE TABLE serials (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    item_id integer NOT NULL REFERENCES items,
    code    text NOT NULL CHECK (code <> '' AND length(code) <= 20),
    UNIQUE (item_id, code)
);
CREATE INDEX serials_code ON serials (upper(code) text_pattern_ops);

CREATE TABLE parties (
    id       integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    kind     text NOT NULL CHECK (kind IN ('supplier', 'customer')),
    code     text NOT NULL UNIQUE,
    name     text NOT NULL,
    address  text NOT NULL DEFAULT '',
    contact  text NOT NULL DEFAULT '',
    email    text NOT NULL DEFAULT '',
    -- How they are paid, or pay, and how their goods are carried.
    terms    text NOT NULL DEFAULT '',
    carrier  text NOT NULL DEFAULT '',
    -- What a customer owes beyond its time, may owe at most (NULL is any amount), and
    -- whether part of an order may be shipped.
    overdue  numeric(14,2) NOT NULL DEFAULT 0 CHECK (overdue >= 0),
    credit_limit numeric(14,2) CHECK (credit_limit >= 0),
    -- What a customer pays less than the sales price, in per cent.
    discount_pct numeric(5,2) NOT NULL DEFAULT 0 CHECK (discount_pct BETWEEN 0 AND 100),
    in_parts boolean NOT NULL DEFAULT true,
    -- Whether an invoice follows a shipment later, at once, or at once and by mail.
    invoiced   text NOT NULL DEFAULT 'later' CHECK (invoiced IN ('later', 'shipped', 'mailed')),
    -- By how many per cent a supplier's invoice may be above the price agreed.
    price_pct numeric(5,2) NOT NULL DEFAULT 0 CHECK (price_pct BETWEEN 0 AND 100),
    -- The outside location that goods come from or go to.
    location_id integer NOT NULL REFERENCES locations
);
CREATE INDEX parties_name ON parties (kind, lower(name) text_pattern_ops);

-- What a customer pays for an item from a day on, whatever its sales price.
CREATE TABLE agreed_prices (
    customer_id integer NOT NULL REFERENCES parties,
    item_id     integer NOT NULL REFERENCES items,
    from_on     date NOT NULL,
    price       numeric(14,4) NOT NULL CHECK (price >= 0),
    PRIMARY KEY (customer_id, item_id, from_on)
);

-- +goose Down
DROP SEQUENCE made_lots;
DROP TABLE agreed_prices, parties, serials, lots, item_sites, packs, items, locations, zones, aisles, sites;
