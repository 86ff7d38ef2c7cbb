// Package staff is where leads say who works here: in which roles, at which sites, with which badge; and who sees who signed
// on. Signing on itself is in package people.
package staff

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/documents"
	"lanternrow/internal/people"

	"github.com/jmoiron/sqlx"
)

// A Member is somebody who works here, or did.
type Member struct {
	ID      int32        `db:"id" json:"id"`
	Name    string       `db:"name" json:"name"`
	Login   string       `db:"login" json:"login"`
	Roles   people.Roles `db:"roles" json:"roles" nullable:"false" enum:"lead,receiver,picker,office,accounts,viewer"`
	SiteID  int32        `db:"site_id" json:"site_id" doc:"The site that they work at, and look at first"`
	Site    string       `db:"site" json:"site"`
	Sites   people.Sites `db:"sites" json:"sites" nullable:"false" doc:"The sites that they may act at; all where none is named"`
	ActsAt  string       `db:"acts_at" json:"acts_at" doc:"The names of those sites; empty for all"`
	Badge   string       `db:"badge" json:"badge" doc:"What their badge says; empty for none"`
	HasPIN  bool         `db:"has_pin" json:"has_pin"`
	MayPass bool         `db:"may_pass" json:"has_password"`
	// Given is what somebody else gave and is changed at its first use.
	PasswordGiven bool       `db:"password_given" json:"password_given"`
	PINGiven      bool       `db:"pin_given" json:"pin_given"`
	EndedAt       *time.Time `db:"ended_at" json:"ended_at" doc:"When they left"`
	Sessions      int        `db:"sessions" json:"sessions" doc:"At how many devices they are signed on now"`
	SeenAt        *time.Time `db:"seen_at" json:"seen_at" doc:"When they signed on last"`
	Version       int32      `db:"version" json:"version"`
}

const memberColumns = `
	SELECT p.id, p.name, p.login, p.roles, p.site_id, s.name AS site, p.sites,
	       coalesce((SELECT string_agg(x.name, ', ' ORDER BY x.name) FROM sites x WHERE x.id = ANY(p.sites)), '') AS acts_at,
	       coalesce(p.badge, '') AS badge, p.pin_hash IS NOT NULL AS has_pin, p.password_hash <> '' AS may_pass, p.password_given, p.pin_given,
	       p.ended_at, (SELECT count(*) FROM sessions n WHERE n.person_id = p.id AND n.expires_at > now()) AS sessions,
	       (SELECT max(at) FROM access_events e WHERE e.person_id = p.id AND e.kind = 'signed_on') AS seen_at, p.version
	  FROM people p JOIN sites s ON s.id = p.site_id `

// list reads who works here, and who did.
func list(ctx context.Context, q sqlx.QueryerContext) ([]Member, error) {
	out := []Member{}
	if err := sqlx.SelectContext(ctx, q, &out, memberColumns+`ORDER BY p.ended_at IS NOT NULL, lower(p.name), p.id`); err != nil {
		return nil, fmt.Errorf("listing people: %w", err)
	}
	return out, nil
}

// byID reads somebody.
func byID(ctx context.Context, q sqlx.QueryerContext, id int32) (m Member, err error) {
	err = sqlx.GetContext(ctx, q, &m, memberColumns+`WHERE p.id = $1`, id)
	return m, documents.Found(err, "person", fmt.Sprint(id))
}

// A Session is somebody signed on at one device.
type Session struct {
	ID       int64     `db:"id" json:"id"`
	PersonID int32     `db:"person_id" json:"person_id"`
	Person   string    `db:"person" json:"person"`
	Badge    bool      `db:"badge" json:"badge" doc:"Signed on with a badge and a PIN"`
	Address  string    `db:"address" json:"address"`
	Device   string    `db:"device" json:"device" doc:"What the browser says that it is"`
	Since    time.Time `db:"created_at" json:"since"`
	SeenAt   time.Time `db:"seen_at" json:"seen_at" doc:"When it was used last, to the minute"`
	Until    time.Time `db:"expires_at" json:"until"`
}

// sessions reads who is signed on now; somebody's alone, or everybody's for 0.
func sessions(ctx context.Context, q sqlx.QueryerContext, person int32) ([]Session, error) {
	out := []Session{}
	if err := sqlx.SelectContext(ctx, q, &out, `
		SELECT s.id, s.person_id, p.name AS person, s.badge, s.address, s.device, s.created_at, s.seen_at, s.expires_at
		  FROM sessions s JOIN people p ON p.id = s.person_id
		 WHERE s.expires_at > now() AND ($1 = 0 OR s.person_id = $1) ORDER BY s.seen_at DESC, s.id`, person); err != nil {
		return nil, fmt.Errorf("listing sessions: %w", err)
	}
	return out, nil
}

// An Event is what happened to somebody's access.
type Event struct {
	ID      int64            `db:"id" json:"id"`
	At      time.Time        `db:"at" json:"at"`
	Kind    people.EventKind `db:"kind" json:"kind" enum:"signed_on,sign_on_failed,sign_on_barred,password_confirmed,signed_off,session_ended,person_added,person_changed,person_ended,person_returned,password_set,pin_set,badge_printed,stand_in_told"`
	Person  string           `db:"person" json:"person"`
	By      string           `db:"by" json:"by"`
	Address string           `db:"address" json:"address"`
	Detail  string           `db:"detail" json:"detail"`
	documents.Sorted
}

// events are what happened, over a person (0 for all) and letters of what it is about.
var events = documents.List[Event]{
	Query: `
		SELECT e.id, e.at, e.kind, coalesce(p.name, '') AS person, coalesce(b.name, '') AS by, e.address, e.detail
		  FROM access_events e LEFT JOIN people p ON p.id = e.person_id LEFT JOIN people b ON b.id = e.by_id
		 WHERE ($1 = 0 OR $1 IN (e.person_id, e.by_id))
		   AND ($2 = '' OR concat_ws(' ', replace(e.kind, '_', ' '), p.name, b.name, e.address, e.detail) ILIKE '%' || $2 || '%')`,
	Keys: map[string]documents.SortKey{
		"at":     {Expr: "o.id::numeric", Type: "numeric"},
		"kind":   {Expr: "o.kind", Type: "text"},
		"person": {Expr: "lower(o.person)", Type: "text"},
	},
	Header: []string{"at", "kind", "person", "by", "address", "detail"},
	Text: func(e Event) []string {
		return []string{e.At.UTC().Format(time.RFC3339), string(e.Kind), e.Person, e.By, e.Address, e.Detail}
	},
}
