package postgres

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"lanternrow/internal/platform/migrations"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"
)

// ServeLogin is who the private server's databases are served as. It owns nothing, and may do what AppRole may.
const ServeLogin = "lanternrow_serve"

var (
	// ErrServesAsOwner says that the login that serves could change what it must not.
	ErrServesAsOwner = errors.New("LANTERNROW_SERVE_URL logs in as a superuser, or as somebody who is or may become the owner of the " +
		"database. Make a login that is neither, and is a member of " + AppRole + ": CREATE ROLE serve LOGIN PASSWORD '...' IN ROLE " + AppRole)
	// ErrUnseen says that the owner does not see when the transactions of the login that serves began.
	ErrUnseen = errors.New("the owner of the database does not see when transactions of the login that serves began. " +
		"Let it: GRANT pg_read_all_stats TO the owner")
	// ErrOldSchema says that the schema is behind what the program needs, and whoever serves may not bring it up to date.
	ErrOldSchema = errors.New("the schema is behind this release. Bring it up to date as the owner: DATABASE_URL=... lanternrow migrate")
)

// CheckServing refuses to serve over a login that could do more than serving takes, and over a schema that is not the
// program's.
func CheckServing(ctx context.Context, db *sqlx.DB) error {
	var is struct {
		Mighty, Seen bool
		Version      int64
	}
	if err := db.GetContext(ctx, &is, `
		SELECT u.rolsuper OR u.rolcreaterole OR u.rolbypassrls OR u.rolreplication OR pg_has_role(u.oid, c.relowner, 'member') AS mighty,
		       ledger_sees(session_user) AS seen,
		       (SELECT max(version_id) FROM goose_db_version WHERE is_applied) AS version
		  FROM pg_roles u, pg_class c WHERE u.rolname = session_user AND c.oid = 'public.moves'::regclass`); err != nil {
		// A schema from before this could be asked has no such function, or no such table.
		if pg := (*pgconn.PgError)(nil); errors.As(err, &pg) && (pg.Code == "42883" || pg.Code == "42P01") {
			return ErrOldSchema
		}
		return fmt.Errorf("looking who serves: %w", err)
	}
	switch {
	case is.Mighty:
		return ErrServesAsOwner
	case !is.Seen:
		return ErrUnseen
	case is.Version < migrations.Latest():
		return ErrOldSchema
	case is.Version > migrations.Latest():
		return migrations.ErrNewerSchema
	}
	return nil
}

// servePassword is that of the login that serves, made where there is none yet.
func (s *Server) servePassword() (string, error) {
	file := filepath.Join(s.state, "postgres.serve")
	kept, err := os.ReadFile(file)
	if errors.Is(err, os.ErrNotExist) {
		pass := rand.Text()
		return pass, os.WriteFile(file, []byte(pass), 0o600)
	}
	return strings.TrimSpace(string(kept)), err
}

// letServe makes the login that serves, where it is not there.
func (s *Server) letServe(ctx context.Context, root *sqlx.DB) error {
	if _, err := root.ExecContext(ctx, fmt.Sprintf(`
		DO $$ BEGIN
		    PERFORM pg_advisory_xact_lock(%d);
		    IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = '%[2]s') THEN CREATE ROLE %[2]s NOLOGIN; END IF;
		    IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = '%[3]s') THEN
		        CREATE ROLE %[3]s LOGIN PASSWORD '%[4]s' IN ROLE %[2]s;
		    END IF;
		END $$`, 7205759406, AppRole, ServeLogin, s.servePass)); err != nil {
		return fmt.Errorf("making the login that serves: %w", err)
	}
	return nil
}

// ServeURL is the connection string of a database, as the login that serves it.
func (s *Server) ServeURL(database string) string {
	return fmt.Sprintf("postgres://%s:%s@127.0.0.1:%d/%s?sslmode=disable", ServeLogin, s.servePass, s.port, database)
}
