-- +goose Up
CREATE SEQUENCE schedule_numbers START 11;

-- Schedules: when, with what settings, and for whom it acts.
CREATE TABLE schedules (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    number      text NOT NULL UNIQUE DEFAULT 'T-' || nextval('schedule_numbers'),
    site_id     integer NOT NULL REFERENCES sites,
    task        text NOT NULL,
    -- When it is due, by the site's clock.
    rule        jsonb NOT NULL,
    settings    jsonb NOT NULL,
    state       text NOT NULL DEFAULT 'on' CHECK (state IN ('on', 'paused', 'stopped', 'removed')),
    -- Why it stopped.
    stopped     text NOT NULL DEFAULT '',
    next_at     timestamptz,
    -- A passing fault is tried again: how often it was, when next, and what was wrong.
    failures    integer NOT NULL DEFAULT 0 CHECK (failures >= 0),
    retry_at    timestamptz,
    trouble     text NOT NULL DEFAULT '',
    version     integer NOT NULL DEFAULT 1,
    -- Whoever changed it last is the one it acts for.
    changed_by  integer NOT NULL REFERENCES people,
    changed_at  timestamptz NOT NULL,
    last_change text NOT NULL,
    CHECK ((state = 'on') = (next_at IS NOT NULL))
);
CREATE INDEX schedules_due ON schedules (coalesce(retry_at, next_at)) WHERE state = 'on';
CREATE INDEX schedules_site ON schedules (site_id, id) WHERE state <> 'removed';

CREATE TABLE schedule_runs (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    schedule_id bigint NOT NULL REFERENCES schedules,
    -- When it should have run, and when it did; by hand when it was not due.
    due_at      timestamptz,
    ran_at      timestamptz NOT NULL,
    outcome     text NOT NULL CHECK (outcome IN ('did', 'nothing', 'stopped')),
    words       text NOT NULL,
    documents   jsonb NOT NULL DEFAULT '[]'
);
CREATE INDEX schedule_runs_latest ON schedule_runs (schedule_id, id DESC);

-- +goose Down
DROP TABLE schedule_runs, schedules;
DROP SEQUENCE schedule_numbers;
