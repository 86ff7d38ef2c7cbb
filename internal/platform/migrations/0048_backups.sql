-- +goose Up
-- When a backup was made, where, how large and of which seal: so that it is seen that none was made.
CREATE TABLE backups (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    made_at timestamptz NOT NULL DEFAULT now(),
    file    text NOT NULL,
    bytes   bigint NOT NULL CHECK (bytes > 0),
    sealed  bigint NOT NULL CHECK (sealed >= 0)
);
REVOKE ALL ON backups FROM lanternrow_app;
GRANT SELECT ON backups TO lanternrow_app;

-- +goose Down
DROP TABLE backups;
