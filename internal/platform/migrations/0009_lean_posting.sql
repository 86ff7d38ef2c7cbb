-- +goose Up
-- A posting is what is written most. PostgreSQL reads each CHECK of a table anew in every
-- statement that writes to it, and each foreign key asks for, and locks, the row it names.
-- What the ledger's tables promise is therefore kept by one trigger a table; what a move
-- names is looked up once by ledger_post, nobody else writes here, and what history may
-- name is never deleted.
ALTER TABLE postings DROP CONSTRAINT postings_kind_check, DROP CONSTRAINT postings_person_id_fkey;
ALTER TABLE moves
    DROP CONSTRAINT moves_quantity_check, DROP CONSTRAINT moves_unit_cost_check, DROP CONSTRAINT moves_check,
    DROP CONSTRAINT moves_check1, DROP CONSTRAINT moves_posting_id_fkey, DROP CONSTRAINT moves_item_id_fkey,
    DROP CONSTRAINT moves_lot_id_fkey, DROP CONSTRAINT moves_serial_id_fkey, DROP CONSTRAINT moves_from_location_fkey,
    DROP CONSTRAINT moves_from_carton_fkey, DROP CONSTRAINT moves_to_location_fkey,
    DROP CONSTRAINT moves_to_carton_fkey;
ALTER TABLE balances
    DROP CONSTRAINT balances_stand, DROP CONSTRAINT balances_location_id_fkey, DROP CONSTRAINT balances_item_id_fkey,
    DROP CONSTRAINT balances_lot_id_fkey, DROP CONSTRAINT balances_serial_id_fkey,
    DROP CONSTRAINT balances_carton_id_fkey;
ALTER TABLE seals DROP CONSTRAINT seals_move_id_fkey;
ALTER TABLE requests DROP CONSTRAINT requests_person_id_fkey;
-- Requests come in the order of time, and only those of weeks ago are looked for by it.
DROP INDEX requests_at;
CREATE INDEX requests_at ON requests USING brin (at);

-- +goose StatementBegin
CREATE FUNCTION posting_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.kind NOT IN ('receive', 'reverse_receipt', 'inspect', 'release', 'put_away_load', 'put_away',
       'put_away_return', 'move', 'pick', 'stage', 'pack', 'unpack', 'restock', 'load', 'unload', 'ship', 'count') THEN
        RAISE EXCEPTION 'there is no kind of posting "%"', NEW.kind USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
CREATE TRIGGER posting_sound BEFORE INSERT ON postings FOR EACH ROW EXECUTE FUNCTION posting_sound();

-- +goose StatementBegin
CREATE FUNCTION move_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.quantity <= 0 OR NEW.unit_cost < 0 OR NEW.serial_id IS NOT NULL AND NEW.quantity <> 1
       OR NEW.from_location = NEW.to_location AND NEW.from_condition = NEW.to_condition
          AND NEW.from_carton IS NOT DISTINCT FROM NEW.to_carton
       OR NEW.from_condition NOT IN ('good', 'waiting', 'on_hold', 'damaged')
       OR NEW.to_condition NOT IN ('good', 'waiting', 'on_hold', 'damaged') THEN
        RAISE EXCEPTION 'this is no move: %', to_jsonb(NEW) USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
CREATE TRIGGER move_sound BEFORE INSERT ON moves FOR EACH ROW EXECUTE FUNCTION move_sound();

-- +goose StatementBegin
CREATE FUNCTION balance_sound() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.reserved < 0 OR NEW.reserved > NEW.quantity OR NEW.serial_id IS NOT NULL AND NEW.quantity > 1
       OR NEW.condition NOT IN ('good', 'waiting', 'on_hold', 'damaged') THEN
        RAISE EXCEPTION 'this is no balance: %', to_jsonb(NEW) USING ERRCODE = 'check_violation';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
CREATE TRIGGER balance_sound BEFORE INSERT OR UPDATE ON balances FOR EACH ROW EXECUTE FUNCTION balance_sound();

CREATE TRIGGER named_stand BEFORE UPDATE OF id OR DELETE OR TRUNCATE ON items
    FOR EACH STATEMENT EXECUTE FUNCTION history_stands();
CREATE TRIGGER named_stand BEFORE UPDATE OF id OR DELETE OR TRUNCATE ON locations
    FOR EACH STATEMENT EXECUTE FUNCTION history_stands();
CREATE TRIGGER named_stand BEFORE UPDATE OF id OR DELETE OR TRUNCATE ON lots
    FOR EACH STATEMENT EXECUTE FUNCTION history_stands();
CREATE TRIGGER named_stand BEFORE UPDATE OF id OR DELETE OR TRUNCATE ON serials
    FOR EACH STATEMENT EXECUTE FUNCTION history_stands();
CREATE TRIGGER named_stand BEFORE UPDATE OF id OR DELETE OR TRUNCATE ON cartons
    FOR EACH STATEMENT EXECUTE FUNCTION history_stands();
CREATE TRIGGER named_stand BEFORE UPDATE OF id OR DELETE OR TRUNCATE ON people
    FOR EACH STATEMENT EXECUTE FUNCTION history_stands();

DROP FUNCTION ledger_side;

-- A ledger_line is one move as ledger_post is given it.
CREATE TYPE ledger_line AS (
    item integer, lot bigint, serial bigint, quantity numeric, from_location integer, from_carton bigint,
    from_condition text, to_location integer, to_carton bigint, to_condition text, cost numeric, reservation bigint
);

-- ledger_named refuses a move that names a lot, a unit or a carton that is not there, or a
-- lot or a unit of another item. Line counts from 0.
-- +goose StatementBegin
CREATE FUNCTION ledger_named(m public.ledger_line, line integer) RETURNS void LANGUAGE plpgsql AS $$
BEGIN
    IF m.lot IS NOT NULL AND NOT EXISTS (SELECT FROM public.lots WHERE id = m.lot AND item_id = m.item)
       OR m.serial IS NOT NULL AND NOT EXISTS (SELECT FROM public.serials WHERE id = m.serial AND item_id = m.item) THEN
        RAISE EXCEPTION 'move % names a lot or a unit of another item', line + 1
            USING ERRCODE = 'foreign_key_violation';
    END IF;
    IF m.from_carton IS NOT NULL AND NOT EXISTS (SELECT FROM public.cartons WHERE id = m.from_carton)
       OR m.to_carton IS NOT NULL AND NOT EXISTS (SELECT FROM public.cartons WHERE id = m.to_carton) THEN
        RAISE EXCEPTION 'move % names a carton that is not there', line + 1 USING ERRCODE = 'foreign_key_violation';
    END IF;
END $$;
-- +goose StatementEnd

-- ledger_reserved is how much of what a move takes its reservation holds, and the part of
-- it that is used up leaves the reservation. A unit trades places with another beside it
-- where its own is reserved for somebody else.
-- +goose StatementBegin
CREATE FUNCTION ledger_reserved(m public.ledger_line, unit bigint) RETURNS numeric LANGUAGE plpgsql AS $$
DECLARE mine numeric;
BEGIN
    SELECT least(quantity, m.quantity) INTO mine FROM public.reservations
     WHERE id = m.reservation AND location_id = m.from_location AND item_id = m.item
       AND coalesce(lot_id, 0) = coalesce(m.lot, 0) AND coalesce(carton_id, 0) = coalesce(m.from_carton, 0)
       AND coalesce(serial_id, unit, 0) = coalesce(unit, 0)
       -- A unit that is reserved by name goes by its own reservation alone.
       AND (unit IS NULL OR NOT EXISTS (
           SELECT FROM public.reservations r WHERE r.serial_id = unit AND r.id <> m.reservation));
    mine := coalesce(mine, 0);
    IF unit IS NOT NULL THEN
        PERFORM public.ledger_swap(m.from_location, m.item, unit, mine);
    END IF;
    DELETE FROM public.reservations WHERE id = m.reservation AND quantity = mine;
    IF NOT FOUND AND mine > 0 THEN
        UPDATE public.reservations SET quantity = quantity - mine WHERE id = m.reservation;
    END IF;
    RETURN mine;
END $$;
-- +goose StatementEnd

-- ledger_short refuses a move that takes more than there is, or than is not reserved.
-- +goose StatementBegin
CREATE FUNCTION ledger_short(m public.ledger_line, unit bigint, mine numeric, line integer) RETURNS void
LANGUAGE plpgsql AS $$
DECLARE have numeric; tied numeric;
BEGIN
    SELECT quantity, reserved INTO have, tied FROM public.balances
     WHERE location_id = m.from_location AND item_id = m.item AND coalesce(lot_id, 0) = coalesce(m.lot, 0)
       AND coalesce(serial_id, 0) = coalesce(unit, 0) AND coalesce(carton_id, 0) = coalesce(m.from_carton, 0)
       AND condition = m.from_condition;
    RAISE EXCEPTION 'not there to be moved' USING
        ERRCODE = CASE WHEN coalesce(have, 0) < m.quantity THEN 'LR001' ELSE 'LR002' END,
        DETAIL = json_build_object('line', line, 'location', m.from_location, 'item', m.item, 'lot', m.lot,
            'serial', unit, 'have', coalesce(have, 0), 'asked', m.quantity, 'reserved', coalesce(tied, 0) - mine);
END $$;
-- +goose StatementEnd
REVOKE EXECUTE ON FUNCTION ledger_named, ledger_reserved, ledger_short FROM PUBLIC;

-- What ledger_post calls of before, with schemas.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_lock(lines jsonb) RETURNS void LANGUAGE plpgsql AS $$
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
               JOIN public.locations f ON f.id = l.from_location
               JOIN public.locations t ON t.id = l.to_location,
                    LATERAL (VALUES (f.real, f.site_id), (t.real, t.site_id)) AS s(real, site)
              WHERE s.real AND (f.real, f.site_id) IS DISTINCT FROM (t.real, t.site_id) ORDER BY 1, 2 LOOP
        PERFORM pg_advisory_xact_lock(-1 - coalesce(k.site, 0), k.item);
    END LOOP;
END $$;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_swap(location integer, item integer, serial bigint,
want numeric) RETURNS void LANGUAGE plpgsql AS $$
DECLARE
    box bigint; other bigint;
BEGIN
    SELECT carton_id INTO box FROM public.balances
     WHERE serial_id = serial AND location_id = location AND reserved <> want
       AND NOT EXISTS (SELECT FROM public.reservations WHERE serial_id = serial);
    IF NOT FOUND THEN RETURN; END IF;
    SELECT b.serial_id INTO other FROM public.balances b
     WHERE b.location_id = location AND b.item_id = item AND b.carton_id IS NOT DISTINCT
     FROM box AND b.condition = 'good' AND b.reserved = want
       AND b.serial_id <> serial AND NOT EXISTS (SELECT FROM public.reservations p WHERE p.serial_id = b.serial_id)
     ORDER BY b.serial_id LIMIT 1;
    IF FOUND THEN
        UPDATE public.balances SET reserved = 1 - reserved WHERE serial_id IN (serial, other);
    END IF;
END $$;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_cost(item integer, site integer, delta numeric, cost numeric) RETURNS void
LANGUAGE plpgsql AS $$
BEGIN
    UPDATE public.item_costs c
       SET quantity = quantity + delta,
           average = CASE WHEN quantity + delta = 0 OR cost = average THEN average
                          ELSE greatest(0, round((quantity * average + delta * cost) / (quantity + delta), 6)) END
     WHERE c.item_id = item AND c.site_id = site;
    IF NOT FOUND THEN
        INSERT INTO public.item_costs VALUES (item, site, delta, cost);
    END IF;
END $$;
-- +goose StatementEnd

-- ledger_post is the only way stock changes: it writes one posting and its moves,
-- and keeps balances and costs with them. What it has to know of a move is read by
-- statements on one table each, which cost less than one that joins the tables. Whatever
-- it and its helpers name is named with its schema, so that no search path leads elsewhere.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_post(head jsonb, lines jsonb) RETURNS bigint
LANGUAGE plpgsql SECURITY DEFINER AS $$
DECLARE
    posting bigint; m public.ledger_line; last integer := jsonb_array_length(lines) - 1; locked text; unit bigint;
    kept text; catalog_cost numeric; average numeric; carried numeric; mine numeric;
    from_site integer; from_real boolean; to_site integer; to_real boolean; here integer; there integer;
    from_after numeric; from_location_after numeric; to_after numeric; to_location_after numeric;
    at timestamptz := clock_timestamp();
BEGIN
    IF head ? 'entered_at' THEN
        IF current_setting('role') <> 'none' THEN
            RAISE EXCEPTION 'only the owner may set the time of entry' USING ERRCODE = 'LR009';
        END IF;
        at := (head ->> 'entered_at')::timestamptz;
    END IF;
    IF last > 0 THEN
        PERFORM public.ledger_lock(lines);
    END IF;
    INSERT INTO public.postings (kind, person_id, document, note, request_key, happened_at, entered_at)
    SELECT head ->> 'kind', id, coalesce(head ->> 'document', ''), coalesce(head ->> 'note', ''),
           coalesce(head ->> 'key', ''), coalesce((head ->> 'happened_at')::timestamptz, at), at
      FROM public.people WHERE id = (head ->> 'person')::integer
    RETURNING id INTO posting;
    IF posting IS NULL THEN
        RAISE EXCEPTION 'nobody posts this' USING ERRCODE = 'foreign_key_violation';
    END IF;
    FOR n IN 0 .. last LOOP
        m := jsonb_populate_record('(,,,,,,good,,,good,,)'::public.ledger_line, lines -> n);
        IF last = 0 THEN
            -- Assigned, which is cheaper than a statement.
            locked := pg_advisory_xact_lock(least(m.from_location, m.to_location), m.item);
            locked := pg_advisory_xact_lock(greatest(m.from_location, m.to_location), m.item);
        END IF;
        SELECT tracking, cost INTO kept, catalog_cost FROM public.items WHERE id = m.item;
        SELECT real, site_id INTO from_real, from_site FROM public.locations WHERE id = m.from_location;
        SELECT real, site_id INTO to_real, to_site FROM public.locations WHERE id = m.to_location;
        IF kept IS NULL OR from_real IS NULL OR to_real IS NULL THEN
            RAISE EXCEPTION 'move % names an item or a location that is not there', n + 1
                USING ERRCODE = 'foreign_key_violation';
        END IF;
        IF coalesce(m.lot, m.serial, m.from_carton, m.to_carton) IS NOT NULL THEN
            PERFORM public.ledger_named(m, n);
        END IF;
        IF kept = 'serial' AND m.serial IS NULL THEN
            RAISE EXCEPTION 'a unit moves without its serial' USING ERRCODE = 'LR003';
        END IF;
        unit := CASE WHEN kept <> 'serial_out' THEN m.serial END;
        mine := 0; from_after := NULL; from_location_after := NULL; to_after := NULL; to_location_after := NULL;
        IF from_real THEN
            IF m.reservation IS NOT NULL OR unit IS NOT NULL THEN
                mine := public.ledger_reserved(m, unit);
            END IF;
            UPDATE public.balances SET quantity = quantity - m.quantity, reserved = reserved - mine
             WHERE location_id = m.from_location AND item_id = m.item AND coalesce(lot_id, 0) = coalesce(m.lot, 0)
               AND coalesce(serial_id, 0) = coalesce(unit, 0) AND coalesce(carton_id, 0) = coalesce(m.from_carton, 0)
               AND condition = m.from_condition
               AND quantity - reserved + mine >= m.quantity
            RETURNING quantity INTO from_after;
            IF from_after IS NULL THEN
                PERFORM public.ledger_short(m, unit, mine, n);
            ELSIF from_after = 0 THEN
                DELETE FROM public.balances
                 WHERE location_id = m.from_location AND item_id = m.item AND coalesce(lot_id, 0) = coalesce(m.lot, 0)
                   AND coalesce(serial_id, 0) = coalesce(unit, 0)
                   AND coalesce(carton_id, 0) = coalesce(m.from_carton, 0)
                   AND condition = m.from_condition;
            END IF;
            SELECT coalesce(sum(quantity), 0) INTO from_location_after FROM public.balances
             WHERE location_id = m.from_location AND item_id = m.item;
        END IF;
        IF to_real THEN
            UPDATE public.balances SET quantity = quantity + m.quantity
             WHERE location_id = m.to_location AND item_id = m.item AND coalesce(lot_id, 0) = coalesce(m.lot, 0)
               AND coalesce(serial_id, 0) = coalesce(unit, 0) AND coalesce(carton_id, 0) = coalesce(m.to_carton, 0)
               AND condition = m.to_condition
            RETURNING quantity INTO to_after;
            IF to_after IS NULL THEN
                INSERT INTO public.balances (location_id, item_id, lot_id, serial_id, carton_id, condition, quantity)
                VALUES (m.to_location, m.item, m.lot, unit, m.to_carton, m.to_condition, m.quantity)
                RETURNING quantity INTO to_after;
            END IF;
            SELECT sum(quantity) INTO to_location_after FROM public.balances
             WHERE location_id = m.to_location AND item_id = m.item;
        END IF;
        here := CASE WHEN from_real THEN coalesce(from_site, 0) END;
        there := CASE WHEN to_real THEN coalesce(to_site, 0) END;
        IF last = 0 AND here IS DISTINCT FROM there THEN
            PERFORM pg_advisory_xact_lock(-1 - greatest(here, there), m.item);
            PERFORM pg_advisory_xact_lock(-1 - least(here, there), m.item);
        END IF;
        SELECT c.average INTO average FROM public.item_costs c
         WHERE c.item_id = m.item AND c.site_id = coalesce(here, there, 0);
        carried := round(coalesce(m.cost, average, catalog_cost), 6);
        IF here IS DISTINCT FROM there THEN
            IF from_real THEN PERFORM public.ledger_cost(m.item, here, -m.quantity, carried); END IF;
            IF to_real THEN PERFORM public.ledger_cost(m.item, there, m.quantity, carried); END IF;
        END IF;
        INSERT INTO public.moves (posting_id, item_id, lot_id, serial_id, quantity, from_location, from_carton,
                                  from_condition, to_location, to_carton, to_condition, unit_cost, from_site,
                                  from_after, from_location_after, to_site, to_after, to_location_after)
        VALUES (posting, m.item, m.lot, m.serial, m.quantity, m.from_location, m.from_carton, m.from_condition,
                m.to_location, m.to_carton, m.to_condition, carried, from_site, from_after, from_location_after,
                to_site, to_after, to_location_after);
    END LOOP;
    RETURN posting;
END $$;
-- +goose StatementEnd

-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_seal(start bigint, move_ids bigint[], xids text[], hashes bytea[]) RETURNS void
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE n bigint;
BEGIN
    IF start <> (SELECT coalesce(max(position), 0) FROM seals) THEN
        RAISE EXCEPTION 'the chain of seals has moved on' USING ERRCODE = 'LR009';
    END IF;
    INSERT INTO seals (position, move_id, xid, hash)
    SELECT start + s.n, s.m, s.x::xid8, s.h
      FROM unnest(move_ids, xids, hashes) WITH ORDINALITY AS s(m, x, h, n) JOIN moves ON moves.id = s.m;
    GET DIAGNOSTICS n = ROW_COUNT;
    IF n <> cardinality(move_ids) THEN
        RAISE EXCEPTION 'a move to be sealed is not there' USING ERRCODE = 'foreign_key_violation';
    END IF;
END $$;
-- +goose StatementEnd

-- +goose Down
DROP TRIGGER named_stand ON people;
DROP TRIGGER named_stand ON cartons;
DROP TRIGGER named_stand ON serials;
DROP TRIGGER named_stand ON lots;
DROP TRIGGER named_stand ON locations;
DROP TRIGGER named_stand ON items;
DROP FUNCTION balance_sound, move_sound, posting_sound CASCADE;
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
REVOKE EXECUTE ON FUNCTION ledger_side FROM PUBLIC;
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_post(head jsonb, lines jsonb) RETURNS bigint
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    posting bigint; m record; n integer := -1; from_site integer; from_real boolean; to_site integer; to_real boolean;
    from_after numeric; from_location_after numeric; to_after numeric; to_location_after numeric; kept text;
    unit bigint;
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
            RAISE EXCEPTION 'move % names a lot or a unit of another item', n + 1
                USING ERRCODE = 'foreign_key_violation';
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
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_seal(start bigint, move_ids bigint[], xids text[], hashes bytea[]) RETURNS void
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    IF start <> (SELECT coalesce(max(position), 0) FROM seals) THEN
        RAISE EXCEPTION 'the chain of seals has moved on' USING ERRCODE = 'LR009';
    END IF;
    INSERT INTO seals (position, move_id, xid, hash)
    SELECT start + n, m, x::xid8, h FROM unnest(move_ids, xids, hashes) WITH ORDINALITY AS t(m, x, h, n);
END $$;
-- +goose StatementEnd
DROP FUNCTION ledger_named, ledger_reserved, ledger_short;
DROP TYPE ledger_line;
DROP INDEX requests_at;
CREATE INDEX requests_at ON requests (at);
ALTER TABLE requests ADD FOREIGN KEY (person_id) REFERENCES people;
ALTER TABLE seals ADD FOREIGN KEY (move_id) REFERENCES moves;
ALTER TABLE balances
    ADD CONSTRAINT balances_stand CHECK (0 <= reserved AND reserved <= quantity AND (serial_id IS NULL OR quantity <= 1)
        AND condition IN ('good', 'waiting', 'on_hold', 'damaged')),
    ADD FOREIGN KEY (location_id) REFERENCES locations, ADD FOREIGN KEY (item_id) REFERENCES items,
    ADD FOREIGN KEY (lot_id) REFERENCES lots, ADD FOREIGN KEY (serial_id) REFERENCES serials,
    ADD FOREIGN KEY (carton_id) REFERENCES cartons;
ALTER TABLE moves
    ADD CHECK (quantity > 0), ADD CHECK (unit_cost >= 0), ADD CHECK (serial_id IS NULL OR quantity = 1),
    ADD CHECK ((from_location, coalesce(from_carton, 0), from_condition)
        <> (to_location, coalesce(to_carton, 0), to_condition)),
    ADD FOREIGN KEY (posting_id) REFERENCES postings, ADD FOREIGN KEY (item_id) REFERENCES items,
    ADD FOREIGN KEY (lot_id) REFERENCES lots, ADD FOREIGN KEY (serial_id) REFERENCES serials,
    ADD FOREIGN KEY (from_location) REFERENCES locations, ADD FOREIGN KEY (from_carton) REFERENCES cartons,
    ADD FOREIGN KEY (to_location) REFERENCES locations, ADD FOREIGN KEY (to_carton) REFERENCES cartons;
ALTER TABLE postings
    ADD CHECK (kind IN ('receive', 'reverse_receipt', 'inspect', 'release', 'put_away_load', 'put_away',
        'put_away_return', 'move', 'pick', 'stage', 'pack', 'unpack', 'restock', 'load', 'unload', 'ship', 'count')),
    ADD FOREIGN KEY (person_id) REFERENCES people;
