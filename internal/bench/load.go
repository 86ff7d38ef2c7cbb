package bench

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"sync"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/people"

	"github.com/jmoiron/sqlx"
	"github.com/valyala/fasthttp"
)

// The bench's house: items and bins enough that clients seldom meet.
const (
	items, bins = 400, 2000
	// lots is how many of the items are known by a lot, each by one.
	lots   = 40
	secret = "bench"
)

func furnish(ctx context.Context, db *sqlx.DB) error {
	hash := people.Hash(secret)
	for _, statement := range []string{
		`INSERT INTO sites (code, name, cross_aisles) VALUES ('B', 'Bench House', '{0,20}')`,
		`INSERT INTO locations (kind, code) VALUES ('supplier', 'SUP'), ('customer', 'CUS')`,
		fmt.Sprintf(`
			INSERT INTO locations (site_id, kind, code, x, y) SELECT 1, 'bin', 'X-' || n, 4 * (n / 40), n %% 20
			  FROM generate_series(1, %d) AS n`, bins),
		`INSERT INTO locations (site_id, kind, code) VALUES (1, 'staging', 'Gate'), (1, 'bench', 'Pack bench')`,
		fmt.Sprintf(`
			INSERT INTO items (sku, description, tracking) SELECT 'I-' || n, 'Item ' || n, CASE WHEN n <= %d THEN 'lot' ELSE 'none' END
			  FROM generate_series(1, %d) AS n`, lots, items),
		fmt.Sprintf(`INSERT INTO lots (item_id, code, arrived_on) SELECT n, 'L-' || n, current_date FROM generate_series(1, %d) AS n`, lots),
		`
			INSERT INTO people (name, login, roles, password_hash, site_id) SELECT 'Bench ' || n, 'bench' ||
			n, '{lead}', '` + hash + `', 1 FROM generate_series(1, 16) AS n`,
		// Every item lies in five bins.
		fmt.Sprintf(`
			SELECT ledger_post('{"kind":"receive","person":1}',
			       (SELECT jsonb_agg(jsonb_build_object('item', 1 + n %% %[1]d, 'quantity', 100000, 'from_location', 1,
			       'to_location', 2 + n) || CASE WHEN 1 + n %% %[1]d <= %[2]d THEN jsonb_build_object('lot', 1 + n %% %[1]d) ELSE '{}' END)
			          FROM generate_series(1, %[3]d) AS n))`, items, lots, bins),
		`ANALYZE`,
	} {
		if _, err := db.ExecContext(ctx, statement); err != nil {
			return fmt.Errorf("%.50s: %w", statement, err)
		}
	}
	return nil
}

// grow moves stock about, ten moves a posting, until the history is so long.
func grow(ctx context.Context, db *sqlx.DB, moves int) error {
	for {
		var have int
		if err := db.GetContext(ctx, &have, `SELECT count(*) FROM moves`); err != nil {
			return err
		}
		if have >= moves {
			break
		}
		if _, err := db.ExecContext(ctx, `VACUUM balances`); err != nil {
			return err
		}
		for n := 0; n < min(moves-have, 50_000); n += 1000 {
			if _, err := ledger.Snapshot(ctx, db, 5_000, 0); err != nil {
				return err
			}
			// Units go between 200 bins and 200 others that hold the same items, to
			// and fro.
			from, to := 0, items
			if n/1000%2 == 1 {
				from, to = items, 0
			}
			_, err := db.ExecContext(ctx, `SELECT ledger_post('{"kind":"move","person":1}', (
				SELECT jsonb_agg(jsonb_build_object('item', 1 + b % $1::int, 'quantity', 1, 'from_location',
				       2 + b + $2::int, 'to_location', 2 + b + $3::int)
				       || CASE WHEN 1 + b % $1::int <= $4::int THEN jsonb_build_object('lot', 1 + b % $1::int) ELSE '{}' END)
				  FROM (SELECT 1 + (10 * g + n) % 200 AS b FROM generate_series(1, 10) AS n) AS t))
				    FROM generate_series(0, 99) AS g`, items, from, to, lots)
			if err != nil {
				return err
			}
		}
	}
	_, err := db.ExecContext(ctx, `VACUUM ANALYZE`)
	return err
}

// load lets clients move stock through the API for a spell, and returns how long each
// posting took, in milliseconds.
func load(ctx context.Context, host string, spell time.Duration) ([]float64, error) {
	var (
		wg    sync.WaitGroup
		mu    sync.Mutex
		took  []float64
		first error
	)
	devices := make([]*device, clients)
	for i := range clients {
		wg.Go(func() {
			d, err := signOn(host, i)
			mu.Lock()
			defer mu.Unlock()
			if devices[i] = d; err != nil && first == nil {
				first = err
			}
		})
	}
	wg.Wait()
	if first != nil {
		return nil, fmt.Errorf("signing on: %w", first)
	}
	// Signing on is slow by design, and no part of what is measured.
	start := time.Now()
	for _, d := range devices {
		wg.Go(func() {
			mine, err := d.move(ctx, start, start.Add(spell))
			mu.Lock()
			defer mu.Unlock()
			took = append(took, mine...)
			if err != nil && first == nil {
				first = err
			}
		})
	}
	wg.Wait()
	if first != nil || len(took) == 0 {
		return nil, fmt.Errorf("posting: %w", first)
	}
	return took, nil
}

// device is one that somebody works at: a light one, as pgbench's clients are, so that what
// is measured is the server.
type device struct {
	n            int
	host         string
	client       *fasthttp.HostClient
	csrf, cookie string
}

// signOn signs the n-th person on at a device.
func signOn(host string, n int) (*device, error) {
	d := &device{n: n, host: host, client: &fasthttp.HostClient{Addr: host, MaxConns: 1}}
	answer, err := d.post("/session", map[string]string{"login": fmt.Sprintf("bench%d", n+1), "password": secret}, "")
	if err != nil {
		return nil, err
	}
	var session struct{ CSRF string }
	if err := json.Unmarshal(answer, &session); err != nil {
		return nil, err
	}
	d.csrf = session.CSRF
	return d, nil
}

func (d *device) post(path string, body any, key string) ([]byte, error) {
	text, err := json.Marshal(body)
	if err != nil {
		return nil, err
	}
	request, response := fasthttp.AcquireRequest(), fasthttp.AcquireResponse()
	defer fasthttp.ReleaseRequest(request)
	defer fasthttp.ReleaseResponse(response)
	request.SetRequestURI("http://" + d.host + "/api/v1" + path)
	request.Header.SetMethod(fasthttp.MethodPost)
	request.Header.SetContentType("application/json")
	request.Header.Set("X-CSRF-Token", d.csrf)
	request.Header.Set("Idempotency-Key", key)
	request.Header.Set("Cookie", d.cookie)
	request.SetBody(text)
	if err := d.client.Do(request, response); err != nil {
		return nil, err
	}
	if response.StatusCode() != fasthttp.StatusOK {
		return nil, fmt.Errorf("%s answered %d: %s", path, response.StatusCode(), response.Body())
	}
	if set := string(response.Header.Peek("Set-Cookie")); set != "" {
		d.cookie, _, _ = strings.Cut(set, ";")
	}
	return bytes.Clone(response.Body()), nil
}

// move moves stock between bins until the time is over, and says how long each took, in
// milliseconds.
func (d *device) move(ctx context.Context, start, stop time.Time) (took []float64, err error) {
	r := rand.New(rand.NewPCG(uint64(d.n), 16))
	for i := 0; time.Now().Before(stop) && ctx.Err() == nil; i++ {
		bin := 1 + r.IntN(bins)
		item := 1 + bin%items
		body := map[string]any{"from_id": 2 + bin, "to_id": 2 + 1 + (bin+items-1)%bins, "item_id": item, "quantity": "1"}
		if item <= lots {
			body["lot_id"] = item
		}
		begun := time.Now()
		_, err := d.post("/transfers", body, fmt.Sprintf("%d-%d-%d", d.n, start.UnixNano(), i))
		if err != nil {
			return took, err
		}
		took = append(took, float64(time.Since(begun).Microseconds())/1000)
	}
	return took, ctx.Err()
}
