package bench

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/station/pick"
)

// waveHouse furnishes a house with 20,000 bins and 1,000 orders.
var waveHouse = []string{
	`INSERT INTO sites (code, name, cross_aisles) VALUES ('W', 'Wave House', '{0,50,100}')`,
	`INSERT INTO locations (kind, code) VALUES ('supplier', 'SUP'), ('customer', 'CUS')`,
	`
			INSERT INTO locations (site_id, kind, code, x, y) VALUES (1, 'bench', 'Bench', 100, 0),
			  (1, 'staging', 'Gate', 120, 0), (1, 'trolley', 'Trolleys', 100, 0)`,
	`INSERT INTO aisles SELECT 1, 'A' || n, 4 * n FROM generate_series(0, 49) AS n`,
	`
			INSERT INTO locations (site_id, kind, code, x, y)
			SELECT 1, 'bin', to_char(n / 400, 'FM00') || '-' || to_char(n % 400, 'FM000'), 4 * (n / 400),
			  0.5 + (n % 400) / 4 * 0.99 FROM generate_series(0, 19999) AS n`,
	`
			INSERT INTO items (sku, description, weight_kg, volume_l) SELECT 'I-' || n, 'Item ' || n, 1, 2
			  FROM generate_series(1, 4000) AS n`,
	`
			INSERT INTO parties (kind, code, name, location_id) VALUES ('supplier', 'SUP', 'Supplier', 1),
			  ('customer', 'CUS', 'Customer', 2)`,
	`INSERT INTO people (name, login, roles, password_hash, site_id) VALUES ('Bench', 'bench', '{lead}', '', 1)`,
	// Every item lies in five bins, far from each other.
	`
			SELECT ledger_post('{"kind":"receive","person":1}',
			       (SELECT jsonb_agg(jsonb_build_object('item', 1 + n % 4000, 'quantity', 50, 'from_location', 1,
			       'to_location', (SELECT min(id) FROM locations WHERE kind = 'bin') + n))
			FROM generate_series(1000 * k, 1000 * k + 999) AS n)) FROM generate_series(0, 19) AS k`,
	`
			INSERT INTO outbound_orders (number, kind, party_id, destination_id, site_id, wanted_on, state,
			  changed_by, changed_at, last_change) SELECT 'S-' || n, 'sale', 2,
			  (SELECT location_id FROM parties WHERE id = 2), 1, current_date, 'released', 1, now(), ''
			  FROM generate_series(1, 1000) AS n`,
	`
			INSERT INTO outbound_lines (order_id, line, item_id, quantity)
			SELECT o, l, 1 + (o * 7919 + l * 104729 + (o * l * 31) % 997) % 4000, 1 + (o + l) % 4
			  FROM generate_series(1, 1000) AS o, generate_series(1, 5) AS l`,
	`ANALYZE`,
}

// waves times a wave of a thousand orders with five thousand lines over twenty thousand
// bins, from the database to rounds in walking order, and what it saves against the same
// orders one by one.
func waves(ctx context.Context, server *postgres.Server) ([]Figure, error) {
	if err := anew(ctx, server, "bench_waves"); err != nil {
		return nil, err
	}
	db, err := postgres.Open(ctx, server.URL("bench_waves"))
	if err != nil {
		return nil, err
	}
	defer db.Close()
	for _, statement := range waveHouse {
		if _, err := db.ExecContext(ctx, statement); err != nil {
			return nil, fmt.Errorf("%.50s: %w", statement, err)
		}
	}
	wish := pick.WaveWish{Wish: pick.Wish{SiteID: 1}, MaxCartons: 8}
	for o := range int64(1000) {
		wish.OrderIDs = append(wish.OrderIDs, o+1)
	}
	var w *pick.Wave
	planned, err := thrice(func() (err error) {
		w, err = pick.PlanWave(ctx, db, wish, time.Now())
		return err
	})
	if err != nil {
		return nil, err
	}
	half := wish
	half.OrderIDs = wish.OrderIDs[:500]
	fewer, err := thrice(func() error {
		_, err := pick.PlanWave(ctx, db, half, time.Now())
		return err
	})
	if err != nil {
		return nil, err
	}
	opened, err := thrice(func() error {
		_, err := pick.OpenAt(ctx, db, 1, pick.OpenFilter{}, time.Now())
		return err
	})
	if err != nil {
		return nil, err
	}
	return []Figure{
		{Name: "what waits for a round, 1,000 orders", Value: opened, Unit: "ms", Limit: 1000, Below: true},
		{Name: "wave of 500 orders, 2,500 lines", Value: fewer, Unit: "ms", Limit: 3000, Below: true},
		{Name: "wave of 1,000 orders, 5,000 lines, 20,000 bins", Value: planned, Unit: "ms", Limit: 3000, Below: true},
		{Name: "its rounds", Value: float64(len(w.Rounds)), Unit: "rounds"},
		{Name: "its walk", Value: w.Metres, Unit: "m"},
		{Name: "the same orders one by one", Value: w.SingleMetres, Unit: "m"},
		{Name: "walk saved by the wave", Value: 100 * (1 - w.Metres/w.SingleMetres), Unit: "per cent", Limit: 30},
	}, nil
}

// thrice is how long something takes in the middle of three times, in milliseconds.
func thrice(do func() error) (float64, error) {
	var times []float64
	for range 3 {
		start := time.Now()
		if err := do(); err != nil {
			return 0, err
		}
		times = append(times, float64(time.Since(start).Microseconds())/1000)
	}
	return median(times), nil
}
