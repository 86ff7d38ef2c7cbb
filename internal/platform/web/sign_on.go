package web

import (
	"context"
	"net/http"

	"lanternrow/internal/people"

	"github.com/danielgtaylor/huma/v2"
)

// SignedOn says who is signed on.
type SignedOn struct {
	Person people.Person `json:"person"`
	// CSRF goes into the X-CSRF-Token header of every command.
	CSRF string `json:"csrf"`
	// May are the operations that the person may use of those that not everyone may, or that change or plan something.
	May []string `json:"may"`
}

// signedOn says who is signed on by a session.
func (s *Server) signedOn(session people.Session) SignedOn {
	return SignedOn{session.Person, session.CSRF, s.mayUse(session.Person)}
}

type signOnReply struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
	Body      SignedOn
}

// Carried is what a browser brings along.
type Carried struct {
	Cookie string `header:"Cookie" hidden:"true"`
}

func (s *Server) registerSignOn(cookies CookieMode) {
	// Whoever signs on anew at a device ends the session that was there.
	reply := func(ctx context.Context, old Carried, on func(context.Context) (people.Session, error)) (*signOnReply, error) {
		if err := cookies.check(ctx); err != nil {
			return nil, problemOf(ctx, s.Reads, err)
		}
		session, err := on(ctx)
		if err == nil {
			err = s.people.SignOff(ctx, tokenOf(old.Cookie))
		}
		if err != nil {
			return nil, problemOf(ctx, s.Reads, err)
		}
		return &signOnReply{cookies.cookie(ctx, session.Token, 0), s.signedOn(session)}, nil
	}
	huma.Register(s.api, s.operation(http.MethodPost, "/session", "sign-on", "Sign on with a name and a password", Anybody),
		func(ctx context.Context, in *struct {
			Carried
			Body struct {
				Login    string `json:"login" maxLength:"60"`
				Password string `json:"password" maxLength:"200"`
			}
		}) (*signOnReply, error) {
			return reply(ctx, in.Carried, func(ctx context.Context) (people.Session, error) {
				return s.people.SignOn(ctx, in.Body.Login, in.Body.Password)
			})
		})
	huma.Register(s.api, s.operation(http.MethodPost, "/session/badge", "sign-on-badge",
		"Sign on with a badge and a PIN", Anybody),
		func(ctx context.Context, in *struct {
			Carried
			Body struct {
				Badge string `json:"badge" maxLength:"40"`
				PIN   string `json:"pin" maxLength:"20"`
			}
		}) (*signOnReply, error) {
			return reply(ctx, in.Carried, func(ctx context.Context) (people.Session, error) {
				return s.people.SignOnBadge(ctx, in.Body.Badge, in.Body.PIN)
			})
		})
	s.registerConfirm()
	s.registerSession(cookies)
}

// registerConfirm adds giving the password where a badge is not good enough.
func (s *Server) registerConfirm() {
	huma.Register(s.api, s.operation(http.MethodPost, "/session/password", "confirm-password",
		"Give the password, where a badge is not good enough", Everyone),
		func(ctx context.Context, in *struct {
			Carried
			Body struct {
				Password string `json:"password" maxLength:"200"`
			}
		}) (*Reply[SignedOn], error) {
			session, err := s.people.Confirm(ctx, tokenOf(in.Cookie), in.Body.Password)
			if err != nil {
				return nil, problemOf(ctx, s.Reads, err)
			}
			return &Reply[SignedOn]{s.signedOn(session)}, nil
		})
	huma.Register(s.api, s.operation(http.MethodPost, "/session/secret", "change-secret",
		"Change one's own password or PIN; it ends one's other sessions", Everyone),
		func(ctx context.Context, in *struct {
			Carried
			Body people.NewSecret
		}) (*Reply[SignedOn], error) {
			session, err := s.people.ChangeSecret(ctx, tokenOf(in.Cookie), in.Body)
			if err != nil {
				return nil, problemOf(ctx, s.Reads, err)
			}
			return &Reply[SignedOn]{s.signedOn(session)}, nil
		})
}

// registerSession adds who is signed on, and signing off.
func (s *Server) registerSession(cookies CookieMode) {
	huma.Register(s.api, s.operation(http.MethodGet, "/session", "session", "Who is signed on", Anybody),
		func(ctx context.Context, in *Carried) (*Reply[SignedOn], error) {
			session, err := s.people.Session(ctx, tokenOf(in.Cookie))
			if err != nil {
				return nil, problemOf(ctx, s.Reads, err)
			}
			return &Reply[SignedOn]{s.signedOn(session)}, nil
		})
	op := s.operation(http.MethodPost, "/session/end", "sign-off", "Sign off", Anybody)
	op.DefaultStatus = http.StatusOK
	huma.Register(s.api, op, func(ctx context.Context, in *Carried) (*struct {
		SetCookie http.Cookie `header:"Set-Cookie"`
		Body      struct {
			SignedOff bool `json:"signed_off"`
		}
	}, error) {
		out := &struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
			Body      struct {
				SignedOff bool `json:"signed_off"`
			}
		}{SetCookie: cookies.cookie(ctx, "", -1)}
		out.Body.SignedOff = true
		return out, s.people.SignOff(ctx, tokenOf(in.Cookie))
	})
}
