-- +goose Up
CREATE TABLE people (
    id            integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name          text NOT NULL,
    login         text NOT NULL UNIQUE,
    role          text NOT NULL CHECK (role IN ('lead', 'receiver', 'picker', 'office', 'viewer')),
    password_hash text NOT NULL,
    badge         text UNIQUE,
    pin_hash      text,
    site_id       integer NOT NULL REFERENCES sites
);

CREATE TABLE sessions (
    -- The SHA-256 of the token in the cookie; the token itself is kept nowhere.
    token_hash bytea PRIMARY KEY,
    person_id  integer NOT NULL REFERENCES people,
    csrf       text NOT NULL,
    -- Begun with a badge and a PIN: good for the floor's work, and for everything until
    -- then when the password was given.
    badge      boolean NOT NULL DEFAULT false,
    confirmed_until timestamptz,
    created_at timestamptz NOT NULL DEFAULT now(),
    expires_at timestamptz NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expires_at);

-- Attempts to sign on, by login, badge or address, counted before they are looked at.
CREATE TABLE sign_on_attempts (
    subject text PRIMARY KEY,
    since   timestamptz NOT NULL,
    tried   integer NOT NULL
);

-- What each command answered, so that asking twice does it once.
CREATE TABLE requests (
    person_id   integer NOT NULL REFERENCES people,
    key         text NOT NULL,
    fingerprint bytea NOT NULL,
    answer      jsonb NOT NULL,
    at          timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (person_id, key)
);
CREATE INDEX requests_at ON requests (at);

-- +goose Down
DROP TABLE requests, sign_on_attempts, sessions, people;
