-- +goose Up
-- Somebody may have several roles, and money has one of its own. Who did the office's work did that of accounts too, and goes on.
ALTER TABLE people ADD COLUMN roles text[] NOT NULL DEFAULT '{}';
UPDATE people SET roles = CASE role WHEN 'office' THEN ARRAY['office', 'accounts'] ELSE ARRAY[role] END;
ALTER TABLE people DROP COLUMN role;
ALTER TABLE people ALTER COLUMN roles DROP DEFAULT,
    ADD CONSTRAINT people_roles CHECK (
        roles <> '{}' AND roles <@ ARRAY['lead', 'receiver', 'picker', 'office', 'accounts', 'viewer']);
GRANT UPDATE (roles) ON people TO lanternrow_app;

-- Who changed what of the catalog, from what to what. It is only ever added to.
CREATE TABLE catalog_changes (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at        timestamptz NOT NULL DEFAULT now(),
    -- Nobody where it was done from the console.
    person_id integer REFERENCES people,
    sheet     text NOT NULL,
    -- Of the site whose sheet it was; several sheets are the same at all.
    site_id   integer REFERENCES sites,
    -- What tells the row from others, as it was then.
    key       text NOT NULL,
    -- The column; empty where a row was added.
    field     text NOT NULL,
    was       text NOT NULL,
    became    text NOT NULL
);
CREATE INDEX catalog_changes_key ON catalog_changes (sheet, upper(key), id);
REVOKE ALL ON catalog_changes FROM lanternrow_app;
GRANT SELECT, INSERT ON catalog_changes TO lanternrow_app;
CREATE TRIGGER catalog_changes_stand BEFORE UPDATE OR DELETE OR TRUNCATE ON catalog_changes
    FOR EACH STATEMENT EXECUTE FUNCTION history_stands();

-- What a stand-in is told stands with who signed on, and was let do what.
ALTER TABLE access_events DROP CONSTRAINT access_events_kind_check,
    ADD CONSTRAINT access_events_kind_check CHECK (kind IN ('signed_on', 'sign_on_failed', 'sign_on_barred', 'password_confirmed',
        'signed_off', 'session_ended', 'person_added', 'person_changed', 'person_ended', 'person_returned', 'password_set', 'pin_set',
        'badge_printed', 'stand_in_told'));

-- +goose Down
-- What a stand-in was told stays in what is only ever added to.
ALTER TABLE access_events DROP CONSTRAINT access_events_kind_check;
DROP TABLE catalog_changes;
ALTER TABLE people ADD COLUMN role text;
UPDATE people SET role = CASE WHEN 'lead' = ANY(roles) THEN 'lead' WHEN 'office' = ANY(roles) OR 'accounts' = ANY(roles) THEN 'office'
    ELSE roles[1] END;
ALTER TABLE people ALTER COLUMN role SET NOT NULL, DROP COLUMN roles,
    ADD CONSTRAINT people_role_check CHECK (role IN ('lead', 'receiver', 'picker', 'office', 'viewer'));
GRANT UPDATE (role) ON people TO lanternrow_app;
