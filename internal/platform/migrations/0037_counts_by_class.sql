-- +goose Up
-- How a site counts: up to which share of the value that moves items are A and B, how often a year each class is counted, how many
-- minutes a day there are for it, and after how many days without a move a bin is looked at.
ALTER TABLE sites ADD COLUMN class_a_pct numeric(5,2) NOT NULL DEFAULT 80 CHECK (class_a_pct BETWEEN 0 AND 100),
    ADD COLUMN class_b_pct numeric(5,2) NOT NULL DEFAULT 95 CHECK (class_b_pct BETWEEN 0 AND 100),
    ADD COLUMN counts_a integer NOT NULL DEFAULT 12 CHECK (counts_a >= 0),
    ADD COLUMN counts_b integer NOT NULL DEFAULT 4 CHECK (counts_b >= 0),
    ADD COLUMN counts_c integer NOT NULL DEFAULT 1 CHECK (counts_c >= 0),
    ADD COLUMN count_minutes integer NOT NULL DEFAULT 45 CHECK (count_minutes >= 0),
    ADD COLUMN still_days integer NOT NULL DEFAULT 180 CHECK (still_days > 0),
    ADD CHECK (class_a_pct <= class_b_pct);

-- +goose Down
ALTER TABLE sites DROP COLUMN still_days, DROP COLUMN count_minutes, DROP COLUMN counts_c, DROP COLUMN counts_b,
    DROP COLUMN counts_a, DROP COLUMN class_b_pct, DROP COLUMN class_a_pct;
