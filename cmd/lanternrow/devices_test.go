package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"lanternrow/internal/test/world"

	"github.com/jmoiron/sqlx"
)

// plenty is enough of an item to be moved unit by unit.
const plenty = `
	SELECT ledger_post('{"kind":"receive","person":1}',
	       '[{"item":1,"quantity":1000000,"from_location":1,"to_location":8}]')`

// movers are devices that move single units of plenty, each of which asks again under the same key until it is answered.
type movers struct {
	over  atomic.Bool
	asked atomic.Int64
	wg    sync.WaitGroup
}

// move has so many devices move units, at least so many each, until it is told to end. They share the servers, and wait so long
// for an answer.
func move(t *testing.T, devices, least int, patience time.Duration, bases ...string) *movers {
	t.Helper()
	m := &movers{}
	for d := range devices {
		c := world.SignOn(t, bases[d%len(bases)], "lead")
		c.HTTP.Timeout = patience
		m.wg.Go(func() {
			for i := 0; i < least || !m.over.Load(); i++ {
				m.asked.Add(1)
				if err := untilAnswered(c, fmt.Sprintf("%d-%d", d, i)); err != nil {
					t.Error(err)
					return
				}
			}
		})
	}
	return m
}

// end waits until all that was asked for is answered.
func (m *movers) end() {
	m.over.Store(true)
	m.wg.Wait()
}

// once fails the test unless each unit that was asked for was moved, by a posting of its own.
func (m *movers) once(t *testing.T, db *sqlx.DB) {
	t.Helper()
	var moved, postings int
	if err := db.QueryRow(`
		SELECT (SELECT quantity FROM balances WHERE location_id = 9)::int,
		       (SELECT count(*) FROM postings WHERE request_key <> '')`).Scan(&moved, &postings); err != nil {
		t.Fatal(err)
	}
	t.Logf("%d asked for, %d units moved by %d postings", m.asked.Load(), moved, postings)
	if moved != int(m.asked.Load()) || postings != moved {
		t.Errorf("%d asked for, %d units moved by %d postings", m.asked.Load(), moved, postings)
	}
}

// untilAnswered asks for one move until an answer comes.
func untilAnswered(c *world.Client, key string) error {
	_, err := untilDone(c, "/transfers", map[string]any{"from_id": 8, "to_id": 9, "item_id": 1, "quantity": "1"}, key)
	return err
}

// interrupted counts requests that met a dead server.
var interrupted atomic.Int64

// untilDone asks for a step under one key until it is done.
func untilDone(c *world.Client, path string, body any, key string) (out map[string]any, err error) {
	text, err := json.Marshal(body)
	if err != nil {
		return nil, err
	}
	last := ""
	for deadline := time.Now().Add(time.Minute); time.Now().Before(deadline); time.Sleep(30 * time.Millisecond) {
		r, err := http.NewRequest(http.MethodPost, c.Base+"/api/v1"+path, bytes.NewReader(text))
		if err != nil {
			return nil, err
		}
		r.Header.Set("Content-Type", "application/json")
		r.Header.Set("X-CSRF-Token", c.CSRF)
		r.Header.Set("Idempotency-Key", key)
		answer, err := c.HTTP.Do(r)
		if err != nil {
			interrupted.Add(1)
			continue
		}
		said, err := io.ReadAll(answer.Body)
		_ = answer.Body.Close()
		if last = answer.Status + " " + string(said); answer.StatusCode == http.StatusOK && err == nil {
			return out, json.Unmarshal(said, &out)
		}
		refused(said)
	}
	return nil, fmt.Errorf("%s of %s was never done; the last said %s", key, path, last)
}

// refusals counts what was refused, by code.
var refusals sync.Map

// refused counts a refusal of which the answer is this.
func refused(said []byte) {
	var p struct{ Code string }
	if json.Unmarshal(said, &p) != nil || p.Code == "" {
		p.Code = "not in words: " + strings.TrimSpace(string(said))
	}
	n, _ := refusals.LoadOrStore(p.Code, &atomic.Int64{})
	n.(*atomic.Int64).Add(1)
}
