-- +goose Up
-- What goods turned out to cost more than was written when they came, or less: by a supplier's invoice at another price, or by freight that
-- is known later. An entry is never changed; what is taken back is another entry, the other way.
CREATE TABLE recosts (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    item_id    integer NOT NULL REFERENCES items,
    -- The newest move of the item when it was entered, so that a replay knows where it stands among them.
    after_move bigint NOT NULL REFERENCES moves,
    person_id  integer NOT NULL REFERENCES people,
    document   text NOT NULL,
    note       text NOT NULL,
    entered_at timestamptz NOT NULL
);
CREATE INDEX recosts_item ON recosts (item_id, id);
CREATE INDEX recosts_document ON recosts (document);
CREATE INDEX recosts_entered ON recosts (entered_at);

-- The moves that brought the goods, and what all of each cost more.
CREATE TABLE recost_moves (
    recost_id bigint NOT NULL REFERENCES recosts,
    move_id   bigint NOT NULL REFERENCES moves,
    amount    numeric(16,6) NOT NULL CHECK (amount <> 0),
    PRIMARY KEY (move_id, recost_id)
);
CREATE INDEX recost_moves_recost ON recost_moves (recost_id);

-- Where that is, by each way of valuing: what is left at a site, what is between sites (0), and what is gone (-1). The parts of an entry
-- come to its moves by either.
CREATE TABLE recost_parts (
    recost_id bigint NOT NULL REFERENCES recosts,
    method    text NOT NULL CHECK (method IN ('average', 'fifo')),
    place     integer NOT NULL CHECK (place >= -1),
    value     numeric(16,6) NOT NULL CHECK (value <> 0),
    PRIMARY KEY (recost_id, method, place)
);

-- Keeps what some items cost as it is until the transaction ends: none of them comes to a place that is valued by itself, or goes, before.
-- In the order in which postings take the same locks.
-- +goose StatementBegin
CREATE FUNCTION ledger_hold_costs(items integer[]) RETURNS void
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE k record;
BEGIN
    FOR k IN SELECT site_id, item_id FROM item_costs WHERE item_id = ANY (items) ORDER BY nullif(site_id, 0) NULLS LAST, item_id LOOP
        PERFORM pg_advisory_xact_lock(-1 - k.site_id, k.item_id);
    END LOOP;
END $$;
-- +goose StatementEnd

-- Writes what goods of an item cost more, and keeps the averages with it. Whoever calls it holds the item's costs and has worked the parts
-- out; what does not add up is refused.
-- +goose StatementBegin
CREATE FUNCTION ledger_recost(head jsonb, item integer, move_ids bigint[], amounts numeric[], methods text[], places integer[],
                              parts numeric[]) RETURNS bigint
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    entry bigint; at timestamptz := clock_timestamp(); k record;
    total numeric := (SELECT sum(a) FROM unnest(amounts) AS a);
BEGIN
    IF head ? 'entered_at' THEN
        IF current_setting('role') <> 'none' THEN
            RAISE EXCEPTION 'only the owner may set the time of entry' USING ERRCODE = 'LR009';
        END IF;
        at := (head ->> 'entered_at')::timestamptz;
    END IF;
    IF EXISTS (SELECT FROM unnest(ARRAY['average', 'fifo']) AS x(method)
                WHERE total IS DISTINCT FROM (SELECT sum(p) FROM unnest(methods, parts) AS t(m, p) WHERE m = x.method)) THEN
        RAISE EXCEPTION 'the parts do not come to %', total USING ERRCODE = 'LR009';
    END IF;
    IF EXISTS (SELECT FROM unnest(move_ids) AS t(id) LEFT JOIN moves m USING (id) LEFT JOIN locations f ON f.id = m.from_location
                WHERE m.item_id IS DISTINCT FROM item OR f.real) THEN
        RAISE EXCEPTION 'that did not bring item %', item USING ERRCODE = 'LR009';
    END IF;
    INSERT INTO recosts (item_id, after_move, person_id, document, note, entered_at)
    SELECT item, (SELECT max(id) FROM moves WHERE item_id = item), (head ->> 'person')::integer, head ->> 'document',
           coalesce(head ->> 'note', ''), at
    RETURNING id INTO entry;
    INSERT INTO recost_moves SELECT entry, m, a FROM unnest(move_ids, amounts) AS t(m, a);
    INSERT INTO recost_parts SELECT entry, m, l, p FROM unnest(methods, places, parts) AS t(m, l, p) WHERE p <> 0;
    FOR k IN SELECT l AS place, p AS value FROM unnest(methods, places, parts) AS t(m, l, p)
              WHERE m = 'average' AND l >= 0 AND p <> 0 LOOP
        UPDATE item_costs SET average = greatest(0, round((quantity * average + k.value) / quantity, 6))
         WHERE item_id = item AND site_id = k.place AND quantity > 0;
        IF NOT FOUND THEN
            RAISE EXCEPTION 'nothing of item % is at %', item, k.place USING ERRCODE = 'LR009';
        END IF;
    END LOOP;
    RETURN entry;
END $$;
-- +goose StatementEnd
REVOKE EXECUTE ON FUNCTION ledger_hold_costs, ledger_recost FROM PUBLIC;
GRANT EXECUTE ON FUNCTION ledger_hold_costs, ledger_recost TO lanternrow_app;
GRANT SELECT ON recosts, recost_moves, recost_parts TO lanternrow_app;

-- A haulier's invoice for the freight of an order, which comes later: it has no lines, and is spread over what came.
ALTER TABLE supplier_invoices
    ADD COLUMN freight numeric(14,2) CHECK (freight > 0),
    ADD COLUMN carrier text NOT NULL DEFAULT '' CHECK ((carrier <> '') = (freight IS NOT NULL));
DROP INDEX supplier_invoices_number;
CREATE UNIQUE INDEX supplier_invoices_number ON supplier_invoices (supplier_id, upper(carrier), upper(number))
 WHERE NOT taken_back AND takes_back IS NULL;
CREATE INDEX supplier_invoices_freight ON supplier_invoices (order_id) WHERE freight IS NOT NULL;

-- +goose Down
DROP INDEX supplier_invoices_freight;
DROP INDEX supplier_invoices_number;
CREATE UNIQUE INDEX supplier_invoices_number ON supplier_invoices (supplier_id, upper(number))
 WHERE NOT taken_back AND takes_back IS NULL;
ALTER TABLE supplier_invoices DROP COLUMN carrier, DROP COLUMN freight;
DROP FUNCTION ledger_recost;
DROP FUNCTION ledger_hold_costs;
DROP TABLE recost_parts;
DROP TABLE recost_moves;
DROP TABLE recosts;
