package postgres

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
)

// ErrOtherHouse says that reports would be read of another house.
var ErrOtherHouse = errors.New("LANTERNROW_REPORTS_URL leads to the database of another house: its oldest seal is not ours")

// ReadReports has reports read elsewhere from now on: at a standby, by the login that serves. The connection string should
// fall back to the primary (several hosts, target_session_attrs=prefer-standby).
func (p *Pools) ReadReports(ctx context.Context, url string) error {
	db, err := open(ctx, url, reports)
	if err != nil {
		return fmt.Errorf("connecting for reports: %w", err)
	}
	p.Reports = db
	const oldest = `SELECT coalesce((SELECT encode(hash, 'hex') FROM seals WHERE position = 1), '')`
	var here, there string
	if err := errors.Join(p.Reads.GetContext(ctx, &here, oldest), db.GetContext(ctx, &there, oldest)); err != nil {
		return fmt.Errorf("comparing where reports are read: %w", err)
	}
	// A standby may not have the first seal yet.
	if there != "" && there != here {
		return ErrOtherHouse
	}
	return nil
}

// Behind is how far what is read there may be behind what is written: nothing unless it is a standby that has not written
// down yet all that it was sent.
func Behind(ctx context.Context, db *sqlx.DB) (time.Duration, error) {
	var seconds float64
	err := db.GetContext(ctx, &seconds, `
		SELECT CASE WHEN NOT pg_is_in_recovery() OR pg_last_wal_receive_lsn() = pg_last_wal_replay_lsn() THEN 0
		            ELSE coalesce(extract(epoch FROM now() - pg_last_xact_replay_timestamp()), 0) END::float8`)
	return time.Duration(seconds * float64(time.Second)), err
}
