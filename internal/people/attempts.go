package people

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/refusal"
)

// How many attempts to sign on there may be within the window: at one login or badge, and
// from one address. One that succeeds is not counted.
const (
	triesBySubject = 8
	triesByAddress = 60
	window         = 10 * time.Minute
)

// hashesAtOnce is how many secrets are hashed at the same time; hashWait is how long
// others wait for their turn.
const (
	hashesAtOnce = 2
	hashWait     = 8 * time.Second
)

// reserve counts an attempt before anything is compared, so that any number of guesses at
// once come to no more than may be made one after another.
func (s *Service) reserve(ctx context.Context, field, subject string) error {
	for _, c := range []struct {
		what string
		most int
	}{{field + " " + subject, triesBySubject}, {"from " + OriginOf(ctx).Address, triesByAddress}} {
		var got struct {
			Tried int
			Until time.Time
		}
		err := s.db.GetContext(ctx, &got, `
			INSERT INTO sign_on_attempts AS a (subject, since, tried) VALUES ($1, now(), 1)
			ON CONFLICT (subject) DO UPDATE
			   SET tried = CASE WHEN a.since < now() - $2 * interval '1 second' THEN 1 ELSE a.tried + 1 END,
			       since = CASE WHEN a.since < now() - $2 * interval '1 second' THEN now() ELSE a.since END
			RETURNING tried, since + $2 * interval '1 second' AS until`, c.what, window.Seconds())
		if err != nil {
			return fmt.Errorf("counting attempts to sign on: %w", err)
		}
		if got.Tried > c.most {
			// Once, and not for each of however many guesses more.
			if got.Tried == c.most+1 {
				if err := Record(ctx, s.db, Event{Kind: SignOnBarred, Detail: c.what}); err != nil {
					return err
				}
			}
			return refusal.New(refusal.TooManyAttempts, field,
				"%d wrong attempts within %d minutes are the most. Wait until %s UTC, or ask a lead.",
				c.most, int(window.Minutes()), got.Until.UTC().Format("15:04")).Of(refusal.TooMany).With("until", got.Until.UTC().Format(time.RFC3339))
		}
	}
	return nil
}

// forgive forgets the attempts at a subject that succeeded in the end, and the one that
// its address was counted for.
func (s *Service) forgive(ctx context.Context, field, subject string) error {
	_, err := s.db.ExecContext(ctx, `
		WITH own AS (DELETE FROM sign_on_attempts WHERE subject = $1),
		     old AS (DELETE FROM sign_on_attempts WHERE since < now() - $3 * interval '1 second'
		     AND subject NOT IN ($1, $2))
		UPDATE sign_on_attempts SET tried = tried - 1 WHERE subject = $2`,
		field+" "+subject, "from "+OriginOf(ctx).Address, window.Seconds())
	if err != nil {
		return fmt.Errorf("counting attempts to sign on: %w", err)
	}
	return nil
}

// matches compares a secret with its stored form when it is its turn.
func (s *Service) matches(ctx context.Context, hash, secret string) (bool, error) {
	ctx, cancel := context.WithTimeout(ctx, hashWait)
	defer cancel()
	select {
	case s.hashing <- struct{}{}:
		defer func() { <-s.hashing }()
		return matches(hash, secret), nil
	case <-ctx.Done():
		return false, refusal.New(refusal.HouseBusy, "",
			"Many people are signing on this moment. Try again in a few seconds.").Of(refusal.Unavailable)
	}
}
