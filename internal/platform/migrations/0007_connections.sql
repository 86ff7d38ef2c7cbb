-- +goose Up
-- What receivers outside are told: written in the transaction that it tells of, and worked
-- after commit, in order for each receiver.
CREATE TABLE outbox (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id    integer NOT NULL REFERENCES sites,
    channel    text NOT NULL CHECK (channel IN ('carrier', 'mail', 'host', 'printer')),
    -- Who is told, by a name that is unique within the channel.
    receiver   text NOT NULL,
    kind       text NOT NULL,
    document   text NOT NULL,
    body       jsonb NOT NULL,
    -- A paper that goes along.
    paper_name text NOT NULL DEFAULT '',
    paper      bytea,
    state      text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'done', 'refused', 'discarded')),
    attempts   integer NOT NULL DEFAULT 0,
    -- When it is tried next, and until when somebody is trying it.
    next_at    timestamptz NOT NULL,
    claimed_until timestamptz,
    -- What the receiver said the last time, where it did not take it.
    said       text NOT NULL DEFAULT '',
    asked_by   integer NOT NULL REFERENCES people,
    asked_at   timestamptz NOT NULL,
    done_at    timestamptz
);
CREATE INDEX outbox_waiting ON outbox (channel, receiver, id) WHERE state = 'waiting';
-- The same is not asked for twice while it waits.
CREATE UNIQUE INDEX outbox_sheet ON outbox ((body ->> 'job')) WHERE channel = 'printer' AND state = 'waiting';
CREATE UNIQUE INDEX outbox_booking ON outbox (document) WHERE channel = 'carrier' AND state = 'waiting';
CREATE INDEX outbox_listed ON outbox (site_id, channel, id DESC);

-- The stand-ins: what each does when it is spoken to.
CREATE TABLE mail_hosts (
    site_id integer PRIMARY KEY REFERENCES sites,
    -- Whether it takes mail, does not answer, or turns the recipient away.
    does    text NOT NULL DEFAULT 'takes' CHECK (does IN ('takes', 'silent', 'refuses'))
);

CREATE TABLE hosts (
    site_id integer PRIMARY KEY REFERENCES sites,
    does    text NOT NULL DEFAULT 'takes' CHECK (does IN ('takes', 'silent', 'odd'))
);

CREATE TABLE printers (
    site_id integer PRIMARY KEY REFERENCES sites,
    -- Labels left on the roll, and whether it answers at all.
    paper   integer NOT NULL CHECK (paper >= 0),
    answers boolean NOT NULL DEFAULT true
);

-- What the stand-ins of carriers gave numbers for: asked again for the same, each gives the
-- same number.
CREATE TABLE carrier_bookings (
    message_id bigint PRIMARY KEY,
    tracking   text NOT NULL
);

-- +goose Down
DROP TABLE carrier_bookings, printers, hosts, mail_hosts, outbox;
