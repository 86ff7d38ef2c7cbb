package main

import (
	"context"
	"errors"
	"fmt"
	"os"

	"lanternrow/internal/platform/config"
	"lanternrow/internal/platform/postgres"

	"github.com/jackc/pgx/v5"
	"github.com/jmoiron/sqlx"
)

// databaseName is the application's database on the private server.
const databaseName = "lanternrow"

var (
	errOwnerUnknown = errors.New("this is done as the owner of the database: name it with DATABASE_URL")
	errServeUnknown = errors.New("DATABASE_URL is the owner of the database, and nobody serves as that. Name the login that serves " +
		"with LANTERNROW_SERVE_URL")
	errDemoInService = errors.New("the demo is not for a house in service; set LANTERNROW_RUN, or DATABASE_URL, and it is served beside the one of")
)

// houseOf says which house a command at the console was about.
func houseOf(c config.Config) string {
	if c.DatabaseURL == "" {
		return "on the private server under " + c.RunDir
	}
	at, err := pgx.ParseConfig(c.DatabaseURL)
	if err != nil {
		return "in the database of DATABASE_URL"
	}
	return fmt.Sprintf("in the database %s at %s:%d", at.Database, at.Host, at.Port)
}

// addresses are where the database is: for its owner, who may be unknown to a server, and for the login that serves.
type addresses struct {
	owner, serve string
	// done stops what was started.
	done func()
}

// served finds the database to be served, at the present schema: the outside one that is configured, or one on the
// private server.
func served(ctx context.Context, c config.Config) (addresses, error) {
	at := addresses{c.DatabaseURL, c.ServeURL, func() {}}
	switch {
	case c.DatabaseURL == "" && c.ServeURL == "":
		server, done, err := private(ctx, c)
		if err != nil {
			return addresses{done: done}, err
		}
		return addresses{server.URL(databaseName), server.ServeURL(databaseName), done}, nil
	case c.ServeURL == "":
		return at, errServeUnknown
	case c.DatabaseURL == "":
		return at, nil
	}
	return at, postgres.Migrate(ctx, c.DatabaseURL)
}

// private starts the private server where it is not running, with the database at the present schema. done stops what
// was started.
func private(ctx context.Context, c config.Config) (server *postgres.Server, done func(), err error) {
	server, err = postgres.Start(ctx, c.RunDir)
	if err != nil {
		return nil, func() {}, err
	}
	done = func() {
		if err := server.Stop(); err != nil {
			fmt.Fprintln(os.Stderr, "stopping the database:", err)
		}
	}
	_, err = server.Ensure(ctx, databaseName)
	return server, done, err
}

// database finds the database as its owner, at the present schema: the outside one that is configured, or one on the
// private server. done stops what was started.
func database(ctx context.Context, c config.Config) (url string, done func(), err error) {
	switch {
	case c.DatabaseURL != "":
		return c.DatabaseURL, func() {}, postgres.Migrate(ctx, c.DatabaseURL)
	case c.ServeURL != "":
		return "", func() {}, errOwnerUnknown
	}
	server, done, err := private(ctx, c)
	if err != nil {
		return "", done, err
	}
	return server.URL(databaseName), done, nil
}

// withDatabase does something on the database, which is found as database finds it, and connects as its owner.
func withDatabase(ctx context.Context, c config.Config, do func(context.Context, *sqlx.DB) error) error {
	url, done, err := database(ctx, c)
	defer done()
	if err != nil {
		return err
	}
	db, err := postgres.Open(ctx, url)
	if err != nil {
		return err
	}
	defer db.Close()
	return do(ctx, db)
}
