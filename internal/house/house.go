// Package house tells leads and operators how the house does: what runs, how much there is of it, what waits, and whether it
// is sealed and backed up.
package house

import (
	"context"
	"fmt"
	"net/http"
	"runtime/debug"
	"time"

	"lanternrow/internal/platform/migrations"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

// State is how the house does.
type State struct {
	Program   string `json:"program" doc:"The revision that the program was built of; empty where it does not know"`
	Go        string `json:"go"`
	Needs     int64  `json:"needs_schema" doc:"The version of the schema that the program needs"`
	Schema    int64  `db:"schema" json:"schema"`
	Server    string `db:"server" json:"database_server" doc:"What the database server says that it is"`
	Bytes     int64  `db:"bytes" json:"database_bytes"`
	Postings  int64  `db:"postings" json:"postings"`
	Moves     int64  `db:"moves" json:"moves"`
	Sealed    int64  `db:"sealed" json:"sealed" doc:"How many moves are sealed"`
	Head      string `db:"head" json:"head" doc:"The newest seal"`
	People    int    `db:"people" json:"people"`
	Sessions  int    `db:"sessions" json:"sessions"`
	Stopped   int    `db:"stopped" json:"schedules_stopped" doc:"Schedules that stopped because they failed"`
	Schedules int    `db:"schedules" json:"schedules"`
	// Snapshot is the newest instant that what stood where is kept of.
	Snapshot *time.Time `db:"snapshot" json:"snapshot"`
	Backup   *time.Time `db:"backup" json:"backup" doc:"When it was backed up last by lanternrow backup; null for never"`
	Into     string     `db:"backup_file" json:"backup_file"`
	Weighs   int64      `db:"backup_bytes" json:"backup_bytes"`
	Reports  Reports    `db:"-" json:"reports" enum:"here,standby,away" doc:"Where what is read in bulk is read: where all else is, or at a standby, which may be away"`
	Behind   float64    `db:"-" json:"reports_behind" doc:"How many seconds the standby is behind"`
	Outbox   []Channel  `db:"-" json:"outbox" nullable:"false"`
	Tables   []Table    `db:"-" json:"tables" nullable:"false" doc:"The largest, the largest first"`
}

// Reports is where what is read in bulk is read.
type Reports string

// Where that is: where all else is read, at a standby, or at one that does not answer.
const (
	Here    Reports = "here"
	Standby Reports = "standby"
	Away    Reports = "away"
)

// Channel is what waits to be sent by one way.
type Channel struct {
	Name    string     `db:"name" json:"name" enum:"carrier,mail,host,printer"`
	Waiting int        `db:"waiting" json:"waiting"`
	Oldest  *time.Time `db:"oldest" json:"oldest"`
}

// Table is how large a table is with its indexes.
type Table struct {
	Name  string `db:"name" json:"name"`
	Rows  int64  `db:"rows" json:"rows" doc:"About how many"`
	Bytes int64  `db:"bytes" json:"bytes"`
}

// largest is how many tables are told of.
const largest = 12

// revision is what the program was built of, where whoever built it said so (-ldflags -X).
var revision string

// Read reads how the house does.
func Read(ctx context.Context, q sqlx.QueryerContext) (State, error) {
	s := State{Program: revision, Reports: Here, Needs: migrations.Latest(), Outbox: []Channel{}, Tables: []Table{}}
	if built, known := debug.ReadBuildInfo(); known {
		s.Go = built.GoVersion
		for _, setting := range built.Settings {
			if setting.Key == "vcs.revision" && s.Program == "" {
				s.Program = setting.Value
			}
		}
	}
	if err := sqlx.GetContext(ctx, q, &s, `
		SELECT (SELECT max(version_id) FROM goose_db_version WHERE is_applied) AS schema, current_setting('server_version') AS server,
		       pg_database_size(current_database()) AS bytes, (SELECT count(*) FROM postings) AS postings,
		       m.n AS moves,
		       -- Those behind the last sealed one are few, and all others many.
		       m.n - (SELECT count(*) FROM ledger_sealed w JOIN postings p ON p.xid >= w.xid JOIN moves v ON v.posting_id = p.id
		               WHERE w.kind = 'move' AND (p.xid, v.id) > (w.xid, w.row_id)) AS sealed,
		       coalesce(encode(h.hash, 'hex'), '') AS head,
		       (SELECT count(*) FROM people WHERE ended_at IS NULL) AS people,
		       (SELECT count(*) FROM sessions WHERE expires_at > now()) AS sessions,
		       (SELECT count(*) FROM schedules WHERE state = 'stopped') AS stopped,
		       (SELECT count(*) FROM schedules WHERE state IN ('on', 'paused', 'stopped')) AS schedules,
		       (SELECT max(taken_at) FROM snapshots) AS snapshot, b.made_at AS backup, coalesce(b.file, '') AS backup_file,
		       coalesce(b.bytes, 0) AS backup_bytes
		  FROM (SELECT count(*) AS n FROM moves) AS m LEFT JOIN (SELECT position, hash FROM seals ORDER BY position DESC LIMIT 1) AS h ON true
		  LEFT JOIN (SELECT * FROM backups ORDER BY id DESC LIMIT 1) AS b ON true`); err != nil {
		return s, fmt.Errorf("reading how the house does: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &s.Outbox, `
		SELECT channel AS name, count(*) AS waiting, min(asked_at) AS oldest FROM outbox WHERE state = 'waiting' GROUP BY 1 ORDER BY 1`); err != nil {
		return s, fmt.Errorf("reading what waits to be sent: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &s.Tables, `
		SELECT c.relname AS name, greatest(c.reltuples, s.n_live_tup, 0)::bigint AS rows, pg_total_relation_size(c.oid) AS bytes
		  FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
		  LEFT JOIN pg_stat_user_tables s ON s.relid = c.oid
		 WHERE n.nspname = 'public' AND c.relkind = 'r'
		 ORDER BY 3 DESC, 1 LIMIT $1`, largest); err != nil {
		return s, fmt.Errorf("reading how large tables are: %w", err)
	}
	return s, nil
}

// Register adds the operation.
func Register(r *web.Router) {
	web.Query(r, http.MethodGet, "/house", "read-house", "How the house does: what runs, what waits, and whether it is sealed and backed up", web.Lead,
		func(ctx context.Context, _ *struct{}) (State, error) {
			s, err := Read(ctx, r.Reads)
			if err == nil && r.Reports != r.Reads {
				s.Reports, s.Behind = reportsAt(ctx, r.Reports)
			}
			return s, err
		})
}

// reportsAt tells whether reports can be read at a standby, and how many seconds behind.
func reportsAt(ctx context.Context, standby *sqlx.DB) (Reports, float64) {
	by, err := postgres.Behind(ctx, standby)
	if err != nil {
		return Away, 0
	}
	return Standby, by.Seconds()
}
