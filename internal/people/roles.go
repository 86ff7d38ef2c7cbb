package people

import (
	"slices"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/database"
)

// A Role is what somebody works as.
type Role string

// The roles there are.
const (
	Lead     Role = "lead"
	Receiver Role = "receiver"
	Picker   Role = "picker"
	Office   Role = "office"
	// Accounts is who has to do with money: prices, invoices, what stock is worth.
	Accounts Role = "accounts"
	Viewer   Role = "viewer"
)

// Roles are some of them: those that somebody has, or those that may do something.
type Roles []Role

var (
	// Every role there is.
	Every = Roles{Lead, Receiver, Picker, Office, Accounts, Viewer}
	// Desk are those that work at a desk and see what things cost and are sold for.
	Desk = Roles{Lead, Office, Accounts}
)

// floorRoles do the floor's work, which a badge is good for.
var floorRoles = Roles{Receiver, Picker}

// Scan reads an array of PostgreSQL.
func (r *Roles) Scan(src any) error {
	texts, err := database.Texts(src)
	*r = make(Roles, len(texts))
	for i, t := range texts {
		(*r)[i] = Role(t)
	}
	return err
}

// Texts are their names.
func (r Roles) Texts() []string {
	out := make([]string, len(r))
	for i, role := range r {
		out[i] = string(role)
	}
	return out
}

// String lists them in words.
func (r Roles) String() string { return strings.Join(r.Texts(), ", ") }

// Has tells whether one of these is among them.
func (r Roles) Has(these ...Role) bool {
	return slices.ContainsFunc(these, func(role Role) bool { return slices.Contains(r, role) })
}

// Sorted are they in their order, each once; what is none is left out.
func (r Roles) Sorted() Roles {
	out := Roles{}
	for _, role := range Every {
		if slices.Contains(r, role) {
			out = append(out, role)
		}
	}
	return out
}

// May refuses a person who may not do what is kept for these roles, and asks for the
// password of somebody who signed on with a badge when it is not the floor's work.
func (p Person) May(roles Roles) error {
	switch {
	case !p.Roles.Has(roles...):
		return refusal.New(refusal.Role, "", "%s may not do this. Ask one of: %s.", p.RoleWords(), roles).Of(refusal.Forbidden)
	case p.Badge && !roles.Has(floorRoles...):
		return passwordNeeded()
	}
	return nil
}

// RoleWords are the person's own roles, as they begin a sentence to them.
func (p Person) RoleWords() string {
	if len(p.Roles) == 1 {
		return "Your role, " + p.Roles.String() + ","
	}
	return "Your roles (" + p.Roles.String() + ")"
}

// SeesMoney tells whether the person sees what things cost and are sold for. Who signed on with a badge does not, until
// the password is given.
func (p Person) SeesMoney() bool { return p.Roles.Has(Desk...) && !p.Badge }

// MayLead tells whether the person decides as a lead, and asks a lead who signed on with
// a badge for the password.
func (p Person) MayLead() (bool, error) {
	if !p.Roles.Has(Lead) {
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
