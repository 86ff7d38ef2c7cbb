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
	// May are the operations that the person may use of those that change or plan something.
	May []string `json:"may"`
}

// signedOn says who is signed on by a session.
func (s *Server) signedOn(session people.Session) SignedOn {
	return SignedOn{session.Person, session.CSRF, s.mayUse(session.Person.Role)}
}

type signOnReply struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
	Body      SignedOn
}

func (s *Server) registerSignOn(secure bool) {
	cookie := func(token string, age int) http.Cookie {
		return http.Cookie{Name: cookieName, Value: token, Path: "/", MaxAge: age, HttpOnly: true, Secure: secure,
			SameSite: http.SameSiteStrictMode}
	}
	reply := func(ctx context.Context, session people.Session, err error) (*signOnReply, error) {
		if err != nil {
			return nil, problemOf(ctx, s.Reads, err)
		}
		return &signOnReply{cookie(session.Token, 0), s.signedOn(session)}, nil
	}
	huma.Register(s.api, s.operation(http.MethodPost, "/session", "sign-on", "Sign on with a name and a password", nil),
		func(ctx context.Context, in *struct {
			Body struct {
				Login    string `json:"login" maxLength:"60"`
				Password string `json:"password" maxLength:"200"`
			}
		}) (*signOnReply, error) {
			session, err := s.people.SignOn(ctx, in.Body.Login, in.Body.Password)
			return reply(ctx, session, err)
		})
	huma.Register(s.api, s.operation(http.MethodPost, "/session/badge", "sign-on-badge",
		"Sign on with a badge and a PIN", nil),
		func(ctx context.Context, in *struct {
			Body struct {
				Badge string `json:"badge" maxLength:"40"`
				PIN   string `json:"pin" maxLength:"20"`
			}
		}) (*signOnReply, error) {
			session, err := s.people.SignOnBadge(ctx, in.Body.Badge, in.Body.PIN)
			return reply(ctx, session, err)
		})
	s.registerConfirm()
	s.registerSession(cookie)
}

// registerConfirm adds giving the password where a badge is not good enough.
func (s *Server) registerConfirm() {
	huma.Register(s.api, s.operation(http.MethodPost, "/session/password", "confirm-password",
		"Give the password, where a badge is not good enough", Everyone),
		func(ctx context.Context, in *struct {
			Session string `cookie:"lanternrow_session"`
			Body    struct {
				Password string `json:"password" maxLength:"200"`
			}
		}) (*Reply[SignedOn], error) {
			session, err := s.people.Confirm(ctx, in.Session, in.Body.Password)
			if err != nil {
				return nil, problemOf(ctx, s.Reads, err)
			}
			return &Reply[SignedOn]{s.signedOn(session)}, nil
		})
}

// registerSession adds who is signed on, and signing off.
func (s *Server) registerSession(cookie func(token string, age int) http.Cookie) {
	type carried struct {
		Session string `cookie:"lanternrow_session"`
	}
	huma.Register(s.api, s.operation(http.MethodGet, "/session", "session", "Who is signed on", nil),
		func(ctx context.Context, in *carried) (*Reply[SignedOn], error) {
			session, err := s.people.Session(ctx, in.Session)
			if err != nil {
				return nil, problemOf(ctx, s.Reads, err)
			}
			return &Reply[SignedOn]{s.signedOn(session)}, nil
		})
	op := s.operation(http.MethodPost, "/session/end", "sign-off", "Sign off", nil)
	op.DefaultStatus = http.StatusOK
	huma.Register(s.api, op, func(ctx context.Context, in *carried) (*struct {
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
		}{SetCookie: cookie("", -1)}
		out.Body.SignedOff = true
		return out, s.people.SignOff(ctx, in.Session)
	})
}
