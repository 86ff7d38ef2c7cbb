// Package live tells every open browser that something changed, over PostgreSQL's
// LISTEN and NOTIFY, so that any number of server processes can stand side by side.
package live

import (
	"context"
	"log/slog"
	"sort"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jmoiron/sqlx"
)

const channel = "lanternrow"

// pause gathers changes before they are told: a NOTIFY holds a lock over the whole
// database while its transaction commits, so commands do not carry one of their own.
const pause = 120 * time.Millisecond

// A Hub gathers what changed here, tells the database, and hands what the database
// tells to everybody who listens here.
type Hub struct {
	db  *sqlx.DB
	url string

	mu        sync.Mutex
	dirty     map[string]bool
	listeners map[chan string]bool
}

// NewHub makes a hub that notifies over db and listens on a connection to url.
func NewHub(db *sqlx.DB, url string) *Hub {
	return &Hub{db: db, url: url, dirty: map[string]bool{}, listeners: map[chan string]bool{}}
}

// Touch says that these topics changed. It returns at once.
func (h *Hub) Touch(topics ...string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, t := range topics {
		h.dirty[t] = true
	}
}

// Subscribe returns a channel of changed topics, joined by commas, and the function
// that ends it. "everything" comes when changes may have been missed.
func (h *Hub) Subscribe() (<-chan string, func()) {
	c := make(chan string, 16)
	h.mu.Lock()
	h.listeners[c] = true
	h.mu.Unlock()
	return c, func() {
		h.mu.Lock()
		delete(h.listeners, c)
		h.mu.Unlock()
	}
}

// Run works until the context ends.
func (h *Hub) Run(ctx context.Context) {
	go h.tell(ctx)
	for ctx.Err() == nil {
		if err := h.listen(ctx); err != nil && ctx.Err() == nil {
			slog.Warn("live changes are interrupted", "error", err)
			sleep(ctx, time.Second)
		}
	}
}

func (h *Hub) tell(ctx context.Context) {
	for sleep(ctx, pause) {
		h.mu.Lock()
		topics := make([]string, 0, len(h.dirty))
		for t := range h.dirty {
			topics = append(topics, t)
		}
		clear(h.dirty)
		h.mu.Unlock()
		if len(topics) == 0 {
			continue
		}
		sort.Strings(topics)
		if _, err := h.db.ExecContext(ctx, `SELECT pg_notify($1, $2)`, channel, strings.Join(topics, ",")); err != nil && ctx.Err() == nil {
			h.Touch(topics...)
		}
	}
}

func (h *Hub) listen(ctx context.Context) error {
	conn, err := pgx.Connect(ctx, h.url)
	if err != nil {
		return err
	}
	defer conn.Close(context.Background())
	if _, err := conn.Exec(ctx, "LISTEN "+channel); err != nil {
		return err
	}
	h.hand("everything")
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		h.hand(n.Payload)
	}
}

func (h *Hub) hand(topics string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for c := range h.listeners {
		select {
		case c <- topics:
		default:
			// A listener that fell behind is told to look at everything again.
			for len(c) > 0 {
				<-c
			}
			c <- "everything"
		}
	}
}

func sleep(ctx context.Context, d time.Duration) bool {
	select {
	case <-ctx.Done():
		return false
	case <-time.After(d):
		return true
	}
}
