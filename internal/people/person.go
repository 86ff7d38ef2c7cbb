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
	Role   string `db:"role" json:"role" enum:"lead,receiver,picker,office,viewer"`
	SiteID int32  `db:"site_id" json:"site_id"`
}

type contextKey struct{}

// With puts the person who acts into the context.
func With(ctx context.Context, p Person) context.Context {
	return context.WithValue(ctx, contextKey{}, p)
}

// Acting is the person who acts, or a refusal when nobody is signed on.
func Acting(ctx context.Context) (Person, error) {
	if p, ok := ctx.Value(contextKey{}).(Person); ok {
		return p, nil
	}
	return Person{}, refusal.New("signed_out", "", "Nobody is signed on here. Sign on and try again; what you typed is still there.").Of(refusal.SignedOut)
}
