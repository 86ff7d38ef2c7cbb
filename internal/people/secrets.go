package people

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/refusal"
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

// CheckPassword refuses a password that is guessed too easily: one that is short, or that the sign-on name tells.
func CheckPassword(field, password, login string) error {
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

// CheckPIN refuses a PIN that is guessed too easily: one digit over and over, or digits in a row.
func CheckPIN(field, pin string) error {
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
	if n.What == PIN {
		return CheckPIN("fresh", n.Fresh)
	}
	return CheckPassword("fresh", n.Fresh, login)
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
	w, subject, kind := byPassword, session.Person.Login, PasswordSet
	query := `UPDATE people SET password_hash = $2, password_given = false, version = version + 1 WHERE id = $1`
	if in.What == PIN {
		w, kind = byBadge, PINSet
		query = `UPDATE people SET pin_hash = $2, pin_given = false, version = version + 1 WHERE id = $1`
		if err := s.db.GetContext(ctx, &subject, `SELECT coalesce(badge, '') FROM people WHERE id = $1`, session.Person.ID); err != nil {
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
	if _, err := s.db.ExecContext(ctx, query, session.Person.ID, Hash(in.Fresh)); err != nil {
		return session, fmt.Errorf("changing a %s: %w", in.What.Words(), err)
	}
	if _, err := s.db.ExecContext(ctx, `DELETE FROM sessions WHERE person_id = $1 AND token_hash <> $2`,
		session.Person.ID, hashToken(token)); err != nil {
		return session, fmt.Errorf("ending other sessions: %w", err)
	}
	s.forget(token)
	if err := Record(ctx, s.db, Event{Kind: kind, Person: session.Person.ID, By: session.Person.ID}); err != nil {
		return session, err
	}
	return s.Session(ctx, token)
}
