-- +goose Up
-- The very units that a stop takes, where they are reserved for its line by name: one stop takes
-- all that lie in one place. reservation_id is what reserves the unit until it is taken or given up.
CREATE TABLE stop_units (
    stop_id        bigint NOT NULL REFERENCES round_stops ON DELETE CASCADE,
    serial_id      bigint NOT NULL REFERENCES serials,
    round_id       bigint NOT NULL REFERENCES rounds,
    reservation_id bigint NOT NULL,
    PRIMARY KEY (stop_id, serial_id)
);
CREATE INDEX stop_units_reservation ON stop_units (reservation_id);
INSERT INTO stop_units (stop_id, serial_id, round_id, reservation_id)
SELECT id, serial_id, round_id, coalesce(reservation_id, 0) FROM round_stops WHERE serial_id IS NOT NULL;
UPDATE round_stops SET reservation_id = NULL WHERE serial_id IS NOT NULL;
ALTER TABLE round_stops DROP COLUMN serial_id;
-- Which round a reservation is for.
CREATE VIEW stop_reservations AS
SELECT id AS stop_id, round_id, reservation_id FROM round_stops WHERE reservation_id IS NOT NULL
UNION ALL SELECT stop_id, round_id, reservation_id FROM stop_units;
GRANT SELECT, INSERT, UPDATE, DELETE ON stop_units TO lanternrow_app;
GRANT SELECT ON stop_reservations TO lanternrow_app;

-- +goose Down
DROP VIEW stop_reservations;
ALTER TABLE round_stops ADD COLUMN serial_id bigint REFERENCES serials;
UPDATE round_stops s SET serial_id = u.serial_id, reservation_id = u.reservation_id
  FROM stop_units u WHERE u.stop_id = s.id AND s.quantity = 1;
DROP TABLE stop_units;
