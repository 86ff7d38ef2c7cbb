-- +goose Up
-- Beside moves, the names that history shows and the money of documents are sealed, in the same chain. What a seal is made of
-- is length-prefixed, and made here, where nobody who may only call can choose a hash.
ALTER TABLE seals RENAME COLUMN move_id TO row_id;
ALTER TABLE seals DROP CONSTRAINT seals_move_id_key,
    ADD COLUMN kind text NOT NULL DEFAULT 'move',
    -- 1 is a move by its words parted by bars; 2 is length-prefixed.
    ADD COLUMN form smallint NOT NULL DEFAULT 1 CHECK (form IN (1, 2)),
    -- What the seal was made of, where that may be called otherwise later.
    ADD COLUMN words bytea;
ALTER TABLE seals ALTER COLUMN form SET DEFAULT 2;
CREATE UNIQUE INDEX seals_row ON seals (row_id, kind) WHERE words IS NULL;

-- How far each kind is sealed.
CREATE TABLE ledger_sealed (
    kind    text PRIMARY KEY,
    ordinal integer NOT NULL UNIQUE,
    xid     xid8 NOT NULL DEFAULT '0',
    row_id  bigint NOT NULL DEFAULT 0
);
INSERT INTO ledger_sealed (kind, ordinal) VALUES ('move', 1), ('item', 2), ('lot', 3), ('serial', 4), ('carton', 5), ('person', 6),
    ('location', 7), ('party', 8), ('shipment', 9), ('invoice', 10), ('supplier_invoice', 11), ('recost', 12);
UPDATE ledger_sealed SET xid = s.xid, row_id = s.row_id
  FROM (SELECT xid, row_id FROM seals ORDER BY position DESC LIMIT 1) AS s WHERE kind = 'move';
REVOKE ALL ON ledger_sealed FROM lanternrow_app;
GRANT SELECT ON ledger_sealed TO lanternrow_app;

-- Which transaction wrote a row, or gave it the name that it has. Whoever writes cannot choose it.
-- +goose StatementBegin
CREATE FUNCTION ledger_stamp() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    NEW.xid := public.ledger_xid();
    RETURN NEW;
END $$;
-- +goose StatementEnd
ALTER TABLE items ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
ALTER TABLE lots ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
ALTER TABLE serials ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
ALTER TABLE cartons ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
ALTER TABLE people ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
ALTER TABLE locations ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
ALTER TABLE parties ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
ALTER TABLE shipments ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
ALTER TABLE invoices ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
ALTER TABLE supplier_invoices ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
ALTER TABLE recosts ADD COLUMN xid xid8 NOT NULL DEFAULT '0';
CREATE INDEX items_xid ON items (xid, id);
CREATE INDEX lots_xid ON lots (xid, id);
CREATE INDEX serials_xid ON serials (xid, id);
CREATE INDEX cartons_xid ON cartons (xid, id);
CREATE INDEX people_xid ON people (xid, id);
CREATE INDEX locations_xid ON locations (xid, id);
CREATE INDEX parties_xid ON parties (xid, id);
CREATE INDEX shipments_xid ON shipments (xid, id);
CREATE INDEX invoices_xid ON invoices (xid, id);
CREATE INDEX supplier_invoices_xid ON supplier_invoices (xid, id);
CREATE INDEX recosts_xid ON recosts (xid, id);
CREATE TRIGGER written BEFORE INSERT ON items FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER renamed BEFORE UPDATE ON items FOR EACH ROW
    WHEN ((OLD.sku, OLD.description, OLD.base_unit, OLD.tracking, OLD.xid) IS DISTINCT FROM (NEW.sku, NEW.description, NEW.base_unit, NEW.tracking, NEW.xid)) EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER written BEFORE INSERT ON people FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER renamed BEFORE UPDATE ON people FOR EACH ROW
    WHEN ((OLD.name, OLD.login, OLD.xid) IS DISTINCT FROM (NEW.name, NEW.login, NEW.xid)) EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER written BEFORE INSERT ON locations FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER renamed BEFORE UPDATE ON locations FOR EACH ROW
    WHEN ((OLD.site_id, OLD.kind, OLD.code, OLD.xid) IS DISTINCT FROM (NEW.site_id, NEW.kind, NEW.code, NEW.xid)) EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER written BEFORE INSERT ON parties FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER renamed BEFORE UPDATE ON parties FOR EACH ROW
    WHEN ((OLD.kind, OLD.code, OLD.name, OLD.xid) IS DISTINCT FROM (NEW.kind, NEW.code, NEW.name, NEW.xid)) EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER written BEFORE INSERT ON lots FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER written BEFORE INSERT ON serials FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER written BEFORE INSERT ON cartons FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER written BEFORE INSERT ON shipments FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER written BEFORE INSERT ON invoices FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER written BEFORE INSERT ON supplier_invoices FOR EACH ROW EXECUTE FUNCTION ledger_stamp();
CREATE TRIGGER written BEFORE INSERT ON recosts FOR EACH ROW EXECUTE FUNCTION ledger_stamp();

-- What is sealed, field by field; what may be called otherwise later is renamed.
CREATE VIEW sealable AS
SELECT 'move' AS kind, m.id, p.xid, false AS renamed,
       ARRAY['move', m.id::text, p.id::text, p.kind, p.person_id::text, p.document, p.note, p.request_key,
             extract(epoch FROM p.happened_at)::text, extract(epoch FROM p.entered_at)::text, m.item_id::text, m.lot_id::text,
             m.serial_id::text, m.quantity::text, m.from_location::text, m.from_carton::text, m.from_condition, m.to_location::text,
             m.to_carton::text, m.to_condition, m.unit_cost::text] AS fields
  FROM moves m JOIN postings p ON p.id = m.posting_id
UNION ALL
SELECT 'item', id, xid, true, ARRAY['item', id::text, sku, description, base_unit, tracking] FROM items
UNION ALL
SELECT 'lot', id, xid, false, ARRAY['lot', id::text, item_id::text, code, expires_on::text, arrived_on::text, supplier_code] FROM lots
UNION ALL
SELECT 'serial', id, xid, false, ARRAY['serial', id::text, item_id::text, code] FROM serials
UNION ALL
SELECT 'carton', id, xid, false, ARRAY['carton', id::text, sscc, kind] FROM cartons
UNION ALL
SELECT 'person', id, xid, true, ARRAY['person', id::text, name, login] FROM people
UNION ALL
SELECT 'location', id, xid, true, ARRAY['location', id::text, site_id::text, kind, code] FROM locations
UNION ALL
SELECT 'party', id, xid, true, ARRAY['party', id::text, kind, code, name] FROM parties
UNION ALL
SELECT 'shipment', s.id, s.xid, false,
       ARRAY['shipment', s.id::text, s.number, s.order_id::text, s.site_id::text, s.shipped_by::text,
             extract(epoch FROM s.shipped_at)::text,
             (SELECT jsonb_agg(jsonb_build_array(l.line_id, l.quantity) ORDER BY l.line_id)::text FROM shipment_lines l
               WHERE l.shipment_id = s.id)]
  FROM shipments s
UNION ALL
SELECT 'invoice', b.id, b.xid, false,
       ARRAY['invoice', b.id::text, b.number, b.site_id::text, b.customer_id::text, b.invoiced_on::text, b.due_on::text, b.terms,
             b.net::text, b.total::text, b.made_by::text, extract(epoch FROM b.made_at)::text, b.credits::text, b.reason,
             (SELECT jsonb_agg(jsonb_build_array(l.shipment_id, l.line_id, l.quantity, l.price, l.tax_pct)
                               ORDER BY l.shipment_id, l.line_id)::text FROM invoice_lines l WHERE l.invoice_id = b.id)]
  FROM invoices b
UNION ALL
SELECT 'supplier_invoice', b.id, b.xid, false,
       ARRAY['supplier_invoice', b.id::text, b.order_id::text, b.supplier_id::text, b.number, b.invoiced_on::text,
             b.entered_by::text, extract(epoch FROM b.entered_at)::text, b.takes_back::text, b.reason, b.freight::text, b.carrier,
             (SELECT jsonb_agg(jsonb_build_array(l.line_id, l.quantity, l.price, l.reason) ORDER BY l.line_id)::text
                FROM supplier_invoice_lines l WHERE l.invoice_id = b.id)]
  FROM supplier_invoices b
UNION ALL
SELECT 'recost', r.id, r.xid, false,
       ARRAY['recost', r.id::text, r.item_id::text, r.after_move::text, r.person_id::text, r.document, r.note,
             extract(epoch FROM r.entered_at)::text,
             (SELECT jsonb_agg(jsonb_build_array(p.method, p.place, p.value) ORDER BY p.method, p.place)::text FROM recost_parts p
               WHERE p.recost_id = r.id)]
  FROM recosts r;
GRANT SELECT ON sealable TO lanternrow_app;

-- Each field with its length in bytes before it, four bytes of it; one that is not there has the length -1.
-- +goose StatementBegin
CREATE FUNCTION ledger_words(fields text[]) RETURNS bytea LANGUAGE sql IMMUTABLE AS $$
    SELECT string_agg(CASE WHEN f IS NULL THEN int4send(-1) ELSE int4send(octet_length(f)) || convert_to(f, 'UTF8') END, ''::bytea
                      ORDER BY n)
      FROM unnest(fields) WITH ORDINALITY AS t(f, n)
$$;
-- +goose StatementEnd

-- Seals what is settled and not sealed yet, so many of each kind at most, and tells how many it sealed. Where another does so
-- this moment it does nothing.
-- +goose StatementBegin
CREATE FUNCTION ledger_seal_next(most integer) RETURNS integer
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    at bigint;
    link bytea;
    done ledger_sealed;
    r record;
    sealed integer := 0;
BEGIN
    IF NOT pg_try_advisory_xact_lock(7205759403) THEN
        RETURN 0;
    END IF;
    SELECT position, hash INTO at, link FROM seals ORDER BY position DESC LIMIT 1;
    at := coalesce(at, 0);
    link := coalesce(link, decode(repeat('00', 32), 'hex'));
    FOR done IN SELECT * FROM ledger_sealed ORDER BY ordinal LOOP
        -- By its text, so that the plan is that of one kind.
        FOR r IN EXECUTE format('
            SELECT id, xid, renamed, ledger_words(fields) AS words FROM sealable
             WHERE kind = %L AND xid >= $1 AND (xid, id) > ($1, $2) AND xid < ledger_settled()
             ORDER BY xid, id LIMIT $3', done.kind) USING done.xid, done.row_id, most LOOP
            at := at + 1;
            link := sha256(link || r.words);
            INSERT INTO seals (position, kind, row_id, xid, hash, words)
            VALUES (at, done.kind, r.id, r.xid, link, CASE WHEN r.renamed THEN r.words END);
            done.xid := r.xid;
            done.row_id := r.id;
            sealed := sealed + 1;
        END LOOP;
        UPDATE ledger_sealed s SET xid = done.xid, row_id = done.row_id
         WHERE s.kind = done.kind AND (s.xid, s.row_id) <> (done.xid, done.row_id);
    END LOOP;
    RETURN sealed;
END $$;
-- +goose StatementEnd
REVOKE EXECUTE ON FUNCTION ledger_seal_next FROM PUBLIC;
GRANT EXECUTE ON FUNCTION ledger_seal_next TO lanternrow_app;
DROP FUNCTION ledger_seal;

-- What is written after a restore stands behind all that was.
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_new_era() RETURNS bigint LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    UPDATE ledger_era SET ahead = greatest(0, 1 - pg_current_xact_id()::text::bigint
           + coalesce((SELECT max(xid::text::bigint) FROM sealable), 0)) RETURNING ahead
$$;
-- +goose StatementEnd

-- +goose Down
-- Seals of other kinds and of another form cannot be undone: an earlier release would not know how to go on with the chain.
-- +goose StatementBegin
DO $$
BEGIN
    IF EXISTS (SELECT FROM seals WHERE form = 2) THEN
        RAISE EXCEPTION 'the chain goes on in a form that the release before does not know';
    END IF;
END $$;
-- +goose StatementEnd
DROP FUNCTION ledger_seal_next;
DROP VIEW sealable;
DROP FUNCTION ledger_words;
DROP TRIGGER written ON items;
DROP TRIGGER renamed ON items;
DROP TRIGGER written ON lots;
DROP TRIGGER written ON serials;
DROP TRIGGER written ON cartons;
DROP TRIGGER written ON people;
DROP TRIGGER renamed ON people;
DROP TRIGGER written ON locations;
DROP TRIGGER renamed ON locations;
DROP TRIGGER written ON parties;
DROP TRIGGER renamed ON parties;
DROP TRIGGER written ON shipments;
DROP TRIGGER written ON invoices;
DROP TRIGGER written ON supplier_invoices;
DROP TRIGGER written ON recosts;
DROP FUNCTION ledger_stamp;
ALTER TABLE items DROP COLUMN xid;
ALTER TABLE lots DROP COLUMN xid;
ALTER TABLE serials DROP COLUMN xid;
ALTER TABLE cartons DROP COLUMN xid;
ALTER TABLE people DROP COLUMN xid;
ALTER TABLE locations DROP COLUMN xid;
ALTER TABLE parties DROP COLUMN xid;
ALTER TABLE shipments DROP COLUMN xid;
ALTER TABLE invoices DROP COLUMN xid;
ALTER TABLE supplier_invoices DROP COLUMN xid;
ALTER TABLE recosts DROP COLUMN xid;
DROP TABLE ledger_sealed;
DROP INDEX seals_row;
ALTER TABLE seals DROP COLUMN kind, DROP COLUMN form, DROP COLUMN words;
ALTER TABLE seals RENAME COLUMN row_id TO move_id;
ALTER TABLE seals ADD UNIQUE (move_id);
-- +goose StatementBegin
CREATE OR REPLACE FUNCTION ledger_new_era() RETURNS bigint LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    UPDATE ledger_era SET ahead = greatest(0, 1 - pg_current_xact_id()::text::bigint
           + coalesce((SELECT max(xid::text::bigint) FROM postings), 0)) RETURNING ahead
$$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION ledger_seal(start bigint, move_ids bigint[], xids text[], hashes bytea[]) RETURNS void
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
REVOKE EXECUTE ON FUNCTION ledger_seal FROM PUBLIC;
GRANT EXECUTE ON FUNCTION ledger_seal TO lanternrow_app;
