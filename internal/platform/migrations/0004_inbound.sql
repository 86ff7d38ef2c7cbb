-- +goose Up
CREATE SEQUENCE purchase_numbers START 2201;
CREATE SEQUENCE inbound_numbers START 101;
CREATE SEQUENCE arrival_numbers START 401;

-- What is expected at a site, whatever its kind: the floor receives, inspects, labels and
-- puts it away, and knows no more of it than this.
CREATE TABLE inbound_orders (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number      text NOT NULL UNIQUE,
    kind        text NOT NULL CHECK (kind IN ('purchase', 'transfer', 'customer_return')),
    site_id     integer NOT NULL REFERENCES sites,
    -- Whom it comes from: a party, or another site of ours; and where its goods are until then.
    party_id    integer REFERENCES parties,
    from_site_id integer REFERENCES sites,
    source_id   integer NOT NULL REFERENCES locations,
    expected_on date NOT NULL,
    carrier     text NOT NULL DEFAULT '',
    note        text NOT NULL DEFAULT '',
    state       text NOT NULL CHECK (state IN ('draft', 'placed', 'partly_received', 'received', 'closed')),
    version     integer NOT NULL DEFAULT 1,
    changed_by  integer NOT NULL REFERENCES people,
    changed_at  timestamptz NOT NULL,
    last_change text NOT NULL,
    CHECK ((party_id IS NULL) <> (from_site_id IS NULL))
);
CREATE INDEX inbound_orders_open ON inbound_orders (site_id, expected_on, id)
WHERE state IN ('draft', 'placed', 'partly_received');
CREATE INDEX inbound_orders_listed ON inbound_orders (site_id, expected_on DESC, id DESC);

-- Inbound orders with whom they come from, in words.
CREATE VIEW inbound AS
SELECT o.*, coalesce(p.name, s.name) AS source, coalesce(p.code, s.code) AS source_code
  FROM inbound_orders o LEFT JOIN parties p ON p.id = o.party_id LEFT JOIN sites s ON s.id = o.from_site_id;

CREATE TABLE inbound_lines (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    order_id bigint NOT NULL REFERENCES inbound_orders,
    line     integer NOT NULL,
    -- A line without an item is a non-stock line, such as freight; its text says what.
    item_id  integer REFERENCES items,
    text     text NOT NULL DEFAULT '' CHECK (item_id IS NOT NULL OR text <> ''),
    pack_id  integer REFERENCES packs ON DELETE SET NULL,
    quantity numeric(14,3) NOT NULL CHECK (quantity > 0),
    received numeric(14,3) NOT NULL DEFAULT 0 CHECK (received >= 0),
    -- What a base unit costs as it comes, freight included; none where goods bring their own.
    unit_cost numeric(14,4) CHECK (unit_cost >= 0),
    -- Per cent of the quantity that may be missing or too much and is fine, as it was
    -- agreed when the line was written.
    short_pct numeric(5,2) NOT NULL DEFAULT 0 CHECK (short_pct BETWEEN 0 AND 100),
    over_pct  numeric(5,2) NOT NULL DEFAULT 0 CHECK (over_pct BETWEEN 0 AND 100),
    -- Nothing more is expected; what was missing then is cancelled.
    closed    boolean NOT NULL DEFAULT false,
    cancelled numeric(14,3) NOT NULL DEFAULT 0 CHECK (cancelled >= 0 AND (closed OR cancelled = 0)),
    state text NOT NULL GENERATED ALWAYS AS (CASE
        WHEN closed AND received > 0 THEN 'received'
        WHEN closed THEN 'cancelled'
        WHEN received > 0 THEN 'partly_received'
        ELSE 'open' END) STORED,
    UNIQUE (order_id, line)
);
CREATE INDEX inbound_lines_item ON inbound_lines (item_id, id);
CREATE INDEX inbound_lines_open ON inbound_lines (item_id) WHERE NOT closed;

-- The commercial side of a purchase.
CREATE TABLE purchase_orders (
    order_id    bigint PRIMARY KEY REFERENCES inbound_orders,
    supplier_id integer NOT NULL REFERENCES parties,
    -- How it began: written as an order, asked for by somebody, or offered by the
    -- supplier, whose number and last day an offer has.
    began_as    text NOT NULL DEFAULT 'order' CHECK (began_as IN ('order', 'request', 'quote')),
    quote       text NOT NULL DEFAULT '',
    quote_until date,
    terms       text NOT NULL DEFAULT '',
    -- What freight costs, and what it is spread over the lines by.
    freight     numeric(14,2) NOT NULL DEFAULT 0 CHECK (freight >= 0),
    freight_by  text NOT NULL DEFAULT 'value' CHECK (freight_by IN ('value', 'weight')),
    approved_by integer REFERENCES people,
    approved_at timestamptz
);
CREATE INDEX purchase_orders_supplier ON purchase_orders (supplier_id);

CREATE TABLE purchase_lines (
    line_id   bigint PRIMARY KEY REFERENCES inbound_lines ON DELETE CASCADE,
    needed_on date,
    price     numeric(14,4) NOT NULL CHECK (price >= 0),
    invoiced    numeric(14,3) NOT NULL DEFAULT 0 CHECK (invoiced >= 0)
);

CREATE TABLE arrivals (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number      text NOT NULL UNIQUE DEFAULT 'A-' || nextval('arrival_numbers'),
    site_id     integer NOT NULL REFERENCES sites,
    -- Whom its goods come from, as on its orders.
    party_id    integer REFERENCES parties,
    from_site_id integer REFERENCES sites,
    source_id   integer NOT NULL REFERENCES locations,
    dock_id     integer NOT NULL REFERENCES locations,
    state       text NOT NULL CHECK (state IN ('open', 'done')),
    -- Whether its goods wait on the dock, not free, until their order is complete.
    waits       boolean NOT NULL DEFAULT false,
    opened_at   timestamptz NOT NULL,
    version     integer NOT NULL DEFAULT 1,
    changed_by  integer NOT NULL REFERENCES people,
    changed_at  timestamptz NOT NULL,
    last_change text NOT NULL,
    CHECK ((party_id IS NULL) <> (from_site_id IS NULL))
);
CREATE INDEX arrivals_open ON arrivals (site_id, id) WHERE state = 'open';

CREATE TABLE arrival_orders (
    arrival_id bigint NOT NULL REFERENCES arrivals,
    order_id   bigint NOT NULL REFERENCES inbound_orders,
    PRIMARY KEY (arrival_id, order_id)
);
CREATE INDEX arrival_orders_order ON arrival_orders (order_id);

-- Which line each receiving was for, and whether it was taken back.
CREATE TABLE receipts (
    move_id    bigint PRIMARY KEY REFERENCES moves,
    arrival_id bigint NOT NULL REFERENCES arrivals,
    line_id    bigint NOT NULL REFERENCES inbound_lines,
    -- When it went into stock, if it waited for the rest of its order.
    released_at timestamptz,
    undone_at  timestamptz,
    undone_by  integer REFERENCES people,
    reason     text NOT NULL DEFAULT ''
);
CREATE INDEX receipts_arrival ON receipts (arrival_id, move_id);
CREATE INDEX receipts_line ON receipts (line_id);

-- Goods that are set aside until somebody has looked at them: all of them, or by a
-- sampling plan so many, of which no more than accept may fail.
CREATE TABLE inspections (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id    integer NOT NULL REFERENCES sites,
    sample     numeric(14,3),
    accept     integer,
    state      text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'decided', 'withdrawn')),
    passed     numeric(14,3) NOT NULL DEFAULT 0 CHECK (passed >= 0),
    failed     numeric(14,3) NOT NULL DEFAULT 0 CHECK (failed >= 0),
    reason     text NOT NULL DEFAULT '',
    decided_by integer REFERENCES people,
    decided_at timestamptz
);
CREATE INDEX inspections_waiting ON inspections (site_id, id) WHERE state = 'waiting';

ALTER TABLE receipts ADD inspection_id bigint REFERENCES inspections;
CREATE INDEX receipts_inspection ON receipts (inspection_id) WHERE inspection_id IS NOT NULL;

-- What a supplier asks to be paid.
CREATE TABLE supplier_invoices (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    order_id   bigint NOT NULL REFERENCES purchase_orders,
    supplier_id integer NOT NULL REFERENCES parties,
    -- The supplier's own number: the same invoice is not entered twice.
    number     text NOT NULL CHECK (number <> ''),
    invoiced_on  date NOT NULL,
    entered_by integer NOT NULL REFERENCES people,
    entered_at timestamptz NOT NULL,
    UNIQUE (supplier_id, number)
);
CREATE INDEX supplier_invoices_order ON supplier_invoices (order_id);

CREATE TABLE supplier_invoice_lines (
    invoice_id  bigint NOT NULL REFERENCES supplier_invoices,
    line_id  bigint NOT NULL REFERENCES purchase_lines,
    quantity numeric(14,3) NOT NULL CHECK (quantity > 0),
    price    numeric(14,4) NOT NULL CHECK (price >= 0),
    -- Why a lead let a price pass that is above the allowance.
    reason   text NOT NULL DEFAULT '',
    PRIMARY KEY (invoice_id, line_id)
);

-- One walk with a trolley full of goods that are put away, and what is still on it.
CREATE SEQUENCE walk_numbers START 701;
CREATE TABLE put_away_walks (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number     text NOT NULL UNIQUE DEFAULT 'W-' || nextval('walk_numbers'),
    site_id    integer NOT NULL REFERENCES sites,
    -- Where the goods were taken from, and the trolley they lie on.
    from_id    integer NOT NULL REFERENCES locations,
    trolley_id integer NOT NULL REFERENCES locations,
    person_id  integer NOT NULL REFERENCES people,
    begun_at   timestamptz NOT NULL,
    done_at    timestamptz
);
CREATE INDEX put_away_walks_open ON put_away_walks (site_id, id) WHERE done_at IS NULL;

CREATE TABLE put_away_loads (
    walk_id  bigint NOT NULL REFERENCES put_away_walks,
    item_id  integer NOT NULL REFERENCES items,
    lot_id   bigint REFERENCES lots,
    quantity numeric(14,3) NOT NULL CHECK (quantity > 0),
    -- The units that are on it, where they are known one by one.
    serials  text[] NOT NULL DEFAULT '{}'
);
CREATE UNIQUE INDEX put_away_loads_key ON put_away_loads (walk_id, item_id, coalesce(lot_id, 0));

-- Labels that are to be printed.
CREATE TABLE print_jobs (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id  integer NOT NULL REFERENCES sites,
    title    text NOT NULL,
    document text NOT NULL,
    labels   jsonb NOT NULL,
    copies   integer NOT NULL CHECK (copies > 0),
    printed  integer NOT NULL DEFAULT 0 CHECK (printed BETWEEN 0 AND copies),
    -- Why it stopped, the last time it was tried.
    stopped  text NOT NULL DEFAULT '',
    discarded boolean NOT NULL DEFAULT false,
    asked_by integer NOT NULL REFERENCES people,
    asked_at timestamptz NOT NULL
);
CREATE INDEX print_jobs_waiting ON print_jobs (site_id, id) WHERE printed < copies AND NOT discarded;

-- A list's filters and columns, kept by a person under a name.
CREATE TABLE saved_views (
    person_id integer NOT NULL REFERENCES people,
    list      text NOT NULL,
    name      text NOT NULL CHECK (name <> ''),
    settings  jsonb NOT NULL,
    PRIMARY KEY (person_id, list, name)
);

-- +goose Down
DROP VIEW inbound;
DROP TABLE saved_views, print_jobs, put_away_loads, put_away_walks, receipts, inspections, supplier_invoice_lines,
supplier_invoices, arrival_orders, arrivals, purchase_lines, purchase_orders, inbound_lines, inbound_orders;
DROP SEQUENCE walk_numbers, arrival_numbers, inbound_numbers, purchase_numbers;
