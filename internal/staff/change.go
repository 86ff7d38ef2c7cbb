package staff

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"
)

// Wish is who somebody is to be.
type Wish struct {
	Version int32        `json:"version,omitempty" doc:"Of whom is changed"`
	Name    string       `json:"name" maxLength:"80"`
	Login   string       `json:"login" maxLength:"60"`
	Roles   people.Roles `json:"roles" minItems:"1" maxItems:"20" nullable:"false" enum:"lead,receiver,picker,office,accounts,viewer"`
	SiteID  int32        `json:"site_id"`
	Sites   []int32      `json:"sites" maxItems:"500" nullable:"false" doc:"The sites that they may act at; all where none is named"`
	Badge   string       `json:"badge,omitempty" maxLength:"40" doc:"What their badge says; without, they have none"`
}

// Newcomer is a Wish with what its person signs on with at first.
type Newcomer struct {
	Wish
	Password string `json:"password,omitempty" maxLength:"200" doc:"Changed at its first use"`
	PIN      string `json:"pin,omitempty" maxLength:"20" doc:"Of the badge; changed at its first use"`

	// chose tells that the person chose the password themselves.
	chose bool
}

// read makes the wish one form, and refuses what cannot be.
func (w *Wish) read(ctx context.Context, q sqlx.QueryerContext, by people.Person) error {
	w.Name, w.Login = strings.Join(strings.Fields(w.Name), " "), strings.ToLower(strings.TrimSpace(w.Login))
	w.Badge = strings.ToUpper(strings.TrimSpace(w.Badge))
	if w.Sites == nil {
		w.Sites = []int32{}
	}
	w.Roles = w.Roles.Sorted()
	slices.Sort(w.Sites)
	w.Sites = slices.Compact(w.Sites)
	switch {
	case w.Name == "":
		return refusal.New(refusal.FieldMissing, "name", "Write the name as it is to stand in the trail.")
	case len(w.Roles) == 0:
		return refusal.New(refusal.FieldMissing, "roles", "Say what they work as: one or several of %s.", people.Every)
	case w.Login == "" || strings.ContainsAny(w.Login, " \t"):
		return refusal.New(refusal.FieldMissing, "login", "Write a sign-on name without spaces.")
	case len(w.Sites) > 0 && !slices.Contains(w.Sites, w.SiteID):
		return refusal.New(refusal.SiteUnknown, "site_id", "They work at a site that they may not act at. Name it among those.")
	}
	var known int
	all := append([]int32{w.SiteID}, w.Sites...)
	if err := sqlx.GetContext(ctx, q, &known, `SELECT count(*) FROM sites WHERE id = ANY($1)`, all); err != nil {
		return fmt.Errorf("reading sites: %w", err)
	}
	if slices.Sort(all); known != len(slices.Compact(all)) {
		return refusal.New(refusal.SiteUnknown, "sites", "One of these sites is none of ours.")
	}
	return within(ctx, q, by, w.Sites)
}

// within refuses a lead who may act at some sites only to have to do with somebody who may act at others.
func within(ctx context.Context, q sqlx.QueryerContext, by people.Person, sites people.Sites) error {
	if !by.Restricted() {
		return nil
	}
	if !sites.Restricted() {
		return refusal.New(refusal.SiteBarred, "sites", "You act at some sites only, and cannot let others act at all of them. Name the sites.").
			Of(refusal.Forbidden)
	}
	return by.MayActAt(ctx, q, sites...)
}

// taken words that a sign-on name or a badge is somebody else's.
func taken(err error, w Wish) error {
	var pg *pgconn.PgError
	if !errors.As(err, &pg) || pg.Code != "23505" {
		return fmt.Errorf("writing a person: %w", err)
	}
	if pg.ConstraintName == "people_badge_key" {
		return refusal.New(refusal.LoginTaken, "badge", "The badge %s is somebody else's. Take another.", w.Badge).Of(refusal.Conflict)
	}
	return refusal.New(refusal.LoginTaken, "login", "Somebody signs on as %s already, or did: a name in the trail is not given twice.", w.Login).
		Of(refusal.Conflict)
}

// Add lets somebody work here. What they sign on with is changed at its first use.
func Add(ctx context.Context, tx *command.Tx, in Newcomer) (Member, error) {
	if err := in.read(ctx, tx, tx.Person); err != nil {
		return Member{}, err
	}
	tx.Nowhere()
	hash, pin := "", (*string)(nil)
	if in.Password != "" || in.chose {
		if err := people.Password.Check("password", in.Password, in.Login); err != nil {
			return Member{}, err
		}
		hash = people.Hash(in.Password)
	}
	if in.PIN != "" {
		if in.Badge == "" {
			return Member{}, refusal.New(refusal.FieldMissing, "badge", "A PIN goes with a badge. Write what the badge says.")
		}
		if err := people.PIN.Check("pin", in.PIN, in.Login); err != nil {
			return Member{}, err
		}
		h := people.Hash(in.PIN)
		pin = &h
	}
	var id int32
	if err := tx.GetContext(ctx, &id, `
		INSERT INTO people (name, login, roles, site_id, sites, badge, password_hash, pin_hash, password_given, pin_given)
		VALUES ($1, $2, $3, $4, $5, nullif($6, ''), $7, $8::text, $9, $8::text IS NOT NULL) RETURNING id`,
		in.Name, in.Login, in.Roles.Texts(), in.SiteID, in.Sites, in.Badge, hash, pin, hash != "" && !in.chose); err != nil {
		return Member{}, taken(err, in.Wish)
	}
	return told(ctx, tx, id, people.PersonAdded, fmt.Sprintf("%s, %s", in.Login, in.Roles))
}

// told keeps what was done to somebody's access, and reads them anew.
func told(ctx context.Context, tx *command.Tx, id int32, kind people.EventKind, detail string) (Member, error) {
	if err := people.Record(ctx, tx, people.Event{Kind: kind, Person: id, By: tx.Person.ID, Detail: detail}); err != nil {
		return Member{}, err
	}
	tx.Notify("people")
	return byID(ctx, tx, id)
}

// hold keeps somebody to the transaction, and refuses a version that is not the present one, and a lead of other sites.
func hold(ctx context.Context, tx *command.Tx, id, version int32) (Member, error) {
	if _, err := tx.ExecContext(ctx, `SELECT FROM people WHERE id = $1 FOR UPDATE`, id); err != nil {
		return Member{}, fmt.Errorf("holding a person: %w", err)
	}
	m, err := byID(ctx, tx, id)
	if err != nil {
		return m, err
	}
	if version != 0 && version != m.Version {
		return m, refusal.New(refusal.Stale, "version", "%s was changed meanwhile. Look at what is there now, and change that.", m.Name).
			Of(refusal.Conflict)
	}
	tx.Nowhere()
	return m, within(ctx, tx, tx.Person, m.Sites)
}

// leads tells whether the member is a lead of all sites.
func (m Member) leads() bool { return m.Roles.Has(people.Lead) && !m.Sites.Restricted() }

// needsLead refuses to take the last lead away who may act everywhere.
func needsLead(ctx context.Context, tx *command.Tx, m Member) error {
	// One after another, so that no two leads end each other.
	if _, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock(hashtext('staff.leads'))`); err != nil {
		return fmt.Errorf("ending leads one after another: %w", err)
	}
	var others int
	if err := tx.GetContext(ctx, &others, `
		SELECT count(*) FROM people WHERE 'lead' = ANY(roles) AND ended_at IS NULL AND sites = '{}' AND password_hash <> '' AND id <> $1`,
		m.ID); err != nil {
		return fmt.Errorf("counting leads: %w", err)
	}
	if others == 0 {
		return refusal.New(refusal.LastLead, "roles", "%s is the last lead who may act at all sites and has a password. Let somebody else be one "+
			"first: otherwise nobody could give rights any more.", m.Name).Of(refusal.Conflict)
	}
	return nil
}

// Change makes somebody who they are to be. New roles or other sites end their sessions.
func Change(ctx context.Context, tx *command.Tx, id int32, in Wish) (Member, error) {
	if err := in.read(ctx, tx, tx.Person); err != nil {
		return Member{}, err
	}
	m, err := hold(ctx, tx, id, in.Version)
	if err != nil {
		return m, err
	}
	if m.leads() && (!in.Roles.Has(people.Lead) || len(in.Sites) > 0) {
		if err := needsLead(ctx, tx, m); err != nil {
			return m, err
		}
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE people SET name = $2, login = $3, roles = $4, site_id = $5, sites = $6, badge = nullif($7, ''),
		       pin_hash = CASE WHEN $7 <> '' THEN pin_hash END, pin_given = pin_given AND $7 <> '', version = version + 1 WHERE id = $1`,
		id, in.Name, in.Login, in.Roles.Texts(), in.SiteID, in.Sites, in.Badge); err != nil {
		return m, taken(err, in)
	}
	if !slices.Equal(m.Roles, in.Roles) || !slices.Equal([]int32(m.Sites), in.Sites) || m.Badge != in.Badge {
		if err := endSessions(ctx, tx, id); err != nil {
			return m, err
		}
	}
	return told(ctx, tx, id, people.PersonChanged, m.changes(in))
}

// changes says from what to what somebody was changed.
func (m Member) changes(in Wish) string {
	var out []string
	for _, c := range []struct{ what, from, to string }{{"name", m.Name, in.Name}, {"sign-on name", m.Login, in.Login},
		{"roles", m.Roles.String(), in.Roles.String()}, {"site", fmt.Sprint(m.SiteID), fmt.Sprint(in.SiteID)},
		{"may act at", fmt.Sprint([]int32(m.Sites)), fmt.Sprint(in.Sites)}, {"badge", m.Badge, in.Badge}} {
		if c.from != c.to {
			out = append(out, fmt.Sprintf("%s from %q to %q", c.what, c.from, c.to))
		}
	}
	return strings.Join(out, ", ")
}

// Give gives somebody a new password or PIN, which they change at its first use. Their sessions end.
func Give(ctx context.Context, tx *command.Tx, id int32, what people.Secret, secret string) (Member, error) {
	m, err := hold(ctx, tx, id, 0)
	if err != nil {
		return m, err
	}
	if err := what.Check("secret", secret, m.Login); err != nil {
		return m, err
	}
	if what == people.PIN && m.Badge == "" {
		return m, refusal.New(refusal.FieldMissing, "badge", "%s has no badge, and a PIN goes with one. Give a badge first.", m.Name)
	}
	if err := what.Give(ctx, tx, id, tx.Person.ID, secret); err != nil {
		return m, err
	}
	if err := endSessions(ctx, tx, id); err != nil {
		return m, err
	}
	tx.Notify("people")
	return byID(ctx, tx, id)
}

// End takes note that somebody left: they sign on no more, and their name stays in the trail.
func End(ctx context.Context, tx *command.Tx, id int32) (Member, error) {
	m, err := hold(ctx, tx, id, 0)
	if err != nil {
		return m, err
	}
	switch {
	case m.EndedAt != nil:
		return m, refusal.New(refusal.PersonOver, "", "%s left already.", m.Name).Of(refusal.Conflict)
	case id == tx.Person.ID:
		return m, refusal.New(refusal.PersonOver, "", "This is you. Have another lead do it.").Of(refusal.Conflict)
	}
	if m.leads() {
		if err := needsLead(ctx, tx, m); err != nil {
			return m, err
		}
	}
	if _, err := tx.ExecContext(ctx, `UPDATE people SET ended_at = $2, version = version + 1 WHERE id = $1`, id, tx.Now); err != nil {
		return m, fmt.Errorf("ending a person: %w", err)
	}
	if err := endSessions(ctx, tx, id); err != nil {
		return m, err
	}
	return told(ctx, tx, id, people.PersonEnded, "")
}

// Return lets somebody who left work here again, with a password or PIN that is given anew.
func Return(ctx context.Context, tx *command.Tx, id int32) (Member, error) {
	m, err := hold(ctx, tx, id, 0)
	if err != nil {
		return m, err
	}
	if m.EndedAt == nil {
		return m, refusal.New(refusal.PersonOver, "", "%s works here.", m.Name).Of(refusal.Conflict)
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE people SET ended_at = NULL, password_hash = '', pin_hash = NULL, password_given = false, pin_given = false,
		       version = version + 1 WHERE id = $1`, id); err != nil {
		return m, fmt.Errorf("letting a person return: %w", err)
	}
	return told(ctx, tx, id, people.PersonReturned, "")
}

// EndSession ends one session of somebody, or all of them for 0.
func EndSession(ctx context.Context, tx *command.Tx, person int32, session int64) ([]Session, error) {
	m, err := hold(ctx, tx, person, 0)
	if err != nil {
		return nil, err
	}
	result, err := tx.ExecContext(ctx, `DELETE FROM sessions WHERE person_id = $1 AND ($2::bigint = 0 OR id = $2)`, person, session)
	if err != nil {
		return nil, fmt.Errorf("ending sessions: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return nil, refusal.New(refusal.PersonOver, "", "%s is signed on there no more.", m.Name).Of(refusal.Conflict)
	}
	if _, err := told(ctx, tx, person, people.SessionEnded, ""); err != nil {
		return nil, err
	}
	return sessions(ctx, tx, person)
}

func endSessions(ctx context.Context, tx *command.Tx, person int32) error {
	if _, err := tx.ExecContext(ctx, `DELETE FROM sessions WHERE person_id = $1`, person); err != nil {
		return fmt.Errorf("ending sessions: %w", err)
	}
	return nil
}
