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
	each   stepping
}

// stepping is how far a proxy lets things come that cuts again and again: the first time at the first thing that is asked,
// before and then behind it, and each time one further.
type stepping struct {
	sync.Mutex
	stride, at, asked int
	behind            bool
	cuts              int
}

// CutEach has the proxy cut at each thing that is asked from now on, or at every so many of them: dropped, and then asked
// again and its answer dropped. It begins anew now, and tells how often it has cut so far.
func (p *Proxy) CutEach(stride int) (cuts int) {
	p.each.Lock()
	defer p.each.Unlock()
	p.each.stride, p.each.at, p.each.asked, p.each.behind = stride, 1, 0, false
	return p.each.cuts
}

// next tells what becomes of something that is asked.
func (s *stepping) next(message []byte) Cut {
	s.Lock()
	defer s.Unlock()
	// How a connection begins is not what is asked on it: a length, and then passwords.
	if s.stride == 0 || message[0] == 0 || message[0] == 'p' {
		return Nothing
	}
	if s.asked++; s.asked < s.at {
		return Nothing
	}
	s.asked, s.cuts = 0, s.cuts+1
	if s.behind = !s.behind; s.behind {
		return Asking
	}
	s.at += s.stride
	return Answering
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
		var drop atomic.Bool
		go p.pass(client, server, Asking, &drop)
		go p.pass(server, client, Answering, &drop)
	}
}

// pass carries one direction, until something cuts it.
func (p *Proxy) pass(from, to net.Conn, way Cut, drop *atomic.Bool) {
	defer from.Close()
	defer to.Close()
	buffer := make([]byte, 64<<10)
	for {
		n, err := from.Read(buffer)
		if err != nil {
			return
		}
		if p.cut.CompareAndSwap(int32(way), int32(Nothing)) || way == Answering && drop.Load() {
			return
		}
		if way == Asking {
			switch p.each.next(buffer[:n]) {
			case Asking:
				return
			case Answering:
				drop.Store(true)
			}
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
