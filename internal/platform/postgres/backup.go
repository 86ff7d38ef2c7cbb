package postgres

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"github.com/jackc/pgx/v5"
)

// ErrNotEmpty says that a backup was to be restored over something.
var ErrNotEmpty = errors.New("there are tables in this database already, and nothing was changed. Restore into an empty one: name a new " +
	"directory with LANTERNROW_RUN, or a new database with DATABASE_URL")

// Backup writes all of a database into a file of pg_dump's own format (custom), as it is at one instant, whoever works
// meanwhile, and returns how many bytes that are. The file is there once it is whole.
func Backup(ctx context.Context, url, file string) (bytes int64, err error) {
	part := file + ".part"
	defer os.Remove(part)
	if err := tool(ctx, url, "pg_dump", "--format=custom", "--file="+part); err != nil {
		return 0, err
	}
	if err := os.Chmod(part, 0o600); err != nil {
		return 0, fmt.Errorf("closing the backup to others: %w", err)
	}
	info, err := os.Stat(part)
	if err != nil {
		return 0, fmt.Errorf("weighing the backup: %w", err)
	}
	if err := os.Rename(part, file); err != nil {
		return 0, fmt.Errorf("putting the backup in place: %w", err)
	}
	return info.Size(), note(ctx, url, file, info.Size())
}

// note keeps that a backup was made, for whoever looks whether one was.
func note(ctx context.Context, url, file string, bytes int64) error {
	where, err := filepath.Abs(file)
	if err != nil {
		where = file
	}
	db, err := Open(ctx, url)
	if err != nil {
		return err
	}
	defer db.Close()
	if _, err := db.ExecContext(ctx, `
		INSERT INTO backups (file, bytes, sealed) VALUES ($1, $2, (SELECT coalesce(max(position), 0) FROM seals))`, where, bytes); err != nil {
		return fmt.Errorf("noting the backup: %w", err)
	}
	return nil
}

// Restore brings a backup into an empty database, whole or not at all, and the schema to the present one. Its roles are
// made where they are not there.
func Restore(ctx context.Context, url, file string) error {
	if _, err := os.Stat(file); err != nil {
		return fmt.Errorf("opening the backup: %w", err)
	}
	db, err := Open(ctx, url)
	if err != nil {
		return err
	}
	defer db.Close()
	var tables int
	if err := db.GetContext(ctx, &tables, `SELECT count(*) FROM pg_tables WHERE schemaname = 'public'`); err != nil {
		return fmt.Errorf("looking into the database: %w", err)
	}
	if tables > 0 {
		return ErrNotEmpty
	}
	if _, err := db.ExecContext(ctx, `
		DO $$ BEGIN
		    IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = '`+AppRole+`') THEN CREATE ROLE `+AppRole+` NOLOGIN; END IF;
		    IF NOT pg_has_role(current_user, '`+AppRole+`', 'member') THEN EXECUTE format('GRANT `+AppRole+` TO %I', current_user); END IF;
		END $$`); err != nil {
		return fmt.Errorf("making the role of the application: %w", err)
	}
	if err := tool(ctx, url, "pg_restore", "--exit-on-error", "--single-transaction", "--no-owner", "--dbname="+databaseOf(url), file); err != nil {
		return err
	}
	if err := Migrate(ctx, url); err != nil {
		return err
	}
	if _, err := db.ExecContext(ctx, `SELECT ledger_new_era()`); err != nil {
		return fmt.Errorf("beginning an era: %w", err)
	}
	return nil
}

func databaseOf(url string) string {
	c, err := pgx.ParseConfig(url)
	if err != nil {
		return ""
	}
	return c.Database
}

// tool runs one of PostgreSQL's programs on a database. The password goes through its environment, where no list of
// processes shows it.
func tool(ctx context.Context, url, name string, args ...string) error {
	bin, err := Binaries()
	if err != nil {
		return err
	}
	c, err := pgx.ParseConfig(url)
	if err != nil {
		return fmt.Errorf("reading the database URL: %w", err)
	}
	cmd := exec.CommandContext(ctx, filepath.Join(bin, name), args...)
	cmd.Env = append(os.Environ(), "PGHOST="+c.Host, fmt.Sprintf("PGPORT=%d", c.Port), "PGUSER="+c.User, "PGPASSWORD="+c.Password,
		"PGDATABASE="+c.Database)
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("%s: %w: %s", name, err, strings.TrimSpace(string(out)))
	}
	return nil
}
