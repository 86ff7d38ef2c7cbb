-- +goose Up
-- Postings by when they were entered, which is the order in which they lie.
CREATE INDEX postings_entered ON postings USING brin (entered_at) WITH (pages_per_range = 16);

-- +goose Down
DROP INDEX postings_entered;
