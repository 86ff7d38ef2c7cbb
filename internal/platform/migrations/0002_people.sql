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
    created_at timestamptz NOT NULL DEFAULT now(),
    expires_at timestamptz NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expires_at);

CREATE TABLE sign_on_failures (
    subject text NOT NULL,
    at      timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX sign_on_failures_subject ON sign_on_failures (subject, at);

-- What each command answered, so that asking twice does it once.
CREATE TABLE requests (
    person_id   integer NOT NULL REFERENCES people,
    key         text NOT NULL,
    fingerprint bytea NOT NULL,
    answer      jsonb NOT NULL,
    at          timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (person_id, key)
);

-- +goose Down
DROP TABLE requests, sign_on_failures, sessions, people;
