package web

import (
	"context"
	"crypto/rand"
	"fmt"
	"log/slog"
	"math"
	"net/http"
	"strconv"
	"strings"
	"syscall"
	"time"

	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/live"
	"lanternrow/internal/platform/migrations"
	"lanternrow/internal/platform/postgres"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/adaptor"
	"github.com/jmoiron/sqlx"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"
)

// watch is what is told of the server to whoever looks after it.
type watch struct {
	registry *prometheus.Registry
	requests *prometheus.HistogramVec
}

// slow is how long a request takes that is named in the log whatever became of it.
const slow = 2 * time.Second

func newWatch() *watch {
	w := &watch{registry: prometheus.NewRegistry(), requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "lanternrow_request_seconds", Help: "How long operations took, by their name and what they came to.",
		Buckets: []float64{.005, .01, .025, .05, .1, .25, .5, 1, 2.5, 5, 10, 20}}, []string{"operation", "status"})}
	w.registry.MustRegister(w.requests, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return w
}

// follow tells of the parts that work: pools, commands, listeners, and what the database says of itself.
func (w *watch) follow(pools *postgres.Pools, runner *command.Runner, hub *live.Hub) {
	number := func(name, help string, of func() float64) {
		w.registry.MustRegister(prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "lanternrow_" + name, Help: help}, of))
	}
	number("commands_retried", "How often commands were tried again since the start.", func() float64 { return float64(runner.Retries()) })
	number("locks_out_of_order", "How often something was held out of the one order since the start.",
		func() float64 { return float64(runner.Disorder()) })
	number("live_listeners", "How many pages are told of changes now.", func() float64 { return float64(hub.Listening()) })
	if pools.Commands == nil {
		return
	}
	if pools.Reports != pools.Reads {
		number("reports_behind_seconds", "How far reports are behind what is written; not a number where they cannot be read.", func() float64 {
			ctx, cancel := context.WithTimeout(context.Background(), healthTime)
			defer cancel()
			behind, err := postgres.Behind(ctx, pools.Reports)
			if err != nil {
				return math.NaN()
			}
			return behind.Seconds()
		})
		w.registry.MustRegister(collectors.NewDBStatsCollector(pools.Reports.DB, "reports"))
	}
	w.registry.MustRegister(collectors.NewDBStatsCollector(pools.Commands.DB, "commands"),
		collectors.NewDBStatsCollector(pools.Reads.DB, "reads"), &books{db: pools.Health})
}

// books are figures that the database knows.
type books struct{ db *sqlx.DB }

var booksTold = []struct {
	column string
	desc   *prometheus.Desc
}{
	{"postings", prometheus.NewDesc("lanternrow_postings", "The number of the newest posting.", nil, nil)},
	{"moves", prometheus.NewDesc("lanternrow_moves", "The number of the newest move.", nil, nil)},
	{"unsealed", prometheus.NewDesc("lanternrow_moves_unsealed", "How many moves are behind the newest sealed one, at most.", nil, nil)},
	{"outbox", prometheus.NewDesc("lanternrow_outbox_waiting", "How many messages wait to be sent.", nil, nil)},
	{"outbox_age", prometheus.NewDesc("lanternrow_outbox_oldest_seconds", "How long the oldest of them waits.", nil, nil)},
	{"stopped", prometheus.NewDesc("lanternrow_schedules_stopped", "How many schedules stopped because they failed.", nil, nil)},
	{"sessions", prometheus.NewDesc("lanternrow_sessions", "How many sessions there are.", nil, nil)},
	{"bytes", prometheus.NewDesc("lanternrow_database_bytes", "How large the database is.", nil, nil)},
}

// Describe implements prometheus.Collector.
func (b *books) Describe(to chan<- *prometheus.Desc) {
	for _, t := range booksTold {
		to <- t.desc
	}
}

// Collect implements prometheus.Collector. While the database does not answer there are no such figures.
func (b *books) Collect(to chan<- prometheus.Metric) {
	ctx, cancel := context.WithTimeout(context.Background(), healthTime)
	defer cancel()
	row := map[string]any{}
	err := b.db.QueryRowxContext(ctx, `
		SELECT (SELECT coalesce(max(id), 0) FROM postings)::float8 AS postings, m.newest::float8 AS moves,
		       (m.newest - coalesce((SELECT row_id FROM ledger_sealed WHERE kind = 'move'), 0))::float8 AS unsealed,
		       o.n::float8 AS outbox, o.age::float8 AS outbox_age,
		       (SELECT count(*) FROM schedules WHERE state = 'stopped')::float8 AS stopped,
		       (SELECT count(*) FROM sessions WHERE expires_at > now())::float8 AS sessions,
		       pg_database_size(current_database())::float8 AS bytes
		  FROM (SELECT coalesce(max(id), 0) AS newest FROM moves) AS m,
		       (SELECT count(*) AS n, coalesce(extract(epoch FROM now() - min(asked_at)), 0) AS age FROM outbox WHERE state = 'waiting') AS o`).
		MapScan(row)
	if err != nil {
		slog.Warn("the database's figures cannot be read", "error", err)
		return
	}
	for _, t := range booksTold {
		if v, ok := row[t.column].(float64); ok {
			to <- prometheus.MustNewConstMetric(t.desc, prometheus.GaugeValue, v)
		}
	}
}

// requestOf is the name of a request, for whoever reads it out.
func requestOf(ctx context.Context) string {
	return people.OriginOf(ctx).Request
}

// named gives each request a short name, which its answer carries and the log knows it by.
func named(c fiber.Ctx) error {
	id := rand.Text()[:8]
	c.SetContext(people.From(c.Context(), people.Origin{Request: id}))
	c.Set("X-Request-Id", id)
	return c.Next()
}

// done notes what became of an operation.
func (w *watch) done(ctx context.Context, who, operation string, status int, took time.Duration, address string) {
	w.requests.WithLabelValues(operation, strconv.Itoa(status)).Observe(took.Seconds())
	level := slog.LevelInfo
	if took > slow || status >= http.StatusInternalServerError {
		level = slog.LevelWarn
	}
	slog.Log(ctx, level, "request", "request", requestOf(ctx), "operation", operation, "status", status, "ms", took.Milliseconds(),
		"person", who, "address", address)
}

// leastFree is how much room there has to be on the disk of the data, in bytes.
const leastFree = 256 << 20

// registerWatch adds what whoever looks after the server asks: is it alive, may people be sent to it, and how does it do.
func (s *Server) registerWatch(pools *postgres.Pools, runDir, token string) {
	s.App.Get("/health", func(c fiber.Ctx) error { return c.SendString("ok\n") })
	s.App.Get("/ready", func(c fiber.Ctx) error {
		if err := ready(c.Context(), pools, runDir); err != nil {
			return c.Status(http.StatusServiceUnavailable).SendString(err.Error() + "\n")
		}
		return c.SendString("ok\n")
	})
	metrics := adaptor.HTTPHandler(promhttp.HandlerFor(s.watch.registry, promhttp.HandlerOpts{}))
	s.App.Get("/metrics", func(c fiber.Ctx) error {
		direct := c.RequestCtx().RemoteIP().IsLoopback() && c.Get(fiber.HeaderXForwardedFor) == ""
		if !direct && (token == "" || c.Get("Authorization") != "Bearer "+token) {
			return c.Status(http.StatusForbidden).SendString("figures are told on this machine, and to whoever brings the token\n")
		}
		return metrics(c)
	})
}

// ready says why nobody should be sent here now.
func ready(ctx context.Context, pools *postgres.Pools, runDir string) error {
	ctx, cancel := context.WithTimeout(ctx, healthTime)
	defer cancel()
	var version int64
	if err := pools.Health.GetContext(ctx, &version, `SELECT max(version_id) FROM goose_db_version WHERE is_applied`); err != nil {
		return fmt.Errorf("the database does not answer")
	}
	if version != migrations.Latest() {
		return fmt.Errorf("the schema is at version %d, and this program needs %d", version, migrations.Latest())
	}
	var disk syscall.Statfs_t
	if err := syscall.Statfs(runDir, &disk); err == nil {
		if free := int64(disk.Bavail) * int64(disk.Bsize); free < leastFree {
			return fmt.Errorf("only %d MB are free on the disk of %s", free>>20, strings.TrimSuffix(runDir, "/"))
		}
	}
	return nil
}
