package postgres

import (
	"context"
	"fmt"

	"lanternrow/internal/platform/migrations"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
)

// AppRole is the role that the application works under.
const AppRole = "lanternrow_app"

// Open connects as the owner of the database.
func Open(ctx context.Context, url string) (*sqlx.DB, error) { return open(ctx, url, "") }

// OpenApp connects as the application, which reaches stock only through the
// ledger's functions.
func OpenApp(ctx context.Context, url string) (*sqlx.DB, error) { return open(ctx, url, AppRole) }

func open(ctx context.Context, url, role string) (*sqlx.DB, error) {
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("reading the database URL: %w", err)
	}
	if role != "" {
		config.RuntimeParams["role"] = role
	}
	config.RuntimeParams["timezone"] = "UTC"
	config.RuntimeParams["application_name"] = "lanternrow"
	// Every statement is prepared and short: planning it anew each time costs more
	// than a plan fitted to its arguments could save.
	config.RuntimeParams["plan_cache_mode"] = "force_generic_plan"
	// What is looked at all day lies in memory: a page of history is then read off its
	// index in order, not gathered whole and sorted.
	config.RuntimeParams["random_page_cost"] = "1.1"
	config.RuntimeParams["jit"] = "off"
	db := sqlx.NewDb(stdlib.OpenDB(*config), "pgx")
	db.SetMaxOpenConns(24)
	db.SetMaxIdleConns(24)
	ctx, cancel := context.WithTimeout(ctx, wait)
	defer cancel()
	if err := db.PingContext(ctx); err != nil {
		_ = db.Close()
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	return db, nil
}

// Ensure makes the database if it is not there, and brings it to the present
// schema. It tells whether the database was made.
func (s *Server) Ensure(ctx context.Context, name string) (made bool, err error) {
	root, err := Open(ctx, s.URL("postgres"))
	if err != nil {
		return false, err
	}
	defer root.Close()
	var there bool
	if err := root.GetContext(ctx, &there, `SELECT EXISTS (SELECT FROM pg_database WHERE datname = $1)`, name); err != nil {
		return false, err
	}
	if !there {
		if _, err := root.ExecContext(ctx, `CREATE DATABASE `+pgx.Identifier{name}.Sanitize()); err != nil {
			return false, fmt.Errorf("creating database %s: %w", name, err)
		}
	}
	return !there, Migrate(ctx, s.URL(name))
}

// Drop removes the database.
func (s *Server) Drop(ctx context.Context, name string) error {
	root, err := Open(ctx, s.URL("postgres"))
	if err != nil {
		return err
	}
	defer root.Close()
	_, err = root.ExecContext(ctx, `DROP DATABASE IF EXISTS `+pgx.Identifier{name}.Sanitize()+` WITH (FORCE)`)
	return err
}

// Migrate brings the database at url to the present schema.
func Migrate(ctx context.Context, url string) error {
	db, err := Open(ctx, url)
	if err != nil {
		return err
	}
	defer db.Close()
	return migrations.Up(ctx, db.DB)
}
