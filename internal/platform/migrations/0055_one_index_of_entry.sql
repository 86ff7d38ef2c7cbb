-- +goose Up
-- Postings are found by when they were entered in postings_entered, which is exact; this one was kept beside it for nothing.
DROP INDEX postings_time;

-- +goose Down
CREATE INDEX postings_time ON postings USING brin (entered_at) WITH (autosummarize = true);
