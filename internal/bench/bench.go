// Package bench measures what the house promises of speed, on a database of its own.
package bench

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"sort"
	"strconv"
	"time"

	"lanternrow/internal/application"
	"lanternrow/internal/core/slotting"
	"lanternrow/internal/core/walking"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/config"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/station/audit"

	"github.com/gofiber/fiber/v3"
	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Figure is one measurement beside its limit.
type Figure struct {
	Name  string  `json:"name"`
	Value float64 `json:"value"`
	Unit  string  `json:"unit"`
	// Limit is what Value should reach, or stay below when Below is set; zero
	// where there is none.
	Limit float64 `json:"limit,omitempty"`
	Below bool    `json:"below,omitempty"`
}

// short is the history that the long one is compared with, in moves.
const short = 10_000

// Run measures and prints; the figures also go to file, when it is named.
func Run(ctx context.Context, c config.Config, moves int, file string) error {
	server, err := postgres.Start(ctx, filepath.Join(c.RunDir, "bench"))
	if err != nil {
		return err
	}
	defer func() { _ = server.Stop() }()
	storm, db, err := house(ctx, server, "bench_storm")
	if err != nil {
		return err
	}
	_ = db.Close()
	figures := []Figure{round(), shelving()}
	wave, err := waves(ctx, server)
	if err != nil {
		return fmt.Errorf("planning a wave: %w", err)
	}
	figures = append(figures, wave...)
	trip, err := trips(ctx, server)
	if err != nil {
		return fmt.Errorf("counting round trips: %w", err)
	}
	figures = append(figures, trip...)
	posting, err := postings(ctx, server, storm, c)
	if err != nil {
		return err
	}
	figures = append(figures, posting...)
	if moves == 0 {
		return report(figures, file)
	}
	_, few, err := house(ctx, server, "bench_short")
	if err != nil {
		return err
	}
	defer few.Close()
	_, many, err := house(ctx, server, "bench_long")
	if err != nil {
		return err
	}
	defer many.Close()
	if err := grow(ctx, many, moves); err != nil {
		return fmt.Errorf("growing the history to %d moves: %w", moves, err)
	}
	before, after, err := timeReads(ctx, few, many)
	if err != nil {
		return err
	}
	for i, r := range hotReads {
		figures = append(figures,
			Figure{Name: r.name + fmt.Sprintf(", %d moves", short), Value: before[i], Unit: "ms"},
			Figure{Name: r.name + fmt.Sprintf(", %d moves", moves), Value: after[i], Unit: "ms"},
			Figure{Name: r.name + ", growth", Value: after[i] / before[i], Unit: "ratio", Limit: 1.3, Below: true})
	}
	gone, err := past(ctx, many, moves)
	if err != nil {
		return fmt.Errorf("reading the past: %w", err)
	}
	return report(append(figures, gone...), file)
}

// report prints figures beside their limits; they also go to file, when it is named.
func report(figures []Figure, file string) error {
	for _, f := range figures {
		limit := ""
		switch {
		case f.Below:
			limit = fmt.Sprintf("at most %g", f.Limit)
		case f.Limit > 0:
			limit = fmt.Sprintf("at least %g", f.Limit)
		}
		fmt.Printf("%-52s %12.3f %-12s %s\n", f.Name, f.Value, f.Unit, limit)
	}
	if file == "" {
		return nil
	}
	text, err := json.MarshalIndent(figures, "", "  ")
	if err != nil {
		return err
	}
	return os.WriteFile(file, append(text, '\n'), 0o644)
}

// anew makes a database anew, with nothing in it but the schema.
func anew(ctx context.Context, server *postgres.Server, name string) error {
	if err := server.Drop(ctx, name); err != nil {
		return err
	}
	_, err := server.Ensure(ctx, name)
	return err
}

// house makes a database anew, with a short history in it: a house that was never
// used is not what anybody works in.
func house(ctx context.Context, server *postgres.Server, name string) (string, *sqlx.DB, error) {
	if err := anew(ctx, server, name); err != nil {
		return "", nil, err
	}
	owner, err := postgres.Open(ctx, server.URL(name))
	if err != nil {
		return "", nil, err
	}
	if err := furnish(ctx, owner); err != nil {
		return "", nil, fmt.Errorf("furnishing %s: %w", name, err)
	}
	if err := grow(ctx, owner, short); err != nil {
		return "", nil, fmt.Errorf("growing a short history: %w", err)
	}
	return name, owner, nil
}

// round times the shortest walk through 100 stops in 40 aisles with three cross
// aisles; it is the proven optimum by construction.
func round() Figure {
	r := rand.New(rand.NewPCG(1, 2))
	f := walking.Floor{Cross: []float64{0, 20, 40}}
	for i := range 40 {
		f.Aisles = append(f.Aisles, float64(4*i))
	}
	var stops []walking.Point
	for range 100 {
		stops = append(stops, walking.Point{X: f.Aisles[r.IntN(40)], Y: 1 + 38*r.Float64()})
	}
	var times []float64
	for range 15 {
		start := time.Now()
		_, _ = walking.Shortest(f, walking.Point{X: 78}, stops)
		times = append(times, float64(time.Since(start).Microseconds())/1000)
	}
	return Figure{Name: "round of 100 stops in 40 aisles", Value: median(times), Unit: "ms"}
}

// shelving times bins for a thousand put-aways of 400 items over ten thousand bins, half
// of them in use.
func shelving() Figure {
	r := rand.New(rand.NewPCG(3, 4))
	one, most := decimal.NewFromInt(1), decimal.NewFromInt(24)
	shelves := make([]slotting.Bin, 10_000)
	for i := range shelves {
		shelves[i] = slotting.Bin{Code: strconv.Itoa(i), MaxUnits: &most, MixItems: i%3 > 0, MixLots: true,
			WalkM: 100 * r.Float64(), GateM: 100 * r.Float64()}
		if i%2 == 0 {
			shelves[i].Holds = []slotting.Held{{Item: strconv.Itoa(r.IntN(400)),
				Quantity: decimal.NewFromInt(1 + r.Int64N(20)), WeightKg: one, VolumeL: one}}
		}
	}
	start := time.Now()
	plan := slotting.NewPlan(shelves)
	for range 1000 {
		_, _ = plan.Location(slotting.Goods{Item: strconv.Itoa(r.IntN(400)),
			Quantity: decimal.NewFromInt(1 + r.Int64N(60)), Whole: true, Pace: float64(r.IntN(11)) / 10})
	}
	return Figure{Name: "bins for 1,000 lines over 10,000 bins",
		Value: float64(time.Since(start).Microseconds()) / 1000, Unit: "ms", Limit: 1000, Below: true}
}

func median(v []float64) float64 {
	sort.Float64s(v)
	return v[len(v)/2]
}

// clients is how many post at once, through the API and in pgbench.
const clients = 16

// Each is measured for a spell, in turns, so that whatever else the machine does falls
// on both alike. warming is how long the API is used before.
const turns, spell, warming = 4, 5 * time.Second, 3 * time.Second

// postings compares moves posted through the API with pgbench -N on the same server.
func postings(ctx context.Context, server *postgres.Server, name string, c config.Config) ([]Figure, error) {
	pools, err := postgres.OpenPools(ctx, server.ServeURL(name))
	if err != nil {
		return nil, err
	}
	defer pools.Close()
	work, end := context.WithCancel(ctx)
	defer end()
	house := application.New(work, pools, server.ServeURL(name), c)
	go ledger.KeepSealing(work, pools.Reads)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	go func() {
		_ = house.App.Listener(l, fiber.ListenConfig{DisableStartupMessage: true, GracefulContext: work})
	}()
	if err := furnishPgbench(ctx, server); err != nil {
		return nil, err
	}
	// A house at work: every table has been written, and its statistics are as the
	// server's own housekeeping keeps them.
	if _, err := load(ctx, l.Addr().String(), warming); err != nil {
		return nil, err
	}
	if err := analyze(ctx, server.URL(name)); err != nil {
		return nil, err
	}
	var took []float64
	var tps, per float64
	for range turns {
		one, err := pgbench(ctx, server)
		if err != nil {
			return nil, err
		}
		times, err := load(ctx, l.Addr().String(), spell)
		if err != nil {
			return nil, err
		}
		tps += one / turns
		per += float64(len(times)) / spell.Seconds() / turns
		took = append(took, times...)
	}
	sort.Float64s(took)
	r, err := verify(ctx, server.URL(name))
	if err != nil {
		return nil, err
	}
	return []Figure{
		{Name: "pgbench -N, 16 clients", Value: tps, Unit: "tps"},
		{Name: "postings through the API, 16 clients", Value: per, Unit: "per second"},
		{Name: "postings against pgbench -N", Value: per / tps, Unit: "ratio", Limit: 0.4},
		{Name: "posting, 99 of 100 answered within", Value: took[len(took)*99/100], Unit: "ms"},
		{Name: "moves verified after the storm", Value: float64(r), Unit: "moves"},
	}, nil
}

func analyze(ctx context.Context, url string) error {
	db, err := postgres.Open(ctx, url)
	if err != nil {
		return err
	}
	defer db.Close()
	_, err = db.ExecContext(ctx, `VACUUM ANALYZE`)
	return err
}

func verify(ctx context.Context, url string) (int64, error) {
	db, err := postgres.Open(ctx, url)
	if err != nil {
		return 0, err
	}
	defer db.Close()
	r, err := ledger.Verify(ctx, db)
	if err == nil && r.First != nil {
		return 0, errors.New("the ledger is not whole after the storm: " + r.First.Wrong)
	}
	return r.Moves, err
}

var tpsLine = regexp.MustCompile(`tps = ([0-9.]+)`)

func furnishPgbench(ctx context.Context, server *postgres.Server) error {
	if err := anew(ctx, server, "pgbench"); err != nil {
		return err
	}
	if out, err := exec.CommandContext(ctx, server.Program("pgbench"), "-i", "-q", "-s", "10",
		server.URL("pgbench")).CombinedOutput(); err != nil {
		return fmt.Errorf("pgbench -i: %w: %s", err, out)
	}
	return nil
}

func pgbench(ctx context.Context, server *postgres.Server) (float64, error) {
	out, err := exec.CommandContext(ctx, server.Program("pgbench"), "-n", "-N", "-c", strconv.Itoa(clients), "-j",
		"2", "-T", strconv.Itoa(int(spell.Seconds())), server.URL("pgbench")).CombinedOutput()
	if err != nil {
		return 0, fmt.Errorf("pgbench: %w: %s", err, out)
	}
	m := tpsLine.FindSubmatch(out)
	if m == nil {
		return 0, fmt.Errorf("pgbench said %s", out)
	}
	return strconv.ParseFloat(string(m[1]), 64)
}

// hotReads are what people look at all day.
var hotReads = []struct {
	name string
	read func(context.Context, *sqlx.DB) error
}{
	{"trail of an item, first page", func(ctx context.Context, db *sqlx.DB) error {
		_, err := ledger.TrailOf(ctx, db, ledger.Question{Item: 7, Site: 1, Limit: 50})
		return err
	}},
	{"trail of a bin, first page", func(ctx context.Context, db *sqlx.DB) error {
		_, err := ledger.TrailOf(ctx, db, ledger.Question{Location: 100, Limit: 50})
		return err
	}},
	{"figures of an item", func(ctx context.Context, db *sqlx.DB) error {
		_, err := ledger.FiguresOf(ctx, db, 7, 1)
		return err
	}},
	{"what is in every bin", func(ctx context.Context, db *sqlx.DB) error {
		var n int
		return db.GetContext(ctx, &n, `
			SELECT count(*)
			  FROM (SELECT p.id, sum(b.quantity) FROM locations p JOIN balances b ON b.location_id = p.id
			       WHERE p.site_id = 1 GROUP BY p.id) AS t`)
	}},
	{"what is to be counted today", func(ctx context.Context, db *sqlx.DB) error {
		_, err := audit.ReadToday(ctx, db, 1, time.Now())
		return err
	}},
}

// warm and counted are how often each read is made before and while it is timed.
const warm, counted = 50, 400

// timeReads is the median time of each hot read on both histories, in milliseconds.
// The two take turns, so that whatever else the machine does falls on both alike.
func timeReads(ctx context.Context, few, many *sqlx.DB) (before, after []float64, err error) {
	for _, r := range hotReads {
		var times [2][]float64
		for n := range warm + counted {
			for i, db := range []*sqlx.DB{few, many} {
				start := time.Now()
				if err := r.read(ctx, db); err != nil {
					return nil, nil, fmt.Errorf("%s: %w", r.name, err)
				}
				if n >= warm {
					times[i] = append(times[i], float64(time.Since(start).Microseconds())/1000)
				}
			}
		}
		before, after = append(before, median(times[0])), append(after, median(times[1]))
	}
	return before, after, nil
}
