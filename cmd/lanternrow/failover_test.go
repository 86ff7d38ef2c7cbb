package main

import (
	"context"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/test/world"
)

// freeAddress is one on loopback that nobody listens at.
func freeAddress(t *testing.T) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	return l.Addr().String()
}

// standby starts a server that follows another, which from then on acknowledges nothing that the standby does not have. It
// returns where it is, and where its data lies.
func standby(t *testing.T, server *postgres.Server) (address, data string) {
	t.Helper()
	ctx := context.Background()
	dir := enterable(t, 0o777)
	data, address = filepath.Join(dir, "data"), freeAddress(t)
	_, port, _ := strings.Cut(address, ":")
	run := func(program string, args ...string) {
		t.Helper()
		if err := server.Run(ctx, program, args...); err != nil {
			t.Fatal(err)
		}
	}
	run("pg_basebackup", "-D", data, "-R", "-X", "stream", "-c", "fast", "-d", server.URL("postgres"))
	run("pg_ctl", "-D", data, "-l", filepath.Join(data, "server.log"), "-w", "-o",
		"-c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_connections=200 -c max_locks_per_transaction=256 -c port="+port, "start")
	t.Cleanup(func() { run("pg_ctl", "-D", data, "-m", "immediate", "stop") })
	owner, err := postgres.Open(ctx, server.URL(databaseName))
	if err != nil {
		t.Fatal(err)
	}
	defer owner.Close()
	owner.MustExec(`ALTER SYSTEM SET synchronous_standby_names = '*'`)
	owner.MustExec(`SELECT pg_reload_conf()`)
	for deadline := time.Now().Add(20 * time.Second); ; time.Sleep(50 * time.Millisecond) {
		var follows bool
		if err := owner.Get(&follows, `SELECT EXISTS (SELECT FROM pg_stat_replication WHERE sync_state = 'sync')`); err != nil {
			t.Fatal(err)
		}
		if follows {
			return address, data
		}
		if time.Now().After(deadline) {
			t.Fatal("the standby does not follow")
		}
	}
}

// TestAStandbyTakesOverAndNothingIsLostOrDoubled has twenty devices move units at two servers that know of both databases,
// while the primary is killed and its synchronous standby promoted: all that was acknowledged is there, once, and the ledger
// is whole. The servers serve by the serving login alone.
func TestAStandbyTakesOverAndNothingIsLostOrDoubled(t *testing.T) {
	h, server := furnished(t, plenty)
	h.kill(false)
	second, data := standby(t, server)
	first := server.ServeURL(databaseName)
	host := strings.Split(strings.Split(first, "@")[1], "/")[0]
	hosts := strings.Replace(first, host, host+","+second, 1)
	both := hosts + "&target_session_attrs=read-write"
	var bases [2]string
	for i := range bases {
		address := freeAddress(t)
		cmd := exec.Command(os.Args[0], "serve")
		cmd.Env = append(os.Environ(), "TEST_AS_MAIN=1", "LANTERNROW_RUN="+h.run, "LANTERNROW_ADDRESS="+address, "DATABASE_URL=",
			"LANTERNROW_SERVE_URL="+both, "LANTERNROW_REPORTS_URL="+hosts+"&target_session_attrs=prefer-standby")
		other := &house{t: t, run: h.run, address: address, server: cmd}
		other.await()
		t.Cleanup(func() { other.kill(false) })
		bases[i] = "http://" + address
	}
	// What is read in bulk is read at the standby.
	clerk := world.SignOn(t, bases[0], "office")
	stock := string(clerk.Get("/stock/export?site=1").Body)
	atStandby, err := postgres.Open(context.Background(), strings.Replace(server.URL(databaseName), host, second, 1))
	if err != nil {
		t.Fatal(err)
	}
	defer atStandby.Close()
	var readers int
	if err := atStandby.Get(&readers, `
		SELECT count(*) FROM pg_stat_activity WHERE usename = $1 AND query LIKE '%balances%'`, postgres.ServeLogin); err != nil || readers == 0 {
		t.Errorf("the standby was not asked for %q: %v", stock, err)
	}
	if state := world.SignOn(t, bases[0], "lead").Get("/house").JSON(); state["reports"] != "standby" {
		t.Errorf("reports are read %v", state["reports"])
	}
	m := move(t, 20, 20, 5*time.Second, bases[:]...)
	time.Sleep(300 * time.Millisecond)
	interrupted.Store(0)
	pid, err := os.ReadFile(filepath.Join(server.DataDir(), "postmaster.pid"))
	if err != nil {
		t.Fatal(err)
	}
	n, err := strconv.Atoi(strings.Fields(string(pid))[0])
	if err != nil {
		t.Fatal(err)
	}
	killed := time.Now()
	_ = syscall.Kill(n, syscall.SIGKILL)
	if err := server.Run(context.Background(), "pg_ctl", "-D", data, "-w", "promote"); err != nil {
		t.Fatal(err)
	}
	m.end()
	t.Logf("all was done %.1f s after the primary was killed", time.Since(killed).Seconds())

	db := atStandby
	if now := string(clerk.Get("/stock/export?site=1").Body); now == stock || strings.Count(now, "\n") <= strings.Count(stock, "\n") {
		t.Errorf("stock was told as %q, and is as %q", stock, now)
	}
	r, err := ledger.Verify(context.Background(), db)
	if err != nil || r.First != nil {
		t.Fatalf("after the failover: %+v, %v", r.First, err)
	}
	m.once(t, db)
	var before, later int
	if err := db.QueryRow(`
		SELECT count(*) FILTER (WHERE entered_at < $1), count(*) FILTER (WHERE entered_at >= $1) FROM postings WHERE request_key <> ''`,
		killed).Scan(&before, &later); err != nil {
		t.Fatal(err)
	}
	if before == 0 || later == 0 {
		t.Errorf("%d were moved before the primary was killed, and %d later", before, later)
	}
}
