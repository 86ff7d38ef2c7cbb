// Package people knows who is signed on and what each role may do.
package people

import (
	"context"

	"lanternrow/internal/core/refusal"
)

// A Person is somebody who works here.
type Person struct {
	ID     int32  `db:"id" json:"id"`
	Name   string `db:"name" json:"name"`
	Login  string `db:"login" json:"login"`
	Roles  Roles  `db:"roles" json:"roles" nullable:"false" enum:"lead,receiver,picker,office,accounts,viewer"`
	SiteID int32  `db:"site_id" json:"site_id"`
	// Sites are those that the person may act at; all where none is named.
	Sites Sites `db:"sites" json:"sites" nullable:"false"`
	// MustChange is what somebody else gave and has to be changed before anything else is done.
	MustChange Secret `db:"-" json:"must_change" enum:",password,pin"`
	// Badge is true for who signed on with a badge and a PIN and has not given the
	// password since: good for the floor's work, and for nothing else.
	Badge bool `db:"badge" json:"badge"`
}

type (
	contextKey struct{}
	originKey  struct{}
)

// An Origin is where a request comes from: an address and a device, as they say themselves.
type Origin struct {
	Address, Device string
	// Request is the short name of the request, for whoever reads it out.
	Request string
}

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
