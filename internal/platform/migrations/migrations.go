// Package migrations brings a database to the schema this program needs. Migrations are
// only ever added: one that was applied is never changed.
package migrations

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"

	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/database"
)

//go:embed *.sql
var files embed.FS

// ErrOtherSchema says that a database was made by migrations that read otherwise than
// this program's.
var ErrOtherSchema = errors.New("this database was made by another state of the program than this one grew from. " +
	"Nothing was changed: serve it with the program that made it, or restore a backup of a released version")

// A FailedError is a migration that did not go through. Nothing of it was applied.
type FailedError struct {
	// Migration is the file that failed, and Version what the schema is at.
	Migration string
	Version   int64
	Err       error
}

// Error says what stands and how to go on.
func (e *FailedError) Error() string {
	return fmt.Sprintf("%s could not be applied: %v. Nothing of it was; the schema is at version %d and all data "+
		"is as it was. "+
		"Remove the cause that is named and start again; until then the program that served this version can go "+
		"on serving it",
		e.Migration, e.Err, e.Version)
}

// Unwrap is what went wrong.
func (e *FailedError) Unwrap() error { return e.Err }

// ErrNewerSchema says that a database is ahead of this program.
var ErrNewerSchema = errors.New("this database was served by a newer release already. Nothing was changed: serve it with that one, or restore " +
	"a backup that was made before")

// Latest is the schema's version that this program needs.
func Latest() int64 {
	names, _ := fs.Glob(files, "*.sql")
	var last int64
	for _, name := range names {
		if v, err := goose.NumericComponent(name); err == nil {
			last = max(last, v)
		}
	}
	return last
}

// turns is the key of the lock under which servers that start together take turns.
const turns = 7205759405

// Up applies what is missing, under the owner's role, each migration whole or not at all.
// Servers that start together take turns. It refuses a database whose migrations were
// applied in another wording; a migration that does not go through is a FailedError.
func Up(ctx context.Context, db *sql.DB) error { return up(ctx, db, files) }

func up(ctx context.Context, db *sql.DB, files fs.FS) error {
	conn, err := db.Conn(ctx)
	if err != nil {
		return fmt.Errorf("waiting for a turn to migrate: %w", err)
	}
	defer conn.Close()
	if _, err := conn.ExecContext(ctx, `SELECT pg_advisory_lock($1)`, turns); err != nil {
		return fmt.Errorf("waiting for a turn to migrate: %w", err)
	}
	defer func() { _, _ = conn.ExecContext(context.WithoutCancel(ctx), `SELECT pg_advisory_unlock($1)`, turns) }()
	versions, err := database.NewStore(database.DialectPostgres, goose.DefaultTablename)
	if err != nil {
		return fmt.Errorf("reading migrations: %w", err)
	}
	marks := &marking{Store: versions}
	provider, err := goose.NewProvider(goose.DialectCustom, db, files, goose.WithStore(marks))
	if err != nil {
		return fmt.Errorf("reading migrations: %w", err)
	}
	if marks.prints, err = printsOf(provider, files); err != nil {
		return err
	}
	version, err := check(ctx, db, provider, marks.prints)
	if err != nil {
		return err
	}
	return apply(ctx, provider, version)
}

// marking notes with a migration's version its print, in the transaction that applies it.
type marking struct {
	database.Store
	prints map[int64]string
}

// Insert notes that a migration is applied.
func (m *marking) Insert(ctx context.Context, tx database.DBTxConn, applied database.InsertRequest) error {
	if err := m.Store.Insert(ctx, tx, applied); err != nil {
		return err
	}
	print, known := m.prints[applied.Version]
	if !known {
		return nil
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO migration_prints VALUES ($1, $2)
		ON CONFLICT (version) DO UPDATE SET print = excluded.print`, applied.Version, print); err != nil {
		return fmt.Errorf("keeping the schema's prints: %w", err)
	}
	return nil
}

// printsOf are the fingerprints of migrations, by their version.
func printsOf(provider *goose.Provider, files fs.FS) (map[int64]string, error) {
	prints := map[int64]string{}
	for _, source := range provider.ListSources() {
		text, err := fs.ReadFile(files, source.Path)
		if err != nil {
			return nil, fmt.Errorf("reading migrations: %w", err)
		}
		sum := sha256.Sum256(text)
		prints[source.Version] = hex.EncodeToString(sum[:])
	}
	return prints, nil
}

// check returns the schema's version, or refuses one that was made by other migrations.
func check(ctx context.Context, db *sql.DB, provider *goose.Provider, prints map[int64]string) (int64, error) {
	_, err := db.ExecContext(ctx, `CREATE TABLE IF NOT EXISTS migration_prints (version bigint PRIMARY KEY,
		    print text NOT NULL)`)
	if err != nil {
		return 0, fmt.Errorf("preparing migrations: %w", err)
	}
	version, err := provider.GetDBVersion(ctx)
	if err != nil {
		return 0, fmt.Errorf("reading the schema's version: %w", err)
	}
	last := int64(0)
	for at := range prints {
		last = max(last, at)
	}
	if version > last {
		return 0, ErrNewerSchema
	}
	for at, print := range prints {
		if at > version {
			continue
		}
		var kept string
		err := db.QueryRowContext(ctx, `SELECT print FROM migration_prints WHERE version = $1`, at).Scan(&kept)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return 0, fmt.Errorf("reading the schema's prints: %w", err)
		}
		if kept != print {
			return 0, ErrOtherSchema
		}
	}
	return version, nil
}

// apply brings the schema from a version to the last: each migration with its marks, or nothing of it.
func apply(ctx context.Context, provider *goose.Provider, version int64) error {
	for _, source := range provider.ListSources() {
		if source.Version <= version {
			continue
		}
		if _, err := provider.ApplyVersion(ctx, source.Version, true); err != nil {
			return &FailedError{source.Path, version, err}
		}
		version = source.Version
	}
	return nil
}
