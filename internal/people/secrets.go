package people

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/refusal"

	"github.com/jmoiron/sqlx"
)

// A Secret is what somebody signs on with.
type Secret string

// The secrets there are.
const (
	Password Secret = "password"
	PIN      Secret = "pin"
)

// Words are what people call it.
func (s Secret) Words() string {
	if s == PIN {
		return "PIN"
	}
	return string(s)
}

// How long a secret is: a password of at least 10 characters (NIST SP 800-63B-4 asks for 8 beside a limit of attempts, and
// for no mixture of kinds), a PIN of 4 to 12 digits.
const (
	leastPassword, mostPassword = 10, 200
	leastPIN, mostPIN           = 4, 12
)

// Check refuses a secret of whoever signs on as login that is guessed too easily.
func (s Secret) Check(field, text, login string) error {
	if s == PIN {
		return checkPIN(field, text)
	}
	return checkPassword(field, text, login)
}

// Give gives a person a secret that they change at its first use. Who gives it is by; 0 from the console.
func (s Secret) Give(ctx context.Context, q sqlx.ExecerContext, person, by int32, text string) error {
	return s.set(ctx, q, Event{Person: person, By: by, Detail: "to be changed at first use"}, text, true)
}

// set writes a secret, and keeps that it was.
func (s Secret) set(ctx context.Context, q sqlx.ExecerContext, e Event, text string, given bool) error {
	e.Kind = PasswordSet
	query := `UPDATE people SET password_hash = $2, password_given = $3, version = version + 1 WHERE id = $1`
	if s == PIN {
		e.Kind = PINSet
		query = `UPDATE people SET pin_hash = $2, pin_given = $3, version = version + 1 WHERE id = $1`
	}
	if _, err := q.ExecContext(ctx, query, e.Person, Hash(text), given); err != nil {
		return fmt.Errorf("setting a %s: %w", s.Words(), err)
	}
	return Record(ctx, q, e)
}

// checkPassword refuses one that is short, or that the sign-on name tells.
func checkPassword(field, password, login string) error {
	n := len([]rune(password))
	switch {
	case n < leastPassword || n > mostPassword:
		return refusal.New(refusal.SecretWeak, field, "A password has %d to %d characters, and this has %d. Words with spaces between them "+
			"do well.", leastPassword, mostPassword, n)
	case strings.Count(password, password[:1]) == len(password):
		return refusal.New(refusal.SecretWeak, field, "This is one character over and over. Take words that nobody would guess.")
	case login != "" && strings.Contains(strings.ToLower(password), strings.ToLower(login)):
		return refusal.New(refusal.SecretWeak, field, "It has the sign-on name %s in it. Take words that nobody would guess.", login)
	}
	return nil
}

// checkPIN refuses one digit over and over, and digits in a row.
func checkPIN(field, pin string) error {
	if len(pin) < leastPIN || len(pin) > mostPIN || strings.Trim(pin, "0123456789") != "" {
		return refusal.New(refusal.SecretWeak, field, "A PIN is %d to %d digits.", leastPIN, mostPIN)
	}
	same, up, down := true, true, true
	for i := 1; i < len(pin); i++ {
		step := int(pin[i]) - int(pin[i-1])
		same, up, down = same && step == 0, up && step == 1, down && step == -1
	}
	if same || up || down {
		return refusal.New(refusal.SecretWeak, field, "%s is among the first that anybody tries. Take other digits.", pin)
	}
	return nil
}

// NewSecret is one's own password or PIN, and what it is to be from now on.
type NewSecret struct {
	What  Secret `json:"what" enum:"password,pin"`
	Old   string `json:"old" maxLength:"200"`
	Fresh string `json:"fresh" maxLength:"200"`
}

func (n NewSecret) check(login string) error {
	if n.Fresh == n.Old {
		return refusal.New(refusal.SecretWeak, "fresh", "This is the %s that there is. Choose another.", n.What.Words())
	}
	return n.What.Check("fresh", n.Fresh, login)
}

// ChangeSecret changes the password or PIN of whoever is signed on with the token, who knows the old one. Their other
// sessions end.
func (s *Service) ChangeSecret(ctx context.Context, token string, in NewSecret) (Session, error) {
	session, err := s.Session(ctx, token)
	if err != nil {
		return session, err
	}
	if err := in.check(session.Person.Login); err != nil {
		return session, err
	}
	w, subject, me := byPassword, session.Person.Login, session.Person.ID
	if in.What == PIN {
		w = byBadge
		if err := s.db.GetContext(ctx, &subject, `SELECT coalesce(badge, '') FROM people WHERE id = $1`, me); err != nil {
			return session, fmt.Errorf("reading a badge: %w", err)
		}
	}
	w.field, w.wrong = "old", "The "+in.What.Words()+" that you have now is wrong."
	if _, err := s.check(ctx, w, subject, in.Old); err != nil {
		if r := refusal.From(err); r != nil && r.Kind == refusal.SignedOut {
			r.Kind = refusal.Forbidden
		}
		return session, err
	}
	if err := in.What.set(ctx, s.db, Event{Person: me, By: me}, in.Fresh, false); err != nil {
		return session, err
	}
	if _, err := s.db.ExecContext(ctx, `DELETE FROM sessions WHERE person_id = $1 AND token_hash <> $2`,
		me, hashToken(token)); err != nil {
		return session, fmt.Errorf("ending other sessions: %w", err)
	}
	s.forget(token)
	return s.Session(ctx, token)
}
