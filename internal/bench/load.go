package bench

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"sort"
	"sync"
	"time"

	"lanternrow/internal/people"

	"github.com/jmoiron/sqlx"
)

// The bench's house: items and bins enough that clients seldom meet.
const (
	items, bins = 400, 2000
	secret      = "bench"
)

func furnish(ctx context.Context, db *sqlx.DB) error {
	hash := people.Hash(secret)
	for _, statement := range []string{
		`INSERT INTO sites (code, name, cross_aisles) VALUES ('B', 'Bench House', '{0,20}')`,
		`INSERT INTO places (kind, code) VALUES ('supplier', 'SUP'), ('customer', 'CUS')`,
		fmt.Sprintf(`INSERT INTO places (site_id, kind, code, x, y) SELECT 1, 'bin', 'X-' || n, 4 * (n / 40), n %% 20 FROM generate_series(1, %d) AS n`, bins),
		`INSERT INTO places (site_id, kind, code) VALUES (1, 'staging', 'Gate')`,
		fmt.Sprintf(`INSERT INTO items (sku, description) SELECT 'I-' || n, 'Item ' || n FROM generate_series(1, %d) AS n`, items),
		`INSERT INTO people (name, login, role, password_hash, site_id) SELECT 'Bench ' || n, 'bench' || n, 'lead', '` + hash + `', 1 FROM generate_series(1, 16) AS n`,
		// Every item lies in five bins.
		fmt.Sprintf(`SELECT ledger_post('{"kind":"book in","person":1}', (SELECT jsonb_agg(jsonb_build_object('item', 1 + n %% %d, 'quantity', 100000, 'from_place', 1, 'to_place', 2 + n)) FROM generate_series(1, %d) AS n))`, items, bins),
		`ANALYZE`,
	} {
		if _, err := db.ExecContext(ctx, statement); err != nil {
			return fmt.Errorf("%.50s: %w", statement, err)
		}
	}
	return nil
}

// grow moves stock about, a thousand moves a posting, until the history is so long.
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
			// Each posting moves units between 200 bins and 200 others that hold the
			// same items, to and fro.
			from, to := 0, items
			if n/1000%2 == 1 {
				from, to = items, 0
			}
			_, err := db.ExecContext(ctx, `SELECT ledger_post('{"kind":"move","person":1}', (
				SELECT jsonb_agg(jsonb_build_object('item', 1 + b % $1::int, 'quantity', 1, 'from_place', 2 + b + $2::int, 'to_place', 2 + b + $3::int))
				  FROM (SELECT 1 + n % 200 AS b FROM generate_series(1, 1000) AS n) AS t))`, items, from, to)
			if err != nil {
				return err
			}
		}
	}
	_, err := db.ExecContext(ctx, `VACUUM ANALYZE`)
	return err
}

// load lets clients move stock through the API for a spell, and returns how many
// were posted a second, and how long 99 of 100 took, in milliseconds.
func load(ctx context.Context, base string) (perSecond, p99 float64, err error) {
	var (
		wg    sync.WaitGroup
		mu    sync.Mutex
		took  []float64
		first error
	)
	stop := time.Now().Add(spell)
	start := time.Now()
	for i := range clients {
		wg.Go(func() {
			mine, err := client(ctx, base, i, stop)
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
		return 0, 0, fmt.Errorf("posting: %w", first)
	}
	sort.Float64s(took)
	return float64(len(took)) / time.Since(start).Seconds(), took[len(took)*99/100], nil
}

func client(ctx context.Context, base string, n int, stop time.Time) (took []float64, err error) {
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar, Transport: &http.Transport{MaxIdleConnsPerHost: 1}}
	csrf := ""
	post := func(path string, body any, key string) ([]byte, error) {
		text, err := json.Marshal(body)
		if err != nil {
			return nil, err
		}
		r, err := http.NewRequestWithContext(ctx, http.MethodPost, base+"/api/v1"+path, bytes.NewReader(text))
		if err != nil {
			return nil, err
		}
		r.Header.Set("Content-Type", "application/json")
		r.Header.Set("X-CSRF-Token", csrf)
		r.Header.Set("Idempotency-Key", key)
		response, err := c.Do(r)
		if err != nil {
			return nil, err
		}
		defer response.Body.Close()
		answer, err := io.ReadAll(response.Body)
		if err == nil && response.StatusCode != http.StatusOK {
			err = fmt.Errorf("%s answered %d: %s", path, response.StatusCode, answer)
		}
		return answer, err
	}
	answer, err := post("/session", map[string]string{"login": fmt.Sprintf("bench%d", n+1), "password": secret}, "")
	if err != nil {
		return nil, err
	}
	var session struct{ CSRF string }
	if err := json.Unmarshal(answer, &session); err != nil {
		return nil, err
	}
	csrf = session.CSRF
	r := rand.New(rand.NewPCG(uint64(n), 16))
	for i := 0; time.Now().Before(stop); i++ {
		bin := 1 + r.IntN(bins)
		begun := time.Now()
		_, err := post("/transfers", map[string]any{
			"from_id": 2 + bin, "to_id": 2 + 1 + (bin+items-1)%bins, "item_id": 1 + bin%items, "quantity": "1"}, fmt.Sprintf("%d-%d", n, i))
		if err != nil {
			return took, err
		}
		took = append(took, float64(time.Since(begun).Microseconds())/1000)
	}
	return took, nil
}
