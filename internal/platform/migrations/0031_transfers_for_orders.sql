-- +goose Up
-- A line of a transfer may be meant for a line of an order at the other site: what comes is reserved for it.
CREATE TABLE transfer_covers (
    line_id bigint PRIMARY KEY REFERENCES outbound_lines,
    covers  bigint NOT NULL REFERENCES outbound_lines CHECK (covers <> line_id)
);
CREATE INDEX transfer_covers_covers ON transfer_covers (covers);
GRANT SELECT, INSERT ON transfer_covers TO lanternrow_app;

-- +goose Down
DROP TABLE transfer_covers;
