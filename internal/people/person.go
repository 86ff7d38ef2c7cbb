// Package people knows who is signed on and what each role may do.
package people

import (
	"context"
	"slices"

	"lanternrow/internal/core/refusal"
)

// A Role is what somebody works as.
type Role string

// The roles there are.
const (
	Lead     Role = "lead"
	Receiver Role = "receiver"
	Picker   Role = "picker"
	Office   Role = "office"
	Viewer   Role = "viewer"
)

// Roles are all of them.
var Roles = []Role{Lead, Receiver, Picker, Office, Viewer}

// A Person is somebody who works here.
type Person struct {
	ID     int32  `db:"id" json:"id"`
	Name   string `db:"name" json:"name"`
	Login  string `db:"login" json:"login"`
	Role   Role   `db:"role" json:"role" enum:"lead,receiver,picker,office,viewer"`
	SiteID int32  `db:"site_id" json:"site_id"`
	// Sites are those that the person may act at; all where none is named.
	Sites Sites `db:"sites" json:"sites" nullable:"false"`
	// MustChange is what somebody else gave and has to be changed before anything else is done.
	MustChange Secret `db:"-" json:"must_change" enum:",password,pin"`
	// Badge is true for who signed on with a badge and a PIN and has not given the
	// password since: good for the floor's work, and for nothing else.
	Badge bool `db:"badge" json:"badge"`
}

// floorRoles do the floor's work, which a badge is good for.
var floorRoles = []Role{Receiver, Picker}

// May refuses a person who may not do what is kept for these roles, and asks for the
// password of somebody who signed on with a badge when it is not the floor's work.
func (p Person) May(roles []Role) error {
	switch {
	case !slices.Contains(roles, p.Role):
		return refusal.New(refusal.Role, "", "Your role, %s, may not do this. Ask one of: %s.", p.Role,
			Names(roles)).Of(refusal.Forbidden)
	case p.Badge && !slices.ContainsFunc(roles, func(r Role) bool { return slices.Contains(floorRoles, r) }):
		return passwordNeeded()
	}
	return nil
}

// MayLead tells whether the person decides as a lead, and asks a lead who signed on with
// a badge for the password.
func (p Person) MayLead() (bool, error) {
	if p.Role != Lead {
		return false, nil
	}
	if p.Badge {
		return false, passwordNeeded()
	}
	return true, nil
}

func passwordNeeded() error {
	return refusal.New(refusal.PasswordNeeded, "",
		"You signed on with a badge, which is good for work on the floor. Give your password to do this.").Of(refusal.Forbidden)
}

// Names lists roles in words.
func Names(roles []Role) string {
	out := ""
	for i, r := range roles {
		if i > 0 {
			out += ", "
		}
		out += string(r)
	}
	return out
}

type (
	contextKey struct{}
	originKey  struct{}
)

// An Origin is where a request comes from: an address and a device, as they say themselves.
type Origin struct{ Address, Device string }

// From puts where a request comes from into the context.
func From(ctx context.Context, o Origin) context.Context {
	return context.WithValue(ctx, originKey{}, o)
}

// OriginOf is where a request comes from; nothing where nothing says so.
func OriginOf(ctx context.Context) Origin {
	o, _ := ctx.Value(originKey{}).(Origin)
	return o
}

// With puts the person who acts into the context.
func With(ctx context.Context, p Person) context.Context {
	return context.WithValue(ctx, contextKey{}, p)
}

// Acting is the person who acts, or a refusal when nobody is signed on.
func Acting(ctx context.Context) (Person, error) {
	if p, ok := ctx.Value(contextKey{}).(Person); ok {
		return p, nil
	}
	return Person{}, refusal.New(refusal.NotSignedOn, "",
		"Nobody is signed on here. Sign on and try again; what you typed is still there.").Of(refusal.SignedOut)
}
