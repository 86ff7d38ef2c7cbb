package postgres

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"time"

	"lanternrow/internal/platform/migrations"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
)

// AppRole is the role that the application works under.
const AppRole = "lanternrow_app"

// A pool of connections: how many there may be, and how long what is asked on them may
// take.
type pool struct {
	role string
	size int
	// statement, lock and idle bound a statement, the wait for a lock, and a transaction in
	// which nothing happens, as PostgreSQL reads them; empty is without bound.
	statement, lock, idle string
	// life is after how long a connection is made anew; 0 is never.
	life time.Duration
	// tracer, if any, sees each statement.
	tracer pgx.QueryTracer
}

var (
	owners = pool{size: 24}
	// What people ask for waits for a lock no longer than they would.
	commands = pool{role: AppRole, size: 24, statement: "15s", lock: "3s", idle: "30s"}
	reads    = pool{role: AppRole, size: Reading + 4, statement: "15s", lock: "3s", idle: "30s"}
	// Of several hosts one is chosen when a connection is made: where that was not the best one, it is not kept for ever.
	reports = pool{role: AppRole, size: Reading, statement: "15s", lock: "3s", idle: "30s", life: time.Minute}
	health  = pool{role: AppRole, size: 1, statement: "2s", lock: "1s", idle: "5s"}
)

// Reading is how many requests may read at once. A few connections beside them are for
// finding out who asks.
const Reading = 16

// Open connects as the owner of the database.
func Open(ctx context.Context, url string) (*sqlx.DB, error) { return open(ctx, url, owners) }

// OpenApp connects as the application, which reaches stock only through the
// ledger's functions. The URL is that of the login that serves.
func OpenApp(ctx context.Context, url string) (*sqlx.DB, error) { return open(ctx, url, commands) }

// OpenTraced connects as the application; tracer sees each statement that is sent.
func OpenTraced(ctx context.Context, url string, tracer pgx.QueryTracer) (*sqlx.DB, error) {
	p := commands
	p.tracer = tracer
	return open(ctx, url, p)
}

// Pools are the application's connections, apart by what they are for: what waits for
// locks cannot take the connections of what only reads, nor that of the health check.
// Reports are read where Reads are, unless somebody opened them elsewhere.
type Pools struct{ Commands, Reads, Health, Reports *sqlx.DB }

// OpenPools connects as the application, by the login that serves. Its holder calls Close.
func OpenPools(ctx context.Context, url string) (*Pools, error) {
	p := &Pools{}
	var err error
	for _, each := range []struct {
		db **sqlx.DB
		of pool
	}{{&p.Commands, commands}, {&p.Reads, reads}, {&p.Health, health}} {
		if *each.db, err = open(ctx, url, each.of); err != nil {
			p.Close()
			return nil, err
		}
	}
	p.Reports = p.Reads
	return p, nil
}

// Close ends all connections.
func (p *Pools) Close() {
	for _, db := range []*sqlx.DB{p.Commands, p.Reads, p.Health, p.Reports} {
		if db != nil {
			_ = db.Close()
		}
	}
}

func open(ctx context.Context, url string, p pool) (*sqlx.DB, error) {
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("reading the database URL: %w", err)
	}
	for name, value := range map[string]string{
		"role": p.role, "statement_timeout": p.statement, "lock_timeout": p.lock, "idle_in_transaction_session_timeout": p.idle,
	} {
		if value != "" {
			config.RuntimeParams[name] = value
		}
	}
	config.Tracer = cmp.Or[pgx.QueryTracer](p.tracer, slowQueries{slowAfter})
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
	db.SetMaxOpenConns(p.size)
	db.SetMaxIdleConns(p.size)
	db.SetConnMaxLifetime(p.life)
	ctx, cancel := context.WithTimeout(ctx, wait)
	defer cancel()
	if err := db.PingContext(ctx); err != nil {
		_ = db.Close()
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	return db, nil
}

// Make makes the database if it is not there, with nothing in it.
func (s *Server) Make(ctx context.Context, name string) (made bool, err error) {
	root, err := Open(ctx, s.URL("postgres"))
	if err != nil {
		return false, err
	}
	defer root.Close()
	if err := s.letServe(ctx, root); err != nil {
		return false, err
	}
	var there bool
	if err := root.GetContext(ctx, &there, `
		SELECT EXISTS (SELECT FROM pg_database WHERE datname = $1)`, name); err != nil {
		return false, err
	}
	if !there {
		_, err := root.ExecContext(ctx, `CREATE DATABASE `+pgx.Identifier{name}.Sanitize())
		// Another server that starts this moment may have been quicker.
		if pg := (*pgconn.PgError)(nil); err != nil && !(errors.As(err, &pg) && pg.Code == "42P04") {
			return false, fmt.Errorf("creating database %s: %w", name, err)
		}
	}
	return !there, nil
}

// Ensure makes the database if it is not there, and brings it to the present
// schema. It tells whether the database was made.
func (s *Server) Ensure(ctx context.Context, name string) (made bool, err error) {
	if made, err = s.Make(ctx, name); err != nil {
		return made, err
	}
	return made, Migrate(ctx, s.URL(name))
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
