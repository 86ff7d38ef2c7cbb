// Package migrations brings a database to the schema this program needs.
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
)

//go:embed *.sql
var files embed.FS

// ErrOtherSchema says that a database was made by migrations that read otherwise than
// this program's. Until the first release they are changed in place.
var ErrOtherSchema = errors.New("this database was made by another state of the program, from before the first release: make reset forgets the demo, and the next start makes it anew")

// Up applies what is missing, under the owner's role. It refuses a database whose
// migrations were applied in another wording.
func Up(ctx context.Context, db *sql.DB) error { return up(ctx, db, files) }

func up(ctx context.Context, db *sql.DB, files fs.FS) error {
	provider, err := goose.NewProvider(goose.DialectPostgres, db, files)
	if err != nil {
		return fmt.Errorf("reading migrations: %w", err)
	}
	if _, err := db.ExecContext(ctx, `CREATE TABLE IF NOT EXISTS migration_prints (version bigint PRIMARY KEY, print text NOT NULL)`); err != nil {
		return fmt.Errorf("preparing migrations: %w", err)
	}
	prints := map[int64]string{}
	for _, source := range provider.ListSources() {
		text, err := fs.ReadFile(files, source.Path)
		if err != nil {
			return fmt.Errorf("reading migrations: %w", err)
		}
		sum := sha256.Sum256(text)
		prints[source.Version] = hex.EncodeToString(sum[:])
	}
	applied, err := provider.GetDBVersion(ctx)
	if err != nil {
		return fmt.Errorf("reading the schema's version: %w", err)
	}
	for version, print := range prints {
		if version > applied {
			continue
		}
		var kept string
		err := db.QueryRowContext(ctx, `SELECT print FROM migration_prints WHERE version = $1`, version).Scan(&kept)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return fmt.Errorf("reading the schema's prints: %w", err)
		}
		if kept != print {
			return ErrOtherSchema
		}
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("applying migrations: %w", err)
	}
	for version, print := range prints {
		if _, err := db.ExecContext(ctx, `INSERT INTO migration_prints VALUES ($1, $2) ON CONFLICT DO NOTHING`, version, print); err != nil {
			return fmt.Errorf("keeping the schema's prints: %w", err)
		}
	}
	return nil
}
