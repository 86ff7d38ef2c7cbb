// Package live tells every open browser that something changed, over PostgreSQL's
// LISTEN and NOTIFY, so that any number of server processes can stand side by side.
package live

import (
	"context"
	"fmt"
	"log/slog"
	"maps"
	"slices"
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

// Everything is the topic that is told when changes may have been missed.
const Everything = "everything"

// A Hub gathers what changed here, tells the database, and hands what the database
// tells to everybody who listens here.
type Hub struct {
	db  *sqlx.DB
	url string

	// dirty is guarded by a lock of its own: no listener can keep a command waiting.
	dirtyMu sync.Mutex
	dirty   topicSet

	mu        sync.Mutex
	listeners map[*Listener]bool
}

// At is a topic at one site: whoever looks at another need not ask anew.
func At(topic string, site int32) string { return fmt.Sprintf("%s@%d", topic, site) }

// topicSet is a set of topics.
type topicSet map[string]bool

// sorted lists the topics in alphabetical order.
func (s topicSet) sorted() []string { return slices.Sorted(maps.Keys(s)) }

// NewHub makes a hub that notifies over db and listens on a connection to url.
func NewHub(db *sqlx.DB, url string) *Hub {
	return &Hub{db: db, url: url, dirty: topicSet{}, listeners: map[*Listener]bool{}}
}

// Notify says that these topics changed. It returns at once.
func (h *Hub) Notify(topics ...string) {
	h.dirtyMu.Lock()
	defer h.dirtyMu.Unlock()
	for _, t := range topics {
		h.dirty[t] = true
	}
}

// A Listener gathers the topics that changed since it was last asked. However slow its
// reader is, it holds each topic once and keeps nobody waiting.
type Listener struct {
	hub  *Hub
	wake chan struct{}

	mu      sync.Mutex
	pending topicSet
}

// Listening is how many listen now.
func (h *Hub) Listening() int {
	h.mu.Lock()
	defer h.mu.Unlock()
	return len(h.listeners)
}

// Subscribe returns a listener. Its holder calls Close when done.
func (h *Hub) Subscribe() *Listener {
	l := &Listener{hub: h, wake: make(chan struct{}, 1), pending: topicSet{}}
	h.mu.Lock()
	h.listeners[l] = true
	h.mu.Unlock()
	return l
}

// Close ends the listener: nothing is told to it any more.
func (l *Listener) Close() {
	l.hub.mu.Lock()
	delete(l.hub.listeners, l)
	l.hub.mu.Unlock()
}

// Changed receives when there is something to Take.
func (l *Listener) Changed() <-chan struct{} { return l.wake }

// Take returns the topics that changed since the last call, joined by commas and each
// once; Everything stands for all of them. It is empty when nothing changed.
func (l *Listener) Take() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	topics := l.pending
	l.pending = topicSet{}
	if topics[Everything] {
		return Everything
	}
	return strings.Join(topics.sorted(), ",")
}

// tell adds topics and wakes the reader. It never waits.
func (l *Listener) tell(topics []string) {
	l.mu.Lock()
	for _, t := range topics {
		l.pending[t] = true
	}
	l.mu.Unlock()
	select {
	case l.wake <- struct{}{}:
	default:
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
		h.dirtyMu.Lock()
		topics := h.dirty.sorted()
		clear(h.dirty)
		h.dirtyMu.Unlock()
		if len(topics) == 0 {
			continue
		}
		if _, err := h.db.ExecContext(ctx, `SELECT pg_notify($1, $2)`, channel,
			strings.Join(topics, ",")); err != nil && ctx.Err() == nil {
			h.Notify(topics...)
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
	h.hand([]string{Everything})
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		h.hand(strings.Split(n.Payload, ","))
	}
}

func (h *Hub) hand(topics []string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for l := range h.listeners {
		l.tell(topics)
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
