// Package postgres starts a private PostgreSQL server on loopback and opens
// databases.
package postgres

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"syscall"
	"time"
)

// Owner is the role that owns the private server's databases.
const Owner = "lanternrow"

// A Server is a private cluster: its own data, port, socket and password.
type Server struct {
	// State holds the port and the password.
	state string
	// data is the cluster itself, which the server's user must be able to enter.
	data string
	bin  string
	port int
	// pass is the owner's password, servePass that of the login that serves.
	pass, servePass string
	// started is true when this process started it and so must stop it.
	started bool
}

// Start makes the cluster under dir if there is none, and starts it if it is not
// running.
func Start(ctx context.Context, dir string) (*Server, error) {
	bin, err := Binaries()
	if err != nil {
		return nil, err
	}
	s := &Server{state: dir, data: filepath.Join(dir, "postgres"), bin: bin}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("making %s: %w", dir, err)
	}
	if os.Geteuid() == 0 && !enterable(dir) {
		s.data = besideTheSystem(dir)
	}
	if err := s.prepare(ctx); err != nil {
		return nil, err
	}
	if s.servePass, err = s.servePassword(); err != nil {
		return nil, fmt.Errorf("reading the password of the login that serves: %w", err)
	}
	if s.ready(ctx) {
		return s, nil
	}
	return s, s.start(ctx)
}

// besideTheSystem is where the data lies where dir cannot be: the server refuses root and runs as its own user, who
// cannot reach that folder. Nothing ages it away there. What an earlier release put into /var/tmp stays where it is.
func besideTheSystem(dir string) string {
	sum := sha256.Sum256([]byte(dir))
	name := "lanternrow-" + hex.EncodeToString(sum[:6])
	if old := filepath.Join("/var/tmp", name); exists(filepath.Join(old, "PG_VERSION")) {
		return old
	}
	return filepath.Join("/var/lib", name)
}

func exists(path string) bool {
	_, err := os.Stat(path)
	return err == nil
}

// Binaries finds PostgreSQL's programs, of the newest version installed.
func Binaries() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/initdb")
	sort.Slice(found, func(i, j int) bool { return major(found[i]) < major(found[j]) })
	if len(found) > 0 {
		return filepath.Dir(found[len(found)-1]), nil
	}
	if path, err := exec.LookPath("initdb"); err == nil {
		return filepath.Dir(path), nil
	}
	return "", errors.New("PostgreSQL is not installed: run scripts/setup.sh, or apt-get install postgresql")
}

func major(path string) int {
	n, _ := strconv.Atoi(strings.Split(path, "/")[4])
	return n
}

// enterable tells whether every folder on the way to dir lets others in.
func enterable(dir string) bool {
	for d := filepath.Dir(dir); ; d = filepath.Dir(d) {
		info, err := os.Stat(d)
		if err != nil || info.Mode().Perm()&0o001 == 0 {
			return false
		}
		if d == "/" {
			return true
		}
	}
}

func (s *Server) prepare(ctx context.Context) error {
	portFile, passFile := filepath.Join(s.state, "postgres.port"), filepath.Join(s.state, "postgres.password")
	if _, err := os.Stat(filepath.Join(s.data, "PG_VERSION")); err == nil {
		port, err1 := os.ReadFile(portFile)
		pass, err2 := os.ReadFile(passFile)
		if err := errors.Join(err1, err2); err != nil {
			return fmt.Errorf("the database in %s cannot be opened without the files that hold its port and password. "+
				"Nothing was changed: put them back into %s: %w", s.data, s.state, err)
		}
		s.port, _ = strconv.Atoi(strings.TrimSpace(string(port)))
		s.pass = strings.TrimSpace(string(pass))
		return nil
	}
	s.pass = rand.Text()
	port, err := freePort()
	if err != nil {
		return err
	}
	s.port = port
	if err := os.WriteFile(passFile, []byte(s.pass), 0o600); err != nil {
		return err
	}
	if err := os.WriteFile(portFile, []byte(strconv.Itoa(port)), 0o600); err != nil {
		return err
	}
	return s.init(ctx)
}

func (s *Server) init(ctx context.Context) error {
	if err := os.MkdirAll(s.data, 0o700); err != nil {
		return err
	}
	if os.Geteuid() == 0 {
		uid, gid, err := serverUser()
		if err != nil {
			return err
		}
		if err := os.Chown(s.data, uid, gid); err != nil {
			return err
		}
	}
	pw, err := os.CreateTemp("/tmp", "lanternrow-pw")
	if err != nil {
		return err
	}
	defer os.Remove(pw.Name())
	if _, err := pw.WriteString(s.pass + "\n"); err != nil {
		return err
	}
	_ = pw.Close()
	if os.Geteuid() == 0 {
		uid, gid, _ := serverUser()
		if err := os.Chown(pw.Name(), uid, gid); err != nil {
			return err
		}
	}
	return s.Run(ctx, "initdb", "-N", "-D", s.data, "-U", Owner, "--pwfile="+pw.Name(), "-A", "scram-sha-256", "-E",
		"UTF8", "--locale=C.UTF-8")
}

func (s *Server) start(ctx context.Context) error {
	options := fmt.Sprintf("-c listen_addresses=127.0.0.1 -c port=%d -c unix_socket_directories='' -c "+
		"max_connections=200 -c max_locks_per_transaction=256 -c shared_buffers=256MB -c max_wal_size=2GB", s.port)
	log := filepath.Join(s.data, "server.log")
	// A server that was killed leaves its helpers and its memory behind for a moment,
	// and a new one will not start beside them.
	for patience := time.Now().Add(wait); ; time.Sleep(time.Second / 2) {
		err := s.Run(ctx, "pg_ctl", "-D", s.data, "-l", log, "-o", options, "-w", "-t", "60", "start")
		if err == nil {
			break
		}
		if ctx.Err() != nil || time.Now().After(patience) {
			return fmt.Errorf("starting PostgreSQL (its log is %s): %w", log, err)
		}
	}
	s.started = true
	return nil
}

// Stop ends the server if this process started it.
func (s *Server) Stop() error {
	if !s.started {
		return nil
	}
	return s.Run(context.Background(), "pg_ctl", "-D", s.data, "-m", "fast", "-w", "stop")
}

// Stop ends the private server whose state lies under dir, whoever started it.
func Stop(ctx context.Context, dir string) error {
	if _, err := os.Stat(filepath.Join(dir, "postgres.port")); err != nil {
		return nil
	}
	s, err := Start(ctx, dir)
	if err != nil {
		return err
	}
	s.started = true
	return s.Stop()
}

// DataDir is where the cluster lies.
func (s *Server) DataDir() string { return s.data }

// URL is the connection string of a database, as its owner.
func (s *Server) URL(database string) string {
	return fmt.Sprintf("postgres://%s:%s@127.0.0.1:%d/%s?sslmode=disable", Owner, s.pass, s.port, database)
}

// ready asks the server itself: a killed postmaster can stay behind as a zombie
// that still looks alive by its process number.
func (s *Server) ready(ctx context.Context) bool {
	return exec.CommandContext(ctx, filepath.Join(s.bin, "pg_isready"), "-q", "-h", "127.0.0.1", "-p",
		strconv.Itoa(s.port)).Run() == nil
}

// Run runs one of PostgreSQL's own programs to its end, as the server's own user when we are
// root.
func (s *Server) Run(ctx context.Context, program string, args ...string) error {
	cmd := exec.CommandContext(ctx, filepath.Join(s.bin, program), args...)
	cmd.Dir = "/"
	// A child of its own session: Ctrl+C at the terminal must reach us first.
	cmd.SysProcAttr = &syscall.SysProcAttr{Setsid: true}
	if os.Geteuid() == 0 {
		uid, gid, err := serverUser()
		if err != nil {
			return err
		}
		cmd.SysProcAttr.Credential = &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}
	}
	// The output goes to a file, since the server would hold a pipe open.
	out, err := os.CreateTemp("/tmp", "lanternrow-"+program)
	if err != nil {
		return err
	}
	defer os.Remove(out.Name())
	defer out.Close()
	cmd.Stdout, cmd.Stderr = out, out
	if err := cmd.Run(); err != nil {
		said, _ := os.ReadFile(out.Name())
		return fmt.Errorf("%s: %w: %s", program, err, strings.TrimSpace(string(said)))
	}
	return nil
}

func serverUser() (uid, gid int, err error) {
	u, err := user.Lookup("postgres")
	if err != nil {
		return 0, 0, fmt.Errorf("PostgreSQL will not run as root, and there is no user postgres: %w", err)
	}
	uid, _ = strconv.Atoi(u.Uid)
	gid, _ = strconv.Atoi(u.Gid)
	return uid, gid, nil
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, fmt.Errorf("finding a free port: %w", err)
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// wait is how long a server may take to let us in before it is given up.
const wait = 10 * time.Second

// Program is the path of one of PostgreSQL's own programs.
func (s *Server) Program(name string) string { return filepath.Join(s.bin, name) }
