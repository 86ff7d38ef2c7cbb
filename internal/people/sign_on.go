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

	// idle is after how long a session ends that nobody uses.
	idle time.Duration

	mu   sync.Mutex
	seen map[string]seenSession
	// noted is when it was last noted of a session that somebody is there.
	noted map[string]time.Time
}

// noting is how often it is noted that somebody is there.
const noting = time.Minute

type seenSession struct {
	Session
	until time.Time
}

// usualIdle is after how long a session ends that nobody uses, unless another time is set.
const usualIdle = 2 * time.Hour

// NewService makes a service on db, whose sessions end when nobody uses them for so long; 0 for the usual time.
func NewService(db *sqlx.DB, idle time.Duration) *Service {
	if idle <= 0 {
		idle = usualIdle
	}
	return &Service{db: db, idle: idle, hashing: make(chan struct{}, hashesAtOnce), seen: map[string]seenSession{},
		noted: map[string]time.Time{}}
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
		query: `SELECT id, name, login, roles, site_id, sites, password_hash AS hash, password_given AS given
		          FROM people WHERE login = $1 AND ended_at IS NULL`}
	byBadge = way{field: "badge", wrong: "The badge or the PIN is wrong.", badge: true,
		query: `SELECT id, name, login, roles, site_id, sites, coalesce(pin_hash, '') AS hash, pin_given AS given
		          FROM people WHERE badge = $1 AND ended_at IS NULL`}
)

// secret is what somebody signs on with.
func (w way) secret() Secret {
	if w.badge {
		return PIN
	}
	return Password
}

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
	session, err := s.begin(ctx, p)
	if err != nil {
		return Session{}, err
	}
	return session, Record(ctx, s.db, Event{Kind: SignedOnto, Person: p.ID, By: p.ID, Detail: w.secret().Words()})
}

// check compares a secret with what is kept, once an attempt at it is reserved.
func (s *Service) check(ctx context.Context, w way, subject, secret string) (Person, error) {
	if err := s.reserve(ctx, w.field, subject); err != nil {
		return Person{}, err
	}
	var row struct {
		Person
		Hash  string
		Given bool
	}
	err := s.db.GetContext(ctx, &row, w.query, subject)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return Person{}, fmt.Errorf("signing on: %w", err)
	}
	known := row.ID
	if row.Hash == "" {
		row.Hash, row.ID = nobody(), 0
	}
	fits, err := s.matches(ctx, row.Hash, secret)
	if err != nil {
		return Person{}, err
	}
	if !fits || row.ID == 0 {
		if err := Record(ctx, s.db, Event{Kind: SignOnFailed, Person: known, Detail: w.field + " " + subject}); err != nil {
			return Person{}, err
		}
		return Person{}, refusal.New(refusal.WrongSecret, w.field, "%s", w.wrong).Of(refusal.SignedOut)
	}
	if row.Given {
		row.Person.MustChange = w.secret()
	}
	return row.Person, s.forgive(ctx, w.field, subject)
}

// confirmed is how long a session that began with a badge is good for everything once the
// password was given.
const confirmed = 10 * time.Minute

// Confirm takes the password of whoever is signed on with the token, by badge: for a
// while the session is good for all that their roles may do.
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
	if err := Record(ctx, s.db, Event{Kind: PasswordConfirmed, Person: session.Person.ID, By: session.Person.ID}); err != nil {
		return session, err
	}
	s.forget(token)
	return s.Session(ctx, token)
}

func (s *Service) begin(ctx context.Context, p Person) (Session, error) {
	session := Session{Person: p, CSRF: rand.Text(), Token: rand.Text() + rand.Text()}
	_, err := s.db.ExecContext(ctx, `
		WITH old AS (DELETE FROM sessions WHERE expires_at < now() OR seen_at < now() - $6 * interval '1 second')
		INSERT INTO sessions (token_hash, person_id, csrf, badge, expires_at, address, device)
		VALUES ($1, $2, $3, $4, now() + $5 * interval '1 second', $7, $8)`,
		hashToken(session.Token), p.ID, session.CSRF, p.Badge, shift.Seconds(), s.idle.Seconds(), OriginOf(ctx).Address,
		clipped(OriginOf(ctx).Device))
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

// clipped is what is kept of what a device says that it is.
func clipped(device string) string {
	const most = 200
	if r := []rune(device); len(r) > most {
		return string(r[:most])
	}
	return device
}

// SignOff ends the session, if there is one.
func (s *Service) SignOff(ctx context.Context, token string) error {
	if token == "" {
		return nil
	}
	s.forget(token)
	var person int32
	err := s.db.GetContext(ctx, &person, `DELETE FROM sessions WHERE token_hash = $1 RETURNING person_id`, hashToken(token))
	if errors.Is(err, sql.ErrNoRows) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("ending a session: %w", err)
	}
	return Record(ctx, s.db, Event{Kind: SignedOff, Person: person, By: person})
}

// Seen notes that somebody is there: a session that nobody uses for a while ends.
func (s *Service) Seen(ctx context.Context, token string) error {
	s.mu.Lock()
	fresh := time.Since(s.noted[token]) < noting
	if !fresh {
		if len(s.noted) > 10_000 {
			clear(s.noted)
		}
		s.noted[token] = time.Now()
	}
	s.mu.Unlock()
	if fresh {
		return nil
	}
	if _, err := s.db.ExecContext(ctx, `UPDATE sessions SET seen_at = now() WHERE token_hash = $1`, hashToken(token)); err != nil {
		return fmt.Errorf("noting a session: %w", err)
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
		Must Secret
	}
	err := s.db.GetContext(ctx, &row, `
		SELECT p.id, p.name, p.login, p.roles, p.site_id, p.sites, s.csrf,
		       s.badge AND coalesce(s.confirmed_until < now(), true) AS badge,
		       CASE WHEN s.badge AND p.pin_given THEN 'pin' WHEN NOT s.badge AND p.password_given THEN 'password' ELSE '' END AS must
		  FROM sessions s JOIN people p ON p.id = s.person_id
		 WHERE s.token_hash = $1 AND s.expires_at > now() AND s.seen_at > now() - $2 * interval '1 second'
		   AND p.ended_at IS NULL`, hashToken(token), s.idle.Seconds())
	if errors.Is(err, sql.ErrNoRows) {
		return Session{}, signedOut
	}
	if err != nil {
		return Session{}, fmt.Errorf("reading a session: %w", err)
	}
	session := Session{Person: row.Person, CSRF: row.CSRF}
	session.Person.MustChange = row.Must
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
