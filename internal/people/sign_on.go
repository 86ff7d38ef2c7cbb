package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"database/sql"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"

	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
	"golang.org/x/crypto/argon2"
)

// A Session is somebody signed on at one device.
type Session struct {
	Person Person
	CSRF   string
	// Token goes into the cookie; it is set only when the session is made.
	Token string
}

// shift is how long a session lasts.
const shift = 14 * time.Hour

// remembered is how long a session is taken from memory before the database is
// asked again; signing off elsewhere takes effect within it.
const remembered = 5 * time.Second

// Failures allowed for one login or badge within the window.
const (
	failures = 8
	window   = 10 * time.Minute
)

// A Service signs people on and off.
type Service struct {
	db *sqlx.DB

	mu   sync.Mutex
	seen map[string]seenSession
}

type seenSession struct {
	Session
	until time.Time
}

// NewService makes a service on db.
func NewService(db *sqlx.DB) *Service { return &Service{db: db, seen: map[string]seenSession{}} }

// argon2id's settings: 19 MiB, two passes, one lane (OWASP's password storage advice).
const (
	memory, passes, lanes, keyLength = 19 * 1024, 2, 1, 32
)

// Hash makes the stored form of a password or PIN.
func Hash(secret string) string {
	salt := make([]byte, 16)
	_, _ = rand.Read(salt)
	key := argon2.IDKey([]byte(secret), salt, passes, memory, lanes, keyLength)
	enc := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=19$m=%d,t=%d,p=%d$%s$%s", memory, passes, lanes, enc.EncodeToString(salt), enc.EncodeToString(key))
}

func matches(hash, secret string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil {
		return false
	}
	return subtle.ConstantTimeCompare(want, argon2.IDKey([]byte(secret), salt, passes, memory, lanes, keyLength)) == 1
}

// nobody is compared with when there is no such login, so that the answer takes as
// long as a wrong password does.
var nobody = sync.OnceValue(func() string { return Hash("nobody") })

// SignOn checks a login and its password.
func (s *Service) SignOn(ctx context.Context, login, password string) (Session, error) {
	return s.signOn(ctx, "login", strings.ToLower(strings.TrimSpace(login)), password,
		"SELECT id, name, login, role, site_id, password_hash AS hash FROM people WHERE login = $1", "The name or the password is wrong.")
}

// SignOnBadge checks a badge and its PIN.
func (s *Service) SignOnBadge(ctx context.Context, badge, pin string) (Session, error) {
	return s.signOn(ctx, "badge", strings.ToUpper(strings.TrimSpace(badge)), pin,
		"SELECT id, name, login, role, site_id, coalesce(pin_hash, '') AS hash FROM people WHERE badge = $1", "The badge or the PIN is wrong.")
}

func (s *Service) signOn(ctx context.Context, field, subject, secret, query, wrong string) (Session, error) {
	var failed int
	if err := s.db.GetContext(ctx, &failed, `SELECT count(*) FROM sign_on_failures WHERE subject = $1 AND at > now() - $2 * interval '1 second'`,
		subject, window.Seconds()); err != nil {
		return Session{}, fmt.Errorf("signing on: %w", err)
	}
	if failed >= failures {
		return Session{}, refusal.New("too_many_attempts", field, "%d wrong attempts within %d minutes. Wait a little, or ask a lead.", failed, int(window.Minutes())).Of(refusal.TooMany)
	}
	var row struct {
		Person
		Hash string
	}
	err := s.db.GetContext(ctx, &row, query, subject)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return Session{}, fmt.Errorf("signing on: %w", err)
	}
	if row.Hash == "" {
		row.Hash = nobody()
		row.ID = 0
	}
	if !matches(row.Hash, secret) || row.ID == 0 {
		if _, err := s.db.ExecContext(ctx, `INSERT INTO sign_on_failures (subject) VALUES ($1)`, subject); err != nil {
			return Session{}, fmt.Errorf("noting a wrong sign-on: %w", err)
		}
		return Session{}, refusal.New("wrong_secret", field, "%s", wrong).Of(refusal.SignedOut)
	}
	return s.begin(ctx, row.Person)
}

func (s *Service) begin(ctx context.Context, p Person) (Session, error) {
	session := Session{Person: p, CSRF: rand.Text(), Token: rand.Text() + rand.Text()}
	_, err := s.db.ExecContext(ctx, `
		WITH old AS (DELETE FROM sessions WHERE expires_at < now())
		INSERT INTO sessions (token_hash, person_id, csrf, expires_at) VALUES ($1, $2, $3, now() + $4 * interval '1 second')`,
		hashToken(session.Token), p.ID, session.CSRF, shift.Seconds())
	if err != nil {
		return Session{}, fmt.Errorf("beginning a session: %w", err)
	}
	return session, nil
}

// SignOff ends the session.
func (s *Service) SignOff(ctx context.Context, token string) error {
	s.mu.Lock()
	delete(s.seen, token)
	s.mu.Unlock()
	if _, err := s.db.ExecContext(ctx, `DELETE FROM sessions WHERE token_hash = $1`, hashToken(token)); err != nil {
		return fmt.Errorf("ending a session: %w", err)
	}
	return nil
}

// Session finds who is signed on with the token.
func (s *Service) Session(ctx context.Context, token string) (Session, error) {
	signedOut := refusal.New("signed_out", "", "Your session has ended. Sign on again; what you typed is still there.").Of(refusal.SignedOut)
	if token == "" {
		return Session{}, signedOut
	}
	s.mu.Lock()
	seen, ok := s.seen[token]
	s.mu.Unlock()
	if ok && time.Now().Before(seen.until) {
		return seen.Session, nil
	}
	var row struct {
		Person
		CSRF string
	}
	err := s.db.GetContext(ctx, &row, `
		SELECT p.id, p.name, p.login, p.role, p.site_id, s.csrf FROM sessions s JOIN people p ON p.id = s.person_id
		 WHERE s.token_hash = $1 AND s.expires_at > now()`, hashToken(token))
	if errors.Is(err, sql.ErrNoRows) {
		return Session{}, signedOut
	}
	if err != nil {
		return Session{}, fmt.Errorf("reading a session: %w", err)
	}
	session := Session{Person: row.Person, CSRF: row.CSRF}
	s.mu.Lock()
	if len(s.seen) > 10_000 {
		clear(s.seen)
	}
	s.seen[token] = seenSession{session, time.Now().Add(remembered)}
	s.mu.Unlock()
	return session, nil
}

func hashToken(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}
