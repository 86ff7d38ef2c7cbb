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

-- ledger_side applies one end of a move to what lies in a real location, and returns what
-- is left of it there, and of the item in all. It is reached through ledger_post alone.
-- +goose StatementBegin
CREATE FUNCTION ledger_side(location integer, item integer, lot bigint, serial bigint, carton bigint,
        cond text, delta numeric, reservation bigint, line integer) RETURNS numeric[] LANGUAGE plpgsql AS $$
DECLARE
    left_there numeric[]; have numeric; tied numeric; mine numeric := 0;
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
    -- The sum is that of before the statement.
    UPDATE balances SET quantity = quantity + delta, reserved = reserved - mine
     WHERE location_id = location AND item_id = item AND coalesce(lot_id, 0) = coalesce(lot, 0)
       AND coalesce(serial_id, 0) = coalesce(serial, 0) AND coalesce(carton_id, 0) = coalesce(carton, 0)
       AND condition = cond
       AND (delta > 0 OR quantity - reserved + mine >= -delta)
    RETURNING ARRAY[quantity, delta + (SELECT sum(b.quantity) FROM balances b
                                        WHERE b.location_id = location AND b.item_id = item)]
      INTO left_there;
    IF left_there IS NULL AND delta > 0 THEN
        INSERT INTO balances (location_id, item_id, lot_id, serial_id, carton_id, condition, quantity)
        VALUES (location, item, lot, serial, carton, cond, delta);
        RETURN ARRAY[delta, (SELECT sum(quantity) FROM balances WHERE location_id = location AND item_id = item)];
    ELSIF left_there IS NULL THEN
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
    IF left_there[1] = 0 THEN
        DELETE FROM balances WHERE location_id = location AND item_id = item AND coalesce(lot_id, 0) = coalesce(lot, 0)
           AND coalesce(serial_id, 0) = coalesce(serial, 0) AND coalesce(carton_id, 0) = coalesce(carton, 0)
           AND condition = cond;
    END IF;
    RETURN left_there;
END $$;
-- +goose StatementEnd
REVOKE EXECUTE ON FUNCTION ledger_side FROM PUBLIC;

-- A ledger_line is one move as ledger_post is given it.
CREATE TYPE ledger_line AS (
    item integer, lot bigint, serial bigint, quantity numeric, from_location integer, from_carton bigint,
    from_condition text, to_location integer, to_carton bigint, to_condition text, cost numeric, reservation bigint
);

-- ledger_post is the only way stock changes: it writes one posting and its moves,
-- and keeps balances and costs with them. What it has to know of a move is read by
-- statements on one table each: those cost less than one that joins the tables.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_post(head jsonb, lines jsonb) RETURNS bigint
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    posting bigint; m ledger_line; last integer := jsonb_array_length(lines) - 1; locked text;
    kept text; catalog_cost numeric; average numeric; carried numeric; unit bigint;
    from_site integer; from_real boolean; to_site integer; to_real boolean; here integer; there integer;
    left_from numeric[]; left_to numeric[]; at timestamptz := clock_timestamp();
BEGIN
    IF head ? 'entered_at' THEN
        IF current_setting('role') <> 'none' THEN
            RAISE EXCEPTION 'only the owner may set the time of entry' USING ERRCODE = 'LR009';
        END IF;
        at := (head ->> 'entered_at')::timestamptz;
    END IF;
    IF last > 0 THEN
        PERFORM ledger_lock(lines);
    END IF;
    INSERT INTO postings (kind, person_id, document, note, request_key, happened_at, entered_at)
    SELECT head ->> 'kind', id, coalesce(head ->> 'document', ''), coalesce(head ->> 'note', ''),
           coalesce(head ->> 'key', ''), coalesce((head ->> 'happened_at')::timestamptz, at), at
      FROM people WHERE id = (head ->> 'person')::integer
    RETURNING id INTO posting;
    IF posting IS NULL THEN
        RAISE EXCEPTION 'nobody posts this' USING ERRCODE = 'foreign_key_violation';
    END IF;
    FOR n IN 0 .. last LOOP
        m := jsonb_populate_record(NULL::ledger_line, lines -> n);
        m.from_condition := coalesce(m.from_condition, 'good');
        m.to_condition := coalesce(m.to_condition, 'good');
        IF last = 0 THEN
            -- Assigned, which is cheaper than a statement.
            locked := pg_advisory_xact_lock(least(m.from_location, m.to_location), m.item);
            locked := pg_advisory_xact_lock(greatest(m.from_location, m.to_location), m.item);
        END IF;
        SELECT tracking, cost INTO kept, catalog_cost FROM items WHERE id = m.item;
        SELECT real, site_id INTO from_real, from_site FROM locations WHERE id = m.from_location;
        SELECT real, site_id INTO to_real, to_site FROM locations WHERE id = m.to_location;
        IF kept IS NULL OR from_real IS NULL OR to_real IS NULL THEN
            RAISE EXCEPTION 'move % names an item or a location that is not there', n + 1
                USING ERRCODE = 'foreign_key_violation';
        END IF;
        IF coalesce(m.lot, m.serial, m.from_carton, m.to_carton) IS NOT NULL THEN
            IF m.lot IS NOT NULL AND NOT EXISTS (SELECT FROM lots WHERE id = m.lot AND item_id = m.item)
               OR m.serial IS NOT NULL AND NOT EXISTS (SELECT FROM serials WHERE id = m.serial AND item_id = m.item) THEN
                RAISE EXCEPTION 'move % names a lot or a unit of another item', n + 1
                    USING ERRCODE = 'foreign_key_violation';
            END IF;
            IF m.from_carton IS NOT NULL AND NOT EXISTS (SELECT FROM cartons WHERE id = m.from_carton)
               OR m.to_carton IS NOT NULL AND NOT EXISTS (SELECT FROM cartons WHERE id = m.to_carton) THEN
                RAISE EXCEPTION 'move % names a carton that is not there', n + 1
                    USING ERRCODE = 'foreign_key_violation';
            END IF;
        END IF;
        IF kept = 'serial' AND m.serial IS NULL THEN
            RAISE EXCEPTION 'a unit moves without its serial' USING ERRCODE = 'LR003';
        END IF;
        unit := CASE WHEN kept <> 'serial_out' THEN m.serial END;
        left_from := CASE WHEN from_real THEN ledger_side(m.from_location, m.item, m.lot, unit, m.from_carton,
                     m.from_condition, -m.quantity, m.reservation, n) END;
        left_to := CASE WHEN to_real THEN ledger_side(m.to_location, m.item, m.lot, unit, m.to_carton,
                   m.to_condition, m.quantity, NULL, n) END;
        here := CASE WHEN from_real THEN coalesce(from_site, 0) END;
        there := CASE WHEN to_real THEN coalesce(to_site, 0) END;
        IF last = 0 AND here IS DISTINCT FROM there THEN
            PERFORM pg_advisory_xact_lock(-1 - greatest(here, there), m.item);
            PERFORM pg_advisory_xact_lock(-1 - least(here, there), m.item);
        END IF;
        SELECT c.average INTO average FROM item_costs c
         WHERE c.item_id = m.item AND c.site_id = coalesce(here, there, 0);
        carried := round(coalesce(m.cost, average, catalog_cost), 6);
        IF here IS DISTINCT FROM there THEN
            IF from_real THEN PERFORM ledger_cost(m.item, here, -m.quantity, carried); END IF;
            IF to_real THEN PERFORM ledger_cost(m.item, there, m.quantity, carried); END IF;
        END IF;
        INSERT INTO moves (posting_id, item_id, lot_id, serial_id, quantity, from_location, from_carton, from_condition,
                           to_location, to_carton, to_condition, unit_cost, from_site, from_after, from_location_after,
                           to_site, to_after, to_location_after)
        VALUES (posting, m.item, m.lot, m.serial, m.quantity, m.from_location, m.from_carton, m.from_condition,
                m.to_location, m.to_carton, m.to_condition, carried, from_site, left_from[1], left_from[2],
                to_site, left_to[1], left_to[2]);
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
-- The functions stay: they keep the same with what comes back beside them.
DROP TRIGGER named_stand ON people;
DROP TRIGGER named_stand ON cartons;
DROP TRIGGER named_stand ON serials;
DROP TRIGGER named_stand ON lots;
DROP TRIGGER named_stand ON locations;
DROP TRIGGER named_stand ON items;
DROP FUNCTION balance_sound, move_sound, posting_sound CASCADE;
DROP TYPE ledger_line CASCADE;
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
