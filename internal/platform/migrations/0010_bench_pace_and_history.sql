-- +goose Up
-- How long a carton takes at the bench and at the gate, in seconds: common practice, no
-- source, until the site's own is known.
ALTER TABLE sites
    ADD COLUMN pace_pack numeric(8,2) NOT NULL DEFAULT 120 CHECK (pace_pack >= 0),
    ADD COLUMN pace_load numeric(8,2) NOT NULL DEFAULT 30 CHECK (pace_load >= 0);
-- Postings come in the order of time: history is narrowed to days by an index that costs
-- next to nothing to keep.
CREATE INDEX postings_time ON postings USING brin (entered_at) WITH (autosummarize = true);

-- +goose Down
DROP INDEX postings_time;
ALTER TABLE sites DROP COLUMN pace_pack, DROP COLUMN pace_load;
