package people

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
)

// An EventKind is what happened to somebody's access.
type EventKind string

// The kinds there are.
const (
	SignedOnto        EventKind = "signed_on"
	SignOnFailed      EventKind = "sign_on_failed"
	SignOnBarred      EventKind = "sign_on_barred"
	PasswordConfirmed EventKind = "password_confirmed"
	SignedOff         EventKind = "signed_off"
	SessionEnded      EventKind = "session_ended"
	PersonAdded       EventKind = "person_added"
	PersonChanged     EventKind = "person_changed"
	PersonEnded       EventKind = "person_ended"
	PersonReturned    EventKind = "person_returned"
	PasswordSet       EventKind = "password_set"
	PINSet            EventKind = "pin_set"
	BadgePrinted      EventKind = "badge_printed"
	StandInTold       EventKind = "stand_in_told"
)

// An Event is kept for good. Person is whom it is about, and By who did it: 0 where nobody is known, or where it was done
// from the console.
type Event struct {
	Kind       EventKind
	Person, By int32
	Detail     string
}

// Record keeps an event, with where the request came from.
func Record(ctx context.Context, q sqlx.ExecerContext, e Event) error {
	if _, err := q.ExecContext(ctx, `
		INSERT INTO access_events (kind, person_id, by_id, address, detail) VALUES ($1, nullif($2, 0), nullif($3, 0), $4, $5)`,
		e.Kind, e.Person, e.By, OriginOf(ctx).Address, e.Detail); err != nil {
		return fmt.Errorf("keeping an access event: %w", err)
	}
	return nil
}
