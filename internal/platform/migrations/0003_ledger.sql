-- +goose Up
CREATE TABLE postings (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    kind        text NOT NULL CHECK (kind IN ('receive', 'reverse_receipt', 'inspect', 'release', 'put_away_load',
    'put_away', 'put_away_return',
                'move', 'pick', 'stage', 'pack', 'unpack', 'restock', 'load', 'unload', 'ship', 'count')),
    person_id   integer NOT NULL REFERENCES people,
    document    text NOT NULL DEFAULT '',
    note        text NOT NULL DEFAULT '',
    request_key text NOT NULL DEFAULT '',
    happened_at timestamptz NOT NULL,
    entered_at  timestamptz NOT NULL,
    -- The writing transaction, so that sealing can tell which postings are settled.
    xid         xid8 NOT NULL DEFAULT pg_current_xact_id()
);
CREATE INDEX postings_document ON postings (document) WHERE document <> '';
CREATE INDEX postings_xid ON postings (xid, id);

CREATE TABLE cartons (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    sscc       text NOT NULL UNIQUE CHECK (sscc ~ '^[0-9]{18}$'),
    kind       text NOT NULL DEFAULT 'carton' CHECK (kind IN ('carton', 'pallet'))
);

CREATE TABLE moves (
    id               bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    posting_id       bigint NOT NULL REFERENCES postings,
    item_id          integer NOT NULL REFERENCES items,
    lot_id           bigint REFERENCES lots,
    serial_id        bigint REFERENCES serials,
    quantity         numeric(14,3) NOT NULL CHECK (quantity > 0),
    from_location       integer NOT NULL REFERENCES locations,
    from_carton      bigint REFERENCES cartons,
    from_condition   text NOT NULL DEFAULT 'good',
    to_location         integer NOT NULL REFERENCES locations,
    to_carton        bigint REFERENCES cartons,
    to_condition     text NOT NULL DEFAULT 'good',
    -- What a base unit carries: its landed cost where it was received, then the average
    -- of its site.
    unit_cost        numeric(16,6) NOT NULL CHECK (unit_cost >= 0),
    -- What the move left at its two ends: of this very stock, and of the item in all
    -- at the location. NULL outside, where nothing is counted.
    from_site        integer,
    from_after       numeric(14,3),
    from_location_after numeric(14,3),
    to_site          integer,
    to_after         numeric(14,3),
    to_location_after   numeric(14,3),
    CHECK (serial_id IS NULL OR quantity = 1),
    CHECK ((from_location, coalesce(from_carton, 0), from_condition) <> (to_location, coalesce(to_carton, 0),
    to_condition))
);
CREATE INDEX moves_posting ON moves (posting_id);
CREATE INDEX moves_from ON moves (from_location, id);
CREATE INDEX moves_to ON moves (to_location, id);
CREATE INDEX moves_item_from ON moves (item_id, from_site, id);
CREATE INDEX moves_item_to ON moves (item_id, to_site, id);
-- Since when goods stand on a dock.
CREATE INDEX moves_item_location ON moves (item_id, to_location, id);
CREATE INDEX moves_lot ON moves (lot_id, id) WHERE lot_id IS NOT NULL;
CREATE INDEX moves_serial ON moves (serial_id, id) WHERE serial_id IS NOT NULL;
CREATE INDEX moves_from_carton ON moves (from_carton, id) WHERE from_carton IS NOT NULL;
CREATE INDEX moves_to_carton ON moves (to_carton, id) WHERE to_carton IS NOT NULL;

-- What lies in each real location now. Rows come and go with stock; only ledger_post
-- and its sisters below write them.
CREATE TABLE balances (
    location_id  integer NOT NULL REFERENCES locations,
    item_id   integer NOT NULL REFERENCES items,
    lot_id    bigint REFERENCES lots,
    serial_id bigint REFERENCES serials,
    carton_id bigint REFERENCES cartons,
    condition text NOT NULL DEFAULT 'good',
    quantity  numeric(14,3) NOT NULL,
    reserved    numeric(14,3) NOT NULL DEFAULT 0,
    -- One CHECK, since each is read anew for every row that is written.
    CONSTRAINT balances_stand CHECK (0 <= reserved AND reserved <= quantity AND (serial_id IS NULL OR quantity <= 1)
        AND condition IN ('good', 'waiting', 'on_hold', 'damaged'))
) WITH (fillfactor = 70);
CREATE UNIQUE INDEX balances_key ON balances
    (location_id, item_id, coalesce(lot_id, 0), coalesce(serial_id, 0), coalesce(carton_id, 0), condition);
-- No index looks at quantity, so that an update of it touches no index at all; a row
-- that comes to nothing goes away.
CREATE INDEX balances_item ON balances (item_id);
CREATE INDEX balances_carton ON balances (carton_id) WHERE carton_id IS NOT NULL;
CREATE INDEX balances_lot ON balances (lot_id) WHERE lot_id IS NOT NULL;
CREATE UNIQUE INDEX balances_serial ON balances (serial_id) WHERE serial_id IS NOT NULL;

-- The ends of moves in real locations, each with what was there after it. An end's id is
-- in the order of moves, what leaves before what comes. Units whose serials are known
-- only from the way out on lie in our locations without them.
CREATE VIEW move_ends AS
SELECT 2 * m.id AS id, m.id AS move_id, item_id, lot_id, CASE
       WHEN i.tracking <> 'serial_out' THEN serial_id END AS serial_id,
       from_location AS location_id, from_site AS site_id, from_carton AS carton_id,
       from_condition AS condition, -quantity AS delta, from_after AS after, from_location_after AS location_after
  FROM moves m JOIN items i ON i.id = m.item_id WHERE from_after IS NOT NULL
UNION ALL
SELECT 2 * m.id + 1, m.id, item_id, lot_id, CASE WHEN i.tracking <> 'serial_out' THEN serial_id END,
       to_location, to_site, to_carton, to_condition, quantity, to_after, to_location_after
  FROM moves m JOIN items i ON i.id = m.item_id WHERE to_after IS NOT NULL;

-- Stock reserved for one order line. Of units with serials, a reservation that names none reserves so
-- many of those that lie there, whichever they are.
CREATE TABLE reservations (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    location_id  integer NOT NULL REFERENCES locations,
    item_id   integer NOT NULL REFERENCES items,
    lot_id    bigint REFERENCES lots,
    serial_id bigint REFERENCES serials,
    carton_id bigint REFERENCES cartons,
    line_id   bigint NOT NULL,
    quantity numeric(14,3) NOT NULL CHECK (quantity > 0)
);
CREATE INDEX reservations_stock ON reservations (location_id, item_id);
CREATE INDEX reservations_line ON reservations (line_id);
CREATE INDEX reservations_serial ON reservations (serial_id) WHERE serial_id IS NOT NULL;

-- The chain of hashes over settled moves.
CREATE TABLE seals (
    position bigint PRIMARY KEY,
    move_id  bigint NOT NULL UNIQUE REFERENCES moves,
    xid      xid8 NOT NULL,
    hash     bytea NOT NULL CHECK (length(hash) = 32)
);

-- +goose StatementBegin
CREATE FUNCTION history_stands() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'history stands: % on % is refused', TG_OP, TG_TABLE_NAME USING ERRCODE = 'LR009';
END $$;
-- +goose StatementEnd
CREATE TRIGGER postings_stand BEFORE UPDATE OR DELETE
OR TRUNCATE ON postings FOR EACH STATEMENT EXECUTE FUNCTION history_stands();
CREATE TRIGGER moves_stand BEFORE UPDATE OR DELETE
OR TRUNCATE ON moves FOR EACH STATEMENT EXECUTE FUNCTION history_stands();
CREATE TRIGGER seals_stand BEFORE UPDATE OR DELETE
OR TRUNCATE ON seals FOR EACH STATEMENT EXECUTE FUNCTION history_stands();

-- ledger_swap lets one unit stand for another: it makes a serial's row reserved (1) or
-- loose (0) by trading with a unit beside it, unless somebody reserved this very serial.
-- +goose StatementBegin
CREATE FUNCTION ledger_swap(location integer, item integer, serial bigint,
want numeric) RETURNS void LANGUAGE plpgsql AS $$
DECLARE
    box bigint; other bigint;
BEGIN
    SELECT carton_id INTO box FROM balances
     WHERE serial_id = serial AND location_id = location AND reserved <> want
       AND NOT EXISTS (SELECT FROM reservations WHERE serial_id = serial);
    IF NOT FOUND THEN RETURN; END IF;
    SELECT b.serial_id INTO other FROM balances b
     WHERE b.location_id = location AND b.item_id = item AND b.carton_id IS NOT DISTINCT
     FROM box AND b.condition = 'good' AND b.reserved = want
       AND b.serial_id <> serial AND NOT EXISTS (SELECT FROM reservations p WHERE p.serial_id = b.serial_id)
     ORDER BY b.serial_id LIMIT 1;
    IF FOUND THEN
        UPDATE balances SET reserved = 1 - reserved WHERE serial_id IN (serial, other);
    END IF;
END $$;
-- +goose StatementEnd

-- ledger_side applies one end of a move to what lies in a real location, and returns what
-- is left of it there. It is reached through ledger_post alone.
-- +goose StatementBegin
CREATE FUNCTION ledger_side(location integer, item integer, lot bigint, serial bigint, carton bigint,
        cond text, delta numeric, reservation bigint, line integer) RETURNS numeric LANGUAGE plpgsql AS $$
DECLARE
    now_there numeric; have numeric; tied numeric; mine numeric := 0;
BEGIN
    IF reservation IS NOT NULL AND delta < 0 THEN
        SELECT least(quantity, -delta) INTO mine FROM reservations
         WHERE id = reservation AND location_id = location AND item_id = item AND coalesce(lot_id, 0) = coalesce(lot, 0)
           AND coalesce(carton_id, 0) = coalesce(carton, 0) AND coalesce(serial_id, serial, 0) = coalesce(serial, 0);
        mine := coalesce(mine, 0);
    END IF;
    IF serial IS NOT NULL AND delta < 0 THEN
        -- A unit that is reserved by name goes by its own reservation alone.
        IF EXISTS (SELECT FROM reservations p WHERE p.serial_id = serial AND p.id IS DISTINCT FROM reservation) THEN
            mine := 0;
        END IF;
        PERFORM ledger_swap(location, item, serial, mine);
    END IF;
    UPDATE balances SET quantity = quantity + delta, reserved = reserved - mine
     WHERE location_id = location AND item_id = item AND coalesce(lot_id, 0) = coalesce(lot, 0)
       AND coalesce(serial_id, 0) = coalesce(serial, 0) AND coalesce(carton_id, 0) = coalesce(carton, 0)
       AND condition = cond
       AND (delta > 0 OR quantity - reserved + mine >= -delta)
    RETURNING quantity INTO now_there;
    IF NOT FOUND AND delta > 0 THEN
        INSERT INTO balances (location_id, item_id, lot_id, serial_id, carton_id, condition, quantity)
        VALUES (location, item, lot, serial, carton, cond, delta);
        RETURN delta;
    ELSIF NOT FOUND THEN
        SELECT quantity, reserved INTO have, tied FROM balances
         WHERE location_id = location AND item_id = item AND coalesce(lot_id, 0) = coalesce(lot, 0)
           AND coalesce(serial_id, 0) = coalesce(serial, 0) AND coalesce(carton_id, 0) = coalesce(carton, 0)
           AND condition = cond;
        RAISE EXCEPTION 'not there to be moved' USING
            ERRCODE = CASE WHEN coalesce(have, 0) < -delta THEN 'LR001' ELSE 'LR002' END,
            DETAIL = json_build_object('line', line, 'location', location, 'item', item, 'lot', lot, 'serial', serial,
            'have', coalesce(have, 0), 'asked', -delta, 'reserved', coalesce(tied, 0) - mine);
    END IF;
    IF mine > 0 THEN
        DELETE FROM reservations WHERE id = reservation AND quantity = mine;
        IF NOT FOUND THEN UPDATE reservations SET quantity = quantity - mine WHERE id = reservation; END IF;
    END IF;
    IF now_there = 0 THEN
        DELETE FROM balances WHERE location_id = location AND item_id = item AND coalesce(lot_id, 0) = coalesce(lot, 0)
           AND coalesce(serial_id, 0) = coalesce(serial, 0) AND coalesce(carton_id, 0) = coalesce(carton, 0)
           AND condition = cond;
    END IF;
    RETURN now_there;
END $$;
-- +goose StatementEnd

-- What a base unit of an item costs at a site on average, and how many there are; site 0 is
-- what is in transit. Only ledger_post writes it, in the order of the moves of the item
-- there, so that the moves alone give the same.
CREATE TABLE item_costs (
    item_id  integer NOT NULL REFERENCES items,
    site_id  integer NOT NULL,
    quantity numeric(14,3) NOT NULL CHECK (quantity >= 0),
    average  numeric(16,6) NOT NULL CHECK (average >= 0),
    PRIMARY KEY (item_id, site_id)
) WITH (fillfactor = 70);

-- ledger_cost counts goods in or out of a site. What comes is averaged with what is there;
-- what goes leaves the average as it is, unless it goes at a cost of its own, as a receipt
-- that is taken back does.
-- +goose StatementBegin
CREATE FUNCTION ledger_cost(item integer, site integer, delta numeric, cost numeric) RETURNS void LANGUAGE plpgsql AS $$
BEGIN
    UPDATE item_costs c
       SET quantity = quantity + delta,
           average = CASE WHEN quantity + delta = 0 OR cost = average THEN average
                          ELSE greatest(0, round((quantity * average + delta * cost) / (quantity + delta), 6)) END
     WHERE c.item_id = item AND c.site_id = site;
    IF NOT FOUND THEN
        INSERT INTO item_costs VALUES (item, site, delta, cost);
    END IF;
END $$;
-- +goose StatementEnd

-- ledger_lock takes the locks on (location, item) pairs of a posting, and then those on
-- the (site, item) pairs whose cost it changes, always in the same order, so that two
-- postings never wait for each other in a ring. A site's key is below 0.
-- +goose StatementBegin
CREATE FUNCTION ledger_lock(lines jsonb) RETURNS void LANGUAGE plpgsql AS $$
DECLARE
    k record; one jsonb := lines -> 0; item integer; a integer; b integer;
BEGIN
    IF jsonb_array_length(lines) = 1 THEN
        item := (one -> 'item')::integer; a := (one -> 'from_location')::integer; b := (one -> 'to_location')::integer;
        PERFORM pg_advisory_xact_lock(least(a, b), item);
        PERFORM pg_advisory_xact_lock(greatest(a, b), item);
        RETURN;
    END IF;
    FOR k IN SELECT DISTINCT v.location, l.item
    FROM jsonb_to_recordset(lines) AS l(item integer, from_location integer, to_location integer),
                    LATERAL (VALUES (l.from_location), (l.to_location)) AS v(location) ORDER BY 1, 2 LOOP
        PERFORM pg_advisory_xact_lock(k.location, k.item);
    END LOOP;
    FOR k IN SELECT DISTINCT s.site, l.item
               FROM jsonb_to_recordset(lines) AS l(item integer, from_location integer, to_location integer)
               JOIN locations f ON f.id = l.from_location
               JOIN locations t ON t.id = l.to_location,
                    LATERAL (VALUES (f.real, f.site_id), (t.real, t.site_id)) AS s(real, site)
              WHERE s.real AND (f.real, f.site_id) IS DISTINCT FROM (t.real, t.site_id) ORDER BY 1, 2 LOOP
        PERFORM pg_advisory_xact_lock(-1 - coalesce(k.site, 0), k.item);
    END LOOP;
END $$;
-- +goose StatementEnd

-- ledger_post is the only way stock changes: it writes one posting and its moves,
-- and keeps balances and trail with them.
-- +goose StatementBegin
CREATE FUNCTION ledger_post(head jsonb, lines jsonb) RETURNS bigint
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    posting bigint; m record; n integer := -1; from_site integer; from_real boolean; to_site integer; to_real boolean;
    from_after numeric; from_location_after numeric; to_after numeric; to_location_after numeric; kept text; unit bigint;
    carried numeric; here integer; there integer; alone boolean := jsonb_array_length(lines) = 1;
    at timestamptz := clock_timestamp();
BEGIN
    IF head ? 'entered_at' THEN
        IF current_setting('role') <> 'none' THEN
            RAISE EXCEPTION 'only the owner may set the time of entry' USING ERRCODE = 'LR009';
        END IF;
        at := (head ->> 'entered_at')::timestamptz;
    END IF;
    PERFORM ledger_lock(lines);
    INSERT INTO postings (kind, person_id, document, note, request_key, happened_at, entered_at)
    VALUES (head ->> 'kind', (head ->> 'person')::integer, coalesce(head ->> 'document', ''),
      coalesce(head ->> 'note', ''),
            coalesce(head ->> 'key', ''), coalesce((head ->> 'happened_at')::timestamptz, at), at)
    RETURNING id INTO posting;
    FOR m IN SELECT item, lot, serial, quantity, from_location, from_carton,
    coalesce(from_condition, 'good') AS from_condition,
                    to_location, to_carton, coalesce(to_condition, 'good') AS to_condition, cost, reservation
               FROM jsonb_to_recordset(lines) AS l(item integer, lot bigint, serial bigint, quantity numeric,
                    from_location integer, from_carton bigint, from_condition text,
                    to_location integer, to_carton bigint, to_condition text, cost numeric, reservation bigint) LOOP
        n := n + 1;
        from_after := NULL; from_location_after := NULL; to_after := NULL; to_location_after := NULL;
        SELECT f.site_id, f.real, t.site_id, t.real, i.tracking, coalesce(c.average, i.cost)
          INTO from_site, from_real, to_site, to_real, kept, carried
          FROM locations f CROSS JOIN locations t CROSS JOIN items i
          LEFT JOIN item_costs c ON c.item_id = i.id
                AND c.site_id = coalesce(CASE WHEN f.real THEN f.site_id ELSE t.site_id END, 0)
         WHERE f.id = m.from_location AND t.id = m.to_location AND i.id = m.item;
        -- Foreign keys know that there is such a lot or unit, and not that it is of the item.
        IF m.lot IS NOT NULL AND NOT EXISTS (SELECT FROM lots WHERE id = m.lot AND item_id = m.item)
           OR m.serial IS NOT NULL AND NOT EXISTS (SELECT FROM serials WHERE id = m.serial AND item_id = m.item) THEN
            RAISE EXCEPTION 'move % names a lot or a unit of another item', n + 1 USING ERRCODE = 'foreign_key_violation';
        END IF;
        carried := round(coalesce(m.cost, carried), 6);
        IF kept = 'serial' AND m.serial IS NULL THEN
            RAISE EXCEPTION 'a unit moves without its serial' USING ERRCODE = 'LR003';
        END IF;
        unit := CASE WHEN kept <> 'serial_out' THEN m.serial END;
        IF from_real THEN
            from_after := ledger_side(m.from_location, m.item, m.lot, unit, m.from_carton, m.from_condition,
            -m.quantity, m.reservation, n);
            SELECT coalesce(sum(quantity), 0) INTO from_location_after FROM balances
             WHERE location_id = m.from_location AND item_id = m.item;
        END IF;
        IF to_real THEN
            to_after := ledger_side(m.to_location, m.item, m.lot, unit, m.to_carton, m.to_condition, m.quantity, NULL,
            n);
            SELECT coalesce(sum(quantity), 0) INTO to_location_after FROM balances WHERE location_id = m.to_location
               AND item_id = m.item;
        END IF;
        here := CASE WHEN from_real THEN coalesce(from_site, 0) END;
        there := CASE WHEN to_real THEN coalesce(to_site, 0) END;
        IF here IS DISTINCT FROM there THEN
            IF alone THEN
                PERFORM pg_advisory_xact_lock(-1 - greatest(here, there), m.item);
                PERFORM pg_advisory_xact_lock(-1 - least(here, there), m.item);
                -- Whoever held it may have changed the average meanwhile.
                IF m.cost IS NULL THEN
                    SELECT c.average INTO carried FROM item_costs c WHERE c.item_id = m.item
                       AND c.site_id = coalesce(here, there);
                    carried := coalesce(carried, (SELECT round(cost, 6) FROM items WHERE id = m.item));
                END IF;
            END IF;
            IF from_real THEN PERFORM ledger_cost(m.item, here, -m.quantity, carried); END IF;
            IF to_real THEN PERFORM ledger_cost(m.item, there, m.quantity, carried); END IF;
        END IF;
        INSERT INTO moves (posting_id, item_id, lot_id, serial_id, quantity, from_location, from_carton,
          from_condition, to_location, to_carton, to_condition,
                           unit_cost, from_site, from_after, from_location_after, to_site, to_after, to_location_after)
        VALUES (posting, m.item, m.lot, m.serial, m.quantity, m.from_location, m.from_carton, m.from_condition,
          m.to_location, m.to_carton, m.to_condition,
                carried, from_site, from_after, from_location_after, to_site, to_after, to_location_after);
    END LOOP;
    RETURN posting;
END $$;
-- +goose StatementEnd

-- ledger_reserve reserves stock for an order line; ledger_unreserve gives it back.
-- +goose StatementBegin
CREATE FUNCTION ledger_reserve(location integer, item integer, lot bigint, serial bigint, carton bigint, line bigint,
amount numeric) RETURNS bigint
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE have numeric; tied numeric; reservation bigint; kept text; n integer;
BEGIN
    PERFORM pg_advisory_xact_lock(location, item);
    SELECT tracking INTO kept FROM items WHERE id = item;
    IF serial IS NOT NULL THEN
        PERFORM ledger_swap(location, item, serial, 0);
    END IF;
    IF kept = 'serial' AND serial IS NULL THEN
        UPDATE balances SET reserved = 1 WHERE serial_id IN (
            SELECT serial_id FROM balances WHERE location_id = location AND item_id = item
               AND coalesce(carton_id, 0) = coalesce(carton, 0)
               AND condition = 'good' AND quantity > reserved ORDER BY serial_id LIMIT amount);
        GET DIAGNOSTICS n = ROW_COUNT;
    ELSE
        UPDATE balances SET reserved = reserved + amount
         WHERE location_id = location AND item_id = item AND coalesce(lot_id, 0) = coalesce(lot, 0)
           AND coalesce(serial_id, 0) = coalesce(serial, 0)
           AND coalesce(carton_id, 0) = coalesce(carton, 0) AND condition = 'good' AND quantity - reserved >= amount;
        n := CASE WHEN FOUND THEN amount ELSE 0 END;
    END IF;
    IF n < amount THEN
        SELECT sum(quantity), sum(reserved) INTO have, tied FROM balances
         WHERE location_id = location AND item_id = item AND coalesce(lot_id, 0) = coalesce(lot, 0)
           AND (serial IS NULL OR serial_id = serial)
           AND coalesce(carton_id, 0) = coalesce(carton, 0) AND condition = 'good';
        RAISE EXCEPTION 'reserved' USING ERRCODE = 'LR002',
        DETAIL = json_build_object('line', 0, 'location', location, 'item', item, 'lot', lot, 'serial', serial,
            'have', coalesce(have, 0), 'asked', amount, 'reserved', coalesce(tied, 0));
    END IF;
    INSERT INTO reservations (location_id, item_id, lot_id, serial_id, carton_id, line_id, quantity)
    VALUES (location, item, lot, serial, carton, line, amount) RETURNING id INTO reservation;
    RETURN reservation;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION ledger_unreserve(reservation bigint) RETURNS void
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE p reservations;
BEGIN
    SELECT * INTO p FROM reservations WHERE id = reservation;
    IF NOT FOUND THEN RETURN; END IF;
    PERFORM pg_advisory_xact_lock(p.location_id, p.item_id);
    DELETE FROM reservations WHERE id = reservation RETURNING * INTO p;
    IF NOT FOUND THEN RETURN; END IF;
    IF p.serial_id IS NULL AND (SELECT tracking = 'serial' FROM items WHERE id = p.item_id) THEN
        UPDATE balances SET reserved = 0 WHERE serial_id IN (
            SELECT b.serial_id FROM balances b WHERE b.location_id = p.location_id AND b.item_id = p.item_id
               AND coalesce(b.carton_id, 0) = coalesce(p.carton_id, 0)
               AND b.condition = 'good' AND b.reserved = 1
               AND NOT EXISTS (SELECT FROM reservations x WHERE x.serial_id = b.serial_id) ORDER BY b.serial_id
             LIMIT p.quantity);
        RETURN;
    END IF;
    UPDATE balances SET reserved = reserved - p.quantity
     WHERE location_id = p.location_id AND item_id = p.item_id AND coalesce(lot_id, 0) = coalesce(p.lot_id, 0)
       AND coalesce(serial_id, 0) = coalesce(p.serial_id, 0) AND coalesce(carton_id, 0) = coalesce(p.carton_id, 0)
       AND condition = 'good';
END $$;
-- +goose StatementEnd

-- The words of a move that its seal is made of, and whether it is settled: no
-- transaction older than its own is still running.
CREATE VIEW move_words AS
SELECT m.id AS move_id, p.xid, concat_ws('|', m.id, p.id, p.kind, p.person_id, p.document, p.note, p.request_key,
        extract(epoch FROM p.happened_at), extract(epoch FROM p.entered_at),
        m.item_id, coalesce(m.lot_id, 0), coalesce(m.serial_id, 0), m.quantity, m.from_location,
        coalesce(m.from_carton, 0), m.from_condition,
        m.to_location, coalesce(m.to_carton, 0), m.to_condition, m.unit_cost::text) AS words
  FROM moves m JOIN postings p ON p.id = m.posting_id;

-- +goose StatementBegin
CREATE FUNCTION ledger_seal(start bigint, move_ids bigint[], xids text[], hashes bytea[]) RETURNS void
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    IF start <> (SELECT coalesce(max(position), 0) FROM seals) THEN
        RAISE EXCEPTION 'the chain of seals has moved on' USING ERRCODE = 'LR009';
    END IF;
    INSERT INTO seals (position, move_id, xid, hash)
    SELECT start + n, m, x::xid8, h FROM unnest(move_ids, xids, hashes) WITH ORDINALITY AS t(m, x, h, n);
END $$;
-- +goose StatementEnd

-- +goose Down
DROP VIEW move_words, move_ends;
DROP TABLE seals, reservations, item_costs, balances, moves, cartons, postings CASCADE;
DROP FUNCTION ledger_seal, ledger_cost, ledger_unreserve, ledger_reserve, ledger_post, ledger_lock, ledger_side,
ledger_swap, history_stands;
