-- +goose Up
-- Picking bins that are kept filled from reserve, with the levels that they are kept between. Without a location it is
-- the item's home bin, whichever that is.
CREATE TABLE picking_bins (
    id          integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id     integer NOT NULL REFERENCES sites,
    item_id     integer NOT NULL REFERENCES items,
    location_id integer REFERENCES locations,
    least       numeric(14,3) NOT NULL CHECK (least >= 0),
    most        numeric(14,3) NOT NULL CHECK (most > 0 AND most >= least),
    retired     boolean NOT NULL DEFAULT false,
    UNIQUE NULLS NOT DISTINCT (site_id, item_id, location_id)
);
-- The picking bins that are in use, each by the bin that it is.
CREATE VIEW refilled_bins AS
SELECT p.id, p.site_id, p.item_id, coalesce(p.location_id, s.home_id) AS location_id, p.least, p.most,
       coalesce(p.location_id, s.home_id) IS NOT DISTINCT FROM s.home_id AS home
  FROM picking_bins p
  LEFT JOIN item_sites s ON s.item_id = p.item_id AND s.site_id = p.site_id
 WHERE NOT p.retired AND coalesce(p.location_id, s.home_id) IS NOT NULL
   AND (p.location_id IS NOT NULL OR NOT EXISTS (
        SELECT FROM picking_bins o WHERE o.site_id = p.site_id AND o.item_id = p.item_id AND o.location_id = s.home_id
           AND NOT o.retired));

-- A refill is one walk that fetches reserve and brings it to picking bins.
CREATE SEQUENCE refill_numbers START 101;
CREATE TABLE refills (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number      text NOT NULL UNIQUE DEFAULT 'RF-' || nextval('refill_numbers'),
    site_id     integer NOT NULL REFERENCES sites,
    trolley_id  integer NOT NULL REFERENCES locations,
    state       text NOT NULL CHECK (state IN ('planned', 'walking', 'done', 'cancelled')),
    person_id   integer REFERENCES people,
    metres      numeric(10,2) NOT NULL,
    made_by     integer NOT NULL REFERENCES people,
    made_at     timestamptz NOT NULL,
    started_at  timestamptz,
    done_at     timestamptz,
    version     integer NOT NULL DEFAULT 1,
    changed_by  integer NOT NULL REFERENCES people,
    changed_at  timestamptz NOT NULL,
    last_change text NOT NULL
);
CREATE INDEX refills_open ON refills (site_id, id) WHERE state IN ('planned', 'walking');
CREATE TRIGGER state_step BEFORE UPDATE OF state ON refills FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('planned>walking', 'planned>cancelled', 'walking>done');
CREATE TABLE refill_moves (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    refill_id bigint NOT NULL REFERENCES refills,
    item_id   integer NOT NULL REFERENCES items,
    lot_id    bigint REFERENCES lots,
    -- The carton or pallet that it is taken from, and whether that goes as it is.
    carton_id bigint REFERENCES cartons,
    whole     boolean NOT NULL CHECK (NOT whole OR carton_id IS NOT NULL),
    from_id   integer NOT NULL REFERENCES locations,
    to_id     integer NOT NULL REFERENCES locations CHECK (to_id <> from_id),
    quantity  numeric(14,3) NOT NULL CHECK (quantity > 0),
    -- Which stops of the walk it is fetched and brought at.
    fetch_at  integer NOT NULL,
    bring_at  integer NOT NULL CHECK (bring_at > fetch_at),
    -- How much was fetched, was not to be had, was brought, and went back; and whether no more of it is brought.
    fetched   numeric(14,3) NOT NULL DEFAULT 0,
    missed    numeric(14,3) NOT NULL DEFAULT 0,
    brought   numeric(14,3) NOT NULL DEFAULT 0,
    returned  numeric(14,3) NOT NULL DEFAULT 0,
    refused   boolean NOT NULL DEFAULT false,
    -- The units that are on the trolley, where they are known one by one.
    serials   text[] NOT NULL DEFAULT '{}',
    UNIQUE (refill_id, fetch_at),
    UNIQUE (refill_id, bring_at),
    CHECK (fetched >= 0 AND missed >= 0 AND fetched + missed <= quantity AND brought >= 0 AND returned >= 0
        AND brought + returned <= fetched)
);
CREATE INDEX refill_moves_to ON refill_moves (to_id, item_id);
CREATE INDEX refill_moves_from ON refill_moves (from_id, item_id);
GRANT SELECT, INSERT, UPDATE ON picking_bins, refills, refill_moves TO lanternrow_app;
GRANT SELECT ON refilled_bins TO lanternrow_app;
GRANT USAGE ON SEQUENCE refill_numbers TO lanternrow_app;

-- The kinds of postings that there are, in one place from here on.
-- +goose StatementBegin
CREATE FUNCTION posting_kinds() RETURNS text[] LANGUAGE sql IMMUTABLE AS $$
    SELECT ARRAY['receive', 'reverse_receipt', 'inspect', 'release', 'put_away_load', 'put_away', 'put_away_return',
        'move', 'refill_load', 'refill', 'refill_return', 'pick', 'stage', 'pack', 'unpack', 'restock', 'load', 'unload',
        'ship', 'reverse_shipment', 'count', 'decide_return', 'dispose', 'settle_difference']
$$;
CREATE OR REPLACE FUNCTION posting_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.kind <> ALL (public.posting_kinds()) THEN
        RAISE EXCEPTION 'there is no kind of posting "%"', NEW.kind USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION posting_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.kind NOT IN ('receive', 'reverse_receipt', 'inspect', 'release', 'put_away_load', 'put_away',
       'put_away_return', 'move', 'pick', 'stage', 'pack', 'unpack', 'restock', 'load', 'unload', 'ship',
       'reverse_shipment', 'count', 'decide_return', 'dispose', 'settle_difference') THEN
        RAISE EXCEPTION 'there is no kind of posting "%"', NEW.kind USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
DROP FUNCTION posting_kinds();
DROP TABLE refill_moves, refills;
DROP SEQUENCE refill_numbers;
DROP VIEW refilled_bins;
DROP TABLE picking_bins;
