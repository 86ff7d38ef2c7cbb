-- +goose Up
-- lot_out: an item's lots are known only from the way out on, as units of serial_out are.
ALTER TABLE items DROP CONSTRAINT items_tracking_check;
ALTER TABLE items ADD CONSTRAINT items_tracking_check
    CHECK (tracking IN ('none', 'lot', 'lot_expiry', 'lot_out', 'serial', 'serial_out'));

CREATE OR REPLACE VIEW move_ends AS
SELECT 2 * m.id AS id, m.id AS move_id, item_id, CASE WHEN i.tracking <> 'lot_out' THEN lot_id END AS lot_id, CASE
       WHEN i.tracking <> 'serial_out' THEN serial_id END AS serial_id,
       from_location AS location_id, from_site AS site_id, from_carton AS carton_id,
       from_condition AS condition, -quantity AS delta, from_after AS after, from_location_after AS location_after
  FROM moves m JOIN items i ON i.id = m.item_id WHERE from_after IS NOT NULL
UNION ALL
SELECT 2 * m.id + 1, m.id, item_id, CASE WHEN i.tracking <> 'lot_out' THEN lot_id END,
       CASE WHEN i.tracking <> 'serial_out' THEN serial_id END,
       to_location, to_site, to_carton, to_condition, quantity, to_after, to_location_after
  FROM moves m JOIN items i ON i.id = m.item_id WHERE to_after IS NOT NULL;

-- ledger_post is as it was but for the lots of such items, which moves bear and balances do not.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_post(head jsonb, lines jsonb) RETURNS bigint
LANGUAGE plpgsql SECURITY DEFINER AS $$
DECLARE
    posting bigint; m public.ledger_line; last integer := jsonb_array_length(lines) - 1; locked text; unit bigint; batch bigint;
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
        -- What is known only from the way out on lies in our locations without its lot or serial.
        unit := CASE WHEN kept <> 'serial_out' THEN m.serial END;
        batch := m.lot;
        IF kept = 'lot_out' THEN m.lot := NULL; END IF;
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
        VALUES (posting, m.item, batch, m.serial, m.quantity, m.from_location, m.from_carton, m.from_condition,
                m.to_location, m.to_carton, m.to_condition, carried, from_site, from_after, from_location_after,
                to_site, to_after, to_location_after);
    END LOOP;
    RETURN posting;
END $$;
-- +goose StatementEnd

-- +goose Down
ALTER TABLE items DROP CONSTRAINT items_tracking_check;
ALTER TABLE items ADD CONSTRAINT items_tracking_check
    CHECK (tracking IN ('none', 'lot', 'lot_expiry', 'serial', 'serial_out'));

CREATE OR REPLACE VIEW move_ends AS
SELECT 2 * m.id AS id, m.id AS move_id, item_id, lot_id AS lot_id, CASE
       WHEN i.tracking <> 'serial_out' THEN serial_id END AS serial_id,
       from_location AS location_id, from_site AS site_id, from_carton AS carton_id,
       from_condition AS condition, -quantity AS delta, from_after AS after, from_location_after AS location_after
  FROM moves m JOIN items i ON i.id = m.item_id WHERE from_after IS NOT NULL
UNION ALL
SELECT 2 * m.id + 1, m.id, item_id, lot_id,
       CASE WHEN i.tracking <> 'serial_out' THEN serial_id END,
       to_location, to_site, to_carton, to_condition, quantity, to_after, to_location_after
  FROM moves m JOIN items i ON i.id = m.item_id WHERE to_after IS NOT NULL;

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
