-- +goose Up
CREATE SEQUENCE sales_numbers START 3301;
CREATE SEQUENCE outbound_numbers START 101;
CREATE SEQUENCE round_numbers START 101;
CREATE SEQUENCE shipment_numbers START 501;
CREATE SEQUENCE sscc_numbers START 470;
CREATE SEQUENCE wave_numbers START 21;
CREATE SEQUENCE load_numbers START 81;
CREATE SEQUENCE invoice_numbers START 9001;
CREATE SEQUENCE tracking_numbers START 4711;
CREATE SEQUENCE count_numbers START 61;

-- What must leave a site, whatever its kind: the floor reserves, picks, packs, loads and
-- ships it, and knows no more of it than this.
CREATE TABLE outbound_orders (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number      text NOT NULL UNIQUE,
    kind        text NOT NULL CHECK (kind IN ('sale', 'transfer', 'supplier_return', 'replacement')),
    site_id     integer NOT NULL REFERENCES sites,
    -- Whom it goes to: a party, or another site of ours; and where its goods are from then on.
    party_id    integer REFERENCES parties,
    to_site_id  integer REFERENCES sites,
    destination_id integer NOT NULL REFERENCES locations,
    wanted_on   date NOT NULL,
    reference   text NOT NULL DEFAULT '',
    carrier     text NOT NULL DEFAULT '',
    note        text NOT NULL DEFAULT '',
    state       text NOT NULL CHECK (state IN ('quote', 'on_hold', 'released', 'shipped', 'cancelled')),
    version     integer NOT NULL DEFAULT 1,
    changed_by  integer NOT NULL REFERENCES people,
    changed_at  timestamptz NOT NULL,
    last_change text NOT NULL,
    CHECK ((party_id IS NULL) <> (to_site_id IS NULL))
);
CREATE INDEX outbound_orders_open ON outbound_orders (site_id, wanted_on, id) WHERE state IN ('on_hold', 'released');
CREATE INDEX outbound_orders_listed ON outbound_orders (site_id, wanted_on DESC, id DESC);
CREATE INDEX outbound_orders_party ON outbound_orders (party_id) WHERE state IN ('on_hold', 'released');

-- Outbound orders with whom they go to, in words.
CREATE VIEW outbound AS
SELECT o.*, coalesce(p.name, s.name) AS recipient, coalesce(p.address, '') AS address, coalesce(p.email, '') AS email
  FROM outbound_orders o LEFT JOIN parties p ON p.id = o.party_id LEFT JOIN sites s ON s.id = o.to_site_id;

CREATE TABLE outbound_lines (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    order_id bigint NOT NULL REFERENCES outbound_orders,
    line     integer NOT NULL,
    -- A line without an item is a non-stock line, such as freight; its text says what.
    item_id  integer REFERENCES items,
    text     text NOT NULL DEFAULT '' CHECK (item_id IS NOT NULL OR text <> ''),
    quantity numeric(14,3) NOT NULL CHECK (quantity > 0),
    -- On a round, reserved; in a carton; gone to the customer; not wanted any more.
    planned   numeric(14,3) NOT NULL DEFAULT 0 CHECK (planned >= 0),
    picked     numeric(14,3) NOT NULL DEFAULT 0 CHECK (picked >= 0),
    shipped      numeric(14,3) NOT NULL DEFAULT 0 CHECK (shipped >= 0),
    cancelled numeric(14,3) NOT NULL DEFAULT 0 CHECK (cancelled >= 0),
    -- What still has to be found in stock for it, on a round or not.
    due       numeric(14,3) GENERATED ALWAYS AS (CASE WHEN item_id IS NULL THEN 0
    ELSE quantity - cancelled - picked - shipped END) STORED,
    -- The line is as far as its last unit is.
    state     text NOT NULL GENERATED ALWAYS AS (CASE
        WHEN quantity - cancelled - planned - picked > shipped THEN 'open'
        WHEN planned > 0 THEN 'planned'
        WHEN picked > 0 THEN 'picked'
        WHEN shipped > 0 THEN 'shipped'
        ELSE 'cancelled' END) STORED,
    UNIQUE (order_id, line),
    CHECK (planned + picked + shipped + cancelled <= quantity),
    CHECK (item_id IS NOT NULL OR planned + picked = 0)
);
CREATE INDEX outbound_lines_open ON outbound_lines (item_id) WHERE quantity - cancelled - picked - shipped > 0;
ALTER TABLE reservations ADD FOREIGN KEY (line_id) REFERENCES outbound_lines;

-- The commercial side of a sale: whom it is for, on what terms, and what each line costs.
CREATE TABLE sales_orders (
    order_id    bigint PRIMARY KEY REFERENCES outbound_orders,
    customer_id integer NOT NULL REFERENCES parties,
    -- Why it was taken though the customer owes, and who said so.
    owing       text NOT NULL DEFAULT '',
    owing_by    integer REFERENCES people,
    -- The last day on which a quote holds.
    quote_until date
);
CREATE INDEX sales_orders_customer ON sales_orders (customer_id);

CREATE TABLE sales_lines (
    line_id   bigint PRIMARY KEY REFERENCES outbound_lines,
    price     numeric(14,4) NOT NULL CHECK (price >= 0),
    -- Where the price comes from, and how it came about.
    price_source text NOT NULL DEFAULT 'typed' CHECK (price_source IN ('typed', 'agreed', 'discount', 'list')),
    price_why text NOT NULL DEFAULT ''
);

-- An inbound line that brings what an outbound line is short of; what comes is reserved for it.
ALTER TABLE inbound_lines ADD covers bigint REFERENCES outbound_lines;
CREATE INDEX inbound_lines_covers ON inbound_lines (covers) WHERE covers IS NOT NULL;

CREATE TABLE rounds (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number       text NOT NULL UNIQUE DEFAULT 'R-' || nextval('round_numbers'),
    site_id      integer NOT NULL REFERENCES sites,
    state        text NOT NULL CHECK (state IN ('released', 'walking', 'done')),
    picker_id    integer REFERENCES people,
    metres       numeric(10,2) NOT NULL,
    plain_metres numeric(10,2) NOT NULL,
    -- How long it was calculated to take when it was released.
    minutes      numeric(8,1) NOT NULL DEFAULT 0,
    -- Whether each unit is scanned, or a quantity is entered.
    each_unit    boolean NOT NULL DEFAULT false,
    -- The wave that it was released with, if any.
    wave         integer,
    path         jsonb NOT NULL,
    released_at    timestamptz NOT NULL,
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
    line_id  bigint NOT NULL REFERENCES outbound_lines,
    location_id integer NOT NULL REFERENCES locations,
    item_id  integer NOT NULL REFERENCES items,
    lot_id   bigint REFERENCES lots,
    -- The very unit, where one is reserved for the order.
    serial_id bigint REFERENCES serials,
    -- The lot that was planned, where another was taken.
    planned_lot bigint REFERENCES lots,
    -- The carton or pallet in the bin that it is taken from.
    carton_id bigint REFERENCES cartons,
    quantity numeric(14,3) NOT NULL CHECK (quantity > 0),
    picked    numeric(14,3) NOT NULL DEFAULT 0,
    short    numeric(14,3) NOT NULL DEFAULT 0,
    reservation_id   bigint,
    state text NOT NULL GENERATED ALWAYS AS (CASE
        WHEN picked + short < quantity THEN 'open'
        WHEN short > 0 THEN 'short'
        ELSE 'picked' END) STORED,
    UNIQUE (round_id, seq),
    CHECK (picked + short <= quantity)
);
CREATE INDEX round_stops_line ON round_stops (line_id);
CREATE INDEX round_stops_reservation ON round_stops (reservation_id) WHERE reservation_id IS NOT NULL;

-- A carton gets an order when its label is scanned on a round.
CREATE TABLE carton_work (
    carton_id   bigint PRIMARY KEY REFERENCES cartons,
    site_id     integer NOT NULL REFERENCES sites,
    order_id    bigint REFERENCES outbound_orders,
    round_id    bigint REFERENCES rounds,
    letter      text NOT NULL DEFAULT '',
    state       text NOT NULL CHECK (state IN ('blank', 'open', 'at_bench', 'packed', 'loaded', 'shipped')),
    weight_kg   numeric(12,3),
    -- Its size, and the pallet that it stands on.
    size_code   text NOT NULL DEFAULT '',
    pallet_id   bigint REFERENCES cartons,
    -- Its contents were looked through at the bench; its weight was off, and by how much.
    checked_by  integer REFERENCES people,
    variance_kg      numeric(12,3),
    load_id     bigint,
    shipment_id bigint,
    printed_at  timestamptz NOT NULL,
    changed_at  timestamptz NOT NULL
);
CREATE INDEX carton_work_state ON carton_work (site_id, state) WHERE state <> 'shipped';
CREATE INDEX carton_work_order ON carton_work (order_id);
CREATE INDEX carton_work_round ON carton_work (round_id) WHERE round_id IS NOT NULL;
CREATE INDEX carton_work_shipment ON carton_work (shipment_id) WHERE shipment_id IS NOT NULL;

CREATE TABLE carton_contents (
    carton_id bigint NOT NULL REFERENCES cartons,
    line_id   bigint NOT NULL REFERENCES outbound_lines,
    item_id   integer NOT NULL REFERENCES items,
    lot_id    bigint REFERENCES lots,
    serial_id bigint REFERENCES serials,
    quantity  numeric(14,3) NOT NULL CHECK (quantity > 0),
    -- How many of it were scanned at the bench.
    checked   numeric(14,3) NOT NULL DEFAULT 0 CHECK (checked >= 0)
);
CREATE UNIQUE INDEX carton_contents_key ON carton_contents (carton_id, line_id, item_id, coalesce(lot_id, 0),
coalesce(serial_id, 0));
CREATE INDEX carton_contents_serial ON carton_contents (serial_id) WHERE serial_id IS NOT NULL;

CREATE TABLE shipments (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number      text NOT NULL UNIQUE DEFAULT 'D-' || nextval('shipment_numbers'),
    order_id    bigint NOT NULL REFERENCES outbound_orders,
    site_id     integer NOT NULL REFERENCES sites,
    carrier     text NOT NULL DEFAULT '',
    -- Whether its carrier was asked for a number, and what came of it.
    state       text NOT NULL DEFAULT 'left' CHECK (state IN ('left', 'asked', 'carried', 'refused')),
    shipped_by     integer NOT NULL REFERENCES people,
    shipped_at     timestamptz NOT NULL
);
CREATE INDEX shipments_order ON shipments (order_id);
ALTER TABLE carton_work ADD FOREIGN KEY (shipment_id) REFERENCES shipments;

-- Goods in a carton that its order does not want any more: they are returned to stock.
CREATE TABLE restocks (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id   integer NOT NULL REFERENCES sites,
    line_id   bigint NOT NULL REFERENCES outbound_lines,
    carton_id bigint NOT NULL REFERENCES cartons,
    item_id   integer NOT NULL REFERENCES items,
    lot_id    bigint REFERENCES lots,
    serial_id bigint REFERENCES serials,
    quantity  numeric(14,3) NOT NULL CHECK (quantity > 0),
    -- Where it was taken from.
    location_id  integer REFERENCES locations,
    asked_by  integer NOT NULL REFERENCES people,
    asked_at  timestamptz NOT NULL,
    done_by   integer REFERENCES people,
    done_at   timestamptz
);
CREATE INDEX restocks_open ON restocks (site_id, id) WHERE done_at IS NULL;
CREATE INDEX restocks_carton ON restocks (carton_id) WHERE done_at IS NULL;

-- Kinds of cartons, as measured inside.
CREATE TABLE carton_sizes (
    code     text PRIMARY KEY,
    name     text NOT NULL,
    sides_cm numeric(8,1)[] NOT NULL CHECK (array_length(sides_cm, 1) = 3),
    max_kg   numeric(8,2) CHECK (max_kg > 0),
    tare_kg  numeric(8,3) NOT NULL DEFAULT 0 CHECK (tare_kg >= 0)
);

-- The scale at a bench that stands in for a real one: how much it says too much, in
-- kilograms, and whether it answers.
CREATE TABLE scales (
    site_id integer PRIMARY KEY REFERENCES sites,
    variance_kg  numeric(8,3) NOT NULL DEFAULT 0,
    answers boolean NOT NULL DEFAULT true
);

-- Carriers, and what the stand-in of each does when it is asked.
CREATE TABLE carriers (
    name     text PRIMARY KEY,
    -- When it collects, by the site's clock: 10:30; 16:00.
    collects text[] NOT NULL DEFAULT '{}',
    base     numeric(10,2) NOT NULL DEFAULT 0 CHECK (base >= 0),
    per_kg   numeric(10,2) NOT NULL DEFAULT 0 CHECK (per_kg >= 0),
    -- The most that it carries in one carton; NULL is any weight.
    max_kg   numeric(8,2) CHECK (max_kg > 0),
    does     text NOT NULL DEFAULT 'takes' CHECK (does IN ('takes', 'silent', 'odd', 'refuses'))
);

-- A vehicle of a carrier that cartons are loaded onto.
CREATE TABLE loads (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number     text NOT NULL UNIQUE DEFAULT 'L-' || nextval('load_numbers'),
    site_id    integer NOT NULL REFERENCES sites,
    carrier    text NOT NULL,
    vehicle    text NOT NULL DEFAULT '',
    state      text NOT NULL DEFAULT 'loading' CHECK (state IN ('loading', 'left')),
    opened_by  integer NOT NULL REFERENCES people,
    opened_at  timestamptz NOT NULL,
    left_at    timestamptz
);
CREATE INDEX loads_open ON loads (site_id, id) WHERE state = 'loading';
ALTER TABLE carton_work ADD FOREIGN KEY (load_id) REFERENCES loads;

ALTER TABLE shipments ADD load_id bigint REFERENCES loads, ADD tracking text NOT NULL DEFAULT '',
ADD rate numeric(12,2),
    -- Why the carrier gave no number, the last time it was asked.
    ADD carrier_said text NOT NULL DEFAULT '';

-- What a shipment shipped, and what of it is invoiced.
CREATE TABLE shipment_lines (
    shipment_id bigint NOT NULL REFERENCES shipments,
    line_id     bigint NOT NULL REFERENCES outbound_lines,
    quantity    numeric(14,3) NOT NULL CHECK (quantity > 0),
    invoiced      numeric(14,3) NOT NULL DEFAULT 0 CHECK (invoiced BETWEEN 0 AND quantity),
    PRIMARY KEY (shipment_id, line_id)
);
CREATE INDEX shipment_lines_line ON shipment_lines (line_id);
CREATE INDEX shipment_lines_uninvoiced ON shipment_lines (shipment_id) WHERE invoiced < quantity;

-- What a customer is asked to pay.
CREATE TABLE invoices (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number      text NOT NULL UNIQUE DEFAULT 'I-' || nextval('invoice_numbers'),
    site_id     integer NOT NULL REFERENCES sites,
    customer_id integer NOT NULL REFERENCES parties,
    shipment_id bigint NOT NULL REFERENCES shipments,
    invoiced_on   date NOT NULL,
    terms       text NOT NULL DEFAULT '',
    total       numeric(14,2) NOT NULL,
    made_by     integer NOT NULL REFERENCES people,
    made_at     timestamptz NOT NULL
);
CREATE INDEX invoices_listed ON invoices (site_id, id DESC);
CREATE INDEX invoices_shipment ON invoices (shipment_id);

CREATE TABLE invoice_lines (
    invoice_id  bigint NOT NULL REFERENCES invoices,
    line_id  bigint NOT NULL REFERENCES sales_lines,
    quantity numeric(14,3) NOT NULL CHECK (quantity > 0),
    price    numeric(14,4) NOT NULL,
    PRIMARY KEY (invoice_id, line_id)
);

-- A bin where a round found less than it should, to be looked at.
CREATE TABLE count_requests (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    location_id  integer NOT NULL REFERENCES locations,
    item_id   integer NOT NULL REFERENCES items,
    expected  numeric(14,3) NOT NULL,
    found     numeric(14,3) NOT NULL,
    round_id  bigint REFERENCES rounds,
    raised_by integer NOT NULL REFERENCES people,
    raised_at timestamptz NOT NULL,
    settled_at timestamptz,
    state      text NOT NULL GENERATED ALWAYS AS (CASE WHEN settled_at IS NULL THEN 'requested'
    ELSE 'settled' END) STORED
);
CREATE INDEX count_requests_open ON count_requests (location_id, item_id) WHERE state = 'requested';

-- What was counted of an item in a bin, by how much it differs, and the value of that.
CREATE TABLE counts (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number     text NOT NULL UNIQUE DEFAULT 'C-' || nextval('count_numbers'),
    site_id    integer NOT NULL REFERENCES sites,
    location_id   integer NOT NULL REFERENCES locations,
    item_id    integer NOT NULL REFERENCES items,
    found      numeric(14,3) NOT NULL CHECK (found >= 0),
    variance   numeric(14,3) NOT NULL,
    value      numeric(14,2) NOT NULL,
    reason     text NOT NULL DEFAULT '',
    counted_by integer NOT NULL REFERENCES people,
    counted_at timestamptz NOT NULL
);
CREATE INDEX counts_location ON counts (location_id, item_id, id DESC);

-- The steps between states: a document takes no other, whoever writes it.
-- +goose StatementBegin
CREATE FUNCTION state_step() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NOT (OLD.state || '>' || NEW.state) = ANY (TG_ARGV) THEN
        RAISE EXCEPTION '% cannot go from "%" to "%"', TG_TABLE_NAME, OLD.state, NEW.state USING ERRCODE = 'LR010';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
CREATE TRIGGER state_step BEFORE UPDATE OF state ON outbound_orders FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('quote>on_hold', 'quote>cancelled', 'on_hold>released', 'on_hold>shipped',
    'on_hold>cancelled', 'released>on_hold', 'released>shipped', 'released>cancelled');
CREATE TRIGGER state_step BEFORE UPDATE OF state ON inbound_orders FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('draft>placed', 'draft>closed', 'placed>partly_received', 'placed>received',
    'placed>closed', 'partly_received>placed', 'partly_received>received', 'partly_received>closed',
    'received>placed', 'received>partly_received', 'received>closed');
CREATE TRIGGER state_step BEFORE UPDATE OF state ON rounds FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('released>walking', 'released>done', 'walking>released', 'walking>done');
CREATE TRIGGER state_step BEFORE UPDATE OF state ON carton_work FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('blank>open', 'open>at_bench', 'open>blank', 'open>shipped', 'at_bench>packed',
    'at_bench>blank', 'at_bench>shipped', 'packed>at_bench', 'packed>loaded', 'packed>shipped', 'loaded>packed',
    'loaded>shipped');
CREATE TRIGGER state_step BEFORE UPDATE OF state ON arrivals FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('open>done', 'done>open');
CREATE TRIGGER state_step BEFORE UPDATE OF state ON inspections FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('waiting>decided', 'waiting>withdrawn');
CREATE TRIGGER state_step BEFORE UPDATE OF state ON loads FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('loading>left');
CREATE TRIGGER state_step BEFORE UPDATE OF state ON shipments FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('left>asked', 'asked>carried', 'asked>refused', 'refused>asked');
-- States that follow from quantities are known once the row stands.
CREATE TRIGGER state_step AFTER UPDATE ON outbound_lines FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('open>planned', 'open>picked', 'open>shipped', 'open>cancelled',
        'planned>open', 'planned>picked', 'planned>shipped', 'planned>cancelled',
        'picked>open', 'picked>planned', 'picked>shipped', 'picked>cancelled', 'shipped>open', 'cancelled>open');
CREATE TRIGGER state_step AFTER UPDATE ON inbound_lines FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('open>partly_received', 'open>received', 'open>cancelled',
        'partly_received>open', 'partly_received>received', 'received>open', 'received>partly_received');
CREATE TRIGGER state_step AFTER UPDATE ON round_stops FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('open>picked', 'open>short');
CREATE TRIGGER state_step AFTER UPDATE ON count_requests FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('requested>settled');

-- +goose Down
ALTER TABLE inbound_lines DROP covers;
DROP TABLE counts, count_requests, invoice_lines, invoices, shipment_lines, loads, carriers, scales, carton_sizes,
restocks, carton_contents, carton_work, shipments,
    round_stops, rounds, sales_lines, sales_orders, outbound_lines, outbound_orders CASCADE;
DROP FUNCTION state_step CASCADE;
DROP SEQUENCE count_numbers, tracking_numbers, invoice_numbers, load_numbers, wave_numbers, sscc_numbers,
shipment_numbers, round_numbers, sales_numbers, outbound_numbers;
