-- +goose Up
-- By how much a count may differ before another person counts again, by class in per cent or by its worth; and after how many moves
-- a bin is counted because its contents changed often.
ALTER TABLE sites ADD COLUMN allow_a_pct numeric(6,3) NOT NULL DEFAULT 0.2 CHECK (allow_a_pct BETWEEN 0 AND 100),
    ADD COLUMN allow_b_pct numeric(6,3) NOT NULL DEFAULT 1 CHECK (allow_b_pct BETWEEN 0 AND 100),
    ADD COLUMN allow_c_pct numeric(6,3) NOT NULL DEFAULT 5 CHECK (allow_c_pct BETWEEN 0 AND 100),
    ADD COLUMN allow_value numeric(14,2) NOT NULL DEFAULT 0 CHECK (allow_value >= 0),
    ADD COLUMN busy_moves integer NOT NULL DEFAULT 60 CHECK (busy_moves > 0),
    -- Whether a round that should have emptied a bin asks for a look.
    ADD COLUMN nought_check boolean NOT NULL DEFAULT true;

-- Why a bin is to be counted, which nobody may have looked into; and which reasons of returns say that its books may be wrong.
ALTER TABLE count_requests ADD COLUMN why text NOT NULL DEFAULT 'short' CHECK (why IN ('short', 'anew', 'complaint')),
    ALTER COLUMN found DROP NOT NULL;
ALTER TABLE return_reasons ADD COLUMN counted boolean NOT NULL DEFAULT false;
UPDATE return_reasons SET counted = true WHERE name = 'wrong item sent';

-- A count sheet is bins, or items in bins, that are counted together. No item in a bin is on two open ones.
CREATE SEQUENCE count_sheet_numbers START 101;
CREATE TABLE count_sheets (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number    text NOT NULL UNIQUE DEFAULT 'CS-' || nextval('count_sheet_numbers'),
    site_id   integer NOT NULL REFERENCES sites,
    -- What is on it: by what it was chosen, and that in words.
    scope     text NOT NULL CHECK (scope IN ('bins', 'stretch', 'zone', 'item', 'class', 'lot', 'reason', 'all')),
    described text NOT NULL CHECK (described <> ''),
    teams     smallint NOT NULL CHECK (teams BETWEEN 1 AND 20),
    made_by   integer NOT NULL REFERENCES people,
    made_at   timestamptz NOT NULL,
    state     text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'counted', 'closed')),
    ended_by  integer REFERENCES people,
    ended_at  timestamptz,
    CHECK ((state = 'open') = (ended_at IS NULL))
);
CREATE INDEX count_sheets_open ON count_sheets (site_id) WHERE state = 'open';
CREATE TABLE count_sheet_lines (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    sheet_id    bigint NOT NULL REFERENCES count_sheets,
    location_id integer NOT NULL REFERENCES locations,
    -- Without an item it is the bin itself: whether anything else lies there.
    item_id     integer REFERENCES items,
    team        smallint NOT NULL CHECK (team > 0),
    place       integer NOT NULL,
    state       text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'counted', 'left')),
    done_by     integer REFERENCES people,
    done_at     timestamptz,
    CHECK ((state = 'counted') = (done_at IS NOT NULL))
);
CREATE UNIQUE INDEX count_sheet_lines_open ON count_sheet_lines (location_id, item_id) NULLS NOT DISTINCT WHERE state = 'open';
CREATE INDEX count_sheet_lines_sheet ON count_sheet_lines (sheet_id, team, place);
GRANT SELECT, INSERT ON count_sheets, count_sheet_lines TO lanternrow_app;
GRANT UPDATE (state, ended_by, ended_at) ON count_sheets TO lanternrow_app;
GRANT UPDATE (state, done_by, done_at) ON count_sheet_lines TO lanternrow_app;
GRANT USAGE ON SEQUENCE count_sheet_numbers TO lanternrow_app;
CREATE TRIGGER state_step BEFORE UPDATE OF state ON count_sheets FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('open>counted', 'open>closed', 'counted>open');
CREATE TRIGGER state_step BEFORE UPDATE OF state ON count_sheet_lines FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('open>counted', 'open>left', 'counted>open');

-- A count stands for the moment it was made. One beyond its allowance is made again by others: the later ones name the first.
ALTER TABLE counts
    ADD COLUMN sheet_id bigint REFERENCES count_sheets,
    ADD COLUMN first_id bigint REFERENCES counts,
    ADD COLUMN how      text NOT NULL DEFAULT 'desk' CHECK (how IN ('desk', 'hand', 'paper', 'round')),
    -- The last move there that the count knows of, and when that stood.
    ADD COLUMN as_of    bigint NOT NULL DEFAULT 0,
    ADD COLUMN stands_at timestamptz,
    ADD COLUMN expected numeric(14,3),
    ADD COLUMN off      numeric(14,3),
    ADD COLUMN cost     numeric(14,4),
    ADD COLUMN passes   boolean NOT NULL DEFAULT true,
    ADD COLUMN taken_back_by integer REFERENCES people,
    ADD COLUMN taken_back_at timestamptz,
    ADD COLUMN taken_back_why text NOT NULL DEFAULT '',
    DROP CONSTRAINT counts_state_check,
    ADD CONSTRAINT counts_state_check CHECK (state IN ('counted', 'recount', 'repeated', 'settled', 'withdrawn', 'taken_back'));
UPDATE counts c SET stands_at = counted_at, expected = found - variance, off = abs(variance), cost = i.cost,
       as_of = coalesce((SELECT max(m.id) FROM moves m JOIN postings t ON t.id = m.posting_id
           WHERE m.item_id = c.item_id AND c.location_id IN (m.from_location, m.to_location) AND t.entered_at < c.counted_at), 0)
  FROM items i WHERE i.id = c.item_id;
ALTER TABLE counts ALTER COLUMN stands_at SET NOT NULL, ALTER COLUMN expected SET NOT NULL, ALTER COLUMN off SET NOT NULL,
    ALTER COLUMN cost SET NOT NULL;
DROP INDEX counts_waiting;
CREATE UNIQUE INDEX counts_waiting ON counts (location_id, item_id) WHERE state IN ('counted', 'recount');
CREATE INDEX counts_of_site ON counts (site_id, counted_at);
CREATE INDEX counts_first ON counts (first_id) WHERE first_id IS NOT NULL;
DROP TRIGGER state_step ON counts;
CREATE TRIGGER state_step BEFORE UPDATE OF state ON counts FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('counted>settled', 'counted>withdrawn', 'recount>repeated', 'recount>withdrawn', 'settled>taken_back');

-- +goose Down
DROP TRIGGER state_step ON counts;
UPDATE counts SET state = 'withdrawn' WHERE state IN ('recount', 'repeated', 'taken_back');
CREATE TRIGGER state_step BEFORE UPDATE OF state ON counts FOR EACH ROW WHEN (OLD.state <> NEW.state)
    EXECUTE FUNCTION state_step('counted>settled', 'counted>withdrawn');
DROP INDEX counts_first;
DROP INDEX counts_of_site;
DROP INDEX counts_waiting;
CREATE UNIQUE INDEX counts_waiting ON counts (location_id, item_id) WHERE state = 'counted';
ALTER TABLE counts DROP CONSTRAINT counts_state_check,
    ADD CONSTRAINT counts_state_check CHECK (state IN ('counted', 'settled', 'withdrawn')),
    DROP COLUMN taken_back_why, DROP COLUMN taken_back_at, DROP COLUMN taken_back_by, DROP COLUMN passes, DROP COLUMN cost,
    DROP COLUMN off, DROP COLUMN expected, DROP COLUMN stands_at, DROP COLUMN as_of, DROP COLUMN how, DROP COLUMN first_id,
    DROP COLUMN sheet_id;
DELETE FROM count_requests WHERE found IS NULL;
ALTER TABLE count_requests DROP COLUMN why, ALTER COLUMN found SET NOT NULL;
ALTER TABLE return_reasons DROP COLUMN counted;
DROP TABLE count_sheet_lines;
DROP TABLE count_sheets;
DROP SEQUENCE count_sheet_numbers;
ALTER TABLE sites DROP COLUMN nought_check, DROP COLUMN busy_moves, DROP COLUMN allow_value, DROP COLUMN allow_c_pct, DROP COLUMN allow_b_pct, DROP COLUMN allow_a_pct;
