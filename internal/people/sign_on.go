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

// A Service signs people on and off.
type Service struct {
	db *sqlx.DB
	// hashing holds a slot for each secret that is hashed at once: each takes 19 MiB.
	hashing chan struct{}

	mu   sync.Mutex
	seen map[string]seenSession
}

type seenSession struct {
	Session
	until time.Time
}

// NewService makes a service on db.
func NewService(db *sqlx.DB) *Service {
	return &Service{db: db, hashing: make(chan struct{}, hashesAtOnce), seen: map[string]seenSession{}}
}

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
	return fmt.Sprintf("$argon2id$v=19$m=%d,t=%d,p=%d$%s$%s", memory, passes, lanes, enc.EncodeToString(salt),
		enc.EncodeToString(key))
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

// A way is how somebody signs on.
type way struct {
	field, query, wrong string
	badge               bool
}

var (
	byPassword = way{field: "login", wrong: "The name or the password is wrong.",
		query: `SELECT id, name, login, role, site_id, sites, password_hash AS hash FROM people WHERE login = $1`}
	byBadge = way{field: "badge", wrong: "The badge or the PIN is wrong.", badge: true,
		query: `SELECT id, name, login, role, site_id, sites, coalesce(pin_hash, '') AS hash FROM people WHERE badge = $1`}
)

// SignOn checks a login and its password.
func (s *Service) SignOn(ctx context.Context, login, password string) (Session, error) {
	return s.signOn(ctx, byPassword, strings.ToLower(strings.TrimSpace(login)), password)
}

// SignOnBadge checks a badge and its PIN, which are good for the floor's work.
func (s *Service) SignOnBadge(ctx context.Context, badge, pin string) (Session, error) {
	return s.signOn(ctx, byBadge, strings.ToUpper(strings.TrimSpace(badge)), pin)
}

func (s *Service) signOn(ctx context.Context, w way, subject, secret string) (Session, error) {
	p, err := s.check(ctx, w, subject, secret)
	if err != nil {
		return Session{}, err
	}
	p.Badge = w.badge
	return s.begin(ctx, p)
}

// check compares a secret with what is kept, once an attempt at it is reserved.
func (s *Service) check(ctx context.Context, w way, subject, secret string) (Person, error) {
	if err := s.reserve(ctx, w.field, subject); err != nil {
		return Person{}, err
	}
	var row struct {
		Person
		Hash string
	}
	err := s.db.GetContext(ctx, &row, w.query, subject)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return Person{}, fmt.Errorf("signing on: %w", err)
	}
	if row.Hash == "" {
		row.Hash, row.ID = nobody(), 0
	}
	fits, err := s.matches(ctx, row.Hash, secret)
	if err != nil {
		return Person{}, err
	}
	if !fits || row.ID == 0 {
		return Person{}, refusal.New(refusal.WrongSecret, w.field, "%s", w.wrong).Of(refusal.SignedOut)
	}
	return row.Person, s.forgive(ctx, w.field, subject)
}

// confirmed is how long a session that began with a badge is good for everything once the
// password was given.
const confirmed = 10 * time.Minute

// Confirm takes the password of whoever is signed on with the token, by badge: for a
// while the session is good for all that the role may do.
func (s *Service) Confirm(ctx context.Context, token, password string) (Session, error) {
	session, err := s.Session(ctx, token)
	if err != nil {
		return session, err
	}
	w := byPassword
	w.field, w.wrong = "password", "The password is wrong."
	if _, err := s.check(ctx, w, session.Person.Login, password); err != nil {
		if r := refusal.From(err); r != nil && r.Kind == refusal.SignedOut {
			r.Kind = refusal.Forbidden
		}
		return session, err
	}
	if _, err := s.db.ExecContext(ctx, `
		UPDATE sessions SET confirmed_until = now() + $2 * interval '1 second' WHERE token_hash = $1`,
		hashToken(token), confirmed.Seconds()); err != nil {
		return session, fmt.Errorf("confirming a session: %w", err)
	}
	s.forget(token)
	return s.Session(ctx, token)
}

func (s *Service) begin(ctx context.Context, p Person) (Session, error) {
	session := Session{Person: p, CSRF: rand.Text(), Token: rand.Text() + rand.Text()}
	_, err := s.db.ExecContext(ctx, `
		WITH old AS (DELETE FROM sessions WHERE expires_at < now())
		INSERT INTO sessions (token_hash, person_id, csrf, badge, expires_at)
		VALUES ($1, $2, $3, $4, now() + $5 * interval '1 second')`,
		hashToken(session.Token), p.ID, session.CSRF, p.Badge, shift.Seconds())
	if err != nil {
		return Session{}, fmt.Errorf("beginning a session: %w", err)
	}
	return session, nil
}

// forget asks the database anew for a session.
func (s *Service) forget(token string) {
	s.mu.Lock()
	delete(s.seen, token)
	s.mu.Unlock()
}

// SignOff ends the session.
func (s *Service) SignOff(ctx context.Context, token string) error {
	s.forget(token)
	if _, err := s.db.ExecContext(ctx, `DELETE FROM sessions WHERE token_hash = $1`, hashToken(token)); err != nil {
		return fmt.Errorf("ending a session: %w", err)
	}
	return nil
}

// Session finds who is signed on with the token.
func (s *Service) Session(ctx context.Context, token string) (Session, error) {
	signedOut := refusal.New(refusal.NotSignedOn, "",
		"Your session has ended. Sign on again; what you typed is still there.").Of(refusal.SignedOut)
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
		SELECT p.id, p.name, p.login, p.role, p.site_id, p.sites, s.csrf, s.badge
		   AND coalesce(s.confirmed_until < now(), true) AS badge
		  FROM sessions s JOIN people p ON p.id = s.person_id
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
