-- +goose Up
-- Whoever left keeps their name in the trail, and signs on no more. A password or a PIN that somebody else gave is changed at its first
-- use.
ALTER TABLE people
    ADD COLUMN ended_at       timestamptz,
    ADD COLUMN password_given boolean NOT NULL DEFAULT false,
    ADD COLUMN pin_given      boolean NOT NULL DEFAULT false,
    ADD COLUMN version        integer NOT NULL DEFAULT 1,
    ADD CHECK (badge IS NOT NULL OR pin_hash IS NULL);
GRANT SELECT, INSERT ON people TO lanternrow_app;
GRANT UPDATE (name, login, role, site_id, sites, badge, password_hash, pin_hash, password_given, pin_given, ended_at, version)
    ON people TO lanternrow_app;

-- Where each session is, and when it was used last.
ALTER TABLE sessions
    ADD COLUMN id      bigint GENERATED ALWAYS AS IDENTITY UNIQUE,
    ADD COLUMN seen_at timestamptz NOT NULL DEFAULT now(),
    ADD COLUMN address text NOT NULL DEFAULT '',
    ADD COLUMN device  text NOT NULL DEFAULT '';
CREATE INDEX sessions_person ON sessions (person_id);

-- Who signed on, or tried to, and who gave whom which rights. It is only ever added to.
CREATE TABLE access_events (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at        timestamptz NOT NULL DEFAULT now(),
    kind      text NOT NULL CHECK (kind IN ('signed_on', 'sign_on_failed', 'sign_on_barred', 'password_confirmed', 'signed_off',
                  'session_ended', 'person_added', 'person_changed', 'person_ended', 'person_returned', 'password_set', 'pin_set',
                  'badge_printed')),
    -- Whom it is about, nobody where a name is not known; and who did it, nobody where it was done from the console.
    person_id integer REFERENCES people,
    by_id     integer REFERENCES people,
    address   text NOT NULL DEFAULT '',
    -- What was tried, or from what to what it was changed.
    detail    text NOT NULL DEFAULT ''
);
CREATE INDEX access_events_person ON access_events (person_id, id);
REVOKE ALL ON access_events FROM lanternrow_app;
GRANT SELECT, INSERT ON access_events TO lanternrow_app;
-- +goose StatementBegin
CREATE FUNCTION access_events_stand() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'what happened is not changed' USING ERRCODE = 'LR001';
END $$;
-- +goose StatementEnd
CREATE TRIGGER access_events_stand BEFORE UPDATE OR DELETE OR TRUNCATE ON access_events
    FOR EACH STATEMENT EXECUTE FUNCTION access_events_stand();

-- The code that opens the first page while nobody works here: its SHA-256 alone.
CREATE TABLE first_start (
    only_one  boolean PRIMARY KEY DEFAULT true CHECK (only_one),
    code_hash bytea NOT NULL
);
GRANT SELECT, INSERT, UPDATE, DELETE ON first_start TO lanternrow_app;

-- +goose Down
DROP TABLE first_start, access_events;
DROP FUNCTION access_events_stand();
ALTER TABLE sessions DROP COLUMN id, DROP COLUMN seen_at, DROP COLUMN address, DROP COLUMN device;
ALTER TABLE people DROP COLUMN ended_at, DROP COLUMN password_given, DROP COLUMN pin_given, DROP COLUMN version,
    DROP CONSTRAINT people_check;
