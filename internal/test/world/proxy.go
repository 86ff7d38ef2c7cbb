package world

import (
	"context"
	"net"
	"net/url"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"lanternrow/internal/platform/postgres"

	"github.com/jmoiron/sqlx"
)

// A Cut is what a Proxy does with the next thing that passes it.
type Cut int32

// What a Proxy cuts.
const (
	// Nothing passes everything on.
	Nothing Cut = iota
	// Asking drops what is asked next: the server never sees it.
	Asking
	// Answering passes on what is asked next, waits until the server has dealt with it,
	// and drops the answer.
	Answering
	// Everything closes each connection as it comes.
	Everything
)

// A Proxy stands between the application and its database, and cuts their connection at
// the worst moment.
type Proxy struct {
	cut    atomic.Int32
	target string
	listen net.Listener
	conns  sync.Map
}

// Arm says what is cut next.
func (p *Proxy) Arm(c Cut) {
	p.cut.Store(int32(c))
	if c == Everything {
		p.conns.Range(func(c, _ any) bool { _ = c.(net.Conn).Close(); return true })
	}
}

// Proxied opens a database's application pool of one connection through a proxy.
func Proxied(t testing.TB, d Database) (*Proxy, *sqlx.DB) {
	t.Helper()
	u, err := url.Parse(d.ServeURL)
	if err != nil {
		t.Fatal(err)
	}
	p := &Proxy{target: u.Host}
	if p.listen, err = net.Listen("tcp", "127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	go p.accept()
	u.Host = p.listen.Addr().String()
	db, err := postgres.OpenApp(context.Background(), u.String())
	if err != nil {
		t.Fatal(err)
	}
	db.SetMaxOpenConns(1)
	t.Cleanup(func() { _ = db.Close(); _ = p.listen.Close() })
	return p, db
}

func (p *Proxy) accept() {
	for {
		client, err := p.listen.Accept()
		if err != nil {
			return
		}
		if Cut(p.cut.Load()) == Everything {
			_ = client.Close()
			continue
		}
		server, err := net.Dial("tcp", p.target)
		if err != nil {
			_ = client.Close()
			continue
		}
		p.conns.Store(client, true)
		go p.pass(client, server, Asking)
		go p.pass(server, client, Answering)
	}
}

// pass carries one direction, until something cuts it.
func (p *Proxy) pass(from, to net.Conn, way Cut) {
	defer from.Close()
	defer to.Close()
	buffer := make([]byte, 64<<10)
	for {
		n, err := from.Read(buffer)
		if err != nil {
			return
		}
		if p.cut.CompareAndSwap(int32(way), int32(Nothing)) {
			return
		}
		if _, err := to.Write(buffer[:n]); err != nil {
			return
		}
	}
}

// Settled waits until no transaction of the database is under way.
func (d Database) Settled(t testing.TB) {
	t.Helper()
	for deadline := time.Now().Add(20 * time.Second); time.Now().Before(deadline); time.Sleep(10 * time.Millisecond) {
		var n int
		if err := d.Owner.Get(&n, `SELECT count(*) FROM pg_stat_activity
			WHERE datname = current_database() AND pid <> pg_backend_pid() AND xact_start IS NOT NULL`); err != nil {
			t.Fatal(err)
		}
		if n == 0 {
			return
		}
	}
	t.Fatal("a transaction does not end")
}
