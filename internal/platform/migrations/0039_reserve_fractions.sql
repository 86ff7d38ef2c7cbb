-- +goose Up
-- How much was reserved is a quantity, of which a part of a unit may be: as a whole number 2.3 metres came to 2, and were refused.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_reserve(location integer, item integer, lot bigint, serial bigint, carton bigint, line bigint,
amount numeric) RETURNS bigint
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE have numeric; tied numeric; reservation bigint; kept text; n numeric;
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

-- +goose Down
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_reserve(location integer, item integer, lot bigint, serial bigint, carton bigint, line bigint,
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
